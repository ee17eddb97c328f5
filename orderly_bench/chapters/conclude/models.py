"""Conclusions."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import ForeignKey, String, Text
from sqlalchemy.orm import Mapped, mapped_column, relationship

from orderly_bench.database.base import TABLE, Base, Moment
from orderly_bench.trial.models import Person


class Conclusion(Base):
    """Decision and typed conclusion, with the verdict and the plan's digest as they stood."""

    __tablename__ = "conclusion"
    __table_args__ = TABLE
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
