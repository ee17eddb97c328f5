"""A destructive look: some units are drawn when the check is opened, lifted for good, and out of every later count."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from sqlalchemy.orm import Session

from orderly_bench.core.errors import Refused
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.score.sample import InScope, drawn_sample, what_stays
from orderly_bench.trial.checks import in_scope, sampled_before
from orderly_bench.trial.load import stuck_cuttings
from orderly_bench.trial.models import CheckVisit, Unit

#: Groups that are drawn whole, where all hold the same arms; of several the first that a unit has.
TOGETHER = ("pair", "block", "row")


@dataclass(frozen=True)
class Sample:
    """How many units of each arm are drawn, and from which seed."""

    of_each: int
    seed: int


def units_of(session: Session, check: CheckVisit) -> dict[int, Unit]:
    """Units a check could draw from, in bench order."""
    return {c.unit_id: c.unit for c in in_scope(session, check)}


def as_drawn_from(units: dict[int, Unit]) -> list[InScope]:
    """Units as the draw takes them."""
    groups = {unit.id: {g.kind: g.name for g in unit.groupings} for unit in units.values()}
    return [
        InScope(id, unit.arm.letter, next((groups[id][kind] for kind in TOGETHER if kind in groups[id]), None))
        for id, unit in units.items()
    ]


def draw_sample(session: Session, check: CheckVisit, sample: Sample) -> None:
    """Draw the units of a check that are lifted for good.

    Raises
    ------
    Refused
        It supplies the endpoint, which counts all that stay.
    InvalidInput
        An arm would keep none.
    """
    if check.is_endpoint:
        raise Refused(_("The endpoint check looks at all that are left. Lift a sample at an earlier check."))
    units = units_of(session, check)
    for id in drawn_sample(as_drawn_from(units), sample.of_each, np.random.default_rng(sample.seed)):
        units[id].sampled_id = check.id
    check.sample_of_each = sample.of_each


def said_of_sample(session: Session, check: CheckVisit) -> str:
    """What a check's sample takes and what it leaves; blank where none was drawn."""
    if not check.sample_of_each:
        return ""
    before = sampled_before(session, check)
    of_lot = {c.unit_id: c.unit for c in stuck_cuttings(session, check.trial) if c.lot_id == check.lot_id}
    there = {id: unit for id, unit in of_lot.items() if unit.sampled_id not in before}
    return what_stays(as_drawn_from(there), [id for id, unit in there.items() if unit.sampled_id == check.id])
