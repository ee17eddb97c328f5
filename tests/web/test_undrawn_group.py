"""Pieces that come in after the lock: codes, a lot and checks of their own; counted beside the trial, never compared."""

from __future__ import annotations

import pytest
from sqlalchemy import select
from sqlalchemy.orm import Session

from orderly_bench.chapters.score import operations as score
from orderly_bench.core.plan.question import TrialKind
from orderly_bench.core.vocabulary import Roots, Score, State
from orderly_bench.record.gather import gather, undrawn_counts
from orderly_bench.trial.models import AuditEntry, SideTrial, Trial
from tests.factories import NOW, TODAY, create_locked, create_person, create_stuck, open_endpoint, stick_all
from tests.web.conftest import SignIn, flat

SENT = {"name": "late ones", "pieces": "7", "stands_in": "60 mL cells", "says_medium": "turf", "origin": "pruning", "source": "by the wall", "reason": "a hedge was cut"}  # fmt: skip
BY_HAND = {"group": "late ones", "day": TODAY.isoformat(), "stuck": "7", "rooted": "7", "bare": "0", "dead": "0"}


def own_of(session: Session, trial: Trial) -> Trial:
    return session.scalars(select(SideTrial).where(SideTrial.trial_id == trial.id)).one().own


def sent_for(page: str, **typed: str) -> dict[str, str]:
    """What a person types, with the first container that the page offers."""
    offered = page.split('name="stands_in"')[1].split('value="')[1].split('"')[0]
    return SENT | {"stands_in": offered} | typed


def test_it_is_laid_out_locked_and_scored_piece_by_piece(session: Session, sign_in: SignIn) -> None:
    trial, client, actor = create_stuck(session, create_person(session)), sign_in("researcher"), create_person(session)
    address = f"/trials/{trial.id}/group-beside"
    arms = [arm.id for arm in trial.plan.treatments.arms]
    answered = client.post(address, data=sent_for(client.get(address).text))
    session.refresh(trial)
    own = own_of(session, trial)
    assert answered.location == f"/trials/{own.id}/stick" and own.locked_at is not None
    assert own.plan.question.kind is TrialKind.RATE and len(own.units) == 7
    assert own.plan.question.endpoint_day == trial.plan.question.endpoint_day
    assert own.plan.question.source == f"beside {trial.code}, not drawn with it, by the wall, pruning"
    assert [arm.id for arm in trial.plan.treatments.arms] == arms and trial.plan.treatments.side_groups[
        0
    ].name == "late ones"
    assert trial.versions[-1].why == "a hedge was cut"
    assert "not counted yet" in flat(client.get(f"/trials/{trial.id}/score").text)

    stick_all(session, own, actor)
    check = open_endpoint(session, own, actor)
    for i, unit in enumerate(own.units):
        state = Score(State.ALIVE, Roots.COUNTED, 4, 20.0) if i < 3 else Score(State.ALIVE, Roots.NONE)
        score.keep_score(session, check, unit.cuttings[0], actor, NOW, state)
    score.close_check(session, check, actor, NOW)
    (count,) = undrawn_counts(session, trial)
    assert (count.group, count.stuck, count.rooted, count.bare) == ("late ones", 7, 3, 4)
    assert {unit.id for unit in gather(session, trial).units}.isdisjoint(unit.id for unit in own.units)
    last = Score(State.ALIVE, Roots.COUNTED, 1, 2.0)
    score.keep_score(
        session, check, own.units[-1].cuttings[0], actor, NOW, last, score.Sent(1, 1, "one was overlooked")
    )
    page = flat(client.get(f"/trials/{trial.id}/score").text)
    assert "4 of 7 rooted" in page and own.code in page
    refused = client.post(f"/trials/{trial.id}/beside", data=BY_HAND)
    assert refused.status_code == 422 and "piece by piece" in refused.text and len(undrawn_counts(session, trial)) == 1


@pytest.mark.parametrize(
    ("typed", "said"),
    [
        ({"name": ""}, "name of the group"), ({"pieces": "0"}, "pieces"), ({"stands_in": "a hat"}, "stands in"),
        ({"reason": ""}, "reason of the amendment"), ({"name": "A"}, "name of its own"),
    ],
)  # fmt: skip
def test_what_cannot_be_is_refused_and_nothing_is_begun(
    session: Session, sign_in: SignIn, typed: dict[str, str], said: str
) -> None:
    trial, client = create_stuck(session, create_person(session)), sign_in("researcher")
    address = f"/trials/{trial.id}/group-beside"
    answered = client.post(address, data=sent_for(client.get(address).text, **typed))
    assert answered.status_code == 422 and said in flat(answered.text)
    assert session.scalars(select(SideTrial)).first() is None and not trial.plan.treatments.side_groups
    assert len(session.scalars(select(Trial)).all()) == 1


def test_a_group_has_one_trial_and_a_trial_that_is_not_locked_has_none(session: Session, sign_in: SignIn) -> None:
    trial, client = create_locked(session, create_person(session)), sign_in("researcher")
    address = f"/trials/{trial.id}/group-beside"
    sent = sent_for(client.get(address).text)
    assert client.post(address, data=sent).status_code == 303
    again = client.post(address, data=sent)
    assert (
        again.status_code == 422 and "go on there" in again.text and len(session.scalars(select(SideTrial)).all()) == 1
    )
    acts = session.scalars(select(AuditEntry.action).where(AuditEntry.trial_id == trial.id)).all()
    assert acts.count("began a group beside the trial") == 1
