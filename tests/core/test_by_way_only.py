"""What a way of looking can't show is neither roots nor none: refused on the pad, left out where it was kept before."""

from __future__ import annotations

import pytest

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.observations.questions import known_state
from orderly_bench.core.score.endpoint import outcome_at_endpoint
from orderly_bench.core.score.entry import check_score
from orderly_bench.core.vocabulary import INDIRECT_GRADES, KnownBy, Roots, Score, State

WAYS = sorted(INDIRECT_GRADES)


@pytest.mark.parametrize("way", WAYS)
@pytest.mark.parametrize("roots", [Roots.NONE, Roots.SEEN])
def test_it_is_refused_and_left_out(way: KnownBy, roots: Roots) -> None:
    told = Score(State.ALIVE, roots, known_by=way)
    with pytest.raises(InvalidInput, match="not looked"):
        check_score(told)
    found = outcome_at_endpoint(told)
    assert found.rooted is None and found.state.endswith(f"roots only by {way}")
    assert known_state(found.state) == found.state.casefold(), "and the file says so too"
    assert check_score(Score(State.ALIVE, Roots.NOT_LOOKED, known_by=way)).roots is Roots.NOT_LOOKED


@pytest.mark.parametrize("way", [way for way in KnownBy if way not in INDIRECT_GRADES])
def test_where_one_sees_none_there_are_none(way: KnownBy) -> None:
    bare = check_score(Score(State.ALIVE, Roots.NONE, known_by=way))
    assert outcome_at_endpoint(bare).rooted is False


def test_dead_is_not_rooted_however_it_is_known() -> None:
    assert outcome_at_endpoint(Score(State.DEAD, Roots.NONE, known_by=KnownBy.TUG)).rooted is False
