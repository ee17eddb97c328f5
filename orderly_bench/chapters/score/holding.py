"""A check that is held while it is scored or closed, and what was scored of a site before."""

from __future__ import annotations

from sqlalchemy import and_, or_, select
from sqlalchemy.orm import Session, joinedload
from sqlalchemy.orm.attributes import set_committed_value
from sqlalchemy.orm.util import identity_key

from orderly_bench.trial.load import LARGEST_ID, by_id
from orderly_bench.trial.models import CheckVisit, Cutting, ScoreRecord, Trial


def with_trial(session: Session, check_id: int) -> CheckVisit | None:
    """A check with its trial, before either is held."""
    query = select(CheckVisit).where(CheckVisit.id == check_id)
    query = query.options(joinedload(CheckVisit.trial).joinedload(Trial.seen))
    return session.scalars(query).unique().one_or_none() if 0 < check_id <= LARGEST_ID else None


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
    """The same, with the check held and read again, and how the cutting stands: in one statement, for others wait meanwhile."""
    if _held(session, check.id, True):
        return earlier(session, check, cutting, site, request_key)
    here = and_(ScoreRecord.check_id == CheckVisit.id, ScoreRecord.cutting_id == Cutting.id, ScoreRecord.site == site)
    query = (
        select(CheckVisit, Cutting.status, Cutting.lot_id, ScoreRecord)
        .select_from(CheckVisit)
        .join(Cutting, and_(Cutting.trial_id == CheckVisit.trial_id, Cutting.id == cutting.id))
        .outerjoin(ScoreRecord, or_(here, ScoreRecord.request_key == request_key) if request_key else here)
        .where(CheckVisit.id == check.id)
        .with_for_update(read=True)
        .execution_options(populate_existing=True)
    )
    rows = session.execute(query).all()
    if rows:
        set_committed_value(cutting, "status", rows[0][1])
        set_committed_value(cutting, "lot_id", rows[0][2])
        _hold(session, check.id, True)
    return [row[3] for row in rows if row[3] is not None]
