"""What went wrong: signs of failure that the lab itself has on record of a plant."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from orderly_bench.core.vocabulary import FailureSign
from orderly_bench.trial.models import CheckVisit, Cutting, ScoreRecord, Trial

#: Trials of a plant that are looked through, newest first.
MOST = 50


@dataclass(frozen=True)
class OwnFailure:
    """A trial of the plant: how many of its cuttings showed each sign, at any check that is closed."""

    trial: Trial
    stuck: int
    signs: dict[FailureSign, int]


def own_failures(session: Session, taxon: str) -> list[OwnFailure]:
    """Trials of a plant in which a sign of failure was scored, newest first; totals, no arms."""
    name = taxon.strip().casefold()
    if not name:
        return []
    found = [
        t
        for t in session.scalars(select(Trial).where(Trial.locked_at.is_not(None)).order_by(Trial.id.desc()))
        if _is_of(t, name)
    ]
    ids = [trial.id for trial in found[:MOST]]
    rows = (
        select(ScoreRecord.trial_id, ScoreRecord.failure, func.count(ScoreRecord.cutting_id.distinct()))
        .join(CheckVisit, ScoreRecord.check_id == CheckVisit.id)
        .where(
            ScoreRecord.trial_id.in_(ids),
            ScoreRecord.current == 1,
            ScoreRecord.failure.is_not(None),
            CheckVisit.closed_at.is_not(None),
        )
        .group_by(ScoreRecord.trial_id, ScoreRecord.failure)
    )
    signs: dict[int, dict[FailureSign, int]] = {}
    for trial_id, sign, n in session.execute(rows):
        signs.setdefault(trial_id, {})[FailureSign(str(sign))] = n
    stuck = dict(
        session.execute(
            select(Cutting.trial_id, func.count())
            .where(Cutting.trial_id.in_(ids), Cutting.status == "stuck")
            .group_by(Cutting.trial_id)
        ).all()
    )
    return [OwnFailure(trial, stuck.get(trial.id, 0), signs[trial.id]) for trial in found[:MOST] if trial.id in signs]


def _is_of(trial: Trial, name: str) -> bool:
    asked = trial.plan.question
    return name in (asked.botanical_name.casefold(), asked.taxon.casefold())
