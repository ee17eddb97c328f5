"""A p that a conclusion gives is held against the comparison it is given of; blocks are nothing that was varied."""

from __future__ import annotations

import pytest

from orderly_bench.core.conclude.facts import Facts
from orderly_bench.core.conclude.sentences import Mark, mark
from tests.core.test_claims import counted


@pytest.fixture(scope="module")
def facts() -> Facts:
    """Bark over sand and peat clear (p 0.0034 of peat and 0.0068 adjusted, below 0.0001 of sand), peat and sand open (0.14)."""
    found = counted(("medium",), {("bark",): (22, 24), ("peat",): (12, 24), ("sand",): (6, 24)})
    p = {pair.names: (pair.p, pair.p_adjusted, pair.clear) for pair in found.pairs}
    alone, adjusted, clear = p[frozenset(("bark", "peat"))]
    assert clear and alone < 0.005 < adjusted < 0.01 and not p[frozenset(("peat", "sand"))][2]
    return found


@pytest.mark.parametrize(
    ("sentence", "right"),
    [
        ("Bark rooted more than peat (p < 0.05).", Mark.CARRIED), ("Bark rooted significantly better than peat, P<.01.", Mark.CARRIED),
        ("Bark rooted more than peat (p < 0.005).", Mark.BEYOND), ("Bark rooted more than peat (p = 0.2).", Mark.AGAINST),
        ("Bark rooted more than peat (p > 0.05).", Mark.AGAINST), ("Bark rooted more than peat, p value below 0,001.", Mark.AGAINST),
        ("Bark rooted more than peat (p < 0.05) and sand (p < 0.001).", Mark.CARRIED),
        ("Bark rooted more than peat (p < 0.001) and sand (p < 0.001).", Mark.AGAINST),
        ("Bark rooted more than peat and sand (p < 0.01).", Mark.NOT_CHECKED), ("Peat rooted more than sand (p < 0.05).", Mark.AGAINST),
        ("Medium had an effect (p < 0.001).", Mark.NOT_CHECKED),
        ("Blocks had no effect.", Mark.NOT_CHECKED), ("Rooting did not differ between blocks.", Mark.NOT_CHECKED), ("Trays differed.", Mark.NOT_CHECKED),
        ("There was no difference on this bench.", Mark.AGAINST),
        ("Bark and sand gave similar rooting.", Mark.AGAINST), ("Peat and sand gave similar rooting.", Mark.BEYOND),
        ("Rooting was similar to last year.", Mark.NOT_CHECKED),
    ],
)  # fmt: skip
def test_the_mark_is_that_of_the_evidence(facts: Facts, sentence: str, right: Mark) -> None:
    found = mark(sentence, facts)
    assert found.mark is right, found
    assert bool(found.doubts) is (right in (Mark.AGAINST, Mark.BEYOND))


def test_a_percentage_of_another_arm_is_not_said_to_be_of_none(facts: Facts) -> None:
    found = mark("Of the cuttings in peat 92 % rooted.", facts)
    assert (
        found.mark is Mark.AGAINST and found.doubts[0].text == "'92 %' is the rate of another arm; of peat it is 12/24."
    )
    assert "rate of no arm" in mark("Of the cuttings in peat 71 % rooted.", facts).doubts[0].text
    assert mark("On average 56 % rooted.", facts).mark is Mark.CARRIED
    assert mark("There was no interaction.", facts).mark is Mark.NOT_CHECKED


def test_the_p_that_was_meant_is_told(facts: Facts) -> None:
    told = mark("Bark rooted more than peat (p < 0.005).", facts).doubts[0].text
    assert told.startswith("'p < 0.005' is so of bark and peat alone; adjusted for the other comparisons p = 0.00")
    wrong = mark("Bark rooted more than peat (p = 0.2).", facts).doubts[0].text
    assert "of bark and peat p = 0.00" in wrong and wrong.endswith("adjusted for the other comparisons.")
