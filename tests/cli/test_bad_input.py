"""Every odd file of the bench: the right answer, or a message with file, row, column and remedy; never a traceback or NaN."""

from __future__ import annotations

import json
import math
from pathlib import Path

import pytest

from orderly_bench.cli.main import main


def analyse(tmp_path: Path, capsys: pytest.CaptureFixture[str], text: str, *flags: str) -> tuple[int, str, str]:
    file = tmp_path / "trial.csv"
    file.write_text(text, encoding="utf-8")
    status = main(["analyse", str(file), "--factors", "medium", "--json", *flags])
    captured = capsys.readouterr()
    return status, captured.out, captured.err


def answer(tmp_path: Path, capsys: pytest.CaptureFixture[str], text: str, *flags: str) -> dict:
    status, out, err = analyse(tmp_path, capsys, text, *flags)
    assert status == 0, err
    assert "NaN" not in out and "Infinity" not in out
    found: dict = json.loads(out, parse_constant=lambda name: pytest.fail(f"{name} in the answer"))
    assert all(math.isfinite(x) for x in _numbers(found))
    return found


def _numbers(value: object) -> list[float]:
    if isinstance(value, dict):
        return [x for inner in value.values() for x in _numbers(inner)]
    if isinstance(value, list):
        return [x for inner in value for x in _numbers(inner)]
    return [float(value)] if isinstance(value, (int, float)) else []


def codes(found: dict) -> set[str]:
    return {caution["code"] for caution in found["cautions"]}


def two_arms(a: str, b: str, header: str = "medium,rooted") -> str:
    return f"{header}\n" + "".join(f"bark,{x}\n" for x in a) + "".join(f"sand,{x}\n" for x in b)


@pytest.mark.parametrize(("outcome", "said"), [("1", "All rooted"), ("0", "None rooted")])
def test_all_or_none_rooted_says_that_nothing_varies(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], outcome: str, said: str
) -> None:
    found = answer(tmp_path, capsys, two_arms(outcome * 12, outcome * 12), "--margin", "0.4")
    assert found["overall"]["p"] == 1 and found["comparisons"][0]["verdict"] == "practically the same"
    assert any(c["code"] == "nothing_varies" and said in c["text"] for c in found["cautions"])
    assert found["comparisons"][0]["ci_low"] < 0 < found["comparisons"][0]["ci_high"]


def test_an_arm_without_a_known_outcome_leaves_the_counts_of_the_other(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    found = answer(tmp_path, capsys, two_arms("1011", ["", ""]))
    assert found["comparisons"] == [] and found["overall"]["p"] is None and found["letters"] is None
    assert [(arm["k"], arm["n"], arm["left_out"]) for arm in found["arms"]] == [(3, 4, 0), (0, 0, 2)]
    assert (found["strength"], found["strength_reasons"]) == ("cannot tell", ["nothing_known"])


def test_nothing_known_at_all_is_refused_by_name(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    status, out, err = analyse(tmp_path, capsys, two_arms(["", ""], ["", ""]))
    assert status == 2 and out == "" and "trial.csv" in err
    assert "has no cutting with a known outcome" in err and "Score it" in err


def test_one_block_is_as_good_as_none(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    lines = two_arms("110111", "000010")
    in_block = "\n".join(f"{line},{'block' if i == 0 else 'b1'}" for i, line in enumerate(lines.splitlines())) + "\n"
    plain, blocked = answer(tmp_path, capsys, lines), answer(tmp_path, capsys, in_block, "--block", "block")
    assert blocked["overall"]["p"] == pytest.approx(plain["overall"]["p"])
    assert blocked["n_blocks"] == 1 and plain["n_blocks"] is None


def test_a_block_that_lacks_an_arm_is_named(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    text = "medium,tray,rooted\nbark,1,1\nsand,1,0\ngrit,1,0\nbark,2,1\nsand,2,0\ngrit,2,1\nbark,3,0\ngrit,3,1\n"
    found = answer(tmp_path, capsys, text, "--block", "tray")
    assert any(c["code"] == "block_lacks_arm" and "3 lacks sand" in c["text"] for c in found["cautions"])
    assert found["design"] == "incomplete blocks"


@pytest.mark.parametrize(
    ("text", "flags", "message"),
    [
        ("medium,pot,rooted\nbark,p1,1\nsand,p1,0\n", ["--unit", "pot"], "row 3: unit p1 stands in two arms"),
        (
            "medium,pot,tray,rooted\nbark,p1,1,1\nbark,p1,2,0\nsand,p2,1,0\n",
            ["--unit", "pot", "--block", "tray"],
            "row 3: unit p1 stands in two blocks",
        ),
        (
            "heat,hormone,bench,rooted\n" + "".join(f"{h},{i},{b},1\n" for h in "wc" for i in "xy" for b in "12"),
            ["--factors", "heat,hormone", "--block", "bench", "--whole-plot", "heat"],
            "row 3: whole plot w stands in two blocks. Give each its own name, and one place; where names begin anew, name both columns",
        ),
        ("medium,rooted\nbark,1\nsand,0\n", ["--unit", "medium,tray"], "there is no column 'tray'"),
        ("medium,stem,rooted\nbark,s1,1\nsand,s1,0\nsand,s1,1\n", ["--pair", "stem"], "pair s1 has 3 cuttings"),
        ("medium,stem,rooted\nbark,s1,1\nsand,s2,0\n", ["--pair", "stem"], "pair s1 has 1 cuttings"),
        ("medium,rooted\nbark,inf\nsand,1\n", [], "row 2, column rooted: 'inf' is not"),
        ("medium,rooted\nbark,0.5\nsand,1\n", [], "row 2, column rooted: '0.5' is not"),
        ("medium,rooted\nbark,-1\nsand,1\n", [], "row 2, column rooted: '-1' is not"),
        ("medium,rooted\nbark,1\nsand,0\n", ["--block", "tray"], "there is no column 'tray'"),
        ("medium,tray,rooted\nbark,1,1\nsand,,0\n", ["--block", "tray"], "row 3, column tray: the block is blank"),
        ("medium,rooted\nbark,1\nsand,0\n", ["--margin", "15"], "must lie above 0 and below 1"),
        ("medium,rooted\nbark,1\nsand,0\n", ["--alpha", "0"], "must lie above 0 and below 0.5"),
        ("medium,rooted\nbark,1\nsand,0\n", ["--draws", "0"], "must lie between 1 and 2000000"),
        ("medium,rooted\nbark,1\nsand,0\n", ["--row", "medium"], "give both"),
        ("medium,rooted\nbark,1\nsand,0\n", ["--family", "control"], "name the control arm"),
        ("medium,rooted\nbark,1\nsand,0\n", ["--pair", "medium", "--block", "medium"], "give one of the two"),
    ],
)
def test_what_makes_no_sense_is_refused_with_its_place(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], text: str, flags: list[str], message: str
) -> None:
    status, out, err = analyse(tmp_path, capsys, text, *flags)
    assert (status, out) == (2, "") and message in err and "Traceback" not in err


def test_levels_that_are_numbers_stay_names_in_their_order(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    text = "medium,rooted\n" + "".join(f"{ppm},{i % 2}\n" for ppm in ("1000", "300", "3000") for i in range(4))
    found = answer(tmp_path, capsys, text)
    assert [arm["arm"] for arm in found["arms"]] == ["300", "1000", "3000"]
    assert found["arms"][0]["levels"] == {"medium": "300"}


def test_columns_nobody_asked_for_do_no_harm(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    plain = two_arms("1101", "0010")
    more = "\n".join(f"{line},{'weather' if i == 0 else 'NaN, wet'!r}" for i, line in enumerate(plain.splitlines()))
    assert answer(tmp_path, capsys, more.replace("'NaN, wet'", '"NaN, wet"')) == answer(tmp_path, capsys, plain)


@pytest.mark.parametrize("cell", ["12,5", "12.5"])
def test_decimal_commas_in_semicolon_files(tmp_path: Path, capsys: pytest.CaptureFixture[str], cell: str) -> None:
    text = f"medium;longest_root_mm\nbark;{cell}\nbark;0\nsand;3\nsand;0\n"
    found = answer(tmp_path, capsys, text, "--response", "longest_root_mm")
    assert found["arms"][0]["estimate"] == pytest.approx(6.25)


def test_one_cutting_an_arm_gives_counts_and_no_false_certainty(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    found = answer(tmp_path, capsys, two_arms("1", "0"), "--margin", "0.15")
    assert found["overall"]["p"] is None and found["comparisons"][0]["verdict"] == "not settled"
    assert "one_unit" in codes(found) and found["strength"] == "cannot tell"


def test_a_single_cutting_beside_many_has_no_p(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    found = answer(tmp_path, capsys, two_arms("1", "0" * 60), "--margin", "0.15")
    assert found["overall"]["p"] is None and found["comparisons"][0]["p"] is None
    assert "one_unit" in codes(found)
    assert "one_unit" not in codes(answer(tmp_path, capsys, two_arms("11", "0" * 60), "--margin", "0.15"))


def test_roots_on_what_is_missing_dead_or_was_never_stuck_are_questioned(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    rows = "".join(f"{m},{x},alive\n" for m, cells in (("bark", "11110000"), ("sand", "11000000")) for x in cells)
    text = "medium,rooted,state\n" + rows + "bark,1,missing\nbark,1,dead\nsand,1,not stuck\nsand,0,dead\n"
    found = answer(tmp_path, capsys, text)
    assert [(a["n"], a["k"], a["left_out"]) for a in found["arms"]] == [(8, 4, 2), (9, 2, 0)]
    said = next(c["text"] for c in found["cautions"] if c["code"] == "state_against_rooted")
    assert said.startswith("3 cuttings have") and "lines 18, 19, 20" in said and "rooted and missing" in said
    assert "state_against_rooted" not in codes(answer(tmp_path, capsys, "medium,rooted,state\n" + rows))


@pytest.mark.parametrize(("one", "other"), [("bark", "Bark"), ("bark fines", "bark  fines")])
def test_levels_that_differ_in_how_they_are_written_are_asked_about(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], one: str, other: str
) -> None:
    status, _, err = analyse(tmp_path, capsys, f"medium,rooted\n{one},1\n{one},0\n{other},0\n{other},1\n")
    assert status == 2 and "differ only in how they are written" in err and "Are they one level?" in err


class TestSeason:
    ROWS = "".join(
        f"{season},{medium},{x},{season}{i % 2}\n"
        for season, rates in (("spring", ("11111110", "11110000")), ("autumn", ("11100000", "10000000")))
        for medium, cells in zip(("bark", "sand"), rates, strict=True)
        for i, x in enumerate(cells)
    )
    TEXT = "season,medium,rooted,wave\n" + ROWS

    def test_without_waves_it_has_no_p_and_no_verdict(self, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
        found = answer(tmp_path, capsys, self.TEXT, "--factors", "season,medium", "--margin", "0.15")
        season, medium, both = found["terms"]
        assert season["p"] is None and season["verdict"] is None and season["model"]["p"] is None and both["p"] is None
        assert found["overall"]["p"] is None and medium["p"] is not None
        told = {(c["a"], c["b"]): c["p"] is not None for c in found["comparisons"]}
        assert told == {pair: pair[0].split(" + ")[0] == pair[1].split(" + ")[0] for pair in told}
        assert "season_not_waves" in codes(found) and found["strength"] != "shown"

    def test_with_waves_they_are_permuted(self, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
        found = answer(tmp_path, capsys, self.TEXT, "--factors", "season,medium", "--wave", "wave", "--margin", "0.15")
        assert found["terms"][0]["p"] == pytest.approx(1 / 3) and "season_not_waves" not in codes(found)


def test_the_sentence_is_in_the_answer_with_its_strength(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    found = answer(tmp_path, capsys, two_arms("1" * 20 + "0" * 4, "1" * 3 + "0" * 21), "--margin", "0.15")
    assert found["headline"] == "Bark rooted more than sand: 20 of 24 (83 %) against 3 of 24 (12 %)."
    assert (found["strength"], found["strength_reasons"]) == ("shown", [])
    lost = "medium,rooted\n" + "bark,1\n" * 20 + "bark,0\n" * 4 + "sand,1\n" * 3 + "sand,0\n" * 17 + "sand,\n" * 4
    still = answer(tmp_path, capsys, lost, "--margin", "0.15")
    assert still["strength"] == "shown" and "3 of 20 (15 %; 4 unknown)" in still["headline"]
    more = lost + "sand,\n" * 20
    weaker = answer(tmp_path, capsys, more, "--margin", "0.15")
    assert (weaker["strength"], weaker["strength_reasons"]) == ("cannot tell", ["range_changes_verdict"])
    assert weaker["headline"].startswith(
        "Cannot tell bark from sand: 20 of 24 (83 %) against 3 of 20 (15 %; 24 unknown)"
    )


@pytest.mark.parametrize(
    ("response", "cells"),
    [
        ("root_count", ("0", "0", "0", "0")),
        ("root_count", ("5", "5", "5", "5")),
        ("longest_root_mm", ("0", "0", "0", "0")),
        ("quality", ("3", "3", "3", "3")),
        ("quality", ("0", "0", "5", "5")),
        ("root_class", ("none", "none", "10+", "10+")),
    ],
)
def test_flat_and_split_responses_have_answers_without_nan(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], response: str, cells: tuple[str, ...]
) -> None:
    text = f"medium,{response}\n" + "".join(
        f"{m},{c}\n" for m, c in zip(("bark", "bark", "sand", "sand"), cells, strict=True)
    )
    found = answer(tmp_path, capsys, text, "--response", response)
    assert found["overall"]["p"] is not None and found["comparisons"][0]["verdict"] == "not settled"


def test_a_hundred_thousand_rows_are_no_trouble(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    text = "medium,tray,rooted\n" + "".join(f"{'abc'[i % 3]},{i // 3 % 10},{int(i % 7 < 3)}\n" for i in range(100_000))
    found = answer(tmp_path, capsys, text, "--block", "tray", "--draws", "2000")
    assert found["n_cuttings"] == 100_000 and found["overall"]["model"]["name"] == "logistic, an intercept per block"


def test_explain_shows_what_each_number_came_from(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    file = tmp_path / "trial.csv"
    file.write_text(two_arms("11110111", "00010010"))
    assert main(["analyse", str(file), "--factors", "medium", "--margin", "0.15", "--explain"]) == 0
    text = capsys.readouterr().out
    assert "7 / 8 = 0.875" in text and "(7 + z²/2 ± z √(7 x 1 / 8 + z²/4)) / (8 + z²)" in text
    assert "Holm over 1" in text and "share of all assignments" in text
    found = answer(tmp_path, capsys, two_arms("11110111", "00010010"), "--explain")
    assert [w["of"] for w in found["working"]] == ["all arms alike?", "bark", "sand", "bark \u2212 sand"]
