"""Design: arms, numbers, layout; the seeded draw; the lock; amendments."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

import numpy as np
from sqlalchemy import select
from sqlalchemy.orm import Session

from orderly_bench.chapters.question.operations import discard_draw, make_arms, refuse_when_locked, refuse_when_stale
from orderly_bench.chapters.score.models import CheckVisit
from orderly_bench.chapters.tend.models import Job
from orderly_bench.core.design import bench, drawing
from orderly_bench.core.design.codes import draw_codes
from orderly_bench.core.design.digest import digest
from orderly_bench.core.design.layouts import Layout
from orderly_bench.core.design.power import check_per_arm
from orderly_bench.core.errors import InvalidInput, Refused
from orderly_bench.core.question.plan import combinations_of, endpoint_window_days
from orderly_bench.core.tend.schedule import care_days
from orderly_bench.core.vocabulary import LayoutKind
from orderly_bench.trial.audit import changes, record
from orderly_bench.trial.models import (
    Amendment,
    Cutting,
    Draw,
    Grouping,
    Person,
    Placement,
    Tray,
    Trial,
    Unit,
)

MOST_PER_UNIT = 60


@dataclass(frozen=True)
class DesignValues:
    """The design as typed, already parsed. ``arms`` holds arm names; ``control`` one of them or blank."""

    arms: list[str]
    control: str
    cuttings_per_arm: int
    layout: str
    blocks: int
    gradient: str
    bench: str
    tray_rows: int
    tray_columns: int
    assumed_rates: tuple[float, float] | None
    cuttings_per_unit: int = 1
    block_size: int = 0
    whole_factor: str = ""
    assumed_icc: float | None = None


def possible_arms(trial: Trial) -> list[tuple[str, ...]]:
    """Every combination of the trial's levels."""
    return combinations_of([[level.name for level in factor.levels] for factor in trial.factors])


def chosen_arms(trial: Trial, names: list[str], control: str) -> list[tuple[str, ...]]:
    """The arms picked, in the order of their levels."""
    named = {" + ".join(combination): combination for combination in possible_arms(trial)}
    unknown = [name for name in names if name not in named]
    if unknown:
        raise InvalidInput("arms", "pick arms from the levels of this trial", unknown[0])
    chosen = [combination for name, combination in named.items() if name in names]
    if len(chosen) < 2:
        raise InvalidInput("arms", "pick at least two; one arm has nothing to be compared with", len(chosen))
    if control and control not in names:
        raise InvalidInput("control", "must be one of the arms picked", control)
    return chosen


#: Layouts in which the number of blocks, or of whole plots, is the researcher's.
WITH_BLOCKS = (LayoutKind.COMPLETE_BLOCKS, LayoutKind.INCOMPLETE_BLOCKS, LayoutKind.SPLIT_PLOT)


def request_of(trial: Trial, values: DesignValues, arms: list[tuple[str, ...]]) -> drawing.Request:
    """What is to be drawn, or the first rule it breaks."""
    if values.layout not in list(LayoutKind):
        raise InvalidInput("layout", f"choose one of: {', '.join(LayoutKind)}", values.layout)
    kind = LayoutKind(values.layout)
    if kind is LayoutKind.COMPLETE_BLOCKS and values.blocks < 2:
        raise InvalidInput("blocks", "must be 2 or more; for one choose completely randomised", values.blocks)
    if not 1 <= values.cuttings_per_unit <= MOST_PER_UNIT:
        raise InvalidInput("cuttings per unit", f"must be between 1 and {MOST_PER_UNIT}", values.cuttings_per_unit)
    check_per_arm(values.cuttings_per_arm, 1)
    if values.cuttings_per_arm % values.cuttings_per_unit:
        rule = f"must be a multiple of the {values.cuttings_per_unit} in one unit"
        raise InvalidInput("cuttings per arm", rule, values.cuttings_per_arm)
    whole: tuple[tuple[int, ...], ...] = ()
    if kind is LayoutKind.SPLIT_PLOT:
        names = [factor.name for factor in trial.factors]
        if values.whole_factor not in names:
            raise InvalidInput("factor on whole plots", f"choose one of: {', '.join(names)}", values.whole_factor)
        f = names.index(values.whole_factor)
        levels = [[level.name for level in factor.levels] for factor in trial.factors]
        index = [tuple(levels[g].index(name) for g, name in enumerate(arm)) for arm in arms]
        whole = drawing.whole_plot_arms([arm[f] for arm in index], [arm[:f] + arm[f + 1 :] for arm in index])
    return drawing.Request(
        kind,
        len(arms),
        values.cuttings_per_arm // values.cuttings_per_unit,
        values.blocks if kind in WITH_BLOCKS else 1,
        values.block_size if kind is LayoutKind.INCOMPLETE_BLOCKS else 0,
        whole,
    )


def places_of(layout: Layout, rows: int, columns: int) -> list[bench.Position]:
    """Positions of a layout's units: a square on its tray, groups side by side, else one after the other."""
    groups = layout.groups()
    if "row" in groups:
        return bench.places_of_square(int(groups["row"].max()) + 1, rows, columns)
    group = next(iter(groups.values()), np.zeros(layout.arm.size, dtype=int))
    return bench.places_for(np.bincount(group).tolist(), rows, columns)


def check_design(trial: Trial, values: DesignValues) -> tuple[list[tuple[str, ...]], drawing.Request]:
    """Chosen arms and the layout to be drawn, or the first rule that is broken."""
    chosen = chosen_arms(trial, values.arms, values.control)
    request = request_of(trial, values, chosen)
    places_of(drawing.draw_layout(request, np.random.default_rng(0)), values.tray_rows, values.tray_columns)
    if len(values.bench) > 80 or len(values.gradient) > 120:
        raise InvalidInput("bench", "keep the name of the bench within 80 and the gradient within 120 characters")
    if values.assumed_icc is not None and not 0 <= values.assumed_icc < 1:
        raise InvalidInput("ICC", "must be 0 or more and below 1, such as 0.2", values.assumed_icc)
    return chosen, request


def save_design(
    session: Session, trial: Trial, actor: Person, now: datetime, version: int, values: DesignValues
) -> None:
    """Keep the design. A change of arms, numbers or trays puts the draw away."""
    refuse_when_locked(trial)
    refuse_when_stale(trial, version, [f"{values.cuttings_per_arm} per arm, {values.layout}"])
    if not trial.factors:
        raise Refused("Write the question first: the arms are made from its factors and levels.")
    chosen, request = check_design(trial, values)
    old = _design_state(trial)
    control = next((c for c in chosen if " + ".join(c) == values.control), None)
    old_arms = [(arm.level_names, arm.is_control) for arm in trial.arms]
    trial.cuttings_per_arm, trial.cuttings_per_unit = values.cuttings_per_arm, values.cuttings_per_unit
    trial.layout, trial.blocks, trial.block_size = values.layout, request.blocks, request.block_size
    trial.whole_factor = values.whole_factor if request.kind is LayoutKind.SPLIT_PLOT else ""
    trial.gradient, trial.bench = values.gradient.strip(), values.bench.strip() or "Bench 1"
    trial.tray_rows, trial.tray_columns = values.tray_rows, values.tray_columns
    trial.assumed_rates = list(values.assumed_rates) if values.assumed_rates else None
    trial.assumed_icc = values.assumed_icc
    arms_changed = old_arms != [(c, c == control) for c in chosen]
    if arms_changed or any(old[key] != getattr(trial, key) for key in DRAW_KEYS):
        discard_draw(session, trial)
    if arms_changed:
        trial.arms.clear()
        session.flush()
        make_arms(trial, chosen, control)
    session.flush()
    was, became = changes(old, _design_state(trial))
    if became:
        record(session, actor, now, "saved the design", trial, old=was, new=became)


DRAW_KEYS = (
    "cuttings_per_arm", "cuttings_per_unit", "layout", "blocks", "block_size", "whole_factor", "tray_rows", "tray_columns",
)  # fmt: skip


def _design_state(trial: Trial) -> dict[str, object]:
    state: dict[str, object] = {
        key: getattr(trial, key) for key in (*DRAW_KEYS, "gradient", "bench", "assumed_rates", "assumed_icc")
    }
    state["arms"] = [arm.name for arm in trial.arms]
    state["control"] = next((arm.name for arm in trial.arms if arm.is_control), None)
    return state


def _request_stored(trial: Trial) -> drawing.Request:
    """The stored design as a request."""
    values = DesignValues(
        [arm.name for arm in trial.arms], "", trial.cuttings_per_arm, trial.layout, trial.blocks, trial.gradient, trial.bench,
        trial.tray_rows, trial.tray_columns, None, trial.cuttings_per_unit, trial.block_size, trial.whole_factor,
    )  # fmt: skip
    return request_of(trial, values, [arm.level_names for arm in trial.arms])


def draw(session: Session, trial: Trial, actor: Person, now: datetime, seed: int, reason: str = "") -> Draw:
    """Draw arms and codes onto the bench. Every draw after the first needs a reason; all are kept.

    Parameters
    ----------
    seed : int
        0 to 2**31 - 1; arms and codes come from two independent streams of it.
    """
    refuse_when_locked(trial)
    if len(trial.arms) < 2:
        raise Refused("Save the design first: there are no arms to draw.")
    if trial.draws and not reason.strip():
        raise InvalidInput("reason for the redraw", "say why; a redraw until it looks nice is no draw")
    if len(reason) > 300:
        raise InvalidInput("reason for the redraw", "keep it within 300 characters", f"{len(reason)} characters")
    discard_draw(session, trial)
    arms_rng, codes_rng = (np.random.default_rng(s) for s in np.random.SeedSequence(seed).spawn(2))
    layout = drawing.draw_layout(_request_stored(trial), arms_rng)
    groups = layout.groups()
    places = places_of(layout, trial.tray_rows, trial.tray_columns)
    trays = {
        t: Tray(number=t, rows=trial.tray_rows, columns=trial.tray_columns) for t in sorted({p.tray for p in places})
    }
    trial.trays.extend(trays.values())
    session.flush()
    codes = draw_codes(len(places), codes_rng, frozenset(session.scalars(select(Unit.code))))
    for order, (place, code) in enumerate(zip(places, codes, strict=True)):
        unit = Unit(wave=trial.waves[0], arm=trial.arms[int(layout.arm[order])], code=code, bench_order=order + 1)
        unit.groupings.extend(Grouping(kind=kind, name=f"{kind} {int(of[order]) + 1}") for kind, of in groups.items())
        unit.placements.append(Placement(tray=trays[place.tray], row=place.row, column=place.column, from_at=now))
        trial.units.append(unit)
    result = ["".join(trial.arms[int(a)].letter for a in layout.arm)]
    made = Draw(
        number=len(trial.draws) + 1, seed=seed, reason=reason.strip(), result=result, at=now, person_id=actor.id
    )
    trial.draws.append(made)
    session.flush()
    record(
        session,
        actor,
        now,
        "drew the layout" if made.number == 1 else "redrew the layout",
        trial,
        new={"draw": made.number, "seed": seed},
        why=reason,
    )
    return made


def plan_as_data(trial: Trial) -> dict[str, object]:
    """The whole plan as plain data: what the digest freezes."""
    keys = (
        "code", "kind", "botanical_name", "cultivar", "source", "question", "why", "endpoint_day", "margin_points", "alpha",
        "held_same", "stop_rule", "check_days", "care_task", "care_every_days", "fit_least_roots", "fit_least_mm", "blind",
        "layout", "cuttings_per_arm", "blocks", "gradient", "bench", "tray_rows", "tray_columns",
    )  # fmt: skip
    plan: dict[str, object] = {key: getattr(trial, key) for key in keys}
    plan["factors"] = [[f.kind, f.name, [level.name for level in f.levels]] for f in trial.factors]
    plan["arms"] = [[arm.letter, arm.name, arm.is_control] for arm in trial.arms]
    plan["draws"] = [[d.number, d.seed, d.reason, d.result] for d in trial.draws]
    plan["units"] = [
        [
            u.bench_order,
            u.code,
            u.arm.letter,
            u.group("block"),
            u.placements[0].tray.number,
            u.placements[0].row,
            u.placements[0].column,
        ]
        for u in trial.units
    ]
    extra = {key: getattr(trial, key) for key, usual in LATER_KEYS.items() if getattr(trial, key) != usual}
    groupings = [
        [u.bench_order, sorted([g.kind, g.name] for g in u.groupings if g.kind != "block")] for u in trial.units
    ]
    if any(named for _, named in groupings):
        extra["groupings"] = groupings
    return plan | extra


#: Parts of a plan that came later, with the value that stands for 'not used': left out, so that earlier digests hold.
LATER_KEYS = {"cuttings_per_unit": 1, "block_size": 0, "whole_factor": ""}


def digest_holds(trial: Trial) -> bool:
    """Whether the stored plan still has the digest it was locked with."""
    return trial.digest is None or digest(plan_as_data(trial)) == trial.digest


def lock_plan(session: Session, trial: Trial, actor: Person, now: datetime) -> None:
    """Freeze the plan: cuttings become planned places, checks and care jobs get their days."""
    refuse_when_locked(trial)
    if not trial.units:
        raise Refused("Draw the layout first; what is locked is the plan with its draw.")
    if not trial.question:
        raise Refused("Write the question first; a trial without one can't be judged.")
    for unit in trial.units:
        unit.cuttings.extend(Cutting(number=number) for number in range(1, trial.cuttings_per_unit + 1))
    for day in [*trial.check_days, trial.endpoint_day]:
        window = endpoint_window_days(day) if day == trial.endpoint_day else 2
        session.add(
            CheckVisit(
                trial_id=trial.id,
                wave_id=trial.waves[0].id,
                planned_das=day,
                window_days=window,
                is_endpoint=day == trial.endpoint_day,
            )
        )
    for day in care_days(trial.care_every_days, trial.endpoint_day) if trial.care_task else []:
        session.add(Job(trial_id=trial.id, title=trial.care_task, due_das=day, window_days=0))
    session.flush()
    trial.digest = digest(plan_as_data(trial))
    trial.locked_at, trial.locked_by_id = now, actor.id
    session.flush()
    record(session, actor, now, "locked the plan", trial, new={"digest": trial.digest})


def amend(session: Session, trial: Trial, actor: Person, now: datetime, what: str, reason: str) -> None:
    """Record a change or departure after locking."""
    if trial.locked_at is None:
        raise Refused("The plan is not locked yet: change it directly.")
    if not what.strip() or not reason.strip():
        raise InvalidInput("amendment", "say what changed and why")
    if len(what) > 300 or len(reason) > 500:
        raise InvalidInput("amendment", "keep what changed within 300 and the reason within 500 characters")
    trial.amendments.append(Amendment(what=what.strip(), reason=reason.strip(), at=now, person_id=actor.id))
    record(session, actor, now, "amended the plan", trial, new={"what": what.strip()}, why=reason)
