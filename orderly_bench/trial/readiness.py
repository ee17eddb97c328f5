"""What was seen to before sticking, by whom; and the trials that wait for it, or were begun and not finished."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime
from typing import Literal

from sqlalchemy import select
from sqlalchemy.orm import Session, joinedload

from orderly_bench.core.errors import InvalidInput, Refused
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.prepare.ready import left, to_do
from orderly_bench.trial.audit import Action, record
from orderly_bench.trial.models import Person, SeenTo, Trial, Wave

#: Days before its planned sticking from which a trial stands on Today.
AHEAD = 14
#: Where what is left is done.
Page = Literal["prepare", "stick"]


@dataclass(frozen=True)
class Waiting:
    """A wave that is soon to be stuck, or was begun ``-days`` ago: what is left to do, and on which page."""

    trial: Trial
    days: int
    words: str
    page: Page = "prepare"
    begun: bool = False

    @property
    def when(self) -> str:
        """The planned day, or that of the first lot, as it lies from today."""
        if self.begun:
            return _("begun {n:day|days} ago", n=-self.days) if self.days else _("begun today")
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
    """Waves of locked trials that were begun and not finished, or whose planned day is near or past; the soonest first."""
    locked = [trial for trial in trials if trial.locked_at is not None]
    found = [one for trial in locked for wave in trial.waves if (one := _begun(trial, wave, today)) is not None]
    soon = [(trial, wave, days) for trial in locked for wave, days in planned_sticking(trial, today) if days <= AHEAD]
    ticked: dict[int, list[str]] = {trial.id: [] for trial, _, _ in soon}
    if ticked:
        for trial_id, item in session.execute(select(SeenTo.trial_id, SeenTo.item).where(SeenTo.trial_id.in_(ticked))):
            ticked[trial_id].append(item)
    for trial, wave, days in soon:
        items = to_do(trial.plan) if not trial.lots and trial.prepared_at is None else ()
        if open_ones := left(items, ticked[trial.id]):
            words = _(
                "{left} of {all} to see to: {first}",
                left=str(len(open_ones)),
                all=str(len(items)),
                first=open_ones[0].words,
            )
            found.append(Waiting(trial, days, words))
        else:
            found.append(Waiting(trial, days, name_of_wave(trial, wave), "stick"))
    return sorted(found, key=lambda one: one.days)


def name_of_wave(trial: Trial, wave: Wave) -> str:
    """Which wave it is, where there are several."""
    return _("wave {number}", number=wave.number) if len(trial.waves) > 1 else ""


def _begun(trial: Trial, wave: Wave, today: date) -> Waiting | None:
    """A wave with a lot that nobody said is finished: none of its checks and care has a day until then."""
    days = [lot.day_zero_first for lot in trial.lots if lot.wave_id == wave.id]
    if not days or wave.sticking_done_at is not None:
        return None
    name = name_of_wave(trial, wave)
    words = _("not finished; its checks and care have no day until then")
    return Waiting(trial, min(0, (min(days) - today).days), f"{name}: {words}" if name else words, "stick", True)


def planned_sticking(trial: Trial, today: date) -> list[tuple[Wave, int]]:
    """Days until each wave that is to be stuck on a planned day, with nothing stuck in it."""
    begun = {lot.wave_id for lot in trial.lots}
    return [
        (wave, (wave.planned_for - today).days)
        for wave in trial.waves
        if wave.planned_for is not None and wave.id not in begun and wave.sticking_done_at is None
    ]
