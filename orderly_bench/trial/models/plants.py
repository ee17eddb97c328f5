"""What became of the plants after the end of a trial."""

from __future__ import annotations

from datetime import date, datetime

from sqlalchemy import JSON, CheckConstraint, ForeignKey, Index, String
from sqlalchemy.orm import Mapped, mapped_column, relationship

from orderly_bench.core.conclude.hardening import Night
from orderly_bench.core.conclude.plants import Fate
from orderly_bench.database.base import TABLE, Base, Moment, one_of, same_trial
from orderly_bench.trial.models.cuttings import Cutting
from orderly_bench.trial.models.people import Person


class PlantEnd(Base):
    """Where a plant went; one written later for the same plant stands, the earlier one stays on record."""

    __tablename__ = "plant_end"
    __table_args__ = (
        one_of("fate", Fate),
        CheckConstraint("fate not in ('given','sold') or rights <> ''", name="rights_before_it_leaves"),
        CheckConstraint("price is null or (fate = 'sold' and price >= 0)", name="price_of_what_was_sold"),
        same_trial("cutting_id", "cutting"),
        Index("ix_plant_end_trial_id", "trial_id"),
        TABLE,
    )
    id: Mapped[int] = mapped_column(primary_key=True)
    trial_id: Mapped[int] = mapped_column()
    cutting_id: Mapped[int] = mapped_column()
    fate: Mapped[str] = mapped_column(String(12))
    day: Mapped[date] = mapped_column()
    note: Mapped[str] = mapped_column(String(200), default="")
    rights: Mapped[str] = mapped_column(String(300), default="")
    #: of one plant, when sold; None where nobody said
    price: Mapped[float | None] = mapped_column(default=None)
    currency: Mapped[str] = mapped_column(String(8), default="", server_default="")
    at: Mapped[datetime] = mapped_column(Moment)
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    person: Mapped[Person] = relationship()
    cutting: Mapped[Cutting] = relationship(
        primaryjoin="PlantEnd.cutting_id == Cutting.id", foreign_keys="PlantEnd.cutting_id"
    )


class HardeningNight(Base):
    """A night of hardening, after a day: in or out, the lowest reading, and how many were nipped by arm."""

    __tablename__ = "hardening_night"
    __table_args__ = (CheckConstraint("low_c is null or low_c between -60 and 45", name="low_range"), TABLE)
    id: Mapped[int] = mapped_column(primary_key=True)
    trial_id: Mapped[int] = mapped_column(ForeignKey("trial.id"))
    day: Mapped[date] = mapped_column()
    out: Mapped[bool] = mapped_column()
    #: °C
    low_c: Mapped[float | None] = mapped_column(default=None)
    #: by letter of the arm
    nipped: Mapped[dict[str, int]] = mapped_column(JSON, default=dict, server_default="{}")
    at: Mapped[datetime] = mapped_column(Moment)
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    person: Mapped[Person] = relationship()

    def as_night(self) -> Night:
        """As the core takes it."""
        return Night(self.day, self.out, self.low_c, self.nipped)
