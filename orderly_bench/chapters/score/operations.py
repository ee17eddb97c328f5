"""Score: open a check, keep scores, correct, take back, close. Raw scores are never overwritten."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime

from sqlalchemy import select
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from orderly_bench.chapters.score.models import CheckVisit, ScoreRecord
from orderly_bench.core.errors import InvalidInput, Refused
from orderly_bench.core.score.entry import check_score
from orderly_bench.core.score.progress import Progress, progress
from orderly_bench.core.tend.schedule import check_after_sticking, days_after_sticking
from orderly_bench.core.vocabulary import FINAL_STATES, KnownBy, Score
from orderly_bench.trial.access import Act, require, scores_blind
from orderly_bench.trial.audit import record
from orderly_bench.trial.errors import Conflict
from orderly_bench.trial.load import stuck_cuttings
from orderly_bench.trial.models import Cutting, Person, Trial


def checks_of(session: Session, trial: Trial) -> list[CheckVisit]:
    """Checks in order of their planned day."""
    return list(
        session.scalars(select(CheckVisit).where(CheckVisit.trial_id == trial.id).order_by(CheckVisit.planned_das))
    )


Scores = dict[int, dict[int, ScoreRecord]]


def current_scores(session: Session, checks: Sequence[CheckVisit]) -> dict[int, dict[int, ScoreRecord]]:
    """Standing scores by check id and cutting id."""
    found: dict[int, dict[int, ScoreRecord]] = {check.id: {} for check in checks}
    query = select(ScoreRecord).where(ScoreRecord.check_id.in_(found), ScoreRecord.current == 1)
    for score in session.scalars(query):
        found[score.check_id][score.cutting_id] = score
    return found


def carried_into(session: Session, check: CheckVisit, known: Scores | None = None) -> dict[int, ScoreRecord]:
    """By cutting id, the earlier score with a final state that carries forward to this check.

    ``known`` holds the standing scores of all checks when they are loaded already.
    """
    earlier = [c for c in checks_of(session, check.trial) if c.planned_das < check.planned_das and c.opened_at]
    carried: dict[int, ScoreRecord] = {}
    loaded = current_scores(session, earlier) if known is None else {c.id: known[c.id] for c in earlier}
    for scores in loaded.values():
        carried.update({cutting: s for cutting, s in scores.items() if s.state in FINAL_STATES})
    return carried


@dataclass(frozen=True)
class CheckProgress:
    """A check with its cuttings in bench order, its scores, what carries forward, and the tally."""

    check: CheckVisit
    cuttings: list[Cutting]
    scores: dict[int, ScoreRecord]
    carried: dict[int, ScoreRecord]
    tally: Progress


def progress_of(session: Session, check: CheckVisit) -> CheckProgress:
    """How far a check is."""
    cuttings = stuck_cuttings(session, check.trial)
    scores = current_scores(session, [check])[check.id]
    carried = carried_into(session, check)
    order = [cutting.id for cutting in cuttings]
    return CheckProgress(check, cuttings, scores, carried, progress(order, set(scores), set(carried)))


def open_check(
    session: Session, check: CheckVisit, actor: Person, now: datetime, day: date, way: str, today: date
) -> None:
    """Open a planned check on its day; its date and way of looking are kept."""
    trial = check.trial
    if trial.day_zero is None or trial.sticking_done_at is None:
        raise Refused("Finish sticking first (Stick page); a check counts every cutting stuck.")
    if check.closed_at is not None:
        raise Refused(f"This check was closed on {check.closed_at:%-d %B %Y} and stays closed.")
    if check.opened_at is not None:
        return
    other = next((c for c in checks_of(session, trial) if c.is_open), None)
    if other is not None:
        raise Refused(f"The check of day {other.planned_das} is still open. Close it first.")
    if any(c.opened_at and c.planned_das > check.planned_das for c in checks_of(session, trial)):
        raise Refused(
            "A later check was opened already, so this one was passed by. Record an amendment on the Design page."
        )
    if day > today:
        raise InvalidInput(
            "date of the check", "lies in the future; a check is dated on the day of looking", f"{day:%d %b %Y}"
        )
    check_after_sticking(day, trial.day_zero)
    previous = [c.day for c in checks_of(session, trial) if c.day and c.planned_das < check.planned_das]
    if previous and day < max(previous):
        raise InvalidInput(
            "date of the check", f"lies before the last check on {max(previous):%d %b %Y}", f"{day:%d %b %Y}"
        )
    if way not in list(KnownBy):
        raise InvalidInput("way of looking", f"choose one of: {', '.join(KnownBy)}", way)
    check.day, check.way, check.opened_at, check.opened_by_id = day, way, now, actor.id
    session.flush()
    record(
        session,
        actor,
        now,
        "opened a check",
        trial,
        new={"planned_day": check.planned_das, "date": str(day), "way": way},
    )


def _words(score: ScoreRecord | Score) -> list[str]:
    roots = (
        f"{score.root_number} roots" if score.root_number is not None else f"roots {score.root_class or score.roots}"
    )
    parts = [str(score.state), roots]
    parts += [f"quality {score.quality}"] if score.quality is not None else []
    if score.longest_root_mm is not None:
        parts.append(f"longest {score.longest_root_mm:g} mm")
    parts += [str(score.top)] if score.top else []
    return parts


def keep_score(
    session: Session,
    check: CheckVisit,
    cutting: Cutting,
    actor: Person,
    now: datetime,
    score: Score,
    *,
    seen_revision: int = 0,
    reason: str = "",
    request_key: str | None = None,
) -> ScoreRecord:
    """Keep one cutting's score.

    Parameters
    ----------
    seen_revision : int
        Revision of the standing score the form was opened on; 0 when there was none.
    reason : str
        Why a standing score is corrected; required then.
    request_key : str, optional
        Saving the same key again gives the same score back.

    Raises
    ------
    Conflict
        Someone else kept a score of this cutting meanwhile; both are shown.
    """
    session.refresh(check, with_for_update={"read": True})
    if request_key:
        known = session.scalar(select(ScoreRecord).where(ScoreRecord.request_key == request_key))
        if known is not None:
            return known
    _refuse_unless_scorable(check, cutting, actor)
    score = check_score(score)
    standing = _standing(session, check, cutting)
    if (standing.revision if standing else 0) != seen_revision:
        who = (
            f"{standing.person.name} scored {cutting.code}"
            if standing
            else f"The score of {cutting.code} was taken back"
        )
        raise Conflict(
            f"{who} while you were looking. Nothing of yours was written.",
            _words(standing) if standing else [],
            _words(score),
        )
    if standing is not None and not reason.strip():
        raise InvalidInput("reason for the correction", f"say why; the old score of {cutting.code} is kept with it")
    if len(reason) > 300:
        raise InvalidInput("reason for the correction", "keep it within 300 characters", f"{len(reason)} characters")
    made = _new_record(session, check, cutting, actor, now, score, reason, request_key)
    if standing is not None:
        standing.current, standing.ended_by = None, "correction"
        session.flush()
    try:
        with session.begin_nested():
            session.add(made)
    except IntegrityError as error:
        session.expire_all()
        other = _standing(session, check, cutting)
        raise Conflict(
            f"{other.person.name if other else 'Someone'} scored {cutting.code} at the same moment. Nothing of yours was written.",
            _words(other) if other else [],
            _words(score),
        ) from error
    if standing is not None:
        record(
            session,
            actor,
            now,
            "corrected a score",
            check.trial,
            old={"code": cutting.code, "score": _words(standing)},
            new={"score": _words(made)},
            why=reason,
        )
    return made


def _refuse_unless_scorable(check: CheckVisit, cutting: Cutting, actor: Person) -> None:
    if cutting.unit.trial_id != check.trial_id or cutting.status != "stuck":
        raise Refused(f"{cutting.code} is not a stuck cutting of this trial.")
    if check.opened_at is None:
        raise Refused("This check is not open. A researcher opens it on the Score page.")
    if check.closed_at is not None:
        require(actor, Act.RUN_CHECK)


def _standing(session: Session, check: CheckVisit, cutting: Cutting) -> ScoreRecord | None:
    query = select(ScoreRecord).where(
        ScoreRecord.check_id == check.id, ScoreRecord.cutting_id == cutting.id, ScoreRecord.current == 1
    )
    return session.scalar(query)


def _new_record(
    session: Session,
    check: CheckVisit,
    cutting: Cutting,
    actor: Person,
    now: datetime,
    score: Score,
    reason: str,
    request_key: str | None,
) -> ScoreRecord:
    query = select(ScoreRecord.revision).where(ScoreRecord.check_id == check.id, ScoreRecord.cutting_id == cutting.id)
    revision = 1 + max(session.scalars(query), default=0)
    return ScoreRecord(
        check_id=check.id, cutting_id=cutting.id, revision=revision, current=1, state=score.state.value, roots=score.roots.value,
        root_number=score.root_number, root_class=score.root_class, quality=score.quality, longest_root_mm=score.longest_root_mm, callus=score.callus,
        top=score.top.value if score.top else None, failure=score.failure.value if score.failure else None, fit=score.fit.value,
        known_by=score.known_by.value, note=score.note.strip(), scored_on=check.day, blind=scores_blind(session, check.trial, actor),
        at=now, person_id=actor.id, reason=reason.strip(), request_key=request_key,
    )  # fmt: skip


def take_back(session: Session, check: CheckVisit, actor: Person, now: datetime) -> Cutting | None:
    """Take back this person's newest standing score of an open check; it stays on record."""
    if check.closed_at is not None:
        raise Refused("The check is closed. A researcher can correct a score with a reason.")
    query = (
        select(ScoreRecord)
        .where(ScoreRecord.check_id == check.id, ScoreRecord.person_id == actor.id, ScoreRecord.current == 1)
        .order_by(ScoreRecord.id.desc())
        .limit(1)
    )
    newest = session.scalar(query)
    if newest is None:
        return None
    newest.current, newest.ended_by = None, "taken back"
    session.flush()
    record(
        session,
        actor,
        now,
        "took a score back",
        check.trial,
        old={"code": newest.cutting.code, "score": _words(newest)},
    )
    return newest.cutting


def close_check(session: Session, check: CheckVisit, actor: Person, now: datetime) -> None:
    """Close a check; refused while a cutting is unaccounted for, and a second time."""
    session.refresh(check, with_for_update=True)
    if check.opened_at is None:
        raise Refused("This check was not opened yet.")
    if check.closed_at is not None:
        raise Refused(f"This check was closed already, on {check.closed_at:%-d %B %Y}. Nothing was changed.")
    state = progress_of(session, check)
    if state.tally.unaccounted:
        waiting = [c.code for c in state.cuttings if c.id not in state.scores and c.id not in state.carried]
        shown = ", ".join(waiting[:6]) + (" and more" if len(waiting) > 6 else "")
        raise Refused(
            f"{state.tally.unaccounted} of {state.tally.in_scope} are unaccounted for ({shown}). "
            "Score each one; 'missing' is a score too."
        )
    check.closed_at, check.closed_by_id = now, actor.id
    session.flush()
    record(session, actor, now, "closed a check", check.trial, new={"planned_day": check.planned_das})


def outside_window(check: CheckVisit, trial: Trial) -> int | None:
    """Days by which a done check lies outside its window; None when inside or not done."""
    if check.day is None or trial.day_zero is None:
        return None
    away = abs(days_after_sticking(check.day, trial.day_zero) - check.planned_das) - check.window_days
    return away if away > 0 else None
