"""Lengths clicked on photos: kept with their points and scale, so that each can be looked at again."""

from __future__ import annotations

import json
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session, joinedload

from orderly_bench.core.errors import InvalidInput, Refused
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.score.ruler import Point, inside, length_mm
from orderly_bench.trial.audit import Action, record
from orderly_bench.trial.models import Person, PhotoKept, PhotoLength, Trial

LONGEST_WHY, LONGEST_SENT = 300, 20_000


@dataclass(frozen=True)
class Clicked:
    """What was clicked on a photo: along the root, both ends of the scale and how long that is."""

    points: list[Point]
    scale: list[Point]
    scale_mm: float
    number: int = 1
    key: str | None = None


def read_points(sent: str) -> list[Point]:
    """Points as a page sends them, ``[[x, y], ...]``.

    Raises
    ------
    InvalidInput
        Anything else.
    """
    try:
        found: list[tuple[float, float]] = json.loads(sent if len(sent) <= LONGEST_SENT else "")
        return [(float(x), float(y)) for x, y in found]
    except (TypeError, ValueError) as error:
        raise InvalidInput(_("points"), _("click them on the photo")) from error


def lengths_on(session: Session, photo: PhotoKept, by: Person | None = None) -> list[PhotoLength]:
    """Lengths that stand on a photo, the oldest first; of one person alone where the others' may not be seen."""
    query = select(PhotoLength).where(PhotoLength.photo_id == photo.id, PhotoLength.withdrawn == "")
    query = query.where(PhotoLength.person_id == by.id) if by else query
    return list(session.scalars(query.options(joinedload(PhotoLength.person)).order_by(PhotoLength.id)))


def keep_length(
    session: Session, trial: Trial, actor: Person, now: datetime, photo: PhotoKept, clicked: Clicked
) -> PhotoLength:
    """Keep a length; the same request once more gives the same.

    Raises
    ------
    InvalidInput
        Points that do not lie on the photo, or make no length that a root has.
    Refused
        The photo was withdrawn.
    """
    by_key = select(PhotoLength).where(PhotoLength.request_key == clicked.key)
    known = session.scalar(by_key) if clicked.key else None
    if known is not None and (known.photo_id, known.person_id) == (photo.id, actor.id):
        return known
    if photo.withdrawn:
        raise Refused(_("This photo was withdrawn; nothing is measured on it."))
    if not inside([*clicked.points, *clicked.scale], photo.width, photo.height):
        raise InvalidInput(_("points"), _("must lie on the photo"))
    there = len(photo.unit.cuttings) if photo.unit else 1
    if not 1 <= clicked.number <= max(1, there):
        raise InvalidInput(_("number in the unit"), _("must be between 1 and {n}", n=there), clicked.number)
    mm = length_mm(clicked.points, clicked.scale, clicked.scale_mm)
    made = PhotoLength(
        trial_id=trial.id, photo_id=photo.id, number=clicked.number, points=[list(p) for p in clicked.points],
        scale=[list(p) for p in clicked.scale], scale_mm=clicked.scale_mm, mm=mm, at=now, person_id=actor.id,
        request_key=None if known is not None else clicked.key,
    )  # fmt: skip
    session.add(made)
    session.flush()
    new = {"unit": photo.unit.code if photo.unit else "", "mm": mm, "digest": photo.digest}
    record(session, actor, now, Action.MEASURED_ON_A_PHOTO, trial, new=new)
    return made


def withdraw_length(session: Session, trial: Trial, actor: Person, now: datetime, one: PhotoLength, why: str) -> None:
    """A length no longer stands; its points and the reason stay on record."""
    if not 0 < len(why.strip()) <= LONGEST_WHY:
        raise InvalidInput(_("why it is withdrawn"), _("say it within 300 characters"))
    if not one.withdrawn:
        one.withdrawn = why.strip()
        session.flush()
        record(session, actor, now, Action.WITHDREW_A_LENGTH, trial, new={"mm": one.mm}, why=why.strip())
