"""A container counted whole makes a score for each of its cuttings."""

from __future__ import annotations

import pytest

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.score.endpoint import outcome_at_endpoint, reconcile
from orderly_bench.core.score.entry import check_score
from orderly_bench.core.score.tipped_out import TippedOut, scores_of_count
from orderly_bench.core.vocabulary import KnownBy


def test_the_scores_add_up_to_the_count() -> None:
    made = scores_of_count(TippedOut(19, 5, 1, 2), 27, KnownBy.LIFTED)
    counts = reconcile([outcome_at_endpoint(check_score(score)) for score in made])
    assert counts == {"rooted": 19, "no roots, not dead": 5, "dead": 1, "left out": 2, "unaccounted": 0}
    assert {score.root_number for score in made} == {None}, "seen, and not counted"


@pytest.mark.parametrize(
    ("count", "way", "says"),
    [
        (TippedOut(19, 5, 0, 2), KnownBy.LIFTED, "must add up to the 27"),
        (TippedOut(28, -1, 0, 0), KnownBy.LIFTED, "below 0"),
        (TippedOut(27, 0, 0, 0), KnownBy.TUG, "needs roots that were seen; this check looks by tug"),
    ],
)
def test_a_count_that_can_not_be_is_refused(count: TippedOut, way: KnownBy, says: str) -> None:
    with pytest.raises(InvalidInput, match=says):
        scores_of_count(count, 27, way)
