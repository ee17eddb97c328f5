"""The lab and its people."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import CheckConstraint, String
from sqlalchemy.orm import Mapped, mapped_column

from orderly_bench.core.lab import Hemisphere, LabSettings, UnitSystem
from orderly_bench.database.base import TABLE, Base, Moment, one_of


class Lab(Base):
    """The one lab of an installation, with what its trials start from."""

    __tablename__ = "lab"
    __table_args__ = (
        one_of("hemisphere", Hemisphere),
        one_of("units", UnitSystem),
        CheckConstraint("alpha > 0 and alpha < 0.5", name="alpha_range"),
        CheckConstraint("usual_margin between 1 and 99", name="usual_margin_range"),
        TABLE,
    )
    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(120))
    time_zone: Mapped[str] = mapped_column(String(60))
    is_demo: Mapped[bool] = mapped_column(default=False)
    hemisphere: Mapped[str] = mapped_column(String(10), default=Hemisphere.NORTH.value, server_default="north")
    units: Mapped[str] = mapped_column(String(10), default=UnitSystem.METRIC.value, server_default="metric")
    #: share of false alarms, 0 to 1
    alpha: Mapped[float] = mapped_column(default=0.05, server_default="0.05")
    #: percentage points
    usual_margin: Mapped[float] = mapped_column(default=15.0, server_default="15")
    #: roots
    fit_least_roots: Mapped[int] = mapped_column(default=3, server_default="3")
    #: millimetres
    fit_least_mm: Mapped[float] = mapped_column(default=10.0, server_default="10")

    @property
    def settings(self) -> LabSettings:
        """The settings as the core takes them."""
        return LabSettings(
            self.name, self.time_zone, Hemisphere(self.hemisphere), UnitSystem(self.units), self.alpha, self.usual_margin,
            self.fit_least_roots, self.fit_least_mm,
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
