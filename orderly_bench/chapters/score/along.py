"""An open check taken along on a device: who has it, until it is brought back or released with a reason; closing waits for it."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session, joinedload

from orderly_bench.core.errors import InvalidInput, Refused
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.trial.audit import Action, record
from orderly_bench.trial.models import CheckVisit, Person, TakenAlong

LONGEST_DEVICE, LONGEST_WHY, LONGEST_KEY = 120, 300, 40


def out_with(session: Session, check: CheckVisit) -> list[TakenAlong]:
    """Devices that have the check along now, the first taken first."""
    query = select(TakenAlong).where(
        TakenAlong.check_id == check.id, TakenAlong.back_at.is_(None), TakenAlong.released == ""
    )
    return list(session.scalars(query.options(joinedload(TakenAlong.person)).order_by(TakenAlong.id)))


def take(session: Session, check: CheckVisit, actor: Person, now: datetime, key: str, device: str) -> TakenAlong:
    """Register a device for an open check; the same key once more registers nothing new.

    Raises
    ------
    Refused
        The check is not open, or the key was brought back or released.
    """
    if not key or len(key) > LONGEST_KEY:
        raise InvalidInput(_("device"), _("load the page again, then take it along"))
    found = session.scalars(select(TakenAlong).where(TakenAlong.key == key)).first()
    if found is not None and (found.check_id, found.person_id) == (check.id, actor.id) and found.out:
        return found
    if found is not None or not check.is_open:
        raise Refused(_("Only an open check can be taken along. Load the page again to see how it stands."))
    made = TakenAlong(
        trial_id=check.trial_id, check_id=check.id, person_id=actor.id, key=key, device=device.strip()[:LONGEST_DEVICE], at=now
    )  # fmt: skip
    session.add(made)
    session.flush()
    record(session, actor, now, Action.TOOK_A_CHECK_ALONG, check.trial, new=_named(made))
    return made


def bring_back(session: Session, check: CheckVisit, actor: Person, now: datetime, key: str) -> None:
    """The device has nothing more to send. One that is back already stays so."""
    query = select(TakenAlong).where(
        TakenAlong.key == key, TakenAlong.check_id == check.id, TakenAlong.person_id == actor.id
    )
    found = session.scalars(query).first()
    if found is not None and found.out:
        found.back_at = now
        session.flush()
        record(session, actor, now, Action.BROUGHT_A_CHECK_BACK, check.trial, new=_named(found))


def release(session: Session, check: CheckVisit, actor: Person, now: datetime, number: int | None, why: str) -> None:
    """Wait no longer for a device; what it sends later is shown to its person as not taken."""
    if not why.strip() or len(why) > LONGEST_WHY:
        raise InvalidInput(_("why it is waited for no longer"), _("say it within 300 characters"))
    found = next((one for one in out_with(session, check) if one.id == number), None)
    if found is None:
        raise Refused(_("This device has nothing along any more."))
    found.released = why.strip()
    session.flush()
    record(session, actor, now, Action.RELEASED_A_DEVICE, check.trial, new=_named(found), why=why)


def refuse_while_out(session: Session, check: CheckVisit) -> None:
    """Nothing is closed over scores that are still on a device."""
    out = out_with(session, check)
    if out:
        names = ", ".join(one.person.name for one in out[:4])
        raise Refused(
            _("{names} {n:~has|have} this check along on a device. Have it brought back, or release it with a reason.", n=len(out), names=names)
        )  # fmt: skip


def _named(one: TakenAlong) -> dict[str, object]:
    return {"planned_day": one.check.planned_das, "device": one.device}
