"""Two arms: their counts, their test, their effect, and both ends of what their unknown outcomes could have been."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np

from orderly_bench.core.compare import additive, time_to_root
from orderly_bench.core.compare.comparisons import Ends, Limits, PairEvidence, Side
from orderly_bench.core.compare.difference import Difference, odds_ratio
from orderly_bench.core.compare.effects import Effects
from orderly_bench.core.compare.layout_tests import NOTHING_RANDOMISED, overall_tests, pair_test
from orderly_bench.core.compare.observations import Observations, Row
from orderly_bench.core.compare.rates import normal_quantile
from orderly_bench.core.compare.unknown import filled
from orderly_bench.core.randomise.randomisation import RandomisationTest
from orderly_bench.core.randomise.redrawn import Pairs
from orderly_bench.core.responses.kind import Kind, Response
from orderly_bench.core.responses.registry import kind_of

#: With more unknown than this share, a response without ends is suggested at most.
UNKNOWN_CAPS = 0.05


def pair_evidence(
    observations: Observations, effects: Effects, a: int, b: int, test: RandomisationTest, nothing: str = ""
) -> PairEvidence:
    """Arms a and b.

    Parameters
    ----------
    nothing : str
        Code of what forbids any comparison (described only, every block one arm); blank when it may be made.
    """
    both, response = [a, b], effects.response
    kind = kind_of(response)
    units = np.bincount(observations.layout.replicates.arm, minlength=len(observations.arms))[both]
    sides = side(observations, kind, a), side(observations, kind, b)
    extras = _hazard_ratio(observations, effects, a, b) if response is Response.DAYS and not nothing else {}
    if response is Response.DAYS:
        extras = {**extras, **_possible_gap(observations, a, b)}
    found = PairEvidence(
        *sides,
        NOTHING_RANDOMISED if nothing else test,
        _without_interval(effects.between(a, b), nothing) if nothing else effects.between(a, b),
        float(units.mean()),
        int(units.min()),
        limits=_limits(observations, kind, a, b, int(units.min()), nothing),
        extras=extras,
    )
    if not kind.yes_no:
        return found
    (k_a, n_a), (k_b, n_b) = ((s.rooted, s.stuck) for s in sides)
    return replace(found, odds_ratio=odds_ratio(k_a, n_a, k_b, n_b), adjusted=effects.adjusted(a, b))


def side(observations: Observations, kind: Kind, arm: int) -> Side:
    """One arm as a side of a comparison."""
    k, n = int(observations.counted[arm]), int(observations.stuck[:, arm].sum())
    out = int(observations.left_out[:, arm].sum())
    found = Side(observations.names[arm], k, n, out, said=observations.spoken[arm])
    if kind.yes_no:
        return found
    mean, average = average_of(observations, kind, arm)
    return replace(found, mean=mean, average=average)


def average_of(observations: Observations, kind: Kind, arm: int) -> tuple[float, str]:
    """What stands for an arm's known cuttings, and what it is: classes have a middle one and no mean."""
    here = observations.arm_of_known == arm
    if kind.response is Response.DAYS:
        lives = time_to_root.lives_of(observations)
        counts = lives.categories()[here].sum(axis=0)
        area = float(time_to_root.areas(counts, lives.checks)) if lives.checks.size > 1 else 0.0
        return area, "mean rooted-days"
    values = np.sort(observations.responses[here])
    if kind.response is Response.ROOT_CLASS:
        return float(values[(values.size - 1) // 2]), "middle class from"
    return float(values.mean()), "mean"


def _without_interval(effect: Callable[[float], Difference], nothing: str) -> Callable[[float], Difference]:
    """What is described keeps its estimate; where blocks and arms are one there is none."""

    def bare(level: float) -> Difference:
        found = effect(level)
        return Difference(None if nothing == "block_is_arm" else found.estimate, None, found.method)

    return bare


def _limits(observations: Observations, kind: Kind, a: int, b: int, fewest: int, nothing: str) -> Limits:
    untold = [nothing] if nothing else []
    if not observations.drawn_apart(a, b):
        untold.append("season_not_waves")
    elif fewest < 2 and observations.layout.one_needs_two:
        untold.append(observations.layout.unreplicated)
    if kind.response is Response.DAYS and time_to_root.looked_apart(observations, a, b):
        untold.append("looked_on_different_days")
    capped = []
    index = observations.level_index
    differing = [f for f in range(index.shape[1]) if index[a, f] != index[b, f]]
    if len(differing) > 1 and not all(additive.estimable(index, f) for f in differing):
        capped.append("aliased")
    if kind.ends is None and max(observations.share_left_out[[a, b]]) > UNKNOWN_CAPS:
        capped.append("left_out")
    return Limits(tuple(untold), tuple(capped))


def _possible_gap(observations: Observations, a: int, b: int) -> dict[str, float | None]:
    """Ends of the gap by first and last possible days; none where both were looked at on the same days."""
    apart = time_to_root.looked_apart(observations, a, b) is not None
    low, high = time_to_root.possible_gap(observations, a, b) if apart else (None, None)
    return {"area_low": low, "area_high": high}


def _hazard_ratio(observations: Observations, effects: Effects, a: int, b: int) -> dict[str, float | None]:
    two = observations.only([a, b])
    found = time_to_root.hazard(time_to_root.lives_of(two), two.arm_of_known).ratio(0, 1, normal_quantile(0.95))
    hr, low, high = found or (None, None, None)
    return {"hazard_ratio": hr, "hr_low": low, "hr_high": high}


def tested(
    observations: Observations,
    a: int,
    b: int,
    response: Response,
    overall: RandomisationTest,
    redrawn: Pairs,
    rng: np.random.Generator,
    draws: int,
) -> RandomisationTest:
    """The test of two arms: one of the whole layout's redraws, the overall one where there are but two, or their own."""
    shared = redrawn.get((min(a, b), max(a, b)))
    if shared is not None:
        return shared
    if len(observations.arms) == 2 and overall.p is not None:
        return overall
    return pair_test(observations, a, b, response, rng, draws)


def pair_ends(
    observations: Observations, a: int, b: int, response: Response, rng: np.random.Generator, draws: int
) -> Ends | None:
    """Both ends of what the unknown outcomes of two arms could have been; None when there are none, or no such ends."""
    ends = kind_of(response).ends
    if ends is None or not observations.left_out[:, [a, b]].any():
        return None
    found = []
    for against, for_it in ((a, b), (b, a)):
        least, most = observations.arms[against], observations.arms[for_it]
        whole = filled(observations, _of_arm(least), _of_arm(most), ends)
        # Only where arms share their redraws, or are the only two, is more than the pair itself drawn again.
        together = whole.layout.whole_redraw or len(whole.arms) == 2
        overall, redrawn = overall_tests(whole, response, rng, draws) if together else (NOTHING_RANDOMISED, {})
        test = tested(whole, a, b, response, overall, redrawn, rng, draws)
        found.append(pair_evidence(whole, Effects(whole, response), a, b, test))
    return found[0], found[1]


def _of_arm(arm: tuple[str, ...]) -> Callable[[Row], bool]:
    return lambda row: row.levels == arm
