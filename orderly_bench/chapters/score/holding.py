"""A check that is held while it is scored or closed, and what was scored of a site before."""

from __future__ import annotations

from sqlalchemy import and_, bindparam, or_, select
from sqlalchemy.orm import Session, joinedload
from sqlalchemy.orm.attributes import set_committed_value
from sqlalchemy.orm.util import identity_key

from orderly_bench.trial.load import LARGEST_ID, by_id
from orderly_bench.trial.models import CheckVisit, Cutting, ScoreRecord, Trial

#: What of a check another may have changed since it was read; where they did, all of it is read again.
MAY_CHANGE = (CheckVisit.way, CheckVisit.opened_at, CheckVisit.closed_at)
#: Built once: a score waits for it.
_CHECK = (
    select(CheckVisit)
    .where(CheckVisit.id == bindparam("of"))
    .options(joinedload(CheckVisit.trial).joinedload(Trial.seen))
)


def with_trial(session: Session, check_id: int) -> CheckVisit | None:
    """A check with its trial, before either is held."""
    found = session.scalars(_CHECK, {"of": check_id}) if 0 < check_id <= LARGEST_ID else None
    return found.unique().one_or_none() if found else None


def lock(session: Session, check_id: int, read: bool = False) -> CheckVisit:
    """A check as it is now, held until the transaction ends: scorers share it, closing has it alone.

    Held already in this transaction, nobody can have changed it since, and it is not read again.
    """
    if not _held(session, check_id, read):
        query = select(CheckVisit).where(CheckVisit.id == check_id)
        if identity_key(CheckVisit, check_id) not in session.identity_map:
            query = query.options(joinedload(CheckVisit.trial).joinedload(Trial.seen))
        query = query.with_for_update(read=read).execution_options(populate_existing=True)
        found = session.scalars(query).unique().one_or_none() if 0 < check_id <= LARGEST_ID else None
        _hold(session, check_id, read)
        if found is not None:
            return found
    return by_id(session, CheckVisit, check_id, "check")


def _held(session: Session, check_id: int, read: bool) -> bool:
    transaction, alone = session.info.get("checks held", {}).get(check_id, (None, False))
    return transaction is not None and transaction is session.get_transaction() and (read or alone)


def _hold(session: Session, check_id: int, read: bool) -> None:
    session.info.setdefault("checks held", {})[check_id] = (session.get_transaction(), not read)


def earlier(
    session: Session, check: CheckVisit, cutting: Cutting, site: int, request_key: str | None
) -> list[ScoreRecord]:
    """Every score of a site at a check, standing or not, and what was kept under the request's key."""
    here = and_(ScoreRecord.check_id == check.id, ScoreRecord.cutting_id == cutting.id, ScoreRecord.site == site)
    query = select(ScoreRecord).where(or_(here, ScoreRecord.request_key == request_key) if request_key else here)
    return list(session.scalars(query))


def earlier_held(
    session: Session, check: CheckVisit, cutting: Cutting, site: int, request_key: str | None
) -> list[ScoreRecord]:
    """The same, with the check held, and how check and cutting stand now: in one statement of few columns, for others wait meanwhile."""
    if _held(session, check.id, True):
        return earlier(session, check, cutting, site, request_key)
    here = and_(ScoreRecord.check_id == CheckVisit.id, ScoreRecord.cutting_id == Cutting.id, ScoreRecord.site == site)
    query = (
        select(*MAY_CHANGE, Cutting.status, Cutting.lot_id, ScoreRecord.id)
        .select_from(CheckVisit)
        .join(Cutting, and_(Cutting.trial_id == CheckVisit.trial_id, Cutting.id == cutting.id))
        .outerjoin(ScoreRecord, or_(here, ScoreRecord.request_key == request_key) if request_key else here)
        .where(CheckVisit.id == check.id)
        .with_for_update(read=True)
    )
    rows = session.execute(query).all()
    if rows:
        *known, status, lot, _ = rows[0]
        if known != [getattr(check, column.key) for column in MAY_CHANGE]:
            session.refresh(check, with_for_update={"read": True})
        set_committed_value(cutting, "status", status)
        set_committed_value(cutting, "lot_id", lot)
        _hold(session, check.id, True)
    found = [row[-1] for row in rows if row[-1] is not None]
    if not found:
        return []
    scores = select(ScoreRecord).where(ScoreRecord.id.in_(found)).with_for_update(read=True)
    return list(session.scalars(scores.execution_options(populate_existing=True)))
