"""Of two lots none is taken for granted."""

from __future__ import annotations

from datetime import timedelta

from bs4 import BeautifulSoup
from sqlalchemy import select
from sqlalchemy.orm import Session

from orderly_bench.core.plan.treatments import Container, Shape
from orderly_bench.trial.models import AuditEntry
from tests.factories import DAY_ZERO, FACTORS, add_lot, create_locked, create_person
from tests.web.conftest import SignIn


def test_a_second_lot_is_never_taken_for_the_first_one_s_pieces(session: Session, sign_in: SignIn) -> None:
    actor = create_person(session)
    trial = create_locked(session, actor)
    first = add_lot(session, trial, actor)
    client, where = sign_in(person=actor), f"/trials/{trial.id}/stick"
    assert BeautifulSoup(client.get(where).text, "html.parser").select_one("[name=in_lot]") is None
    add_lot(session, trial, actor, DAY_ZERO + timedelta(days=2))
    session.commit()
    offered = BeautifulSoup(client.get(where).text, "html.parser").select_one("[name=in_lot]")
    assert offered.select_one("option[selected]")["value"] == ""
    refused = client.post(f"{where}/tray", data={"tray": "1", "in_lot": ""})
    assert refused.status_code == 422 and "choose the one these pieces were stuck in" in refused.text
    assert all(c.lot_id is None for unit in trial.units for c in unit.cuttings)
    kept = client.post(f"{where}/tray", data={"tray": "1", "in_lot": first.id})
    assert kept.status_code == 303
    session.expire_all()
    stuck = [c for unit in trial.units if unit.place.tray.number == 1 for c in unit.cuttings]
    assert {c.lot_id for c in stuck} == {first.id}
    again = BeautifulSoup(client.get(kept.headers["Location"]).text, "html.parser").select_one("[name=in_lot]")
    if again is not None:
        assert again.select_one("option[selected]")["value"] == str(first.id), "a lot chosen goes on to the next tray"


def test_twelve_jars_are_stuck_with_one_touch_and_exceptions_stay(session: Session, sign_in: SignIn) -> None:
    actor = create_person(session)
    jar = Container(Shape.JAR, 1, 1, 500)
    trial = create_locked(session, actor, container=jar, cuttings_per_unit=3, cuttings_per_arm=18, factors=[FACTORS[0]])
    add_lot(session, trial, actor)
    session.commit()
    client, where = sign_in(person=actor), f"/trials/{trial.id}/stick"
    assert len(trial.trays) == 12
    one = trial.units[0].cuttings[0]
    assert client.post(f"{where}/cutting", data={"cutting": one.id, "reason": "broke"}).status_code == 303
    assert "All 35 that wait are stuck" in client.get(where).text
    for _ in range(2):
        assert client.post(f"{where}/all", data={"wave": "1"}).status_code == 303
    session.expire_all()
    assert [c.status for unit in trial.units for c in unit.cuttings].count("stuck") == 35 and one.status == "not stuck"
    assert "that wait are stuck" not in client.get(where).text
    assert len([e for e in session.scalars(select(AuditEntry.action)) if e == "stuck a tray"]) == 1
    other = add_lot(session, trial, actor, DAY_ZERO + timedelta(days=2))
    assert client.post(f"{where}/all", data={"wave": "1", "in_lot": ""}).status_code == 422 and other.id


def test_a_wave_that_is_stuck_whole_is_finished_before_the_next_one_comes_up(session: Session, sign_in: SignIn) -> None:
    actor = create_person(session)
    trial = create_locked(session, actor, waves=[(None, "one"), (None, "two")], factors=[FACTORS[0]])
    client, where = sign_in(person=actor), f"/trials/{trial.id}/stick"
    lot = add_lot(session, trial, actor)
    session.commit()
    answer = client.get(where)
    for tray in [t.number for t in trial.trays if t.wave_id == trial.waves[0].id]:
        answer = client.post(f"{where}/tray", data={"tray": tray}, follow_redirects=True)
    page = BeautifulSoup(answer.text, "html.parser")
    finish = page.select_one(f'form[action="{where}/finish"]')
    assert finish is not None and finish.select_one("[name=wave]")["value"] == "1" and lot.name in answer.text
    score = client.get(f"/trials/{trial.id}/score").text
    assert f'href="{where}?wave=1">To Stick' in score
    assert client.post(f"{where}/finish", data={"wave": "1"}).status_code == 303
    after = BeautifulSoup(client.get(where).text, "html.parser")
    assert after.select_one(f'form[action="{where}/finish"]') is None
    assert after.select_one("[name=wave]")["value"] == "2", "on to the next"


def test_a_locked_design_counts_what_each_wave_of_a_season_takes(session: Session, sign_in: SignIn) -> None:
    actor = create_person(session)
    season = ("season", "season", ["spring", "autumn"])
    waves = [(None, f"season-{1 + n // 2}") for n in range(4)]
    trial = create_locked(session, actor, factors=[season, FACTORS[0]], waves=waves, cuttings_per_arm="6", kind="look")
    page = " ".join(
        BeautifulSoup(sign_in(person=actor).get(f"/trials/{trial.id}/design").text, "html.parser").get_text(" ").split()
    )
    assert "6 in each wave of its season; 48 in all" in page and "one cutting each, 12 replicates" in page
