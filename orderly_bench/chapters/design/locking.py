"""The lock, and the amendments after it."""

from __future__ import annotations

from dataclasses import replace
from datetime import datetime

from sqlalchemy.orm import Session

from orderly_bench.chapters.design.material import of_units
from orderly_bench.core.design.convincing import why_not
from orderly_bench.core.errors import InvalidInput, Refused
from orderly_bench.core.messages.say import clause
from orderly_bench.core.messages.translation import all_of, capital
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.plan.pieces import check_pieces
from orderly_bench.core.plan.question import Headline, TrialKind
from orderly_bench.core.plan.value import Plan
from orderly_bench.core.prepare.needs import with_recipes
from orderly_bench.core.rehearse.joined import Placed, arms_apart
from orderly_bench.stock.operations import plants_for, recipes_known
from orderly_bench.trial.amending import add_version, plan_checks
from orderly_bench.trial.audit import Action, record
from orderly_bench.trial.care import plan_care
from orderly_bench.trial.draft import refuse_when_locked
from orderly_bench.trial.load import units_with_everything
from orderly_bench.trial.models import Cutting, Person, Trial
from orderly_bench.trial.versions import with_draw

#: A reason to lock all the same, in characters.
LONGEST_REASON = 300


def lock_plan(session: Session, trial: Trial, actor: Person, now: datetime, anyway: str = "") -> None:
    """Freeze the plan as version 1: cuttings become planned places, checks and care jobs get their days.

    A test that can't convince, or can't tell its factor apart, is locked only with a reason, ``anyway``, that stays in every
    sentence about it.
    """
    refuse_when_locked(trial)
    plan = trial.plan
    if not trial.units:
        raise Refused(_("Draw the layout first; what is locked is the plan with its draw."))
    if not plan.question.sentence:
        raise Refused(_("Write the question first; a trial without one can't be judged."))
    _refuse_apart(trial, plan)
    plan = with_recipes(_convincing_or_anyway(plan, anyway), recipes_known(session))
    per_unit = {arm.id: plan.per_unit(arm) for arm in plan.treatments.arms}
    letters = {arm.id: arm.letter for arm in trial.arms}
    for unit in units_with_everything(session, trial):
        planned = per_unit[letters[unit.arm_id]]
        unit.cuttings.extend(Cutting(trial_id=trial.id, number=number) for number in range(1, planned + 1))
    _allot_pieces(session, trial, plan)
    session.flush()
    locked = with_draw(trial, plan)
    trial.keep_plan(locked)
    plan_checks(session, trial, locked)
    for wave in trial.waves:
        plan_care(session, trial, locked, wave)
    version = add_version(session, trial, locked, actor, now, "")
    trial.locked_at, trial.locked_by_id = now, actor.id
    session.flush()
    record(session, actor, now, Action.LOCKED_THE_PLAN, trial, new={"digest": version.digest})


def _allot_pieces(session: Session, trial: Trial, plan: Plan) -> None:
    """Give every planned place its piece, at random inside donor and grade, from the draw's own stream."""
    if not plan.design.pieces:
        return
    check_pieces(plan)
    donors = plants_for(session, [p.donor for p in plan.design.pieces], plan.question.taxon)
    lines = {p.number: p for p in plan.design.pieces}
    cuttings = [cutting for unit in trial.units for cutting in unit.cuttings]
    for cutting, line in zip(cuttings, of_units(trial, trial.units, plan).lines, strict=True):
        if line is None:
            raise Refused(_("The pieces do not fill the places; look at them on the Design page."))
        piece = lines[line]
        cutting.piece, cutting.donor = line, donors[piece.donor.casefold()]
        cutting.grade, cutting.stem, cutting.stem_place = piece.grade, piece.stem, piece.place


def _refuse_apart(trial: Trial, plan: Plan) -> None:
    """A test between arms that no chain of blocks joins has no answer: no reason typed makes one.

    Raises
    ------
    Refused
        Names the arms to put side by side.
    """
    treatments = plan.treatments
    if plan.question.kind is not TrialKind.TEST or not treatments.asked:
        return
    letters = {arm.id: i for i, arm in enumerate(treatments.arms)}
    at = {arm.id: letters[arm.letter] for arm in trial.arms}
    whole_waves = plan.seasons_in_waves
    placed = [
        Placed(at[unit.arm_id], f"{unit.wave_id} {block}", f"{unit.wave_id}" if whole_waves else None)
        for unit in trial.units
        if (block := unit.group("block"))
    ]
    if not placed:
        return
    levels = [treatments.level_names(arm) for arm in treatments.arms]
    factors = [aspect.name for aspect in treatments.asked]
    parts = arms_apart(factors, levels, placed, plan.question.headline is Headline.FACTORS)
    if parts:
        names = [[treatments.arms[arm].id for arm in part] for part in parts]
        raise Refused(
            _(
                "Arms {parts} never stand in one block, nor in blocks that others join, so nothing could be said between them. "
                "Put {beside} side by side in a block, or make it a look.",
                parts=_(" and ").join(", ".join(part) for part in names),
                beside=all_of([part[0] for part in names]),
            )
        )


def _convincing_or_anyway(plan: Plan, anyway: str) -> Plan:
    """The plan, with the reason where it needs one.

    Raises
    ------
    Refused
        A test that can't convince, without a reason.
    """
    why = why_not(plan)
    if not why:
        return plan
    if not anyway.strip():
        said = "; ".join(why)
        raise Refused(
            _(
                "{reasons}. Mend it, make it a look on the Question page, or type why it is locked all the same: the reason stays in every sentence about it.",
                reasons=capital(said),
            )
        )
    if len(anyway) > LONGEST_REASON:
        raise InvalidInput(
            "reason",
            _("keep it within {longest_reason} characters", longest_reason=LONGEST_REASON),
            f"{len(anyway)} characters",
        )
    stays = clause("locked_anyway", why="; ".join(why), reason=anyway.strip())
    return replace(plan, question=replace(plan.question, anyway=stays))
