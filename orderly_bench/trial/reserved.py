"""What locked trials will take before anything of them is stuck: so a shelf that runs short says so before the day."""

from __future__ import annotations

from sqlalchemy import select
from sqlalchemy.orm import Session

from orderly_bench.core.prepare.needs import media_of
from orderly_bench.core.prepare.short import taken_of
from orderly_bench.stock.operations import litres_ready, recipes_known
from orderly_bench.trial.models import Conclusion, Lot, Trial


def reserved_by(session: Session, but: Trial | None = None) -> dict[str, dict[str, float]]:
    """Litres by name of medium or component in small letters and code of the trial, of every locked one without a lot that nobody closed, ``but`` this."""
    begun = select(Lot.trial_id)
    ended = select(Conclusion.trial_id)
    waiting = select(Trial).where(Trial.locked_at.is_not(None), Trial.id.not_in(begun), Trial.id.not_in(ended))
    ready, known = litres_ready(session), recipes_known(session)
    found: dict[str, dict[str, float]] = {}
    for trial in session.scalars(waiting):
        if trial is but:
            continue
        for one in taken_of(media_of(trial.plan, known), ready):
            of_trial = found.setdefault(one.name.casefold(), {})
            of_trial[trial.code] = of_trial.get(trial.code, 0.0) + one.litres
    return found


def litres_reserved(session: Session, but: Trial | None = None) -> dict[str, float]:
    """The same over all trials."""
    return {name: sum(of_trial.values()) for name, of_trial in reserved_by(session, but).items()}
