"""Conclude: the decision and the typed conclusion, kept with the verdict and the locked plan."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from orderly_bench.core.conclude.decision import Decision
from orderly_bench.core.errors import InvalidInput, Refused
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.stock.kept import LessonKind
from orderly_bench.evidence.verdict import Evidence
from orderly_bench.evidence.ways import ways_of
from orderly_bench.stock import operations as stock
from orderly_bench.trial.audit import Action, record
from orderly_bench.trial.blindness import endpoint_closed
from orderly_bench.trial.models import Conclusion, Person, Trial


@dataclass(frozen=True)
class After:
    """What goes to the shelf with a conclusion: the letter of the arm that is adopted, blank for none, and what was learned."""

    arm: str = ""
    lessons: Mapping[LessonKind, str] = field(default_factory=dict)


NOTHING_MORE = After()
LONGEST_CONCLUSION = 4_000


def conclude(
    session: Session,
    trial: Trial,
    actor: Person,
    now: datetime,
    evidence: Evidence,
    decision: str,
    text: str,
    after: After = NOTHING_MORE,
) -> Conclusion:
    """Keep a conclusion; a later one stands beside the earlier, never over it.

    What each arm came to goes to the method cards; a way that is adopted is written to its card.
    """
    if not evidence.closed or trial.digest is None:
        raise Refused(_("The endpoint check is not closed yet. Close it on the Score page; then conclude."))
    if decision not in list(Decision):
        raise InvalidInput("decision", _("choose one of: {names}", names=", ".join(Decision)), decision)
    if not text.strip():
        raise InvalidInput("conclusion", _("write what you conclude, in your own words"))
    if len(text) > LONGEST_CONCLUSION:
        raise InvalidInput("conclusion", _("keep it within 4000 characters"), f"{len(text)} characters")
    reading = evidence.reading
    made = Conclusion(
        trial_id=trial.id,
        person_id=actor.id,
        at=now,
        decision=decision,
        text=text.strip(),
        strength=reading.strength.value if reading else "cannot tell",
        headline=(reading.headline if reading else evidence.unusable)[:500],
        digest=trial.digest,
    )
    session.add(made)
    session.flush()
    adopted = _to_the_cards(session, trial, evidence, Decision(decision), after)
    new = {"decision": decision, "strength": made.strength} | ({"way": adopted} if adopted else {})
    record(session, actor, now, Action.CONCLUDED, trial, new=new)
    return made


def close_without_verdict(
    session: Session,
    trial: Trial,
    actor: Person,
    now: datetime,
    decision: str,
    why: str,
    lessons: Mapping[LessonKind, str],
) -> Conclusion:
    """Close a trial that can't be judged any more, such as one of which all died: nothing more is asked of it, its lessons stay.

    Raises
    ------
    Refused
        Before the lock, or once the endpoint is closed: then it is judged.
    InvalidInput
        Adopted, though nothing was judged; or no reason.
    """
    if trial.digest is None:
        raise Refused(_("The plan is not locked, so no trial has begun. Leave it as it is, or lock it first."))
    if endpoint_closed(session, trial):
        raise Refused(_("The endpoint check is closed: conclude from what it found."))
    if conclusions_of(session, trial):
        raise Refused(_("It is closed without a verdict already; nothing was written twice."))
    if decision not in (Decision.DROP, Decision.REPEAT, Decision.HOLD):
        raise InvalidInput(
            "decision", _("choose drop, repeat or hold: nothing was judged that could be adopted"), decision
        )
    if not why.strip() or len(why) > LONGEST_CONCLUSION:
        raise InvalidInput("why", _("write what ended it, within {most} characters", most=str(LONGEST_CONCLUSION)))
    made = Conclusion(
        trial_id=trial.id, person_id=actor.id, at=now, decision=decision, text=why.strip(), strength="cannot tell",
        headline=_("Closed without a verdict."), digest=trial.digest,
    )  # fmt: skip
    session.add(made)
    session.flush()
    stock.keep_lessons(session, trial.plan.question.botanical_name, trial.code, lessons, _("closed without a verdict"))
    record(session, actor, now, Action.CONCLUDED, trial, new={"decision": decision, "strength": made.strength})
    return made


def _to_the_cards(session: Session, trial: Trial, evidence: Evidence, decision: Decision, after: After) -> str:
    """Ways and lessons to the shelf; the way that was adopted, in words, blank where none was."""
    found = ways_of(evidence)
    letters = [one.way.letter for one in found]
    if after.arm and after.arm not in letters:
        raise InvalidInput(
            "way that is adopted", _("choose one of the arms: {names}", names=", ".join(letters)), after.arm
        )
    if after.arm and decision is not Decision.ADOPT:
        raise InvalidInput("way that is adopted", _("goes with adopt; leave it out, or adopt"), decision.value)
    chosen = next((one for one in found if one.way.letter == after.arm), None)
    kept = [
        (one.taxon, one.cutting_type, replace(one.way, decision=decision.value, adopted=one is chosen)) for one in found
    ]
    stock.keep_ways(session, trial.code, kept)
    reading = evidence.reading
    rests_on = reading.headline if reading else evidence.unusable
    stock.keep_lessons(session, trial.plan.question.botanical_name, trial.code, after.lessons, rests_on)
    if chosen is None:
        return ""
    stock.adopt_way(session, chosen.taxon, chosen.cutting_type, chosen.way)
    return chosen.way.way


def conclusions_of(session: Session, trial: Trial) -> list[Conclusion]:
    """Conclusions, newest first."""
    return list(
        session.scalars(select(Conclusion).where(Conclusion.trial_id == trial.id).order_by(Conclusion.id.desc()))
    )
