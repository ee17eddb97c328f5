"""What was read of air, moisture and light where units stood."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import date, datetime
from enum import StrEnum
from typing import Any

from sqlalchemy import JSON, CheckConstraint, Column, ForeignKey, String, Table, UniqueConstraint
from sqlalchemy.dialects.mysql import MEDIUMBLOB
from sqlalchemy.orm import Mapped, mapped_column, relationship

from orderly_bench.core.tend.by_day import Day, Log
from orderly_bench.core.tend.by_hand import ByHand, Kind
from orderly_bench.database.base import TABLE, Base, Moment, one_of
from orderly_bench.trial.models.people import Person
from orderly_bench.trial.models.places import Unit

condition_log_unit = Table(
    "condition_log_unit",
    Base.metadata,
    Column("log_id", ForeignKey("condition_log.id"), primary_key=True),
    Column("unit_id", ForeignKey("unit.id"), primary_key=True),
    mysql_engine=TABLE["mysql_engine"],
    mysql_charset=TABLE["mysql_charset"],
    mysql_collate=TABLE["mysql_collate"],
)


class ConditionLog(Base):
    """A logger's file summed up by day, with the units that stood where it was read; ``digest`` is the file's."""

    __tablename__ = "condition_log"
    __table_args__ = (
        CheckConstraint("low_c < high_c", name="band_in_order"),
        UniqueConstraint("trial_id", "digest", "zone"),
        TABLE,
    )
    id: Mapped[int] = mapped_column(primary_key=True)
    trial_id: Mapped[int] = mapped_column(ForeignKey("trial.id"))
    zone: Mapped[str] = mapped_column(String(60))
    name: Mapped[str] = mapped_column(String(120), default="")
    digest: Mapped[str] = mapped_column(String(64))
    low_c: Mapped[float] = mapped_column()
    high_c: Mapped[float] = mapped_column()
    first_day: Mapped[date] = mapped_column()
    last_day: Mapped[date] = mapped_column()
    #: rows, duplicates, gaps, spikes and what else should be looked at
    report: Mapped[dict[str, Any]] = mapped_column(JSON)
    days: Mapped[list[list[Any]]] = mapped_column(JSON)
    at: Mapped[datetime] = mapped_column(Moment)
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    #: why it no longer counts; blank while it does
    withdrawn: Mapped[str] = mapped_column(String(300), default="", server_default="")
    person: Mapped[Person] = relationship()
    units: Mapped[list[Unit]] = relationship(secondary=condition_log_unit)

    def as_log(self) -> Log:
        """The log as the core knows it."""
        days = tuple(Day(date.fromisoformat(day), *rest) for day, *rest in self.days)
        return Log(frozenset(unit.id for unit in self.units), days)

    @staticmethod
    def days_of(days: Iterable[Day]) -> list[list[Any]]:
        """Days as they are kept."""
        return [[one.day.isoformat(), *list(vars(one).values())[1:]] for one in days]


class LoggerKind(Base):
    """What a person said of the columns of a kind of logger's file, known again by its first line."""

    __tablename__ = "logger_kind"
    __table_args__ = (UniqueConstraint("mark"), TABLE)
    id: Mapped[int] = mapped_column(primary_key=True)
    mark: Mapped[str] = mapped_column(String(64))
    columns: Mapped[dict[str, str]] = mapped_column(JSON)
    at: Mapped[datetime] = mapped_column(Moment)
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id"))


class IntakeState(StrEnum):
    """Where the reading of a large file stands."""

    WAITING = "waiting"
    READING = "reading"
    KEPT = "kept"
    REFUSED = "refused"
    STOPPED = "stopped"


class LogIntake(Base):
    """A large logger's file while it is read beside the page: who sent it, how far it is, what came of it."""

    __tablename__ = "log_intake"
    __table_args__ = (one_of("state", IntakeState), TABLE)
    id: Mapped[int] = mapped_column(primary_key=True)
    trial_id: Mapped[int] = mapped_column(ForeignKey("trial.id"))
    name: Mapped[str] = mapped_column(String(120), default="")
    zone: Mapped[str] = mapped_column(String(60))
    low_c: Mapped[float] = mapped_column()
    high_c: Mapped[float] = mapped_column()
    #: of times without an offset
    clock: Mapped[str] = mapped_column(String(60))
    #: what was said of its columns
    columns: Mapped[dict[str, Any]] = mapped_column(JSON)
    #: ids of those that stood there
    units: Mapped[list[int]] = mapped_column(JSON)
    #: the file, until it is read
    data: Mapped[bytes] = mapped_column(MEDIUMBLOB)
    rows_done: Mapped[int] = mapped_column(default=0)
    rows_all: Mapped[int] = mapped_column(default=0)
    state: Mapped[str] = mapped_column(String(10), default=IntakeState.WAITING.value)
    #: why it was refused
    told: Mapped[str] = mapped_column(String(600), default="")
    at: Mapped[datetime] = mapped_column(Moment)
    #: when who reads it was last heard of
    beat_at: Mapped[datetime | None] = mapped_column(Moment, default=None)
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    person: Mapped[Person] = relationship()

    @property
    def going(self) -> bool:
        """Whether it is still to be read, or being read."""
        return self.state in (IntakeState.WAITING, IntakeState.READING)


class HandReading(Base):
    """What a person read on a day where some units stood."""

    __tablename__ = "hand_reading"
    __table_args__ = (TABLE,)
    id: Mapped[int] = mapped_column(primary_key=True)
    trial_id: Mapped[int] = mapped_column(ForeignKey("trial.id"))
    kind: Mapped[str] = mapped_column(String(40))
    day: Mapped[date] = mapped_column()
    #: ids of those that stood there
    units: Mapped[list[int]] = mapped_column(JSON)
    #: of cover or moisture; blank where figures are read
    state: Mapped[str] = mapped_column(String(20), default="", server_default="")
    low: Mapped[float | None] = mapped_column(default=None)
    high: Mapped[float | None] = mapped_column(default=None)
    #: where, and at which hour, as typed
    place: Mapped[str] = mapped_column(String(60), default="", server_default="")
    at: Mapped[datetime] = mapped_column(Moment)
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    #: from the form, so that one sent twice is kept once
    request_key: Mapped[str | None] = mapped_column(String(40), unique=True, default=None)
    #: why it no longer counts; blank while it does
    withdrawn: Mapped[str] = mapped_column(String(300), default="", server_default="")
    person: Mapped[Person] = relationship()

    def as_read(self) -> ByHand:
        """As the core knows it."""
        return ByHand(Kind(self.kind), self.day, frozenset(self.units), self.state, self.low, self.high)
