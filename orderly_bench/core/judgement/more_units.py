"""How many more units would settle a comparison, if the rates really are as seen: by the primary test with its family, in this layout.

The least number added to every arm for which the adjusted p of the pair is below alpha in 80 of 100 trials. Two arms of single
cuttings without blocks by enumeration; the others by simulating the layout grown by so many, units beta-binomial with the ICC seen
(Griffiths 1973, Biometrics 29:637). Null beyond ten times as many, and where the layout can't grow so: squares, whole plots, waves,
incomplete blocks.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import replace
from functools import cache
from math import ceil, sqrt

import numpy as np

from orderly_bench.core.judgement.analysis import Analysis
from orderly_bench.core.judgement.verdict import Verdict
from orderly_bench.core.layouts import layout_of
from orderly_bench.core.methods import permutation
from orderly_bench.core.methods.holm import holm
from orderly_bench.core.methods.hypergeometric import TIE, two_sided_p
from orderly_bench.core.methods.two_arms import every_p, pair_power
from orderly_bench.core.randomise.shuffled import ShuffledWithin
from orderly_bench.core.responses.registry import kind_of

#: Chance to find it that is aimed at.
ENOUGH = 0.8
#: In all; beyond, more of the same is no advice.
MOST_TIMES = 10
TRIALS = 400
#: Draws of a test inside a simulated trial, where it is not exact.
DRAWS = 400
#: Of one pair alone, whose trials are tested all at once.
TRIALS_AT_ONCE, DRAWS_AT_ONCE = 1_000, 2_000
#: Above this many cuttings in an arm, the least number is looked for by halving instead of one by one.
ONE_BY_ONE = 150


def with_more_units(analysis: Analysis) -> Analysis:
    """The analysis with ``more_units`` filled for what is not settled."""
    o = analysis.observations
    fits = kind_of(analysis.settings.response).yes_no and layout_of(o).grows
    if not fits or analysis.settings.look:
        return analysis
    grown = Grown(analysis)
    found = [
        replace(
            c,
            more_units=grown.least(i),
            more_units_margin=grown.for_the_margin(i),
            smallest_gap=grown.smallest_gap(i),
        )
        if c.verdict is Verdict.NOT_SETTLED and c.p_adjusted is not None
        else c
        for i, c in enumerate(analysis.comparisons)
    ]
    return replace(analysis, comparisons=found)


class Grown:
    """The layout with units added to every arm.

    Parameters
    ----------
    analysis : Analysis
    """

    def __init__(self, analysis: Analysis) -> None:
        o = analysis.observations
        self.analysis, self.o, self.alpha = analysis, o, analysis.settings.alpha
        self.rates = o.rooted.sum(axis=0) / np.maximum(1, o.stuck.sum(axis=0))
        self.units = np.bincount(layout_of(o).replicates.arm, minlength=len(o.arms))
        self.each = max(1, round(float(o.units.cuttings.mean()))) if o.clustered else 1
        self.icc = min(0.99, max(0.0, analysis.cluster.icc or 0.0)) if o.clustered else 0.0
        self.blocks = max(1, len(o.blocks))
        self.pairs = [(c.a.index, c.b.index) for c in analysis.comparisons]
        self.seen = [c.p for c in analysis.comparisons]
        self.chances: dict[int, np.ndarray] = {}
        self.gaps: dict[tuple[object, ...], float | None] = {}
        open_still = [c.verdict is Verdict.NOT_SETTLED and c.p_adjusted is not None for c in analysis.comparisons]
        self.wanted = np.flatnonzero(open_still)

    def least(self, pair: int) -> int | None:
        """Units to add for one comparison; None where ten times as many would not do."""
        a, b = self.pairs[pair]
        if self.rates[a] == self.rates[b]:
            return None
        most = (MOST_TIMES - 1) * int(self.units[[a, b]].max())
        step = self.blocks if self.blocks > 1 else 1
        if self.exact and self.units[[a, b]].max() <= ONE_BY_ONE:
            return next((m for m in range(1, most + 1) if self.chance(pair, m) >= ENOUGH), None)
        guess = self._guess(float(self.rates[a]), float(self.rates[b]), float(self.units[[a, b]].mean()))
        return self._halving(lambda m: self.chance(pair, m) >= ENOUGH, step, most, guess)

    def _guess(self, p: float, q: float, there: float) -> int:
        """About how many more, by the normal formula with the family's strictest level: where the search starts."""
        from scipy.special import ndtri

        z = float(ndtri(1 - self.alpha / (2 * len(self.pairs)))) + float(ndtri(ENOUGH))
        inflated = 1 + (self.each - 1) * self.icc
        needed = z**2 * (p * (1 - p) + q * (1 - q) + 0.02) / (p - q) ** 2 * inflated / self.each
        return max(1, ceil(needed - there))

    def for_the_margin(self, pair: int) -> int | None:
        """Units to add were the true difference the margin, from the lower rate seen; None without a margin, or beyond tenfold."""
        margin = self.analysis.settings.margin
        if margin is None or not layout_of(self.o).grown_from_rates:
            return None
        a, b = self.pairs[pair]
        low = min(float(self.rates[[a, b]].min()), 1 - margin)
        if self.alone(pair, low, margin, 0) >= ENOUGH:
            return 0
        most = (MOST_TIMES - 1) * int(self.units[[a, b]].max())
        if self.exact and self.units[[a, b]].max() <= ONE_BY_ONE:
            return next((m for m in range(1, most + 1) if self.alone(pair, low, margin, m) >= ENOUGH), None)
        step = self.blocks if self.blocks > 1 else 1
        guess = self._guess(low, low + margin, float(self.units[[a, b]].mean()))
        return self._halving(lambda m: self.alone(pair, low, margin, m) >= ENOUGH, step, most, guess)

    def smallest_gap(self, pair: int) -> float | None:
        """The smallest difference from the lower rate seen that this layout, as scored, finds 8 times in 10.

        To a tenth of a point where the chance is enumerated, to a point where it is simulated; None where even all rooted would not
        be found.
        """
        if not layout_of(self.o).grown_from_rates:
            return None
        a, b = self.pairs[pair]
        low, fine = float(min(self.rates[a], self.rates[b])), 0.0005 if self.exact else 0.01
        key = tuple(sorted((int(self.units[a]), int(self.units[b])))), round(low, 2), self._place_of(pair)
        if key not in self.gaps:
            self.gaps[key] = self._gap(pair, low, fine)
        return self.gaps[key]

    def _gap(self, pair: int, low: float, fine: float) -> float | None:
        if self.alone(pair, low, 1 - low, 0) < ENOUGH:
            return None
        below, enough = 0.0, 1 - low
        while enough - below > fine:
            middle = (below + enough) / 2
            below, enough = (below, middle) if self.alone(pair, low, middle, 0) >= ENOUGH else (middle, enough)
        return enough

    def _place_of(self, pair: int) -> int:
        """How many of the other pairs are clearer than alpha would need: all that Holm asks of them."""
        return sum(p is not None and p < self.alpha / len(self.pairs) for i, p in enumerate(self.seen) if i != pair)

    def alone(self, pair: int, low: float, gap: float, more: int) -> float:
        """Chance to find one pair whose rates are ``low`` and ``low + gap``, the other pairs of the family as they were seen."""
        a, b = self.pairs[pair]
        n_a, n_b = (int(self.units[arm]) + more for arm in (a, b))
        rates = (low, min(1.0, low + gap))
        if self.exact:
            return pair_power(rates[0], n_a, rates[1], n_b, self.alpha)
        rng = np.random.default_rng([self.analysis.settings.seed, 5])
        rooted = [
            self._unit_counts(rate, TRIALS_AT_ONCE * n, rng).reshape(TRIALS_AT_ONCE, n)
            for rate, n in zip(rates, (n_a, n_b), strict=True)
        ]
        p = self._p_of_all(rooted, (self._spread(n_a), self._spread(n_b)))
        return float((p < self._limit(pair)).mean())

    def _limit(self, pair: int) -> float:
        """The p that one pair must stay below for Holm's to stay below alpha, the other pairs as they were seen."""
        low, high = 0.0, self.alpha
        for _ in range(40):
            middle = (low + high) / 2
            adjusted = holm([middle if i == pair else p for i, p in enumerate(self.seen)])[pair]
            low, high = (middle, high) if adjusted is not None and adjusted < self.alpha else (low, middle)
        return high

    def _p_of_all(self, rooted: list[np.ndarray], per_block: tuple[list[int], list[int]]) -> np.ndarray:
        """The pair's p in every simulated trial, counts of shape (trials, units) each; whole units share their redraws."""
        if self.each == 1 and self.blocks == 1:
            table = every_p(per_block[0][0], per_block[1][0])
            return np.asarray(table[rooted[0].sum(axis=1).astype(int), rooted[1].sum(axis=1).astype(int)])
        rng = np.random.default_rng([self.analysis.settings.seed, 6])
        stratum = np.concatenate([np.repeat(np.arange(self.blocks), n) for n in per_block])
        first = np.repeat([True, False], [sum(n) for n in per_block])
        values = np.hstack(rooted) / self.each
        for block in range(self.blocks):
            here = stratum == block
            values[:, here] -= values[:, here].mean(axis=1, keepdims=True)
        redrawn = ShuffledWithin((~first).astype(int), stratum).redraw(rng, DRAWS_AT_ONCE) == 0
        seen = np.abs(values @ first)
        hits = (np.abs(values @ redrawn.T) >= seen[:, None] - TIE).sum(axis=1)
        return np.asarray((1 + hits) / (1 + DRAWS_AT_ONCE))

    @property
    def exact(self) -> bool:
        """Whether the chance can be enumerated: two arms of single cuttings without blocks."""
        return len(self.pairs) == 1 and not self.o.blocks and not self.o.clustered

    def chance(self, pair: int, more: int) -> float:
        """Of finding the difference with so many units more in every arm."""
        if self.exact:
            a, b = self.pairs[pair]
            n_a, n_b = (int(self.units[arm]) + more for arm in (a, b))
            return pair_power(float(self.rates[a]), n_a, float(self.rates[b]), n_b, self.alpha)
        if more not in self.chances:
            self.chances[more] = self._simulated(more)
        return float(self.chances[more][pair])

    @staticmethod
    def _halving(enough: Callable[[int], bool], step: int, most: int, guess: int) -> int | None:
        """The least multiple of ``step`` that is enough, looked for around the guess; None beyond ``most``."""
        most = max(step, most - most % step)
        high = min(most, max(step, guess // step * step))
        low = 0
        while not enough(high):
            if high == most:
                return None
            low, high = high, min(most, max(high + step, high * 3 // 2 // step * step))
        if low == 0:
            while (below := high * 2 // 3 // step * step) >= step and enough(below):
                high = below
            low = max(0, min(high - step, high * 2 // 3 // step * step))
        while high - low > step:
            middle = (low + high) // (2 * step) * step
            middle = middle if low < middle < high else low + step
            low, high = (low, middle) if enough(middle) else (middle, high)
        return high

    def _simulated(self, more: int) -> np.ndarray:
        """Chance of every pair, shape (pairs,); the same stream for every number, so that more is never less by luck."""
        rng = np.random.default_rng([self.analysis.settings.seed, 2])
        tested = (self.pairs_again if layout_of(self.o).grown_in_pairs else self.arms_again)(more, rng)
        hits = np.zeros(len(self.pairs))
        for done, found in enumerate(tested, start=1):
            adjusted = holm(found)
            hits += [p is not None and p < self.alpha for p in adjusted]
            if done >= 60 and self._far(hits[self.wanted] / done, done):
                return np.asarray(hits / done)
        return np.asarray(hits / TRIALS)

    @staticmethod
    def _far(share: np.ndarray, done: int) -> bool:
        """Whether no chance can still cross the aim: four standard errors away."""
        return bool((np.abs(share - ENOUGH) > 4 * sqrt(ENOUGH * (1 - ENOUGH) / done)).all())

    def pairs_again(self, more: int, rng: np.random.Generator) -> Iterator[list[float | None]]:
        """Pairs as seen, so many more: both, the first, the second or none rooted."""
        whole = (self.o.stuck == 1).all(axis=1)
        seen = self.o.rooted[whole]
        counts = np.bincount(2 * seen[:, 0] + seen[:, 1], minlength=4)
        for _ in range(TRIALS):
            _, second, first, _ = rng.multinomial(len(seen) + more, counts / counts.sum()).tolist()
            rooted = np.array([[1, 0]] * first + [[0, 1]] * second).reshape(-1, 2)
            yield [two_sided_p(rooted, np.ones_like(rooted)) if rooted.size else 1.0]

    def arms_again(self, more: int, rng: np.random.Generator) -> Iterator[list[float | None]]:
        """Every pair's p in each simulated trial."""
        per_block = [self._spread(int(n) + more) for n in self.units]
        test = self._test_of(per_block)
        for _ in range(TRIALS):
            rooted = [self._unit_counts(rate, sum(n), rng) for rate, n in zip(self.rates, per_block, strict=True)]
            yield [test(a, b, rooted) for a, b in self.pairs]

    def _spread(self, units: int) -> list[int]:
        """Units of an arm over the blocks, as even as can be."""
        return [units // self.blocks + (block < units % self.blocks) for block in range(self.blocks)]

    def _unit_counts(self, rate: float, units: int, rng: np.random.Generator) -> np.ndarray:
        if self.icc > 0 and 0 < rate < 1:
            spread = (1 - self.icc) / self.icc
            return np.asarray(rng.binomial(self.each, rng.beta(rate * spread, (1 - rate) * spread, size=units)))
        return np.asarray(rng.binomial(self.each, rate, size=units))

    def _test_of(self, per_block: list[list[int]]) -> Callable[[int, int, list[np.ndarray]], float | None]:
        if self.each > 1:
            return self._clustered_test(per_block)
        if self.blocks == 1:
            return lambda a, b, rooted: float(
                every_p(per_block[a][0], per_block[b][0])[int(rooted[a].sum()), int(rooted[b].sum())]
            )
        edges = [np.concatenate([[0], np.cumsum(n)[:-1]]) for n in per_block]

        @cache
        def p_of(a: int, b: int, counts: tuple[tuple[int, int], ...]) -> float:
            stuck = np.column_stack([per_block[a], per_block[b]])
            return two_sided_p(np.array(counts), stuck)

        def in_blocks(a: int, b: int, rooted: list[np.ndarray]) -> float:
            k = [np.add.reduceat(rooted[arm], edges[arm]).tolist() for arm in (a, b)]
            # Blocks of one size change places freely: sorting lets equal trials share their test.
            pairs = list(zip(*k, strict=True))
            alike = len({*per_block[a], *per_block[b]}) == 1
            return p_of(a, b, tuple(sorted(pairs) if alike else pairs))

        return in_blocks

    def _clustered_test(self, per_block: list[list[int]]) -> Callable[[int, int, list[np.ndarray]], float | None]:
        strata = [np.repeat(np.arange(self.blocks), n) for n in per_block]
        rng = np.random.default_rng([self.analysis.settings.seed, 3])

        def whole_units(a: int, b: int, rooted: list[np.ndarray]) -> float | None:
            labels = np.repeat([0, 1], [rooted[a].size, rooted[b].size])
            layout = ShuffledWithin(labels, np.concatenate([strata[a], strata[b]]))
            return permutation.test(np.concatenate([rooted[a], rooted[b]]) / self.each, layout, rng, DRAWS).p

        return whole_units
