"""Ask the question: create a trial, keep its question, describe its arms, record a prediction."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import date, datetime

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from orderly_bench.core.errors import InvalidInput, Refused
from orderly_bench.core.messages.words import tell
from orderly_bench.core.plan import edit
from orderly_bench.core.plan.difference import difference
from orderly_bench.core.plan.question import Exploratory, Question, TrialKind
from orderly_bench.core.plan.table import Table, treatments_of
from orderly_bench.core.plan.text import to_text
from orderly_bench.core.plan.treatments import Treatments
from orderly_bench.core.plan.value import CheckWindow, Plan, Schedule
from orderly_bench.core.question import purpose, rules, sentence
from orderly_bench.core.question.days import read_looks
from orderly_bench.core.question.others import check_others
from orderly_bench.core.responses.kind import Response
from orderly_bench.core.responses.registry import kind_of
from orderly_bench.trial.audit import record
from orderly_bench.trial.errors import Conflict
from orderly_bench.trial.models import Arm, Lab, Person, Prediction, Trial, Wave
from orderly_bench.trial.turns import take_lab

LONGEST_TEXT = 4_000
#: Earlier trials that are offered to start from.
MOST_EARLIER = 30


@dataclass(frozen=True)
class QuestionValues:
    """The question as typed, already parsed to plain types.

    The arms are those of ``table``; without one, every combination of the levels of ``factors``. A blank ``question`` is made into
    a sentence from the rest.
    """

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
    table: Table | None = None
    response: str = Response.ROOTED.value
    margin_own: float | None = None
    endpoint_either_side: int | None = None
    who_looks: str = ""
    dead_from_day: int | None = None
    second_look_days: int = 7
    wanted_plants: int | None = None
    wanted_by: date | None = None
    others: tuple[Exploratory, ...] = ()
    known: str = ""
    book: str = ""


def create_trial(session: Session, actor: Person, now: datetime, botanical_name: str) -> Trial:
    """A new trial with nothing but a name, the lab's usual settings and a running code of the year."""
    name = botanical_name.strip()
    if not name:
        raise InvalidInput("botanical name", tell("type the name of the plant to be rooted"))
    if len(name) > 120:
        raise InvalidInput("botanical name", tell("keep it within 120 characters"), f"{len(name)} characters")
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
            tell(
                "The plan was locked on {locked_at:%-d %B %Y} and can't be changed. Record an amendment with its reason on the Design page instead.",
                locked_at=trial.locked_at,
            )
        )


def refuse_when_stale(trial: Trial, version: int, yours: list[str]) -> None:
    """Refuse to write over a plan that changed since the form was opened."""
    if version != trial.version:
        plan = trial.plan
        theirs = [
            f"{trial.taxon}: {plan.question.sentence or 'no question yet'}",
            tell(
                "endpoint day {endpoint_day}, {cuttings_per_arm} per arm, {layout}",
                endpoint_day=plan.question.endpoint_day,
                cuttings_per_arm=plan.design.cuttings_per_arm,
                layout=plan.design.layout,
            ),
        ]
        raise Conflict(
            tell(
                "Someone else changed this plan while you were typing. Yours is still in the form; compare, then save again."
            ),
            theirs,
            yours,
        )


def _text(name: str, value: str, longest: int) -> str:
    value = value.strip()
    if len(value) > longest:
        raise InvalidInput(
            name, tell("keep it within {longest} characters", longest=longest), f"{len(value)} characters"
        )
    return value


def asked_of(values: QuestionValues, before: Question, factors: Sequence[str]) -> Question:
    """The question as it would be kept.

    Raises
    ------
    InvalidInput
        The first field that breaks a rule.
    """
    if values.kind not in list(TrialKind):
        raise InvalidInput("kind of trial", tell("choose test or look or rate"), values.kind)
    if values.response not in list(Response):
        raise InvalidInput(
            "endpoint", tell("choose one of: {names}", names=", ".join(sentence.ENDPOINTS)), values.response
        )
    response = Response(values.response)
    rules.check_fit_rule(values.fit_least_roots, values.fit_least_mm)
    yes_no, rate = kind_of(response).yes_no, values.kind == TrialKind.RATE
    if rate and not yes_no:
        raise InvalidInput("endpoint", tell("a rate is of a yes or no: rooted, fit to pot on or alive"), response)
    points = rules.check_margin(values.margin_points) if yes_no else before.margin_points
    sentence.check_margin_of(response, points, values.margin_own)
    day = rules.check_endpoint_day(values.endpoint_day)
    rules.check_death(values.dead_from_day, values.second_look_days, day)
    rules.check_wanted(values.wanted_plants)
    made = replace(
        before,
        kind=TrialKind(values.kind),
        botanical_name=_text("botanical name", values.botanical_name, 120),
        cultivar=_text("cultivar", values.cultivar, 120),
        source=_text(tell("source of the plants"), values.source, 200),
        sentence=_text("question", values.question, 300),
        why=_text("why", values.why, LONGEST_TEXT),
        endpoint_day=day,
        margin_points=points,
        margin_own=None if yes_no else values.margin_own,
        response=response,
        stop_rule=_text("stop rule", values.stop_rule, LONGEST_TEXT),
        who_looks=_text("who looks", values.who_looks, 120),
        dead_from_day=values.dead_from_day,
        second_look_days=values.second_look_days,
        wanted_plants=values.wanted_plants,
        wanted_by=values.wanted_by,
        others=before.others if rate else tuple(one for one in values.others if one.name != response.value),
        known=purpose.read_known(values.known),
        book=purpose.read_book(values.book),
        fit_least_roots=values.fit_least_roots,
        fit_least_mm=values.fit_least_mm,
        blind=values.blind and not rate,
    )
    if not made.botanical_name:
        raise InvalidInput("botanical name", tell("type the name of the plant to be rooted"))
    if not made.sentence:
        made = replace(made, sentence=sentence_of(made, factors)[:300])
    return made


def sentence_of(asked: Question, factors: Sequence[str]) -> str:
    """The question in one sentence, from what it says."""
    own = asked.margin_own if asked.margin_own is not None else sentence.MARGINS[kind_of(asked.response).scale][2]
    typed = asked.margin_points if kind_of(asked.response).yes_no else own
    rate = asked.kind is TrialKind.RATE
    return sentence.compose(asked.taxon, factors, asked.response, asked.endpoint_day, typed, rate)


def _scheduled(values: QuestionValues, before: Schedule) -> Schedule:
    if not 0 <= values.care_every_days <= 90:
        raise InvalidInput("care, every so many days", tell("must be between 0 (none) and 90"), values.care_every_days)
    looks = read_looks(values.check_days, values.endpoint_day, before.waves[0].planned_for)
    windows = [CheckWindow(look.day, look.either_side) for look in looks if look.either_side is not None]
    if values.endpoint_either_side is not None:
        windows.append(CheckWindow(values.endpoint_day, values.endpoint_either_side))
    for window in windows:
        if not 0 <= window.either_side <= 60:
            raise InvalidInput("window", tell("must be between 0 and 60 days either side"), window.either_side)
    return replace(
        before,
        check_days=tuple(look.day for look in looks),
        windows=tuple(windows),
        care_task=_text("care", values.care_task, 120),
        care_every_days=values.care_every_days,
    )


def _treated(values: QuestionValues, before: Treatments) -> Treatments:
    """Arms as the table has them, or of every combination of the factors."""
    if values.table is not None:
        return treatments_of(values.table, before, values.kind == TrialKind.RATE)
    factors = rules.check_factors(values.factors)
    rules.combinations_of([levels for _, _, levels in factors])
    if [(a.kind, a.name, [level.name for level in a.levels]) for a in before.asked] == factors:
        return before
    made = edit.with_factors(before, factors)
    every = rules.combinations_of([[level.id for level in aspect.levels] for aspect in made.asked])
    return edit.with_arms(made, every, None)


def save_question(
    session: Session, trial: Trial, actor: Person, now: datetime, version: int, values: QuestionValues
) -> None:
    """Keep the question. New factors or levels make the arms anew and put the draw away."""
    refuse_when_locked(trial)
    refuse_when_stale(trial, version, [f"{values.botanical_name}: {values.question}"])
    plan = trial.plan
    treatments = _treated(values, plan.treatments)
    asked = asked_of(values, plan.question, [aspect.name for aspect in treatments.asked])
    earlier = edit.earlier_arms(plan.treatments, treatments)
    treatments = edit.with_numbers_of(treatments, earlier)
    made = replace(plan, question=asked, schedule=_scheduled(values, plan.schedule), treatments=treatments)
    check_others(made)
    if values.table is not None:
        own = {letter: plan.container_of(arm) for letter, arm in earlier.items()}
        made = edit.with_containers(made, plan.design.container, own)
    if _laid_out(treatments) != _laid_out(plan.treatments):
        discard_draw(session, trial)
    keep(session, trial, actor, now, made, "saved the question")


def _laid_out(treatments: Treatments) -> list[tuple[str, tuple[str, ...]]]:
    """What a draw rests on: the arms by letter and level."""
    return [(arm.id, treatments.level_names(arm)) for arm in treatments.arms]


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
        raise Refused(tell("Save the factors and their levels first; then the arms can be described."))
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
        raise Refused(tell("Save the factors and their levels first; then the arms can be ranked."))
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


def earlier_trials(session: Session, trial: Trial) -> list[tuple[int, str]]:
    """Other trials whose arms could be taken over, newest first, as (id, code and plant)."""
    others = select(Trial).where(Trial.id != trial.id).order_by(Trial.id.desc()).limit(MOST_EARLIER)
    return [
        (other.id, f"{other.code} {other.taxon}") for other in session.scalars(others) if other.plan.treatments.arms
    ]
