"""Sheets as programs and people write them: missing values, whole numbers with a point, signs for yes and no."""

from __future__ import annotations

import pytest

from orderly_bench.core.errors import UnusableData
from orderly_bench.core.responses.kind import Response
from orderly_bench.core.vocabulary import KnownBy, Roots
from orderly_bench.formats.headings import answers_plain, as_typed
from orderly_bench.formats.old_trial_csv import read_old_trial
from orderly_bench.formats.row_a_cutting import Columns
from orderly_bench.formats.scores_csv import read_scores
from orderly_bench.formats.table_csv import Table
from orderly_bench.formats.tidy_csv import read_observations

HEAD = "medium,rooted\n"


def told(text: str, response: Response = Response.ROOTED) -> list[float | None]:
    """What is read of each row."""
    return [row.response for row in read_observations(text.encode(), ["medium"], response).rows]


@pytest.mark.parametrize("missing", ["NA", "n/a", "#N/A", "NaN", "."])
def test_what_a_program_writes_for_a_missing_value_is_not_looked(missing: str) -> None:
    assert told(f"{HEAD}a,1\na,{missing}\nb,0\n") == [1, None, 0]
    old = read_old_trial(f"{HEAD}a,1\na,{missing}\nb,0\n".encode(), ["medium"], "", "", KnownBy.LIFTED)
    assert [row.score.roots for row in old] == [Roots.SEEN, Roots.NOT_LOOKED, Roots.NONE]
    brought = read_scores(f"cutting,rooted\nAB12,1\nAB13,{missing}\nAB14,0\n".encode(), 42, KnownBy.LIFTED)
    assert [row.code for row in brought] == ["AB12", "AB14"], "one that nobody looked at is passed over"


def test_a_level_may_be_called_so_and_a_block_may_not() -> None:
    assert told(f"{HEAD}NA,1\nb,0\n") == [1, 0]
    with pytest.raises(UnusableData, match="row 3, column block: the block is blank"):
        read_observations(b"medium,block,rooted\na,1,1\nb,NA,0\n", ["medium"], columns=Columns(block="block"))


def test_whole_numbers_that_a_program_wrote_with_a_point_are_whole() -> None:
    assert told(f"{HEAD}a,1.0\na,\nb,0.0\n") == [1, None, 0]
    assert told("medium,root_count\na,3.0\na,\nb,12.0\n", Response.ROOT_COUNT) == [3, None, 12]
    assert as_typed(Table(["mm"], [["3.0"], ["3.5"]], [2, 3]), []).rows == [["3.0"], ["3.5"]], "measured, not counted"


def test_signs_for_yes_and_no_are_read_where_a_column_has_both() -> None:
    assert told(f"{HEAD}a,+\na,\u2212\nb,-\nb,\n") == [1, 0, 0, None]
    assert told(f"{HEAD}a,\u2713\nb,\u2717\n") == [1, 0]
    for lone in ("a,-\nb,-\n", "a,+\nb,+\n", "a,+\nb,0\n"):
        with pytest.raises(UnusableData, match="is not a rooting result"):
            told(HEAD + lone)
    assert answers_plain(Table(["note"], [["+"], ["-"]], [2, 3]), ["rooted"]).rows == [["+"], ["-"]]


@pytest.mark.parametrize(
    ("head", "response"),
    [
        ("Alive", Response.ALIVE), ("Survived", Response.ALIVE), ("Fit to pot on", Response.FIT), ("Foliage score", Response.FOLIAGE),
        ("Root class", Response.ROOT_CLASS), ("No. of roots", Response.ROOT_COUNT), ("Root grade", Response.QUALITY),
    ],
)  # fmt: skip
def test_every_response_is_found_however_people_head_it(head: str, response: Response) -> None:
    assert told(f"medium,{head}\na,1\nb,0\n", response) == [1, 0]


def test_days_are_found_too() -> None:
    text = b"medium,Last day without roots,First day with roots,outcome\na,14,21,rooted\nb,28,,censored\n"
    rows = read_observations(text, ["medium"], Response.DAYS).rows
    assert [(row.last_without_day, row.first_with_day) for row in rows] == [(14, 21), (28, None)]


def test_classes_as_sheets_write_them_are_ordered_by_their_least_number() -> None:
    cells = {
        "none": 0,
        "1 to 4": 1,
        "5\u20139 roots": 5,
        "10 or more": 10,
        ">10": 11,
        "\u2265 20": 20,
        "over 30": 31,
        "3": 3,
    }
    text = "medium,Root class\n" + "".join(f"{'ab'[i % 2]},{cell}\n" for i, cell in enumerate(cells))
    assert told(text, Response.ROOT_CLASS) == list(cells.values())
    with pytest.raises(UnusableData, match="'a few' is no class of root numbers"):
        told("medium,root_class\na,a few\nb,1-4\n", Response.ROOT_CLASS)
