"""What a plant costs, on the page."""

from __future__ import annotations

import re
from dataclasses import replace

import pytest
from sqlalchemy import select
from sqlalchemy.orm import Session

from orderly_bench.core.vocabulary import Fit
from orderly_bench.evidence.cost import came_of, counted_as
from orderly_bench.record.keep import stamp_of
from orderly_bench.trial.models import AuditEntry, TimeSpent, Trial
from tests.factories import BARE, FACTORS, ROOTED, TODAY, create_finished, create_person, create_stuck, evidence
from tests.web.conftest import SignIn, flat
from tests.web.test_without_verdict import ended


@pytest.fixture
def trial(session: Session) -> Trial:
    """Six pumice that rooted, six bark that did not."""
    made = create_finished(
        session, create_person(session), create_person(session, "scorer"), "A", factors=[FACTORS[0]], cuttings_per_arm=6
    )
    session.commit()
    return made


def test_costs_by_arm_with_their_range(sign_in: SignIn, trial: Trial) -> None:
    client, at = sign_in("reader"), f"/trials/{trial.id}/cost"
    assert 'name="weeks" value="6"' in client.get(at).text, "how long they stood is known"
    page = flat(
        client.get(f"{at}?hour=30&minutes=2&material=0.5&bench=0&weeks=0&bought=4&currency=EUR&minutes_B=3").text
    )
    cells = re.sub("<[^>]*>", "|", page).replace("| |", "||")
    assert re.search(r"6 of 6\|+1\.50, 1\.50 to 2\.46\|+1\.50\|+2, 2 to 3\.28\|+0\.50, 0\.50 to 0\.82", cells), cells
    assert re.search(r"0 of 6\|+none of 6 came of it\|+3\.00\|", cells)
    assert "A: cheaper than bought as long as more than 38 of 100 come of it." in page
    wrong = client.get(f"{at}?hour=30&minutes_A=long")
    assert wrong.status_code == 422 and "minutes more in a" in wrong.text.casefold() and 'value="long"' in wrong.text


def test_what_is_kept_stands_beside_the_verdict_and_begins_the_next(
    session: Session, sign_in: SignIn, trial: Trial
) -> None:
    client, at = sign_in(), f"/trials/{trial.id}"
    assert "is not worked out yet" in flat(client.get(f"{at}/compare").text)
    before = stamp_of(session, trial)
    typed = {"hour": "30", "minutes": "2", "bench": "3", "weeks": "6", "bought": "4", "currency": "EUR"}
    wrong = client.post(f"{at}/cost", data=typed | {"minutes_B": "many"})
    assert wrong.status_code == 422 and 'value="many"' in wrong.text and trial.costs is None
    assert sign_in("reader").post(f"{at}/cost", data=typed).status_code == 403
    for _ in range(2):
        assert client.post(f"{at}/cost", data=typed).status_code == 303
    session.expire_all()
    assert trial.costs == typed
    assert session.query(AuditEntry).filter_by(action="kept what a plant costs").count() == 1
    assert stamp_of(session, trial) == before, "no result rests on prices"
    for page in ("cost", "compare", "report"):
        shown = flat(client.get(f"{at}/{page}").text)
        assert "A plant costs, EUR" in shown and "cheaper than bought as long as more than" in shown, page
    other = create_finished(
        session, create_person(session), create_person(session, "scorer"), "A", factors=[FACTORS[0]], cuttings_per_arm=6
    )
    session.commit()
    begun = flat(client.get(f"/trials/{other.id}/cost").text)
    assert 'name="hour" value="30"' in begun and 'name="bench" value="3"' in begun and 'name="bought" value=""' in begun
    assert client.post(f"{at}/cost", data={}).status_code == 303
    session.expire_all()
    assert trial.costs is None, "an empty form keeps nothing"


def test_fit_counts_where_it_was_judged(session: Session, trial: Trial) -> None:
    assert counted_as(evidence(session, trial)).value == "rooted"
    judged = {"A": replace(ROOTED, fit=Fit.YES), "B": replace(BARE, fit=Fit.NO)}
    found = evidence(session, ended(session, judged, {"cuttings_per_arm": 6}, [FACTORS[0]]))
    assert counted_as(found).value == "fit_to_pot_on" and [(c.k, c.n) for c in came_of(found)] == [(6, 6), (0, 6)]


def test_it_waits_for_the_end(session: Session, sign_in: SignIn) -> None:
    going = create_stuck(session, create_person(session))
    session.commit()
    assert sign_in().get(f"/trials/{going.id}/cost").status_code == 422


def test_the_shelf_s_prices_are_where_material_starts(sign_in: SignIn, trial: Trial) -> None:
    client, page = sign_in(), f"/trials/{trial.id}/cost"
    assert "shelf's prices" not in client.get(page).text
    medium = {"name": "pumice", "amount": "50", "unit": "L", "price": "0,5", "currency": "EUR"}
    labels = {"name": "labels", "amount": "300", "unit": "pieces", "price": "0.12", "currency": "EUR"}
    for supply in (medium, labels):
        assert client.post("/supplies", data=supply).status_code == 303
    shown = flat(client.get(page).text)
    assert "pumice 0.44 L x 0.5 = 0.22 (A)" in shown and "labels 12 x 0.12 = 1.44" in shown
    assert "No price for bark, containers" in shown
    assert 'name="material" value="0.12"' in shown and 'name="material_A" value="0.0367"' in shown
    assert 'name="material_B" value=""' in shown and 'name="currency" value="EUR"' in shown
    typed = flat(client.get(f"{page}?material=7").text)
    assert 'name="material" value="7"' in typed and 'name="material_A" value=""' in typed


def test_minutes_written_on_tend_are_where_the_cost_starts(session: Session, sign_in: SignIn, trial: Trial) -> None:
    client, page = sign_in("researcher"), f"/trials/{trial.id}"
    day = {"worked_on": TODAY.isoformat()}
    for _ in range(2):
        sent = day | {"work": "sticking", "minutes": "24", "minutes_key": "once"}
        assert client.post(f"{page}/minutes", data=sent).status_code == 303
    assert (
        client.post(f"{page}/minutes", data=day | {"work": "care", "minutes": "12,0", "worked_for": ["B"]}).status_code
        == 303
    )
    for wrong in ({"work": "singing"}, {"minutes": "0"}, {"worked_for": ["Q"]}, {"worked_on": "2027-01-01"}):
        assert client.post(f"{page}/minutes", data=day | {"work": "care", "minutes": "5"} | wrong).status_code == 422, (
            wrong
        )
    shown = flat(client.get(f"{page}/cost").text)
    assert "Written down on Tend: sticking 24 min, care 12 min".casefold() in shown.casefold()
    assert (
        'name="minutes" value="2"' in shown
        and 'name="minutes_B" value="2"' in shown
        and 'name="minutes_A" value=""' in shown
    )
    assert 'name="minutes" value="7"' in flat(client.get(f"{page}/cost?minutes=7").text), "what is typed stands"
    one = session.scalars(select(TimeSpent.id)).first()
    assert (
        client.post(
            f"{page}/minutes/withdraw", data={"minutes_id": str(one), "minutes_why": "of another trial"}
        ).status_code
        == 303
    )
    assert "sticking 24 min" not in flat(client.get(f"{page}/cost").text).casefold()
    assert "of another trial" in client.get(f"{page}/tend").text
