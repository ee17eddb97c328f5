"""A file with a row for each look at a cutting: each counts once, and the days between which it rooted are read from its looks."""

from __future__ import annotations

import pytest

from orderly_bench.core.observations.over_time import Days, Look, checks, days_to_root, followed
from tests.cli.test_questions_to_a_file import codes

HEADER = "cutting,medium,day,rooted,state"
#: By cutting: its medium and what was seen at 14, 21 and 28 days; a dot where nobody looked.
SEEN = {
    **{f"b{i}": ("bark", seen) for i, seen in enumerate(["011", "011", "001", "001", "111", "111", "000", "011"])},
    **{f"s{i}": ("sand", seen) for i, seen in enumerate(["000", "000", "001", "000", "001", "000", "000", "000"])},
}


def looks(seen: dict[str, tuple[str, str]], days: tuple[str, str, str] = ("14", "21", "28")) -> list[str]:
    return [
        f"{name},{medium},{day},{cell},"
        for at, day in enumerate(days)
        for name, (medium, cells) in seen.items()
        if (cell := cells[at]) != "."
    ]


def test_each_cutting_counts_once_as_it_was_last_seen(ask) -> None:
    of_looks = ask(HEADER, looks(SEEN), "--factors", "medium", "--day", "day")
    last = [f"{name},{medium},28,{seen[-1]}," for name, (medium, seen) in SEEN.items()]
    of_last = ask(HEADER, last, "--factors", "medium")
    assert of_looks["n_cuttings"] == 16 and {a["arm"]: (a["k"], a["n"]) for a in of_looks["arms"]} == {
        "bark": (7, 8),
        "sand": (2, 8),
    }
    assert (of_looks["overall"], of_looks["comparisons"]) == (of_last["overall"], of_last["comparisons"])
    assert "several_looks" in codes(of_looks) and "repeated_id" not in codes(of_looks)
    shuffled = ask(HEADER, looks(SEEN)[::-1], "--factors", "medium", "--day", "day")
    assert shuffled["arms"] == of_looks["arms"], "whatever the order of the rows"
    dated = ask(HEADER, looks(SEEN, ("2026-05-01", "8 May 2026", "15.5.2026")), "--factors", "medium", "--day", "Day")
    assert dated["comparisons"] == of_looks["comparisons"]


def test_looks_that_are_taken_for_cuttings_say_how_they_are_named(ask) -> None:
    found = ask(HEADER, looks(SEEN), "--factors", "medium")
    told = next(c["text"] for c in found["cautions"] if c["code"] == "repeated_id")
    assert "--day COLUMN" in told and found["strength"] != "shown"


def test_days_to_root_come_from_the_looks(ask) -> None:
    flags = ("--factors", "medium", "--response", "days_to_root")
    of_looks = ask(HEADER, looks(SEEN), *flags, "--day", "day")
    header = "cutting,medium,last_without_day,first_with_day,outcome"
    days = {"000": "28,,censored", "001": "21,28,rooted", "011": "14,21,rooted", "111": ",14,rooted"}
    written = ask(header, [f"{name},{medium},{days[seen]}" for name, (medium, seen) in SEEN.items()], *flags)
    assert of_looks["comparisons"] == written["comparisons"] and of_looks["arms"] == written["arms"]
    dated = ask(HEADER, looks(SEEN, ("2026-05-01", "2026-05-08", "2026-05-15")), *flags, "--day", "day")
    assert "last_without_day" in dated, "dates alone do not say when they were stuck"


def test_one_that_was_not_seen_at_the_last_check_is_unknown_there_unless_it_had_rooted_or_died(ask) -> None:
    seen = SEEN | {"b6": ("bark", "00."), "b7": ("bark", "01."), "s7": ("sand", "0..")}
    lines = [*looks(seen), "s7,sand,21,0,dead"]
    found = ask(HEADER, lines, "--factors", "medium", "--day", "day")
    assert {a["arm"]: (a["k"], a["n"]) for a in found["arms"]} == {"bark": (7, 7), "sand": (2, 8)}
    told = " ".join(c["text"] for c in found["cautions"] if c["code"] == "several_looks")
    assert "1 cutting without roots was not seen at the last check" in told


def test_one_that_is_missing_at_the_last_check_stays_missing(ask) -> None:
    lines = [*looks(SEEN | {"b6": ("bark", "00.")}), "b6,bark,28,,missing"]
    found = ask(HEADER, lines, "--factors", "medium", "--day", "day")
    told = next(c["text"] for c in found["cautions"] if c["code"] == "left_out")
    assert "1 cutting has no known outcome" in told and {a["arm"]: a["n"] for a in found["arms"]} == {
        "bark": 7,
        "sand": 8,
    }


def test_roots_that_vanish_and_lives_after_death_are_questioned(ask) -> None:
    gone = ask(HEADER, looks(SEEN | {"s0": ("sand", "010")}), "--factors", "medium", "--day", "day")
    assert "roots_vanished" in codes(gone) and gone["strength"] != "shown"
    risen = ask(
        HEADER, [*looks(SEEN | {"s0": ("sand", "0.0")}), "s0,sand,21,0,dead"], "--factors", "medium", "--day", "day"
    )
    assert "living_after_dead" in codes(risen) and risen["strength"] != "shown"


@pytest.mark.parametrize(
    ("lines", "flags", "message"),
    [
        ([*looks(SEEN), "b0,bark,28,1,"], (), "'b0' stands twice on one day (row 34 too)"),
        ([*looks(SEEN), "b0,bark,soon,1,"], (), "row 50, column day: 'soon' is no day"),
        ([*looks(SEEN), "b0,bark,,1,"], (), "row 50, column day: '' is no day"),
        (looks(SEEN), ("--single",), "each row is a look at one cutting"),
    ],
)  # fmt: skip
def test_what_can_not_be_looks_is_refused_with_its_row(
    ask, lines: list[str], flags: tuple[str, ...], message: str
) -> None:
    assert message in ask(HEADER, lines, "--factors", "medium", "--day", "day", *flags)


def test_a_table_that_names_no_cutting_is_refused(ask) -> None:
    lines = [line.split(",", 1)[1] for line in looks(SEEN)]
    assert "no column says which cutting" in ask(
        "medium,day,rooted,state", lines, "--factors", "medium", "--day", "day"
    )


def test_a_table_without_rows_is_answered_as_any_such(ask) -> None:
    assert ask(HEADER, [], "--factors", "medium", "--day", "day") == ask(HEADER, [], "--factors", "medium")


def test_numbers_that_begin_anew_in_each_arm_are_other_cuttings(ask) -> None:
    lines = [line[1:] for line in looks(SEEN)]
    found = ask(HEADER, lines, "--factors", "medium", "--day", "day")
    assert found["n_cuttings"] == 16


def test_the_first_event_counts_and_the_last_check_reaches_back_over_its_days() -> None:
    assert days_to_root([Look(7, False), Look(14, False, dead=True), Look(21, True)]) == Days(7, 14, "dead")
    assert days_to_root([]) == Days(None, None, "censored")
    assert checks([(14, "a"), (14, "b"), (28, "a"), (29, "b")]) == [[14], [28, 29]]
    assert checks([(14, "a"), (21, "b"), (28, "c")]) == [[14, 21, 28]], "lifted at several days, each looked at once"
    late = followed([Look(14, False), Look(28, None)], 28)
    assert (late.counts, late.unseen) == (0, True)
