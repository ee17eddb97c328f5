"""A trial: its plan as text, the versions of it, its arms and waves, its draws."""

from __future__ import annotations

from datetime import date, datetime
from typing import TYPE_CHECKING

from sqlalchemy import JSON, BigInteger, CheckConstraint, ForeignKey, String, UniqueConstraint
from sqlalchemy.dialects.mysql import MEDIUMTEXT
from sqlalchemy.orm import Mapped, mapped_column, relationship

from orderly_bench.core.plan.text import from_text, to_text
from orderly_bench.core.plan.treatments import ArmPlan, Aspect, Container
from orderly_bench.core.plan.value import Plan
from orderly_bench.core.tend.schedule import DayZero
from orderly_bench.database.base import TABLE, Base, Moment
from orderly_bench.trial.models.people import Person

if TYPE_CHECKING:
    from orderly_bench.trial.models.checks import CheckVisit, PlannedCheck
    from orderly_bench.trial.models.cuttings import Lot
    from orderly_bench.trial.models.events import SeenArms
    from orderly_bench.trial.models.places import Tray, Unit

CASCADE = "all, delete-orphan"


class Trial(Base):
    """One trial. ``plan_text`` is its plan in force: the draft until it is locked, then that of the newest version."""

    __tablename__ = "trial"
    __table_args__ = TABLE
    id: Mapped[int] = mapped_column(primary_key=True)
    code: Mapped[str] = mapped_column(String(20), unique=True)
    plan_text: Mapped[str] = mapped_column(MEDIUMTEXT)
    locked_at: Mapped[datetime | None] = mapped_column(Moment, default=None)
    locked_by_id: Mapped[int | None] = mapped_column(ForeignKey("person.id"), default=None)
    prepared_at: Mapped[datetime | None] = mapped_column(Moment, default=None)
    prepared_anyway: Mapped[str] = mapped_column(String(600), default="", server_default="")
    created_at: Mapped[datetime] = mapped_column(Moment)
    created_by_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    version: Mapped[int] = mapped_column()
    #: counts the changes of anything in the trial; whoever changes it holds this row
    turn: Mapped[int] = mapped_column(BigInteger, default=0, server_default="0")
    #: ids of those who took its care on; none: it is everybody's
    tended_by: Mapped[list[int]] = mapped_column(JSON, default=list, server_default="[]")
    #: not listed unless it is looked for
    archived: Mapped[bool] = mapped_column(default=False, server_default="0")
    #: when plants that were not fit to pot on are looked at again
    plants_again: Mapped[date | None] = mapped_column(default=None)
    #: prices, minutes and material by the field that asks for them, as they were typed; None while nobody kept any
    costs: Mapped[dict[str, str] | None] = mapped_column(JSON(none_as_null=True), default=None)
    #: the lab it comes from, and how it was called there; blank of a trial begun here
    brought_from: Mapped[str] = mapped_column(String(160), default="", server_default="")

    locked_by: Mapped[Person | None] = relationship(foreign_keys=[locked_by_id])
    versions: Mapped[list[PlanVersion]] = relationship(order_by="PlanVersion.number", cascade="save-update, merge")
    arms: Mapped[list[Arm]] = relationship(order_by="Arm.letter", cascade=CASCADE, back_populates="trial")
    waves: Mapped[list[Wave]] = relationship(order_by="Wave.number", cascade=CASCADE, back_populates="trial")
    draws: Mapped[list[Draw]] = relationship(order_by="Draw.number", cascade=CASCADE)
    trays: Mapped[list[Tray]] = relationship(order_by="Tray.number", cascade=CASCADE)
    units: Mapped[list[Unit]] = relationship(order_by="Unit.bench_order", cascade=CASCADE, back_populates="trial")
    lots: Mapped[list[Lot]] = relationship(order_by="Lot.id", cascade=CASCADE, back_populates="trial")
    checks: Mapped[list[CheckVisit]] = relationship(cascade=CASCADE, back_populates="trial")
    planned_checks: Mapped[list[PlannedCheck]] = relationship(cascade=CASCADE, back_populates="trial")
    seen: Mapped[list[SeenArms]] = relationship(order_by="SeenArms.id", cascade=CASCADE)

    __mapper_args__ = {"version_id_col": version}

    @property
    def plan(self) -> Plan:
        """The plan in force."""
        return from_text(self.plan_text)

    def keep_plan(self, plan: Plan) -> None:
        """Put a plan in force; the caller sees to locks and versions."""
        self.plan_text = to_text(plan)

    @property
    def digest(self) -> str | None:
        """The digest the plan was locked with, None before; it also seeds the analysis."""
        return self.versions[0].digest if self.versions else None

    @property
    def taxon(self) -> str:
        """Botanical name with its cultivar."""
        return self.plan.question.taxon

    @property
    def factors(self) -> tuple[Aspect, ...]:
        """What is asked: the aspects that are varied on purpose."""
        return self.plan.treatments.asked

    @property
    def day_zero(self) -> DayZero | None:
        """Day 0 of the first lot, None before sticking. Days of a cutting are counted from its own lot."""
        return self.lots[0].day_zero if self.lots else None

    @property
    def sticking_done_at(self) -> datetime | None:
        """When the last wave was stuck; None while a wave is left."""
        done = [wave.sticking_done_at for wave in self.waves if wave.sticking_done_at is not None]
        return max(done) if done and len(done) == len(self.waves) else None

    @property
    def anything_stuck(self) -> bool:
        """Whether sticking of some wave is finished."""
        return any(wave.sticking_done_at is not None for wave in self.waves)


class PlanVersion(Base):
    """A version of a locked plan: 1 is what was locked, each amendment makes the next. Never changed or deleted.

    ``digest`` is that of ``text``, or of ``sealed`` where the plan was locked in an earlier form.
    """

    __tablename__ = "plan_version"
    __table_args__ = (UniqueConstraint("trial_id", "number"), TABLE)
    id: Mapped[int] = mapped_column(primary_key=True)
    trial_id: Mapped[int] = mapped_column(ForeignKey("trial.id"))
    number: Mapped[int] = mapped_column()
    text: Mapped[str] = mapped_column(MEDIUMTEXT, deferred=True)
    sealed: Mapped[str | None] = mapped_column(MEDIUMTEXT, default=None, deferred=True)
    digest: Mapped[str] = mapped_column(String(64))
    at: Mapped[datetime] = mapped_column(Moment)
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    why: Mapped[str] = mapped_column(String(500), default="")
    person: Mapped[Person] = relationship()


class Arm(Base):
    """An arm's identity; what it is stands in the plan under its letter."""

    __tablename__ = "arm"
    __table_args__ = (UniqueConstraint("trial_id", "letter"), UniqueConstraint("id", "trial_id"), TABLE)
    id: Mapped[int] = mapped_column(primary_key=True)
    trial_id: Mapped[int] = mapped_column(ForeignKey("trial.id"))
    letter: Mapped[str] = mapped_column(String(2))
    trial: Mapped[Trial] = relationship(back_populates="arms")

    @property
    def planned(self) -> ArmPlan:
        """The arm as the plan has it."""
        return self.trial.plan.treatments.arm(self.letter)

    @property
    def level_names(self) -> tuple[str, ...]:
        """Levels of the factors, in order."""
        return self.trial.plan.treatments.level_names(self.planned)

    @property
    def name(self) -> str:
        """Levels joined for showing."""
        return self.trial.plan.treatments.name(self.planned)

    @property
    def is_control(self) -> bool:
        """Whether it is the control."""
        return self.planned.control

    @property
    def container(self) -> Container:
        """What its cuttings stand in."""
        return self.trial.plan.container_of(self.planned)


class Wave(Base):
    """A sticking occasion; its date stands in the plan. Every trial has one."""

    __tablename__ = "wave"
    __table_args__ = (UniqueConstraint("trial_id", "number"), UniqueConstraint("id", "trial_id"), TABLE)
    id: Mapped[int] = mapped_column(primary_key=True)
    trial_id: Mapped[int] = mapped_column(ForeignKey("trial.id"))
    number: Mapped[int] = mapped_column()
    sticking_done_at: Mapped[datetime | None] = mapped_column(Moment, default=None)
    #: since when pieces that were there to be stuck wait, and for what; None and blank where none do
    waiting_since: Mapped[datetime | None] = mapped_column(Moment, default=None)
    waiting_for: Mapped[str] = mapped_column(String(20), default="", server_default="")
    trial: Mapped[Trial] = relationship(back_populates="waves")

    @property
    def planned_for(self) -> date | None:
        """The planned date, None when not said."""
        return next((w.planned_for for w in self.trial.plan.schedule.waves if w.number == self.number), None)


#: How the reason of a draw begins that came in with its design.
MADE_ELSEWHERE = "made elsewhere: "


class Draw(Base):
    """A seeded draw; every one is kept, the newest is in force. A redraw has a reason."""

    __tablename__ = "draw"
    __table_args__ = (
        UniqueConstraint("trial_id", "number"),
        CheckConstraint("number = 1 or reason <> ''", name="redraw_has_reason"),
        TABLE,
    )
    id: Mapped[int] = mapped_column(primary_key=True)
    trial_id: Mapped[int] = mapped_column(ForeignKey("trial.id"))
    number: Mapped[int] = mapped_column()
    seed: Mapped[int] = mapped_column()
    reason: Mapped[str] = mapped_column(String(300))
    result: Mapped[list[str]] = mapped_column(JSON)
    at: Mapped[datetime] = mapped_column(Moment)
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    person: Mapped[Person] = relationship()

    @property
    def made_elsewhere(self) -> bool:
        """Whether it only came in here: no seed of ours made it, and its day is that of its coming."""
        return self.seed == 0 and self.reason.startswith(MADE_ELSEWHERE)
