"""Interim looks."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import ForeignKey, String
from sqlalchemy.orm import Mapped, mapped_column, relationship

from orderly_bench.database.base import TABLE, Base, Moment
from orderly_bench.trial.models import Person


class InterimLook(Base):
    """Someone compared the arms before the endpoint check closed; kept, and named in the verdict."""

    __tablename__ = "interim_look"
    __table_args__ = TABLE
    id: Mapped[int] = mapped_column(primary_key=True)
    trial_id: Mapped[int] = mapped_column(ForeignKey("trial.id"))
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    reason: Mapped[str] = mapped_column(String(500))
    at: Mapped[datetime] = mapped_column(Moment)
    person: Mapped[Person] = relationship()
