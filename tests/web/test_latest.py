"""The newest of a person's requests for the same slow thing."""

from __future__ import annotations

import pytest
from sqlalchemy.orm import Session

from orderly_bench.chapters.design import routes
from orderly_bench.web import latest
from tests.factories import create_person, create_trial
from tests.web.conftest import SignIn
from tests.web.test_pieces import form_of


def test_an_older_ticket_is_no_longer_the_newest() -> None:
    first, other = latest.newest_of(("a", 1)), latest.newest_of(("a", 2))
    assert first() and other()
    second = latest.newest_of(("a", 1))
    assert not first() and second() and other(), "another person's or trial's is left alone"


def test_what_is_forgotten_runs_to_its_end(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(latest, "MOST_KEYS", 2)
    old = latest.newest_of("old")
    for key in "xyz":
        latest.newest_of(key)
    assert old() and len(latest._newest) == 2


def test_a_curve_that_was_overtaken_answers_with_nothing(
    session: Session, sign_in: SignIn, monkeypatch: pytest.MonkeyPatch
) -> None:
    trial = create_trial(session, create_person(session))
    client = sign_in()
    form = form_of(trial, pieces="", guess_A="20", guess_B="80", guess_C="20", guess_D="80")
    shown = client.post(f"/trials/{trial.id}/design/curve", data=form)
    assert shown.status_code == 200 and "per arm" in shown.text
    monkeypatch.setattr(routes, "newest_of", lambda _key: lambda: False)
    stopped = client.post(f"/trials/{trial.id}/design/curve", data=form)
    assert stopped.status_code == 204 and stopped.text == ""
