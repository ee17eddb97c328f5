"""What was worked out from a trial's record, kept with the stamp of what it rests on."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import JSON, ForeignKey, String, UniqueConstraint
from sqlalchemy.dialects.mysql import MEDIUMBLOB
from sqlalchemy.orm import Mapped, mapped_column

from orderly_bench.database.base import TABLE, Base, Moment


class WorkedOut(Base):
    """Results of one trial at its endpoint (``day`` 0) or at the checks of another day; ``signed`` is read only when it fits."""

    __tablename__ = "worked_out"
    __table_args__ = (UniqueConstraint("trial_id", "day", "language"), TABLE)
    id: Mapped[int] = mapped_column(primary_key=True)
    trial_id: Mapped[int] = mapped_column(ForeignKey("trial.id"))
    #: days after sticking
    day: Mapped[int] = mapped_column(default=0)
    #: of its sentences
    language: Mapped[str] = mapped_column(String(16), default="en", server_default="en")
    stamp: Mapped[str] = mapped_column(String(64))
    at: Mapped[datetime] = mapped_column(Moment)
    signed: Mapped[bytes] = mapped_column(MEDIUMBLOB)
    #: how alike cuttings of one unit were at the endpoint, none where units hold one
    icc: Mapped[float | None] = mapped_column(default=None)
    #: units less arms, which it rests on
    icc_df: Mapped[int | None] = mapped_column(default=None)


class CurveKept(Base):
    """The power curve of a trial's design as it was last worked out whole, with the digest of that design."""

    __tablename__ = "curve_kept"
    __table_args__ = TABLE
    trial_id: Mapped[int] = mapped_column(ForeignKey("trial.id"), primary_key=True, autoincrement=False)
    digest: Mapped[str] = mapped_column(String(64))
    at: Mapped[datetime] = mapped_column(Moment)
    found: Mapped[dict[str, Any]] = mapped_column(JSON)
