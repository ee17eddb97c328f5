"""The lab and its people."""

from __future__ import annotations

from datetime import date, datetime
from typing import Any

from sqlalchemy import JSON, BigInteger, CheckConstraint, ForeignKey, Index, String
from sqlalchemy.orm import Mapped, mapped_column, relationship

from orderly_bench.core.lab import Hemisphere, LabSettings
from orderly_bench.core.measures import UnitSystem
from orderly_bench.core.typed import DayOrder
from orderly_bench.database.base import TABLE, Base, Moment, one_of


class Lab(Base):
    """The one lab of an installation, with what its trials start from."""

    __tablename__ = "lab"
    __table_args__ = (
        one_of("hemisphere", Hemisphere),
        one_of("units", UnitSystem),
        one_of("day_order", DayOrder),
        CheckConstraint("alpha > 0 and alpha < 0.5", name="alpha_range"),
        CheckConstraint("usual_margin between 1 and 99", name="usual_margin_range"),
        TABLE,
    )
    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(120))
    time_zone: Mapped[str] = mapped_column(String(60))
    #: nights to come by their day, as typed: lowest, highest and what is gained in °C, and who says so
    forecast: Mapped[dict[str, dict[str, Any]]] = mapped_column(JSON, default=dict, server_default="{}")
    is_demo: Mapped[bool] = mapped_column(default=False)
    hemisphere: Mapped[str] = mapped_column(String(10), default=Hemisphere.NORTH.value, server_default="north")
    units: Mapped[str] = mapped_column(String(10), default=UnitSystem.METRIC.value, server_default="metric")
    #: counts what was given the next number or a name of its own
    turn: Mapped[int] = mapped_column(BigInteger, default=0, server_default="0")
    #: share of false alarms, 0 to 1
    alpha: Mapped[float] = mapped_column(default=0.05, server_default="0.05")
    #: percentage points
    usual_margin: Mapped[float] = mapped_column(default=15.0, server_default="15")
    #: roots
    fit_least_roots: Mapped[int] = mapped_column(default=3, server_default="3")
    #: millimetres
    fit_least_mm: Mapped[float] = mapped_column(default=10.0, server_default="10")
    #: hours between taking and sticking
    held_most_hours: Mapped[float] = mapped_column(default=12.0, server_default="12")
    #: days of the year, month and day; blank while nobody said them
    last_frost: Mapped[str] = mapped_column(String(5), default="", server_default="")
    first_frost: Mapped[str] = mapped_column(String(5), default="", server_default="")
    hot_from: Mapped[str] = mapped_column(String(5), default="", server_default="")
    hot_to: Mapped[str] = mapped_column(String(5), default="", server_default="")
    #: how days with strokes are read
    day_order: Mapped[str] = mapped_column(String(12), default=DayOrder.ASK.value, server_default="ask")

    @property
    def settings(self) -> LabSettings:
        """The settings as the core takes them."""
        return LabSettings(
            self.name, self.time_zone, Hemisphere(self.hemisphere), UnitSystem(self.units), self.alpha, self.usual_margin,
            self.fit_least_roots, self.fit_least_mm, self.held_most_hours, self.last_frost, self.first_frost, self.hot_from, self.hot_to,
            DayOrder(self.day_order),
        )  # fmt: skip


class Person(Base):
    """Someone who can sign in; one role for the whole lab."""

    __tablename__ = "person"
    __table_args__ = (
        CheckConstraint("role in ('lead','researcher','scorer','reader')", name="role_known"),
        TABLE,
    )
    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(80))
    sign_in_name: Mapped[str] = mapped_column(String(80), unique=True)
    role: Mapped[str] = mapped_column(String(20))
    password_hash: Mapped[str] = mapped_column(String(200))
    active: Mapped[bool] = mapped_column(default=True)
    created_at: Mapped[datetime] = mapped_column(Moment)
    #: of pages; blank: that of the browser
    language: Mapped[str] = mapped_column(String(16), default="", server_default="")
    #: of the secret in the address of the own calendar; none while there is none
    calendar_digest: Mapped[str | None] = mapped_column(String(64), unique=True, default=None)
    #: base32, sealed; null without a second factor
    totp_secret: Mapped[str | None] = mapped_column(String(255), default=None)
    #: half minutes since 1970 of the newest code used, which none may come before again
    totp_step: Mapped[int | None] = mapped_column(default=None)

    # What Flask-Login asks of a person.
    is_authenticated = True
    is_anonymous = False

    @property
    def is_active(self) -> bool:
        """Whether the account may be used."""
        return self.active

    def get_id(self) -> str:
        """Identity kept in the session."""
        return str(self.id)


class Away(Base):
    """Days on which a person is away, and who covers; withdrawn when it comes to nothing."""

    __tablename__ = "away"
    __table_args__ = (
        CheckConstraint("first_day <= last_day", name="days_in_order"),
        Index("ix_away_last_day", "last_day"),
        TABLE,
    )
    id: Mapped[int] = mapped_column(primary_key=True)
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    first_day: Mapped[date] = mapped_column()
    last_day: Mapped[date] = mapped_column()
    cover_id: Mapped[int | None] = mapped_column(ForeignKey("person.id"), default=None)
    note: Mapped[str] = mapped_column(String(500), default="")
    withdrawn: Mapped[bool] = mapped_column(default=False, server_default="0")
    at: Mapped[datetime] = mapped_column(Moment)
    person: Mapped[Person] = relationship(foreign_keys=[person_id])
    cover: Mapped[Person | None] = relationship(foreign_keys=[cover_id])


class SignedIn(Base):
    """A person signed in on one device, until it ends. The key itself stays in the browser; here is its digest."""

    __tablename__ = "signed_in"
    __table_args__ = TABLE
    id: Mapped[int] = mapped_column(primary_key=True)
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id"), index=True)
    key_digest: Mapped[str] = mapped_column(String(64), unique=True)
    since: Mapped[datetime] = mapped_column(Moment)
    seen_at: Mapped[datetime] = mapped_column(Moment)
    ended_at: Mapped[datetime | None] = mapped_column(Moment, default=None)
    address: Mapped[str] = mapped_column(String(45), default="")
    device: Mapped[str] = mapped_column(String(160), default="")
    person: Mapped[Person] = relationship()


class Throttle(Base):
    """Failed tries to sign in, by name and by address, for all processes alike."""

    __tablename__ = "throttle"
    __table_args__ = TABLE
    id: Mapped[int] = mapped_column(primary_key=True)
    what: Mapped[str] = mapped_column(String(100), unique=True)
    fails: Mapped[int] = mapped_column(default=0)
    last_at: Mapped[datetime] = mapped_column(Moment)


class ResetLink(Base):
    """A link by which a person sets a new password, once; made by a lead."""

    __tablename__ = "reset_link"
    __table_args__ = TABLE
    id: Mapped[int] = mapped_column(primary_key=True)
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    key_digest: Mapped[str] = mapped_column(String(64), unique=True)
    made_by_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    until: Mapped[datetime] = mapped_column(Moment)
    used_at: Mapped[datetime | None] = mapped_column(Moment, default=None)
    person: Mapped[Person] = relationship(foreign_keys=[person_id])
