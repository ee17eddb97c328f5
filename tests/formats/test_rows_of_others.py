"""A row that works out the others is no cutting and no arm."""

from __future__ import annotations

import pytest

from orderly_bench.core.errors import UnusableData
from orderly_bench.core.responses.kind import Response
from orderly_bench.core.vocabulary import KnownBy
from orderly_bench.formats.old_trial_csv import read_old_trial
from orderly_bench.formats.tidy_csv import read_observations


@pytest.mark.parametrize(
    ("sheet", "row"),
    [
        ("medium,longest_root_mm\nsand,10\nsand,12\nbark,14\nMean,12\n", 5),
        ("medium,plant,longest_root_mm\nsand,1,10\nsand,2,12\nsand,Mean,11\nbark,1,14\nbark,2,19\nbark,Mean,16.5\n", 4),
        ("medium,plant,longest_root_mm\nsand,1,10\nsand,2,12\nbark,1,14\nbark,2,19\nbark,Std. error,2\n", 6),
    ],
)
def test_a_row_called_a_mean_is_refused_wherever_it_says_so(sheet: str, row: int) -> None:
    with pytest.raises(UnusableData, match="sums or averages others") as refused:
        read_observations(sheet.encode(), ["medium"], Response.LONGEST)
    assert refused.value.row == row


@pytest.mark.parametrize(
    "sheet",
    [
        "leaves,rooted\nnone,1\nnone,0\ntotal,1\ntotal,0\n",  # a level, of several cuttings
        "leaves,side,rooted\nnone,SE,1\nnone,NW,0\nhalf,SE,1\nhalf,NW,0\n",  # where they stood
        "leaves,Remarks,rooted\nnone,mean,1\nnone,,0\nhalf,,1\nhalf,,0\n",  # what somebody wrote
    ],
)
def test_such_a_word_that_means_something_else_stays(sheet: str) -> None:
    assert len(read_observations(sheet.encode(), ["leaves"]).rows) == 4


def test_a_finished_trial_refuses_it_too() -> None:
    with pytest.raises(UnusableData, match="sums or averages others"):
        read_old_trial(
            b"medium,cutting,roots\nsand,a,1\nsand,b,3\nbark,c,2\nbark,d,0\nbark,Average,1\n",
            ["medium"],
            "",
            "",
            KnownBy.LIFTED,
        )


@pytest.mark.parametrize("note", ["* counted by Ines,,", "Counted by Ines", ",,counted by Ines"])
def test_a_note_below_the_table_is_no_arm_of_its_own(note: str) -> None:
    sheet = f"medium,rooted,roots\nsand,1,3\nsand,0,\nbark,1,2\nbark,1,5\n{note}\n"
    with pytest.raises(UnusableData, match="note below the table") as refused:
        read_observations(sheet.encode(), ["medium"])
    assert refused.value.row == 6


def test_a_last_cutting_that_nobody_saw_stays_one() -> None:
    for sheet in ("medium,rooted,roots\nsand,1,3\nbark,0,\nbark,,\n", "medium,rooted\nsand,1\nbark,0\npumice,\n"):
        assert len(read_observations(sheet.encode(), ["medium"]).rows) == 3


def test_total_darkness_is_a_level_and_sand_mean_is_none() -> None:
    read = read_observations(b"light,stuck,rooted\ntotal darkness,10,7\ndarkness,10,3\n", ["light"])
    assert {row.levels[0] for row in read.rows} == {"total darkness", "darkness"}
    for name in ("sand mean", "Mean sand", "sand total"):
        with pytest.raises(UnusableData, match="sums or averages others"):
            read_observations(f"medium,stuck,rooted\nsand,10,7\ngrit,10,3\n{name},10,7\n".encode(), ["medium"])
