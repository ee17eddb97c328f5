"""Checks as planned and as carried out, and scores. A score is never overwritten: a correction supersedes it."""

from __future__ import annotations

from datetime import date, datetime

from sqlalchemy import JSON, CheckConstraint, ForeignKey, Index, String, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column, relationship

from orderly_bench.core import vocabulary as words
from orderly_bench.core.score.details import in_order
from orderly_bench.database.base import TABLE, Base, Moment, one_of, same_trial
from orderly_bench.trial.models.cuttings import Cutting, Lot
from orderly_bench.trial.models.people import Person
from orderly_bench.trial.models.trial import Trial, Wave


class PlannedCheck(Base):
    """A check as planned for a wave; ``endpoint`` is 1 for the one that supplies it, else null."""

    __tablename__ = "planned_check"
    __table_args__ = (
        UniqueConstraint("wave_id", "planned_das"),
        UniqueConstraint("wave_id", "endpoint"),
        UniqueConstraint("id", "trial_id"),
        same_trial("wave_id", "wave"),
        TABLE,
    )
    id: Mapped[int] = mapped_column(primary_key=True)
    trial_id: Mapped[int] = mapped_column(ForeignKey("trial.id"))
    wave_id: Mapped[int] = mapped_column()
    #: days after sticking
    planned_das: Mapped[int] = mapped_column()
    #: days either side
    window_days: Mapped[int] = mapped_column()
    endpoint: Mapped[int | None] = mapped_column(default=None)
    trial: Mapped[Trial] = relationship(back_populates="planned_checks")
    wave: Mapped[Wave] = relationship(
        primaryjoin="PlannedCheck.wave_id == Wave.id", foreign_keys="PlannedCheck.wave_id"
    )


class CheckVisit(Base):
    """A planned check carried out on one lot: there from the day the lot is stuck, then opened, then closed."""

    __tablename__ = "check_visit"
    __table_args__ = (
        UniqueConstraint("planned_id", "lot_id"),
        UniqueConstraint("id", "trial_id"),
        CheckConstraint("closed_at is null or opened_at is not null", name="opened_before_closed"),
        one_of("way", words.KnownBy),
        same_trial("planned_id", "planned_check"),
        same_trial("lot_id", "lot"),
        TABLE,
    )
    id: Mapped[int] = mapped_column(primary_key=True)
    trial_id: Mapped[int] = mapped_column(ForeignKey("trial.id"))
    planned_id: Mapped[int] = mapped_column()
    lot_id: Mapped[int] = mapped_column()
    way: Mapped[str] = mapped_column(String(40), default=words.KnownBy.LIFTED.value)
    day: Mapped[date | None] = mapped_column(default=None)
    why_then: Mapped[str] = mapped_column(
        String(300), default="", server_default=""
    )  #: why on a day outside its window
    #: a count on the table that differed from the scores, and why; blank where none was made or they agreed
    on_table: Mapped[str] = mapped_column(String(300), default="", server_default="")
    #: the day of looking is not sure
    about: Mapped[bool] = mapped_column(default=False, server_default="0")
    #: ids of the units in the order drawn for lifting; none: in bench order
    lift_order: Mapped[list[int] | None] = mapped_column(JSON, default=None)
    #: how they are got out of the medium, where a score says nothing else; blank where nobody said
    lifting: Mapped[str] = mapped_column(String(20), default="", server_default="")
    #: units of each arm that were drawn and lifted for good; none: all are looked at and stay
    sample_of_each: Mapped[int | None] = mapped_column(default=None)
    #: ids of the cuttings drawn to be scored again by another; none drawn
    second_of: Mapped[list[int] | None] = mapped_column(JSON, default=None)
    opened_at: Mapped[datetime | None] = mapped_column(Moment, default=None)
    opened_by_id: Mapped[int | None] = mapped_column(ForeignKey("person.id"), default=None)
    closed_at: Mapped[datetime | None] = mapped_column(Moment, default=None)
    closed_by_id: Mapped[int | None] = mapped_column(ForeignKey("person.id"), default=None)
    trial: Mapped[Trial] = relationship(back_populates="checks")
    planned: Mapped[PlannedCheck] = relationship(
        lazy="joined",
        innerjoin=True,
        primaryjoin="CheckVisit.planned_id == PlannedCheck.id",
        foreign_keys="CheckVisit.planned_id",
    )
    lot: Mapped[Lot] = relationship(
        lazy="joined", innerjoin=True, primaryjoin="CheckVisit.lot_id == Lot.id", foreign_keys="CheckVisit.lot_id"
    )
    scores: Mapped[list[ScoreRecord]] = relationship(
        back_populates="check", primaryjoin="ScoreRecord.check_id == CheckVisit.id", foreign_keys="ScoreRecord.check_id"
    )

    @property
    def is_open(self) -> bool:
        """Opened and not yet closed."""
        return self.opened_at is not None and self.closed_at is None

    @property
    def planned_das(self) -> int:
        """The day after sticking it was planned for."""
        return self.planned.planned_das

    @property
    def window_days(self) -> int:
        """Days either side within which it is on its day."""
        return self.planned.window_days

    @property
    def is_endpoint(self) -> bool:
        """Whether it supplies the endpoint."""
        return self.planned.endpoint is not None


class ScoreRecord(Base):
    """One rooting site of one cutting at one check; ``current`` is 1, or null once superseded or taken back."""

    __tablename__ = "score"
    __table_args__ = (
        UniqueConstraint("check_id", "cutting_id", "site", "current"),
        UniqueConstraint("check_id", "cutting_id", "site", "revision"),
        CheckConstraint("root_number is null or root_number between 1 and 500", name="root_number_range"),
        CheckConstraint(
            "longest_root_mm is null or (longest_root_mm > 0 and longest_root_mm <= 2000)", name="length_range"
        ),
        CheckConstraint(
            "(roots = 'counted') = (root_number is not null or root_class is not null)", name="number_when_counted"
        ),
        CheckConstraint("quality is null or quality between 0 and 5", name="quality_range"),
        CheckConstraint("foliage is null or foliage between 0 and 5", name="foliage_range"),
        CheckConstraint("site > 0", name="site_counts_from_one"),
        one_of("state", words.State),
        one_of("roots", words.Roots),
        one_of("top", words.Top),
        one_of("failure", words.FailureSign),
        one_of("fit", words.Fit),
        one_of("known_by", words.KnownBy),
        same_trial("check_id", "check_visit"),
        same_trial("cutting_id", "cutting"),
        TABLE,
    )
    id: Mapped[int] = mapped_column(primary_key=True)
    trial_id: Mapped[int] = mapped_column()
    check_id: Mapped[int] = mapped_column()
    cutting_id: Mapped[int] = mapped_column()
    #: rooting site of the cutting, from 1
    site: Mapped[int] = mapped_column(default=1, server_default="1")
    revision: Mapped[int] = mapped_column(default=1)
    current: Mapped[int | None] = mapped_column(default=1)
    state: Mapped[str] = mapped_column(String(40))
    roots: Mapped[str] = mapped_column(String(20))
    root_number: Mapped[int | None] = mapped_column(default=None)
    #: millimetres
    longest_root_mm: Mapped[float | None] = mapped_column(default=None)
    root_class: Mapped[str | None] = mapped_column(String(12), default=None)
    #: 0 to 5, by the anchors of the quality scale
    quality: Mapped[int | None] = mapped_column(default=None)
    #: 0 to 5, by the anchors of the scale of foliage
    foliage: Mapped[int | None] = mapped_column(default=None)
    callus: Mapped[bool | None] = mapped_column(default=None)
    #: what else was said of it, by the fields of `core/score/details.py`
    details: Mapped[dict[str, str]] = mapped_column(JSON, default=dict, server_default="{}")
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
    check: Mapped[CheckVisit] = relationship(
        back_populates="scores",
        primaryjoin="ScoreRecord.check_id == CheckVisit.id",
        foreign_keys="ScoreRecord.check_id",
    )
    cutting: Mapped[Cutting] = relationship(
        primaryjoin="ScoreRecord.cutting_id == Cutting.id", foreign_keys="ScoreRecord.cutting_id"
    )
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
            self.foliage,
            in_order(self.details),
        )


class SecondScore(Base):
    """What another scorer saw of a drawn cutting, without the first score; it is no result and never changed."""

    __tablename__ = "second_score"
    __table_args__ = (
        UniqueConstraint("check_id", "cutting_id"),
        CheckConstraint("root_number is null or root_number between 1 and 500", name="root_number_range"),
        one_of("roots", words.Roots),
        same_trial("check_id", "check_visit"),
        same_trial("cutting_id", "cutting"),
        TABLE,
    )
    id: Mapped[int] = mapped_column(primary_key=True)
    trial_id: Mapped[int] = mapped_column()
    check_id: Mapped[int] = mapped_column()
    cutting_id: Mapped[int] = mapped_column()
    roots: Mapped[str] = mapped_column(String(20))
    root_number: Mapped[int | None] = mapped_column(default=None)
    at: Mapped[datetime] = mapped_column(Moment)
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    person: Mapped[Person] = relationship()


class TakenAlong(Base):
    """An open check on a person's device: ``back_at`` when nothing waits there any more, ``released`` why nobody waits for it."""

    __tablename__ = "taken_along"
    __table_args__ = (Index("ix_taken_along_check", "check_id"), same_trial("check_id", "check_visit"), TABLE)
    id: Mapped[int] = mapped_column(primary_key=True)
    trial_id: Mapped[int] = mapped_column(ForeignKey("trial.id"))
    check_id: Mapped[int] = mapped_column()
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    #: drawn on the device
    key: Mapped[str] = mapped_column(String(40), unique=True)
    device: Mapped[str] = mapped_column(String(120), default="")
    at: Mapped[datetime] = mapped_column(Moment)
    back_at: Mapped[datetime | None] = mapped_column(Moment, default=None)
    released: Mapped[str] = mapped_column(String(300), default="", server_default="")
    person: Mapped[Person] = relationship()
    check: Mapped[CheckVisit] = relationship(
        primaryjoin="TakenAlong.check_id == CheckVisit.id", foreign_keys="TakenAlong.check_id"
    )

    @property
    def out(self) -> bool:
        """Whether it is still waited for."""
        return self.back_at is None and not self.released
