"""A tray tipped out: its cuttings are listed, counted all at once, and each can be put right."""

from __future__ import annotations

from bs4 import BeautifulSoup
from sqlalchemy import select
from sqlalchemy.orm import Session

from orderly_bench.chapters.design import locking
from orderly_bench.chapters.design import operations as design
from orderly_bench.core.plan.treatments import Container, Shape
from orderly_bench.core.vocabulary import LayoutKind
from orderly_bench.trial.models import CheckVisit, ScoreRecord, Trial
from tests.factories import LOCKED, create_person, create_trial, evidence, open_endpoint, save_design, stick_all
from tests.web.conftest import SignIn


def tipped(session: Session) -> tuple[Trial, CheckVisit]:
    """Two lidded trays of 26, one an arm, at the end."""
    actor = create_person(session)
    trial = create_trial(session, actor, factors=[("medium", "medium", ["bark", "pumice"])])
    save_design(
        session, trial, actor, layout=LayoutKind.COMPLETELY_RANDOMISED.value, blocks=1, cuttings_per_arm=26, cuttings_per_unit=26,
        container=Container(Shape.LIDDED_TRAY, 1, 1, 8_000.0),
    )  # fmt: skip
    design.draw(session, trial, actor, LOCKED, 3)
    locking.lock_plan(session, trial, actor, LOCKED, "one tray of each is all there is")
    stick_all(session, trial, actor)
    check = open_endpoint(session, trial, actor)
    session.commit()
    return trial, check


def test_a_tray_tipped_out_is_counted_and_one_is_put_right(session: Session, sign_in: SignIn) -> None:
    trial, check = tipped(session)
    client, where = sign_in("scorer"), f"/trials/{trial.id}/score?check={check.id}"
    page = BeautifulSoup(client.get(where).text, "html.parser")
    listed = page.select(".container-list a")
    assert [link.get_text(" ", strip=True) for link in listed] == [f"{n} not scored" for n in range(1, 27)]
    unit = page.select_one("#container [name=unit]")["value"]
    form = {"unit": unit, "rooted": "19", "bare": "5", "missing": "1", "request_key": "once"}
    short = client.post(f"/checks/{check.id}/count", data=form)
    assert short.status_code == 422 and "must add up to the 26" in short.text
    kept = BeautifulSoup(short.text, "html.parser").select_one("#container [name=rooted]")
    assert kept["value"] == "19", "what was typed stays"
    assert session.scalars(select(ScoreRecord)).all() == [], "all of a count or none of it"
    for _ in range(2):
        assert client.post(f"/checks/{check.id}/count", data={**form, "missing": "2"}).status_code == 303
    made = session.scalars(select(ScoreRecord).where(ScoreRecord.current == 1)).all()
    assert len(made) == 26, "the same count sent twice is one"
    page = BeautifulSoup(client.get(f"{where}&cutting={made[0].cutting_id}").text, "html.parser")
    assert len(page.select(".container-list a.seen")) == 26 and page.select_one("#container [name=unit]") is None
    other = next(u for u in trial.units if str(u.id) != unit)
    data = {"unit": other.id, "rooted": "3", "bare": "20", "dead": "3"}
    assert client.post(f"/checks/{check.id}/count", data=data).status_code == 303
    right = {
        "cutting": made[0].cutting_id, "revision": "1", "state": "alive", "roots": "counted", "root_number": "7", "reason": "counted after all",
    }  # fmt: skip
    assert client.post(f"/checks/{check.id}/scores", data=right).status_code == 303
    session.expire_all()
    found = evidence(session, trial).reconciliation
    letter = next(u.arm.letter for u in trial.units if str(u.id) == unit)
    assert found[letter] == {"rooted": 19, "no roots, not dead": 5, "dead": 0, "left out": 2, "unaccounted": 0}
    assert sum(found["A"].values()) == sum(found["B"].values()) == 26


def test_a_count_needs_a_container_that_waits(session: Session, sign_in: SignIn) -> None:
    trial, check = tipped(session)
    client = sign_in("scorer")
    gone = client.post(f"/checks/{check.id}/count", data={"unit": "999999", "rooted": "1"})
    assert gone.status_code == 422 and "Nothing waits in this container" in gone.text
    assert client.post(f"/checks/{check.id}/count", data={"unit": "x"}).status_code == 422


def test_a_label_with_the_number_of_a_cutting_is_found_and_a_slip_is_named(session: Session, sign_in: SignIn) -> None:
    trial, _ = tipped(session)
    unit = trial.units[0]
    client = sign_in("scorer")
    for typed, number in ((unit.code, 1), (f"{unit.code}-12", 12), (f"{unit.code[:3]} {unit.code[3:]}-26", 26)):
        answered = client.get("/find", query_string={"code": typed})
        cutting = next(c for c in unit.cuttings if c.number == number)
        assert answered.status_code == 302 and f"cutting={cutting.id}" in answered.headers["Location"], typed
    beyond = client.get("/find", query_string={"code": f"{unit.code}-27"})
    assert beyond.status_code == 404 and "holds 26 cuttings; there is no number 27" in beyond.text
    last = "3" if unit.code[-1] != "3" else "4"
    slip = client.get("/find", query_string={"code": unit.code[:-1] + last})
    assert slip.status_code == 404 and "its last sign does not fit the others" in slip.text
