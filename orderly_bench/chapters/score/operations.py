"""Score: open a check, keep scores, correct, take back, close. Raw scores are never overwritten."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime
from typing import cast

import numpy as np
from sqlalchemy import Table, insert, select
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session, make_transient_to_detached

from orderly_bench.chapters.score.along import refuse_while_out
from orderly_bench.chapters.score.holding import earlier_held, lock
from orderly_bench.chapters.score.on_the_day import LONGEST_WHY, as_it_stands, refuse_touching, why_then
from orderly_bench.chapters.score.sampling import Sample, draw_sample
from orderly_bench.chapters.score.undrawn import count_there
from orderly_bench.core.errors import InvalidInput, Refused
from orderly_bench.core.messages.translation import dated
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.score.details import lifted_by, read_lifting
from orderly_bench.core.score.entry import check_long_enough, check_score
from orderly_bench.core.score.lift import lift_order
from orderly_bench.core.score.on_table import NOT_COUNTED, Counted, held_against
from orderly_bench.core.tend.schedule import check_after_sticking
from orderly_bench.core.vocabulary import KnownBy, Score
from orderly_bench.trial.access import Act, may, require
from orderly_bench.trial.audit import Action, record
from orderly_bench.trial.blindness import scores_blind
from orderly_bench.trial.checks import checks_of, in_scope, refuse_out_of_sample
from orderly_bench.trial.errors import Conflict
from orderly_bench.trial.models import CheckVisit, Cutting, Person, ScoreRecord
from orderly_bench.trial.progress import Site, progress_of
from orderly_bench.trial.time_spent import keep_check

Scores = dict[int, dict[Site, ScoreRecord]]


def current_scores(session: Session, checks: Sequence[CheckVisit]) -> Scores:
    """Standing scores by check id, cutting id and site."""
    found: Scores = {check.id: {} for check in checks}
    query = select(ScoreRecord).where(ScoreRecord.check_id.in_(found), ScoreRecord.current == 1)
    for score in session.scalars(query):
        found[score.check_id][score.cutting_id, score.site] = score
    return found


@dataclass(frozen=True)
class Looking:
    """When and how a check is looked at.

    Attributes
    ----------
    why : str
        Why on a day outside its window; an endpoint check needs it, and it stays with the verdict.
    lift_seed : int, optional
        The units come up in an order drawn over the arms, which is kept; else in bench order.
    about : bool
        The day is not sure: about then.
    sample : Sample, optional
        Some units are drawn and lifted for good, and the others stay.
    lifting : str
        How they are got out of the medium; blank where nobody says.
    """

    day: date
    way: str
    why: str = ""
    lift_seed: int | None = None
    about: bool = False
    sample: Sample | None = None
    lifting: str = ""

    @property
    def more(self) -> dict[str, object]:
        """What the audit says beside the day and the way."""
        drawn: dict[str, object] = {} if self.lift_seed is None else {"order drawn from": self.lift_seed}
        sample = (
            {"units of each arm lifted for good": self.sample.of_each, "drawn from": self.sample.seed}
            if self.sample
            else {}
        )
        lifted = {"got out by": self.lifting} if self.lifting else {}
        return drawn | ({"about": True} if self.about else {}) | lifted | sample


def open_check(
    session: Session, check: CheckVisit, actor: Person, now: datetime, looking: Looking, today: date
) -> None:
    """Open a planned check of a lot on its day; its date and way of looking are kept."""
    trial, lot, day, way = check.trial, check.lot, looking.day, looking.way
    if lot.wave.sticking_done_at is None:
        raise Refused(_("Finish sticking first (Stick page); a check counts every cutting stuck."))
    if check.closed_at is not None:
        raise Refused(_("This check was closed on {closed_at:%-d %B %Y} and stays closed.", closed_at=check.closed_at))
    if check.opened_at is not None:
        return
    others = [c for c in checks_of(session, trial) if c.lot_id == check.lot_id and c is not check]
    _refuse_beside(check, others)
    _refuse_then(check, others, day, today)
    if way not in list(KnownBy):
        raise InvalidInput("way of looking", _("choose one of: {names}", names=", ".join(KnownBy)), way)
    check.lifting = read_lifting(looking.lifting)
    check.why_then = why_then(check, day, KnownBy(way), looking.why)
    if looking.sample is not None:
        draw_sample(session, check, looking.sample)
    if looking.lift_seed is not None:
        check.lift_order = _as_drawn(session, check, looking.lift_seed)
    check.day, check.about, check.way, check.opened_at, check.opened_by_id = day, looking.about, way, now, actor.id
    session.flush()
    new = {"lot": lot.name, "planned_day": check.planned_das, "date": str(day), "way": way} | looking.more
    record(session, actor, now, Action.OPENED_A_CHECK, trial, new=new, why=check.why_then)


def _refuse_beside(check: CheckVisit, others: Sequence[CheckVisit]) -> None:
    """One check of a lot is open at a time, and none is opened after a later one."""
    open_now = next((c for c in others if c.is_open), None)
    if open_now is not None:
        raise Refused(
            _("The check of day {planned_das} is still open. Close it first.", planned_das=open_now.planned_das)
        )
    if any(c.opened_at and c.planned_das > check.planned_das for c in others):
        raise Refused(
            _("A later check was opened already, so this one was passed by. Record an amendment on the Design page.")
        )


def _refuse_then(check: CheckVisit, others: Sequence[CheckVisit], day: date, today: date) -> None:
    """The day of a check is not to come, after sticking, and not before an earlier check's."""
    if day > today:
        raise InvalidInput(
            "date of the check",
            _("lies in the future; a check is dated on the day of looking"),
            dated(day, "%d %b %Y"),
        )
    check_after_sticking(day, check.lot.day_zero)
    previous = [c.day for c in others if c.day and c.planned_das < check.planned_das]
    if previous and day < max(previous):
        raise InvalidInput(
            "date of the check",
            _("lies before the last check on {last:%d %b %Y}", last=max(previous)),
            dated(day, "%d %b %Y"),
        )


def _as_drawn(session: Session, check: CheckVisit, seed: int) -> list[int]:
    units = {c.unit_id: c.unit for c in in_scope(session, check)}
    pairs = [(unit.id, next((g.name for g in unit.groupings if g.kind == "pair"), None)) for unit in units.values()]
    return lift_order(pairs, np.random.default_rng(seed))


def _words(score: ScoreRecord | Score) -> list[str]:
    roots = (
        _("{root_number} roots", root_number=score.root_number)
        if score.root_number is not None
        else _("roots {value}", value=score.root_class or score.roots)
    )
    parts = [str(score.state), roots]
    parts += [_("quality {quality}", quality=score.quality)] if score.quality is not None else []
    parts += [_("foliage {foliage}", foliage=score.foliage)] if score.foliage is not None else []
    if score.longest_root_mm is not None:
        parts.append(_("longest {longest_root_mm:g} mm", longest_root_mm=score.longest_root_mm))
    parts += [str(score.top)] if score.top else []
    return parts


@dataclass(frozen=True)
class Sent:
    """How a score came in.

    Attributes
    ----------
    site : int
        Rooting site, counted from 1; a cutting has one unless its arm says otherwise.
    seen_revision : int
        Revision of the standing score the form was opened on; 0 when there was none.
    reason : str
        Why a standing score is corrected; required then.
    request_key : str, optional
        Saving the same key again gives the same score back.
    noted_on : date, optional
        The day it was looked at, where a check goes on for more than one; else the check's.
    """

    site: int = 1
    seen_revision: int = 0
    reason: str = ""
    request_key: str | None = None
    noted_on: date | None = None


def keep_score(
    session: Session,
    check: CheckVisit,
    cutting: Cutting,
    actor: Person,
    now: datetime,
    score: Score,
    sent: Sent = Sent(),
) -> ScoreRecord:
    """Keep the score of one rooting site of a cutting.

    Raises
    ------
    Conflict
        Someone else kept a score of this cutting meanwhile; both are shown.
    """
    earlier = earlier_held(session, check, cutting, sent.site, sent.request_key)
    known = next((e for e in earlier if sent.request_key and e.request_key == sent.request_key), None)
    score = as_it_stands(check, lifted_by(score, check.lifting))
    if known is not None:
        return _sent_again(known, check, cutting, actor, sent.site, score)
    _refuse_unless_scorable(check, cutting, actor)
    refuse_out_of_sample(session, check, cutting.unit)
    if not 1 <= sent.site <= len(cutting.sites):
        raise InvalidInput("rooting site", _("{code} has {n}", code=cutting.code, n=len(cutting.sites)), sent.site)
    score = check_score(score)
    check_long_enough(score, check.trial.plan.question.root_from_mm)
    refuse_touching(check, score)
    of_site = [e for e in earlier if (e.check_id, e.cutting_id, e.site) == (check.id, cutting.id, sent.site)]
    standing = next((e for e in of_site if e.current), None)
    _refuse_what_nobody_saw(standing, cutting, score, sent)
    made = ScoreRecord(
        trial_id=check.trial_id, check_id=check.id, cutting_id=cutting.id, site=sent.site,
        revision=1 + max((e.revision for e in of_site), default=0), current=1, state=score.state.value, roots=score.roots.value,
        root_number=score.root_number, root_class=score.root_class, quality=score.quality, foliage=score.foliage,
        longest_root_mm=score.longest_root_mm, callus=score.callus, top=score.top.value if score.top else None,
        failure=score.failure.value if score.failure else None, fit=score.fit.value, known_by=score.known_by.value, note=score.note.strip(),
        scored_on=max(check.day or now.date(), sent.noted_on or date.min), blind=scores_blind(check.trial, actor), at=now, person_id=actor.id, reason=sent.reason.strip(),
        request_key=sent.request_key, details=dict(score.details),
    )  # fmt: skip
    if standing is not None:
        standing.current, standing.ended_by = None, "correction"
        session.flush()
    _add_beside_others(session, check, cutting, made, score)
    if standing is not None:
        old = {"code": cutting.code, "score": _words(standing)}
        record(
            session,
            actor,
            now,
            Action.CORRECTED_A_SCORE,
            check.trial,
            old=old,
            new={"score": _words(made)},
            why=sent.reason,
        )
        if check.closed_at is not None:
            count_there(session, check, actor, now)
    return made


def _refuse_what_nobody_saw(standing: ScoreRecord | None, cutting: Cutting, score: Score, sent: Sent) -> None:
    """A score over one that its scorer has not seen, or over a seen one without a reason."""
    if (standing.revision if standing else 0) != sent.seen_revision:
        who = (
            _("{name} scored {code}", name=standing.person.name, code=cutting.code)
            if standing
            else _("The score of {code} was taken back", code=cutting.code)
        )
        raise Conflict(
            _("{who} while you were looking. Nothing of yours was written.", who=who),
            _words(standing) if standing else [],
            _words(score),
            standing.revision if standing else 0,
        )
    if standing is not None and not sent.reason.strip():
        raise InvalidInput(
            "reason for the correction", _("say why; the old score of {code} is kept with it", code=cutting.code)
        )
    if len(sent.reason) > LONGEST_WHY:
        raise InvalidInput(
            "reason for the correction", _("keep it within 300 characters"), f"{len(sent.reason)} characters"
        )


def _add_beside_others(session: Session, check: CheckVisit, cutting: Cutting, made: ScoreRecord, score: Score) -> None:
    """Write it, unless another score of the cutting was written at the same moment.

    By a statement of its own: what the database refuses of it alone leaves the transaction as it is, without a savepoint each time.
    """
    table = cast(Table, ScoreRecord.__table__)
    site, values = made.site, {name: value for name, value in vars(made).items() if name in table.columns}
    try:
        written = session.execute(insert(table), values)
    except IntegrityError as error:
        session.expire_all()
        other = _standing(session, check, cutting, site)
        raise Conflict(
            _(
                "{name} scored {code} at the same moment. Nothing of yours was written.",
                name=other.person.name if other else _("Someone"),
                code=cutting.code,
            ),
            _words(other) if other else [],
            _words(score),
        ) from error
    made.id = written.inserted_primary_key[0]  # type: ignore[attr-defined]
    make_transient_to_detached(made)
    session.add(made)


def _sent_again(
    known: ScoreRecord, check: CheckVisit, cutting: Cutting, actor: Person, site: int, score: Score
) -> ScoreRecord:
    """The same request once more gives the same score, to who made it or who brings it in for them; else its key is a conflict."""
    same = (known.check_id, known.cutting_id, known.site) == (check.id, cutting.id, site)
    if same and (known.person_id == actor.id or may(actor, Act.RUN_CHECK)) and known.as_score() == check_score(score):
        return known
    raise Conflict(
        _(
            "This form was sent before, with something else in it. Nothing of yours was written; look at what is there and save again."
        ),
        _words(known),
        _words(score),
    )


def _refuse_unless_scorable(check: CheckVisit, cutting: Cutting, actor: Person) -> None:
    if cutting.trial_id != check.trial_id or cutting.status != "stuck":
        raise Refused(_("{code} is not a stuck cutting of this trial.", code=cutting.code))
    if cutting.lot_id != check.lot_id:
        raise Refused(
            _(
                "{code} was stuck in another lot; score it at that lot's check, its days count from there.",
                code=cutting.code,
            )
        )
    if check.opened_at is None:
        raise Refused(_("This check is not open. A researcher opens it on the Score page."))
    if check.closed_at is not None:
        require(actor, Act.RUN_CHECK)


def _standing(session: Session, check: CheckVisit, cutting: Cutting, site: int) -> ScoreRecord | None:
    query = select(ScoreRecord).where(
        ScoreRecord.check_id == check.id,
        ScoreRecord.cutting_id == cutting.id,
        ScoreRecord.site == site,
        ScoreRecord.current == 1,
    )
    return session.scalar(query)


def take_back(session: Session, check: CheckVisit, actor: Person, now: datetime) -> Cutting | None:
    """Take back this person's newest standing score of an open check; it stays on record."""
    lock(session, check.id, read=True)
    if check.closed_at is not None:
        raise Refused(_("The check is closed. A researcher can correct a score with a reason."))
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
        Action.TOOK_A_SCORE_BACK,
        check.trial,
        old={"code": newest.cutting.code, "score": _words(newest)},
    )
    return newest.cutting


def close_check(
    session: Session, check: CheckVisit, actor: Person, now: datetime, table: Counted = NOT_COUNTED
) -> None:
    """Close a check; refused while a cutting is unaccounted for, and a second time.

    A count made on the table that differs from the scores needs its reason, which stays with the trial.
    """
    lock(session, check.id)
    if check.opened_at is None:
        raise Refused(_("This check was not opened yet."))
    if check.closed_at is not None:
        raise Refused(
            _(
                "This check was closed already, on {closed_at:%-d %B %Y}. Nothing was changed.",
                closed_at=check.closed_at,
            )
        )
    refuse_while_out(session, check)
    state = progress_of(session, check)
    if state.tally.unaccounted:
        waiting = list(dict.fromkeys(spot.code for spot in state.spots if spot.known is None))
        shown = ", ".join(waiting[:6]) + (_(" and more") if len(waiting) > 6 else "")
        raise Refused(
            _(
                "{unaccounted} of {in_scope} are unaccounted for ({shown}). Score each one; 'missing' is a score too.",
                unaccounted=state.tally.unaccounted,
                in_scope=state.tally.in_scope,
                shown=shown,
            )
        )
    check.on_table = held_against(table, state.piles)
    check.closed_at, check.closed_by_id = now, actor.id
    session.flush()
    new: dict[str, object] = {"planned_day": check.planned_das}
    new |= {"on_the_table": table.rooted} if table.rooted is not None else {}
    new |= {"in_the_bin": table.bare} if table.bare is not None else {}
    record(session, actor, now, Action.CLOSED_A_CHECK, check.trial, new=new, why=check.on_table)
    count_there(session, check, actor, now)
    keep_check(session, check, now)
