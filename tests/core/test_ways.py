"""Rates by trial and way, books beside them, one contrast over several trials."""

from __future__ import annotations

from dataclasses import replace

import pytest

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.methods.combine import ArmOfTrial, combine
from orderly_bench.core.stock.ways import Way, against_book, next_batch, pairs_of, together

ONE = Way("26-01", "A", "pumice", 42, 11, 20, 20.0)


def test_counts_with_their_interval_and_none_from_one_unit() -> None:
    assert ONE.words == "11 of 20, 34 to 74 %"
    assert replace(ONE, worth=None).words == "11 of 20" and replace(ONE, worth=None).interval is None
    assert replace(ONE, known=0, rooted=0).words == "0 of 0"
    wide, narrow = replace(ONE, worth=5.0).interval, ONE.interval
    assert wide and narrow and wide.high - wide.low > narrow.high - narrow.low


def test_a_chosen_best_never_feeds_how_many_to_stick() -> None:
    assert replace(ONE, kind="rate").feeds
    assert not ONE.feeds and not replace(ONE, best_of=4).feeds
    assert not replace(ONE, kind="rate", worth=None).feeds, "one unit tells nothing of the next"


@pytest.mark.parametrize(
    ("low", "high", "told"),
    [(0.9, 1.0, "book 90 to 100 %; here 11 of 20, 34 to 74 %: the book's lies outside"), (0.6, 0.7, "can be"), (0.7, 0.9, "can be"), (0.5, 0.5, "book 50 %;"), (0.1, 0.3, "outside")],
)  # fmt: skip
def test_a_book_is_set_beside_and_never_averaged(low: float, high: float, told: str) -> None:
    assert told in against_book(low, high, ONE)
    assert against_book(low, high, replace(ONE, rooted=0, known=0)) == ""
    assert "outside" not in against_book(0.9, 1.0, replace(ONE, worth=None)), "one unit contradicts no book"


def test_a_next_batch_is_told_from_three_on() -> None:
    batches = [replace(ONE, trial=str(i), rooted=k) for i, k in enumerate((4, 10, 18))]
    assert next_batch(batches[:2]) == ""
    told = next_batch(batches)
    assert told.startswith("3 batches, 20 to 90 %; a next one ")
    low, high = (float(x) for x in told.split("a next one ")[1].rstrip(" %").split(" to "))
    assert low < 20 and high > 85
    assert next_batch([replace(ONE, rooted=0)] * 3) == "3 batches, 0 to 0 %"


def test_pairs_that_stood_side_by_side() -> None:
    ways = [
        replace(ONE, trial=t, way=w)
        for t, w in (("1", "b"), ("1", "a"), ("2", "a"), ("2", "b"), ("2", "c"), ("3", "c"))
    ]
    assert pairs_of(ways) == [("a", "b", 2), ("a", "c", 1), ("b", "c", 1)]


def side_by_side() -> list[Way]:
    counts = {"1": (15, 20, 8, 20), "2": (12, 20, 9, 20), "3": (30, 40, 20, 40)}
    return [
        replace(ONE, trial=name, way=way, rooted=k, known=n, worth=float(n))
        for name, (k1, n1, k2, n2) in counts.items()
        for way, k, n in (("a", k1, n1), ("b", k2, n2))
    ]


def test_together_is_the_combination_of_its_trials() -> None:
    found = together(side_by_side(), "a", "b")
    same = combine(
        [
            (t, ArmOfTrial(k1, n, float(n)), ArmOfTrial(k2, n, float(n)))
            for t, k1, k2, n in (("1", 15, 8, 20), ("2", 12, 9, 20), ("3", 30, 20, 40))
        ]
    )
    assert found.found == same and found.left_out == ()
    assert together(side_by_side(), "b", "a").found.estimate == pytest.approx(-same.estimate)


def test_looks_retrospective_trials_and_single_units_are_named_and_left_out() -> None:
    ways = [
        replace(w, kind="look") if w.trial == "1" else replace(w, late=True) if w.trial == "2" else w
        for w in side_by_side()
    ]
    found = together(ways, "a", "b")
    assert found.left_out == (("1", "a look"), ("2", "retrospective")) and len(found.found.trials) == 1
    assert len(together(ways, "a", "b", with_looks=True).found.trials) == 3
    single = [replace(w, worth=None) for w in side_by_side()]
    with pytest.raises(InvalidInput, match="an arm of one unit"):
        together(single, "a", "b", with_looks=True)
    with pytest.raises(InvalidInput):
        together(ways, "a", "nothing")
