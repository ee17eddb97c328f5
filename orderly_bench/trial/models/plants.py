"""What became of the plants after the end of a trial."""

from __future__ import annotations

from datetime import date, datetime

from sqlalchemy import CheckConstraint, ForeignKey, Index, String
from sqlalchemy.orm import Mapped, mapped_column, relationship

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
    at: Mapped[datetime] = mapped_column(Moment)
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    person: Mapped[Person] = relationship()
    cutting: Mapped[Cutting] = relationship(
        primaryjoin="PlantEnd.cutting_id == Cutting.id", foreign_keys="PlantEnd.cutting_id"
    )
