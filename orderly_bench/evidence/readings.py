"""Other readings of a trial's scores: rows for each response, and for each 'would the answer change'."""

from __future__ import annotations

from dataclasses import replace
from functools import partial

import numpy as np

from orderly_bench.core.compare.analysis import Analysis, Settings, analyse
from orderly_bench.core.compare.arrange import arrange
from orderly_bench.core.compare.layout_tests import NOTHING_RANDOMISED
from orderly_bench.core.compare.number_over_time import NumberOverTime, over_time
from orderly_bench.core.compare.observations import Row
from orderly_bench.core.compare.sensitivity import Answer, Scenario, would_it_change
from orderly_bench.core.errors import OrderlyError
from orderly_bench.core.responses.kind import DEAD, Response
from orderly_bench.core.responses.registry import kind_of
from orderly_bench.core.tend.schedule import days_after_sticking
from orderly_bench.core.vocabulary import LayoutKind, Roots
from orderly_bench.evidence.memory import digest_of, remembered
from orderly_bench.evidence.verdict import Evidence
from orderly_bench.record.reading import (
    CuttingResult,
    checks_on,
    factor_names,
    results_at,
    row_of,
    rows_of,
    settings_of,
)
from orderly_bench.record.value import TrialRecord

NUMBERS = (Response.ROOT_COUNT, Response.LONGEST, Response.FIT, Response.ALIVE)


def _row(record: TrialRecord, result: CuttingResult, response: float | None, **more: object) -> Row:
    return row_of(record, result.cutting, response, result.outcome.state, **more)


def value_of(response: Response, result: CuttingResult) -> float | None:
    """What a cutting's score says of a response; None when unknown."""
    return kind_of(response).from_score(result.score, result.outcome.rooted)


def days_rows(record: TrialRecord) -> list[Row]:
    """Days to root: the last check without and the first with roots, death as the competing event; each from its own lot."""
    days = sorted({check.planned_das for check in record.checks if check.day and check.opened})
    visits = [{r.cutting.id: r for r in results_at(record, checks_on(record, day))} for day in days]
    rows = []
    for result in visits[-1].values() if visits else []:
        last: float | None = None
        found: tuple[str, float] | None = None
        for results in visits:
            seen, lot = results[result.cutting.id], result.cutting.lot
            if (
                seen.score is None
                or seen.carried
                or seen.check is None
                or seen.check.day is None
                or lot is None
                or found
            ):
                continue
            das = float(days_after_sticking(seen.check.day, lot.day_zero))
            if seen.score.state in DEAD:
                found = ("dead", das)
            elif seen.outcome.rooted:
                found = ("rooted", das)
            elif seen.outcome.rooted is False:
                last = das
        outcome, first = found or ("censored", None)
        rows.append(_row(record, result, None, last_without_day=last, first_with_day=first, outcome=outcome))
    return rows


def numbers_over_time(found: Evidence) -> NumberOverTime | None:
    """Root number of every cutting at every check at which some were counted; None with fewer than two such checks.

    Days are those planned. Where whole plots or waves were drawn the areas have no test of their own.
    """
    record, analysis = found.record, found.analysis
    if analysis is None or analysis.settings.look:
        return None
    days = sorted({check.planned_das for check in record.checks if check.opened and check.planned_das <= found.day})
    visits = [{r.cutting.id: r for r in results_at(record, checks_on(record, day))} for day in days]
    cuttings = [r.cutting for r in found.results]
    counts = np.array([[_number(visit.get(c.id)) for visit in visits] for c in cuttings], dtype=float)
    counted = [i for i in range(len(days)) if not np.isnan(counts[:, i]).all()] if counts.size else []
    if len(counted) < 2:
        return None
    letters = list(record.arm_names)
    units = {unit: number for number, unit in enumerate(dict.fromkeys(c.unit.id for c in cuttings))}
    members: list[list[int]] = [[] for _ in units]
    for i, cutting in enumerate(cuttings):
        members[units[cutting.unit.id]].append(i)
    blocks = [cuttings[inside[0]].unit.group("block") or "" for inside in members]
    strata = np.unique(blocks, return_inverse=True)[1]
    arm = np.array([letters.index(c.unit.arm) for c in cuttings])
    rng = np.random.default_rng([analysis.settings.seed, 4])
    chosen = counts[:, counted], np.array([days[i] for i in counted], dtype=float)
    drawn_so = record.plan.design.layout in (LayoutKind.COMPLETELY_RANDOMISED, LayoutKind.COMPLETE_BLOCKS)
    made = over_time(*chosen, arm, members, strata, rng, analysis.settings.draws)
    return made if drawn_so else replace(made, test=NOTHING_RANDOMISED)


def _number(result: CuttingResult | None) -> float:
    """Roots counted; not a number where nobody counted."""
    value = value_of(Response.ROOT_COUNT, result) if result is not None else None
    return float("nan") if value is None else value


def _responses(found: Evidence) -> list[Response]:
    """Responses that were scored; classes and quality only where someone used them."""
    scores = [r.score for r in found.results if r.score is not None]
    used = list(NUMBERS)
    if any(score.root_class for score in scores):
        used.insert(1, Response.ROOT_CLASS)
    if any(score.quality is not None for score in scores):
        used.insert(-2, Response.QUALITY)
    if any(score.foliage is not None for score in scores):
        used.append(Response.FOLIAGE)
    return [*used, Response.DAYS]


def explore(found: Evidence) -> dict[Response, Analysis | str]:
    """Every other response, exploratory; a sentence where it can't be analysed."""
    record = found.record
    factors, base = factor_names(record), replace(settings_of(record), dose=None)
    analyses: dict[Response, Analysis | str] = {}
    for response in _responses(found):
        if response is Response.DAYS:
            rows = days_rows(record)
        else:
            rows = [_row(record, r, value_of(response, r)) for r in found.results]
        margin = base.margin if kind_of(response).yes_no else None
        settings = replace(base, margin=margin, response=response)
        key = digest_of("explore", factors, rows, settings)
        analyses[response] = remembered(key, partial(_analysed, factors, rows, settings))
    return analyses


def _analysed(factors: list[str], rows: list[Row], settings: Settings) -> Analysis | str:
    try:
        return analyse(arrange(factors, rows), settings)
    except OrderlyError as error:
        return str(error)


def scenarios_of(found: Evidence) -> list[Scenario]:
    """The readings of the table 'would the answer change'."""
    record, results = found.record, found.results
    scenarios = [
        Scenario("only cuttings fit to pot on count", [_row(record, r, value_of(Response.FIT, r)) for r in results]),
        Scenario(
            "missing and unexamined count as failures",
            [_row(record, r, float(r.outcome.rooted or False)) for r in results],
        ),
    ]
    for incident in record.incidents:
        kept = [r for r in results if r.cutting.unit.id not in incident.units]
        units = f"{len(incident.units)} unit{'s' if len(incident.units) != 1 else ''}"
        name = f"without the {units} touched: {incident.kind}, {incident.first_day:%-d %b}"
        scenarios.append(Scenario(name, rows_of(record, kept)))
    if record.given:
        kept = [r for r in results if r.cutting.unit.id not in record.given]
        scenarios.append(Scenario(f"without the {len(record.given)} given another treatment", rows_of(record, kept)))
    for day in sorted({check.planned_das for check in record.checks if check.opened} - {found.day}):
        checks = checks_on(record, day)
        way = next(check.way for check in checks.values() if check.opened)
        scenarios.append(Scenario(f"at the check of day {day}, {way}", _earlier(record, day)))
    return scenarios


def _earlier(record: TrialRecord, day: int) -> list[Row]:
    """Rows at an earlier check; roots not looked for then are left out."""
    return [
        _row(record, r, None if r.score and r.score.roots is Roots.NOT_LOOKED else _known(r))
        for r in results_at(record, checks_on(record, day))
    ]


def _known(result: CuttingResult) -> float | None:
    return None if result.outcome.rooted is None else float(result.outcome.rooted)


def would_answers_change(found: Evidence) -> list[Answer]:
    """The table, for a trial with a verdict."""
    if found.reading is None or not found.reading.findings:
        return []
    factors, settings, reading = (
        factor_names(found.record),
        replace(settings_of(found.record), dose=None),
        found.reading,
    )
    scenarios = scenarios_of(found)
    key = digest_of("change", factors, scenarios, settings, reading.findings[0].comparison)
    return remembered(key, lambda: would_it_change(factors, scenarios, settings, reading))
