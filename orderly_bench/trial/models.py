"""Tables that every chapter shares: people, trials, arms, units, cuttings."""

from __future__ import annotations

from datetime import date, datetime
from typing import Any

from sqlalchemy import JSON, CheckConstraint, ForeignKey, Index, String, Text, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column, relationship

from orderly_bench.core.tend.schedule import DayZero
from orderly_bench.core.vocabulary import LayoutKind
from orderly_bench.database.base import TABLE, Base, Moment

CASCADE = "all, delete-orphan"


class Lab(Base):
    """The one lab of an installation."""

    __tablename__ = "lab"
    __table_args__ = TABLE
    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(120))
    time_zone: Mapped[str] = mapped_column(String(60))
    is_demo: Mapped[bool] = mapped_column(default=False)


class Person(Base):
    """Someone who can sign in; one role for the whole lab."""

    __tablename__ = "person"
    __table_args__ = (
        CheckConstraint("role in ('lead','researcher','scorer','reader')", name="role_known"),
        TABLE,
    )
    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(80))
    sign_in_name: Mapped[str] = mapped_column(String(80), unique=True)
    role: Mapped[str] = mapped_column(String(20))
    password_hash: Mapped[str] = mapped_column(String(200))
    active: Mapped[bool] = mapped_column(default=True)
    created_at: Mapped[datetime] = mapped_column(Moment)

    # What Flask-Login asks of a person.
    is_authenticated = True
    is_anonymous = False

    @property
    def is_active(self) -> bool:
        """Whether the account may be used."""
        return self.active

    def get_id(self) -> str:
        """Identity kept in the session."""
        return str(self.id)


class Trial(Base):
    """One trial and its plan. The plan's columns are frozen once ``locked_at`` is set."""

    __tablename__ = "trial"
    __table_args__ = (
        CheckConstraint("kind in ('test','look')", name="kind_known"),
        CheckConstraint("endpoint_day between 1 and 1000", name="endpoint_day_range"),
        CheckConstraint("margin_points between 1 and 99", name="margin_range"),
        TABLE,
    )
    id: Mapped[int] = mapped_column(primary_key=True)
    code: Mapped[str] = mapped_column(String(20), unique=True)
    kind: Mapped[str] = mapped_column(String(10), default="test")
    botanical_name: Mapped[str] = mapped_column(String(120))
    cultivar: Mapped[str] = mapped_column(String(120), default="")
    source: Mapped[str] = mapped_column(String(200), default="")
    question: Mapped[str] = mapped_column(String(300), default="")
    why: Mapped[str] = mapped_column(Text, default="")
    endpoint_day: Mapped[int] = mapped_column(default=42)
    margin_points: Mapped[float] = mapped_column(default=15.0)
    alpha: Mapped[float] = mapped_column(default=0.05)
    held_same: Mapped[str] = mapped_column(Text, default="")
    stop_rule: Mapped[str] = mapped_column(Text, default="")
    check_days: Mapped[list[int]] = mapped_column(JSON, default=list)
    care_task: Mapped[str] = mapped_column(String(120), default="")
    care_every_days: Mapped[int] = mapped_column(default=0)
    fit_least_roots: Mapped[int] = mapped_column(default=3)
    fit_least_mm: Mapped[float] = mapped_column(default=10.0)
    blind: Mapped[bool] = mapped_column(default=True)

    layout: Mapped[str] = mapped_column(String(40), default=LayoutKind.COMPLETELY_RANDOMISED.value)
    cuttings_per_arm: Mapped[int] = mapped_column(default=24)
    cuttings_per_unit: Mapped[int] = mapped_column(default=1, server_default="1")
    blocks: Mapped[int] = mapped_column(default=1)
    block_size: Mapped[int] = mapped_column(default=0, server_default="0")
    whole_factor: Mapped[str] = mapped_column(String(60), default="", server_default="")
    gradient: Mapped[str] = mapped_column(String(120), default="")
    bench: Mapped[str] = mapped_column(String(80), default="Bench 1")
    tray_rows: Mapped[int] = mapped_column(default=4)
    tray_columns: Mapped[int] = mapped_column(default=8)
    cell_volume_ml: Mapped[float] = mapped_column(default=60.0)
    recipes: Mapped[dict[str, str]] = mapped_column(JSON, default=dict)
    assumed_rates: Mapped[list[float] | None] = mapped_column(JSON, default=None)
    assumed_icc: Mapped[float | None] = mapped_column(default=None)

    locked_at: Mapped[datetime | None] = mapped_column(Moment, default=None)
    locked_by_id: Mapped[int | None] = mapped_column(ForeignKey("person.id"), default=None)
    digest: Mapped[str | None] = mapped_column(String(64), default=None)
    prepared_at: Mapped[datetime | None] = mapped_column(Moment, default=None)
    sticking_done_at: Mapped[datetime | None] = mapped_column(Moment, default=None)
    created_at: Mapped[datetime] = mapped_column(Moment)
    created_by_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    version: Mapped[int] = mapped_column()

    locked_by: Mapped[Person | None] = relationship(foreign_keys=[locked_by_id])
    factors: Mapped[list[Factor]] = relationship(order_by="Factor.position", cascade=CASCADE, back_populates="trial")
    arms: Mapped[list[Arm]] = relationship(order_by="Arm.position", cascade=CASCADE, back_populates="trial")
    waves: Mapped[list[Wave]] = relationship(order_by="Wave.number", cascade=CASCADE, back_populates="trial")
    draws: Mapped[list[Draw]] = relationship(order_by="Draw.number", cascade=CASCADE)
    trays: Mapped[list[Tray]] = relationship(order_by="Tray.number", cascade=CASCADE)
    units: Mapped[list[Unit]] = relationship(order_by="Unit.bench_order", cascade=CASCADE, back_populates="trial")
    lots: Mapped[list[Lot]] = relationship(order_by="Lot.id", cascade=CASCADE)
    amendments: Mapped[list[Amendment]] = relationship(order_by="Amendment.at", cascade=CASCADE)
    reveals: Mapped[list[Reveal]] = relationship(order_by="Reveal.at", cascade=CASCADE)

    __mapper_args__ = {"version_id_col": version}

    @property
    def taxon(self) -> str:
        """Botanical name with its cultivar."""
        return f"{self.botanical_name} '{self.cultivar}'" if self.cultivar else self.botanical_name

    @property
    def day_zero(self) -> DayZero | None:
        """Day 0 of the first lot, None before sticking."""
        return self.lots[0].day_zero if self.lots else None


class Factor(Base):
    """What is varied."""

    __tablename__ = "factor"
    __table_args__ = (UniqueConstraint("trial_id", "position"), TABLE)
    id: Mapped[int] = mapped_column(primary_key=True)
    trial_id: Mapped[int] = mapped_column(ForeignKey("trial.id"))
    position: Mapped[int] = mapped_column()
    kind: Mapped[str] = mapped_column(String(20))
    name: Mapped[str] = mapped_column(String(60))
    trial: Mapped[Trial] = relationship(back_populates="factors")
    levels: Mapped[list[Level]] = relationship(order_by="Level.position", cascade=CASCADE, back_populates="factor")


class Level(Base):
    """One level of a factor; *none* is a level, not a blank."""

    __tablename__ = "level"
    __table_args__ = (UniqueConstraint("factor_id", "position"), UniqueConstraint("factor_id", "name"), TABLE)
    id: Mapped[int] = mapped_column(primary_key=True)
    factor_id: Mapped[int] = mapped_column(ForeignKey("factor.id"))
    position: Mapped[int] = mapped_column()
    name: Mapped[str] = mapped_column(String(60))
    factor: Mapped[Factor] = relationship(back_populates="levels")


class ArmLevel(Base):
    """An arm's level of one factor."""

    __tablename__ = "arm_level"
    __table_args__ = TABLE
    arm_id: Mapped[int] = mapped_column(ForeignKey("arm.id"), primary_key=True)
    factor_id: Mapped[int] = mapped_column(ForeignKey("factor.id"), primary_key=True)
    level_id: Mapped[int] = mapped_column(ForeignKey("level.id"))
    factor: Mapped[Factor] = relationship()
    level: Mapped[Level] = relationship()


class Arm(Base):
    """One combination of levels; ``letter`` is on its stake."""

    __tablename__ = "arm"
    __table_args__ = (UniqueConstraint("trial_id", "letter"), TABLE)
    id: Mapped[int] = mapped_column(primary_key=True)
    trial_id: Mapped[int] = mapped_column(ForeignKey("trial.id"))
    position: Mapped[int] = mapped_column()
    letter: Mapped[str] = mapped_column(String(2))
    is_control: Mapped[bool] = mapped_column(default=False)
    trial: Mapped[Trial] = relationship(back_populates="arms")
    arm_levels: Mapped[list[ArmLevel]] = relationship(cascade=CASCADE)

    @property
    def level_names(self) -> tuple[str, ...]:
        """Levels in factor order."""
        ordered = sorted(self.arm_levels, key=lambda a: a.factor.position)
        return tuple(a.level.name for a in ordered)

    @property
    def name(self) -> str:
        """Levels joined as the analysis joins them."""
        return " + ".join(self.level_names)


class Wave(Base):
    """One planned sticking occasion. Every trial has one."""

    __tablename__ = "wave"
    __table_args__ = (UniqueConstraint("trial_id", "number"), TABLE)
    id: Mapped[int] = mapped_column(primary_key=True)
    trial_id: Mapped[int] = mapped_column(ForeignKey("trial.id"))
    number: Mapped[int] = mapped_column()
    planned_for: Mapped[date | None] = mapped_column(default=None)
    trial: Mapped[Trial] = relationship(back_populates="waves")


class Draw(Base):
    """A seeded draw; every one is kept, the newest is in force. A redraw has a reason."""

    __tablename__ = "draw"
    __table_args__ = (UniqueConstraint("trial_id", "number"), TABLE)
    id: Mapped[int] = mapped_column(primary_key=True)
    trial_id: Mapped[int] = mapped_column(ForeignKey("trial.id"))
    number: Mapped[int] = mapped_column()
    seed: Mapped[int] = mapped_column()
    reason: Mapped[str] = mapped_column(String(300))
    result: Mapped[list[str]] = mapped_column(JSON)
    at: Mapped[datetime] = mapped_column(Moment)
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    person: Mapped[Person] = relationship()


class Tray(Base):
    """A grid of positions on a bench."""

    __tablename__ = "tray"
    __table_args__ = (
        UniqueConstraint("trial_id", "number"),
        CheckConstraint("`rows` > 0 and `columns` > 0", name="has_cells"),
        TABLE,
    )
    id: Mapped[int] = mapped_column(primary_key=True)
    trial_id: Mapped[int] = mapped_column(ForeignKey("trial.id"))
    number: Mapped[int] = mapped_column()
    rows: Mapped[int] = mapped_column()
    columns: Mapped[int] = mapped_column()


class Unit(Base):
    """What an arm was assigned to at random; carries the code on the label."""

    __tablename__ = "unit"
    __table_args__ = (UniqueConstraint("trial_id", "bench_order"), TABLE)
    id: Mapped[int] = mapped_column(primary_key=True)
    trial_id: Mapped[int] = mapped_column(ForeignKey("trial.id"))
    wave_id: Mapped[int] = mapped_column(ForeignKey("wave.id"))
    arm_id: Mapped[int] = mapped_column(ForeignKey("arm.id"))
    code: Mapped[str] = mapped_column(String(8), unique=True)
    bench_order: Mapped[int] = mapped_column()
    trial: Mapped[Trial] = relationship(back_populates="units")
    arm: Mapped[Arm] = relationship()
    wave: Mapped[Wave] = relationship()
    groupings: Mapped[list[Grouping]] = relationship(cascade=CASCADE)
    placements: Mapped[list[Placement]] = relationship(order_by="Placement.from_at", cascade=CASCADE)
    cuttings: Mapped[list[Cutting]] = relationship(order_by="Cutting.number", cascade=CASCADE, back_populates="unit")

    @property
    def place(self) -> Placement:
        """Where it stands now."""
        return self.placements[-1]

    def group(self, kind: str) -> str | None:
        """Its group of one kind, such as *block*; None when it has none."""
        return next((g.name for g in self.groupings if g.kind == kind), None)


class Grouping(Base):
    """A typed grouping of a unit: block, row, column, whole plot, pair."""

    __tablename__ = "grouping"
    __table_args__ = (UniqueConstraint("unit_id", "kind"), TABLE)
    id: Mapped[int] = mapped_column(primary_key=True)
    unit_id: Mapped[int] = mapped_column(ForeignKey("unit.id"))
    kind: Mapped[str] = mapped_column(String(20))
    name: Mapped[str] = mapped_column(String(60))


class Placement(Base):
    """A unit's place from a moment on; a move adds a row and changes neither block nor arm."""

    __tablename__ = "placement"
    __table_args__ = (UniqueConstraint("tray_id", "row", "column", "from_at"), TABLE)
    id: Mapped[int] = mapped_column(primary_key=True)
    unit_id: Mapped[int] = mapped_column(ForeignKey("unit.id"))
    tray_id: Mapped[int] = mapped_column(ForeignKey("tray.id"))
    row: Mapped[int] = mapped_column()
    column: Mapped[int] = mapped_column()
    from_at: Mapped[datetime] = mapped_column(Moment)
    tray: Mapped[Tray] = relationship()


class Lot(Base):
    """What was taken, held and stuck together; owns day 0, a first and a last possible day."""

    __tablename__ = "lot"
    __table_args__ = (CheckConstraint("day_zero_first <= day_zero_last", name="days_in_order"), TABLE)
    id: Mapped[int] = mapped_column(primary_key=True)
    trial_id: Mapped[int] = mapped_column(ForeignKey("trial.id"))
    wave_id: Mapped[int] = mapped_column(ForeignKey("wave.id"))
    day_zero_first: Mapped[date] = mapped_column()
    day_zero_last: Mapped[date] = mapped_column()
    held: Mapped[str] = mapped_column(String(120), default="")
    note: Mapped[str] = mapped_column(String(500), default="")
    version: Mapped[int] = mapped_column()
    __mapper_args__ = {"version_id_col": version}

    @property
    def day_zero(self) -> DayZero:
        """The sticking day as the core takes it."""
        return DayZero(self.day_zero_first, self.day_zero_last)


class Cutting(Base):
    """A planned place in a unit, then stuck or not stuck; every denominator counts stuck ones."""

    __tablename__ = "cutting"
    __table_args__ = (
        UniqueConstraint("unit_id", "number"),
        CheckConstraint("status in ('planned','stuck','not stuck')", name="status_known"),
        CheckConstraint("status <> 'stuck' or lot_id is not null", name="stuck_has_lot"),
        CheckConstraint("status <> 'not stuck' or not_stuck_reason is not null", name="not_stuck_has_reason"),
        Index("ix_cutting_lot_id", "lot_id"),
        TABLE,
    )
    id: Mapped[int] = mapped_column(primary_key=True)
    unit_id: Mapped[int] = mapped_column(ForeignKey("unit.id"))
    number: Mapped[int] = mapped_column(default=1)
    status: Mapped[str] = mapped_column(String(10), default="planned")
    not_stuck_reason: Mapped[str | None] = mapped_column(String(120), default=None)
    lot_id: Mapped[int | None] = mapped_column(ForeignKey("lot.id"), default=None)
    stock_plant: Mapped[str] = mapped_column(String(60), default="")
    stem: Mapped[str] = mapped_column(String(60), default="")
    unit: Mapped[Unit] = relationship(back_populates="cuttings")
    lot: Mapped[Lot | None] = relationship()

    @property
    def code(self) -> str:
        """The unit's code; with ``-n`` when the unit holds several."""
        return self.unit.code if len(self.unit.cuttings) == 1 else f"{self.unit.code}-{self.number}"


class Amendment(Base):
    """A change or departure after locking, with its reason."""

    __tablename__ = "amendment"
    __table_args__ = TABLE
    id: Mapped[int] = mapped_column(primary_key=True)
    trial_id: Mapped[int] = mapped_column(ForeignKey("trial.id"))
    what: Mapped[str] = mapped_column(String(300))
    reason: Mapped[str] = mapped_column(String(500))
    at: Mapped[datetime] = mapped_column(Moment)
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
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


class AuditEntry(Base):
    """Who did what, when, old and new, why: as data."""

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
