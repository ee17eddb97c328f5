"""Keep what was worked out with the stamp of what it rests on, signed, and read it back while both fit."""

from __future__ import annotations

import hashlib
import hmac
import zlib
from datetime import datetime
from typing import Any

from sqlalchemy import func, select
from sqlalchemy.dialects.mysql import insert
from sqlalchemy.orm import Session

from orderly_bench.core.messages.translation import language
from orderly_bench.record import as_json
from orderly_bench.record.code import code_digest
from orderly_bench.trial.audit import RESULTS_STAND
from orderly_bench.trial.models import AuditEntry, CheckVisit, CurveKept, Incident, Lab, ScoreRecord, Trial, WorkedOut

SIGNATURE_BYTES = 32


def stamp_of(session: Session, trial: Trial) -> str:
    """What a trial's results rest on: its plan, its scores, everything done to it, and the code that decides."""
    scores = select(func.max(ScoreRecord.id)).where(ScoreRecord.trial_id == trial.id).scalar_subquery()
    standing = select(func.count(ScoreRecord.current)).where(ScoreRecord.trial_id == trial.id).scalar_subquery()
    acts = AuditEntry.trial_id == trial.id, AuditEntry.action.not_in(RESULTS_STAND)
    done = select(func.max(AuditEntry.id)).where(*acts).scalar_subquery()
    incidents = select(func.max(Incident.id)).where(Incident.trial_id == trial.id).scalar_subquery()
    closed = select(func.max(CheckVisit.closed_at)).where(CheckVisit.trial_id == trial.id).scalar_subquery()
    zone = select(Lab.time_zone).limit(1).scalar_subquery()
    rests_on = session.execute(select(scores, standing, done, incidents, closed, zone)).one()
    return hashlib.sha256(repr((code_digest(), trial.plan_text, *rests_on)).encode()).hexdigest()


def _signature(secret: str, stamp: str, payload: bytes) -> bytes:
    return hmac.new(secret.encode(), stamp.encode() + payload, hashlib.sha256).digest()


def keep(
    session: Session, trial: Trial, day: int, stamp: str, results: object, secret: str, now: datetime,
    likeness: tuple[float, int] | None = None,
) -> None:  # fmt: skip
    """Keep results, which hold sentences, in place of earlier ones in the same language; ``likeness`` is the ICC of their units and its degrees of freedom."""
    payload = zlib.compress(as_json.written(results).encode())
    icc, df = likeness or (None, None)
    values = {
        "stamp": stamp,
        "at": now,
        "signed": _signature(secret, stamp, payload) + payload,
        "icc": icc,
        "icc_df": df,
    }
    statement = insert(WorkedOut).values(trial_id=trial.id, day=day, language=language().code, **values)
    session.execute(statement.on_duplicate_key_update(**values))


def likeness_before(session: Session, trial: Trial) -> list[tuple[float, int, str]]:
    """ICC, degrees of freedom and botanical name of the other trials that are worked out; of the same plant, where there are any."""
    query = (
        select(WorkedOut.icc, WorkedOut.icc_df, Trial)
        .join(Trial, WorkedOut.trial_id == Trial.id)
        .where(WorkedOut.day == 0, WorkedOut.icc.is_not(None), WorkedOut.icc_df > 0, Trial.id != trial.id)
    )
    of_trial = {
        other.id: (icc, df, other.plan.question.botanical_name)
        for icc, df, other in session.execute(query)
        if icc is not None and df is not None
    }
    found = list(of_trial.values())
    own = [one for one in found if one[2] == trial.plan.question.botanical_name]
    return own or found


def kept(session: Session, trial: Trial, day: int, stamp: str, secret: str) -> Any | None:
    """Results kept in the language in use, under this stamp and signed with this secret; None when there are none."""
    query = select(WorkedOut.signed).where(
        WorkedOut.trial_id == trial.id,
        WorkedOut.day == day,
        WorkedOut.language == language().code,
        WorkedOut.stamp == stamp,
    )
    signed = session.scalar(query)
    if signed is None:
        return None
    signature, payload = signed[:SIGNATURE_BYTES], signed[SIGNATURE_BYTES:]
    if not hmac.compare_digest(signature, _signature(secret, stamp, payload)):
        return None
    return as_json.read(zlib.decompress(payload).decode())


def languages_kept(session: Session, trial: Trial) -> list[str]:
    """Languages in which results of a trial were worked out, of its present record or an earlier one."""
    return list(session.scalars(select(WorkedOut.language).where(WorkedOut.trial_id == trial.id).distinct()))


def keep_curve(session: Session, trial_id: int, digest: str, found: dict[str, Any], now: datetime) -> None:
    """Keep the power curve of a design in place of an earlier one."""
    values = {"digest": digest, "found": found, "at": now}
    statement = insert(CurveKept).values(trial_id=trial_id, **values)
    session.execute(statement.on_duplicate_key_update(**values))


def curve_kept(session: Session, trial_id: int, digest: str) -> dict[str, Any] | None:
    """The power curve of a design; None when there is none."""
    query = select(CurveKept.found).where(CurveKept.trial_id == trial_id, CurveKept.digest == digest)
    return session.scalar(query)
