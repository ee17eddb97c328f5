"""The checks of a trial as Score lists them: what is due stands open, what was passed by offers nothing."""

from __future__ import annotations

from datetime import timedelta

from bs4 import BeautifulSoup, Tag
from sqlalchemy.orm import Session

from orderly_bench.chapters.score import operations as score
from orderly_bench.core.vocabulary import KnownBy
from orderly_bench.evidence.texts import looked
from orderly_bench.trial.checks import checks_of
from orderly_bench.trial.models import Trial
from tests.factories import FACTORS, NOW, TODAY, create_person, create_stuck, evidence, open_endpoint, score_all
from tests.web.conftest import SignIn, flat


def cards(sign_in: SignIn, trial: Trial) -> list[Tag]:
    page = BeautifulSoup(sign_in().get(f"/trials/{trial.id}/score").text, "html.parser")
    return [card for card in page.select("div.card") if "heck, day" in card.h2.get_text()]


def test_the_check_of_today_stands_open_and_later_ones_are_folded(session: Session, sign_in: SignIn) -> None:
    trial = create_stuck(session, create_person(session), day=TODAY - timedelta(days=14))
    first, endpoint = cards(sign_in, trial)
    assert (
        "due" in first["class"]
        and first.details.has_attr("open")
        and "20 May, today" in " ".join(first.h2.stripped_strings)
    )
    assert "due" not in endpoint["class"] and not endpoint.details.has_attr("open")
    assert "17 Jun, in 28 days" in " ".join(endpoint.h2.stripped_strings)


def test_a_check_that_was_passed_by_offers_no_form(session: Session, sign_in: SignIn) -> None:
    person = create_person(session)
    trial = create_stuck(session, person)
    late, endpoint = cards(sign_in, trial)
    assert "past its window" in late.h2.get_text() and "due" in late["class"] and not late.details.has_attr("open")
    assert endpoint.details.has_attr("open"), "what is in its window stands open, and one form alone"
    check = open_endpoint(session, trial, person)
    score_all(session, trial, check, person)
    score.close_check(session, check, person, NOW)
    passed, closed = cards(sign_in, trial)
    assert "Passed by" in passed.get_text() and passed.form is None and "due" not in passed["class"]
    assert "See the scores" in closed.get_text()


def test_of_several_late_checks_the_first_stands_open(session: Session, sign_in: SignIn) -> None:
    trial = create_stuck(session, create_person(session), day=TODAY - timedelta(days=80))
    first, endpoint = cards(sign_in, trial)
    assert "past its window" in endpoint.h2.get_text()
    assert first.details.has_attr("open") and not endpoint.details.has_attr("open")


def test_a_day_that_is_not_sure_is_about_to_the_report(session: Session, sign_in: SignIn) -> None:
    lead, scorer = create_person(session), create_person(session, "scorer")
    trial = create_stuck(session, lead, factors=[FACTORS[0]], cuttings_per_arm=6)
    check = checks_of(session, trial)[-1]
    session.commit()
    client = sign_in(person=lead)
    sent = {"day": str(TODAY), "way": "lifted and counted", "about": "yes", "why_then": "when it was light"}
    assert client.post(f"/checks/{check.id}/open", data=sent).status_code == 303
    session.expire_all()
    score_all(session, trial, check, scorer, "A")
    score.close_check(session, check, lead, NOW)
    session.commit()
    assert check.about and "Looked about" in flat(client.get(f"/trials/{trial.id}/score").text)
    assert (
        "about " in " ".join(looked(evidence(session, trial)))
        and "on " not in looked(evidence(session, trial))[0].split(",")[0]
    )
    assert "looked about" in flat(client.get(f"/trials/{trial.id}/report").text)


def test_a_check_of_one_wave_shows_the_trays_of_that_wave_alone(session: Session, sign_in: SignIn) -> None:
    lead = create_person(session)
    trial = create_stuck(session, lead, waves=[(None, ""), (None, "")], factors=[FACTORS[0]], cuttings_per_arm=24)
    check = next(check for check in checks_of(session, trial) if check.is_endpoint)
    score.open_check(session, check, lead, NOW, score.Looking(TODAY, KnownBy.LIFTED.value), TODAY)
    session.commit()
    page = BeautifulSoup(sign_in(person=lead).get(f"/trials/{trial.id}/score?check={check.id}").text, "html.parser")
    offered = {a.get_text(strip=True) for a in page.select('a[href*="tray="]')}
    own = {f"tray {t.number}" for t in trial.trays if t.wave_id == trial.waves[0].id}
    assert (
        1 < len(own) < len(trial.trays) and {" ".join(one.split()) for one in offered if one.startswith("tray")} == own
    )
