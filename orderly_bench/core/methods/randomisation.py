"""The result of a randomisation test, and the Monte Carlo p-value.

p = (1 + hits) / (1 + draws) is never 0 and keeps the level (Phipson & Smyth 2010,
*Permutation p-values should never be zero*, Stat Appl Genet Mol Biol 9:39).
"""

from __future__ import annotations

from dataclasses import dataclass
from math import sqrt

from orderly_bench.core.errors import finite


@dataclass(frozen=True)
class RandomisationTest:
    """Outcome of one randomisation test.

    Attributes
    ----------
    p : float or None
        None when nothing was randomised.
    exact : bool
        Every assignment was counted; otherwise ``draws`` random ones were.
    draws : int or None
        Monte Carlo draws, None when exact.
    statistic : float or None
        Observed value of the statistic.
    direction : float or None
        The first side's statistic less its expectation: above 0 where it did better. None where the statistic has no direction.
    """

    p: float | None
    exact: bool
    draws: int | None
    statistic: float | None
    direction: float | None = None

    def __post_init__(self) -> None:
        finite("randomisation test", self.p, self.statistic)

    @property
    def monte_carlo_error(self) -> float | None:
        """Standard error of a Monte Carlo p; None when exact."""
        if self.draws is None or self.p is None:
            return None
        return sqrt(self.p * (1 - self.p) / self.draws)


#: Of what nothing drew.
NOTHING_RANDOMISED = RandomisationTest(None, True, None, None)


def monte_carlo_p(hits: int, draws: int, statistic: float | None, direction: float | None = None) -> RandomisationTest:
    """The test from ``hits`` draws at least as extreme as the observed one, out of ``draws``."""
    return RandomisationTest((1 + hits) / (1 + draws), False, draws, statistic, direction)
