"""Each arm on its own: counts, estimate, interval, and what the response adds."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

from orderly_bench.core.compare import time_to_root
from orderly_bench.core.compare.clusters import design_effects, rate_interval
from orderly_bench.core.compare.observations import Observations
from orderly_bench.core.compare.rates import Interval, clopper_pearson, wilson
from orderly_bench.core.responses.kind import Response
from orderly_bench.core.responses.registry import kind_of


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


def arm_results(
    observations: Observations, response: Response, level: float, exact: bool = False, intervals: bool = True
) -> list[ArmResult]:
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
    lives = time_to_root.lives_of(observations) if response is Response.DAYS else None
    replicates, shared = observations.layout.replicates, observations.layout.shared
    effects = design_effects(replicates, len(observations.arms)) if kind_of(response).yes_no and shared else None
    results = []
    for i, arm in enumerate(observations.arms):
        k, n = int(observations.counted[i]), int(observations.stuck[:, i].sum())
        interval, estimate = None, None
        extras: dict[str, object] = {}
        if kind_of(response).yes_no:
            estimate = k / n
            interval = (
                rate_interval(replicates, i, effects, level)
                if effects
                else (clopper_pearson(k, n, level) if exact else wilson(k, n, level))
            )
        elif response is Response.ROOT_CLASS:
            extras = _classes_of_arm(observations, i)
        elif lives is not None:
            estimate, extras = _days_of_arm(observations, lives, i)
        else:
            estimate, interval, extras = _mean_of_arm(observations, i, level)
        levels = dict(zip(observations.factors, arm, strict=True))
        out = int(observations.left_out[:, i].sum())
        shown = interval if intervals else None
        results.append(ArmResult(observations.names[i], levels, n, k, out, estimate, shown, extras))
    return results


def _mean_of_arm(
    observations: Observations, arm: int, level: float
) -> tuple[float, Interval | None, dict[str, object]]:
    """Mean per cutting, t interval over unit means, and the mean of those above 0 (described only)."""
    from scipy.special import stdtrit

    values = observations.responses[observations.arm_of_known == arm]
    replicates = observations.layout.replicates
    units = replicates.mean[replicates.arm == arm]
    above = values[values > 0]
    interval = None
    if units.size > 1 and units.std(ddof=1) > 0:
        half = float(stdtrit(units.size - 1, 0.5 + level / 2) * units.std(ddof=1) / np.sqrt(units.size))
        interval = Interval(max(0.0, float(units.mean()) - half), float(units.mean()) + half, level)
    return float(values.mean()), interval, {"mean_per_rooted": float(above.mean()) if above.size else None}


def _classes_of_arm(observations: Observations, arm: int) -> dict[str, object]:
    """Cuttings by least root number of their class, and the class of the middle one; classes have no mean."""
    values = np.sort(observations.responses[observations.arm_of_known == arm]).astype(int)
    counts = {str(floor): int((values == floor).sum()) for floor in np.unique(values).tolist()}
    return {"cuttings_by_class_floor": counts, "median_class_floor": int(values[(values.size - 1) // 2])}


def _days_of_arm(
    observations: Observations, lives: time_to_root.Lives, arm: int
) -> tuple[float | None, dict[str, object]]:
    counts = lives.categories()[observations.arm_of_known == arm].sum(axis=0)
    if lives.checks.size == 0:
        return None, {"cif": {}, "median_day": None, "area": None}
    cumulative = time_to_root.incidence(counts, lives.checks.size)
    area = float(time_to_root.areas(counts, lives.checks)) if lives.checks.size > 1 else None
    cif = {f"{day:g}": float(value) for day, value in zip(lives.checks, cumulative, strict=True)}
    return area, {"cif": cif, "median_day": time_to_root.median_day(cumulative, lives.checks), "area": area}
