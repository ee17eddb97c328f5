"""A drawn share scored again by another who does not see the first: how far the two agree.

Rooted or not: Cohen's kappa (`agreement.py`). Number of roots: mean difference with its limits of agreement, mean +- 1.96 SD of the
differences (Bland and Altman 1986, Lancet 327:307).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import ceil, sqrt
from typing import TypeVar

import numpy as np

from orderly_bench.core.cautions import Caution
from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.say import caution
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.score.agreement import kappa

T = TypeVar("T")
#: Fewer are drawn only where there are fewer.
FEWEST = 5
#: Pairs of numbers from which limits are given.
FEWEST_FOR_LIMITS = 5
#: Below it two scorers agree only moderately (Landis and Koch 1977, Biometrics 33:159).
MODERATE = 0.6


@dataclass(frozen=True)
class Twice:
    """One cutting as both saw it; None where a scorer could not tell, or counted no roots."""

    first_rooted: bool | None
    second_rooted: bool | None
    first_number: int | None = None
    second_number: int | None = None


@dataclass(frozen=True)
class Agreement:
    """How far two scorers agree.

    Attributes
    ----------
    both, same : int
        Cuttings judged rooted or not by both, and those judged alike.
    kappa : float or None
        None where both used one class only, or nothing was judged twice.
    numbers : int
        Cuttings whose roots both counted.
    difference, low, high : float or None
        Mean of second less first, roots; limits of agreement from five on.
    """

    both: int
    same: int
    kappa: float | None
    numbers: int
    difference: float | None
    low: float | None
    high: float | None

    @property
    def words(self) -> str:
        """In one line."""
        parts = [_("{same} of {both} judged alike", same=str(self.same), both=str(self.both))]
        if self.kappa is not None:
            parts.append(_("kappa {kappa:.2f}", kappa=self.kappa))
        elif self.both:
            parts.append(_("no kappa: both saw one class only"))
        if self.difference is not None:
            parts.append(
                _(
                    "the second counted {difference:+.1f} roots in the mean over {n}",
                    difference=self.difference,
                    n=str(self.numbers),
                )
            )
        if self.low is not None and self.high is not None:
            parts.append(_("limits {low:+.1f} to {high:+.1f}", low=self.low, high=self.high))
        return ", ".join(parts).replace("-", "−")


def draw_share(of: Sequence[T], percent: float, rng: np.random.Generator) -> list[T]:
    """A drawn share of so many per cent, rounded up, in the order given; at least five where there are as many.

    Raises
    ------
    InvalidInput
        Not between 1 and 100 per cent.
    """
    if not 1 <= percent <= 100:
        raise InvalidInput("share to be scored again", _("must be between 1 and 100 per cent"), percent)
    n = min(len(of), max(FEWEST, ceil(len(of) * percent / 100)))
    return [of[i] for i in sorted(rng.choice(len(of), size=n, replace=False))]


def agreement_of(pairs: Sequence[Twice]) -> Agreement:
    """Agreement over the cuttings that both scored."""
    judged = [
        (p.first_rooted, p.second_rooted) for p in pairs if p.first_rooted is not None and p.second_rooted is not None
    ]
    table = np.zeros((2, 2))
    for first, second in judged:
        table[int(first), int(second)] += 1
    away = [
        p.second_number - p.first_number for p in pairs if p.first_number is not None and p.second_number is not None
    ]
    mean = float(np.mean(away)) if away else None
    wide = 1.96 * float(np.std(away, ddof=1)) if len(away) >= FEWEST_FOR_LIMITS else None
    limits = (mean - wide, mean + wide) if mean is not None and wide is not None else (None, None)
    return Agreement(len(judged), int(table.trace()), kappa(table) if judged else None, len(away), mean, *limits)


def doubts_of_agreement(agreement: Agreement) -> list[Caution]:
    """Scorers who part: by kappa, or by a difference in number that is clear of nothing (t above 2)."""
    found = []
    if agreement.kappa is not None and agreement.kappa < MODERATE:
        found.append(caution("scorers_part", kappa=f"{agreement.kappa:.2f}".replace("-", "−"), n=agreement.both))
    if agreement.difference is not None and agreement.high is not None:
        sd = (agreement.high - agreement.difference) / 1.96
        if abs(agreement.difference) > 2 * sd / sqrt(agreement.numbers):
            more = f"{agreement.difference:+.1f}".replace("-", "−")
            found.append(caution("scorers_part", "number", more=more, n=agreement.numbers))
    return found
