"""Each arm on its own: counts, estimate, interval, and what the response adds."""

from __future__ import annotations

from dataclasses import dataclass, field

from orderly_bench.core.compare.measured.measured import Measured
from orderly_bench.core.compare.rates import Interval


@dataclass(frozen=True)
class ArmResult:
    """One arm.

    Attributes
    ----------
    stuck : int
        Cuttings with a known outcome (n).
    rooted : int
        How many count as yes (k); for other responses how many are above 0.
    left_out : int
        Stuck without a known outcome.
    estimate : float or None
        Rate, mean or area, by the response.
    extras : dict
        ``mean_per_rooted``; for days ``cif``, ``median_day`` and ``area``.
    """

    name: str
    levels: dict[str, str]
    stuck: int
    rooted: int
    left_out: int
    estimate: float | None
    interval: Interval | None
    extras: dict[str, object] = field(default_factory=dict)

    @property
    def rate(self) -> float:
        """k/n."""
        return self.rooted / self.stuck


def arm_results(measured: Measured, level: float, exact: bool = False, intervals: bool = True) -> list[ArmResult]:
    """Every arm, in order.

    Parameters
    ----------
    level : float
        Confidence of the intervals.
    exact : bool
        Clopper-Pearson instead of Wilson for single cuttings.
    intervals : bool
        False for a look: counts and estimates only.
    """
    o, results = measured.o, []
    for i, arm in enumerate(o.arms):
        alone = measured.alone(i, level, exact)
        results.append(
            ArmResult(
                o.names[i],
                dict(zip(o.factors, arm, strict=True)),
                int(o.stuck[:, i].sum()),
                int(o.counted[i]),
                int(o.left_out[:, i].sum()),
                alone.estimate,
                alone.interval if intervals else None,
                alone.extras,
            )
        )
    return results
