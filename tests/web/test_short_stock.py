"""A medium that runs short is said on Prepare, *ready* needs a reason then, and the reason stays a doubt."""

from __future__ import annotations

import pytest
from sqlalchemy.orm import Session

from orderly_bench.chapters.score import operations as score
from orderly_bench.core.prepare.needs import media_of
from orderly_bench.core.prepare.short import short_of
from orderly_bench.trial.models import Trial
from tests.factories import NOW, create_locked, create_person, open_endpoint, score_all, stick_all
from tests.web.conftest import SignIn, flat

MEDIUM = {"name": "pumice", "text": "1 pumice", "litres": "0.5"}


def test_what_is_short_by_how_much_and_for_how_many() -> None:
    from tests.core.test_plan import two_by_two

    media = media_of(two_by_two())
    name = media[0].need.medium
    need = media[0].need
    (one,) = short_of(media[:1], {name.casefold(): need.litres}, {name.casefold(): need.litres / 2})
    assert (one.enough_for, round(one.free, 6)) == (need.cells // 2, round(need.litres / 2, 6))
    assert f"enough for {need.cells // 2} of {need.cells} containers" in one.words and "for other trials" in one.words
    assert short_of(media, {name.casefold(): need.litres}, {}) == [], "just enough is enough"
    assert short_of(media, {}, {}) == [], "nobody counted"


@pytest.fixture
def trial(session: Session, sign_in: SignIn) -> Trial:
    made = create_locked(session, create_person(session))
    session.commit()
    assert sign_in().post("/media", data=MEDIUM).status_code == 303
    return made


def test_ready_in_spite_of_it_needs_a_reason_that_stays(session: Session, sign_in: SignIn, trial: Trial) -> None:
    client, at = sign_in(), f"/trials/{trial.id}"
    page = flat(client.get(f"{at}/prepare").text)
    assert "Pumice: " in page and "0.5 L ready; short by" in page
    refused = client.post(f"{at}/prepared", data={"anyway": " "})
    assert refused.status_code == 422 and "type why it is ready all the same" in refused.text
    session.refresh(trial)
    assert trial.prepared_at is None
    assert client.post(f"{at}/prepared", data={"anyway": "the rest comes at noon"}).status_code == 303
    assert "Pumice was short: the rest comes at noon" in flat(client.get(f"{at}/prepare").text)
    lead = create_person(session)
    stick_all(session, trial, lead)
    check = open_endpoint(session, trial, lead)
    score_all(session, trial, check, create_person(session, "scorer"))
    score.close_check(session, check, lead, NOW)
    session.commit()
    for where in ("compare", "conclude", "report"):
        assert "Not all stood ready: pumice was short: the rest comes at noon" in flat(
            client.get(f"{at}/{where}").text
        ), where


def test_what_others_wait_for_is_not_free_and_ones_own_is(session: Session, sign_in: SignIn, trial: Trial) -> None:
    client, need = sign_in(), next(m.need for m in media_of(trial.plan) if m.need.medium == "pumice").litres
    client.post("/media", data=MEDIUM | {"litres": f"{need + 0.01:.2f}"})
    assert "short by" not in client.get(f"/trials/{trial.id}/prepare").text, "its own need is no one else's"
    create_locked(session, create_person(session))
    session.commit()
    assert "for other trials; short by" in flat(client.get(f"/trials/{trial.id}/prepare").text)
