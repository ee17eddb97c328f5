"""What was worked out from a trial's record, kept with the stamp of what it rests on."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import ForeignKey, String, UniqueConstraint
from sqlalchemy.dialects.mysql import MEDIUMBLOB
from sqlalchemy.orm import Mapped, mapped_column

from orderly_bench.database.base import TABLE, Base, Moment


class WorkedOut(Base):
    """Results of one trial at its endpoint (``day`` 0) or at the checks of another day; ``signed`` is read only when it fits."""

    __tablename__ = "worked_out"
    __table_args__ = (UniqueConstraint("trial_id", "day"), TABLE)
    id: Mapped[int] = mapped_column(primary_key=True)
    trial_id: Mapped[int] = mapped_column(ForeignKey("trial.id"))
    #: days after sticking
    day: Mapped[int] = mapped_column(default=0)
    stamp: Mapped[str] = mapped_column(String(64))
    at: Mapped[datetime] = mapped_column(Moment)
    signed: Mapped[bytes] = mapped_column(MEDIUMBLOB)
    #: how alike cuttings of one unit were at the endpoint, none where units hold one
    icc: Mapped[float | None] = mapped_column(default=None)
    #: units less arms, which it rests on
    icc_df: Mapped[int | None] = mapped_column(default=None)
