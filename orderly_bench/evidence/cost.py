"""What came of each arm, for the cost of a plant: fit to pot on where that was judged, else rooted."""

from __future__ import annotations

from collections.abc import Mapping

from orderly_bench.core.conclude.cost import Came, Costs, costs_of
from orderly_bench.core.methods.rates import wilson
from orderly_bench.core.plan.treatments import ArmPlan
from orderly_bench.core.responses.kind import Response
from orderly_bench.evidence.rows import value_of
from orderly_bench.evidence.verdict import Evidence
from orderly_bench.evidence.ways import worth
from orderly_bench.record.facts import CuttingResult

#: Judged of at least so large a share of the known, *fit to pot on* is what is counted.
JUDGED = 0.8


def counted_as(evidence: Evidence) -> Response:
    """Fit to pot on, where it was judged of nearly all whose roots are known; else rooted."""
    known = [r for r in evidence.results if r.outcome.rooted is not None]
    judged = sum(value_of(Response.FIT, r) is not None for r in known)
    return Response.FIT if known and judged >= JUDGED * len(known) else Response.ROOTED


def came_of(evidence: Evidence) -> list[Came]:
    """Every arm's counts, with the interval of its share."""
    response, plan = counted_as(evidence), evidence.record.plan
    return [_came(evidence, arm, response) for arm in plan.treatments.arms]


def costs_typed(evidence: Evidence, typed: Mapping[str, str]) -> Costs:
    """What a plant takes by what was typed.

    Raises
    ------
    InvalidInput
        Names the field and the rule.
    """
    asks = evidence.record.plan.question
    return costs_of(came_of(evidence), typed, asks.wanted_by, asks.weeks_in_pot)


def costs_kept(evidence: Evidence, typed: Mapping[str, str] | None) -> Costs | None:
    """The same of what a trial keeps; None where it keeps nothing, or nobody counted what was stuck."""
    return costs_typed(evidence, typed) if typed and not evidence.record.plan.design.stuck else None


def _came(evidence: Evidence, arm: ArmPlan, response: Response) -> Came:
    plan = evidence.record.plan
    own = [r for r in evidence.results if r.cutting.unit.arm == arm.id]
    values: list[tuple[CuttingResult, float]] = [(r, v) for r in own if (v := value_of(response, r)) is not None]
    known = [(r, bool(v)) for r, v in values]
    k, n, single = sum(yes for _, yes in known), len(known), worth(known)
    container = plan.container_of(arm)
    across = container.across_cm or container.volume_ml ** (1 / 3)
    interval = wilson(k * single / n, single) if single is not None and n else None
    return Came(arm.id, k, n, interval, across**2 / plan.per_unit(arm))
