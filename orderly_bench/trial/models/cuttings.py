"""Lots and cuttings."""

from __future__ import annotations

from datetime import date, datetime
from typing import Any

from sqlalchemy import JSON, CheckConstraint, ForeignKey, Index, String, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column, relationship

from orderly_bench.core.stick.came import read_came
from orderly_bench.core.stick.held import held_words
from orderly_bench.core.stick.tally import Status
from orderly_bench.core.tend.schedule import DayZero
from orderly_bench.database.base import TABLE, Base, Moment, one_of, same_trial
from orderly_bench.stock.models import StockPlant
from orderly_bench.trial.models.people import Person
from orderly_bench.trial.models.places import Unit
from orderly_bench.trial.models.trial import CASCADE, Trial, Wave


class Lot(Base):
    """What was taken, held and stuck together; owns day 0, a first and a last possible day."""

    __tablename__ = "lot"
    __table_args__ = (
        UniqueConstraint("wave_id", "number"),
        UniqueConstraint("id", "trial_id"),
        CheckConstraint("day_zero_first <= day_zero_last", name="days_in_order"),
        CheckConstraint("held_hours is null or held_hours between 0 and 8760", name="held_hours_range"),
        same_trial("wave_id", "wave"),
        TABLE,
    )
    id: Mapped[int] = mapped_column(primary_key=True)
    trial_id: Mapped[int] = mapped_column(ForeignKey("trial.id"))
    wave_id: Mapped[int] = mapped_column()
    number: Mapped[int] = mapped_column(default=1, server_default="1")
    day_zero_first: Mapped[date] = mapped_column()
    day_zero_last: Mapped[date] = mapped_column()
    held: Mapped[str] = mapped_column(String(120), default="")
    #: hours between taking and sticking
    held_hours: Mapped[float | None] = mapped_column(default=None)
    held_on_purpose: Mapped[bool] = mapped_column(default=False, server_default="0")
    #: measures that hold of what is stuck in it from now on, unless noted otherwise
    usual: Mapped[dict[str, str]] = mapped_column(JSON, default=dict, server_default="{}")
    #: why, in what condition, from whom and by whom it was stuck, as typed
    came: Mapped[dict[str, str]] = mapped_column(JSON, default=dict, server_default="{}")
    #: steps at the tray that were ticked: by whom (a person's id) and when
    steps: Mapped[dict[str, list[Any]]] = mapped_column(JSON, default=dict, server_default="{}")
    note: Mapped[str] = mapped_column(String(500), default="")
    version: Mapped[int] = mapped_column()
    trial: Mapped[Trial] = relationship(back_populates="lots")
    wave: Mapped[Wave] = relationship(primaryjoin="Lot.wave_id == Wave.id", foreign_keys="Lot.wave_id")
    corrections: Mapped[list[DayZeroCorrection]] = relationship(order_by="DayZeroCorrection.id", cascade=CASCADE)
    __mapper_args__ = {"version_id_col": version}

    @property
    def held_words(self) -> str:
        """How the pieces were held, and for how long."""
        return held_words(self.held, self.held_hours)

    @property
    def came_words(self) -> str:
        """How it came, in one line."""
        return read_came(self.came).words

    @property
    def day_zero(self) -> DayZero:
        """The sticking day as the core takes it."""
        return DayZero(self.day_zero_first, self.day_zero_last)

    @property
    def name(self) -> str:
        """``wave 2, lot 1``."""
        return f"wave {self.wave.number}, lot {self.number}"


class DayZeroCorrection(Base):
    """A day 0 that was put right: what it was, why, when, by whom."""

    __tablename__ = "day_zero_correction"
    __table_args__ = (CheckConstraint("reason <> ''", name="has_reason"), TABLE)
    id: Mapped[int] = mapped_column(primary_key=True)
    lot_id: Mapped[int] = mapped_column(ForeignKey("lot.id"))
    old_first: Mapped[date] = mapped_column()
    old_last: Mapped[date] = mapped_column()
    reason: Mapped[str] = mapped_column(String(300))
    at: Mapped[datetime] = mapped_column(Moment)
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    person: Mapped[Person] = relationship()


class Cutting(Base):
    """A planned place in a unit, then stuck or not stuck; every denominator counts stuck ones.

    ``replaces_id`` names the early loss it stands in for: it has a lot of its own and no score of the other's.
    """

    __tablename__ = "cutting"
    __table_args__ = (
        UniqueConstraint("unit_id", "number"),
        UniqueConstraint("id", "trial_id"),
        one_of("status", Status),
        CheckConstraint("status <> 'stuck' or lot_id is not null", name="stuck_has_lot"),
        CheckConstraint("status <> 'not stuck' or not_stuck_reason is not null", name="not_stuck_has_reason"),
        Index("ix_cutting_lot_id", "lot_id"),
        same_trial("unit_id", "unit"),
        same_trial("lot_id", "lot"),
        same_trial("replaces_id", "cutting"),
        TABLE,
    )
    id: Mapped[int] = mapped_column(primary_key=True)
    trial_id: Mapped[int] = mapped_column()
    unit_id: Mapped[int] = mapped_column()
    number: Mapped[int] = mapped_column(default=1)
    status: Mapped[str] = mapped_column(String(10), default=Status.PLANNED.value)
    not_stuck_reason: Mapped[str | None] = mapped_column(String(120), default=None)
    lot_id: Mapped[int | None] = mapped_column(default=None)
    replaces_id: Mapped[int | None] = mapped_column(default=None, unique=True)
    #: when it was noted as stuck, and by whom
    stuck_at: Mapped[datetime | None] = mapped_column(Moment, default=None)
    stuck_by_id: Mapped[int | None] = mapped_column(ForeignKey("person.id"), default=None)
    #: line of the plan's pieces it was allotted from
    piece: Mapped[int | None] = mapped_column(default=None)
    donor_id: Mapped[int | None] = mapped_column(ForeignKey("stock_plant.id"), default=None)
    grade: Mapped[str] = mapped_column(String(40), default="", server_default="")
    stem: Mapped[str] = mapped_column(String(60), default="")
    stem_place: Mapped[str] = mapped_column(String(40), default="", server_default="")
    #: measures by name: noted of it alone, and those that its lot had when it was stuck
    own_measures: Mapped[dict[str, str]] = mapped_column(JSON, default=dict, server_default="{}")
    usual_measures: Mapped[dict[str, str]] = mapped_column(JSON, default=dict, server_default="{}")
    unit: Mapped[Unit] = relationship(
        back_populates="cuttings", primaryjoin="Cutting.unit_id == Unit.id", foreign_keys="Cutting.unit_id"
    )
    donor: Mapped[StockPlant | None] = relationship()
    lot: Mapped[Lot | None] = relationship(primaryjoin="Cutting.lot_id == Lot.id", foreign_keys="Cutting.lot_id")

    @property
    def code(self) -> str:
        """The unit's code; with ``-n`` when the unit holds several."""
        return self.unit.code if len(self.unit.cuttings) == 1 else f"{self.unit.code}-{self.number}"

    @property
    def measures(self) -> dict[str, str]:
        """What is known of how it went in, by name of the measure."""
        return {**self.usual_measures, **self.own_measures}

    @property
    def sites(self) -> tuple[str, ...]:
        """Its rooting sites; one without a name unless the arm has several."""
        return self.unit.arm.planned.sites or ("",)
