"""An open check taken along: its page holds no arm, closing waits for the device, a lost one is released with a reason."""

from __future__ import annotations

import pytest
from sqlalchemy import select
from sqlalchemy.orm import Session

from orderly_bench.core.vocabulary import KnownBy
from orderly_bench.trial.checks import checks_of
from orderly_bench.trial.models import AuditEntry, CheckVisit, ScoreRecord, TakenAlong
from tests.factories import create_person, create_stuck, open_endpoint
from tests.web.conftest import SignIn, flat


@pytest.fixture
def check(session: Session) -> CheckVisit:
    trial = create_stuck(
        session, create_person(session), factors=[("medium", "medium", ["grit", "pumice"])], cuttings_per_arm="8"
    )
    made = open_endpoint(session, trial, create_person(session))
    session.commit()
    return made


@pytest.mark.parametrize("role", ["scorer", "researcher", "lead"])
def test_what_is_kept_on_a_device_has_codes_and_no_arm_whoever_takes_it(
    session: Session, sign_in: SignIn, check: CheckVisit, role: str
) -> None:
    page = sign_in(role).get(f"/checks/{check.id}/along")
    assert page.status_code == 200 and check.trial.units[0].code[:3] in page.text
    assert {arm.name for arm in check.trial.arms} == {"grit", "pumice"}
    for arm in check.trial.arms:
        assert arm.name not in page.text
    assert sign_in("reader").get(f"/checks/{check.id}/along").status_code == 403


def test_closing_waits_for_a_device_until_it_is_brought_back(
    session: Session, sign_in: SignIn, check: CheckVisit
) -> None:
    scorer, researcher = sign_in("scorer"), sign_in("researcher")
    for _ in range(2):
        assert scorer.post(f"/checks/{check.id}/along", data={"key": "k1", "device": "a phone"}).status_code == 204
    (one,) = session.scalars(select(TakenAlong)).all()
    assert one.device == "a phone" and one.out
    refused = researcher.post(f"/checks/{check.id}/close")
    assert refused.status_code == 422 and f"{one.person.name} has this check along on a device" in flat(refused.text)
    assert f"{one.person.name} has it along since" in flat(researcher.get(f"/trials/{check.trial_id}/score").text)
    other = sign_in("scorer")
    assert other.post(f"/checks/{check.id}/along/back", data={"key": "k1"}).status_code == 204
    session.expire_all()
    assert one.out, "another person brings nothing back"
    for _ in range(2):
        assert scorer.post(f"/checks/{check.id}/along/back", data={"key": "k1"}).status_code == 204
    session.expire_all()
    assert not one.out
    assert "are unaccounted for" in flat(researcher.post(f"/checks/{check.id}/close").text)
    told = [a.action for a in session.scalars(select(AuditEntry).order_by(AuditEntry.id)) if "check" in a.action]
    assert told[-2:] == ["took a check along", "brought a check back"]
    assert scorer.post(f"/checks/{check.id}/along", data={"key": "k1"}).status_code == 422, "a key counts once"


def test_a_lost_device_is_released_with_a_reason_that_stays(
    session: Session, sign_in: SignIn, check: CheckVisit
) -> None:
    scorer, researcher = sign_in("scorer"), sign_in("researcher")
    scorer.post(f"/checks/{check.id}/along", data={"key": "k1", "device": "a phone"})
    (one,) = session.scalars(select(TakenAlong)).all()
    where, form = f"/checks/{check.id}/along/release", {"device_id": str(one.id), "released_why": "fell into the tank"}
    assert scorer.post(where, data=form).status_code == 403
    assert researcher.post(where, data=form | {"released_why": " "}).status_code == 422
    assert researcher.post(where, data=form).status_code == 303
    assert researcher.post(where, data=form).status_code == 422
    session.expire_all()
    entry = session.scalars(select(AuditEntry).where(AuditEntry.action == "released a device")).one()
    assert one.released == entry.why == "fell into the tank"
    assert "are unaccounted for" in flat(researcher.post(f"/checks/{check.id}/close").text)


def test_only_an_open_check_goes_along(session: Session, sign_in: SignIn, check: CheckVisit) -> None:
    other = checks_of(session, check.trial)[0]
    assert not other.is_open and other.id != check.id
    client = sign_in("scorer")
    assert client.get(f"/checks/{other.id}/along").status_code == 422
    assert client.post(f"/checks/{other.id}/along", data={"key": "k2"}).status_code == 422
    assert client.post(f"/checks/{check.id}/along", data={"key": ""}).status_code == 422
    assert not session.scalars(select(TakenAlong)).all() and check.way in list(KnownBy)


def test_the_worker_stands_at_the_root_and_is_asked_for_anew(sign_in: SignIn) -> None:
    answered = sign_in().get("/worker.js")
    assert answered.status_code == 200 and "javascript" in answered.headers["Content-Type"]
    assert answered.headers["Cache-Control"] == "no-store", "a browser keeps no older one"


@pytest.mark.parametrize(
    "amended",
    [{"kind": "margin", "what": "20"}, {"kind": "add_check", "what": "9"}, {"kind": "abandon", "what": "mould", "arm": "B"}, {"kind": "rename", "what": "coarse grit"}],
    ids=lambda one: one["kind"],
)  # fmt: skip
def test_what_waited_while_the_plan_was_amended_is_kept(
    session: Session, sign_in: SignIn, check: CheckVisit, amended: dict[str, str]
) -> None:
    """Entered on a device under the plan as it was; sent after the amendment, once and once more."""
    unit = next(unit for unit in check.trial.units if unit.arm.letter == "B")
    waited = {"cutting": str(unit.cuttings[0].id), "state": "alive", "roots": "none", "revision": "0", "fit": "not judged", "request_key": "waited-1"}  # fmt: skip
    if amended["kind"] == "rename":
        asked = check.trial.plan.treatments.asked[0]
        amended = amended | {"level": f"{asked.id}|{asked.levels[0].id}"}
    done = sign_in().post(f"/trials/{check.trial_id}/amend", data=amended | {"reason": "as it turned out"})
    assert done.status_code == 303, flat(done.text)[:400]
    client = sign_in("scorer")
    for _ in range(2):
        assert client.post(f"/checks/{check.id}/scores", data=waited).status_code == 303
    kept = session.scalars(select(ScoreRecord).where(ScoreRecord.check_id == check.id)).all()
    assert [(one.cutting_id, one.roots) for one in kept] == [(unit.cuttings[0].id, "none")]
