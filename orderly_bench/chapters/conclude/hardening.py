"""Nights of hardening, kept as read; one that is told again stands as it was told last."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import date, datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from orderly_bench.core.conclude.hardening import Hardened, Night, check_night, hardened
from orderly_bench.trial.audit import Action, record
from orderly_bench.trial.models import HardeningNight, Person, Trial


def nights_of(session: Session, trial: Trial) -> list[HardeningNight]:
    """In the order of writing."""
    query = select(HardeningNight).where(HardeningNight.trial_id == trial.id).order_by(HardeningNight.id)
    return list(session.scalars(query))


def together(nights: Sequence[HardeningNight], here: Mapping[str, int]) -> Hardened | None:
    """What they come to; None where none was written."""
    return hardened([one.as_night() for one in nights], here) if nights else None


def keep(
    session: Session, trial: Trial, actor: Person, now: datetime, night: Night, here: Mapping[str, int], today: date
) -> HardeningNight:
    """Keep a night.

    Raises
    ------
    InvalidInput
        What no night can be.
    """
    check_night(night, here, today)
    made = HardeningNight(
        trial_id=trial.id, day=night.day, out=night.out, low_c=night.low_c, nipped=dict(night.nipped), at=now, person_id=actor.id
    )  # fmt: skip
    session.add(made)
    session.flush()
    record(
        session,
        actor,
        now,
        Action.KEPT_A_NIGHT,
        trial,
        new={"night": str(night.day), "out": night.out, "low": night.low_c},
    )
    return made
