"""Before the trial: the smallest reachable p and the exact power of two arms of single cuttings.

Power by enumerating every outcome (Casagrande, Pike & Smith 1978, Appl Stat 27:176, for the exact
test); the test is the same |T - E T| hypergeometric test that decides at the end.
"""

from __future__ import annotations

from dataclasses import dataclass

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.methods.smallest_p import check_per_arm
from orderly_bench.core.methods.two_arms import pair_power


@dataclass(frozen=True)
class Power:
    """Chance that the test finds the difference, with how it was computed."""

    power: float
    monte_carlo_error: float | None
    method: str


def exact_power(rate_a: float, rate_b: float, per_arm: int, alpha: float = 0.05) -> Power:
    """Exact power of two arms of ``per_arm`` single cuttings.

    Parameters
    ----------
    rate_a, rate_b : float
        Assumed true rooting rates, 0 to 1.
    per_arm : int
        At most 2,000.
    alpha : float
        Rejection is p < alpha.
    """
    for name, rate in ((_("rate of the first arm"), rate_a), (_("rate of the second arm"), rate_b)):
        if not 0 <= rate <= 1:
            raise InvalidInput(name, _("must lie between 0 and 1"), rate)
    check_per_arm(per_arm, 1)
    return Power(pair_power(rate_a, per_arm, rate_b, per_arm, alpha), None, "exact enumeration")
