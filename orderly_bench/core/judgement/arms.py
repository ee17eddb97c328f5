"""Each arm on its own: counts, estimate, interval, and what the response adds."""

from __future__ import annotations

from dataclasses import dataclass, field

from orderly_bench.core.methods.rates import Interval
from orderly_bench.core.observations.table import Observations
from orderly_bench.core.responses.added import Added
from orderly_bench.core.responses.outcomes import Outcomes


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
    """

    name: str
    levels: dict[str, str]
    stuck: int
    rooted: int
    left_out: int
    estimate: float | None
    interval: Interval | None
    added: Added = field(default=None)

    @property
    def rate(self) -> float | None:
        """k/n; None where no outcome is known."""
        return self.rooted / self.stuck if self.stuck else None


def arm_results(outcomes: Outcomes, level: float, exact: bool = False, intervals: bool = True) -> list[ArmResult]:
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
    o, results = outcomes.o, []
    for i, arm in enumerate(o.arms):
        alone = outcomes.alone(i, level, exact)
        results.append(
            ArmResult(
                o.names[i],
                dict(zip(o.factors, arm, strict=True)),
                int(o.stuck[:, i].sum()),
                int(o.counted[i]),
                int(o.left_out[:, i].sum()),
                alone.estimate,
                alone.interval if intervals else None,
                alone.added,
            )
        )
    return results


def unknown_results(observations: Observations) -> list[ArmResult]:
    """Arms of which nothing is known: how many were stuck, and no estimate."""
    o = observations
    return [
        ArmResult(
            o.names[i], dict(zip(o.factors, o.arms[i], strict=True)), 0, 0, int(o.left_out[:, i].sum()), None, None
        )
        for i in o.unknown_arms
    ]
