"""One loader per resource: the query and the answer when there is none."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Sequence
from typing import Any, TypeVar

from sqlalchemy import bindparam, select
from sqlalchemy.orm import Session, joinedload
from sqlalchemy.orm.attributes import set_committed_value

from orderly_bench.core.design.codes import ALPHABET, CODE_LENGTH, is_valid, normalise
from orderly_bench.core.design.in_numbers import Standing
from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.plan.treatments import Shape
from orderly_bench.core.prepare.on_trays import OnTrays, on_trays
from orderly_bench.trial.errors import NotFound
from orderly_bench.trial.models import Arm, Cutting, Grouping, Placement, Tray, Trial, Unit

T = TypeVar("T")
Place = tuple[int, int, int]
LARGEST_ID = 2**31 - 1
#: Groupings that stand side by side on the bench.
PARTED = ("block", "pair", "whole plot")


def by_id(session: Session, model: type[T], number: int, what: str) -> T:
    """One row by id."""
    found = session.get(model, number) if 0 < number <= LARGEST_ID else None
    if found is None:
        raise NotFound(
            _(
                "There is no {what} {number} here. It may belong to another lab, or the address was mistyped.",
                what=what,
                number=number,
            )
        )
    return found


def trial(session: Session, number: int) -> Trial:
    """A trial by id."""
    return by_id(session, Trial, number, "trial")


#: Codes that are taken in one go.
MOST_CODES = 600
#: The number of a cutting behind the code of its container.
NUMBERED = re.compile(r"(.+)-([0-9]{1,3})\s*")


def cutting_by_code(session: Session, typed: str, trial_id: int | None = None) -> tuple[Unit, Cutting | None]:
    """A unit by the code on its label, and its cutting: that of the number behind the code, else the first; None before the lock."""
    numbered = NUMBERED.fullmatch(typed)
    unit = unit_by_code(session, typed, trial_id)
    if numbered is None:
        return unit, unit.cuttings[0] if unit.cuttings else None
    found = next((cutting for cutting in unit.cuttings if cutting.number == int(numbered[2])), None)
    if found is None:
        raise NotFound(
            _(
                "{code} holds {n:cutting|cuttings}; there is no number {number}.",
                code=unit.code,
                n=len(unit.cuttings),
                number=numbered[2],
            )
        )
    return unit, found


def cuttings_by_codes(session: Session, trial: Trial, typed: str) -> list[Cutting]:
    """Cuttings of a trial by the codes on their labels, typed or scanned one on each line, each once.

    Raises
    ------
    InvalidInput
        None or more than 600, one of another trial, or a unit of several whose number is not behind its code.
    """
    codes = [code.strip() for code in typed.replace(",", "\n").split("\n") if code.strip()]
    if not codes or len(codes) > MOST_CODES:
        raise InvalidInput("codes", _("name 1 to {most}, one on each line", most=str(MOST_CODES)), len(codes))
    found: dict[int, Cutting] = {}
    for code in codes:
        unit, cutting = cutting_by_code(session, code, trial.id)
        if unit.trial_id != trial.id or cutting is None:
            raise InvalidInput("codes", _("is of no cutting of this trial"), code)
        if len(unit.cuttings) > 1 and NUMBERED.fullmatch(code) is None:
            raise InvalidInput(
                "codes",
                _(
                    "holds {n} cuttings: type the number behind it, as in {code}-2",
                    n=str(len(unit.cuttings)),
                    code=unit.code,
                ),
                code,
            )
        found[cutting.id] = cutting
    return list(found.values())


def unit_by_code(session: Session, typed: str, trial_id: int | None = None) -> Unit:
    """A unit by the code on its label; of several that of the trial, else the one whose label was drawn here."""
    found = units_by_code(session, typed)
    return next((unit for unit in found if unit.trial_id == trial_id), found[0])


def units_by_code(session: Session, typed: str) -> list[Unit]:
    """The units with a code on their label: one, or more where trials came from other labs; what was drawn here comes first.

    Raises
    ------
    NotFound
        There is none; says what may have been misread.
    """
    numbered = NUMBERED.fullmatch(typed)
    code = normalise(numbered[1] if numbered else typed)[:8]
    found = list(session.scalars(select(Unit).where(Unit.code == code).order_by(Unit.brought)))
    if not found and len(code) == CODE_LENGTH and set(code) <= set(ALPHABET) and not is_valid(code):
        raise NotFound(
            _(
                "No label has the code {typed}: its last sign does not fit the others, so one was misread. Read it again.",
                typed=typed[:12],
            )
        )
    if not found:
        raise NotFound(
            _(
                "No label has the code {typed}. Read it again: it never holds 0, 1, 2, 5, 8 or B, I, L, O, S, U, V, Z.",
                typed=typed[:12],
            )
        )
    return found


def of_trial(owner: Trial, thing: Any, what: str) -> None:
    """Refuse a thing that belongs to another trial."""
    if thing.trial_id != owner.id:
        raise NotFound(
            _(
                "That {what} belongs to another trial. Go back to {code} and choose it there.",
                what=what,
                code=owner.code,
            )
        )


def units_with_everything(session: Session, trial: Trial) -> list[Unit]:
    """Units in bench order with groups, places and cuttings, in a query each; also as ``trial.units``.

    Arms, waves, lots and trays are few and loaded before, so that a unit finds its own without a query.
    """
    _ = trial.arms, trial.waves, trial.lots, trial.trays
    units = list(session.scalars(select(Unit).where(Unit.trial_id == trial.id).order_by(Unit.bench_order)))
    own = Unit.trial_id == trial.id
    groupings = select(Grouping).join(Unit, Grouping.unit_id == Unit.id).where(own).order_by(Grouping.id)
    placements = select(Placement).where(Placement.trial_id == trial.id).order_by(Placement.from_at, Placement.id)
    cuttings = select(Cutting).where(Cutting.trial_id == trial.id).order_by(Cutting.number)
    parts: dict[str, dict[int, list[Any]]] = {"groupings": {}, "placements": {}, "cuttings": {}}
    for name, query in (("groupings", groupings), ("placements", placements), ("cuttings", cuttings)):
        for part in session.scalars(query):
            parts[name].setdefault(part.unit_id, []).append(part)
    set_committed_value(trial, "units", units)
    for unit in units:
        set_committed_value(unit, "trial", trial)
        for name, found in parts.items():
            set_committed_value(unit, name, found.get(unit.id, []))
        for cutting in unit.cuttings:
            set_committed_value(cutting, "unit", unit)
    return units


def stuck_cuttings(session: Session, trial: Trial) -> list[Cutting]:
    """Stuck cuttings in bench order, replacements of early losses among them."""
    return [c for unit in units_with_everything(session, trial) for c in unit.cuttings if c.status == "stuck"]


#: Built once: a score waits for it.
_CUTTING = (
    select(Cutting)
    .where(Cutting.id == bindparam("of"))
    .options(joinedload(Cutting.unit).joinedload(Unit.arm), joinedload(Cutting.unit).joinedload(Unit.cuttings))
)


def cutting_with_unit(session: Session, number: int) -> Cutting:
    """A cutting by id, with its unit, arm and fellows, in two queries."""
    found = session.scalars(_CUTTING, {"of": number}).unique().one_or_none() if 0 < number <= LARGEST_ID else None
    return found or by_id(session, Cutting, number, "cutting")


def parted_groups(session: Session, trial: Trial) -> dict[int, str]:
    """By unit id, the group that a heavy line parts from the next: block, pair or whole plot."""
    query = select(Grouping.unit_id, Grouping.name).join(Unit, Grouping.unit_id == Unit.id)
    query = query.where(Unit.trial_id == trial.id, Grouping.kind.in_(PARTED))
    return {unit: name for unit, name in session.execute(query)}


def arms_by_tray(session: Session, trial: Trial) -> dict[int, set[str]]:
    """The letters of the arms that stand in each tray, by its number."""
    query = select(Tray.number, Arm.letter).join(Placement, Placement.tray_id == Tray.id)
    query = query.join(Unit, Placement.unit_id == Unit.id).join(Arm, Unit.arm_id == Arm.id)
    found: dict[int, set[str]] = {}
    for tray, letter in session.execute(query.where(Placement.trial_id == trial.id, Placement.current == 1).distinct()):
        found.setdefault(tray, set()).add(letter)
    return found


def whole_trays(trial: Trial, units: Sequence[Unit]) -> list[OnTrays]:
    """What goes on whole trays, and on which of those that hold these units."""
    arms_in: dict[int, set[str]] = {}
    for unit in units:
        arms_in.setdefault(unit.place.tray.number, set()).add(unit.arm.letter)
    return on_trays(trial.plan, arms_in)


def places_of(session: Session, trial: Trial) -> set[Place]:
    """The places that the trial's units take: tray, row and column."""
    chosen = select(Placement.tray_id, Placement.row, Placement.column)
    taken = session.execute(chosen.where(Placement.trial_id == trial.id, Placement.current == 1))
    return {(tray, row, column) for tray, row, column in taken}


def standing_of(trial: Trial, places: set[Place]) -> list[Standing]:
    """What the drawn trial stands in, and how many places of each are used."""
    used = Counter(tray for tray, _, _ in places)
    return [Standing(Shape(tray.shape), tray.rows, tray.columns, used[tray.id]) for tray in trial.trays]
