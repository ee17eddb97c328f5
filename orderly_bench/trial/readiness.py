"""What was seen to before sticking, by whom; and the trials that wait for it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime

from sqlalchemy import select
from sqlalchemy.orm import Session, joinedload

from orderly_bench.core.errors import InvalidInput, Refused
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.prepare.ready import left, to_do
from orderly_bench.trial.audit import Action, record
from orderly_bench.trial.models import Person, SeenTo, Trial

#: Days before its planned sticking from which a trial stands on Today.
AHEAD = 14


@dataclass(frozen=True)
class Waiting:
    """A trial that is soon to be stuck, with how much of its list is left."""

    trial: Trial
    days: int
    words: str

    @property
    def when(self) -> str:
        """The planned day, as it lies from today."""
        if self.days == 0:
            return _("to be stuck today")
        if self.days < 0:
            return _("was to be stuck {n:day|days} ago", n=-self.days)
        return _("to be stuck in {n:day|days}", n=self.days)


def seen_to(session: Session, trial: Trial) -> dict[str, SeenTo]:
    """Ticks by their item."""
    found = select(SeenTo).where(SeenTo.trial_id == trial.id).options(joinedload(SeenTo.person))
    return {one.item: one for one in session.scalars(found)}


def tick(session: Session, trial: Trial, actor: Person, now: datetime, item: str, done: bool) -> None:
    """Tick a thing of the list, or take its tick back; saying it twice changes nothing.

    Raises
    ------
    Refused
        Not locked yet, or cuttings are in already.
    InvalidInput
        Not on this plan's list.
    """
    if trial.locked_at is None:
        raise Refused(_("Lock the plan on the Design page first; until then the list may still change."))
    if trial.anything_stuck:
        raise Refused(_("Sticking is finished; the list stays as it was."))
    words = {one.key: one.words for one in to_do(trial.plan)}
    if item not in words:
        raise InvalidInput("item", _("choose one of the list on Prepare"), item[:20])
    there = seen_to(session, trial).get(item)
    if done and there is None:
        session.add(SeenTo(trial_id=trial.id, item=item, at=now, person_id=actor.id))
        record(session, actor, now, Action.SAW_TO, trial, new={"what": words[item]})
    elif not done and there is not None:
        session.delete(there)
        record(session, actor, now, Action.TOOK_A_TICK_BACK, trial, old={"what": words[item]})


def waiting_to_be_stuck(session: Session, trials: Sequence[Trial], today: date) -> list[Waiting]:
    """Locked trials whose sticking is planned soon, or is past, and of whose list something is left; the soonest first."""
    soon = [(trial, days) for trial in trials if (days := _days(trial, today)) is not None and days <= AHEAD]
    if not soon:
        return []
    ids = [trial.id for trial, _ in soon]
    ticked: dict[int, list[str]] = {number: [] for number in ids}
    for trial_id, item in session.execute(select(SeenTo.trial_id, SeenTo.item).where(SeenTo.trial_id.in_(ids))):
        ticked[trial_id].append(item)
    found = []
    for trial, days in soon:
        items = to_do(trial.plan)
        if open_ones := left(items, ticked[trial.id]):
            words = _(
                "{left} of {all} to see to: {first}",
                left=str(len(open_ones)),
                all=str(len(items)),
                first=open_ones[0].words,
            )
            found.append(Waiting(trial, days, words))
    return sorted(found, key=lambda one: one.days)


def _days(trial: Trial, today: date) -> int | None:
    """Days until a locked trial with nothing stuck is to be stuck; None where nobody planned the day."""
    if trial.locked_at is None or trial.lots or trial.prepared_at is not None:
        return None
    planned = [wave.planned_for for wave in trial.waves if wave.planned_for is not None]
    return (min(planned) - today).days if planned else None
