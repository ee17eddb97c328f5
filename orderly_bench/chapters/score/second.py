"""A second scorer: the drawn share of a check, scored again by another who does not see the first. It changes no result."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

import numpy as np
from sqlalchemy import select
from sqlalchemy.orm import Session

from orderly_bench.chapters.score.holding import lock
from orderly_bench.core.errors import InvalidInput, Refused
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.score.second import draw_share
from orderly_bench.core.vocabulary import Roots
from orderly_bench.trial.audit import Action, record
from orderly_bench.trial.checks import in_scope
from orderly_bench.trial.models import CheckVisit, Cutting, Person, ScoreRecord, SecondScore
from orderly_bench.trial.progress import carried_into

MOST_ROOTS = 500


@dataclass(frozen=True)
class Drawn:
    """The cuttings of a check that are to be scored again, in bench order, and what the second scorer saw of some."""

    cuttings: list[Cutting]
    seen: dict[int, SecondScore]

    @property
    def waiting(self) -> list[Cutting]:
        """Those that nobody has scored again yet."""
        return [cutting for cutting in self.cuttings if cutting.id not in self.seen]


def draw_second(session: Session, check: CheckVisit, actor: Person, now: datetime, percent: float, seed: int) -> None:
    """Draw the share of an open check that another scores again. Once drawn it stays.

    Raises
    ------
    Refused
        Not open, or drawn already.
    """
    lock(session, check.id)
    if not check.is_open:
        raise Refused(_("The share is drawn while the check is open, so that both see the same day."))
    if check.second_of is not None:
        raise Refused(_("The share of this check is drawn already, and stays."))
    carried = {cutting for cutting, _ in carried_into(session, check)}
    several = [c for c in in_scope(session, check) if c.id not in carried and len(c.sites) == 1]
    if not several:
        raise Refused(_("Nothing is left in this check that a second scorer could look at."))
    check.second_of = [c.id for c in draw_share(several, percent, np.random.default_rng(seed))]
    new = {"day": check.planned_das, "per cent": percent, "drawn": len(check.second_of), "seed": seed}
    record(session, actor, now, Action.DREW_WHO_IS_SCORED_AGAIN, check.trial, new=new)


def drawn(session: Session, check: CheckVisit) -> Drawn:
    """What was drawn, and how far the second scorer is."""
    wanted = set(check.second_of or [])
    cuttings = [c for c in in_scope(session, check) if c.id in wanted] if wanted else []
    kept = session.scalars(select(SecondScore).where(SecondScore.check_id == check.id))
    return Drawn(cuttings, {one.cutting_id: one for one in kept})


def keep_second(
    session: Session, check: CheckVisit, cutting: Cutting, actor: Person, now: datetime, roots: str, number: int | None
) -> SecondScore:
    """Keep what a second scorer saw. The same sent again is kept once.

    Raises
    ------
    Refused
        Not drawn, scored first by the same person, or scored again by someone already.
    InvalidInput
        What was seen can't be read.
    """
    lock(session, check.id, read=True)
    if cutting.id not in (check.second_of or []):
        raise Refused(_("{code} was not drawn to be scored again.", code=cutting.code))
    if not check.is_open:
        raise Refused(_("The check is closed; both scorers see the same day or it says nothing."))
    if roots not in list(Roots):
        raise InvalidInput("roots", _("choose one of: {names}", names=", ".join(Roots)), roots)
    if (roots == Roots.COUNTED) != (number is not None):
        raise InvalidInput("number of roots", _("goes with counted, and counted needs it"), number)
    if number is not None and not 1 <= number <= MOST_ROOTS:
        raise InvalidInput("number of roots", _("must be between 1 and {most}", most=str(MOST_ROOTS)), number)
    first = select(ScoreRecord.person_id).where(ScoreRecord.check_id == check.id, ScoreRecord.cutting_id == cutting.id)
    if actor.id in session.scalars(first).all():
        raise Refused(_("You scored {code} yourself; the second look is another person's.", code=cutting.code))
    there = session.scalars(
        select(SecondScore).where(SecondScore.check_id == check.id, SecondScore.cutting_id == cutting.id)
    ).first()
    if there is not None:
        if (there.person_id, there.roots, there.root_number) == (actor.id, roots, number):
            return there
        raise Refused(_("{code} was scored again already, by {name}.", code=cutting.code, name=there.person.name))
    made = SecondScore(
        trial_id=check.trial_id,
        check_id=check.id,
        cutting_id=cutting.id,
        roots=roots,
        root_number=number,
        at=now,
        person_id=actor.id,
    )
    session.add(made)
    session.flush()
    return made
