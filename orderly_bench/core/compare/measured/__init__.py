"""One file per way of measuring: what a response answers when its trial is read."""

from __future__ import annotations

from typing import TYPE_CHECKING

from orderly_bench.core.compare.measured.classes import Classes
from orderly_bench.core.compare.measured.days import Days
from orderly_bench.core.compare.measured.grades import Grades
from orderly_bench.core.compare.measured.length import Length
from orderly_bench.core.compare.measured.measured import Measured
from orderly_bench.core.compare.measured.number import Number
from orderly_bench.core.compare.measured.yes_no import YesNo
from orderly_bench.core.responses.kind import Response

if TYPE_CHECKING:
    from orderly_bench.core.compare.observations import Observations

MEASURED: dict[Response, type[Measured]] = {
    Response.ROOTED: YesNo,
    Response.FIT: YesNo,
    Response.ALIVE: YesNo,
    Response.ROOT_COUNT: Number,
    Response.ROOT_CLASS: Classes,
    Response.LONGEST: Length,
    Response.QUALITY: Grades,
    Response.FOLIAGE: Grades,
    Response.DAYS: Days,
}


def measured(observations: Observations, response: Response) -> Measured:
    """The response over these observations."""
    return MEASURED[response](observations, response)
