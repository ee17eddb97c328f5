"""Ask the question: create a trial, keep its question, record a prediction."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from string import ascii_uppercase

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from orderly_bench.chapters.question.models import Prediction
from orderly_bench.chapters.score.models import CheckVisit, ScoreRecord
from orderly_bench.core.errors import InvalidInput, Refused
from orderly_bench.core.question import plan
from orderly_bench.core.tend.schedule import read_days
from orderly_bench.trial.audit import changes, record
from orderly_bench.trial.errors import Conflict
from orderly_bench.trial.models import Arm, ArmLevel, Factor, Level, Person, Trial, Wave

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
    held_same: str
    stop_rule: str
    care_task: str
    care_every_days: int
    fit_least_roots: int
    fit_least_mm: float
    blind: bool


def create_trial(session: Session, actor: Person, now: datetime, botanical_name: str) -> Trial:
    """A new trial with nothing but a name and a running code of the year."""
    name = botanical_name.strip()
    if not name:
        raise InvalidInput("botanical name", "type the name of the plant to be rooted")
    if len(name) > 120:
        raise InvalidInput("botanical name", "keep it within 120 characters", f"{len(name)} characters")
    year = f"{now:%y}"
    number = 1 + (session.scalar(select(func.count(Trial.id)).where(Trial.code.like(f"{year}-%"))) or 0)
    while session.scalar(select(Trial.id).where(Trial.code == f"{year}-{number:02d}")):
        number += 1
    trial = Trial(code=f"{year}-{number:02d}", botanical_name=name, created_at=now, created_by_id=actor.id)
    trial.check_days, trial.recipes = [14, 28], {}
    trial.waves.append(Wave(number=1))
    session.add(trial)
    session.flush()
    record(session, actor, now, "created the trial", trial, new={"code": trial.code, "botanical_name": name})
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
        theirs = [
            f"{trial.taxon}: {trial.question or 'no question yet'}",
            f"endpoint day {trial.endpoint_day}, {trial.cuttings_per_arm} per arm, {trial.layout}",
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


def _plain_values(values: QuestionValues) -> dict[str, object]:
    if values.kind not in ("test", "look"):
        raise InvalidInput("kind of trial", "choose test or look", values.kind)
    if not 0 <= values.care_every_days <= 90:
        raise InvalidInput("care, every so many days", "must be between 0 (none) and 90", values.care_every_days)
    if not 1 <= values.fit_least_roots <= 100 or not 0 < values.fit_least_mm <= 500:
        raise InvalidInput(
            "fit to pot on",
            "ask for 1 to 100 roots of above 0 to 500 mm",
            f"{values.fit_least_roots} of {values.fit_least_mm} mm",
        )
    day = plan.check_endpoint_day(values.endpoint_day)
    return {
        "kind": values.kind,
        "botanical_name": _text("botanical name", values.botanical_name, 120),
        "cultivar": _text("cultivar", values.cultivar, 120),
        "source": _text("source of the plants", values.source, 200),
        "question": _text("question", values.question, 300),
        "why": _text("why", values.why, LONGEST_TEXT),
        "endpoint_day": day,
        "check_days": read_days(values.check_days, day),
        "margin_points": plan.check_margin(values.margin_points),
        "held_same": _text("held the same", values.held_same, LONGEST_TEXT),
        "stop_rule": _text("stop rule", values.stop_rule, LONGEST_TEXT),
        "care_task": _text("care", values.care_task, 120),
        "care_every_days": values.care_every_days,
        "fit_least_roots": values.fit_least_roots,
        "fit_least_mm": values.fit_least_mm,
        "blind": values.blind,
    }


def save_question(
    session: Session, trial: Trial, actor: Person, now: datetime, version: int, values: QuestionValues
) -> None:
    """Keep the question. New factors or levels make the arms anew and put the draw away."""
    refuse_when_locked(trial)
    refuse_when_stale(trial, version, [f"{values.botanical_name}: {values.question}"])
    new = _plain_values(values)
    if not new["botanical_name"]:
        raise InvalidInput("botanical name", "type the name of the plant to be rooted")
    if not new["question"]:
        raise InvalidInput("question", "write the one question this trial answers")
    factors = plan.check_factors(values.factors)
    plan.combinations_of([levels for _, _, levels in factors])
    old = {key: getattr(trial, key) for key in new}
    for key, value in new.items():
        setattr(trial, key, value)
    before = [[str(f.kind), f.name, [level.name for level in f.levels]] for f in trial.factors]
    after = [[kind.value, name, levels] for kind, name, levels in factors]
    if before != after:
        _remake_arms(session, trial, factors)
    was, became = changes({**old, "factors": before}, {**new, "factors": after})
    if became:
        session.flush()
        record(session, actor, now, "saved the question", trial, old=was, new=became)


def _remake_arms(session: Session, trial: Trial, factors: list[tuple[plan.FactorKind, str, list[str]]]) -> None:
    discard_draw(session, trial)
    trial.arms.clear()
    session.flush()
    trial.factors.clear()
    session.flush()
    for position, (kind, name, levels) in enumerate(factors):
        factor = Factor(position=position, kind=kind.value, name=name)
        factor.levels = [Level(position=i, name=level) for i, level in enumerate(levels)]
        trial.factors.append(factor)
    session.flush()
    make_arms(trial, plan.combinations_of([levels for _, _, levels in factors]), None)
    session.flush()


def make_arms(trial: Trial, combinations: list[tuple[str, ...]], control: tuple[str, ...] | None) -> None:
    """Arms of the trial from level names, lettered in order; the control defaults to an arm of *none*."""
    trial.arms.clear()
    for i, combination in enumerate(combinations):
        arm = Arm(position=i, letter=ascii_uppercase[i], is_control=combination == control)
        for factor, name in zip(trial.factors, combination, strict=True):
            level = next(level for level in factor.levels if level.name == name)
            arm.arm_levels.append(ArmLevel(factor=factor, level=level))
        trial.arms.append(arm)


def discard_draw(session: Session, trial: Trial) -> None:
    """Take units and trays of the draw in force away; the draws themselves stay on record."""
    trial.units.clear()
    session.flush()
    trial.trays.clear()
    session.flush()


def first_result_exists(session: Session, trial: Trial) -> bool:
    """Whether anything was scored."""
    query = select(ScoreRecord.id).join(CheckVisit).where(CheckVisit.trial_id == trial.id).limit(1)
    return session.scalar(query) is not None


def record_prediction(
    session: Session, trial: Trial, actor: Person, now: datetime, ranking: list[str], why: str
) -> None:
    """Keep a ranked prediction; refused once anything was scored."""
    if not trial.arms:
        raise Refused("Save the factors and their levels first; then the arms can be ranked.")
    if first_result_exists(session, trial):
        raise Refused("The first result is in, so a prediction now would be none. The earlier one stands.")
    kept = plan.check_ranking(ranking, [arm.name for arm in trial.arms])
    session.add(Prediction(trial_id=trial.id, person_id=actor.id, at=now, ranking=kept, why=_text("why", why, 500)))
    record(session, actor, now, "recorded a prediction", trial, new={"ranking": kept})


def standing_prediction(session: Session, trial: Trial) -> Prediction | None:
    """The newest prediction that ranks the arms as they are."""
    names = sorted(arm.name for arm in trial.arms)
    query = select(Prediction).where(Prediction.trial_id == trial.id).order_by(Prediction.id.desc())
    return next((p for p in session.scalars(query) if sorted(p.ranking) == names), None)
