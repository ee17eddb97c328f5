"""After the end: now or after winter, nights of hardening, when to stop and buy; trials put away."""

from __future__ import annotations

from dataclasses import replace
from datetime import timedelta

import pytest
from bs4 import BeautifulSoup
from sqlalchemy import select
from sqlalchemy.orm import Session

from orderly_bench.chapters.score.operations import Sent, keep_score
from orderly_bench.core.conclude.cost import ArmCost, Prices, stop_losses
from orderly_bench.core.vocabulary import Fit
from orderly_bench.trial.models import AuditEntry, Conclusion, HardeningNight, Lab, ScoreRecord, Trial
from tests.factories import FACTORS, NOW, TODAY, create_finished, create_person, create_trial
from tests.web.conftest import SignIn, flat


@pytest.fixture
def ended(session: Session) -> Trial:
    made = create_finished(
        session, create_person(session), create_person(session, "scorer"), factors=[FACTORS[0]], cuttings_per_arm=6
    )
    session.commit()
    return made


def test_now_or_after_winter_asks_for_frosts_and_then_tells(session: Session, sign_in: SignIn, ended: Trial) -> None:
    at = f"/trials/{ended.id}/plants"
    assert "Type the first and last frost" in flat(sign_in().get(at).text)
    lab = session.scalars(select(Lab)).one()
    lab.last_frost, lab.first_frost = f"{TODAY - timedelta(days=40):%m-%d}", f"{TODAY + timedelta(days=60):%m-%d}"
    session.commit()
    page = flat(sign_in().get(at).text)
    assert "Potted now: ready about" in page and "60 days before the first frost" in page and "Roots down" in page


def test_nights_add_up_by_arm_and_one_told_again_is_as_last_told(
    session: Session, sign_in: SignIn, ended: Trial
) -> None:
    client, at = sign_in("scorer"), f"/trials/{ended.id}"
    letter = ended.arms[0].letter
    for low, day, nipped in (("-1,5", 3, "1"), ("2", 2, ""), ("-0.5", 2, "2")):
        sent = {"night": str(TODAY - timedelta(days=day)), "out": "out", "low_c": low, f"nipped_{letter}": nipped}
        assert client.post(f"{at}/night", data=sent).status_code == 303
    page = flat(client.get(f"{at}/plants").text)
    assert "2 nights out, 0 in; lowest out -1.5 °C, 2 nights of frost, frost sum 2 °C." in page
    assert f"Nipped: {letter} 2 of " in page
    wrong = client.post(f"{at}/night", data={"night": str(TODAY), "out": "out", "low_c": "-80"})
    assert wrong.status_code == 422 and 'value="-80"' in wrong.text
    many = client.post(f"{at}/night", data={"night": str(TODAY), "out": "out", "low_c": "1", f"nipped_{letter}": "500"})
    assert many.status_code == 422 and len(session.scalars(select(HardeningNight)).all()) == 3
    assert sign_in("reader").post(f"{at}/night", data={"night": str(TODAY)}).status_code == 403


def test_below_a_count_it_is_better_to_stop_and_buy() -> None:
    cost = ArmCost("A", 10, 20, 1.0, 0.0, 0.6, 0.0, None)
    assert stop_losses([cost], Prices(), TODAY, 6) == []
    assert stop_losses([cost], Prices(bought=2.0), None, 0) == [
        "A: of 20 stuck at least 6 must have come of it; with fewer, stop and buy"
    ]
    (line,) = stop_losses([cost], Prices(bought=2.0), TODAY + timedelta(weeks=6), 6)
    assert f"by {TODAY:%-d %b %Y}" in line
    assert stop_losses([cost], Prices(bought=0.5), None, 0) == [], "a cutting dearer than a plant is said elsewhere"


def test_a_trial_put_away_is_listed_only_when_it_is_looked_for(session: Session, sign_in: SignIn, ended: Trial) -> None:
    client, at = sign_in("researcher"), f"/trials/{ended.id}"
    before = ended.version
    for _ in range(2):
        assert client.post(f"{at}/away", data={"away": "yes"}).status_code == 303
    session.expire_all()
    assert ended.archived and ended.version == before
    link = f'href="{at}/question"'
    assert link not in client.get("/trials").text
    assert link in client.get("/trials?stands=put+away").text and link in client.get(f"/trials?q={ended.code}").text
    assert client.post(f"{at}/away", data={"away": "no"}).status_code == 303 and link in client.get("/trials").text
    acts = session.scalars(select(AuditEntry.action).where(AuditEntry.trial_id == ended.id)).all()
    assert acts.count("put a trial away") == 1 and acts.count("took a trial out again") == 1


def test_another_begins_from_a_plan_that_was_never_locked(session: Session, sign_in: SignIn) -> None:
    first = create_trial(session, create_person(session))
    session.commit()
    client = sign_in("researcher")
    assert "Begin another from this plan" in client.get(f"/trials/{first.id}/question").text
    answered = client.post(f"/trials/{first.id}/again")
    assert answered.status_code == 303, answered.status_code
    made = session.scalars(select(Trial).order_by(Trial.id.desc())).first()
    assert made.id != first.id and made.plan.treatments.arms == first.plan.treatments.arms


def test_plants_that_are_not_fit_get_a_day_that_stands_on_today(
    session: Session, sign_in: SignIn, ended: Trial
) -> None:
    """Of a concluded trial too; a rooted one that nobody judged is not unfit."""
    client, at = sign_in("scorer"), f"/trials/{ended.id}"
    rooted = ended.units[0].cuttings[0] if ended.units[0].arm.letter in "AB" else ended.units[1].cuttings[0]
    check = next(check for check in ended.checks if check.is_endpoint)
    standing = session.scalars(
        select(ScoreRecord).where(ScoreRecord.cutting_id == rooted.id, ScoreRecord.current == 1)
    ).one()
    unfit = replace(standing.as_score(), fit=Fit.NO)
    keep_score(session, check, rooted, create_person(session), NOW, unfit, Sent(1, 1, "roots too short"))
    session.commit()
    page = flat(client.get(f"{at}/plants").text)
    assert "1 rooted and not fit to pot on." in page and "They are looked at again" not in page
    for day in ("", str(TODAY - timedelta(days=1)), str(TODAY + timedelta(days=400))):
        assert client.post(f"{at}/plants-again", data={"again": day}).status_code == 422
    soon = TODAY + timedelta(days=3)
    assert client.post(f"{at}/plants-again", data={"again": str(soon)}).status_code == 303
    session.add(
        Conclusion(
            trial_id=ended.id,
            person_id=ended.created_by_id,
            at=NOW,
            text="One way.",
            decision="hold",
            strength="suggested",
            headline="h",
            digest="d",
        )
    )
    session.commit()
    today = flat(BeautifulSoup(client.get("/today").text, "html.parser").get_text(" "))
    assert (
        "Plants that were not fit yet" in today and f"{ended.code} Lavandula angustifolia look again in 3 days" in today
    )
    assert f"{ended.code} look at plants again" in client.get("/calendar.ics").text
    assert "Trials under way None." in today, "the trial itself is over"
    assert client.post(f"{at}/plants-again", data={"looked": "yes"}).status_code == 303
    assert "Plants that were not fit yet" not in client.get("/today").text
    acts = session.scalars(select(AuditEntry.action).where(AuditEntry.trial_id == ended.id)).all()
    assert {"set a day to look at plants again", "looked at plants again"} <= set(acts)


def test_a_day_for_plants_needs_one_that_is_not_fit(session: Session, sign_in: SignIn, ended: Trial) -> None:
    client, at = sign_in("scorer"), f"/trials/{ended.id}"
    client.post(f"{at}/plants", data={"which": "all alive without roots", "fate": "discarded", "day": str(TODAY)})
    assert 'id="again"' not in client.get(f"{at}/plants").text
    refused = client.post(f"{at}/plants-again", data={"again": str(TODAY + timedelta(days=3))})
    assert refused.status_code == 422 and "No plant stands that is not fit" in refused.text
