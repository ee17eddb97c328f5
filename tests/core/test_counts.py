"""The counts of an endpoint add up, and are called what they are."""

from __future__ import annotations

from hypothesis import given
from hypothesis import strategies as st

from orderly_bench.core.responses.counts import counted_by, told_of
from orderly_bench.core.responses.kind import Response

VALUES = st.lists(st.none() | st.sampled_from([0.0, 1.0, 2.0, 5.0]), max_size=12)


@given(st.sampled_from(list(Response)), st.lists(VALUES, min_size=1, max_size=4))
def test_every_cutting_stands_in_one_column(response: Response, arms: list) -> None:
    yes_no = (Response.ROOTED, Response.ALIVE, Response.FIT)
    arms = [[None if v is None else min(v, 1.0) if response in yes_no else v for v in arm] for arm in arms]
    columns, rows = counted_by(response, arms)
    assert [sum(row) for row in rows] == [len(arm) for arm in arms]
    assert columns[-1] == "not known" and [row[-1] for row in rows] == [arm.count(None) for arm in arms]
    assert len({*columns}) == len(columns)


def test_alive_is_counted_as_alive_and_classes_in_their_order() -> None:
    assert counted_by(Response.ALIVE, [[1.0] * 13 + [0.0] * 29 + [None] * 7])[1] == [[13, 29, 7]]
    assert counted_by(Response.ROOT_CLASS, [[5.0, 1.0, 0.0], [10.0, None]]) == (
        ["none", "from 1", "from 5", "from 10", "not known"], [[1, 1, 1, 0, 0], [0, 0, 0, 1, 1]],
    )  # fmt: skip
    assert counted_by(Response.QUALITY, [[0.0, 3.0]])[0] == ["0", "1", "2", "3", "4", "5", "not known"]
    assert told_of(Response.ALIVE, 0.0) == "dead" and told_of(Response.LONGEST, None) == "not known"
