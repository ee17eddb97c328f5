"""Units and where they stand."""

from __future__ import annotations

from datetime import datetime
from typing import TYPE_CHECKING

from sqlalchemy import CheckConstraint, ForeignKey, String, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column, relationship

from orderly_bench.core.plan.treatments import Shape
from orderly_bench.database.base import TABLE, Base, Moment, one_of, same_trial
from orderly_bench.stock.models import StockBench
from orderly_bench.trial.models.people import Person
from orderly_bench.trial.models.trial import CASCADE, Arm, Trial, Wave

if TYPE_CHECKING:
    from orderly_bench.trial.models.cuttings import Cutting


class Tray(Base):
    """A grid of positions on a bench: a tray of cells, pots side by side, a bed, or 1 x 1 for what stands by itself."""

    __tablename__ = "tray"
    __table_args__ = (
        UniqueConstraint("trial_id", "number"),
        UniqueConstraint("id", "trial_id"),
        CheckConstraint("`rows` > 0 and `columns` > 0", name="has_cells"),
        one_of("shape", Shape),
        same_trial("wave_id", "wave"),
        TABLE,
    )
    id: Mapped[int] = mapped_column(primary_key=True)
    trial_id: Mapped[int] = mapped_column(ForeignKey("trial.id"))
    wave_id: Mapped[int] = mapped_column()
    number: Mapped[int] = mapped_column()
    #: cells each way
    rows: Mapped[int] = mapped_column()
    columns: Mapped[int] = mapped_column()
    shape: Mapped[str] = mapped_column(String(20), default=Shape.CELLS.value)
    #: centimetres across one place; null on trays of an earlier version
    across_cm: Mapped[float | None] = mapped_column(default=None)
    wave: Mapped[Wave] = relationship(primaryjoin="Tray.wave_id == Wave.id", foreign_keys="Tray.wave_id")
    standings: Mapped[list[TrayStanding]] = relationship(
        order_by="TrayStanding.id", cascade=CASCADE, back_populates="tray",
        primaryjoin="Tray.id == TrayStanding.tray_id", foreign_keys="TrayStanding.tray_id",
    )  # fmt: skip

    @property
    def standing(self) -> TrayStanding | None:
        """Where it stands on which bench; None while nobody has put it on one."""
        return next((one for one in self.standings if one.current), None)


class TrayStanding(Base):
    """A tray's place on a bench from a moment on; ``current`` is 1, or null once it was moved. Never changed or deleted else."""

    __tablename__ = "tray_standing"
    __table_args__ = (
        UniqueConstraint("tray_id", "current"),
        CheckConstraint("x_cm >= 0 and y_cm >= 0", name="on_the_bench"),
        same_trial("tray_id", "tray"),
        TABLE,
    )
    id: Mapped[int] = mapped_column(primary_key=True)
    trial_id: Mapped[int] = mapped_column()
    tray_id: Mapped[int] = mapped_column()
    bench_id: Mapped[int] = mapped_column(ForeignKey("stock_bench.id"))
    #: centimetres along the bench, to the tray's near left corner
    x_cm: Mapped[float] = mapped_column()
    #: centimetres across the bench
    y_cm: Mapped[float] = mapped_column()
    current: Mapped[int | None] = mapped_column(default=1)
    from_at: Mapped[datetime] = mapped_column(Moment)
    reason: Mapped[str] = mapped_column(String(300), default="", server_default="")
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    tray: Mapped[Tray] = relationship(
        back_populates="standings", primaryjoin="TrayStanding.tray_id == Tray.id", foreign_keys="TrayStanding.tray_id"
    )
    bench: Mapped[StockBench] = relationship()
    person: Mapped[Person] = relationship()


class Unit(Base):
    """What an arm was assigned to at random; carries the code on the label."""

    __tablename__ = "unit"
    __table_args__ = (
        UniqueConstraint("trial_id", "bench_order"),
        UniqueConstraint("id", "trial_id"),
        UniqueConstraint("code", "brought"),
        same_trial("wave_id", "wave"),
        same_trial("arm_id", "arm"),
        same_trial("sampled_id", "check_visit"),
        TABLE,
    )
    id: Mapped[int] = mapped_column(primary_key=True)
    trial_id: Mapped[int] = mapped_column(ForeignKey("trial.id"))
    wave_id: Mapped[int] = mapped_column()
    arm_id: Mapped[int] = mapped_column()
    #: the check it was drawn for and lifted for good; none: it stays to the end
    sampled_id: Mapped[int | None] = mapped_column(default=None)
    code: Mapped[str] = mapped_column(String(8))
    #: 0: its code was drawn here, where no two are alike; else its trial, whose labels were printed in another lab
    brought: Mapped[int] = mapped_column(default=0, server_default="0")
    #: from 1, along the bench
    bench_order: Mapped[int] = mapped_column()
    trial: Mapped[Trial] = relationship(back_populates="units")
    arm: Mapped[Arm] = relationship(primaryjoin="Unit.arm_id == Arm.id", foreign_keys="Unit.arm_id")
    wave: Mapped[Wave] = relationship(primaryjoin="Unit.wave_id == Wave.id", foreign_keys="Unit.wave_id")
    groupings: Mapped[list[Grouping]] = relationship(cascade=CASCADE)
    placements: Mapped[list[Placement]] = relationship(
        order_by="Placement.from_at, Placement.id",
        cascade=CASCADE,
        back_populates="unit",
        primaryjoin="Placement.unit_id == Unit.id",
        foreign_keys="Placement.unit_id",
    )
    cuttings: Mapped[list[Cutting]] = relationship(
        order_by="Cutting.number",
        cascade=CASCADE,
        back_populates="unit",
        primaryjoin="Cutting.unit_id == Unit.id",
        foreign_keys="Cutting.unit_id",
    )

    @property
    def place(self) -> Placement:
        """Where it stands now."""
        return next(p for p in reversed(self.placements) if p.current)

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
    """A unit's place from a moment on; ``current`` is 1, or null once it was moved. A move changes neither block nor arm.

    A vessel that holds several units has a ``spot`` for each.
    """

    __tablename__ = "placement"
    __table_args__ = (
        UniqueConstraint("unit_id", "current"),
        UniqueConstraint("tray_id", "row", "column", "spot", "current"),
        CheckConstraint("`row` > 0 and `column` > 0 and spot > 0", name="place_counts_from_one"),
        same_trial("unit_id", "unit"),
        same_trial("tray_id", "tray"),
        TABLE,
    )
    id: Mapped[int] = mapped_column(primary_key=True)
    trial_id: Mapped[int] = mapped_column()
    unit_id: Mapped[int] = mapped_column()
    tray_id: Mapped[int] = mapped_column()
    #: row and cell of the tray, from 1
    row: Mapped[int] = mapped_column()
    column: Mapped[int] = mapped_column()
    #: place in the container, from 1
    spot: Mapped[int] = mapped_column(default=1, server_default="1")
    current: Mapped[int | None] = mapped_column(default=1)
    from_at: Mapped[datetime] = mapped_column(Moment)
    reason: Mapped[str] = mapped_column(String(300), default="", server_default="")
    person_id: Mapped[int | None] = mapped_column(ForeignKey("person.id"), default=None)
    unit: Mapped[Unit] = relationship(
        back_populates="placements", primaryjoin="Placement.unit_id == Unit.id", foreign_keys="Placement.unit_id"
    )
    tray: Mapped[Tray] = relationship(primaryjoin="Placement.tray_id == Tray.id", foreign_keys="Placement.tray_id")
    person: Mapped[Person | None] = relationship()
