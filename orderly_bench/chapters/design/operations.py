"""Design: arms, numbers, containers, waves, layout; the seeded draw."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from datetime import datetime

import numpy as np
from sqlalchemy import select
from sqlalchemy.orm import Session

from orderly_bench.core.design.codes import draw_codes
from orderly_bench.core.design.from_plan import WaveDraw, draw_plan
from orderly_bench.core.design.made_elsewhere import MadeUnit, plan_and_draw
from orderly_bench.core.design.propose import propose
from orderly_bench.core.design.standing import across
from orderly_bench.core.errors import InvalidInput, Refused
from orderly_bench.core.layouts.kinds import planned
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.plan import edit
from orderly_bench.core.plan.part import Page, read_part, tidy, written_part
from orderly_bench.core.plan.pieces import check_pieces
from orderly_bench.core.plan.question import Headline, TrialKind
from orderly_bench.core.plan.treatments import MOST_WAVES, ArmPlan, Container
from orderly_bench.core.plan.value import BlocksAre, CameToArms, Design, Plan, PlannedWave
from orderly_bench.core.rehearse.curve import guess_of
from orderly_bench.core.responses.registry import kind_of
from orderly_bench.core.typed import read_number, whole, written
from orderly_bench.trial.audit import Action, record
from orderly_bench.trial.draft import discard_draw, keep, refuse_when_locked, refuse_when_stale
from orderly_bench.trial.models import Draw, Grouping, Person, Placement, Tray, Trial, Unit, Wave
from orderly_bench.trial.models.trial import MADE_ELSEWHERE

Form = Mapping[str, str]
WAVES = whole(1, MOST_WAVES)


def designed(plan: Plan, form: Form) -> Plan:
    """The plan with the design as its form says, or the first rule that is broken. Nothing is stored."""
    asked = read_part(plan.question, form, Page.DESIGN)
    controlled = any(arm.control for arm in plan.treatments.arms)
    against = asked.headline is Headline.CONTROL
    if (against or asked.not_worse) and not controlled and asked.kind is not TrialKind.RATE:
        raise InvalidInput("control", _("name the control: each arm is to be held against it"))
    made = replace(
        plan,
        question=replace(asked, max_t=asked.max_t and against),
        design=_kept_in_layout(design_typed(plan, form)),
        treatments=replace(plan.treatments, arms=tuple(_arm(plan, arm, form) for arm in plan.treatments.arms)),
        schedule=replace(plan.schedule, waves=_waves(plan, form)),
    )
    own = {arm.id: _container(plan.container_of(arm), form, own_of(arm)) for arm in plan.treatments.arms}
    made = edit.with_containers(
        made, made.design.container, {letter: kind for letter, kind in own.items() if kind is not None}
    )
    draw_plan(made, np.random.default_rng(0))
    check_pieces(made)
    guess_of(made)
    return made


def design_typed(plan: Plan, form: Form) -> Design:
    """The design as its form says, with what the cuttings stand in."""
    design = read_part(plan.design, form, Page.DESIGN)
    return replace(design, container=_container(design.container, form) or design.container)


def _kept_in_layout(design: Design) -> Design:
    """The design without what its layout has no place for."""
    layout = planned(design.layout)
    are = design.blocks_are if layout.names_blocks else BlocksAre.PLACES
    return replace(
        design,
        blocks=design.blocks if layout.counts_blocks else 1,
        block_size=design.block_size if layout.part_blocks else 0,
        whole_aspect=design.whole_aspect if layout.whole_plots else "",
        one_vessel=design.one_vessel and (layout.whole_plots or layout.shuffles_units),
        blocks_are=are,
        block_names=() if are is BlocksAre.PLACES else design.block_names,
    )


def own_of(arm: ArmPlan) -> str:
    """What the names of an arm's own fields begin with."""
    return f"own_{arm.id}_"


def guess_field(arm: ArmPlan) -> str:
    """The field of what an arm is guessed to come to."""
    return f"guess_{arm.id}"


def guess_written(plan: Plan, value: float | None) -> str:
    """A guess as it stands in its field: percent where the endpoint is a share."""
    share = kind_of(plan.question.response).yes_no
    return written(100 * value if share and value is not None else value)


def _arm(plan: Plan, arm: ArmPlan, form: Form) -> ArmPlan:
    """An arm with its own numbers, sites and guess."""
    typed = form.get(guess_field(arm))
    made = read_part(arm, form, Page.DESIGN, own_of(arm))
    if typed is None:
        return made
    guess = read_number(tidy(typed), _("guess of arm {letter}", letter=arm.id)) if tidy(typed) else None
    share = kind_of(plan.question.response).yes_no
    return replace(made, guess=guess / 100 if share and guess is not None else guess)


def _container(before: Container, form: Form, prefix: str = "") -> Container | None:
    """A container as typed; None for an arm that stands in what the rest do. What stands by itself is one place."""
    if prefix and not form.get(f"{prefix}shape"):
        return None
    made = read_part(before, form, Page.DESIGN, prefix)
    return replace(made, rows=1, columns=1) if made.shape.alone else made


def _waves(plan: Plan, form: Form) -> tuple[PlannedWave, ...]:
    there = {wave.number: wave for wave in plan.schedule.waves}
    many = form.get("waves")
    number = len(there) if many is None else WAVES.value_of(tidy(many), N_("waves"))
    WAVES.check(number, N_("waves"))
    return tuple(read_part(there.get(n, PlannedWave(n)), form, Page.DESIGN, f"wave_{n}_") for n in range(1, number + 1))


def as_typed(plan: Plan) -> dict[str, str]:
    """What stands in every field of the Design form."""
    values = written_part(plan.design, Page.DESIGN) | written_part(plan.question, Page.DESIGN)
    values |= written_part(plan.design.container, Page.DESIGN)
    gets = plan.design.trays_get or plan.design.whole_aspect
    values["trays_get"] = gets if gets in [aspect.id for aspect in plan.treatments.asked] else ""
    guess = guess_of(plan)
    for i, arm in enumerate(plan.treatments.arms):
        value = arm.guess if arm.guess is not None else (guess.values[i] if guess else None)
        container = plan.container_of(arm)
        values[guess_field(arm)] = guess_written(plan, value)
        values |= written_part(arm, Page.DESIGN, own_of(arm)) | written_part(container, Page.DESIGN, own_of(arm))
        if container == plan.design.container:
            values[f"{own_of(arm)}shape"] = ""
    values["waves"] = str(len(plan.schedule.waves))
    for wave in plan.schedule.waves:
        values |= written_part(wave, Page.DESIGN, f"wave_{wave.number}_")
    return values


def proposed(plan: Plan, form: Form) -> dict[str, str]:
    """The form as the four answers propose it, the rest as typed."""
    design = design_typed(plan, form)
    container, found = design.container, propose(replace(plan, design=design))
    made = {
        "layout": found.layout.value,
        "blocks": str(found.blocks),
        "block_size": written(found.block_size or None),
        "cuttings_per_arm": str(found.cuttings_per_arm),
        "whole_aspect": design.trays_get if planned(found.layout).whole_plots else "",
    }
    made |= {f"{own_of(arm)}{name}": "" for arm in plan.treatments.arms for name in ("units", "per_unit")}
    if found.shape is not None:
        volume = container.volume_ml * (1 if container.shape.alone else found.per_unit)
        stands = replace(container, shape=found.shape, rows=1, columns=1, volume_ml=volume)
        made |= written_part(stands, Page.DESIGN) | {"cuttings_per_unit": str(found.per_unit)}
    return {**form, **made}


def save_way(session: Session, trial: Trial, actor: Person, now: datetime, version: int, plan: Plan) -> None:
    """Keep another way to do the trial, as it was offered; the draw is put away."""
    refuse_when_locked(trial)
    refuse_when_stale(trial, version, [f"{plan.design.cuttings_per_arm} per arm, {plan.design.layout}"])
    discard_draw(session, trial)
    _keep_waves(session, trial, plan)
    keep(session, trial, actor, now, plan, Action.TOOK_ANOTHER_WAY)


def _keep_waves(session: Session, trial: Trial, plan: Plan) -> None:
    numbers = [wave.number for wave in plan.schedule.waves]
    if numbers != [wave.number for wave in trial.waves]:
        discard_draw(session, trial)
        trial.waves[:] = [w for w in trial.waves if w.number in numbers]
        trial.waves.extend(Wave(number=n) for n in numbers if n not in [w.number for w in trial.waves])


def save_design(session: Session, trial: Trial, actor: Person, now: datetime, version: int, form: Form) -> None:
    """Keep the design. A change of what is drawn puts the draw away."""
    refuse_when_locked(trial)
    yours = f"{form.get('cuttings_per_arm', '')} per arm, {form.get('layout', '')}"
    refuse_when_stale(trial, version, [yours])
    before = trial.plan
    if not before.treatments.arms:
        raise Refused(_("Write the question first; the arms are made from its factors and levels."))
    after = designed(before, form)
    if before.what_is_drawn() != after.what_is_drawn():
        discard_draw(session, trial)
    _keep_waves(session, trial, after)
    keep(session, trial, actor, now, after, Action.SAVED_THE_DESIGN)


def draw(session: Session, trial: Trial, actor: Person, now: datetime, seed: int, reason: str = "") -> Draw:
    """Draw arms and codes onto the bench. Every draw after the first needs a reason; all are kept.

    Parameters
    ----------
    seed : int
        0 to 2**31 - 1; the arms come from it, the codes do not.
    """
    refuse_when_locked(trial)
    if len(trial.arms) < 2 and trial.plan.question.kind is not TrialKind.RATE:
        raise Refused(_("Save the design first: there are no arms to draw."))
    if trial.draws and not reason.strip():
        raise InvalidInput("reason for the redraw", _("say why; a redraw until it looks nice is no draw"))
    if len(reason) > 300:
        raise InvalidInput("reason for the redraw", _("keep it within 300 characters"), f"{len(reason)} characters")
    if trial.plan.design.came_to_arms is not CameToArms.DRAWN:
        by_lot = replace(trial.plan.design, came_to_arms=CameToArms.DRAWN)
        keep(session, trial, actor, now, replace(trial.plan, design=by_lot), Action.SAVED_THE_DESIGN)
    arms_rng = np.random.default_rng(np.random.SeedSequence(seed).spawn(2)[0])
    return _lay(session, trial, actor, now, draw_plan(trial.plan, arms_rng), seed, reason.strip())


def import_design(
    session: Session,
    trial: Trial,
    actor: Person,
    now: datetime,
    units: list[MadeUnit],
    reason: str,
    came: CameToArms = CameToArms.DRAWN,
) -> Draw:
    """Lay a design out that was made elsewhere; who made it and how pieces came to their arms stays with the plan.

    Raises
    ------
    InvalidInput
        Nobody is named, or the best pieces went to one arm of what is asked as a test: that has no verdict.
    """
    refuse_when_locked(trial)
    if not 0 < len(reason.strip()) <= 300:
        raise InvalidInput("who drew it and how", _("say it within 300 characters; the p rests on that draw"))
    if came is CameToArms.BEST_TO_ONE and trial.plan.question.kind is TrialKind.TEST:
        rule = _("the best to one arm has no verdict, whatever comes of it; make it a look on the Question page")
        raise InvalidInput(_("how pieces came to their arms"), rule, came.value)
    plan, drawn = plan_and_draw(trial.plan, units)
    plan = replace(plan, design=replace(plan.design, came_to_arms=came))
    keep(session, trial, actor, now, plan, Action.TOOK_A_DESIGN_MADE_ELSEWHERE)
    return _lay(session, trial, actor, now, drawn, 0, f"{MADE_ELSEWHERE}{reason.strip()}"[:300])


def _lay(
    session: Session, trial: Trial, actor: Person, now: datetime, drawn: list[WaveDraw], seed: int, reason: str
) -> Draw:
    """Put a draw onto the bench: trays, units with their codes, groups and places. The one before is put away."""
    discard_draw(session, trial)
    # Codes come from the system's randomness: from labels nobody can search for the seed, and with it for the arms.
    codes_rng = np.random.default_rng()
    arms, waves = {arm.letter: arm for arm in trial.arms}, {wave.number: wave for wave in trial.waves}
    trays: dict[int, Tray] = {}
    for one in drawn:
        for stand in one.stands:
            kind = stand.container
            rows, columns = (1, 1) if kind.shape.alone else (kind.rows, kind.columns)
            trays[stand.number] = Tray(
                number=stand.number,
                wave_id=waves[one.wave].id,
                rows=rows,
                columns=columns,
                shape=kind.shape.value,
                across_cm=round(across(kind.across_cm, kind.volume_ml), 2),
            )
    trial.trays.extend(trays.values())
    session.flush()
    codes = iter(draw_codes(sum(len(d.units) for d in drawn), codes_rng, frozenset(session.scalars(select(Unit.code)))))
    order = 0
    for one in drawn:
        for placed in one.units:
            order += 1
            unit = Unit(
                wave_id=waves[one.wave].id, arm_id=arms[placed.arm].id, code=next(codes), bench_order=order, trial_id=trial.id
            )  # fmt: skip
            unit.groupings.extend(Grouping(kind=kind, name=name) for kind, name in placed.groups.items())
            at = placed.position
            unit.placements.append(
                Placement(
                    trial_id=trial.id,
                    tray_id=trays[at.tray].id,
                    row=at.row,
                    column=at.column,
                    spot=at.spot,
                    from_at=now,
                )
            )
            trial.units.append(unit)
    made = Draw(
        number=len(trial.draws) + 1, seed=seed, reason=reason, result=[one.result for one in drawn], at=now, person_id=actor.id
    )  # fmt: skip
    trial.draws.append(made)
    session.flush()
    action = Action.DREW_THE_LAYOUT if made.number == 1 else Action.REDREW_THE_LAYOUT
    record(session, actor, now, action, trial, new={"draw": made.number, "seed": seed}, why=reason)
    return made
