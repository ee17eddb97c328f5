"""Rehearse a trial: the verdicts it would reach in many trials of assumed rates, by the analysis that will judge it.

Trials with the same counts are judged once. Nothing here decides: ``compare.analysis.judged`` does.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Hashable, Iterator
from dataclasses import dataclass
from math import sqrt

import numpy as np

from orderly_bench.core.compare.analysis import Settings, judged
from orderly_bench.core.compare.comparisons import Comparison
from orderly_bench.core.compare.verdict import Verdict
from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.rehearse.outcomes import Guess, simulated
from orderly_bench.core.rehearse.stage import Stage

TRIALS = 2_000
MOST_TRIALS = 20_000
#: Redraws of a test that is not exact.
DRAWS = 999
#: Trials simulated at once.
BATCH = 200


@dataclass(frozen=True)
class Rehearsed:
    """What came of many trials.

    Attributes
    ----------
    trials : int
    verdicts : dict of Verdict to float
        Share of trials in which the comparison got each verdict.
    wrong_way : float or None
        Share that was clear in the wrong direction; None where the arms are equal.
    mc_error : float
        Standard error of the largest share.
    layout : str
    """

    trials: int
    verdicts: dict[Verdict, float]
    wrong_way: float | None
    layout: str

    @property
    def mc_error(self) -> float:
        """Of the largest share."""
        share = max(self.verdicts.values())
        return sqrt(share * (1 - share) / self.trials)

    @property
    def found(self) -> float:
        """Share of trials that found a difference, in whichever direction."""
        return sum(share for verdict, share in self.verdicts.items() if verdict.clear)


def settings_for(alpha: float, margin: float | None, seed: int) -> Settings:
    """Settings of a rehearsed analysis."""
    return Settings(alpha=alpha, margin=margin, draws=DRAWS, seed=seed)


def rehearse(stage: Stage, rates: tuple[float, float], icc: float, settings: Settings, trials: int) -> Rehearsed:
    """Two arms, rehearsed.

    Parameters
    ----------
    stage : Stage
        Of two arms.
    rates : tuple of float
        True rate of each, 0 to 1.
    icc : float

    Raises
    ------
    InvalidInput
        Too few or too many trials, rates that are none.
    """
    if not 100 <= trials <= MOST_TRIALS:
        raise InvalidInput("trials", f"must be between 100 and {MOST_TRIALS}", trials)
    counts: Counter[Verdict] = Counter()
    wrong = 0
    sign = rates[0] - rates[1]
    rng = np.random.default_rng(settings.seed)
    for comparison in _comparisons(stage, Guess(rates, icc=icc), settings, trials, rng):
        counts[comparison.verdict] += 1
        wrong += comparison.verdict.clear and (comparison.above or 0.0) * sign < 0
    shares = {verdict: counts[verdict] / trials for verdict in Verdict}
    return Rehearsed(trials, shares, wrong / trials if sign else None, stage.observations.layout.title)


def _comparisons(
    stage: Stage, guess: Guess, settings: Settings, trials: int, rng: np.random.Generator
) -> Iterator[Comparison]:
    known: dict[Hashable, Comparison] = {}
    done = 0
    while done < trials:
        batch = min(BATCH, trials - done)
        done += batch
        for values in simulated(guess, stage.arm, stage.unit, batch, rng):
            key = _key(stage, values)
            if key not in known:
                known[key] = judged(stage.with_outcomes(values), settings)[0]
            yield known[key]


def _key(stage: Stage, values: np.ndarray) -> Hashable:
    """What a trial's verdict hangs on: rooted in each unit, units sorted inside their block and arm."""
    o = stage.observations
    totals = np.bincount(stage.unit, weights=values)
    first = np.unique(stage.unit, return_index=True)[1]
    block, arm = o.stratum_of_known[first], o.arm_of_known[first]
    order = np.lexsort((totals, arm, block))
    if stage.unit.size > totals.size:
        return tuple(totals[order].tolist())
    cells = np.bincount(block * len(o.arms) + arm, weights=totals).reshape(-1, len(o.arms))
    return tuple(sorted(map(tuple, cells.tolist())))
