"""How many more units would settle what is not settled: found again by the primary test, with its family, in the same layout.

Units of several cuttings are beta-binomial with the ICC seen (Griffiths 1973, Biometrics 29:637), of the sizes they had in their own arm;
blocks and pairs are added as they were laid out. The chance is that the adjusted p of the pair falls below alpha, at the rates seen, with so
many units more in every arm; two arms of single cuttings are enumerated. Squares, incomplete blocks, whole plots and waves can't grow one
unit at a time. The search has a budget of work, not of time, so that a page and a command stop at the same number.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from math import ceil

import numpy as np

from orderly_bench.core.judgement.comparisons import Comparison
from orderly_bench.core.judgement.result import Analysis
from orderly_bench.core.judgement.verdict import Verdict
from orderly_bench.core.layouts.from_rows import layout_of
from orderly_bench.core.methods.holm import holm
from orderly_bench.core.methods.many import holm_many, two_labels
from orderly_bench.core.methods.two_arms import pair_power
from orderly_bench.core.randomise.shuffled import ShuffledWithin
from orderly_bench.core.responses.registry import kind_of

#: Chance to find it that is aimed at.
ENOUGH = 0.8
#: In all; beyond, more of the same is no advice.
MOST_TIMES = 10
#: Simulated trials of every number looked at while it is searched for, and of the last ones.
TRIALS, LAST_TRIALS = 400, 1_600
#: Redraws of a test that is not exact.
DRAWS = 999
#: Trials that share a set of redraws.
SHARING = 200
#: Above this many cuttings in an arm, the least number is looked for by halving instead of one by one.
ONE_BY_ONE = 150
#: Single cuttings of a pair beyond which their counts are taken as normal.
MANY_CUTTINGS = 120
#: Trials x redraws x units x pairs of the whole search: about four seconds' work.
BUDGET = 2.5e10
#: What a redraw costs beside a trial that is held against it.
REDRAW = 60


class OutOfBudget(Exception):
    """The search has done as much as it may."""


def with_more_units(analysis: Analysis) -> Analysis:
    """The analysis with ``more_units`` filled for what is not settled, or with the code of what kept it from being filled."""
    if analysis.settings.look:
        return analysis
    found = [replace(c, more_units_open=_not_grown(c, analysis)) if _open(c) else c for c in analysis.comparisons]
    wanted = [i for i, c in enumerate(found) if _open(c) and not c.more_units_open]
    if not wanted:
        return replace(analysis, comparisons=found)
    grown = Grown(analysis)
    wanted.sort(key=lambda i: found[i].p or 0.0)
    try:
        for i in wanted:
            number = grown.least(i)
            found[i] = replace(found[i], more_units=number, more_units_open=grown.why_none(i) if number is None else "")
        for i in wanted:
            margin, gap = grown.for_the_margin(i), grown.smallest_gap(i)
            found[i] = replace(found[i], more_units_margin=margin, smallest_gap=gap)
    except OutOfBudget:
        for i in set(wanted) - grown.searched:
            found[i] = replace(found[i], more_units_open="stopped")
    return replace(analysis, comparisons=found)


def _open(c: Comparison) -> bool:
    return c.verdict is Verdict.NOT_SETTLED and c.p_adjusted is not None


def _not_grown(c: Comparison, analysis: Analysis) -> str:
    """Code of what keeps a number from being looked for; none would help where it is not the same in every stratum."""
    if not kind_of(analysis.settings.response).yes_no:
        return "response"
    if not layout_of(analysis.observations).grows:
        return "layout"
    return "varies" if any(one.ends_the_same for one in c.varies or ()) else ""


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
        units = layout_of(o).replicates
        self.units = np.bincount(units.arm, minlength=len(o.arms))
        self.sizes = [units.cuttings[units.arm == a].astype(int) for a in range(len(o.arms))]
        self.icc = min(0.99, max(0.0, analysis.cluster.icc or 0.0)) if o.clustered else 0.0
        self.blocks = max(1, len(o.blocks))
        self.pairs = [(c.a.index, c.b.index) for c in analysis.comparisons]
        self.seen = [c.p for c in analysis.comparisons]
        self.by_pair = layout_of(o).grown_in_pairs
        self.chances: dict[tuple[int, int], np.ndarray] = {}
        self.gaps: dict[tuple[object, ...], float | None] = {}
        self.spent = 0.0
        self.searched: set[int] = set()

    @property
    def exact(self) -> bool:
        """Whether the chance can be enumerated: two arms of single cuttings without blocks."""
        return len(self.pairs) == 1 and not self.o.blocks and not self.o.clustered

    # The number for the rates seen

    def least(self, pair: int) -> int | None:
        """Units to add for one comparison; None where ten times as many would not do."""
        found = self._least(pair)
        self.searched.add(pair)
        return found

    def why_none(self, pair: int) -> str:
        """Code of why no number would do at the rates seen: they are one, or too near."""
        a, b = self.pairs[pair]
        return "even" if self.rates[a] == self.rates[b] else "beyond"

    def _least(self, pair: int) -> int | None:
        a, b = self.pairs[pair]
        if self.rates[a] == self.rates[b]:
            return None
        most = (MOST_TIMES - 1) * int(self.units[[a, b]].max())
        if self.exact and self.units[[a, b]].max() <= ONE_BY_ONE:
            return next((m for m in range(1, most + 1) if self.chance(pair, m) >= ENOUGH), None)
        guess = self._guess(pair, float(self.rates[a]), float(self.rates[b]))
        found = self._halving(lambda m: self.chance(pair, m), self.step, most, guess)
        return found if self.exact else self._settled(pair, found, most)

    @property
    def step(self) -> int:
        """Units that are added at once: one to every block."""
        return self.blocks if self.blocks > 1 and not self.by_pair else 1

    def _settled(self, pair: int, found: int | None, most: int) -> int | None:
        """The number held again by more trials, and moved to where the chance crosses what is aimed at."""
        if found is None:
            return None
        while found <= most and self.chance(pair, found, LAST_TRIALS) < ENOUGH:
            found += self.step
        while found > self.step and self.chance(pair, found - self.step, LAST_TRIALS) >= ENOUGH:
            found -= self.step
        return found if found <= most else None

    def _guess(self, pair: int, p: float, q: float) -> int:
        """About how many more, by the normal formula with the family's strictest level: where the search starts."""
        from scipy.special import ndtri

        a, b = self.pairs[pair]
        each = float(np.mean([self.sizes[arm].mean() for arm in (a, b)]))
        z = float(ndtri(1 - self.alpha / (2 * len(self.pairs)))) + float(ndtri(ENOUGH))
        inflated = 1 + (each - 1) * self.icc
        needed = z**2 * (p * (1 - p) + q * (1 - q) + 0.02) / (p - q) ** 2 * inflated / each
        return max(1, ceil(needed - float(self.units[[a, b]].mean())))

    def chance(self, pair: int, more: int, trials: int = TRIALS) -> float:
        """Of finding the difference with so many units more in every arm."""
        if self.exact:
            a, b = self.pairs[pair]
            n_a, n_b = (int(self.units[arm]) + more for arm in (a, b))
            return pair_power(float(self.rates[a]), n_a, float(self.rates[b]), n_b, self.alpha)
        if (more, trials) not in self.chances:
            tested = self._pairs_again(more, trials) if self.by_pair else self._arms_again(more, trials)
            self.chances[more, trials] = (holm_many(tested) < self.alpha).mean(axis=0)
        return float(self.chances[more, trials][pair])

    def _pairs_again(self, more: int, trials: int) -> np.ndarray:
        """Pairs as seen, so many more: both, the first, the second or none rooted; p of every trial, shape (trials, 1)."""
        whole = (self.o.stuck == 1).all(axis=1)
        seen = self.o.rooted[whole]
        counts = np.bincount(2 * seen[:, 0] + seen[:, 1], minlength=4)
        rng = np.random.default_rng([self.analysis.settings.seed, 2])
        drawn = rng.multinomial(len(seen) + more, counts / counts.sum(), size=trials)
        return np.array([[_mcnemar(int(first), int(second))] for _, second, first, _ in drawn])

    def _arms_again(self, more: int, trials: int) -> np.ndarray:
        """p of every simulated trial and pair, shape (trials, pairs)."""
        rng = np.random.default_rng([self.analysis.settings.seed, 2])
        means, strata = [], []
        for arm, n in enumerate(self.units.tolist()):
            sizes = self._sizes(arm, int(n) + more)
            means.append(self._unit_means(float(self.rates[arm]), sizes, trials, rng))
            strata.append(self._strata(sizes.size))
        return np.column_stack([self._tested(means[a], means[b], strata[a], strata[b]) for a, b in self.pairs])

    def _tested(self, first: np.ndarray, second: np.ndarray, at: np.ndarray, also_at: np.ndarray) -> np.ndarray:
        """p of one pair in every trial, by the test that decides."""
        units = first.shape[1] + second.shape[1]
        if not self.o.clustered and units > MANY_CUTTINGS:
            self.spent += first.shape[0] * units
            return _by_normal(first, second, at, also_at)
        sets = -(-first.shape[0] // SHARING)
        self.spent += DRAWS * units * (first.shape[0] + REDRAW * sets)
        if self.spent > BUDGET:
            raise OutOfBudget
        labels = np.repeat([0, 1], [first.shape[1], second.shape[1]])
        layout = ShuffledWithin(labels, np.concatenate([at, also_at]))
        rng = np.random.default_rng([self.analysis.settings.seed, 3])
        return two_labels(np.hstack([first, second]), layout, rng, DRAWS, SHARING, counted=False)

    def _sizes(self, arm: int, units: int) -> np.ndarray:
        """Cuttings of each unit: those of the arm's own units, over and over."""
        own = np.sort(self.sizes[arm])
        if own.size == 1 and len(self.sizes) > 1:  # a lone vessel says nothing of what pots would hold
            own = np.concatenate([s for s in self.sizes if s.size > 1] or [own])
        return np.resize(np.sort(own), units)

    def _strata(self, units: int) -> np.ndarray:
        """Blocks of an arm's units, as even as can be."""
        return np.arange(units) % self.blocks

    def _unit_means(self, rate: float, sizes: np.ndarray, trials: int, rng: np.random.Generator) -> np.ndarray:
        """Share rooted of every unit, shape (trials, units)."""
        rates = np.full((trials, sizes.size), rate)
        if self.icc > 0 and 0 < rate < 1:
            spread = (1 - self.icc) / self.icc
            rates = rng.beta(rate * spread, (1 - rate) * spread, size=rates.shape)
        return np.asarray(rng.binomial(sizes, rates) / sizes)

    @staticmethod
    def _halving(chance: Callable[[int], float], step: int, most: int, guess: int) -> int | None:
        """The least multiple of ``step`` that is enough, looked for around the guess; None beyond ``most``."""
        most = max(step, most - most % step)
        high = min(most, max(step, guess // step * step))
        low = 0
        while chance(high) < ENOUGH:
            if high == most:
                return None
            low, high = high, min(most, max(high + step, high * 3 // 2 // step * step))
        if low == 0:
            while (below := high * 2 // 3 // step * step) >= step and chance(below) >= ENOUGH:
                high = below
            low = max(0, min(high - step, high * 2 // 3 // step * step))
        while high - low > step:
            middle = (low + high) // (2 * step) * step
            middle = middle if low < middle < high else low + step
            low, high = (low, middle) if chance(middle) >= ENOUGH else (middle, high)
        return high

    # The number for the margin, and the smallest gap: the other pairs of the family as they were seen

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
        return self._halving(
            lambda m: self.alone(pair, low, margin, m), self.step, most, self._guess(pair, low, low + margin)
        )

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
        rates = (low, min(1.0, low + gap))
        if self.exact:
            n_a, n_b = (int(self.units[arm]) + more for arm in (a, b))
            return pair_power(rates[0], n_a, rates[1], n_b, self.alpha)
        rng = np.random.default_rng([self.analysis.settings.seed, 5])
        sizes = [self._sizes(arm, int(self.units[arm]) + more) for arm in (a, b)]
        first, second = (self._unit_means(rate, n, TRIALS, rng) for rate, n in zip(rates, sizes, strict=True))
        p = self._tested(first, second, self._strata(sizes[0].size), self._strata(sizes[1].size))
        return float((p < self._limit(pair)).mean())

    def _limit(self, pair: int) -> float:
        """The p that one pair must stay below for Holm's to stay below alpha, the other pairs as they were seen."""
        low, high = 0.0, self.alpha
        for _ in range(40):
            middle = (low + high) / 2
            adjusted = holm([middle if i == pair else p for i, p in enumerate(self.seen)])[pair]
            low, high = (middle, high) if adjusted is not None and adjusted < self.alpha else (low, middle)
        return high


def _by_normal(first: np.ndarray, second: np.ndarray, at: np.ndarray, also_at: np.ndarray) -> np.ndarray:
    """p of many single cuttings: the hypergeometric sums of the strata are all but normal, continuity corrected (Agresti 2013, ch. 3)."""
    from scipy.special import ndtr

    away, variance = np.zeros(first.shape[0]), np.zeros(first.shape[0])
    for s in range(int(max(at.max(), also_at.max())) + 1):
        k_a, k_b = first[:, at == s].sum(axis=1), second[:, also_at == s].sum(axis=1)
        n_a, n_b = int((at == s).sum()), int((also_at == s).sum())
        k, n = k_a + k_b, n_a + n_b
        if n > 1:
            away += k_a - k * n_a / n
            variance += k * (n - k) * n_a * n_b / (n * n * (n - 1))
    z = np.maximum(0.0, np.abs(away) - 0.5) / np.sqrt(np.maximum(variance, 1e-12))
    return np.where(variance > 0, 2 * ndtr(-z), 1.0)


def _mcnemar(first: int, second: int) -> float:
    """Exact two-sided p of discordant pairs."""
    from scipy.special import bdtr

    n = first + second
    return 1.0 if n == 0 or first == second else float(min(1.0, 2 * bdtr(min(first, second), n, 0.5)))
