"""Other readings of a trial's scores: rows for each response, and for each 'would the answer change'."""

from __future__ import annotations

from functools import partial

from sqlalchemy.orm import Session

from orderly_bench.chapters.compare.evidence import CuttingResult, Evidence, results_at, row_of, rows_of, settings_of
from orderly_bench.chapters.compare.memory import digest_of, remembered
from orderly_bench.chapters.score.models import CheckVisit
from orderly_bench.chapters.score.operations import Scores, checks_of
from orderly_bench.chapters.tend.operations import incidents_of, treatments_given
from orderly_bench.core.compare.analysis import Analysis, Settings, analyse
from orderly_bench.core.compare.observations import Row, arrange
from orderly_bench.core.compare.responses import Response
from orderly_bench.core.compare.sensitivity import Answer, Scenario, would_it_change
from orderly_bench.core.errors import OrderlyError
from orderly_bench.core.score.classes import CLASSES, class_floor
from orderly_bench.core.tend.schedule import days_after_sticking
from orderly_bench.core.vocabulary import Fit, Roots, State
from orderly_bench.trial.models import Cutting, Trial

DEAD = (State.DEAD, State.TAKEN_OUT_DEAD)
NUMBERS = (Response.ROOT_COUNT, Response.LONGEST, Response.FIT, Response.ALIVE)


def _row(result: CuttingResult, response: float | None, **more: object) -> Row:
    return row_of(result.cutting, response, result.outcome.state, **more)


def fit_to_pot_on(result: CuttingResult) -> float | None:
    """Yes or no as judged; dead and rootless are not; not judged is left out."""
    if result.outcome.rooted is False:
        return 0.0
    if result.score is None or result.score.fit == Fit.NOT_JUDGED or result.outcome.rooted is None:
        return None
    return float(result.score.fit == Fit.YES)


def alive(result: CuttingResult) -> float | None:
    """Alive at the check; missing and taken out otherwise are left out."""
    if result.score is None:
        return None
    if result.score.state in DEAD:
        return 0.0
    return 1.0 if result.score.state in (State.ALIVE, State.LOOKS_DEAD) else None


def root_count(result: CuttingResult) -> float | None:
    """Roots counted, 0 for none and for the dead; seen but not counted is left out."""
    if result.outcome.rooted is False:
        return 0.0
    if result.score is None or result.outcome.rooted is None:
        return None
    return None if result.score.root_number is None else float(result.score.root_number)


def longest_root_mm(result: CuttingResult) -> float | None:
    """Longest root, 0 for none; not measured is left out."""
    if result.outcome.rooted is False:
        return 0.0
    return None if result.score is None or result.outcome.rooted is None else result.score.longest_root_mm


def quality(result: CuttingResult) -> float | None:
    """Grade of the roots, 0 for none and for the dead; not judged is left out."""
    if result.outcome.rooted is False:
        return 0.0
    if result.score is None or result.outcome.rooted is None or result.score.quality is None:
        return None
    return float(result.score.quality)


def root_class(result: CuttingResult) -> float | None:
    """Least root number of the class; counted numbers fall into theirs."""
    if result.outcome.rooted is False:
        return 0.0
    if result.score is None or result.outcome.rooted is None:
        return None
    if result.score.root_class:
        return float(class_floor(result.score.root_class))
    number = result.score.root_number
    return None if number is None else float(max(f for f in map(class_floor, CLASSES) if f <= number))


READ_AS = {
    Response.QUALITY: quality,
    Response.ROOT_CLASS: root_class,
    Response.FIT: fit_to_pot_on,
    Response.ALIVE: alive,
    Response.ROOT_COUNT: root_count,
    Response.LONGEST: longest_root_mm,
}


def days_rows(
    session: Session, trial: Trial, cuttings: list[Cutting] | None = None, known: Scores | None = None
) -> list[Row]:
    """Days to root: the last check without and the first with roots, death as the competing event."""
    visits = [
        (c, {r.cutting.id: r for r in results_at(session, c, cuttings, known)})
        for c in checks_of(session, trial)
        if c.day and c.opened_at
    ]
    rows = []
    for result in visits[-1][1].values() if visits else []:
        last: float | None = None
        found: tuple[str, float] | None = None
        for check, results in visits:
            seen = results[result.cutting.id]
            if seen.score is None or seen.carried or check.day is None or result.cutting.lot is None or found:
                continue
            das = float(days_after_sticking(check.day, result.cutting.lot.day_zero))
            if seen.score.state in DEAD:
                found = ("dead", das)
            elif seen.outcome.rooted:
                found = ("rooted", das)
            elif seen.outcome.rooted is False:
                last = das
        outcome, first = found or ("censored", None)
        rows.append(_row(result, None, last_without_day=last, first_with_day=first, outcome=outcome))
    return rows


def _responses(found: Evidence) -> list[Response]:
    """Responses that were scored; classes and quality only where someone used them."""
    scores = [r.score for r in found.results if r.score is not None]
    used = list(NUMBERS)
    if any(score.root_class for score in scores):
        used.insert(1, Response.ROOT_CLASS)
    if any(score.quality is not None for score in scores):
        used.insert(-2, Response.QUALITY)
    return [*used, Response.DAYS]


def explore(session: Session, trial: Trial, found: Evidence) -> dict[Response, Analysis | str]:
    """Every other response, exploratory; a sentence where it can't be analysed."""
    factors = [factor.name for factor in trial.factors]
    base = settings_of(trial)
    cuttings = [r.cutting for r in found.results]
    analyses: dict[Response, Analysis | str] = {}
    for response in _responses(found):
        rows = (
            days_rows(session, trial, cuttings, found.scores)
            if response is Response.DAYS
            else [_row(r, READ_AS[response](r)) for r in found.results]
        )
        margin = base.margin if response.binary else None
        settings = Settings(alpha=base.alpha, margin=margin, draws=base.draws, seed=base.seed, response=response)
        key = digest_of("explore", factors, rows, settings)
        analyses[response] = remembered(key, partial(_analysed, factors, rows, settings))
    return analyses


def _analysed(factors: list[str], rows: list[Row], settings: Settings) -> Analysis | str:
    try:
        return analyse(arrange(factors, rows), settings)
    except OrderlyError as error:
        return str(error)


def scenarios_of(session: Session, trial: Trial, found: Evidence) -> list[Scenario]:
    """The readings of the table 'would the answer change'."""
    results = found.results
    scenarios = [
        Scenario("only cuttings fit to pot on count", [_row(r, fit_to_pot_on(r)) for r in results]),
        Scenario(
            "missing and unexamined count as failures", [_row(r, float(r.outcome.rooted or False)) for r in results]
        ),
    ]
    for incident in incidents_of(session, trial):
        touched = {unit.id for unit in incident.units}
        kept = [r for r in results if r.cutting.unit_id not in touched]
        name = f"without the {len(touched)} units touched: {incident.kind}, {incident.first_day:%-d %b}"
        scenarios.append(Scenario(name, rows_of(trial, kept)))
    given = treatments_given(session, trial)
    if given:
        kept = [r for r in results if r.cutting.unit_id not in given]
        scenarios.append(Scenario(f"without the {len(given)} given another treatment", rows_of(trial, kept)))
    for check in checks_of(session, trial):
        if check.opened_at and check.id != found.check.id:
            scenarios.append(
                Scenario(
                    f"at the check of day {check.planned_das}, {check.way}",
                    _earlier(session, check, found),
                )
            )
    return scenarios


def _earlier(session: Session, check: CheckVisit, found: Evidence) -> list[Row]:
    """Rows at an earlier check; roots not looked for then are left out."""
    return [
        _row(r, None if r.score and r.score.roots == Roots.NOT_LOOKED else _known(r))
        for r in results_at(session, check, [r.cutting for r in found.results], found.scores)
    ]


def _known(result: CuttingResult) -> float | None:
    return None if result.outcome.rooted is None else float(result.outcome.rooted)


def would_answers_change(session: Session, trial: Trial, found: Evidence) -> list[Answer]:
    """The table, for a trial with a verdict."""
    if found.reading is None:
        return []
    factors = [factor.name for factor in trial.factors]
    scenarios, settings, reading = scenarios_of(session, trial, found), settings_of(trial), found.reading
    key = digest_of("change", factors, scenarios, settings, reading.findings[0].comparison)
    return remembered(key, lambda: would_it_change(factors, scenarios, settings, reading))
