"""The evidence of one trial at its endpoint, or at an earlier check: the analysis and everything that stands beside it."""

from __future__ import annotations

from dataclasses import dataclass, replace

from orderly_bench.core.cautions import Caution
from orderly_bench.core.compare.as_done import PlannedAndDone, planned_and_done
from orderly_bench.core.compare.tops import TopsAgainstRoots, tops_against_roots
from orderly_bench.core.errors import UnusableData
from orderly_bench.core.judgement.analysis import analyse
from orderly_bench.core.judgement.comparisons import turned
from orderly_bench.core.judgement.more_units import with_more_units
from orderly_bench.core.judgement.result import Analysis
from orderly_bench.core.judgement.strength import grade
from orderly_bench.core.layouts.arrange import arrange
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.plan.question import TrialKind
from orderly_bench.core.question.not_counted import counted_alone
from orderly_bench.core.responses.kind import Response
from orderly_bench.core.score.findings import Finding
from orderly_bench.core.telling.headline import Reading, read
from orderly_bench.core.telling.one_rate import OneRate, one_rate
from orderly_bench.core.telling.prediction import PredictionResult, hold_prediction
from orderly_bench.core.vocabulary import Strength
from orderly_bench.evidence.memory import digest_of, remembered
from orderly_bench.evidence.rows import primary_rows, value_of
from orderly_bench.evidence.shared_alpha import Shared, shared_alpha
from orderly_bench.record.departures import departures_of
from orderly_bench.record.doubts import log_cautions, prediction_doubts
from orderly_bench.record.facts import (
    CuttingResult,
    checks_on,
    endpoint_checks,
    factor_names,
    findings_of,
    known_by_arm,
    reconciliation_of,
    results_at,
    treated,
)
from orderly_bench.record.settings import settings_of
from orderly_bench.record.value import CheckRecord, TrialRecord


@dataclass(frozen=True)
class Evidence:
    """What the chapters after scoring show.

    ``checks`` are those it rests on, one for each lot; ``day`` is the day after sticking they were planned for;
    ``replacements`` the results of pieces that stand in for early losses, in no count of the trial.
    """

    record: TrialRecord
    checks: tuple[CheckRecord, ...]
    day: int
    results: list[CuttingResult]
    analysis: Analysis | None
    unusable: str
    reading: Reading | None
    departures: list[str]
    cautions: list[Caution]
    reconciliation: dict[str, dict[str, int]]
    tops: list[TopsAgainstRoots]
    prediction: PredictionResult | None
    findings: list[Finding]
    as_done: list[PlannedAndDone]
    replacements: list[CuttingResult]
    known_by: dict[str, dict[str, int]]
    rate: OneRate | None = None
    shared: Shared | None = None

    @property
    def check(self) -> CheckRecord:
        """The first of the checks, for its way of looking and date."""
        return self.checks[0]

    @property
    def counted(self) -> str:
        """What a figure of the endpoint counts, in words."""
        response = self.record.plan.question.response
        if response is Response.DAYS:
            known = len(self.analysis.observations.known) if self.analysis else 0
        else:
            known = sum(1 for result in self.results if value_of(response, result) is not None)
        return _("{known} of {n:cutting|cuttings} with a known outcome", known=str(known), n=len(self.results))

    @property
    def closed(self) -> bool:
        """Whether it is the endpoint, closed for every lot that counts."""
        return all(check.endpoint and check.closed for check in self.checks)


def analysis_of(record: TrialRecord, results: list[CuttingResult], shared: Shared | None = None) -> Analysis:
    """The analysis, recomputed only when rows or settings changed; held to what planned looks have left of alpha."""
    rows, settings = primary_rows(record, results), settings_of(record)
    settings = settings if shared is None else replace(settings, alpha=shared.alpha)
    control = next((arm for arm in record.plan.treatments.arms if arm.control), None)
    if control is not None and all(cutting.unit.arm != control.id for cutting in record.counted):
        raise UnusableData(
            _("of the control, {name}, nothing was stuck", name=record.arm_names[control.id]),
            _("Nothing can be held against it"),
        )
    factors = factor_names(record)
    return remembered(digest_of("primary", factors, rows, settings), lambda: analyse(arrange(factors, rows), settings))


def evidence_at(record: TrialRecord, planned_das: int | None = None) -> Evidence:
    """Everything the later chapters show about the endpoint, or about the checks planned for another day."""
    checks = endpoint_checks(record) if planned_das is None else checks_on(record, planned_das)
    results = results_at(record, checks)
    departures = departures_of(record)
    cautions = log_cautions(record, results)
    analysis, unusable, found, rate, shared = None, "", None, None, None
    try:
        if record.plan.design.stuck:
            unusable = _alone(record, results)
        elif record.plan.question.kind is TrialKind.RATE:
            rate = one_rate(arrange([], primary_rows(record, results), 1), settings_of(record))
            unusable, cautions = rate.sentence, [*cautions, *rate.cautions]
        else:
            shared = shared_alpha(record, planned_das)
            analysis = analysis_of(record, results, shared)
            found = read(analysis, departures, cautions)
    except UnusableData as error:
        unusable = str(error)
    prediction = _prediction(record, analysis, _clearly_above(analysis, departures, cautions))
    cautions += prediction_doubts(record, results, prediction is not None and prediction.came_true)
    names = record.arm_names
    tops = [(names[r.cutting.unit.arm], r.score.top if r.score else None, r.outcome.rooted) for r in results]
    used = {r.cutting.lot.id for r in results if r.cutting.lot is not None}
    resting = tuple(check for lot, check in checks.items() if lot in used) or tuple(checks.values())
    return Evidence(
        record=record,
        checks=resting,
        day=record.plan.question.endpoint_day if planned_das is None else planned_das,
        results=results,
        analysis=analysis,
        unusable=unusable,
        reading=found,
        departures=departures,
        cautions=cautions,
        reconciliation=reconciliation_of(record, results),
        tops=tops_against_roots(names.values(), tops),
        prediction=prediction,
        findings=findings_of(record, results),
        as_done=sorted(planned_and_done(treated(record, results)), key=lambda row: row.arm),
        replacements=results_at(record, checks, [c for c in record.cuttings if c.replaces is not None]),
        known_by=known_by_arm(record, results),
        rate=rate,
        shared=shared,
    )


def _alone(record: TrialRecord, results: list[CuttingResult]) -> str:
    """Of a trial of which nobody counted what was stuck, those with roots by arm."""
    rooted = {name: 0 for name in record.arm_names.values()}
    for one in results:
        rooted[record.arm_names[one.cutting.unit.arm]] += bool(one.outcome.rooted)
    return counted_alone(rooted, record.plan.design.stuck)


def with_how_many_more(found: Evidence) -> Evidence:
    """The same, with how many more units would find the pairs that are not settled: it takes a search, so it is apart.

    Where the verdict speaks of factors no pair is in question.
    """
    if found.analysis is None or found.reading is None or found.reading.by_factor:
        return found
    first = found.analysis
    key = digest_of("more units", first.observations.factors, first.observations.rows, first.settings)
    analysis = remembered(key, lambda: with_more_units(first))
    return replace(found, analysis=analysis, reading=read(analysis, found.departures, found.cautions))


def _clearly_above(analysis: Analysis | None, departures: list[str], cautions: list[Caution]) -> set[tuple[str, str]]:
    """Pairs of arms of which the first came out clearly above the second, and the strength carries it; none of a look."""
    if analysis is None or analysis.settings.look:
        return set()
    doubts = [*analysis.cautions, *cautions]
    carried = [
        turned(c)
        for c in analysis.comparisons
        if c.verdict.clear and grade(c, doubts, bool(departures)).strength is not Strength.CANNOT_TELL
    ]
    return {(c.a.name, c.b.name) for c in carried}


def _prediction(record: TrialRecord, analysis: Analysis | None, above: set[tuple[str, str]]) -> PredictionResult | None:
    if record.prediction is None or analysis is None:
        return None
    names = record.arm_names
    known = [(arm.name, arm.rate if arm.estimate is None else arm.estimate) for arm in analysis.arms]
    rates = {name: rate for name, rate in known if rate is not None}
    ranking = [names[letter] for letter in record.prediction.ranking]
    if set(rates) != set(ranking):
        return None
    short = {name: f"{letter} ({name})" for letter, name in names.items()}
    return hold_prediction(ranking, rates, short, above, bool(record.prediction.late))
