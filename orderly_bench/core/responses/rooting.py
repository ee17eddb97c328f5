"""Whether each cutting rooted, beside a response of those that did."""

from __future__ import annotations

from dataclasses import replace

from orderly_bench.core.observations.table import Observations, Row
from orderly_bench.core.responses.kind import Response

#: The response that says it.
ROOTING = Response.ROOTED


def rooting(observations: Observations, response: Response) -> Observations | None:
    """The same cuttings by whether they rooted; None where that is not known of any cutting of some arm.

    From what is known beside the response, else from the response itself: a number, length or class above none, an outcome of days.
    A grade alone does not tell.
    """
    last = max((row.last_without_day or 0.0 for row in observations.rows if row.outcome == "censored"), default=0.0)
    rows = tuple(replace(row, response=_rooted(row, response, last), outcome="") for row in observations.rows)
    made = Observations(observations.factors, observations.arms, observations.blocks, rows)
    return None if made.unknown_arms else made


def _rooted(row: Row, response: Response, last: float) -> float | None:
    if row.rooted is not None:
        return row.rooted
    if response is Response.DAYS:
        if row.outcome == "censored":
            return 0.0 if (row.last_without_day or 0.0) >= last else None
        return None if not row.outcome else float(row.outcome == "rooted")
    if response in (Response.QUALITY, Response.FOLIAGE) or row.response is None:
        return None
    return float(row.response > 0)
