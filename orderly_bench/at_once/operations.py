"""A small trial from the least that fixes it: drawn, locked and given its day 0, so that it is never retrospective."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from datetime import date, datetime

from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from orderly_bench.chapters.design import locking
from orderly_bench.chapters.design import operations as design
from orderly_bench.chapters.question import operations as question
from orderly_bench.chapters.stick import operations as stick
from orderly_bench.core.design.convincing import why_not
from orderly_bench.core.errors import InvalidInput, Refused
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.plan.amendments import AddSideGroup
from orderly_bench.core.plan.edit import container_in_words
from orderly_bench.core.plan.part import Page, written_part
from orderly_bench.core.plan.question import TrialKind
from orderly_bench.core.plan.table import Line, Table
from orderly_bench.core.plan.treatments import Container
from orderly_bench.core.question.at_once import AtOnce, read_at_once
from orderly_bench.core.question.undrawn_group import GroupBeside
from orderly_bench.core.score.undrawn import undrawn_groups
from orderly_bench.stock.operations import all_cards, all_containers, weeks_expected
from orderly_bench.trial.amending import amend
from orderly_bench.trial.audit import Action, record
from orderly_bench.trial.models import Person, SideTrial, Trial

#: What a group beside a trial is scored by: as the trial itself.
LIKE_THE_REST = (
    "cultivar", "endpoint_day", "check_days", "endpoint_either_side", "fit_least_roots", "fit_least_mm", "held_most_hours", "dead_from_day",
    "left_alone_until", "second_look_days", "root_classes",
)  # fmt: skip


def read(session: Session, typed: Mapping[str, str]) -> AtOnce:
    """What was typed, with the weeks of the plant's method cards."""
    plant = typed.get("plant", "").strip()
    return read_at_once(dict(typed), weeks_expected(all_cards(session, plant) if plant else []))


def stick_first(session: Session, actor: Person, now: datetime, today: date, asked: AtOnce, seed: int) -> Trial:
    """The trial: a rate of one way, a test of several where some outcome could convince, else a look."""
    trial = question.create_trial(session, actor, now, asked.plant)
    kind = TrialKind.RATE if len(asked.ways) == 1 else TrialKind.TEST
    _ask(session, trial, actor, now, asked, kind)
    units = {f"own_{arm.letter}_units": str(n) for arm, n in zip(trial.arms, asked.of_arm, strict=True)}
    form = design.as_typed(trial.plan) | {"cuttings_per_arm": str(asked.of_arm[0])}
    design.save_design(session, trial, actor, now, trial.version, form | (units if len(set(asked.of_arm)) > 1 else {}))
    design.draw(session, trial, actor, now, seed)
    if why_not(trial.plan):
        _ask(session, trial, actor, now, asked, TrialKind.LOOK)
    locking.lock_plan(session, trial, actor, now)
    stick.add_lot(session, trial, actor, now, trial.waves[0], stick.LotValues(today), today)
    return trial


def _ask(session: Session, trial: Trial, actor: Person, now: datetime, asked: AtOnce, kind: TrialKind) -> None:
    """Ask it as a trial of this kind."""
    form = question.as_typed(trial.plan) | {
        "kind": kind.value, "source": asked.source, "endpoint_day": str(asked.endpoint_day), "check_days": "",
    }  # fmt: skip
    line = Line(asked.differs, asked.differs.value, len(asked.ways) > 1, asked.ways)
    if asked.differs.value == "other":
        line = replace(line, name="way")
    question.save_question(session, trial, actor, now, trial.version, form, Table(len(asked.ways), (line,)))


def containers_for(session: Session, trial: Trial) -> dict[str, Container]:
    """What a group beside a trial may stand in: as its arms do, then what the shelf has."""
    plan = trial.plan
    own = {container_in_words(plan.container_of(arm)): plan.container_of(arm) for arm in plan.treatments.arms}
    return own | {one.name: one.value for one in all_containers(session)}


def begin_beside(
    session: Session,
    trial: Trial,
    actor: Person,
    now: datetime,
    asked: GroupBeside,
    stands_in: str,
    reason: str,
    seed: int,
) -> Trial:
    """A group beside a locked trial, as a small trial of one way: drawn and locked, its lot set when it is stuck.

    Raises
    ------
    Refused
        The trial is not locked, or the group is a trial already.
    InvalidInput
        What it stands in is not to be had, no reason, or a name that is taken.
    """
    if trial.locked_at is None:
        raise Refused(
            _("The plan is not locked yet: name the group on Question, or stick what is over as Design offers it.")
        )
    containers = containers_for(session, trial)
    if stands_in not in containers:
        raise InvalidInput("stands in", _("choose one of: {names}", names=", ".join(containers)), stands_in[:40])
    if asked.name not in undrawn_groups(trial.plan):
        amend(session, trial, actor, now, AddSideGroup(asked.name, asked.note(trial.plan)), reason)
    own = question.create_trial(session, actor, now, trial.plan.question.botanical_name)
    _link(session, trial, asked.name, own)
    alike = {name: value for name, value in question.as_typed(trial.plan).items() if name in LIKE_THE_REST}
    form = question.as_typed(own.plan) | alike | {"kind": TrialKind.RATE.value, "source": asked.source}
    question.save_question(session, own, actor, now, own.version, form, asked.table(trial.plan))
    places = written_part(containers[stands_in], Page.DESIGN)
    places |= {"cuttings_per_arm": str(asked.pieces), "cuttings_per_unit": "1"}
    design.save_design(session, own, actor, now, own.version, design.as_typed(own.plan) | places)
    design.draw(session, own, actor, now, seed)
    locking.lock_plan(session, own, actor, now)
    told = {"group": asked.name, "pieces": asked.pieces, "scored_in": own.code}
    record(session, actor, now, Action.BEGAN_A_GROUP_BESIDE, trial, new=told, why=reason)
    return own


def _link(session: Session, trial: Trial, group: str, own: Trial) -> None:
    try:
        with session.begin_nested():
            session.add(SideTrial(trial_id=trial.id, group=group, own_id=own.id))
    except IntegrityError as error:
        raise Refused(_("{group} has its own trial already; go on there.", group=group)) from error
