"""Moves of units on the bench: dated, with a reason, kept beside the draw."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import datetime

from sqlalchemy.orm import Session

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.tend.rearranged import Place, rearranged
from orderly_bench.trial.audit import Action, record
from orderly_bench.trial.models import Person, Placement, Trial, Unit

#: Units named one by one in the trail.
MOST_NAMED = 60


def standing_of(trial: Trial) -> dict[Unit, Place]:
    """Where each unit stands: tray, row and place."""
    return {unit: (unit.place.tray.number, unit.place.row, unit.place.column) for unit in trial.units}


def sizes_of(trial: Trial) -> dict[int, tuple[int, int]]:
    """Rows and columns of each tray."""
    return {tray.number: (tray.rows, tray.columns) for tray in trial.trays}


def move_units(
    session: Session, trial: Trial, actor: Person, now: datetime, wanted: Mapping[Unit, Place], reason: str
) -> None:
    """Move units on the bench from now on; where another stands there, it takes a place left free. Block and arm stay.

    Also before the lock: the draw stays on record as it fell, and the move is a departure from it.

    Raises
    ------
    InvalidInput
        A place outside its tray, one for two units, nothing that moves, no reason.
    """
    if not reason.strip() or len(reason) > 300:
        raise InvalidInput("reason for the move", _("say why, within 300 characters"))
    moved = rearranged(standing_of(trial), wanted, sizes_of(trial))
    trays = {tray.number: tray for tray in trial.trays}
    was = {unit: unit.place for unit in moved}
    for place in was.values():
        place.current = None
    session.flush()
    for unit, (number, row, column) in moved.items():
        unit.placements.append(
            Placement(
                trial_id=trial.id, tray_id=trays[number].id, row=row, column=column, spot=was[unit].spot, from_at=now,
                reason=reason.strip(), person_id=actor.id,
            )
        )  # fmt: skip
    session.flush()
    new = {"to": {unit.code: list(place) for unit, place in list(moved.items())[:MOST_NAMED]}, "units": len(moved)}
    record(session, actor, now, Action.MOVED_A_UNIT, trial, new=new, why=reason)


def moves_of(trial: Trial) -> list[Placement]:
    """Places taken after the draw, in order of time."""
    return sorted((p for unit in trial.units for p in unit.placements[1:]), key=lambda p: (p.from_at, p.id))
