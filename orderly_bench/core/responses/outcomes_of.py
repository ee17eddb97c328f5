"""One file per way of measuring: what a response answers when its trial is read."""

from __future__ import annotations

from orderly_bench.core.observations.table import Observations
from orderly_bench.core.responses.class_outcomes import ClassOutcomes
from orderly_bench.core.responses.count_outcomes import CountOutcomes
from orderly_bench.core.responses.grade_outcomes import GradeOutcomes
from orderly_bench.core.responses.kind import Response
from orderly_bench.core.responses.length_outcomes import LengthOutcomes
from orderly_bench.core.responses.outcomes import Outcomes
from orderly_bench.core.responses.rate_outcomes import RateOutcomes
from orderly_bench.core.responses.time_outcomes import TimeOutcomes

OUTCOMES: dict[Response, type[Outcomes]] = {
    Response.ROOTED: RateOutcomes,
    Response.FIT: RateOutcomes,
    Response.ALIVE: RateOutcomes,
    Response.ROOT_COUNT: CountOutcomes,
    Response.ROOT_CLASS: ClassOutcomes,
    Response.LONGEST: LengthOutcomes,
    Response.QUALITY: GradeOutcomes,
    Response.FOLIAGE: GradeOutcomes,
    Response.DAYS: TimeOutcomes,
}


def outcomes_of(observations: Observations, response: Response) -> Outcomes:
    """The response over these observations."""
    return OUTCOMES[response](observations, response)
