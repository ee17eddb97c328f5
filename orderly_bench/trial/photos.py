"""Photos of a trial: kept by day and unit or tray, the pictures in a folder of their own."""

from __future__ import annotations

import os
from dataclasses import dataclass
from datetime import date, datetime
from pathlib import Path

from sqlalchemy import select
from sqlalchemy.orm import Session, joinedload

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import dated
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.formats.photo import read_photo
from orderly_bench.trial.audit import Action, record
from orderly_bench.trial.errors import NotFound
from orderly_bench.trial.models import Person, PhotoKept, Shows, Trial, Unit

LONGEST_NOTE, LONGEST_WHY, MOST_OF_A_TRIAL = 200, 300, 2_000


@dataclass(frozen=True)
class PhotoSent:
    """A photo as it is sent; ``unit`` or ``tray`` where it shows one."""

    data: bytes
    day: date
    shows: str = Shows.TOPS.value
    unit: Unit | None = None
    tray: int | None = None
    note: str = ""
    request_key: str | None = None


def keep_photo(
    session: Session, trial: Trial, actor: Person, now: datetime, today: date, folder: Path, sent: PhotoSent
) -> PhotoKept:
    """Keep a photo; the same request once more gives the same.

    Raises
    ------
    UnusableData
        No photo that can be read.
    InvalidInput
        A day, tray, note or kind that can't be.
    """
    by_key = select(PhotoKept).where(PhotoKept.request_key == sent.request_key)
    known = session.scalar(by_key) if sent.request_key else None
    if known is not None and (known.trial_id, known.person_id) == (trial.id, actor.id):
        return known
    first = trial.day_zero
    if sent.day > today or (first is not None and sent.day < first.first):
        raise InvalidInput("day of the photo", _("must lie between sticking and today"), dated(sent.day))
    if sent.shows not in list(Shows):
        raise InvalidInput("what it shows", _("choose one of: {names}", names=", ".join(Shows)), sent.shows)
    if len(sent.note) > LONGEST_NOTE:
        raise InvalidInput(
            "note", _("keep it within {n} characters", n=str(LONGEST_NOTE)), f"{len(sent.note)} characters"
        )
    if sent.tray is not None and sent.tray not in [tray.number for tray in trial.trays]:
        raise InvalidInput("tray", _("is none of this trial"), sent.tray)
    photo = read_photo(sent.data)
    keep_picture(folder, photo.digest, photo.large, photo.small)
    made = PhotoKept(
        trial_id=trial.id, unit_id=sent.unit.id if sent.unit else None, tray=sent.tray, day=sent.day, shows=sent.shows, note=sent.note.strip(),
        digest=photo.digest, width=photo.width, height=photo.height, at=now, person_id=actor.id, request_key=None if known is not None else sent.request_key,
    )  # fmt: skip
    session.add(made)
    session.flush()
    new = {"day": str(sent.day), "unit": sent.unit.code if sent.unit else "", "digest": photo.digest}
    record(session, actor, now, Action.KEPT_A_PHOTO, trial, new=new)
    return made


def keep_picture(folder: Path, digest: str, large: bytes, small: bytes) -> None:
    """Both sizes of a picture under the digest of the large one."""
    _write(folder, f"{digest}.jpg", large)
    _write(folder, f"{digest}.small.jpg", small)


def _write(folder: Path, name: str, content: bytes) -> None:
    """Whole or not at all; a picture of the same digest is the same picture."""
    folder.mkdir(mode=0o700, parents=True, exist_ok=True)
    target = folder / name
    if target.exists():
        return
    part = folder / f".{name}.{os.getpid()}.part"
    with part.open("wb") as file:
        file.write(content)
        file.flush()
        os.fsync(file.fileno())
    part.rename(target)


def picture_of(folder: Path, photo: PhotoKept, small: bool) -> bytes:
    """The picture's bytes.

    Raises
    ------
    NotFound
        Withdrawn, or its file is not there.
    """
    if photo.withdrawn:
        raise NotFound(_("This photo was withdrawn: {why}", why=photo.withdrawn))
    file = folder / f"{photo.digest}{'.small' if small else ''}.jpg"
    if not file.is_file():
        raise NotFound(_("The picture's file is not in the lab's folder; restore it from a backup."))
    return file.read_bytes()


def withdraw_photo(session: Session, trial: Trial, actor: Person, now: datetime, photo: PhotoKept, why: str) -> None:
    """A photo is shown no more; its row and the reason stay."""
    if not why.strip() or len(why) > LONGEST_WHY:
        raise InvalidInput("reason", _("say why, within {n} characters", n=str(LONGEST_WHY)))
    if not photo.withdrawn:
        photo.withdrawn = why.strip()
        record(
            session,
            actor,
            now,
            Action.WITHDREW_A_PHOTO,
            trial,
            old={"digest": photo.digest, "day": str(photo.day)},
            why=why,
        )


def photos_of(session: Session, trial: Trial) -> list[PhotoKept]:
    """Photos that stand, by day."""
    query = (
        select(PhotoKept)
        .where(PhotoKept.trial_id == trial.id, PhotoKept.withdrawn == "")
        .order_by(PhotoKept.day, PhotoKept.id)
    )
    return list(
        session.scalars(query.options(joinedload(PhotoKept.unit), joinedload(PhotoKept.person)).limit(MOST_OF_A_TRIAL))
    )
