"""A file is questioned as a trial in the application is: what is doubtful is said, what can't be is refused with its place."""

from __future__ import annotations

from pathlib import Path

import pytest

from orderly_bench.cli.main import main


def codes(found: dict) -> set[str]:
    return {c["code"] for c in found["cautions"]}


def rows(*cells: tuple[str, int, int]) -> list[str]:
    return [f"{start},{int(i < k)}" for start, k, n in cells for i in range(n)]


def numbered(lines: list[str], first: int = 1) -> list[str]:
    return [f"{i},{line}" for i, line in enumerate(lines, first)]


CLEAR = rows(("bark", 18, 20), ("sand", 4, 20))


def test_a_cutting_that_stands_twice_is_suggested_at_most(ask) -> None:
    once = ask("cutting,medium,rooted", numbered(CLEAR), "--factors", "medium")
    twice = ask("cutting,medium,rooted", ["1,bark,1", *numbered(CLEAR)], "--factors", "medium")
    assert once["strength"] == "shown" and "repeated_id" not in codes(once)
    assert twice["strength"] == "suggested" and "repeated_id" in codes(twice)


def test_numbers_that_begin_anew_in_every_arm_are_no_repetition_and_in_every_block_of_it_asked_about(ask) -> None:
    anew = [f"{i % 20 + 1},{i % 4},{line}" for i, line in enumerate(CLEAR)]
    found = ask("cutting,bench,medium,rooted", anew, "--factors", "medium")
    assert found["strength"] == "shown" and not {"repeated_id", "numbered_anew"} & codes(found)
    plots = [f"{i % 5 + 1},{i // 5 % 4},{line}" for i, line in enumerate(CLEAR)]
    flags = ("--factors", "medium", "--block", "bench")
    found = ask("cutting,bench,medium,rooted", plots, *flags)
    assert found["strength"] == "shown" and "repeated_id" not in codes(found)
    told = next(c["text"] for c in found["cautions"] if c["code"] == "numbered_anew")
    assert "--unit medium,bench" in told
    whole = ask("cutting,bench,medium,rooted", plots, *flags, "--unit", "medium,bench")
    assert whole["n_units"] == 8 and not {"repeated_id", "numbered_anew"} & codes(whole)
    slip = ask("cutting,medium,rooted", [*numbered(CLEAR[:20]), *numbered(CLEAR[20:], 20)], "--factors", "medium")
    assert "repeated_id" in codes(slip), "20 stands in both"


def test_numbers_that_begin_anew_in_every_pot_are_no_repetition(ask) -> None:
    lines = [f"{i},p{u},{arm},{int(i < 2)}" for u, arm in enumerate(["bark", "sand"] * 4) for i in range(4)]
    assert "repeated_id" not in codes(ask("cutting,pot,medium,rooted", lines, "--factors", "medium", "--unit", "pot"))


def test_a_pot_that_nothing_uses_is_asked_about_above_all_where_its_cuttings_never_differ(ask) -> None:
    alike = [
        f"p{u},{arm},{int(u % 4 < (3 if arm == 'bark' else 1))}"
        for u, arm in enumerate(["bark", "sand"] * 8)
        for _ in range(3)
    ]
    found = ask("pot,medium,rooted", alike, "--factors", "medium")
    assert "unused_grouping" in codes(found) and found["strength"] != "shown"
    mixed = [f"p{i // 4},{line}" for i, line in enumerate(CLEAR)]
    plain = ask("pot,medium,rooted", mixed, "--factors", "medium")
    assert "unused_grouping" in codes(plain) and plain["strength"] == "shown"
    assert "unused_grouping" not in codes(ask("pot,medium,rooted", mixed, "--factors", "medium", "--unit", "pot"))
    assert "unused_grouping" in codes(ask("Mother plant,medium,rooted", mixed, "--factors", "medium"))
    blocks = [f"b{i % 5},t{i % 5 // 2},u{i % 3},{line}" for i, line in enumerate(CLEAR)]
    asked = [
        c["column"] if "column" in c else c["text"].split()[0]
        for c in ask("block,tray,pot,medium,rooted", blocks, "--factors", "medium", "--block", "block")["cautions"]
        if c["code"] == "unused_grouping"
    ]
    assert asked == ["Pot"], "a tray that holds whole blocks is none"


@pytest.mark.parametrize(("state", "outcome"), [("missing", "0"), ("missing", "1"), ("dead", "1"), ("not stuck", "0")])
def test_a_state_that_rules_out_its_outcome_makes_it_unknown(ask, state: str, outcome: str) -> None:
    lines = [f"{line}," for line in CLEAR]
    found = ask("medium,rooted,state", [*lines, f"bark,{outcome},{state}"], "--factors", "medium")
    assert "state_against_rooted" in codes(found) and found["strength"] != "shown"


@pytest.mark.parametrize(("state", "questioned"), [("dead", False), ("missing", False), ("not stuck", True)])
def test_days_to_root_look_back_so_one_that_is_dead_at_the_end_may_have_rooted(
    ask, state: str, questioned: bool
) -> None:
    lines = [f"{'bark' if i % 2 else 'sand'},14,28,rooted," for i in range(12)]
    flags = ("--response", "days_to_root", "--factors", "medium")
    found = ask("medium,last_without_day,first_with_day,outcome,state", [*lines, f"bark,14,28,rooted,{state}"], *flags)
    assert ("state_against_rooted" in codes(found)) is questioned
    assert sum(arm["n"] for arm in found["arms"]) == 13 - questioned


def test_roots_on_a_cutting_that_did_not_root_make_it_unknown(ask) -> None:
    lines = [f"{line},{4 * int(line[-1])}" for line in CLEAR]
    found = ask("medium,rooted,root_count", [*lines, "bark,0,3"], "--factors", "medium")
    assert "state_against_rooted" in codes(found)


@pytest.mark.parametrize(
    ("header", "lines", "flags", "says"),
    [
        ("medium,rooted,state", ["bark,1,frozen", "sand,0,"], ["--factors", "medium"], r"'frozen' is no state"),
        ("medium,rooted", ["bark,1", "sand,0"], ["--factors", "medium,rooted"], "so it is no factor"),
        (
            "medium,heat,rooted",
            ["bark,on,1", "sand,on,0"],
            ["--factors", "medium,heat"],
            "heat has one level only (on)",
        ),
        ("medium,rooted", ["1,5,1", "x"], ["--factors", "medium"], "cells where the header has"),
        ("dose;rooted", ["0,5;1", "0.5;0"], ["--factors", "dose"], "differ only in how they are written"),
    ],
)
def test_what_can_not_be_is_refused_with_its_place(
    ask, header: str, lines: list[str], flags: list[str], says: str
) -> None:
    assert says.strip("r") in ask(header, lines, *flags)


@pytest.mark.parametrize(
    ("factor", "levels"),
    [
        ("week", ("12", "20")),
        ("stuck", ("2026-03-01", "2026-06-01")),
        ("when", ("late May", "July")),
        ("time", ("a", "b")),
    ],
)
def test_a_time_has_no_p_without_waves(ask, factor: str, levels: tuple[str, str]) -> None:
    lines = rows((levels[0], 18, 20), (levels[1], 4, 20))
    found = ask(f"{factor},rooted", lines, "--factors", factor)
    assert found["comparisons"][0]["p"] is None and "season_not_waves" in codes(found)
    waved = [f"w{levels.index(line.split(',')[0])}{i % 4},{line}" for i, line in enumerate(lines)]
    assert ask(f"wave,{factor},rooted", waved, "--factors", factor, "--wave", "wave")["comparisons"][0]["p"] is not None


def test_what_has_a_root_did_root_where_no_column_says_so(ask) -> None:
    numbers = {"sand": ["0", "2", "", "0"], "bark": ["4", "1", "3", "0"]}
    lines = [f"{medium},{n}" for medium, each in numbers.items() for n in each]
    found = ask("medium,No. of roots", lines, "--factors", "medium")
    assert {arm["arm"]: (arm["k"], arm["n"], arm["left_out"]) for arm in found["arms"]} == {
        "sand": (1, 3, 1),
        "bark": (3, 4, 0),
    }
    assert "rooted_by_number" in codes(found)
    said = ask("medium,roots,rooted", [f"{line},{int(line[-1] not in ',01')}" for line in lines], "--factors", "medium")
    assert "rooted_by_number" not in codes(said) and {arm["k"] for arm in said["arms"]} == {1, 2}
    assert "column roots: 'few'" in ask("medium,roots", ["sand,few", "bark,2"], "--factors", "medium")


def test_a_strength_that_looks_like_a_year_is_none(ask) -> None:
    found = ask("hormone,rooted", rows(("1000", 18, 20), ("2000", 4, 20)), "--factors", "hormone")
    assert found["comparisons"][0]["p"] is not None


def test_the_lone_partner_of_a_pair_is_set_aside(ask) -> None:
    lines = [f"s{s},{arm},{int(arm == 'bark' or s < 2)}" for s in range(12) for arm in ("bark", "sand")]
    found = ask("stem,medium,rooted", [*lines, "s99,bark,1"], "--factors", "medium", "--pair", "stem")
    assert "lone_partner" in codes(found) and found["n_cuttings"] == 24


def test_a_decimal_comma_is_a_point_in_flags_too(ask) -> None:
    point, comma = (ask("medium,rooted", CLEAR, "--factors", "medium", "--margin", m) for m in ("0.15", "0,15"))
    assert point == comma


def test_starts_that_do_not_overlap_offer_no_adjusted_comparison(ask) -> None:
    lines = [f"{line},{10 + i % 5 if line.startswith('bark') else 30 + i % 5}" for i, line in enumerate(CLEAR)]
    found = ask("medium,rooted,length_mm", lines, "--factors", "medium", "--start", "length_mm")
    same = found["comparisons"][0]["same_start"]
    assert same["estimate"] is None and same["p"] is None and same["changes"] and found["strength"] == "suggested"


class TestRate:
    def test_it_goes_by_effective_counts_and_shows_the_range_over_the_unknown(self, ask) -> None:
        lines = [f"p{u},{int(i < k)}" for u, k in enumerate((4, 0, 4, 1, 4, 0, 3, 0)) for i in range(4)]
        by_pots = ask("pot,rooted", lines, "--rate", "--want", "40", "--unit", "pot")
        singly = ask("pot,rooted", lines, "--rate", "--want", "40")
        assert by_pots["stick"] > singly["stick"]
        unknown = ask("pot,rooted", [*lines, "p9,", "p9,", "p9,1"], "--rate", "--want", "40")
        assert unknown["stick_range"]["fewest"] < unknown["stick"] < unknown["stick_range"]["most"]
        assert "one_batch" in codes(unknown)

    def test_one_unit_and_none_rooted_tell_nothing(self, ask) -> None:
        one = ask("jar,rooted", [f"j,{int(i < 9)}" for i in range(20)], "--rate", "--want", "40", "--unit", "jar")
        none = ask("rooted", ["0"] * 20, "--rate", "--want", "40")
        assert one["stick"] is None and none["stick"] is None


def test_the_headline_speaks_of_what_was_asked_for(ask) -> None:
    lines = rows(("bark,none", 12, 20), ("bark,IBA", 19, 20), ("sand,none", 2, 20), ("sand,IBA", 9, 20))
    argv = ("--factors", "medium,hormone", "--headline")
    factors, pairs = (ask("medium,hormone,rooted", lines, *argv, which) for which in ("factors", "pairs"))
    assert (
        factors["headline"].startswith("Bark rooted more than sand") and "Bark + IBA rooted more" in pairs["headline"]
    )


def test_a_block_that_lost_an_arm_in_one_of_several_waves_is_no_incomplete_block(ask) -> None:
    lines = [f"b{b},{arm},{int((b + a) % 3 > 0)}" for b in range(6) for a, arm in enumerate(("bark", "sand", "grit"))]
    flags = ("--factors", "medium", "--block", "block")
    lines.remove("b0,bark,0")
    assert ask("block,medium,rooted", lines, *flags)["design"] == "incomplete blocks"
    in_waves = ask("block,medium,rooted", lines, *flags, "--blocks-in-waves")
    assert in_waves["design"] == "randomised complete blocks" and in_waves["n_cuttings"] == 17
    assert "goes with --block" in ask("medium,rooted", CLEAR, "--factors", "medium", "--blocks-in-waves")


def test_a_main_effect_whose_unknown_could_turn_it_says_why_it_can_not_be_told(ask) -> None:
    """The reason is its own, not that of a pair, nor that nothing is settled beside a verdict that is clear."""
    cells = [("bark", "none", 6), ("bark", "IBA", 8), ("grit", "none", 13), ("grit", "IBA", 15)]
    lines = [f"{m},{h},{int(i < k)}," for m, h, k in cells for i in range(20)]
    lines += [f"{m},{h},,missing" for m in ("bark", "grit") for h in ("none", "IBA") for _ in range(4)]
    found = ask("medium,hormone,rooted,state", lines, "--factors", "medium,hormone")
    term = next(t for t in found["terms"] if t["term"] == "medium")
    assert term["verdict"].startswith("clear") and term["strength_reasons"] == ["range_changes_verdict"]
    told = [c["text"] for c in found["cautions"] if c["code"] == "range_changes_verdict"]
    assert len(told) == 1 and told[0].startswith("Bark against grit: with the 16 unknown outcomes")


def test_a_combination_that_was_not_stuck_says_why_arms_lead(ask) -> None:
    lines = [f"{m},{h},{n % 2}" for m, h in (("sand", "none"), ("sand", "talc"), ("bark", "none")) for n in range(12)]
    asked = ("--factors", "medium,hormone")
    said = {c["code"]: c["text"] for c in ask("medium,hormone,rooted", lines, *asked)["cautions"]}
    assert said["pairs_lead"].startswith("1 combination of the factors' levels was not stuck")
    assert "pairs_lead" not in str(ask("medium,hormone,rooted", lines, *asked, "--headline", "pairs"))
    whole = [*lines, *[f"bark,talc,{n % 2}" for n in range(12)]]
    assert "pairs_lead" not in str(ask("medium,hormone,rooted", whole, *asked))


def test_a_lone_day_of_roots_is_answered_with_what_days_need(ask) -> None:
    found = ask("cover,days_to_root", ["mist,20", "tent,31"], "--factors", "cover", "--response", "days_to_root")
    assert "days to root need a column last_without_day, first_with_day and outcome" in found
    assert "the last day without roots" in found


def test_a_number_of_all_has_that_of_the_rooted_beside_it(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    file = tmp_path / "t.csv"
    rows = [f"sand,{int(n > 2)},{n if n > 2 else ''}" for n in range(12)] + [f"bark,1,{5 + n}" for n in range(12)]
    file.write_text("\n".join(["medium,rooted,longest_root_mm", *rows]) + "\n")
    assert main(["analyse", str(file), "--factors", "medium", "--response", "longest_root_mm"]) == 0
    said = capsys.readouterr().out.splitlines()
    bark, sand = (next(line for line in said if line.startswith(f"  {name} ")) for name in ("bark", "sand"))
    assert "n 12; 9 of 12 (75 %) rooted, 7 among these" in sand and "among these" not in bark


def test_grades_are_found_with_their_scale_and_no_model_is_spoken_of_where_there_is_none(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    rows = "\n".join(
        f"{name},{grade + i % 2}" for name, grade in (("none", 1), ("0.3 %", 2), ("0.8 %", 3)) for i in range(8)
    )
    file = tmp_path / "grades.csv"
    file.write_text(f"Hormone,Root quality (0-5)\n{rows}\n")
    flags = ["--response", "quality", "--factors", "Hormone", "--dose", "Hormone", "--margin", "0.15"]
    assert main(["analyse", str(file), *flags]) == 0
    printed = capsys.readouterr().out
    assert "Quality of the roots rises with the strength of Hormone" in printed and "slope" not in printed


def test_the_curve_over_strengths_is_in_json_for_numbers_too(ask) -> None:
    """A hump of root numbers bends, follows the quadratic and turns, its best strength in the middle; a steady rise does none of it."""
    flags = ["--response", "root_count", "--factors", "hormone", "--dose", "hormone", "--margin", "1.25"]
    strengths = ("none", "IBA 1000 ppm", "IBA 2000 ppm", "IBA 4000 ppm", "IBA 8000 ppm")

    def curve_of(*means: int) -> dict:
        lines = [f"{name},1,{mean + i % 5}" for name, mean in zip(strengths, means, strict=True) for i in range(10)]
        found: dict = ask("hormone,rooted,roots", lines, *flags)["trend"]["hormone"]["curve"]
        return found

    hump, rise = curve_of(1, 8, 9, 8, 3), curve_of(1, 4, 5, 7, 10)
    assert hump["bend_p"] < 0.001 and hump["misfit_p"] > 0.05 and hump["turns"] is True
    assert 1000 < hump["best_low"] < hump["best"] < hump["best_high"] < 4000
    assert rise["bend_p"] > 0.05 and rise["turns"] is False and rise["best"] is None
