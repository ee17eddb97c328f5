"""Checks and scores. A score is never overwritten: a correction supersedes it."""

from __future__ import annotations

from datetime import date, datetime

from sqlalchemy import CheckConstraint, ForeignKey, String, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column, relationship

from orderly_bench.core import vocabulary as words
from orderly_bench.database.base import TABLE, Base, Moment
from orderly_bench.trial.models import Cutting, Person, Trial, Wave


class CheckVisit(Base):
    """One visit on which cuttings are scored: planned, then opened, then closed."""

    __tablename__ = "check_visit"
    __table_args__ = (
        UniqueConstraint("trial_id", "wave_id", "planned_das"),
        CheckConstraint("closed_at is null or opened_at is not null", name="opened_before_closed"),
        TABLE,
    )
    id: Mapped[int] = mapped_column(primary_key=True)
    trial_id: Mapped[int] = mapped_column(ForeignKey("trial.id"))
    wave_id: Mapped[int] = mapped_column(ForeignKey("wave.id"))
    planned_das: Mapped[int] = mapped_column()
    window_days: Mapped[int] = mapped_column()
    is_endpoint: Mapped[bool] = mapped_column(default=False)
    way: Mapped[str] = mapped_column(String(40), default=words.KnownBy.LIFTED.value)
    day: Mapped[date | None] = mapped_column(default=None)
    opened_at: Mapped[datetime | None] = mapped_column(Moment, default=None)
    opened_by_id: Mapped[int | None] = mapped_column(ForeignKey("person.id"), default=None)
    closed_at: Mapped[datetime | None] = mapped_column(Moment, default=None)
    closed_by_id: Mapped[int | None] = mapped_column(ForeignKey("person.id"), default=None)
    trial: Mapped[Trial] = relationship()
    wave: Mapped[Wave] = relationship()
    scores: Mapped[list[ScoreRecord]] = relationship(back_populates="check", cascade="all, delete-orphan")

    @property
    def is_open(self) -> bool:
        """Opened and not yet closed."""
        return self.opened_at is not None and self.closed_at is None


class ScoreRecord(Base):
    """One cutting at one check; ``current`` is 1, or null once superseded or taken back."""

    __tablename__ = "score"
    __table_args__ = (
        UniqueConstraint("check_id", "cutting_id", "current"),
        UniqueConstraint("check_id", "cutting_id", "revision"),
        CheckConstraint("root_number is null or root_number between 1 and 500", name="root_number_range"),
        CheckConstraint(
            "longest_root_mm is null or (longest_root_mm > 0 and longest_root_mm <= 2000)", name="length_range"
        ),
        CheckConstraint(
            "(roots = 'counted') = (root_number is not null or root_class is not null)", name="number_when_counted"
        ),
        CheckConstraint("quality is null or quality between 0 and 5", name="quality_range"),
        TABLE,
    )
    id: Mapped[int] = mapped_column(primary_key=True)
    check_id: Mapped[int] = mapped_column(ForeignKey("check_visit.id"))
    cutting_id: Mapped[int] = mapped_column(ForeignKey("cutting.id"))
    revision: Mapped[int] = mapped_column(default=1)
    current: Mapped[int | None] = mapped_column(default=1)
    state: Mapped[str] = mapped_column(String(40))
    roots: Mapped[str] = mapped_column(String(20))
    root_number: Mapped[int | None] = mapped_column(default=None)
    longest_root_mm: Mapped[float | None] = mapped_column(default=None)
    root_class: Mapped[str | None] = mapped_column(String(12), default=None)
    quality: Mapped[int | None] = mapped_column(default=None)
    callus: Mapped[bool | None] = mapped_column(default=None)
    top: Mapped[str | None] = mapped_column(String(20), default=None)
    failure: Mapped[str | None] = mapped_column(String(20), default=None)
    fit: Mapped[str] = mapped_column(String(12))
    known_by: Mapped[str] = mapped_column(String(40))
    note: Mapped[str] = mapped_column(String(500), default="")
    scored_on: Mapped[date] = mapped_column()
    blind: Mapped[bool] = mapped_column()
    at: Mapped[datetime] = mapped_column(Moment)
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    reason: Mapped[str] = mapped_column(String(300), default="")
    ended_by: Mapped[str | None] = mapped_column(String(20), default=None)
    request_key: Mapped[str | None] = mapped_column(String(40), default=None, unique=True)
    check: Mapped[CheckVisit] = relationship(back_populates="scores")
    cutting: Mapped[Cutting] = relationship()
    person: Mapped[Person] = relationship()

    def as_score(self) -> words.Score:
        """The score as the core takes it."""
        return words.Score(
            words.State(self.state),
            words.Roots(self.roots),
            self.root_number,
            self.longest_root_mm,
            self.callus,
            words.Top(self.top) if self.top else None,
            words.FailureSign(self.failure) if self.failure else None,
            words.Fit(self.fit),
            words.KnownBy(self.known_by),
            self.note,
            self.root_class,
            self.quality,
        )
