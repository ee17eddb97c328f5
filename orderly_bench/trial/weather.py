"""Nights to come, kept as typed."""

from __future__ import annotations

from datetime import date, datetime, timedelta

from sqlalchemy import select
from sqlalchemy.orm import Session

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import dated
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.tend.forecast import Night
from orderly_bench.trial.audit import Action, record
from orderly_bench.trial.models import Lab, Person
from orderly_bench.trial.turns import take_lab

#: No forecast says more of days further off than this.
FURTHEST = timedelta(days=15)


def keep_night(session: Session, actor: Person, now: datetime, night: Night, today: date) -> None:
    """Keep a night's forecast in place of what was typed of it before.

    Raises
    ------
    InvalidInput
        A night that is over, or too far off.
    """
    if not today <= night.day <= today + FURTHEST:
        raise InvalidInput(
            "night", _("must lie between today and {last}", last=dated(today + FURTHEST)), dated(night.day)
        )
    take_lab(session)
    lab = session.scalars(select(Lab)).one()
    session.refresh(lab)
    kept = {day: one for day, one in lab.forecast.items() if day >= today.isoformat()}
    said = {"low": night.low, "high": night.high, "gains": night.gains, "source": night.source.strip()}
    lab.forecast = kept | {night.day.isoformat(): said}
    session.flush()
    record(
        session,
        actor,
        now,
        Action.TYPED_A_FORECAST,
        new={"night": str(night.day), "low": night.low, "gains": night.gains},
    )


def nights_from(lab: Lab, today: date) -> list[Night]:
    """Nights from today on, the soonest first."""
    found = [Night(date.fromisoformat(day), **said) for day, said in lab.forecast.items()]
    return sorted((one for one in found if one.day >= today), key=lambda one: one.day)
