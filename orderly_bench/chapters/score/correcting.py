"""The way of looking of a whole check, put right afterwards: every score of it, each with the reason."""

from __future__ import annotations

from dataclasses import replace
from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from orderly_bench.chapters.score.holding import lock
from orderly_bench.chapters.score.on_the_day import LONGEST_WHY, touches_early
from orderly_bench.chapters.score.operations import Sent, keep_score
from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.vocabulary import KnownBy
from orderly_bench.trial.audit import Action, record
from orderly_bench.trial.models import CheckVisit, Person, ScoreRecord


def correct_way(session: Session, check: CheckVisit, actor: Person, now: datetime, way: str, reason: str) -> int:
    """Give a check another way of looking, and every standing score that was known that way. How many scores were corrected.

    Raises
    ------
    InvalidInput
        No such way, the one it has, no reason, or a score that can't be known that way: then nothing is changed.
    """
    if way not in list(KnownBy):
        raise InvalidInput("way of looking", _("choose one of {names}", names=", ".join(KnownBy)), way)
    if not reason.strip() or len(reason) > LONGEST_WHY:
        raise InvalidInput("reason for the correction", _("say why, within 300 characters"))
    lock(session, check.id)
    old = check.way
    if way == old:
        raise InvalidInput("way of looking", _("is that already; choose how it was really looked"), way)
    standing = session.scalars(
        select(ScoreRecord).where(
            ScoreRecord.check_id == check.id, ScoreRecord.current == 1, ScoreRecord.known_by == old
        )
    ).all()
    if touches_early(check, KnownBy(way)):
        check.why_then = check.why_then or reason.strip()  # as it was: a departure with its reason, not refused
    for score in standing:
        made, sent = replace(score.as_score(), known_by=KnownBy(way)), Sent(score.site, score.revision, reason)
        try:
            keep_score(session, check, score.cutting, actor, now, made, sent)
        except InvalidInput as error:
            rule = _(
                "can't be the way of {code}: {error}. Correct that score first", code=score.cutting.code, error=error
            )
            raise InvalidInput("way of looking", rule, way) from error
    check.way = KnownBy(way)
    session.flush()
    told = {"day": check.planned_das, "way": old}
    record(
        session,
        actor,
        now,
        Action.CORRECTED_THE_WAY,
        check.trial,
        old=told,
        new={"way": way, "scores": len(standing)},
        why=reason,
    )
    return len(standing)
