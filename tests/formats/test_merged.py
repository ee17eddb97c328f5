"""Merged cells of a sheet are written out; a cell that was forgotten, or a treatment not given, never is."""

from __future__ import annotations

import pytest

from orderly_bench.core.errors import UnusableData
from orderly_bench.core.vocabulary import KnownBy
from orderly_bench.formats.old_trial_csv import read_old_trial
from orderly_bench.formats.tidy_csv import read_observations

NESTED = """Medium,hormone,tray,stuck,rooted
sand,none,1,10,3
,,2,10,4
,IBA,3,10,7
,,4,10,8
grit,none,5,10,2
,,6,10,5
,IBA,7,10,6
,,8,10,9
"""
FULL = """Medium,hormone,tray,stuck,rooted
sand,none,1,10,3
sand,none,2,10,4
sand,IBA,3,10,7
sand,IBA,4,10,8
grit,none,5,10,2
grit,none,6,10,5
grit,IBA,7,10,6
grit,IBA,8,10,9
"""


def test_merged_cells_say_what_they_say_written_out() -> None:
    merged, full = (read_observations(text.encode(), ["medium", "hormone"]) for text in (NESTED, FULL))
    assert [row.levels for row in merged.rows] == [row.levels for row in full.rows]
    assert [row.response for row in merged.rows] == [row.response for row in full.rows]
    told = [one for one in merged.questions if one.code == "merged"]
    assert [one.text.split(" are read")[0] for one in told] == ["Blank cells of Medium", "Blank cells of hormone"]
    assert not [one for one in full.questions if one.code == "merged"]


def test_a_finished_trial_comes_in_with_merged_cells() -> None:
    merged, full = (
        read_old_trial(text.encode(), ["medium", "hormone"], "", "", KnownBy.LIFTED) for text in (NESTED, FULL)
    )
    assert [(row.levels, row.score) for row in merged] == [(row.levels, row.score) for row in full]


@pytest.mark.parametrize(
    "text",
    [
        FULL.replace("sand,none,2", ",none,2"),
        FULL.replace("none", ""),
        NESTED.replace("sand,none,1", ",none,1"),
        "hormone,stuck,rooted\nIBA,10,4\n,10,2\nIBA,10,5\n,10,1\n",
        "hormone,stuck,rooted\nIBA,10,4\nNAA,10,2\n,10,5\n,10,1\n",
    ],
    ids=["forgotten", "not given", "none above", "in turns", "one without"],
)
def test_a_blank_that_may_mean_something_is_refused(text: str) -> None:
    factors = ["medium", "hormone"] if "Medium" in text else ["hormone"]
    with pytest.raises(UnusableData, match="the level is blank"):
        read_observations(text.encode(), factors)
