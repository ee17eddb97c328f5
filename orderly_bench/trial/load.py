"""One loader per resource: the query and the answer when there is none."""

from __future__ import annotations

from typing import Any, TypeVar

from sqlalchemy import select
from sqlalchemy.orm import Session, selectinload
from sqlalchemy.orm.attributes import set_committed_value

from orderly_bench.core.design.codes import normalise
from orderly_bench.trial.errors import NotFound
from orderly_bench.trial.models import Cutting, Trial, Unit

T = TypeVar("T")
LARGEST_ID = 2**31 - 1


def by_id(session: Session, model: type[T], number: int, what: str) -> T:
    """One row by id."""
    found = session.get(model, number) if 0 < number <= LARGEST_ID else None
    if found is None:
        raise NotFound(f"There is no {what} {number} here. It may belong to another lab, or the address was mistyped.")
    return found


def trial(session: Session, number: int) -> Trial:
    """A trial by id."""
    return by_id(session, Trial, number, "trial")


def unit_by_code(session: Session, typed: str) -> Unit:
    """A unit by the code on its label."""
    unit = session.scalar(select(Unit).where(Unit.code == normalise(typed)[:8]))
    if unit is None:
        raise NotFound(
            f"No label has the code {typed[:12]}. Read it again: it never holds 0, 1, 2, 5, 8 or B, I, L, O, S, U, V, Z."
        )
    return unit


def of_trial(owner: Trial, thing: Any, what: str) -> None:
    """Refuse a thing that belongs to another trial."""
    if thing.trial_id != owner.id:
        raise NotFound(f"That {what} belongs to another trial. Go back to {owner.code} and choose it there.")


def units_with_everything(session: Session, trial: Trial) -> list[Unit]:
    """Units in bench order with groups, places and cuttings, in a handful of queries; also as ``trial.units``.

    Arms, waves, lots and trays are few and loaded before, so that a unit finds its own without a query.
    """
    _ = trial.arms, trial.waves, trial.lots, trial.trays
    query = (
        select(Unit)
        .where(Unit.trial_id == trial.id)
        .order_by(Unit.bench_order)
        .options(
            selectinload(Unit.cuttings),
            selectinload(Unit.groupings),
            selectinload(Unit.placements),
        )
    )
    units = list(session.scalars(query))
    set_committed_value(trial, "units", units)
    for unit in units:
        set_committed_value(unit, "trial", trial)
        for cutting in unit.cuttings:
            set_committed_value(cutting, "unit", unit)
    return units


def stuck_cuttings(session: Session, trial: Trial) -> list[Cutting]:
    """Stuck cuttings in bench order, replacements of early losses among them."""
    return [c for unit in units_with_everything(session, trial) for c in unit.cuttings if c.status == "stuck"]
