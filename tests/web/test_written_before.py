"""A conclusion that says the other of a note, an earlier conclusion or the prediction says so on Conclude and in the report."""

from __future__ import annotations

from datetime import timedelta

from sqlalchemy.orm import Session

from orderly_bench.trial.notes import Written, write_note
from tests.factories import BARE, DAY_ZERO, NOW, ROOTED, TODAY, create_person
from tests.web.conftest import SignIn, flat
from tests.web.test_without_verdict import ended


def test_what_was_written_before_stands_beside_the_sentence(session: Session, sign_in: SignIn) -> None:
    trial = ended(session, {"A": ROOTED, "B": BARE})
    first, second = (
        trial.plan.treatments.name(trial.plan.treatments.arms[0]),
        trial.plan.treatments.name(trial.plan.treatments.arms[1]),
    )
    day = DAY_ZERO + timedelta(days=20)
    write_note(session, trial, create_person(session), NOW, Written(day, f"{second} looks better than {first}."), TODAY)
    session.commit()
    client, page = sign_in("researcher"), f"/trials/{trial.id}"
    form = {"decision": "repeat", "text": f"{first} rooted more than {second}."}
    working = flat(client.post(f"{page}/conclude/working", data=form).text)
    assert "A note of 28 Apr 2026 says the other" in working
    assert client.post(f"{page}/conclude", data=form).status_code == 303
    for where in ("conclude", "report"):
        assert f"says the other: &#39;{second} looks better" in flat(client.get(f"{page}/{where}").text), where
    again = form | {"text": f"{second} rooted more than {first}."}
    assert "The conclusion of 20 May 2026 says the other" in flat(
        client.post(f"{page}/conclude/working", data=again).text
    )
    assert "says the other" not in flat(
        client.post(f"{page}/conclude/working", data=form | {"text": "The mat burnt."}).text
    )


def test_sentences_stand_apart_and_a_page_shows_no_doubt_twice(session: Session, sign_in: SignIn) -> None:
    trial = ended(session, {"A": ROOTED, "B": BARE})
    client, page = sign_in("researcher"), f"/trials/{trial.id}"
    assert (
        client.post(f"{page}/conclude", data={"decision": "repeat", "text": "The mat burnt. It was cold."}).status_code
        == 303
    )
    assert '</span> <span class="sentence">It was cold.' in flat(client.get(f"{page}/report").text)
    gap = "Care was not given as planned"
    whole, on_tend = (
        flat(client.get(f"{page}/compare/doubts{asked}", headers={"HX-Request": "true"}).text)
        for asked in ("", "?on=tend")
    )
    assert gap in whole and gap not in on_tend
