"""Conclude: the decision and the typed conclusion, kept with the verdict and the locked plan."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from orderly_bench.core.conclude.decision import Decision
from orderly_bench.core.errors import InvalidInput, Refused
from orderly_bench.core.messages.words import tell
from orderly_bench.evidence.verdict import Evidence
from orderly_bench.trial.audit import Action, record
from orderly_bench.trial.models import Conclusion, Person, Trial


def conclude(
    session: Session, trial: Trial, actor: Person, now: datetime, evidence: Evidence, decision: str, text: str
) -> Conclusion:
    """Keep a conclusion; a later one stands beside the earlier, never over it."""
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
    record(session, actor, now, Action.CONCLUDED, trial, new={"decision": decision, "strength": made.strength})
    return made


def conclusions_of(session: Session, trial: Trial) -> list[Conclusion]:
    """Conclusions, newest first."""
    return list(
        session.scalars(select(Conclusion).where(Conclusion.trial_id == trial.id).order_by(Conclusion.id.desc()))
    )
