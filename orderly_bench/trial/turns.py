"""One change of a trial at a time.

Whoever changes a trial takes its turn first, which holds the trial's row until the transaction ends; all locks are taken in this
order, trial before check. Taking it is a write, so that it holds on a cluster too, where only writes are certified. What then still
collides (deadlock, lock wait, certification) is tried again by the request and not shown.
"""

from __future__ import annotations

from sqlalchemy import update
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session

from orderly_bench.trial.models import CheckVisit, Job, Lab, Trial

#: Record changed since read, lock wait timeout, deadlock or failed certification.
COLLISIONS = (1020, 1205, 1213)
DUPLICATE = 1062
LARGEST_ID = 2**31 - 1


def take(
    session: Session, *, trial_id: int | None = None, check_id: int | None = None, job_id: int | None = None
) -> None:
    """Take the turn of a trial, named itself or by one of its checks or jobs; of none that there is, nothing."""
    if trial_id is not None and 0 < trial_id <= LARGEST_ID:
        mine = Trial.id == trial_id
    elif check_id is not None and 0 < check_id <= LARGEST_ID:
        mine = Trial.id == CheckVisit.trial_id
        mine &= CheckVisit.id == check_id
    elif job_id is not None and 0 < job_id <= LARGEST_ID:
        mine = Trial.id == Job.trial_id
        mine &= Job.id == job_id
    else:
        return
    session.execute(
        update(Trial).where(mine).values({Trial.turn: Trial.turn + 1}), execution_options={"synchronize_session": False}
    )


def take_lab(session: Session) -> None:
    """The turn of the whole lab: for what gets the next number, or a name that is free."""
    session.execute(update(Lab).values({Lab.turn: Lab.turn + 1}), execution_options={"synchronize_session": False})


def code_of(error: DBAPIError) -> int | None:
    """The database's own number of an error."""
    arguments = getattr(error.orig, "args", ())
    return arguments[0] if arguments and isinstance(arguments[0], int) else None


def worth_another_try(error: DBAPIError) -> bool:
    """Whether two changes collided, so that the second may go through when tried again."""
    return code_of(error) in (*COLLISIONS, DUPLICATE)
