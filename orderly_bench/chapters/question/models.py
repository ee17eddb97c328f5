"""Predictions, made before any result."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import JSON, ForeignKey, String
from sqlalchemy.orm import Mapped, mapped_column, relationship

from orderly_bench.database.base import TABLE, Base, Moment
from orderly_bench.trial.models import Person


class Prediction(Base):
    """A ranked prediction with author and time; the newest before the first result counts."""

    __tablename__ = "prediction"
    __table_args__ = TABLE
    id: Mapped[int] = mapped_column(primary_key=True)
    trial_id: Mapped[int] = mapped_column(ForeignKey("trial.id"))
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    at: Mapped[datetime] = mapped_column(Moment)
    ranking: Mapped[list[str]] = mapped_column(JSON)
    why: Mapped[str] = mapped_column(String(500), default="")
    person: Mapped[Person] = relationship()
