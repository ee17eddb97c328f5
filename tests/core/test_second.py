"""Two scorers: what is drawn, and how far they agree. Figures worked by hand."""

from __future__ import annotations

from collections import Counter

import numpy as np
import pytest

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.score.second import Twice, agreement_of, doubts_of_agreement, draw_share


def test_a_share_is_rounded_up_and_at_least_five_where_there_are() -> None:
    rng = np.random.default_rng(1)
    assert len(draw_share(range(96), 10, rng)) == 10
    assert len(draw_share(range(20), 10, rng)) == 5 and len(draw_share(range(3), 10, rng)) == 3
    assert draw_share(range(8), 100, rng) == list(range(8))
    for wrong in (0, 101, float("nan")):
        with pytest.raises(InvalidInput):
            draw_share(range(8), wrong, rng)


def test_every_cutting_is_as_likely_to_be_drawn() -> None:
    drawn = Counter(i for seed in range(2_000) for i in draw_share(range(20), 25, np.random.default_rng(seed)))
    assert all(420 < drawn[i] < 580 for i in range(20))


def test_kappa_of_a_hand_worked_table() -> None:
    """20 alike rooted, 15 alike not, 5 and 10 apart: 0.70 observed, 0.50 expected, kappa 0.40."""
    pairs = [Twice(True, True)] * 20 + [Twice(False, False)] * 15 + [Twice(True, False)] * 5 + [Twice(False, True)] * 10
    found = agreement_of(pairs)
    assert (found.both, found.same, found.kappa) == (50, 35, pytest.approx(0.4))
    assert found.words == "35 of 50 judged alike, kappa 0.40"
    assert [one.code for one in doubts_of_agreement(found)] == ["scorers_part"]


def test_numbers_with_their_limits() -> None:
    """Differences 1, 0, 2, 1, 1: mean 1, SD 0.7071, limits 1 -+ 1.3859."""
    pairs = [
        Twice(True, True, 4, 5),
        Twice(True, True, 4, 4),
        Twice(True, True, 3, 5),
        Twice(True, True, 6, 7),
        Twice(True, True, 2, 3),
    ]
    found = agreement_of(pairs)
    assert (found.numbers, found.difference) == (5, 1.0)
    assert (found.low, found.high) == (pytest.approx(-0.3859, abs=1e-4), pytest.approx(2.3859, abs=1e-4))
    assert "no kappa: both saw one class only" in found.words and "+1.0 roots in the mean over 5" in found.words
    assert [one.text for one in doubts_of_agreement(found) if "+1.0" in one.text]
    four = agreement_of(pairs[:4])
    assert four.low is None and doubts_of_agreement(four) == []


def test_who_could_not_tell_is_in_no_count() -> None:
    found = agreement_of([Twice(True, None), Twice(None, False), Twice(None, None, 3, None)])
    assert (found.both, found.numbers, found.kappa, found.difference) == (0, 0, None, None)
    assert agreement_of([]).words == "0 of 0 judged alike" and doubts_of_agreement(found) == []
    assert doubts_of_agreement(agreement_of([Twice(True, True)] * 9 + [Twice(False, False)] * 9)) == []
