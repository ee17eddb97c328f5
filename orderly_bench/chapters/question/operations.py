"""Ask the question: create a trial, keep its question, describe its arms, record a prediction."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import datetime

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from orderly_bench.core.errors import InvalidInput, Refused
from orderly_bench.core.plan import edit
from orderly_bench.core.plan.difference import difference
from orderly_bench.core.plan.text import to_text
from orderly_bench.core.plan.value import Plan, Question, Schedule, TrialKind
from orderly_bench.core.question import rules
from orderly_bench.core.tend.schedule import read_days
from orderly_bench.trial.audit import record
from orderly_bench.trial.errors import Conflict
from orderly_bench.trial.models import Arm, Lab, Person, Prediction, Trial, Wave
from orderly_bench.trial.turns import take_lab

LONGEST_TEXT = 4_000


@dataclass(frozen=True)
class QuestionValues:
    """The question as typed, already parsed to plain types."""

    kind: str
    botanical_name: str
    cultivar: str
    source: str
    question: str
    why: str
    factors: list[tuple[str, str, list[str]]]
    endpoint_day: int
    check_days: str
    margin_points: float
    stop_rule: str
    care_task: str
    care_every_days: int
    fit_least_roots: int
    fit_least_mm: float
    blind: bool


def create_trial(session: Session, actor: Person, now: datetime, botanical_name: str) -> Trial:
    """A new trial with nothing but a name, the lab's usual settings and a running code of the year."""
    name = botanical_name.strip()
    if not name:
        raise InvalidInput("botanical name", "type the name of the plant to be rooted")
    if len(name) > 120:
        raise InvalidInput("botanical name", "keep it within 120 characters", f"{len(name)} characters")
    take_lab(session)
    year = f"{now:%y}"
    number = 1 + (session.scalar(select(func.count(Trial.id)).where(Trial.code.like(f"{year}-%"))) or 0)
    while session.scalar(select(Trial.id).where(Trial.code == f"{year}-{number:02d}")):
        number += 1
    code = f"{year}-{number:02d}"
    usual = session.scalars(select(Lab)).one().settings
    asked = Question(
        botanical_name=name,
        alpha=usual.alpha,
        margin_points=usual.usual_margin,
        fit_least_roots=usual.fit_least_roots,
        fit_least_mm=usual.fit_least_mm,
    )
    plan = Plan(code, asked)
    trial = Trial(code=code, plan_text=to_text(plan), created_at=now, created_by_id=actor.id)
    trial.waves.extend(Wave(number=wave.number) for wave in plan.schedule.waves)
    session.add(trial)
    session.flush()
    record(session, actor, now, "created the trial", trial, new={"code": code, "botanical_name": name})
    return trial


def refuse_when_locked(trial: Trial) -> None:
    """The plan can't change once locked."""
    if trial.locked_at is not None:
        raise Refused(
            f"The plan was locked on {trial.locked_at:%-d %B %Y} and can't be changed. "
            "Record an amendment with its reason on the Design page instead."
        )


def refuse_when_stale(trial: Trial, version: int, yours: list[str]) -> None:
    """Refuse to write over a plan that changed since the form was opened."""
    if version != trial.version:
        plan = trial.plan
        theirs = [
            f"{trial.taxon}: {plan.question.sentence or 'no question yet'}",
            f"endpoint day {plan.question.endpoint_day}, {plan.design.cuttings_per_arm} per arm, {plan.design.layout}",
        ]
        raise Conflict(
            "Someone else changed this plan while you were typing. Yours is still in the form; compare, then save again.",
            theirs,
            yours,
        )


def _text(name: str, value: str, longest: int) -> str:
    value = value.strip()
    if len(value) > longest:
        raise InvalidInput(name, f"keep it within {longest} characters", f"{len(value)} characters")
    return value


def _asked(values: QuestionValues, before: Question) -> Question:
    if values.kind not in list(TrialKind):
        raise InvalidInput("kind of trial", "choose test or look", values.kind)
    rules.check_fit_rule(values.fit_least_roots, values.fit_least_mm)
    made = replace(
        before,
        kind=TrialKind(values.kind),
        botanical_name=_text("botanical name", values.botanical_name, 120),
        cultivar=_text("cultivar", values.cultivar, 120),
        source=_text("source of the plants", values.source, 200),
        sentence=_text("question", values.question, 300),
        why=_text("why", values.why, LONGEST_TEXT),
        endpoint_day=rules.check_endpoint_day(values.endpoint_day),
        margin_points=rules.check_margin(values.margin_points),
        stop_rule=_text("stop rule", values.stop_rule, LONGEST_TEXT),
        fit_least_roots=values.fit_least_roots,
        fit_least_mm=values.fit_least_mm,
        blind=values.blind,
    )
    if not made.botanical_name:
        raise InvalidInput("botanical name", "type the name of the plant to be rooted")
    if not made.sentence:
        raise InvalidInput("question", "write the one question this trial answers")
    return made


def _scheduled(values: QuestionValues, before: Schedule) -> Schedule:
    if not 0 <= values.care_every_days <= 90:
        raise InvalidInput("care, every so many days", "must be between 0 (none) and 90", values.care_every_days)
    return replace(
        before,
        check_days=tuple(read_days(values.check_days, values.endpoint_day)),
        care_task=_text("care", values.care_task, 120),
        care_every_days=values.care_every_days,
    )


def save_question(
    session: Session, trial: Trial, actor: Person, now: datetime, version: int, values: QuestionValues
) -> None:
    """Keep the question. New factors or levels make the arms anew and put the draw away."""
    refuse_when_locked(trial)
    refuse_when_stale(trial, version, [f"{values.botanical_name}: {values.question}"])
    plan = trial.plan
    asked = _asked(values, plan.question)
    schedule = _scheduled(values, plan.schedule)
    factors = rules.check_factors(values.factors)
    rules.combinations_of([levels for _, _, levels in factors])
    treatments = plan.treatments
    if [(a.kind, a.name, [level.name for level in a.levels]) for a in treatments.asked] != factors:
        treatments = edit.with_factors(treatments, factors)
        every = rules.combinations_of([[level.id for level in aspect.levels] for aspect in treatments.asked])
        treatments = edit.with_arms(treatments, every, None)
        discard_draw(session, trial)
    keep(
        session,
        trial,
        actor,
        now,
        replace(plan, question=asked, schedule=schedule, treatments=treatments),
        "saved the question",
    )


def keep(session: Session, trial: Trial, actor: Person, now: datetime, plan: Plan, action: str) -> None:
    """Put a draft in force, its arms as rows, and what changed in the audit trail."""
    changed = difference(trial.plan, plan)
    trial.keep_plan(plan)
    wanted, there = [arm.id for arm in plan.treatments.arms], {arm.letter: arm for arm in trial.arms}
    if wanted != sorted(there):
        trial.arms[:] = [there.get(letter) or Arm(letter=letter) for letter in wanted]
    session.flush()
    if changed:
        record(session, actor, now, action, trial, new={"changed": changed[:60]})


def describe_arms(
    session: Session,
    trial: Trial,
    actor: Person,
    now: datetime,
    version: int,
    rows: Sequence[edit.Row],
    side_groups: Sequence[tuple[str, str]],
) -> None:
    """Keep what the arms and side groups say of each aspect that is not asked.

    Parameters
    ----------
    rows : sequence of Row
        One for each aspect described; those left out are said no more.
    side_groups : sequence of (name, note)
    """
    refuse_when_locked(trial)
    refuse_when_stale(trial, version, [f"{row.name}: {', '.join(row.values.values())}" for row in rows[:6]])
    plan = trial.plan
    if not plan.treatments.arms:
        raise Refused("Save the factors and their levels first; then the arms can be described.")
    treatments = edit.with_side_groups(plan.treatments, side_groups)
    described = replace(plan, treatments=edit.with_description(treatments, rows))
    own = {arm.id: plan.container_of(arm) for arm in plan.treatments.arms}
    keep(session, trial, actor, now, edit.with_containers(described, plan.design.container, own), "described the arms")


def discard_draw(session: Session, trial: Trial) -> None:
    """Take units and trays of the draw in force away; the draws themselves stay on record."""
    trial.units.clear()
    session.flush()
    trial.trays.clear()
    session.flush()


def record_prediction(
    session: Session, trial: Trial, actor: Person, now: datetime, ranking: list[str], why: str
) -> None:
    """Keep a ranked prediction, arm letters best first. One made after sticking is kept and called retrospective."""
    if not trial.arms:
        raise Refused("Save the factors and their levels first; then the arms can be ranked.")
    kept = rules.check_ranking(ranking, [arm.letter for arm in trial.arms])
    of_arms = trial.plan.treatments.identities()
    session.add(
        Prediction(
            trial_id=trial.id, person_id=actor.id, at=now, ranking=kept, of_arms=of_arms, why=_text("why", why, 500)
        )
    )
    record(session, actor, now, "recorded a prediction", trial, new={"ranking": kept})


def predictions_of(session: Session, trial: Trial) -> list[Prediction]:
    """All predictions, newest first."""
    return list(
        session.scalars(select(Prediction).where(Prediction.trial_id == trial.id).order_by(Prediction.id.desc()))
    )
