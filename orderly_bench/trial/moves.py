"""Moves of units on the bench: dated, with a reason, kept beside the draw."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy.orm import Session

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.words import tell
from orderly_bench.trial.audit import record
from orderly_bench.trial.models import Person, Placement, Tray, Trial, Unit


def move_unit(
    session: Session,
    trial: Trial,
    actor: Person,
    now: datetime,
    unit: Unit,
    tray: Tray,
    row: int,
    column: int,
    reason: str,
) -> None:
    """Move a unit on the bench from now on; where a unit stands there, the two change places. Block and arm stay.

    Also before the lock: the draw stays on record as it fell, and the move is a departure from it.

    Raises
    ------
    InvalidInput
        A place outside the tray, its own place, no reason.
    """
    if not (1 <= row <= tray.rows and 1 <= column <= tray.columns):
        raise InvalidInput(
            "place",
            tell(
                "tray {number} has {rows} rows of {columns}", number=tray.number, rows=tray.rows, columns=tray.columns
            ),
            tell("row {row}, place {column}", row=row, column=column),
        )
    if not reason.strip() or len(reason) > 300:
        raise InvalidInput("reason for the move", tell("say why, within 300 characters"))
    old = unit.place
    there = (old.tray_id, old.row, old.column)
    if there == (tray.id, row, column):
        raise InvalidInput(
            "place",
            tell("{code} stands there already", code=unit.code),
            tell("row {row}, place {column}", row=row, column=column),
        )
    other = next(
        (u for u in trial.units if (u.place.tray_id, u.place.row, u.place.column) == (tray.id, row, column)), None
    )
    moves = [(unit, (tray.id, row, column))] + ([(other, there)] if other else [])
    was = {u.id: u.place for u, _ in moves}
    for place in was.values():
        place.current = None
    session.flush()
    for moved, (tray_id, to_row, to_column) in moves:
        moved.placements.append(
            Placement(
                trial_id=trial.id, tray_id=tray_id, row=to_row, column=to_column, spot=was[moved.id].spot, from_at=now,
                reason=reason.strip(), person_id=actor.id,
            )
        )  # fmt: skip
    session.flush()
    new = {"codes": [u.code for u, _ in moves], "tray": tray.number, "row": row, "column": column}
    record(session, actor, now, "moved a unit", trial, new=new, why=reason)


def moves_of(trial: Trial) -> list[Placement]:
    """Places taken after the draw, in order of time."""
    return sorted((p for unit in trial.units for p in unit.placements[1:]), key=lambda p: (p.from_at, p.id))
