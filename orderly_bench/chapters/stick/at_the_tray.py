"""The card of steps of a lot: which there are, and who ticked them when."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from sqlalchemy.orm import Session

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.plan.aspects import AspectKind
from orderly_bench.core.stick.came import Origin, read_came
from orderly_bench.core.stick.steps import steps_for
from orderly_bench.stock.operations import card_for
from orderly_bench.trial.audit import Action, record
from orderly_bench.trial.models import Lot, Person, Trial


@dataclass(frozen=True)
class Step:
    """One step of a lot; who ticked it, None where nobody did, and when."""

    words: str
    by: Person | None
    at: datetime | None


def steps_of(session: Session, trial: Trial, lot: Lot | None) -> list[Step]:
    """The steps for what is stuck in a lot: of the plant's card where it has any, else the usual ones of the cutting type."""
    treatments = trial.plan.treatments
    aspect = treatments.of_kind(AspectKind.CUTTING_TYPE)
    named = {level.name for arm in treatments.arms if aspect and (level := treatments.value(arm, aspect))}
    kind = named.pop() if len(named) == 1 else ""
    card = card_for(session, trial.plan.question.botanical_name, kind)
    sent_in = lot is not None and read_came(lot.came).origin is Origin.BOUGHT
    ticked = lot.steps if lot is not None else {}
    found = []
    for words in steps_for(card.steps if card else "", kind, sent_in):
        by, at = ticked.get(words, (None, None))
        found.append(Step(words, session.get(Person, by) if by else None, datetime.fromisoformat(at) if at else None))
    return found


def tick_step(session: Session, lot: Lot, actor: Person, now: datetime, words: str, done: bool) -> None:
    """Tick a step of a lot, or take the tick back; saying it twice changes nothing.

    Raises
    ------
    InvalidInput
        Not on the card.
    """
    if words not in [one.words for one in steps_of(session, lot.trial, lot)]:
        raise InvalidInput(_("step"), _("choose one of the card"), words[:60])
    if (words in lot.steps) is done:
        return
    left = {step: tick for step, tick in lot.steps.items() if step != words}
    lot.steps = {**left, words: [actor.id, now.isoformat()]} if done else left
    session.flush()
    record(session, actor, now, Action.TICKED_A_STEP, lot.trial, new={"lot": lot.name, "step": words, "done": done})
