"""Ask the question: create a trial, keep its question, describe its arms, record a prediction."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from datetime import datetime

from sqlalchemy import func, select, update
from sqlalchemy.orm import Session

from orderly_bench.core.errors import InvalidInput, Refused
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.plan import edit, rules
from orderly_bench.core.plan.care_lines import check_care
from orderly_bench.core.plan.part import BOX, Page, read_part, tidy, written_part
from orderly_bench.core.plan.question import Exploratory, Question, TrialKind
from orderly_bench.core.plan.table import Table, treatments_of
from orderly_bench.core.plan.text import to_text
from orderly_bench.core.plan.treatments import Treatments
from orderly_bench.core.plan.value import CheckWindow, Plan, Schedule
from orderly_bench.core.question import sentence
from orderly_bench.core.question.again import Otherwise, again
from orderly_bench.core.question.days import read_looks, write_looks
from orderly_bench.core.question.others import check_others
from orderly_bench.core.responses.registry import kind_of
from orderly_bench.core.typed import text, whole, written
from orderly_bench.trial.audit import Action, record
from orderly_bench.trial.draft import discard_draw, keep, refuse_when_locked, refuse_when_stale
from orderly_bench.trial.models import Lab, Person, Prediction, Trial, Wave
from orderly_bench.trial.turns import take_lab

Form = Mapping[str, str]
LONGEST_WHY = text(500)
EITHER_SIDE = whole(0, 60, None)
#: Earlier trials that are offered to start from.
MOST_EARLIER = 30


def create_trial(session: Session, actor: Person, now: datetime, botanical_name: str) -> Trial:
    """A new trial with nothing but a name, the lab's usual settings and a running code of the year."""
    name = botanical_name.strip()
    if not name:
        raise InvalidInput("botanical name", _("type the name of the plant to be rooted"))
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
        held_most_hours=usual.held_most_hours,
    )
    plan = Plan(code, asked)
    trial = Trial(code=code, plan_text=to_text(plan), created_at=now, created_by_id=actor.id)
    trial.waves.extend(Wave(number=wave.number) for wave in plan.schedule.waves)
    session.add(trial)
    session.flush()
    record(session, actor, now, Action.CREATED_THE_TRIAL, trial, new={"code": code, "botanical_name": name})
    return trial


def begin_again(
    session: Session, trial: Trial, actor: Person, now: datetime, other: Otherwise, rates: Mapping[str, float]
) -> Trial:
    """A new trial with the question, arms and design of this one, open again; ``rates`` are what its arms came to."""
    made = create_trial(session, actor, now, trial.plan.question.botanical_name)
    plan = again(trial.plan, made.code, other, rates)
    made.waves.extend(Wave(number=wave.number) for wave in plan.schedule.waves if wave.number > len(made.waves))
    keep(session, made, actor, now, plan, Action.SAVED_THE_QUESTION)
    record(session, actor, now, Action.BEGAN_IT_FROM_ANOTHER, made, new={"from": trial.code})
    return made


def asked_of(before: Question, form: Form, factors: Sequence[str]) -> Question:
    """The question as its form says and as it would be kept.

    Raises
    ------
    InvalidInput
        The first field that breaks a rule.
    """
    made = read_part(before, form, Page.QUESTION)
    yes_no, rate = kind_of(made.response).yes_no, made.kind is TrialKind.RATE
    if rate and not yes_no:
        raise InvalidInput("endpoint", _("a rate is of a yes or no: rooted, fit to pot on or alive"), made.response)
    made = replace(
        made,
        margin_points=made.margin_points if yes_no else before.margin_points,
        margin_own=None if yes_no else made.margin_own,
        others=before.others if rate else _others(made, form),
    )
    sentence.check_margin_of(made.response, made.margin_points, made.margin_own)
    rules.check_death(made.dead_from_day, made.endpoint_day)
    rules.check_left_alone(made.left_alone_until, made.endpoint_day)
    if not made.botanical_name:
        raise InvalidInput("botanical name", _("type the name of the plant to be rooted"))
    return made if made.sentence else replace(made, sentence=sentence_of(made, factors)[:300])


def _others(asked: Question, form: Form) -> tuple[Exploratory, ...]:
    """Endpoints beside the primary one: those ticked, each with its day and margin; those that the form has no box for stay."""
    found = []
    before = {one.name: one for one in asked.others}
    for response in sentence.ENDPOINTS:
        name = f"other_{response.value}"
        old = before.get(response.value)
        ticked = form[name] == "yes" if name in form else old is not None and name + BOX not in form
        if ticked and response is not asked.response:
            found.append(read_part(old or Exploratory(response.value), form, Page.QUESTION, f"{name}_"))
    return tuple(found)


def as_typed(plan: Plan) -> dict[str, str]:
    """What stands in every field of the Question form beside its table; a sentence that the fields make is left blank."""
    asked, schedule = plan.question, plan.schedule
    values = written_part(asked, Page.QUESTION) | written_part(schedule, Page.QUESTION)
    if asked.sentence == sentence_of(asked, [aspect.name for aspect in plan.treatments.asked])[:300]:
        values["sentence"] = ""
    windows = {window.number: window.either_side for window in schedule.windows}
    values["check_days"] = write_looks(schedule.check_days, windows)
    values["endpoint_either_side"] = written(windows.get(asked.endpoint_day))
    for one in asked.others:
        values |= {f"other_{one.name}": "yes"} | written_part(one, Page.QUESTION, f"other_{one.name}_")
    return values


def sentence_of(asked: Question, factors: Sequence[str]) -> str:
    """The question in one sentence, from what it says."""
    own = asked.margin_own if asked.margin_own is not None else sentence.MARGINS[kind_of(asked.response).scale][2]
    typed = asked.margin_points if kind_of(asked.response).yes_no else own
    rate = asked.kind is TrialKind.RATE
    return sentence.compose(asked.taxon, factors, asked.response, asked.endpoint_day, typed, rate)


def either_side_of_end(form: Form) -> int | None:
    """Days either side within which the endpoint check is on its day, as typed."""
    found: int | None = EITHER_SIDE.value_of(tidy(form.get("endpoint_either_side", "")), N_("window of the endpoint"))
    EITHER_SIDE.check(found, N_("window of the endpoint"))
    return found


def _scheduled(form: Form, before: Schedule, endpoint_day: int) -> Schedule:
    made = read_part(before, form, Page.QUESTION)
    if "check_days" not in form:
        return made
    looks = read_looks(form["check_days"], endpoint_day, before.waves[0].planned_for)
    windows = [CheckWindow(look.day, look.either_side) for look in looks if look.either_side is not None]
    end = either_side_of_end(form)
    windows += [CheckWindow(endpoint_day, end)] if end is not None else []
    return replace(made, check_days=tuple(look.day for look in looks), windows=tuple(windows))


def save_question(
    session: Session, trial: Trial, actor: Person, now: datetime, version: int, form: Form, table: Table
) -> None:
    """Keep the question. New factors or levels make the arms anew and put the draw away."""
    refuse_when_locked(trial)
    refuse_when_stale(trial, version, [f"{form.get('botanical_name', '')}: {form.get('sentence', '')}"])
    plan = trial.plan
    kind = read_part(plan.question, form, Page.QUESTION).kind
    treatments = treatments_of(table, plan.treatments, kind is TrialKind.RATE)
    asked = asked_of(plan.question, form, [aspect.name for aspect in treatments.asked])
    earlier = edit.earlier_arms(plan.treatments, treatments)
    treatments = edit.with_numbers_of(treatments, earlier)
    schedule = _scheduled(form, plan.schedule, asked.endpoint_day)
    rules.check_planned_looks(asked.planned_looks, schedule.check_days)
    made = replace(plan, question=asked, schedule=schedule, treatments=treatments)
    check_others(made)
    check_care(schedule.care_rules, schedule.care_task, [arm.id for arm in treatments.arms])
    own = {letter: plan.container_of(arm) for letter, arm in earlier.items()}
    made = edit.with_containers(made, plan.design.container, own)
    if _laid_out(treatments) != _laid_out(plan.treatments):
        discard_draw(session, trial)
    keep(session, trial, actor, now, made, Action.SAVED_THE_QUESTION)


def _laid_out(treatments: Treatments) -> list[tuple[str, tuple[str, ...]]]:
    """What a draw rests on: the arms by letter and level."""
    return [(arm.id, treatments.level_names(arm)) for arm in treatments.arms]


def record_prediction(
    session: Session, trial: Trial, actor: Person, now: datetime, ranking: list[str], why: str
) -> None:
    """Keep a ranked prediction, arm letters best first. One made after sticking is kept and called retrospective."""
    if not trial.arms:
        raise Refused(_("Save the factors and their levels first; then the arms can be ranked."))
    kept = rules.check_ranking(ranking, [arm.letter for arm in trial.arms])
    of_arms = trial.plan.treatments.identities()
    LONGEST_WHY.check(why, N_("why"))
    session.add(Prediction(trial_id=trial.id, person_id=actor.id, at=now, ranking=kept, of_arms=of_arms, why=tidy(why)))
    record(session, actor, now, Action.RECORDED_A_PREDICTION, trial, new={"ranking": kept})


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


def put_away(session: Session, trial: Trial, actor: Person, now: datetime, away: bool) -> None:
    """No longer in the list unless it is looked for, or there again; nothing of it changes."""
    if trial.archived is not away:
        session.execute(update(Trial).where(Trial.id == trial.id).values(archived=away))
        session.refresh(trial, ["archived"])
        record(session, actor, now, Action.PUT_A_TRIAL_AWAY if away else Action.TOOK_A_TRIAL_OUT, trial)
