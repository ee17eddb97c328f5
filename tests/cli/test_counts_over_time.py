"""A tally with a row for each look at a tray: each counts once, as it was last counted, and its cuttings rooted between looks."""

from __future__ import annotations

from itertools import pairwise

import pytest

from tests.cli.test_questions_to_a_file import codes

HEADER, STUCK, LOOKS = "Tray,Medium,Day,Rooted,Stuck,Dead", 12, (14, 28, 42)
#: By tray: its medium, and how many had rooted and were dead at each look.
COUNTED = {
    **{f"b{i}": ("bark", did, (0, 0, 1)) for i, did in enumerate([(3, 8, 10), (4, 9, 9), (2, 7, 11), (5, 8, 10)])},
    **{f"s{i}": ("sand", did, (0, 1, 1)) for i, did in enumerate([(2, 5, 6), (1, 4, 7), (0, 3, 5), (0, 2, 2)])},
}
FLAGS = ("--factors", "Medium", "--unit", "Tray")


def rows(looks: tuple[int, ...] = LOOKS, but: tuple[str, int] = ("", 0)) -> list[str]:
    return [
        f"{tray},{medium},{day},{did[at]},{STUCK},{dead[at]}"
        for at, day in enumerate(LOOKS)
        for tray, (medium, did, dead) in COUNTED.items()
        if day in looks and (tray, day) != but
    ]


def counts(found: dict) -> dict[str, tuple[int, int]]:
    return {arm["arm"]: (arm["k"], arm["n"]) for arm in found["arms"]}


def test_each_tray_counts_once_as_it_was_last_counted(ask) -> None:
    of_looks, of_last = ask(HEADER, rows(), *FLAGS, "--day", "Day"), ask(HEADER, rows((42,)), *FLAGS)
    assert (
        counts(of_looks) == {"bark": (40, 48), "sand": (20, 48)} and of_looks["comparisons"] == of_last["comparisons"]
    )
    told = next(c["text"] for c in of_looks["cautions"] if c["code"] == "several_looks")
    assert "24 rows of several looks at 8 trays or pots" in told and not codes(of_looks) & {"roots_vanished", "tally"}
    assert ask(HEADER, rows()[::-1], *FLAGS, "--day", "day")["arms"] == of_looks["arms"]


def test_cuttings_rooted_between_the_looks_at_which_their_number_rose(ask) -> None:
    flags = ("--response", "days_to_root")
    of_counts = ask(HEADER, rows(), *FLAGS, *flags, "--day", "Day")
    header, written = "Tray,Medium,last_without_day,first_with_day,outcome", []
    for tray, (medium, did, dead) in COUNTED.items():
        for how, rising in (("rooted", did), ("dead", dead)):
            before = [("", 0, 0), *((str(day), day, n) for day, n in zip(LOOKS, rising, strict=True))]
            for (last, _, n), (_, first, more) in pairwise(before):
                written += [f"{tray},{medium},{last},{first},{how}"] * (more - n)
        written += [f"{tray},{medium},42,,censored"] * (STUCK - did[-1] - dead[-1])
    of_cuttings = ask(header, written, *FLAGS, *flags)
    assert len(written) == 96 and of_counts["comparisons"] == of_cuttings["comparisons"]
    assert of_counts["arms"] == of_cuttings["arms"]


@pytest.mark.parametrize("flags", [FLAGS, FLAGS[:2]])
def test_looks_that_nobody_names_are_not_counted_one_by_one(ask, flags: tuple[str, ...]) -> None:
    told = ask(HEADER, sorted(rows()), *flags)
    assert "differ in nothing but Day and what was counted" in told and "--day" in told
    waves = [f"{line.split(',')[1]},{line.split(',')[2]},{line.split(',')[3]},12" for line in rows()]
    assert "n_cuttings" in ask("Medium,Wave,Rooted,Stuck", waves, "--factors", "Medium", "--wave", "Wave")


def test_trays_of_other_sizes_on_other_days_are_no_looks(ask) -> None:
    found = ask("Medium,Date,Rooted,Stuck", ["bark,2026-05-01,9,12", "bark,2026-06-01,8,10", "sand,2026-05-01,4,12", "sand,2026-06-01,3,10"], "--factors", "Medium")  # fmt: skip
    assert counts(found) == {"bark": (17, 22), "sand": (7, 22)}


def test_a_tray_that_was_not_counted_at_the_last_check_is_unknown_there(ask) -> None:
    found = ask(HEADER, rows(but=("s2", 42)), *FLAGS, "--day", "Day")
    assert counts(found)["sand"] == (15, 36), "its 3 that had rooted would speak for it alone"
    assert any("12 cuttings were not counted at the last check" in c["text"] for c in found["cautions"])


def test_what_is_counted_together_is_one_unit_until_somebody_says_otherwise(ask) -> None:
    header = "Medium,Day,Rooted,Stuck"
    by_medium = ["sand,14,2,20", "bark,14,6,20", "sand,42,5,20", "bark,42,16,20"]
    found = ask(header, by_medium, "--factors", "Medium", "--day", "Day")
    assert counts(found) == {"bark": (16, 20), "sand": (5, 20)} and found["overall"]["p"] is None
    assert {"tally", "several_looks"} <= codes(found)
    singly = ask(header, by_medium, "--factors", "Medium", "--day", "Day", "--single")
    assert singly["overall"]["p"] < 0.01 and "tally" not in codes(singly)
    days = ask(header, by_medium, "--factors", "Medium", "--day", "Day", "--response", "days_to_root")
    assert days["overall"]["p"] is None


def test_a_number_that_falls_is_asked_about(ask) -> None:
    fewer = [line.replace("b1,bark,42,9", "b1,bark,42,7") for line in rows()]
    found = ask(HEADER, fewer, *FLAGS, "--day", "Day")
    assert any(c["text"].startswith("2 had roots, then none") for c in found["cautions"])
    assert counts(found)["bark"] == (38, 48) and found["strength"] != "shown"


@pytest.mark.parametrize(
    ("change", "flags", "says"),
    [
        (("", ""), FLAGS[:2], "are of one day"),
        (("s1,sand,28,4,12", "s1,sand,28,4,11"), FLAGS, "11 stuck, and 12 at the look before"),
        (("s1,sand,28,", "s1,sand,soon,"), FLAGS, "'soon' is no day"),
    ],
)
def test_looks_that_can_not_be_are_refused(ask, change: tuple[str, str], flags: tuple[str, ...], says: str) -> None:
    assert says in ask(HEADER, [line.replace(*change) for line in rows()], *flags, "--day", "Day")


@pytest.mark.parametrize("head", ["rooted_pct", "Rooted (%)", "per cent rooted", "Rooting %"])
def test_a_share_is_found_however_it_is_headed(ask, head: str) -> None:
    found = ask(f"medium,tray,n,{head}", ["a,1,20,45", "a,2,20,50", "b,3,20,70", "b,4,20,80"], "--factors", "medium")
    assert counts(found) == {"a": (19, 40), "b": (30, 40)}


def test_a_length_in_cm_is_one_in_mm(ask) -> None:
    flags = ("--factors", "medium", "--response", "longest_root_mm")
    lengths = [("sand", 12.0), ("sand", 0.0), ("sand", 8.0), ("bark", 25.0), ("bark", 31.0), ("bark", 17.0)]
    in_cm = ask("medium;Longest root (cm)", [f"{m};{mm / 10:.1f}".replace(".", ",") for m, mm in lengths], *flags)
    assert in_cm["arms"] == ask("medium,longest_root_mm", [f"{m},{mm:g}" for m, mm in lengths], *flags)["arms"]
    assert "column Longest root (cm): 'long'" in ask("medium;Longest root (cm)", ["sand;long", "bark;1"], *flags)
