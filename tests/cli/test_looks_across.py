"""A tick sheet with a column for each look says what the same looks say in rows."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from orderly_bench.cli.main import main
from orderly_bench.core.errors import OrderlyError, UnusableData
from orderly_bench.core.responses.kind import Response
from orderly_bench.core.vocabulary import KnownBy, Roots, State
from orderly_bench.formats.old_trial_csv import read_old_trial
from orderly_bench.formats.row_a_cutting import Columns
from orderly_bench.formats.tidy_csv import read_observations

CUTTINGS = [
    ("pumice", "0", "1", "1"), ("pumice", "0", "0", "1"), ("pumice", "0", "1", "1"), ("pumice", "0", "0", "0"),
    ("bark", "0", "0", "1"), ("bark", "0", "", "0"), ("bark", "0", "dead", "dead"), ("bark", "0", "0", ""),
]  # fmt: skip
TRAYS = [("pumice", 0, 4, 8), ("pumice", 1, 5, 7), ("pumice", 0, 3, 9), ("bark", 0, 1, 3), ("bark", 0, 0, 4), ("bark", 0, 2, 2)]  # fmt: skip
DAYS = (14, 21, 28)
HEADS = [
    ("Day 14", "Day 21", "Day 28"), ("d14", "d21", "d28"), ("W2", "W3", "W4"), ("2 weeks", "3 wks", "4 weeks"), ("14 DAS", "21 DAS", "28 DAS"),
    ("Rooted day 14", "Rooted (day 21)", "Rooted day 28"), ("week 2 rooted", "week 3 rooted", "28 d rooted"),
]  # fmt: skip


def analysed(tmp_path: Path, capsys: pytest.CaptureFixture[str], text: str, *words: str) -> dict[str, object]:
    file = tmp_path / "trial.csv"
    file.write_text(text)
    assert main(["analyse", str(file), "--factors", "medium", "--json", *words]) == 0
    found: dict[str, object] = json.loads(capsys.readouterr().out)
    found["cautions"] = [one for one in found["cautions"] if not one["code"].startswith("looks_across")]  # type: ignore[attr-defined]
    return found


def across(heads: tuple[str, ...]) -> str:
    rows = [",".join([str(i), *cells]) for i, cells in enumerate(CUTTINGS)]
    return "\n".join([",".join(["plant", "medium", *heads]), *rows, ""])


def down() -> str:
    rows = [
        f"{i},{medium},{day},{'0,dead' if cell == 'dead' else cell + ','}"
        for day, at in zip(DAYS, range(3), strict=True)
        for i, (medium, *cells) in enumerate(CUTTINGS)
        if (cell := cells[at])
    ]
    return "\n".join(["cutting,medium,day,rooted,state", *rows, ""])


@pytest.mark.parametrize("heads", HEADS, ids=[heads[1] for heads in HEADS])
@pytest.mark.parametrize("response", ["rooted", "days_to_root"])
def test_looks_side_by_side_say_what_they_say_below_one_another(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], heads: tuple[str, ...], response: str
) -> None:
    below = analysed(tmp_path, capsys, down(), "--day", "day", "--response", response)
    assert analysed(tmp_path, capsys, across(heads), "--response", response) == below
    assert sum(arm["stuck"] for arm in below["arms"]) == len(CUTTINGS)  # type: ignore[attr-defined]


@pytest.mark.parametrize("response", ["rooted", "days_to_root"])
def test_trays_counted_at_each_look_alike(tmp_path: Path, capsys: pytest.CaptureFixture[str], response: str) -> None:
    wide = "\n".join(
        ["medium,stuck,W2,W3,W4", *(f"{medium},10,{','.join(map(str, counts))}" for medium, *counts in TRAYS), ""]
    )
    rows = [f"{m},{i},10,{day},{counts[at]}" for at, day in enumerate(DAYS) for i, (m, *counts) in enumerate(TRAYS)]
    long = "\n".join(["medium,tray,stuck,day,rooted", *rows, ""])
    found = analysed(tmp_path, capsys, wide, "--response", response)
    found["cautions"] = [one for one in found["cautions"] if one["code"] != "tally"]  # type: ignore[attr-defined]
    below = analysed(tmp_path, capsys, long, "--response", response, "--day", "day", "--unit", "tray")
    assert found == below
    assert [arm["stuck"] for arm in below["arms"]] == [30, 30]  # type: ignore[attr-defined]


def test_roots_of_a_cutting_are_its_last_number() -> None:
    text = b"medium,roots d14,roots d21,length d21\na,0,3,12\na,1,,\na,0,0,\nb,0,5,30\nb,0,dead,\n"
    counts = read_observations(text, ["medium"], Response.ROOT_COUNT)
    assert [row.response for row in counts.rows] == [3, 1, 0, 5, 0]
    assert [row.response for row in read_observations(text, ["medium"]).rows] == [1, 1, 0, 1, 0]
    bare = text.replace(b"roots d", b"day ")
    assert [row.response for row in read_observations(bare, ["medium"], Response.ROOT_COUNT).rows] == [3, 1, 0, 5, 0]


def test_dates_are_looks_whose_days_after_sticking_nobody_knows() -> None:
    text = b"medium,2026-05-01,8 May 2026\na,0,1\na,1,1\nb,0,0\nb,0,1\n"
    told = read_observations(text, ["medium"])
    assert [row.response for row in told.rows] == [1, 1, 0, 1]
    assert any(one.text.startswith("Columns 2026-05-01 and 8 May 2026 are taken for looks") for one in told.questions)
    with pytest.raises(UnusableData, match="days to root need"):
        read_observations(text, ["medium"], Response.DAYS)


@pytest.mark.parametrize(
    "header", ["medium,d14,tray", "medium,d14,rooted", "medium,d14,2026-05-01", "medium,d14,day 14", "medium,length d14,length d21"]
)  # fmt: skip
def test_what_are_no_two_looks_stays_as_it_is(header: str) -> None:
    text = f"{header}\na,0,1\na,1,1\nb,0,0\nb,0,1\n".encode()
    if "rooted" in header:
        assert [row.response for row in read_observations(text, ["medium"]).rows] == [1, 1, 0, 1]
    else:
        with pytest.raises(UnusableData, match="there is no column 'rooted'"):
            read_observations(text, ["medium"])


def test_a_finished_trial_comes_in_from_its_tick_sheet() -> None:
    rows = read_old_trial(across(HEADS[0]).encode(), ["medium"], "", "", KnownBy.LIFTED)
    assert [(row.score.roots, row.score.state) for row in rows] == [
        (Roots.SEEN, State.ALIVE), (Roots.SEEN, State.ALIVE), (Roots.SEEN, State.ALIVE), (Roots.NONE, State.ALIVE),
        (Roots.SEEN, State.ALIVE), (Roots.NONE, State.ALIVE), (Roots.NONE, State.DEAD), (Roots.NOT_LOOKED, State.ALIVE),
    ]  # fmt: skip
    trays = b"medium,stuck,W2,W3\na,3,1,2\nb,2,0,1\n"
    counted = read_old_trial(trays, ["medium"], "", "", KnownBy.LIFTED)
    assert [row.score.roots for row in counted] == [Roots.SEEN] * 2 + [Roots.NONE, Roots.SEEN, Roots.NONE]


DATED = b"Medium,Put in,2026-05-01,8 May 2026\na,2026-04-10,0,1\na,2026-04-11,1,1\nb,2026-04-10,0,0\nb,2026-04-10,0,1\n"


@pytest.mark.parametrize("stuck_on", ["2026-04-10", "put in"])
def test_dates_become_days_where_somebody_says_when_it_was_stuck(stuck_on: str) -> None:
    rows = read_observations(DATED, ["medium"], Response.DAYS, Columns(stuck_on=stuck_on)).rows
    first = 20 if stuck_on == "put in" else 21
    found = {(row.levels, row.last_without_day, row.first_with_day) for row in rows}
    assert found == {(("a",), 21, 28), (("a",), None, first), (("b",), 28, None), (("b",), 21, 28)}
    down = b"cutting,medium,day,rooted\n1,a,1.5.2026,0\n1,a,8.5.2026,1\n2,b,1.5.2026,0\n2,b,8.5.2026,0\n"
    of_rows = read_observations(down, ["medium"], Response.DAYS, Columns(day="day", stuck_on="10.4.2026")).rows
    assert [(row.last_without_day, row.first_with_day) for row in of_rows] == [(21, 28), (28, None)]


@pytest.mark.parametrize(
    ("text", "columns", "says"),
    [
        (DATED, Columns(stuck_on="2026-05-02"), "row 2.*looked at 2026-05-01, before it was stuck"),
        (DATED, Columns(stuck_on="Taken"), "there is no column 'Taken'"),
        (DATED.replace(b"2026-04-11", b"late"), Columns(stuck_on="Put in"), "row 3.*'late' is no day"),
        (across(HEADS[0]).encode(), Columns(stuck_on="2026-04-10"), "counted from sticking already"),
        (b"medium,rooted\na,1\na,0\nb,0\nb,1\n", Columns(stuck_on="2026-04-10"), "goes with --day"),
    ],
)
def test_a_day_of_sticking_that_does_not_fit_is_said(text: bytes, columns: Columns, says: str) -> None:
    with pytest.raises(OrderlyError, match=says):
        read_observations(text, ["medium"], columns=columns)
