"""Design: arms, numbers, containers, waves, layout; the seeded draw."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from datetime import date, datetime
from typing import Any

import numpy as np
from sqlalchemy import select
from sqlalchemy.orm import Session

from orderly_bench.chapters.question.operations import discard_draw, keep, refuse_when_locked, refuse_when_stale
from orderly_bench.core.design.codes import draw_codes
from orderly_bench.core.design.from_plan import MOST_PER_UNIT, NAMED, WITH_BLOCKS, WaveDraw, draw_plan
from orderly_bench.core.design.made_elsewhere import MadeUnit, laid_out
from orderly_bench.core.design.propose import Answers, Proposal, propose
from orderly_bench.core.design.standing import across
from orderly_bench.core.errors import InvalidInput, Refused
from orderly_bench.core.messages.words import tell
from orderly_bench.core.plan import edit
from orderly_bench.core.plan.pieces import check_pieces, read_pieces
from orderly_bench.core.plan.question import Headline, TrialKind
from orderly_bench.core.plan.treatments import Container, Treatments
from orderly_bench.core.plan.value import BlocksAre, Plan, PlannedWave
from orderly_bench.core.question.rules import combinations_of
from orderly_bench.core.rehearse.curve import guess_of
from orderly_bench.core.vocabulary import LayoutKind
from orderly_bench.trial.audit import record
from orderly_bench.trial.models import Draw, Grouping, Person, Placement, Tray, Trial, Unit, Wave

KEY_JOINER = "|"


@dataclass(frozen=True)
class OwnNumbers:
    """What an arm has otherwise than the rest: its container, units in a wave, cuttings in one, rooting sites."""

    container: Container | None = None
    units: int | None = None
    per_unit: int | None = None
    sites: tuple[str, ...] = ()


@dataclass(frozen=True)
class DesignValues:
    """The design as typed, already parsed.

    ``arms`` holds keys of combinations and ``control`` one of them or blank; None leaves the arms of the question as they are.
    """

    arms: list[str] | None
    control: str
    cuttings_per_arm: int
    layout: str
    blocks: int
    gradient: str
    bench: str
    container: Container
    assumed_rates: tuple[float, float] | None
    cuttings_per_unit: int = 1
    block_size: int = 0
    whole_factor: str = ""
    one_vessel: bool = False
    under_lid: int = 0
    assumed_icc: float | None = None
    blocks_are: str = BlocksAre.PLACES.value
    block_names: str = ""
    pieces: str = ""
    leftovers: bool = False
    headline: str = Headline.FACTORS.value
    not_worse: bool = False
    max_t: bool = False
    waves: list[tuple[date | None, str]] = field(default_factory=lambda: [(None, "")])
    own: Mapping[str, OwnNumbers] = field(default_factory=dict)
    guesses: Mapping[str, float | None] = field(default_factory=dict)
    answers: Answers = field(default_factory=Answers)
    hours: float | None = None
    pace_per_hour: float = 60.0


def key_of(combination: tuple[str, ...]) -> str:
    """A combination of level ids as a form sends it."""
    return KEY_JOINER.join(combination)


def possible_arms(treatments: Treatments) -> dict[str, tuple[str, ...]]:
    """Every combination of the factors' levels by its key, as names in factor order."""
    ids = combinations_of([[level.id for level in aspect.levels] for aspect in treatments.asked])
    names = combinations_of([[level.name for level in aspect.levels] for aspect in treatments.asked])
    return {key_of(i): n for i, n in zip(ids, names, strict=True)}


def _picked(treatments: Treatments, keys: list[str], control: str) -> Treatments:
    """The arms picked from every combination, and the control among them."""
    possible = possible_arms(treatments)
    unknown = [key for key in keys if key not in possible]
    if unknown:
        raise InvalidInput("arms", tell("pick arms from the levels of this trial"), unknown[0])
    chosen = [tuple(key.split(KEY_JOINER)) for key in possible if key in keys]
    if len(chosen) < 2:
        raise InvalidInput("arms", tell("pick at least two; one arm has nothing to be compared with"), len(chosen))
    if control and control not in keys:
        raise InvalidInput("control", tell("must be one of the arms picked"), control)
    return edit.with_arms(treatments, chosen, tuple(control.split(KEY_JOINER)) if control else None)


def designed(plan: Plan, values: DesignValues) -> Plan:
    """The plan with this design, or the first rule that is broken. Nothing is stored."""
    treatments = plan.treatments if values.arms is None else _picked(plan.treatments, values.arms, values.control)
    controlled = any(arm.control for arm in treatments.arms)
    if values.headline not in list(Headline):
        raise InvalidInput(
            "the verdict speaks of", tell("choose one of: {names}", names=", ".join(Headline)), values.headline
        )
    against = Headline(values.headline) is Headline.CONTROL
    if (against or values.not_worse) and not controlled and plan.question.kind is not TrialKind.RATE:
        raise InvalidInput("control", tell("name the control: each arm is to be held against it"))
    if values.layout not in list(LayoutKind):
        raise InvalidInput("layout", tell("choose one of: {names}", names=", ".join(LayoutKind)), values.layout)
    if len(values.bench) > 80 or len(values.gradient) > 120:
        raise InvalidInput("bench", tell("keep the name of the bench within 80 and the gradient within 120 characters"))
    if values.assumed_icc is not None and not 0 <= values.assumed_icc < 1:
        raise InvalidInput("ICC", tell("must be 0 or more and below 1, such as 0.2"), values.assumed_icc)
    if not 1 <= values.cuttings_per_unit <= MOST_PER_UNIT:
        raise InvalidInput(
            "cuttings in one unit",
            tell("must be between 1 and {most_per_unit}", most_per_unit=MOST_PER_UNIT),
            values.cuttings_per_unit,
        )
    if not 1 <= values.pace_per_hour <= 2_000 or (values.hours is not None and not 0 < values.hours <= 1_000):
        raise InvalidInput(
            "hours to stick", tell("must be above 0 and at most 1000, at 1 to 2000 cuttings an hour"), values.hours
        )
    kind = LayoutKind(values.layout)
    design = replace(
        plan.design,
        layout=kind,
        cuttings_per_arm=values.cuttings_per_arm,
        cuttings_per_unit=values.cuttings_per_unit,
        blocks=values.blocks if kind in WITH_BLOCKS else 1,
        block_size=values.block_size if kind is LayoutKind.INCOMPLETE_BLOCKS else 0,
        whole_aspect=values.whole_factor if kind is LayoutKind.SPLIT_PLOT else "",
        one_vessel=values.one_vessel and kind is LayoutKind.SPLIT_PLOT,
        under_lid=values.under_lid,
        blocks_are=(named := _named_blocks(kind, values))[0],
        block_names=named[1],
        gradient=values.gradient.strip(),
        bench=values.bench.strip() or "Bench 1",
        assumed_rates=values.assumed_rates,
        assumed_icc=values.assumed_icc,
        pieces=read_pieces(values.pieces),
        leftovers=values.leftovers,
        gradient_ways=values.answers.ways,
        pieces_by=values.answers.together,
        trays_get=values.answers.on_tray,
        alike_at_most=values.answers.alike,
        hours=values.hours,
        pace_per_hour=values.pace_per_hour,
    )
    arms = tuple(
        replace(
            arm, units=own.units, per_unit=own.per_unit, sites=own.sites, guess=values.guesses.get(arm.id, arm.guess)
        )
        for arm in treatments.arms
        for own in [values.own.get(arm.id, OwnNumbers())]
    )
    waves = tuple(PlannedWave(n, day, season) for n, (day, season) in enumerate(values.waves, start=1))
    made = replace(
        plan,
        question=replace(
            plan.question,
            headline=Headline(values.headline),
            not_worse=values.not_worse,
            max_t=values.max_t and against,
        ),
        design=design,
        treatments=replace(treatments, arms=arms),
        schedule=replace(plan.schedule, waves=waves),
    )
    own_containers = {letter: own.container for letter, own in values.own.items() if own.container is not None}
    made = edit.with_containers(made, values.container, own_containers)
    draw_plan(made, np.random.default_rng(0))
    check_pieces(made)
    guess_of(made)
    return made


def _named_blocks(kind: LayoutKind, values: DesignValues) -> tuple[BlocksAre, tuple[str, ...]]:
    """What the blocks are, and their names where they are no places."""
    if values.blocks_are not in list(BlocksAre):
        raise InvalidInput("blocks are", tell("choose one of: {names}", names=", ".join(BlocksAre)), values.blocks_are)
    are = BlocksAre(values.blocks_are) if kind in NAMED else BlocksAre.PLACES
    names = tuple(" ".join(line.split()) for line in values.block_names.splitlines() if line.strip())
    return are, () if are is BlocksAre.PLACES else names


def proposed(plan: Plan, values: DesignValues) -> DesignValues:
    """The design as the four answers propose it, the rest as typed."""
    sized = replace(plan, design=replace(plan.design, cuttings_per_arm=max(1, values.cuttings_per_arm)))
    found = propose(sized, values.answers)
    return replace(
        values,
        layout=found.layout.value,
        blocks=found.blocks,
        block_size=found.block_size,
        cuttings_per_arm=found.cuttings_per_arm,
        whole_factor=values.answers.on_tray if found.layout is LayoutKind.SPLIT_PLOT else "",
        **_in_whole_trays(values.container, found),
        own={letter: replace(own, units=None, per_unit=None) for letter, own in values.own.items()},
    )


def _in_whole_trays(container: Container, found: Proposal) -> dict[str, Any]:
    """What the cuttings stand in where the proposal says: a tray of so many cells of today's volume."""
    if found.shape is None:
        return {}
    volume = container.volume_ml if container.shape.alone else container.volume_ml * found.per_unit
    made = replace(container, shape=found.shape, rows=1, columns=1, volume_ml=volume)
    return {"container": made, "cuttings_per_unit": found.per_unit}


def save_way(session: Session, trial: Trial, actor: Person, now: datetime, version: int, plan: Plan) -> None:
    """Keep another way to do the trial, as it was offered; the draw is put away."""
    refuse_when_locked(trial)
    refuse_when_stale(trial, version, [f"{plan.design.cuttings_per_arm} per arm, {plan.design.layout}"])
    discard_draw(session, trial)
    _keep_waves(session, trial, plan)
    keep(session, trial, actor, now, plan, "took another way")


def _keep_waves(session: Session, trial: Trial, plan: Plan) -> None:
    numbers = [wave.number for wave in plan.schedule.waves]
    if numbers != [wave.number for wave in trial.waves]:
        discard_draw(session, trial)
        trial.waves[:] = [w for w in trial.waves if w.number in numbers]
        trial.waves.extend(Wave(number=n) for n in numbers if n not in [w.number for w in trial.waves])


def save_design(
    session: Session, trial: Trial, actor: Person, now: datetime, version: int, values: DesignValues
) -> None:
    """Keep the design. A change of what is drawn puts the draw away."""
    refuse_when_locked(trial)
    refuse_when_stale(trial, version, [f"{values.cuttings_per_arm} per arm, {values.layout}"])
    before = trial.plan
    if not before.treatments.arms:
        raise Refused(tell("Write the question first; the arms are made from its factors and levels."))
    after = designed(before, values)
    if _what_is_drawn(before) != _what_is_drawn(after):
        discard_draw(session, trial)
    _keep_waves(session, trial, after)
    keep(session, trial, actor, now, after, "saved the design")


def _what_is_drawn(plan: Plan) -> object:
    """Every part of a plan that a draw depends on."""
    unweighed = replace(
        plan.design, assumed_rates=None, assumed_icc=None, gradient="", bench="", pieces=(), leftovers=False, gradient_ways=0, pieces_by="", trays_get="", alike_at_most=0, hours=None,
        pace_per_hour=60.0,
    )  # fmt: skip
    arms = [(arm.id, tuple(arm.says.get(a.id) for a in plan.treatments.asked), arm.units, arm.per_unit, plan.container_of(arm)) for arm in plan.treatments.arms]  # fmt: skip
    return unweighed, arms, [(wave.number, wave.season) for wave in plan.schedule.waves]


def draw(session: Session, trial: Trial, actor: Person, now: datetime, seed: int, reason: str = "") -> Draw:
    """Draw arms and codes onto the bench. Every draw after the first needs a reason; all are kept.

    Parameters
    ----------
    seed : int
        0 to 2**31 - 1; the arms come from it, the codes do not.
    """
    refuse_when_locked(trial)
    if len(trial.arms) < 2 and trial.plan.question.kind is not TrialKind.RATE:
        raise Refused(tell("Save the design first: there are no arms to draw."))
    if trial.draws and not reason.strip():
        raise InvalidInput("reason for the redraw", tell("say why; a redraw until it looks nice is no draw"))
    if len(reason) > 300:
        raise InvalidInput("reason for the redraw", tell("keep it within 300 characters"), f"{len(reason)} characters")
    arms_rng = np.random.default_rng(np.random.SeedSequence(seed).spawn(2)[0])
    return _lay(session, trial, actor, now, draw_plan(trial.plan, arms_rng), seed, reason.strip())


def import_design(
    session: Session, trial: Trial, actor: Person, now: datetime, units: list[MadeUnit], reason: str
) -> Draw:
    """Lay a design out that was drawn elsewhere; who drew it and how is the reason, and stays with the plan."""
    refuse_when_locked(trial)
    if not 0 < len(reason.strip()) <= 300:
        raise InvalidInput("who drew it and how", tell("say it within 300 characters; the p rests on that draw"))
    plan, drawn = laid_out(trial.plan, units)
    keep(session, trial, actor, now, plan, "took a design made elsewhere")
    return _lay(session, trial, actor, now, drawn, 0, f"made elsewhere: {reason.strip()}"[:300])


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
    action = "drew the layout" if made.number == 1 else "redrew the layout"
    record(session, actor, now, action, trial, new={"draw": made.number, "seed": seed}, why=reason)
    return made
