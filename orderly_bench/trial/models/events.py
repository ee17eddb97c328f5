"""What happens beside the plan: predictions, care, incidents, treatments changed, looks, reveals, conclusions, the audit trail."""

from __future__ import annotations

from datetime import date, datetime
from typing import Any

from sqlalchemy import JSON, CheckConstraint, Column, ForeignKey, Index, String, Table, Text, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column, relationship

from orderly_bench.core.conclude.decision import Decision
from orderly_bench.core.conclude.time_spent import Spent, Work
from orderly_bench.core.score.undrawn import UndrawnCount
from orderly_bench.core.tend.incidents import IncidentKind
from orderly_bench.core.tend.notes import Of
from orderly_bench.database.base import TABLE, Base, Moment, one_of, same_trial
from orderly_bench.trial.models.people import Person
from orderly_bench.trial.models.places import Unit
from orderly_bench.trial.models.trial import Arm, Trial, Wave


class Prediction(Base):
    """A ranked prediction, arm letters best first, with author and time; ``of_arms`` is what each letter then was."""

    __tablename__ = "prediction"
    __table_args__ = TABLE
    id: Mapped[int] = mapped_column(primary_key=True)
    trial_id: Mapped[int] = mapped_column(ForeignKey("trial.id"))
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    at: Mapped[datetime] = mapped_column(Moment)
    ranking: Mapped[list[str]] = mapped_column(JSON)
    of_arms: Mapped[dict[str, list[str]]] = mapped_column(JSON)
    why: Mapped[str] = mapped_column(String(500), default="")
    person: Mapped[Person] = relationship()


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
    """A care job of a wave on a day after its first lot was stuck."""

    __tablename__ = "job"
    __table_args__ = (UniqueConstraint("wave_id", "title", "due_das"), same_trial("wave_id", "wave"), TABLE)
    id: Mapped[int] = mapped_column(primary_key=True)
    trial_id: Mapped[int] = mapped_column(ForeignKey("trial.id"))
    wave_id: Mapped[int] = mapped_column()
    title: Mapped[str] = mapped_column(String(120))
    #: letters of the arms it is for, comma between; blank for all
    arms: Mapped[str] = mapped_column(String(60), default="", server_default="")
    #: which step of it, where it goes by steps
    step: Mapped[str] = mapped_column(String(60), default="", server_default="")
    #: what is seen when no more of it is to be done; blank where only days end it
    until: Mapped[str] = mapped_column(String(40), default="", server_default="")
    #: days after sticking
    due_das: Mapped[int] = mapped_column()
    #: days either side
    window_days: Mapped[int] = mapped_column(default=1)
    done_at: Mapped[datetime | None] = mapped_column(Moment, default=None)
    done_by_id: Mapped[int | None] = mapped_column(ForeignKey("person.id"), default=None)
    #: the day on which it was done, which is often ticked later
    done_on: Mapped[date | None] = mapped_column(default=None)
    #: why it was left out; blank when it was not
    skipped: Mapped[str] = mapped_column(String(200), default="", server_default="")
    trial: Mapped[Trial] = relationship()
    wave: Mapped[Wave] = relationship(primaryjoin="Job.wave_id == Wave.id", foreign_keys="Job.wave_id")
    done_by: Mapped[Person | None] = relationship()

    @property
    def decided(self) -> bool:
        """Done, or left out for a reason."""
        return self.done_at is not None or bool(self.skipped)


class Incident(Base):
    """Something that happened, with the units and days touched."""

    __tablename__ = "incident"
    __table_args__ = (
        CheckConstraint("first_day <= last_day", name="days_in_order"),
        one_of("kind", IncidentKind),
        TABLE,
    )
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


class Note(Base):
    """A dated line of a trial, of one unit, a tray or an arm of it, as it was written. Never changed or deleted."""

    __tablename__ = "note"
    __table_args__ = (
        CheckConstraint("text <> ''", name="says_something"),
        same_trial("unit_id", "unit"),
        Index("ix_note_trial_id_day", "trial_id", "day"),
        TABLE,
    )
    id: Mapped[int] = mapped_column(primary_key=True)
    trial_id: Mapped[int] = mapped_column(ForeignKey("trial.id"))
    unit_id: Mapped[int | None] = mapped_column(default=None)
    tray: Mapped[int | None] = mapped_column(default=None)
    #: letter of an arm; blank of none
    arm: Mapped[str] = mapped_column(String(4), default="", server_default="")
    day: Mapped[date] = mapped_column()
    text: Mapped[str] = mapped_column(String(500))
    #: tells arms apart by their roots, before the end: an interim look
    early: Mapped[bool] = mapped_column(default=False, server_default="0")
    #: a root was seen, between checks: dated, in no count
    sighting: Mapped[bool] = mapped_column(default=False, server_default="0")
    at: Mapped[datetime] = mapped_column(Moment)
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    request_key: Mapped[str | None] = mapped_column(String(40), unique=True, default=None)
    unit: Mapped[Unit | None] = relationship(primaryjoin="Note.unit_id == Unit.id", foreign_keys="Note.unit_id")
    person: Mapped[Person] = relationship()

    @property
    def of(self) -> str:
        """What it is of, in words; blank of the whole trial."""
        return Of(self.tray, self.arm, self.unit.code if self.unit else "").words


class SeenTo(Base):
    """A thing that has to be seen to before sticking, ticked by name; unticking takes the row away, the audit trail keeps both."""

    __tablename__ = "seen_to"
    __table_args__ = (UniqueConstraint("trial_id", "item"), TABLE)
    id: Mapped[int] = mapped_column(primary_key=True)
    trial_id: Mapped[int] = mapped_column(ForeignKey("trial.id"))
    item: Mapped[str] = mapped_column(String(20))
    at: Mapped[datetime] = mapped_column(Moment)
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    person: Mapped[Person] = relationship()


class SideCount(Base):
    """What was found on a day of a group beside the trial; one written later for the same day stands for it."""

    __tablename__ = "side_count"
    __table_args__ = (
        CheckConstraint("stuck > 0 and rooted >= 0 and bare >= 0 and dead >= 0", name="counts_not_below_0"),
        CheckConstraint("rooted + bare + dead <= stuck", name="counts_add_up"),
        TABLE,
    )
    id: Mapped[int] = mapped_column(primary_key=True)
    trial_id: Mapped[int] = mapped_column(ForeignKey("trial.id"))
    group: Mapped[str] = mapped_column("group_name", String(60))
    day: Mapped[date] = mapped_column()
    stuck: Mapped[int] = mapped_column()
    rooted: Mapped[int] = mapped_column()
    bare: Mapped[int] = mapped_column()
    dead: Mapped[int] = mapped_column()
    at: Mapped[datetime] = mapped_column(Moment)
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id"))

    def as_count(self) -> UndrawnCount:
        """The count as the core knows it."""
        return UndrawnCount(self.group, self.day, self.stuck, self.rooted, self.bare, self.dead)


class SideTrial(Base):
    """A group beside a trial that is a trial of its own: scored piece by piece there, counted here when its check is closed."""

    __tablename__ = "side_trial"
    __table_args__ = (UniqueConstraint("trial_id", "group_name"), TABLE)
    id: Mapped[int] = mapped_column(primary_key=True)
    trial_id: Mapped[int] = mapped_column(ForeignKey("trial.id"))
    group: Mapped[str] = mapped_column("group_name", String(60))
    own_id: Mapped[int] = mapped_column(ForeignKey("trial.id"), unique=True)
    trial: Mapped[Trial] = relationship(foreign_keys=[trial_id])
    own: Mapped[Trial] = relationship(foreign_keys=[own_id])


class TreatmentChange(Base):
    """A unit that got another arm's treatment from a day on; its arm as planned stays."""

    __tablename__ = "treatment_change"
    __table_args__ = (same_trial("unit_id", "unit"), same_trial("arm_id", "arm"), TABLE)
    id: Mapped[int] = mapped_column(primary_key=True)
    trial_id: Mapped[int] = mapped_column(ForeignKey("trial.id"))
    unit_id: Mapped[int] = mapped_column()
    arm_id: Mapped[int] = mapped_column()
    day: Mapped[date] = mapped_column()
    reason: Mapped[str] = mapped_column(String(300))
    at: Mapped[datetime] = mapped_column(Moment)
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    unit: Mapped[Unit] = relationship(
        primaryjoin="TreatmentChange.unit_id == Unit.id", foreign_keys="TreatmentChange.unit_id"
    )
    arm: Mapped[Arm] = relationship(
        primaryjoin="TreatmentChange.arm_id == Arm.id", foreign_keys="TreatmentChange.arm_id"
    )
    person: Mapped[Person] = relationship()


class Reveal(Base):
    """A scorer was shown the arms while blind, with the reason; *not blind* from then on."""

    __tablename__ = "reveal"
    __table_args__ = TABLE
    id: Mapped[int] = mapped_column(primary_key=True)
    trial_id: Mapped[int] = mapped_column(ForeignKey("trial.id"))
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    reason: Mapped[str] = mapped_column(String(500))
    at: Mapped[datetime] = mapped_column(Moment)
    person: Mapped[Person] = relationship()


class SeenArms(Base):
    """A person saw which unit has which arm, and how; *not blind* in the trial from then on. Never changed or deleted."""

    __tablename__ = "seen_arms"
    __table_args__ = (UniqueConstraint("trial_id", "person_id"), TABLE)
    id: Mapped[int] = mapped_column(primary_key=True)
    trial_id: Mapped[int] = mapped_column(ForeignKey("trial.id"))
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    how: Mapped[str] = mapped_column(String(80))
    at: Mapped[datetime] = mapped_column(Moment)


class InterimLook(Base):
    """Someone compared the arms before the endpoint check closed; kept, and named in the verdict."""

    __tablename__ = "interim_look"
    __table_args__ = TABLE
    id: Mapped[int] = mapped_column(primary_key=True)
    trial_id: Mapped[int] = mapped_column(ForeignKey("trial.id"))
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    reason: Mapped[str] = mapped_column(String(500))
    at: Mapped[datetime] = mapped_column(Moment)
    #: Days after sticking of the check that it is of, where the plan named it; of any other look none.
    of_day: Mapped[int | None]
    person: Mapped[Person] = relationship()


class TimeSpent(Base):
    """Minutes of one sitting."""

    __tablename__ = "time_spent"
    __table_args__ = (TABLE,)
    id: Mapped[int] = mapped_column(primary_key=True)
    trial_id: Mapped[int] = mapped_column(ForeignKey("trial.id"))
    work: Mapped[str] = mapped_column(String(20))
    day: Mapped[date] = mapped_column()
    minutes: Mapped[float] = mapped_column()
    #: letters of the arms it was for, comma between; blank for all
    arms: Mapped[str] = mapped_column(String(60), default="", server_default="")
    at: Mapped[datetime] = mapped_column(Moment)
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    request_key: Mapped[str | None] = mapped_column(String(40), unique=True, default=None)
    #: why it no longer counts; blank while it does
    withdrawn: Mapped[str] = mapped_column(String(300), default="", server_default="")
    #: read off the moments at which the pieces were noted
    off_the_marks: Mapped[bool] = mapped_column(default=False, server_default="0")
    #: why the minutes are others than before; blank while they are not
    put_right: Mapped[str] = mapped_column(String(300), default="", server_default="")
    #: the care job they are of
    job_id: Mapped[int | None] = mapped_column(ForeignKey("job.id"), unique=True, default=None)
    person: Mapped[Person] = relationship()

    def as_spent(self) -> Spent:
        """As the core knows it."""
        return Spent(Work(self.work), self.minutes, tuple(self.arms.split(",")) if self.arms else ())


class Conclusion(Base):
    """Decision and typed conclusion, with the verdict and the plan's digest as they stood."""

    __tablename__ = "conclusion"
    __table_args__ = (one_of("decision", Decision), TABLE)
    id: Mapped[int] = mapped_column(primary_key=True)
    trial_id: Mapped[int] = mapped_column(ForeignKey("trial.id"))
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    at: Mapped[datetime] = mapped_column(Moment)
    decision: Mapped[str] = mapped_column(String(10))
    text: Mapped[str] = mapped_column(Text)
    strength: Mapped[str] = mapped_column(String(20))
    headline: Mapped[str] = mapped_column(String(500))
    digest: Mapped[str] = mapped_column(String(64))
    person: Mapped[Person] = relationship()


class AuditEntry(Base):
    """Who did what, when, old and new, why: as data. Never changed or deleted."""

    __tablename__ = "audit_entry"
    __table_args__ = (Index("ix_audit_entry_trial_id_at", "trial_id", "at"), TABLE)
    id: Mapped[int] = mapped_column(primary_key=True)
    at: Mapped[datetime] = mapped_column(Moment)
    person_id: Mapped[int | None] = mapped_column(ForeignKey("person.id"))
    trial_id: Mapped[int | None] = mapped_column(ForeignKey("trial.id"))
    action: Mapped[str] = mapped_column(String(60))
    old: Mapped[dict[str, Any] | None] = mapped_column(JSON, default=None)
    new: Mapped[dict[str, Any] | None] = mapped_column(JSON, default=None)
    why: Mapped[str] = mapped_column(String(500), default="")
    person: Mapped[Person | None] = relationship()
