"""Photos of units, trays or the trial; the pictures themselves lie in a folder outside the web root, by their digest."""

from __future__ import annotations

from datetime import date, datetime
from enum import StrEnum

from sqlalchemy import CheckConstraint, ForeignKey, Index, String
from sqlalchemy.orm import Mapped, mapped_column, relationship

from orderly_bench.database.base import TABLE, Base, Moment, one_of, same_trial
from orderly_bench.trial.models.people import Person
from orderly_bench.trial.models.places import Unit


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
