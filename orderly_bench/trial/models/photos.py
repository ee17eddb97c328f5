"""Photos of units, trays or the trial; the pictures themselves lie in a folder outside the web root, by their digest."""

from __future__ import annotations

from datetime import date, datetime
from enum import StrEnum

from sqlalchemy import JSON, CheckConstraint, ForeignKey, Index, String
from sqlalchemy.orm import Mapped, mapped_column, relationship

from orderly_bench.database.base import TABLE, Base, Moment, one_of, same_trial
from orderly_bench.trial.models.people import Person
from orderly_bench.trial.models.places import Unit
from orderly_bench.trial.models.trial import Trial


class Shows(StrEnum):
    """What a photo shows."""

    TOPS = "tops"
    ROOTS = "roots"
    OTHER = "other"


class PhotoKept(Base):
    """A photo of a day. Never changed; one that should not be there is withdrawn with a reason and shown no more."""

    __tablename__ = "photo"
    __table_args__ = (
        one_of("shows", Shows),
        CheckConstraint("width > 0 and height > 0", name="has_size"),
        same_trial("unit_id", "unit"),
        Index("ix_photo_trial_id_day", "trial_id", "day"),
        TABLE,
    )
    id: Mapped[int] = mapped_column(primary_key=True)
    trial_id: Mapped[int] = mapped_column(ForeignKey("trial.id"))
    unit_id: Mapped[int | None] = mapped_column(default=None)
    #: number of the tray it shows, where it shows one
    tray: Mapped[int | None] = mapped_column(default=None)
    day: Mapped[date] = mapped_column()
    shows: Mapped[str] = mapped_column(String(10))
    note: Mapped[str] = mapped_column(String(200), default="")
    digest: Mapped[str] = mapped_column(String(64))
    #: pixels
    width: Mapped[int] = mapped_column()
    #: pixels
    height: Mapped[int] = mapped_column()
    at: Mapped[datetime] = mapped_column(Moment)
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    request_key: Mapped[str | None] = mapped_column(String(40), unique=True, default=None)
    withdrawn: Mapped[str] = mapped_column(String(300), default="", server_default="")
    unit: Mapped[Unit | None] = relationship(
        primaryjoin="PhotoKept.unit_id == Unit.id", foreign_keys="PhotoKept.unit_id"
    )
    person: Mapped[Person] = relationship()
    trial: Mapped[Trial] = relationship()


class PhotoLength(Base):
    """A length clicked on a photo, with its points and the scale. Never changed; a wrong one is withdrawn with a reason."""

    __tablename__ = "photo_length"
    __table_args__ = (CheckConstraint("mm > 0 and mm <= 2000", name="mm_range"), TABLE)
    id: Mapped[int] = mapped_column(primary_key=True)
    trial_id: Mapped[int] = mapped_column(ForeignKey("trial.id"))
    photo_id: Mapped[int] = mapped_column(ForeignKey("photo.id"))
    #: which cutting of the photo's unit, from 1
    number: Mapped[int] = mapped_column(default=1, server_default="1")
    #: along the root, pixels of the photo
    points: Mapped[list[list[float]]] = mapped_column(JSON)
    #: the two ends of what is of known length
    scale: Mapped[list[list[float]]] = mapped_column(JSON)
    scale_mm: Mapped[float] = mapped_column()
    mm: Mapped[float] = mapped_column()
    at: Mapped[datetime] = mapped_column(Moment)
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    request_key: Mapped[str | None] = mapped_column(String(40), unique=True, default=None)
    withdrawn: Mapped[str] = mapped_column(String(300), default="", server_default="")
    photo: Mapped[PhotoKept] = relationship()
    person: Mapped[Person] = relationship()
