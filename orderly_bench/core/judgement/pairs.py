"""Two arms: their counts, their test, their effect, and both ends of what their unknown outcomes could have been."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace

import numpy as np

from orderly_bench.core.judgement.comparisons import Ends, Limits, PairEvidence, Side
from orderly_bench.core.judgement.layout_tests import overall_tests, pair_test
from orderly_bench.core.judgement.varies import Grouping, how_it_varies
from orderly_bench.core.layouts.frame import Frame
from orderly_bench.core.layouts.from_rows import layout_of
from orderly_bench.core.methods import additive
from orderly_bench.core.methods.difference import Difference, odds_ratio
from orderly_bench.core.methods.randomisation import NOTHING_RANDOMISED, RandomisationTest
from orderly_bench.core.methods.redrawn import Pairs
from orderly_bench.core.observations.table import Observations, Row, kind_of_plant
from orderly_bench.core.observations.unknown import filled
from orderly_bench.core.responses.outcomes import Effect, Outcomes

#: With more unknown than this share, a response without ends is suggested at most.
UNKNOWN_CAPS = 0.05


def pair_evidence(
    outcomes: Outcomes, a: int, b: int, test: RandomisationTest, nothing: str = "", bare: bool = False
) -> PairEvidence:
    """Arms a and b, in the strata of their test.

    Parameters
    ----------
    nothing : str
        Code of what forbids any comparison (described only, every block one arm); blank when it may be made.
    bare : bool
        Without what stands beside the verdict.
    """
    if not layout_of(outcomes.o).joined(a, b):
        return _not_joined(outcomes, a, b, nothing or "not_joined")
    whole, arms = outcomes, (a, b)
    home, a, b = layout_of(outcomes.o).home(a, b)
    outcomes = outcomes if home is outcomes.o else outcomes.over(home)
    layout = layout_of(outcomes.o)
    units = np.bincount(layout.replicates.arm, minlength=len(outcomes.o.arms))[[a, b]]
    sides = side(whole, arms[0]), side(whole, arms[1])
    frame = layout.frame(a, b)
    limits = _limits(outcomes, a, b, int(units.min()), nothing)
    lone = next((code for code in limits.untold if code in WITHOUT_INTERVAL), "")
    bared = nothing or (lone if layout.shared or not outcomes.kind.yes_no else "")
    effect = without_interval(outcomes.effect(frame, a, b), bared)
    found = PairEvidence(
        *sides,
        NOTHING_RANDOMISED if nothing else test,
        effect,
        float(units.mean()),
        int(units.min()),
        adjusted=outcomes.adjusted(frame, a, b),
        limits=limits,
        days=None if bare else outcomes.days(a, b, not nothing),
        effect_for_same=None if bared else outcomes.effect_for_same(frame, a, b),
        strata=int((frame.counts(a, b) > 0).all(axis=1).sum()),
        adjusts_for=("place" if frame.stratified else "" if frame.single else "units"),
        varies=None if bared else how_it_varies(outcomes, frame, a, b, groupings_of_arms(outcomes.o, frame)),
    )
    if not outcomes.kind.yes_no:
        return found
    (k_a, n_a), (k_b, n_b) = ((s.rooted, s.stuck) for s in sides)
    return replace(found, odds_ratio=odds_ratio(k_a, n_a, k_b, n_b))


def _not_joined(outcomes: Outcomes, a: int, b: int, code: str) -> PairEvidence:
    """No chain of blocks joins them: nothing to compare them by."""
    units = np.bincount(layout_of(outcomes.o).replicates.arm, minlength=len(outcomes.o.arms))[[a, b]]
    return PairEvidence(
        side(outcomes, a),
        side(outcomes, b),
        NOTHING_RANDOMISED,
        lambda _: Difference(None, None, ""),
        float(units.mean()),
        int(units.min()),
        limits=Limits((code,)),
        joined=False,
    )


def groupings_of_arms(observations: Observations, frame: Frame) -> list[Grouping]:
    """What two arms are held against the strata by: blocks, and the waves they stood in."""
    one = [m[0] for m in frame.members] if not frame.single else frame.rows
    found = [_blocks(observations, one)] if observations.blocks else []
    layout = layout_of(observations)
    if layout.gathers:
        group = layout.group[one]
        found.append(Grouping(layout.gathers, layout.gathers, layout.group_names, group))
    return found


def _blocks(observations: Observations, one: Sequence[int] | np.ndarray) -> Grouping:
    return Grouping("block", "block", observations.blocks, observations.stratum_of_known[one], by_block=True)


def side(outcomes: Outcomes, arm: int) -> Side:
    """One arm as a side of a comparison."""
    o = outcomes.o
    k, n, out = int(o.counted[arm]), int(o.stuck[:, arm].sum()), int(o.left_out[:, arm].sum())
    return Side(o.names[arm], k, n, out, outcomes.average(arm), o.labels[arm], outcomes.average_is, arm)


#: Codes of what leaves a pair its counts alone, as the difference and no interval.
WITHOUT_INTERVAL = ("one_unit", "waves_not_replicated", "season_not_waves")


def without_interval(effect: Effect, nothing: str) -> Effect:
    """What is described keeps its estimate; where blocks and arms are one there is none."""
    if not nothing:
        return effect

    def bare(level: float) -> Difference:
        found = effect(level)
        return Difference(None if nothing == "block_is_arm" else found.estimate, None, found.method)

    return bare


def _limits(outcomes: Outcomes, a: int, b: int, fewest: int, nothing: str) -> Limits:
    observations = outcomes.o
    untold = [nothing] if nothing else []
    if not layout_of(observations).drawn_apart(a, b):
        untold.append("season_not_waves")
    elif fewest < 2 and layout_of(observations).one_needs_two:
        untold.append(layout_of(observations).unreplicated)
    untold += outcomes.untold(a, b)
    capped = []
    index = observations.level_index
    differing = [f for f in range(index.shape[1]) if index[a, f] != index[b, f]]
    if len(differing) > 1 and not all(additive.estimable(index, f) for f in differing):
        capped.append("aliased")
    if any(kind_of_plant(observations.factors[f]) for f in differing):
        capped.append("not_drawn")
    if outcomes.kind.ends is None and max(observations.share_left_out[[a, b]]) > UNKNOWN_CAPS:
        capped.append("left_out")
    return Limits(tuple(untold), tuple(capped))


def tested(
    outcomes: Outcomes,
    a: int,
    b: int,
    overall: RandomisationTest,
    redrawn: Pairs,
    rng: np.random.Generator,
    draws: int,
) -> RandomisationTest:
    """The test of two arms: one of the whole layout's redraws, the overall one where there are but two, or their own."""
    layout = layout_of(outcomes.o)
    if not layout.joined(a, b):
        return NOTHING_RANDOMISED
    shared = redrawn.get((min(a, b), max(a, b)))
    if shared is not None:
        return shared if a < b else _turned(shared)
    if layout.parts:
        home, a, b = layout.home(a, b)
        return pair_test(outcomes.over(home), a, b, rng, draws)
    if len(outcomes.o.arms) == 2 and overall.p is not None:
        return overall if a < b else _turned(overall)
    return pair_test(outcomes, a, b, rng, draws)


def _turned(test: RandomisationTest) -> RandomisationTest:
    """The same test with the sides the other way round."""
    return replace(test, direction=None if test.direction is None else -test.direction)


def pair_ends(outcomes: Outcomes, a: int, b: int, rng: np.random.Generator, draws: int) -> Ends | None:
    """Both ends of what the unknown outcomes of two arms could have been; None when there are none, or no such ends."""
    found = []
    for whole in at_both_ends(outcomes, a, b):
        # Only where arms share their redraws, or are the only two, is more than the pair itself drawn again.
        together = layout_of(whole.o).whole_redraw or len(whole.o.arms) == 2
        overall, redrawn = overall_tests(whole, rng, draws) if together else (NOTHING_RANDOMISED, {})
        test = tested(whole, a, b, overall, redrawn, rng, draws)
        found.append(pair_evidence(whole, a, b, test))
    return (found[0], found[1]) if found else None


def at_both_ends(outcomes: Outcomes, a: int, b: int) -> list[Outcomes]:
    """The outcomes with the unknown of a all against it and those of b for it, and the reverse; none where none are unknown."""
    observations, ends = outcomes.o, outcomes.kind.ends
    if ends is None or not observations.left_out[:, [a, b]].any():
        return []
    sides = [(observations.arms[against], observations.arms[for_it]) for against, for_it in ((a, b), (b, a))]
    return [outcomes.over(filled(observations, _of_arm(least), _of_arm(most), ends)) for least, most in sides]


def _of_arm(arm: tuple[str, ...]) -> Callable[[Row], bool]:
    return lambda row: row.levels == arm
