"""Two arms: their counts, their test, their effect, and both ends of what their unknown outcomes could have been."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np

from orderly_bench.core.compare import additive
from orderly_bench.core.compare.comparisons import Ends, Limits, PairEvidence, Side
from orderly_bench.core.compare.difference import Difference, odds_ratio
from orderly_bench.core.compare.layout_tests import overall_tests, pair_test
from orderly_bench.core.compare.measured.measured import Measured
from orderly_bench.core.compare.observations import Row
from orderly_bench.core.compare.unknown import filled
from orderly_bench.core.randomise.randomisation import NOTHING_RANDOMISED, RandomisationTest
from orderly_bench.core.randomise.redrawn import Pairs

#: With more unknown than this share, a response without ends is suggested at most.
UNKNOWN_CAPS = 0.05


def pair_evidence(
    measured: Measured, a: int, b: int, test: RandomisationTest, nothing: str = "", bare: bool = False
) -> PairEvidence:
    """Arms a and b.

    Parameters
    ----------
    nothing : str
        Code of what forbids any comparison (described only, every block one arm); blank when it may be made.
    bare : bool
        Without what stands beside the verdict.
    """
    units = np.bincount(measured.o.layout.replicates.arm, minlength=len(measured.o.arms))[[a, b]]
    sides = side(measured, a), side(measured, b)
    effect = measured.between(a, b)
    found = PairEvidence(
        *sides,
        NOTHING_RANDOMISED if nothing else test,
        _without_interval(effect, nothing) if nothing else effect,
        float(units.mean()),
        int(units.min()),
        adjusted=measured.adjusted(a, b),
        limits=_limits(measured, a, b, int(units.min()), nothing),
        days=None if bare else measured.days(a, b, not nothing),
    )
    if not measured.kind.yes_no:
        return found
    (k_a, n_a), (k_b, n_b) = ((s.rooted, s.stuck) for s in sides)
    return replace(found, odds_ratio=odds_ratio(k_a, n_a, k_b, n_b))


def side(measured: Measured, arm: int) -> Side:
    """One arm as a side of a comparison."""
    o = measured.o
    k, n, out = int(o.counted[arm]), int(o.stuck[:, arm].sum()), int(o.left_out[:, arm].sum())
    return Side(o.names[arm], k, n, out, measured.average(arm), o.spoken[arm], measured.average_is)


def _without_interval(effect: Callable[[float], Difference], nothing: str) -> Callable[[float], Difference]:
    """What is described keeps its estimate; where blocks and arms are one there is none."""

    def bare(level: float) -> Difference:
        found = effect(level)
        return Difference(None if nothing == "block_is_arm" else found.estimate, None, found.method)

    return bare


def _limits(measured: Measured, a: int, b: int, fewest: int, nothing: str) -> Limits:
    observations = measured.o
    untold = [nothing] if nothing else []
    if not observations.drawn_apart(a, b):
        untold.append("season_not_waves")
    elif fewest < 2 and observations.layout.one_needs_two:
        untold.append(observations.layout.unreplicated)
    untold += measured.untold(a, b)
    capped = []
    index = observations.level_index
    differing = [f for f in range(index.shape[1]) if index[a, f] != index[b, f]]
    if len(differing) > 1 and not all(additive.estimable(index, f) for f in differing):
        capped.append("aliased")
    if measured.kind.ends is None and max(observations.share_left_out[[a, b]]) > UNKNOWN_CAPS:
        capped.append("left_out")
    return Limits(tuple(untold), tuple(capped))


def tested(
    measured: Measured,
    a: int,
    b: int,
    overall: RandomisationTest,
    redrawn: Pairs,
    rng: np.random.Generator,
    draws: int,
) -> RandomisationTest:
    """The test of two arms: one of the whole layout's redraws, the overall one where there are but two, or their own."""
    shared = redrawn.get((min(a, b), max(a, b)))
    if shared is not None:
        return shared
    if len(measured.o.arms) == 2 and overall.p is not None:
        return overall
    return pair_test(measured, a, b, rng, draws)


def pair_ends(measured: Measured, a: int, b: int, rng: np.random.Generator, draws: int) -> Ends | None:
    """Both ends of what the unknown outcomes of two arms could have been; None when there are none, or no such ends."""
    observations, ends = measured.o, measured.kind.ends
    if ends is None or not observations.left_out[:, [a, b]].any():
        return None
    found = []
    for against, for_it in ((a, b), (b, a)):
        least, most = observations.arms[against], observations.arms[for_it]
        whole = measured.over(filled(observations, _of_arm(least), _of_arm(most), ends))
        # Only where arms share their redraws, or are the only two, is more than the pair itself drawn again.
        together = whole.o.layout.whole_redraw or len(whole.o.arms) == 2
        overall, redrawn = overall_tests(whole, rng, draws) if together else (NOTHING_RANDOMISED, {})
        test = tested(whole, a, b, overall, redrawn, rng, draws)
        found.append(pair_evidence(whole, a, b, test))
    return found[0], found[1]


def _of_arm(arm: tuple[str, ...]) -> Callable[[Row], bool]:
    return lambda row: row.levels == arm
