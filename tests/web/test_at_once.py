"""Stick first, ask while it stands: one touch from pieces in the hand to places that are drawn and locked."""

from __future__ import annotations

from datetime import timedelta

import pytest
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from orderly_bench.chapters.design import locking
from orderly_bench.chapters.score import operations as score
from orderly_bench.chapters.stick import operations as stick
from orderly_bench.core.design.codes import spaced
from orderly_bench.core.plan.question import TrialKind
from orderly_bench.core.vocabulary import KnownBy
from orderly_bench.record.gather import gather
from orderly_bench.stock.models import MethodCard
from orderly_bench.trial.models import Trial
from tests.factories import NOW, create_person, score_all
from tests.web.conftest import SignIn, flat

SENT = {
    "plant": "Olea europaea",
    "pieces": "12",
    "ways": "sand\npumice",
    "differs": "medium",
    "endpoint_day": "42",
    "origin": "storm",
    "source": "by the gate",
}


@pytest.mark.parametrize(
    ("typed", "kind", "sizes"),
    [
        ({}, TrialKind.TEST, [6, 6]), ({"pieces": "11"}, TrialKind.TEST, [6, 5]), ({"pieces": "4"}, TrialKind.LOOK, [2, 2]),
        ({"ways": "sand", "pieces": "40"}, TrialKind.RATE, [40]), ({"ways": "sand\npumice\nbark\nturf", "differs": "other", "pieces": "22"}, TrialKind.TEST, [6, 6, 5, 5]),
    ],
)  # fmt: skip
def test_places_are_drawn_and_locked_before_anything_is_stuck(
    session: Session, sign_in: SignIn, typed: dict[str, str], kind: TrialKind, sizes: list[int]
) -> None:
    client = sign_in("researcher")
    answered = client.post("/stick-first", data=SENT | typed)
    trial = session.scalars(select(Trial)).one()
    assert answered.status_code == 303 and answered.location == f"/trials/{trial.id}/stick"
    plan = trial.plan
    assert trial.locked_at is not None and len(trial.draws) == 1 and plan.question.kind is kind
    assert [sum(1 for u in trial.units if u.arm.letter == arm.id) for arm in plan.treatments.arms] == sizes
    assert plan.question.endpoint_day == 42 and plan.question.source == "by the gate, storm"
    assert gather(session, trial).late == "" and all(c.status == "planned" for u in trial.units for c in u.cuttings)
    page = flat(client.get(answered.location).text)
    assert "all stuck" in page and all(spaced(u.code) in page for u in trial.units if u.place.tray.number == 1)


def test_it_is_lived_to_its_end_and_is_never_retrospective(session: Session, sign_in: SignIn) -> None:
    client, actor = sign_in("researcher"), create_person(session)
    client.post("/stick-first", data=SENT)
    trial = session.scalars(select(Trial)).one()
    for tray in trial.trays:
        stick.confirm_tray(session, trial, actor, NOW, tray.number)
    stick.finish_sticking(session, trial, actor, NOW)
    later = NOW + timedelta(days=42)
    check = trial.checks[-1]
    score.open_check(session, check, actor, later, score.Looking(later.date(), KnownBy.LIFTED.value), later.date())
    score_all(session, trial, check, actor, "A")
    score.close_check(session, check, actor, NOW)
    session.commit()
    page = flat(client.get(f"/trials/{trial.id}/report").text)
    assert "by the gate, storm" in page and "retrospective" not in page.lower()


def test_the_day_comes_from_the_plants_card(session: Session, sign_in: SignIn) -> None:
    session.add(MethodCard(taxon="Olea europaea", cutting_type="semi-hard tip", weeks_least=6, weeks_most=8))
    session.commit()
    sign_in("researcher").post("/stick-first", data=SENT | {"endpoint_day": ""})
    assert session.scalars(select(Trial)).one().plan.question.endpoint_day == 56


@pytest.mark.parametrize(
    "bad", [{"pieces": "0"}, {"ways": ""}, {"endpoint_day": ""}, {"plant": ""}, {"differs": "mood"}]
)
def test_what_can_not_be_leaves_no_half_made_trial_and_keeps_all_typed(
    session: Session, sign_in: SignIn, bad: dict[str, str]
) -> None:
    answered = sign_in("researcher").post("/stick-first", data=SENT | bad)
    assert answered.status_code == 422 and "by the gate" in answered.text
    assert session.scalar(select(func.count(Trial.id))) == 0


def test_a_refused_lock_leaves_nothing_either(
    session: Session, sign_in: SignIn, monkeypatch: pytest.MonkeyPatch
) -> None:
    def refuse(*_: object) -> None:
        raise stick.Refused("not now")

    monkeypatch.setattr(locking, "lock_plan", refuse)
    assert sign_in("researcher").post("/stick-first", data=SENT).status_code == 422
    session.expire_all()
    assert session.scalar(select(func.count(Trial.id))) == 0
