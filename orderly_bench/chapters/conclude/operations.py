"""Conclude: the decision and the typed conclusion, kept with the verdict and the locked plan."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from orderly_bench.core.conclude.decision import Decision
from orderly_bench.core.errors import InvalidInput, Refused
from orderly_bench.core.messages.words import tell
from orderly_bench.core.stock.kept import LessonKind
from orderly_bench.evidence.verdict import Evidence
from orderly_bench.evidence.ways import ways_of
from orderly_bench.stock import operations as stock
from orderly_bench.trial.audit import Action, record
from orderly_bench.trial.models import Conclusion, Person, Trial


@dataclass(frozen=True)
class After:
    """What goes to the shelf with a conclusion: the letter of the arm that is adopted, blank for none, and what was learned."""

    arm: str = ""
    lessons: Mapping[LessonKind, str] = field(default_factory=dict)


NOTHING_MORE = After()


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
        raise Refused(tell("The endpoint check is not closed yet. Close it on the Score page; then conclude."))
    if decision not in list(Decision):
        raise InvalidInput("decision", tell("choose one of: {names}", names=", ".join(Decision)), decision)
    if not text.strip():
        raise InvalidInput("conclusion", tell("write what you conclude, in your own words"))
    if len(text) > 4_000:
        raise InvalidInput("conclusion", tell("keep it within 4000 characters"), f"{len(text)} characters")
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


def _to_the_cards(session: Session, trial: Trial, evidence: Evidence, decision: Decision, after: After) -> str:
    """Ways and lessons to the shelf; the way that was adopted, in words, blank where none was."""
    found = ways_of(evidence)
    letters = [one.way.letter for one in found]
    if after.arm and after.arm not in letters:
        raise InvalidInput(
            "way that is adopted", tell("choose one of the arms: {names}", names=", ".join(letters)), after.arm
        )
    if after.arm and decision is not Decision.ADOPT:
        raise InvalidInput("way that is adopted", tell("goes with adopt; leave it out, or adopt"), decision.value)
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
