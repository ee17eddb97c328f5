"""Score several at once: a container tipped out and counted, the next like the last, or all that are left; each cutting gets a score of its own."""

from __future__ import annotations

from dataclasses import replace
from datetime import date, datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from orderly_bench.chapters.score.holding import lock
from orderly_bench.chapters.score.operations import Sent, keep_score
from orderly_bench.core.errors import InvalidInput, Refused
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.score.the_rest import Rest, score_of
from orderly_bench.core.score.tipped_out import TippedOut, scores_of_count
from orderly_bench.core.vocabulary import KnownBy
from orderly_bench.trial.errors import Conflict
from orderly_bench.trial.load import by_id
from orderly_bench.trial.models import CheckVisit, Cutting, Person, ScoreRecord
from orderly_bench.trial.progress import progress_of


def keep_count(
    session: Session,
    check: CheckVisit,
    unit_id: int,
    actor: Person,
    now: datetime,
    count: TippedOut,
    request_key: str = "",
    day: date | None = None,
) -> int:
    """Keep what was counted of a container tipped out: a score for each of its cuttings that had none. How many were kept; the same
    request once more keeps none."""
    lock(session, check.id, read=True)
    keys = f"{request_key[:30]}-0" if request_key else None
    if keys and session.scalar(select(ScoreRecord.id).where(ScoreRecord.request_key == keys)) is not None:
        return 0
    spots = [spot for spot in progress_of(session, check).spots if spot.unit == unit_id]
    waiting = [spot for spot in spots if spot.known is None]
    if len(spots) < 2 or not waiting:
        raise Refused(_("Nothing waits in this container to be counted; look at what is scored."))
    if any(spot.site_name for spot in spots):
        raise Refused(
            _("Cuttings with several rooting sites are scored one by one: a count can't say which end rooted.")
        )
    for n, (spot, score) in enumerate(
        zip(waiting, scores_of_count(count, len(waiting), KnownBy(check.way)), strict=True)
    ):
        key = f"{request_key[:30]}-{n}" if request_key else None
        keep_score(
            session,
            check,
            by_id(session, Cutting, spot.cutting, "cutting"),
            actor,
            now,
            score,
            Sent(request_key=key, noted_on=day),
        )
    return len(waiting)


def keep_again(
    session: Session, check: CheckVisit, actor: Person, now: datetime, many: int, key: str, day: date | None = None
) -> int:
    """Keep this person's last score of the check once more for each of the next that have none. How many were kept; sent once more, none.

    Raises
    ------
    Refused
        They have kept none yet, or nothing is left.
    InvalidInput
        More than are left, or none.
    """
    lock(session, check.id, read=True)
    if key and session.scalar(select(ScoreRecord.id).where(ScoreRecord.request_key == f"{key[:30]}-0")) is not None:
        return 0
    mine = select(ScoreRecord).where(
        ScoreRecord.check_id == check.id, ScoreRecord.person_id == actor.id, ScoreRecord.current == 1
    )
    last = session.scalar(mine.order_by(ScoreRecord.id.desc()).limit(1))
    if last is None:
        raise Refused(_("You have kept no score of this check yet that the next could be like."))
    progress = progress_of(session, check)
    at = progress.order.index((last.cutting_id, last.site)) + 1
    waiting = [site for site in [*progress.order[at:], *progress.order[:at]] if site not in progress.accounted]
    if not 1 <= many <= len(waiting):
        raise InvalidInput(_("how many are the same"), _("lies between 1 and the {n} left", n=len(waiting)), many)
    score = replace(last.as_score(), note="")
    for n, (cutting, site) in enumerate(waiting[:many]):
        sent = Sent(site, request_key=f"{key[:30]}-{n}" if key else None, noted_on=day)
        keep_score(session, check, by_id(session, Cutting, cutting, "cutting"), actor, now, score, sent)
    return many


def keep_rest(
    session: Session,
    check: CheckVisit,
    actor: Person,
    now: datetime,
    rest: str,
    counted: int,
    day: date | None = None,
) -> int:
    """Keep the same of every cutting that has no score yet, a score for each. How many were kept; sent once more, none.

    Parameters
    ----------
    counted : int
        How many were left when it was said; where others were scored meanwhile it is asked again.
    """
    lock(session, check.id, read=True)
    key = f"rest-{check.id}-{counted}-{Rest(rest).name if rest in list(Rest) else ''}"
    if session.scalar(select(ScoreRecord.id).where(ScoreRecord.request_key == f"{key}-0")) is not None:
        return 0
    score = score_of(rest, KnownBy(check.way))
    progress = progress_of(session, check)
    waiting = [spot for spot in progress.spots if spot.known is None]
    if not waiting or len(waiting) != counted:
        raise Conflict(
            _("Meanwhile others were scored. Look at what is left, then say it again."),
            [_("{n:cutting|cuttings} left", n=len(waiting))],
            [_("{n:cutting|cuttings} left", n=counted)],
        )
    for n, spot in enumerate(waiting):
        sent = Sent(spot.site, request_key=f"{key}-{n}", noted_on=day)
        keep_score(session, check, by_id(session, Cutting, spot.cutting, "cutting"), actor, now, score, sent)
    return len(waiting)
