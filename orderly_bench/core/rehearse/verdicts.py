"""Rehearse a trial: the verdicts it would reach in many trials of assumed rates, by the analysis that will judge it.

Trials with the same counts are judged once. Nothing here decides: ``compare.analysis.judged`` does.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Hashable, Iterable, Iterator
from dataclasses import dataclass
from math import sqrt

import numpy as np

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.judgement.analysis import judged
from orderly_bench.core.judgement.comparisons import Comparison
from orderly_bench.core.judgement.settings import Settings
from orderly_bench.core.judgement.verdict import Verdict
from orderly_bench.core.layouts.from_rows import layout_of
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.rehearse.blank_trial import BlankTrial
from orderly_bench.core.rehearse.outcomes import Guess, simulated
from orderly_bench.core.responses.kind import Scale
from orderly_bench.core.responses.registry import kind_of

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


def rehearse(blank: BlankTrial, rates: tuple[float, float], icc: float, settings: Settings, trials: int) -> Rehearsed:
    """Two arms, rehearsed.

    Parameters
    ----------
    blank : BlankTrial
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
        raise InvalidInput("trials", _("must be between 100 and {most_trials}", most_trials=MOST_TRIALS), trials)
    return summed(run(blank, Guess(rates, icc=icc), settings, trials), rates[0] - rates[1], blank)


@dataclass(frozen=True)
class Trial:
    """One rehearsed trial.

    Attributes
    ----------
    values : ndarray of float, shape (cuttings,)
    comparison : Comparison
        The one rehearsed.
    """

    values: np.ndarray
    comparison: Comparison

    def wrong(self, sign: float) -> bool:
        """Whether it is clear in the wrong direction, the true difference having this sign."""
        return self.comparison.verdict.clear and self.comparison.ahead * sign < 0


def summed(trials: Iterable[Trial], sign: float, blank: BlankTrial) -> Rehearsed:
    """Shares over trials; ``sign`` is that of the true difference, 0 where there is none."""
    found = list(trials)
    counts = Counter(trial.comparison.verdict for trial in found)
    shares = {verdict: counts[verdict] / len(found) for verdict in Verdict}
    wrong = sum(trial.wrong(sign) for trial in found) / len(found) if sign else None
    return Rehearsed(len(found), shares, wrong, layout_of(blank.observations).title)


def run(blank: BlankTrial, guess: Guess, settings: Settings, trials: int, which: int = 0) -> Iterator[Trial]:
    """Trials judged one by one.

    Parameters
    ----------
    which : int
        Place in the family of the comparison rehearsed.
    """
    days = kind_of(guess.response).scale is Scale.DAYS
    rng = np.random.default_rng(settings.seed)
    known: dict[Hashable, Comparison] = {}
    done = 0
    while done < trials:
        for values in simulated(guess, blank.arm, blank.unit, BATCH, rng)[: trials - done]:
            done += 1
            key = _key(blank, guess, values)
            comparison = known.get(key) if key is not None else None
            if comparison is None:
                played = blank.with_lives(values, guess.horizon, guess.looks) if days else blank.with_outcomes(values)
                comparison = judged(played, settings)[which]
                known[key] = comparison
            yield Trial(values, comparison)


def _key(blank: BlankTrial, guess: Guess, values: np.ndarray) -> Hashable:
    """What a verdict on two arms hangs on: rooted in each unit, units sorted inside their block and arm; None where it is more."""
    o = blank.observations
    first_row = o.rows[0]
    plain = first_row.row is None and first_row.whole_plot is None and first_row.wave is None
    if len(o.arms) != 2 or not plain or not kind_of(guess.response).yes_no:
        return None
    totals = np.bincount(blank.unit, weights=values)
    first = np.unique(blank.unit, return_index=True)[1]
    block, arm = o.stratum_of_known[first], o.arm_of_known[first]
    order = np.lexsort((totals, arm, block))
    if blank.unit.size > totals.size:
        return tuple(totals[order].tolist())
    cells = np.bincount(block * len(o.arms) + arm, weights=totals).reshape(-1, len(o.arms))
    return tuple(sorted(map(tuple, cells.tolist())))
