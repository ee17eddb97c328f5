"""Differences between the levels of one factor, over the others: the headline of a factorial.

Inside strata of the other factors and the blocks, as they were drawn; where those strata leave nothing to exchange, with the blocks and
the other factors in the model of the unit means.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import cached_property
from itertools import combinations

import numpy as np

from orderly_bench.core.judgement.comparisons import Ends, Limits, PairEvidence, Side
from orderly_bench.core.judgement.pairs import UNKNOWN_CAPS, without_interval
from orderly_bench.core.judgement.varies import Grouping, how_it_varies
from orderly_bench.core.layouts.draws import for_all_arms, frame_of_factor, told_apart
from orderly_bench.core.layouts.frame import Frame
from orderly_bench.core.layouts.from_rows import layout_of
from orderly_bench.core.methods import additive
from orderly_bench.core.methods.difference import Difference, odds_ratio
from orderly_bench.core.methods.randomisation import NOTHING_RANDOMISED, RandomisationTest
from orderly_bench.core.observations.table import Observations, Row, kind_of_plant, spoken_level
from orderly_bench.core.observations.unknown import filled
from orderly_bench.core.randomise.shuffled import ShuffledWithin
from orderly_bench.core.responses.outcomes import Outcomes


def level_pairs(observations: Observations) -> list[tuple[int, int, int]]:
    """Every pair of levels of every factor that can be told from the others, as (factor, a, b); one family over all factors."""
    if not layout_of(observations).by_level:
        return []
    return [
        (f, a, b)
        for f, names in enumerate(observations.level_names)
        if f not in layout_of(observations).not_drawn and told_apart(observations, f)
        for a, b in combinations(range(len(names)), 2)
    ]


class Levels:
    """The evidence on pairs of levels of one set of observations.

    Parameters
    ----------
    outcomes : Outcomes
    rng : numpy.random.Generator
    draws : int
    """

    def __init__(self, outcomes: Outcomes, rng: np.random.Generator, draws: int) -> None:
        self.outcomes, self.observations = outcomes, outcomes.o
        self.rng, self.draws = rng, draws
        self._frames: dict[int, Frame | None] = {}

    def frame(self, factor: int) -> Frame | None:
        """Where the levels of a factor stand."""
        if factor not in self._frames:
            self._frames[factor] = frame_of_factor(self.observations, factor)
        return self._frames[factor]

    def evidence(self, factor: int, a: int, b: int, only: RandomisationTest | None = None) -> PairEvidence:
        """Levels a and b of a factor; ``only`` is the test of a factor with no other levels."""
        sides, frame = self._sides(factor, a, b), self.frame(factor)
        if frame is None or min(frame.units(a, b)) < 1:
            return self._undrawn(sides, factor)
        test = self._test(factor, a, b, frame, only)
        units = frame.units(a, b)
        fraction = frame.modelled and self._aliased
        lone = min(units) < 2 and layout_of(self.observations).one_needs_two
        limits = Limits(
            (layout_of(self.observations).unreplicated,) if lone else (),
            (
                *(("aliased_with_interaction",) if fraction else ()),
                *(("not_drawn",) if kind_of_plant(self.observations.factors[factor]) else ()),
                *(("left_out",) if self._too_much_unknown(factor, a, b) else ()),
            ),
        )
        found = PairEvidence(
            *sides,
            NOTHING_RANDOMISED if lone else test,
            without_interval(self.outcomes.effect(frame, a, b), "one_unit" if lone else ""),
            sum(units) / 2,
            min(units),
            adjusted=self.outcomes.adjusted(frame, a, b),
            limits=limits,
            factor=factor,
            effect_for_same=None if lone else self.outcomes.effect_for_same(frame, a, b),
            strata=int((frame.counts(a, b) > 0).all(axis=1).sum()),
            adjusts_for=self._adjusts_for(frame),
            varies=None if lone else how_it_varies(self.outcomes, frame, a, b, self._groupings(factor, frame)),
        )
        if not self.outcomes.kind.yes_no:
            return found
        return replace(found, odds_ratio=odds_ratio(sides[0].rooted, sides[0].stuck, sides[1].rooted, sides[1].stuck))

    @cached_property
    def _aliased(self) -> bool:
        """Whether what was stuck leaves a main effect aliased with what other factors do together."""
        return not self.observations.every_combination

    def _adjusts_for(self, frame: Frame) -> str:
        o = self.observations
        placed = bool(o.blocks) or layout_of(o).shared_groups
        others = len(o.factors) > 1
        return (
            "both"
            if placed and others
            else "factors"
            if others
            else "place"
            if placed
            else ""
            if frame.single
            else "units"
        )

    def _too_much_unknown(self, factor: int, a: int, b: int) -> bool:
        """Whether a response whose unknown have no ends has more of them than can be passed over."""
        if self.outcomes.kind.ends is not None:
            return False
        _, stuck, out = (table.sum(axis=0)[[a, b]] for table in stratified(self.observations, factor))
        return bool((out > UNKNOWN_CAPS * np.maximum(1, out + stuck)).any())

    def _undrawn(self, sides: tuple[Side, Side], factor: int) -> PairEvidence:
        raw = None
        if sides[0].rate is not None and sides[1].rate is not None and self.outcomes.kind.yes_no:
            raw = sides[0].rate - sides[1].rate
        code = layout_of(self.observations).unreplicated
        return PairEvidence(
            *sides,
            NOTHING_RANDOMISED,
            lambda _: Difference(raw, None, "rates"),
            1.0,
            1,
            limits=Limits((code,)),
            factor=factor,
        )

    def _sides(self, factor: int, a: int, b: int) -> tuple[Side, Side]:
        rooted, stuck, out = stratified(self.observations, factor)
        names = self.observations.level_names[factor]
        found = []
        for level in (a, b):
            k, n, unknown = (int(table[:, level].sum()) for table in (rooted, stuck, out))
            average = self._averages(factor)[level]
            spoken = spoken_level(self.observations.factors[factor], names[level])
            found.append(Side(names[level], k, n, unknown, average, spoken, self.outcomes.average_is, level))
        return found[0], found[1]

    def _averages(self, factor: int) -> list[float | None]:
        """What stands for the cuttings of each level."""
        names = self.observations.level_names[factor]
        if self.outcomes.kind.yes_no:
            return [None] * len(names)
        kept: dict[int, list[float | None]] = self.__dict__.setdefault("_averages_of", {})
        if factor not in kept:
            alone = self.outcomes.over(by_factors(self.observations, (factor,)))
            at = [alone.o.arms.index((name,)) for name in names]
            kept[factor] = [alone.average(arm) for arm in at]
        return kept[factor]

    def _test(self, factor: int, a: int, b: int, frame: Frame, only: RandomisationTest | None) -> RandomisationTest:
        if frame.modelled:
            return self._with_all_factors(factor, a, b, frame, only)
        if only is not None:
            return only
        two = frame.only(a, b)
        layout = ShuffledWithin(two.label, two.stratum)
        if not self.outcomes.ready:
            return NOTHING_RANDOMISED
        return self.outcomes.redrawn(two.drawn, layout, self.rng, self.draws)

    def _with_all_factors(
        self, factor: int, a: int, b: int, frame: Frame, only: RandomisationTest | None
    ) -> RandomisationTest:
        """Two levels with all factors and blocks in the model; |t| takes the sign of t."""
        drawn = for_all_arms(self.observations)
        if drawn is None or not self.outcomes.ready:
            return NOTHING_RANDOMISED
        index, scores = self.observations.level_index, self.outcomes.unit_scores(drawn)
        smaller, larger = additive.alike(index, factor, a, b), additive.main_effects(index)
        test = only or additive.test(scores, drawn.layout, smaller, larger, self.rng, self.draws)
        return replace(test, direction=frame.fit(scores).difference(a, b)[0])

    def _groupings(self, factor: int, frame: Frame) -> list[Grouping]:
        """Blocks, waves and each other factor, as far as units of the frame lie inside one of them."""
        o, layout = self.observations, layout_of(self.observations)
        one = np.array([m[0] for m in frame.members]) if not frame.single else frame.rows
        found = []
        if o.blocks and self._whole(o.stratum_of_known, frame):
            found.append(Grouping("block", "block", o.blocks, o.stratum_of_known[one], by_block=True))
        if layout.gathers and self._whole(layout.group, frame):
            found.append(Grouping(layout.gathers, layout.gathers, layout.group_names, layout.group[one]))
        for other, name in enumerate(o.factors):
            of_rows = o.level_index[o.arm_of_known, other]
            if other != factor and self._whole(of_rows, frame):
                found.append(Grouping("factor", name, tuple(o.level_names[other]), of_rows[one]))
        return found

    @staticmethod
    def _whole(group: np.ndarray, frame: Frame) -> bool:
        """Whether every unit lies in one group."""
        if frame.single:
            return True
        first = np.array([m[0] for m in frame.members])
        return bool((group[frame.rows] == group[first][frame.unit_of_rows]).all())


def level_ends(outcomes: Outcomes, pair: tuple[int, int, int], rng: np.random.Generator, draws: int) -> Ends | None:
    """Both ends of what the unknown outcomes of two levels could have been; None when there are none, or no such ends."""
    observations, (factor, a, b) = outcomes.o, pair
    ends, out = outcomes.kind.ends, stratified(observations, factor)[2]
    if ends is None or not out[:, [a, b]].any():
        return None
    names = observations.level_names[factor]

    def having(level: int) -> Callable[[Row], bool]:
        return lambda row: row.levels[factor] == names[level]

    low, high = (
        Levels(outcomes.over(filled(observations, having(against), having(for_it), ends)), rng, draws).evidence(
            factor, a, b
        )
        for against, for_it in ((a, b), (b, a))
    )
    return low, high


def stratified(observations: Observations, factor: int) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Counts per (other factors x block) and level of one factor: counted (rooted, or above 0), known, left out."""
    index = observations.level_index
    others = np.delete(index, factor, axis=1)
    strata = sorted({tuple(row) for row in others.tolist()})
    levels = len(observations.level_names[factor])
    tables = []
    for source in (observations.counted_in_strata, observations.stuck, observations.left_out):
        table = np.zeros((len(strata) * source.shape[0], levels), dtype=int)
        for arm, (other, level) in enumerate(zip(others.tolist(), index[:, factor].tolist(), strict=True)):
            start = strata.index(tuple(other)) * source.shape[0]
            table[start : start + source.shape[0], level] += source[:, arm]
        tables.append(table)
    return tables[0], tables[1], tables[2]


def by_factors(observations: Observations, factors: tuple[int, ...]) -> Observations:
    """The same cuttings with some of the factors alone as their arm."""
    rows = tuple(replace(row, levels=tuple(row.levels[f] for f in factors)) for row in observations.rows)
    arms = tuple(dict.fromkeys(tuple(arm[f] for f in factors) for arm in observations.arms))
    return Observations(tuple(observations.factors[f] for f in factors), arms, observations.blocks, rows)
