"""Who took on which trial's care, and what of it falls to whom today.

Their ids lie with the trial, so that a list of trials asks for nothing more where nobody took any on.
"""

from __future__ import annotations

from collections.abc import Collection, Sequence
from datetime import date, datetime

from sqlalchemy import and_, select, update
from sqlalchemy.orm import Session

from orderly_bench.core.tend.whose import Absence, Whose, whose_today
from orderly_bench.trial.audit import Action, record
from orderly_bench.trial.models import Away, Person, Trial


def names_of(session: Session, trial: Trial) -> dict[int, str]:
    """Who took a trial on and still works here: names by the person's id."""
    people = [person for number in trial.tended_by if (person := session.get(Person, number)) is not None]
    return {person.id: person.name for person in people if person.active}


def take_on(session: Session, trial: Trial, actor: Person, now: datetime, mine: bool) -> None:
    """One's own from now on, or no longer; saying it twice changes nothing. The plan's own version stays as it was."""
    others = [number for number in trial.tended_by if number != actor.id]
    if (actor.id in trial.tended_by) is mine:
        return
    session.execute(update(Trial).where(Trial.id == trial.id).values(tended_by=[*others, actor.id] if mine else others))
    session.refresh(trial, ["tended_by"])
    record(session, actor, now, Action.TOOK_ON_THE_CARE if mine else Action.LET_THE_CARE_GO, trial)


def whose(session: Session, me: Person, trials: Sequence[Trial], today: date) -> dict[int, Whose]:
    """Of each trial, by its id, whether its care falls to a person today."""
    names, absences = _people(session, {number for trial in trials for number in trial.tended_by}, today)
    return {
        trial.id: whose_today(me.id, {n: names[n] for n in trial.tended_by if n in names}, absences, today)
        for trial in trials
    }


def _people(session: Session, wanted: Collection[int], today: date) -> tuple[dict[int, str], set[Absence]]:
    """Names of those who still work here, and who of them is away today."""
    if not wanted:
        return {}, set()
    here = and_(Away.person_id == Person.id, Away.withdrawn.is_(False), Away.first_day <= today, Away.last_day >= today)
    query = select(Person.id, Person.name, Away).outerjoin(Away, here).where(Person.id.in_(wanted), Person.active)
    names: dict[int, str] = {}
    absences: set[Absence] = set()
    for person, name, away in session.execute(query):
        names[person] = name
        if away is not None:
            absences.add(Absence(person, away.first_day, away.last_day, away.cover_id))
    return names, absences
