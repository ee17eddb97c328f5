"""Other readings of a trial's scores: rows for each response, and for each 'would the answer change'."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from functools import partial

import numpy as np

from orderly_bench.core.compare.number_over_time import Described, NumberOverTime, described, over_time
from orderly_bench.core.compare.sensitivity import Answer, Scenario, would_it_change
from orderly_bench.core.errors import OrderlyError
from orderly_bench.core.judgement.analysis import analyse
from orderly_bench.core.judgement.result import Analysis
from orderly_bench.core.judgement.settings import Settings
from orderly_bench.core.layouts.arrange import arrange
from orderly_bench.core.layouts.kinds import planned
from orderly_bench.core.messages.translation import dated
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.methods.randomisation import NOTHING_RANDOMISED
from orderly_bench.core.observations.table import Row
from orderly_bench.core.plan.question import Exploratory
from orderly_bench.core.question.others import margin_of_other, named_beside
from orderly_bench.core.responses.kind import Response
from orderly_bench.core.responses.registry import kind_of
from orderly_bench.core.vocabulary import Fit, Roots, Score
from orderly_bench.evidence.memory import digest_of, remembered
from orderly_bench.evidence.rows import primary_rows, rows_for, value_of
from orderly_bench.evidence.verdict import Evidence
from orderly_bench.record.facts import CuttingResult, checks_on, died_since, factor_names, results_at, row_of
from orderly_bench.record.settings import settings_of
from orderly_bench.record.value import TrialRecord

NUMBERS = (Response.ROOT_COUNT, Response.LONGEST, Response.FIT, Response.ALIVE)


#: Measures beside the number that are drawn over time, described, with what says that somebody judged it.
OVER_TIME: dict[Response, Callable[[Score], object]] = {
    Response.LONGEST: lambda score: score.longest_root_mm,
    Response.FOLIAGE: lambda score: score.foliage,
}


def _over_time(found: Evidence, response: Response) -> tuple[np.ndarray, np.ndarray] | None:
    """A response of every cutting at every planned day on which somebody's was judged, and those days; None with fewer than two."""
    record, judged = found.record, OVER_TIME.get(response)
    days = sorted(
        {
            check.planned_das
            for check in record.checks
            if check.opened and check.planned_das <= found.day and check.sample is None
        }
    )
    visits = [{r.cutting.id: r for r in results_at(record, checks_on(record, day))} for day in days]
    ids = [r.cutting.id for r in found.results]
    values = np.array([[_seen(response, visit.get(id)) for visit in visits] for id in ids], dtype=float)
    seen = [i for i in range(len(days)) if not np.isnan(values[:, i]).all()] if values.size else []
    if judged is not None:
        seen = [i for i in seen if any(r.score and judged(r.score) is not None for r in visits[i].values())]
    return (values[:, seen], np.array([days[i] for i in seen], dtype=float)) if len(seen) > 1 else None


def described_over_time(found: Evidence) -> dict[Response, Described]:
    """Longest root and foliage over time, where they were judged at two checks at least; nothing is tested."""
    if found.analysis is None:
        return {}
    letters = list(found.record.arm_names)
    arm = np.array([letters.index(r.cutting.unit.arm) for r in found.results])
    seen = {response: _over_time(found, response) for response in OVER_TIME}
    return {response: described(*of, arm, len(letters)) for response, of in seen.items() if of is not None}


def numbers_over_time(found: Evidence) -> NumberOverTime | None:
    """Root number of every cutting at every check at which some were counted; None with fewer than two such checks.

    Days are those planned. Where whole plots or waves were drawn the areas have no test of their own.
    """
    record, analysis = found.record, found.analysis
    if analysis is None or analysis.settings.look:
        return None
    chosen = _over_time(found, Response.ROOT_COUNT)
    if chosen is None:
        return None
    cuttings = [r.cutting for r in found.results]
    letters = list(record.arm_names)
    units = {unit: number for number, unit in enumerate(dict.fromkeys(c.unit.id for c in cuttings))}
    members: list[list[int]] = [[] for _ in units]
    for i, cutting in enumerate(cuttings):
        members[units[cutting.unit.id]].append(i)
    blocks = [cuttings[inside[0]].unit.group("block") or "" for inside in members]
    strata = np.unique(blocks, return_inverse=True)[1]
    arm = np.array([letters.index(c.unit.arm) for c in cuttings])
    rng = np.random.default_rng([analysis.settings.seed, 4])
    drawn_so = planned(record.plan.design.layout).shuffles_units
    made = over_time(*chosen, arm, members, strata, rng, analysis.settings.draws, len(letters))
    return made if drawn_so else replace(made, test=NOTHING_RANDOMISED)


def _seen(response: Response, result: CuttingResult | None) -> float:
    """What was seen of a response; not a number where nobody looked."""
    value = value_of(response, result) if result is not None else None
    return float("nan") if value is None else value


#: What of a score says something of a response that roots alone do not say.
_NOTED: dict[Response, Callable[[Score], bool]] = {
    Response.ROOT_COUNT: lambda score: score.root_number is not None,
    Response.LONGEST: lambda score: score.longest_root_mm is not None,
    Response.FIT: lambda score: score.fit is not Fit.NOT_JUDGED,
}


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
    primary = found.record.plan.question.response
    return [one for one in dict.fromkeys([Response.ROOTED, *used, Response.DAYS]) if one is not primary]


def _recorded(response: Response, found: Evidence, results: Sequence[CuttingResult]) -> bool:
    """Whether anything of a response was written down; where nothing rooted, that is all there is of roots."""
    if response is Response.DAYS:
        return len({check.planned_das for check in found.record.checks if check.opened}) > 1
    noted = _NOTED.get(response)
    if noted is None or not any(result.outcome.rooted for result in results):
        return True
    return any(noted(result.score) for result in results if result.score is not None)


def explore(found: Evidence) -> dict[Response, Analysis | str]:
    """Every other response, exploratory; a sentence where it can't be analysed."""
    record = found.record
    asked = record.plan.question
    factors, base = factor_names(record), replace(settings_of(record), dose=None)
    analyses: dict[Response, Analysis | str] = {}
    named = named_beside(asked.others)
    for response in dict.fromkeys([*named, *_responses(found)]):
        one = named.get(response)
        results = _on_its_day(found, one)
        if results is None:
            analyses[response] = _("day {day} was not looked at", day=one.day if one else 0)
            continue
        if not _recorded(response, found, results):
            analyses[response] = _("not recorded")
            continue
        rows = rows_for(record, results, response)
        usual = asked.margin_points / 100 if kind_of(response).yes_no else None
        margin = margin_of_other(one) if one is not None else usual
        settings = replace(base, margin=margin, response=response, not_worse=base.not_worse and margin is not None)
        key = digest_of("explore", factors, rows, settings)
        analyses[response] = remembered(key, partial(_analysed, factors, rows, settings))
    return analyses


def _on_its_day(found: Evidence, one: Exploratory | None) -> list[CuttingResult] | None:
    """What was seen on the day an endpoint was named for; None where nobody looked."""
    if one is None or one.day in (None, found.day):
        return found.results
    checks = {lot: check for lot, check in checks_on(found.record, one.day or 0).items() if check.opened}
    return results_at(found.record, checks) if checks else None


def _analysed(factors: list[str], rows: list[Row], settings: Settings) -> Analysis | str:
    try:
        return analyse(arrange(factors, rows), settings)
    except OrderlyError as error:
        return str(error)


def scenarios_of(found: Evidence) -> list[Scenario]:
    """The readings of the table 'would the answer change'."""
    record, results = found.record, found.results
    scenarios = []
    rooted = record.plan.question.response is Response.ROOTED
    if rooted:
        failed = [row_of(record, r.cutting, float(r.outcome.rooted or False), r.outcome.state) for r in results]
        scenarios = [
            Scenario(_("only cuttings fit to pot on count"), rows_for(record, results, Response.FIT)),
            Scenario(_("missing and unexamined count as failures"), failed),
        ]
    scenarios += _since(record, results)
    for incident in record.incidents_until_end:
        kept = [r for r in results if r.cutting.unit.id not in incident.units]
        units = _("{n:unit|units}", n=len(incident.units))
        name = _(
            "without the {units} touched: {kind}, {first_day:%-d %b}",
            units=units,
            kind=incident.kind,
            first_day=incident.first_day,
        )
        scenarios.append(Scenario(name, primary_rows(record, kept)))
    if record.given:
        kept = [r for r in results if r.cutting.unit.id not in record.given]
        scenarios.append(
            Scenario(_("without the {n} given another treatment", n=len(record.given)), primary_rows(record, kept))
        )
    for day in sorted({check.planned_das for check in record.checks if check.opened} - {found.day}) if rooted else []:
        checks = checks_on(record, day)
        way = next(check.way for check in checks.values() if check.opened)
        scenarios.append(Scenario(_("at the check of day {day}, {way}", day=day, way=way), _earlier(record, day)))
    return scenarios


def _since(record: TrialRecord, results: list[CuttingResult]) -> list[Scenario]:
    """What died after the endpoint counts as none that came of it."""
    died, response = dict(record.died_later), record.plan.question.response
    if not any(died_since(record, results).values()) or not kind_of(response).yes_no:
        return []
    rows = [
        replace(row, response=0.0) if r.cutting.id in died and row.response else row
        for r, row in zip(results, rows_for(record, results, response), strict=True)
    ]
    return [Scenario(_("as of {day}, what died since counts as failed", day=dated(max(died.values()))), rows, True)]


def _earlier(record: TrialRecord, day: int) -> list[Row]:
    """Rows at an earlier check; roots not looked for then are left out."""
    return [
        row_of(record, r.cutting, None if r.score and r.score.roots is Roots.NOT_LOOKED else _known(r), r.outcome.state)
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
