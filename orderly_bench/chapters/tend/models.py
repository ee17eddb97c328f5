"""Care jobs and incidents."""

from __future__ import annotations

from datetime import date, datetime

from sqlalchemy import CheckConstraint, Column, ForeignKey, String, Table, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column, relationship

from orderly_bench.database.base import TABLE, Base, Moment
from orderly_bench.trial.models import Arm, Person, Trial, Unit

incident_unit = Table(
    "incident_unit",
    Base.metadata,
    Column("incident_id", ForeignKey("incident.id"), primary_key=True),
    Column("unit_id", ForeignKey("unit.id"), primary_key=True),
    mysql_engine=TABLE["mysql_engine"],
    mysql_charset=TABLE["mysql_charset"],
    mysql_collate=TABLE["mysql_collate"],
)


class Job(Base):
    """A care job on a day after sticking."""

    __tablename__ = "job"
    __table_args__ = (UniqueConstraint("trial_id", "title", "due_das"), TABLE)
    id: Mapped[int] = mapped_column(primary_key=True)
    trial_id: Mapped[int] = mapped_column(ForeignKey("trial.id"))
    title: Mapped[str] = mapped_column(String(120))
    due_das: Mapped[int] = mapped_column()
    window_days: Mapped[int] = mapped_column(default=1)
    done_at: Mapped[datetime | None] = mapped_column(Moment, default=None)
    done_by_id: Mapped[int | None] = mapped_column(ForeignKey("person.id"), default=None)
    trial: Mapped[Trial] = relationship()
    done_by: Mapped[Person | None] = relationship()


class Incident(Base):
    """Something that happened, with the units and days touched."""

    __tablename__ = "incident"
    __table_args__ = (CheckConstraint("first_day <= last_day", name="days_in_order"), TABLE)
    id: Mapped[int] = mapped_column(primary_key=True)
    trial_id: Mapped[int] = mapped_column(ForeignKey("trial.id"))
    kind: Mapped[str] = mapped_column(String(40))
    first_day: Mapped[date] = mapped_column()
    last_day: Mapped[date] = mapped_column()
    note: Mapped[str] = mapped_column(String(500), default="")
    at: Mapped[datetime] = mapped_column(Moment)
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    request_key: Mapped[str | None] = mapped_column(String(40), unique=True, default=None)
    person: Mapped[Person] = relationship()
    units: Mapped[list[Unit]] = relationship(secondary=incident_unit)


class TreatmentChange(Base):
    """A unit that got another arm's treatment from a day on; its arm as planned stays."""

    __tablename__ = "treatment_change"
    __table_args__ = TABLE
    id: Mapped[int] = mapped_column(primary_key=True)
    trial_id: Mapped[int] = mapped_column(ForeignKey("trial.id"))
    unit_id: Mapped[int] = mapped_column(ForeignKey("unit.id"))
    arm_id: Mapped[int] = mapped_column(ForeignKey("arm.id"))
    day: Mapped[date] = mapped_column()
    reason: Mapped[str] = mapped_column(String(300))
    at: Mapped[datetime] = mapped_column(Moment)
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    unit: Mapped[Unit] = relationship()
    arm: Mapped[Arm] = relationship()
    person: Mapped[Person] = relationship()
