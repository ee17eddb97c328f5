"""A count of a tray is questioned where it is not what its places hold."""

from __future__ import annotations

import pytest

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.stick.tally import check_counted


@pytest.mark.parametrize(
    ("counted", "rows", "not_stuck", "said"),
    [
        (62, [30, 30], 0, "2 rows of 30 hold 60. Count once more; what is over can be begun as a group"),
        (60, [30, 30], 1, "2 rows of 30 hold 60, less 1 not stuck: 59. Count once more; what is over"),
        (11, [6, 6], 0, "2 rows of 6 hold 12. Count once more, or note by code"), (3, [4], 0, "1 row of 4 holds 4. Count once more, or note"),
        (8, [4, 3], 0, r"2 rows of 4 \+ 3 hold 7."), (0, [2], 0, "1 row of 2 holds 2."),
    ],
)  # fmt: skip
def test_what_differs_is_asked_about(counted: int, rows: list[int], not_stuck: int, said: str) -> None:
    with pytest.raises(InvalidInput, match=said):
        check_counted(counted, rows, not_stuck)


@pytest.mark.parametrize(
    ("counted", "rows", "not_stuck"), [(60, [30, 30], 0), (59, [30, 30], 1), (None, [30], 0), (0, [2], 2)]
)
def test_what_agrees_or_was_not_counted_is_kept(counted: int | None, rows: list[int], not_stuck: int) -> None:
    assert check_counted(counted, rows, not_stuck) is None
