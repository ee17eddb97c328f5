"""Steps at the tray that were ticked, lot by lot, in one line each: what was not ticked is not said to be undone."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy import select
from sqlalchemy.orm import Session

from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.trial.models import Lot, Person, Trial


def ticked(session: Session, trial: Trial) -> list[tuple[Lot, str]]:
    """Lots with their ticked steps, in the order of ticking, each with who ticked it."""
    lots: Sequence[Lot] = [lot for lot in trial.lots if lot.steps]
    ids = {tick[0] for lot in lots for tick in lot.steps.values()}
    names = {one.id: one.name for one in session.scalars(select(Person).where(Person.id.in_(ids)))} if ids else {}
    return [
        (
            lot,
            ", ".join(_("{step} ({name})", step=step, name=names.get(tick[0], "")) for step, tick in lot.steps.items()),
        )
        for lot in lots
    ]
