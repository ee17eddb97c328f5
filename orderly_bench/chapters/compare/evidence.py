"""The evidence of one trial: its rows, the analysis, and everything Compare, Conclude and the report show."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from orderly_bench.chapters.compare.memory import digest_of, remembered
from orderly_bench.chapters.compare.models import InterimLook
from orderly_bench.chapters.design.operations import digest_holds
from orderly_bench.chapters.question.operations import standing_prediction
from orderly_bench.chapters.score.models import CheckVisit, ScoreRecord
from orderly_bench.chapters.score.operations import Scores, carried_into, checks_of, current_scores, outside_window
from orderly_bench.chapters.tend.operations import incidents_of, treatment_changes_of, treatments_given
from orderly_bench.core.cautions import Caution
from orderly_bench.core.compare.analysis import Analysis, Settings, analyse
from orderly_bench.core.compare.as_done import PlannedAndDone, Treated, doubt_about_treatments, planned_and_done
from orderly_bench.core.compare.observations import NOT_STUCK, Row, arrange
from orderly_bench.core.compare.reading import PredictionResult, Reading, hold_prediction, read
from orderly_bench.core.compare.tops import TopsAgainstRoots, tops_against_roots
from orderly_bench.core.errors import InvalidInput, Refused, UnusableData
from orderly_bench.core.score.endpoint import Outcome, outcome_at_endpoint, reconcile
from orderly_bench.core.score.findings import (
    Finding,
    VisitScores,
    question_arms,
    question_reconciliation,
    question_visits,
)
from orderly_bench.core.score.visibility import doubts_about_visibility
from orderly_bench.core.tend.schedule import days_after_sticking
from orderly_bench.core.vocabulary import KnownBy, LayoutKind, Roots, State, Top
from orderly_bench.trial.audit import record
from orderly_bench.trial.load import stuck_cuttings
from orderly_bench.trial.models import Cutting, Person, Trial

DRAWS = 20_000
#: States in which a cutting's roots could be looked at.
SEEN_STATES = (State.ALIVE, State.LOOKS_DEAD, State.CANNOT_TELL)


@dataclass(frozen=True)
class CuttingResult:
    """One stuck cutting at one check, with what it counts as."""

    cutting: Cutting
    score: ScoreRecord | None
    carried: bool
    outcome: Outcome


@dataclass(frozen=True)
class Evidence:
    """What the chapters after scoring show."""

    check: CheckVisit
    results: list[CuttingResult]
    analysis: Analysis | None
    unusable: str
    reading: Reading | None
    departures: list[str]
    cautions: list[Caution]
    reconciliation: dict[str, dict[str, int]]
    tops: list[TopsAgainstRoots]
    prediction: PredictionResult | None
    plan_intact: bool
    findings: list[Finding]
    scores: Scores
    as_done: list[PlannedAndDone]


def results_at(
    session: Session, check: CheckVisit, cuttings: list[Cutting] | None = None, known: Scores | None = None
) -> list[CuttingResult]:
    """Every stuck cutting at one check, in bench order; ``cuttings`` and ``known`` scores when they are loaded already."""
    scores = (current_scores(session, [check]) if known is None else known)[check.id]
    carried = carried_into(session, check, known)
    results = []
    for cutting in stuck_cuttings(session, check.trial) if cuttings is None else cuttings:
        own, earlier = scores.get(cutting.id), carried.get(cutting.id)
        outcome = outcome_at_endpoint(own.as_score() if own else None, earlier.as_score() if earlier else None)
        results.append(CuttingResult(cutting, own or earlier, own is None and earlier is not None, outcome))
    return results


def settings_of(trial: Trial) -> Settings:
    """Settings of the analysis; the seed comes from the plan's digest, so a reload gives the same figures."""
    seed = int((trial.digest or "1")[:7], 16)
    return Settings(alpha=trial.alpha, margin=trial.margin_points / 100, draws=DRAWS, seed=seed)


def row_of(cutting: Cutting, response: float | None, state: str, **more: Any) -> Row:
    """One cutting with the groups its unit was drawn in; the unit is named where it holds several."""
    unit = cutting.unit
    return Row(
        unit.arm.level_names,
        response,
        unit.group("block"),
        state,
        unit=unit.code if len(unit.cuttings) > 1 else None,
        pair=unit.group("pair"),
        whole_plot=unit.group("whole plot"),
        row=unit.group("row"),
        column=unit.group("column"),
        **more,
    )


def never_stuck(trial: Trial) -> list[Cutting]:
    """Places of a pair or a square that stayed empty: they keep the layout whole and are no cuttings."""
    if trial.layout not in (LayoutKind.PAIRS, LayoutKind.LATIN_SQUARE):
        return []
    return [c for unit in trial.units for c in unit.cuttings if c.status == "not stuck"]


def rows_of(trial: Trial, results: list[CuttingResult]) -> list[Row]:
    """The rows an analysis works on: the same that the endpoint CSV holds."""
    rows = [
        row_of(r.cutting, None if r.outcome.rooted is None else float(r.outcome.rooted), r.outcome.state)
        for r in results
    ]
    return rows + [row_of(cutting, None, NOT_STUCK) for cutting in never_stuck(trial)]


def analysis_of(trial: Trial, results: list[CuttingResult]) -> Analysis:
    """The analysis, recomputed only when rows or settings changed."""
    rows, settings = rows_of(trial, results), settings_of(trial)
    factors = [factor.name for factor in trial.factors]
    return remembered(digest_of("primary", factors, rows, settings), lambda: analyse(arrange(factors, rows), settings))


def reconciliation_of(trial: Trial, results: list[CuttingResult]) -> dict[str, dict[str, int]]:
    """Counts by arm name and column; each arm's columns add up to its stuck."""
    return {arm.name: reconcile([r.outcome for r in results if r.cutting.unit.arm_id == arm.id]) for arm in trial.arms}


def departures_of(session: Session, trial: Trial, check: CheckVisit) -> list[str]:
    """Ways in which the plan was not followed, each as a phrase."""
    found = [f"amended {a.at:%-d %b}: {a.what}" for a in trial.amendments]
    away = outside_window(check, trial)
    if away is not None and check.day and trial.day_zero:
        das = days_after_sticking(check.day, trial.day_zero)
        found.append(f"the endpoint was scored on day {das}, {away} days outside its window")
    looks = session.scalars(select(InterimLook).where(InterimLook.trial_id == trial.id).order_by(InterimLook.at))
    found += [f"arms were compared early, {look.at:%-d %b} by {look.person.name}" for look in looks]
    changed = {change.unit_id for change in treatment_changes_of(session, trial)}
    if changed:
        found.append(f"{len(changed)} {'unit was' if len(changed) == 1 else 'units were'} given another treatment")
    for other in checks_of(session, trial):
        if not other.is_endpoint and other.opened_at is None:
            found.append(f"the check of day {other.planned_das} was not done")
    if not digest_holds(trial):
        found.append("the stored plan no longer has the digest it was locked with")
    return found


def log_cautions(session: Session, trial: Trial, results: list[CuttingResult]) -> list[Caution]:
    """Rival explanations from the log: incidents, scorers who knew the arms, approximate dates."""
    found = []
    for incident in incidents_of(session, trial):
        touched = [unit.arm.letter for unit in incident.units]
        spread = ", ".join(f"{arm.letter} {touched.count(arm.letter)}" for arm in trial.arms)
        days = f"{incident.first_day:%-d %b}" + (
            f" to {incident.last_day:%-d %b}" if incident.last_day != incident.first_day else ""
        )
        found.append(
            Caution(
                "incident",
                f"{incident.kind.capitalize()}, {days}: {len(touched)} units touched ({spread}).",
                "Compare again without them; see whether the answer changes",
            )
        )
    found += doubt_about_treatments(treated(session, trial, results))
    found += doubts_about_visibility(_grades(trial, results))
    knowing = {r.score.person.name for r in results if r.score and not r.score.blind and not r.carried}
    if knowing and trial.blind:
        found.append(
            Caution(
                "not_blind",
                f"{', '.join(sorted(knowing))} scored knowing, or able to know, the arms.",
                "Have a drawn share scored again by a blind scorer",
            )
        )
    if trial.day_zero and not trial.day_zero.exact:
        found.append(
            Caution(
                "day_zero_approximate",
                "The sticking day is approximate, so days are ranges; the middle is used.",
                "Find the exact day if you can",
            )
        )
    return found


def _grades(trial: Trial, results: list[CuttingResult]) -> dict[str, list[KnownBy | None]]:
    """How the roots of each arm's cuttings are known; None where nobody looked. The dead and gone take no part."""
    grades: dict[str, list[KnownBy | None]] = {arm.name: [] for arm in trial.arms}
    for r in results:
        if r.score is not None and not r.carried and r.score.state in SEEN_STATES:
            looked = r.score.roots != Roots.NOT_LOOKED
            grades[r.cutting.unit.arm.name].append(KnownBy(r.score.known_by) if looked else None)
    return grades


def treated(session: Session, trial: Trial, results: list[CuttingResult]) -> list[Treated]:
    """Every cutting with its arm as planned and as given."""
    given = treatments_given(session, trial)
    return [
        Treated(
            r.cutting.unit.arm.letter,
            given[r.cutting.unit_id].letter if r.cutting.unit_id in given else r.cutting.unit.arm.letter,
            r.outcome.rooted,
        )
        for r in results
    ]


def evidence_at(session: Session, trial: Trial, check: CheckVisit) -> Evidence:
    """Everything the later chapters show about one check."""
    known = current_scores(session, checks_of(session, trial))
    results = results_at(session, check, None, known)
    departures = departures_of(session, trial, check)
    cautions = log_cautions(session, trial, results)
    analysis, unusable, reading = None, "", None
    try:
        analysis = analysis_of(trial, results)
        reading = read(analysis, departures, cautions)
    except UnusableData as error:
        unusable = str(error)
    named = [
        (r.cutting.unit.arm.name, Top(r.score.top) if r.score and r.score.top else None, r.outcome.rooted)
        for r in results
    ]
    return Evidence(
        check,
        results,
        analysis,
        unusable,
        reading,
        departures,
        cautions,
        reconciliation_of(trial, results),
        tops_against_roots(named),
        _prediction(session, trial, analysis),
        digest_holds(trial),
        _findings(session, trial, results, known),
        known,
        sorted(planned_and_done(treated(session, trial, results)), key=lambda row: row.arm),
    )


def _findings(session: Session, trial: Trial, results: list[CuttingResult], scores: Scores) -> list[Finding]:
    """Questions to the data over all checks done."""
    if trial.day_zero is None:
        return []
    done = [c for c in checks_of(session, trial) if c.opened_at and c.day]
    codes = {r.cutting.id: r.cutting.code for r in results}
    visits = [
        VisitScores(c.planned_das, c.day, {codes[i]: s.as_score() for i, s in scores[c.id].items() if i in codes})
        for c in done
        if c.day is not None
    ]
    counted = {arm.name: sum(1 for r in results if r.cutting.unit.arm_id == arm.id and r.score) for arm in trial.arms}
    sums = reconciliation_of(trial, results)
    stuck = {arm.name: sum(1 for r in results if r.cutting.unit.arm_id == arm.id) for arm in trial.arms}
    unbalanced = [question_reconciliation(arm, stuck[arm], sums[arm]) for arm in sums]
    return [*question_visits(visits, trial.day_zero), *question_arms(counted), *(f for f in unbalanced if f)]


def _prediction(session: Session, trial: Trial, analysis: Analysis | None) -> PredictionResult | None:
    prediction = standing_prediction(session, trial)
    if prediction is None or analysis is None:
        return None
    rates = {arm.name: arm.rate for arm in analysis.arms}
    if set(rates) != set(prediction.ranking):
        return None
    return hold_prediction(prediction.ranking, rates, {arm.name: f"{arm.letter} ({arm.name})" for arm in trial.arms})


def endpoint_of(session: Session, trial: Trial) -> CheckVisit:
    """The endpoint check of a locked trial."""
    check = next((c for c in checks_of(session, trial) if c.is_endpoint), None)
    if check is None:
        raise Refused("The plan is not locked, so it has no endpoint check yet. Lock it on the Design page.")
    return check


def record_interim_look(session: Session, trial: Trial, actor: Person, now: datetime, reason: str) -> None:
    """Keep that someone compares the arms before the endpoint check closed."""
    if not reason.strip():
        raise InvalidInput("reason for looking early", "say why; it is kept and named in the verdict")
    if len(reason) > 500:
        raise InvalidInput("reason for looking early", "keep it within 500 characters", f"{len(reason)} characters")
    session.add(InterimLook(trial_id=trial.id, person_id=actor.id, reason=reason.strip(), at=now))
    session.flush()
    record(session, actor, now, "looked early", trial, why=reason)
