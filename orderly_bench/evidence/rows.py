"""Rows of an analysis from a trial's scores, for the primary endpoint and for any other response."""

from __future__ import annotations

from orderly_bench.core.observations.over_time import Look, days_to_root
from orderly_bench.core.observations.table import NOT_STUCK, Row
from orderly_bench.core.responses.kind import DEAD, Response
from orderly_bench.core.responses.registry import kind_of
from orderly_bench.core.tend.schedule import days_after_sticking
from orderly_bench.record.facts import CuttingResult, checks_on, endpoint_checks, never_stuck, results_at, row_of
from orderly_bench.record.value import TrialRecord


def value_of(response: Response, result: CuttingResult) -> float | None:
    """What a cutting's score says of a response; None when unknown."""
    return kind_of(response).from_score(result.score, result.outcome.rooted)


def shares_by_arm(record: TrialRecord) -> dict[str, float]:
    """By arm's letter, the share of a yes-or-no endpoint among what is known; arms of which nothing is known are left out."""
    known: dict[str, list[float]] = {}
    for result in results_at(record, endpoint_checks(record)):
        value = value_of(record.plan.question.response, result)
        if value is not None:
            known.setdefault(result.cutting.unit.arm, []).append(value)
    return {letter: sum(values) / len(values) for letter, values in known.items()}


def primary_rows(record: TrialRecord, results: list[CuttingResult]) -> list[Row]:
    """The rows the verdict rests on, of the response that the plan names: the same that the endpoint CSV holds."""
    return rows_for(record, results, record.plan.question.response)


def rows_for(record: TrialRecord, results: list[CuttingResult], response: Response) -> list[Row]:
    """Rows of one response; places of a pair or square that stayed empty keep the layout whole."""
    if response is Response.DAYS:
        kept = {r.cutting.id for r in results}
        by_id = days_by_cutting(record)
        return [row for cutting, row in by_id.items() if cutting in kept]
    rows = [row_of(record, r.cutting, value_of(response, r), r.outcome.state) for r in results]
    return rows + [row_of(record, cutting, None, NOT_STUCK) for cutting in never_stuck(record)]


def days_by_cutting(record: TrialRecord) -> dict[int, Row]:
    """Days to root of every cutting: the last check without and the first with roots, death as the competing event.

    Days are counted from each cutting's own lot.
    """
    days = sorted({check.planned_das for check in record.checks if check.day and check.opened})
    visits = [{r.cutting.id: r for r in results_at(record, checks_on(record, day))} for day in days]
    rows = {}
    for number, result in {number: result for visit in visits for number, result in visit.items()}.items():
        lot = result.cutting.lot
        lived = days_to_root(
            Look(
                float(days_after_sticking(seen.kept.day, lot.day_zero)),
                seen.outcome.rooted,
                seen.kept.score.state in DEAD,
            )
            for seen in (visit[number] for visit in visits if number in visit)
            if not seen.carried and seen.kept is not None and lot is not None
        )
        rows[number] = row_of(
            record,
            result.cutting,
            None,
            result.outcome.state,
            last_without_day=lived.last_without,
            first_with_day=lived.first_with,
            outcome=lived.outcome,
        )
    return rows
