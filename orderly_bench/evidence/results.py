"""Everything that takes time, worked out from a record at once."""

from __future__ import annotations

from dataclasses import dataclass, replace

from orderly_bench.core.compare.number_over_time import Described, NumberOverTime
from orderly_bench.core.compare.sensitivity import Answer
from orderly_bench.core.judgement.result import Analysis
from orderly_bench.core.rehearse.planned_power import planned_too_small
from orderly_bench.core.responses.kind import Response
from orderly_bench.evidence import other_responses, readings
from orderly_bench.evidence.verdict import Evidence, evidence_at, with_how_many_more
from orderly_bench.record.value import TrialRecord


@dataclass(frozen=True)
class Results:
    """The verdict, the other responses, would the answer change, other lenses."""

    found: Evidence
    others: dict[Response, Analysis | str]
    answers: list[Answer]
    lenses: list[tuple[str, str]]
    numbers: NumberOverTime | None
    described: dict[Response, Described]


def work_out(record: TrialRecord, planned_das: int | None = None) -> Results:
    """Results at the endpoint, or at the checks planned for another day."""
    found = with_how_many_more(evidence_at(record, planned_das))
    found = replace(found, cautions=[*found.cautions, *planned_too_small(record.first_plan)])
    return Results(
        found,
        readings.explore(found),
        readings.would_answers_change(found),
        other_responses.lens_rows(found),
        readings.numbers_over_time(found),
        readings.described_over_time(found),
    )
