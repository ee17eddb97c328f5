"""Something runs out while it is stuck: whole blocks first, what waits counts its hours."""

from __future__ import annotations

from datetime import timedelta

from bs4 import BeautifulSoup
from sqlalchemy import select
from sqlalchemy.orm import Session

from orderly_bench.chapters.stick import operations as stick
from orderly_bench.core.layouts.kinds import LayoutKind
from orderly_bench.trial.models import AuditEntry, Trial
from tests.factories import DAY_ZERO, NOW, add_lot, create_locked, create_person
from tests.web.conftest import SignIn, flat

BLOCKS = LayoutKind.COMPLETE_BLOCKS.value


def begun(session: Session) -> Trial:
    actor = create_person(session)
    trial = create_locked(session, actor, cuttings_per_arm=8, layout=BLOCKS, blocks=4)
    add_lot(session, trial, actor)
    session.commit()
    return trial


def test_whole_blocks_are_proposed_and_the_others_left_out_in_one_touch(session: Session, sign_in: SignIn) -> None:
    trial = begun(session)
    client, at = sign_in("scorer"), f"/trials/{trial.id}/stick"
    arms, size = len(trial.arms), 8 * len(trial.arms) // 4
    page = client.get(f"{at}?lacking=medium&enough={2 * size + 1}").text
    assert "Stick block 1, block 2 whole, and leave block 3, block 4 out: every arm loses alike. 1 stays over." in flat(
        page
    )
    form = next(f for f in BeautifulSoup(page, "html.parser").select("form") if f.select_one('input[name="codes"]'))
    codes = form.select_one("[name=codes]")["value"]
    assert len(codes.split()) == 2 * size
    sent = client.post(
        f"{at}/several", data={"codes": codes, "reason": form.select_one("button")["value"], "tray": "1"}
    )
    assert sent.status_code == 303
    session.expire_all()
    out = [unit for unit in trial.units if unit.cuttings[0].not_stuck_reason == "short of medium"]
    assert {g.name for unit in out for g in unit.groupings if g.kind == "block"} == {"block 3", "block 4"}
    assert {sum(unit.arm_id == arm.id for unit in out) for arm in trial.arms} == {len(out) // arms}


def test_what_waits_becomes_a_lot_with_its_hours_and_those_before(session: Session, sign_in: SignIn) -> None:
    trial = begun(session)
    trial.lots[0].held_hours = 2.0
    session.commit()
    client, at = sign_in("scorer"), f"/trials/{trial.id}/stick"
    for _ in range(2):
        assert client.post(f"{at}/put-off", data={"lacking": "medium", "wave": "1"}).status_code == 303
    session.expire_all()
    wave = trial.waves[0]
    acts = session.scalars(select(AuditEntry.action).where(AuditEntry.trial_id == trial.id)).all()
    assert wave.waiting_for == "medium" and acts.count("put pieces off") == 1
    wave.waiting_since -= timedelta(hours=20)
    session.commit()
    page = client.get(at).text
    assert "waited for medium" in flat(page) and "its hours are counted on from here" in flat(page)
    form = BeautifulSoup(page, "html.parser")
    offered = next(f for f in form.select("form") if f.select_one("[name=held]") and not f.select_one("[name=lot]"))
    assert offered.select_one("[name=held]")["value"] == "waited for medium"
    assert float(offered.select_one("[name=held_hours]")["value"]) == 22.0
    typed = {"wave": "1", "day": str(DAY_ZERO + timedelta(days=1)), "held": "waited for medium", "held_hours": "22"}
    assert client.post(f"/trials/{trial.id}/lot", data=typed).status_code == 303
    session.expire_all()
    assert trial.waves[0].waiting_since is None and trial.lots[1].held_hours == 22.0
    assert "wave 1, lot 2: 22 h" in flat(client.get(at).text)


def test_what_can_not_be_is_refused_and_what_was_typed_stays(session: Session, sign_in: SignIn) -> None:
    trial = begun(session)
    client, at = sign_in("scorer"), f"/trials/{trial.id}/stick"
    page = client.get(f"{at}?lacking=pieces&enough=-4").text
    assert "count what is left" in flat(page) and 'value="-4"' in page
    assert client.post(f"{at}/put-off", data={"lacking": "time"}).status_code == 422
    assert trial.waves[0].waiting_since is None


def test_a_blind_scorer_is_told_no_arm_by_the_proposal(session: Session, sign_in: SignIn) -> None:
    actor = create_person(session)
    trial = create_locked(session, actor, cuttings_per_arm=8, layout=LayoutKind.COMPLETELY_RANDOMISED.value, blocks=1)
    add_lot(session, trial, actor)
    stick.put_off(session, trial, actor, NOW, trial.waves[0], "pieces")
    session.commit()
    where = f"/trials/{trial.id}/stick?lacking=pieces&enough=6"
    assert "more of each arm" in flat(sign_in(person=actor).get(where).text)
    blind = flat(sign_in("scorer").get(where).text)
    assert "Stick those that are not listed here" in blind and "of each arm" not in blind
