"""Declarative base, naming convention and types."""

from __future__ import annotations

from datetime import UTC, datetime
from enum import StrEnum
from typing import Any

from sqlalchemy import CheckConstraint, DateTime, Dialect, ForeignKeyConstraint, MetaData, TypeDecorator
from sqlalchemy.dialects.mysql import DATETIME
from sqlalchemy.orm import DeclarativeBase

CONVENTION = {
    "ix": "ix_%(table_name)s_%(column_0_N_name)s",
    "uq": "uq_%(table_name)s_%(column_0_N_name)s",
    "ck": "ck_%(table_name)s_%(constraint_name)s",
    "fk": "fk_%(table_name)s_%(column_0_name)s_%(referred_table_name)s",
    "pk": "pk_%(table_name)s",
}
TABLE: dict[str, Any] = {
    "mysql_engine": "InnoDB",
    "mysql_charset": "utf8mb4",
    "mysql_collate": "utf8mb4_unicode_520_ci",
}


class Base(DeclarativeBase):
    """Base of all models."""

    metadata = MetaData(naming_convention=CONVENTION)


class Moment(TypeDecorator[datetime]):
    """A moment in UTC; refuses naive datetimes."""

    impl = DateTime
    cache_ok = True

    def load_dialect_impl(self, dialect: Dialect) -> Any:
        """Microseconds on MariaDB."""
        return dialect.type_descriptor(DATETIME(fsp=6))

    def process_bind_param(self, value: datetime | None, dialect: Dialect) -> datetime | None:
        """Store as naive UTC."""
        if value is None:
            return None
        if value.tzinfo is None:
            raise ValueError("a moment needs its time zone")
        return value.astimezone(UTC).replace(tzinfo=None)

    def process_result_value(self, value: datetime | None, dialect: Dialect) -> datetime | None:
        """Read as aware UTC."""
        return None if value is None else value.replace(tzinfo=UTC)


def one_of(column: str, values: type[StrEnum]) -> CheckConstraint:
    """The check that a column holds a member of an enum; null passes, as in every check."""
    listed = ",".join(f"'{member.value}'" for member in values)
    return CheckConstraint(f"{column} in ({listed})", name=f"{column}_known")


def same_trial(column: str, table: str) -> ForeignKeyConstraint:
    """A reference to a row of the same trial: the column and ``trial_id`` together."""
    return ForeignKeyConstraint([column, "trial_id"], [f"{table}.id", f"{table}.trial_id"])
