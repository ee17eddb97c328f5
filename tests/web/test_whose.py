"""Today by person and along the benches."""

from __future__ import annotations

from datetime import timedelta

import pytest
from bs4 import BeautifulSoup
from sqlalchemy import select
from sqlalchemy.orm import Session

from orderly_bench.trial.away import say_away
from orderly_bench.trial.models import AuditEntry, Person, Trial
from tests.factories import NOW, TODAY, create_person, create_stuck
from tests.web.conftest import SignIn, flat


@pytest.fixture
def ada(session: Session) -> Person:
    return create_person(session, name="Ada")


@pytest.fixture
def two(session: Session, ada: Person) -> tuple[Trial, Trial]:
    south = create_stuck(session, ada, bench="South")
    north = create_stuck(session, ada, bench="north")
    session.commit()
    return south, north


def due_codes(page: str) -> list[str]:
    found = BeautifulSoup(page, "html.parser").select("li.overdue, li.due")
    return list(dict.fromkeys(line.select_one(".quiet").text.split()[0] for line in found))


def test_what_is_due_stands_bench_after_bench(session: Session, sign_in: SignIn, ada: Person, two) -> None:
    south, north = two
    page = sign_in(person=ada).get("/today").text
    assert due_codes(page) == [north.code, south.code] and page.index("<h2>north</h2>") < page.index("<h2>South</h2>")


def test_a_trial_taken_on_leaves_the_others_list_until_they_ask(
    session: Session, sign_in: SignIn, ada: Person, two
) -> None:
    south, north = two
    bo = create_person(session, name="Bo")
    hers = sign_in(person=ada)
    for _ in range(2):
        assert hers.post(f"/trials/{south.id}/tended-by", data={"mine": "yes"}).status_code == 303
    acts = session.scalars(select(AuditEntry.action).where(AuditEntry.trial_id == south.id)).all()
    assert acts.count("took on the care") == 1 and "Tended by Ada." in flat(hers.get(f"/trials/{south.id}/tend").text)
    assert set(due_codes(hers.get("/today").text)) == {south.code, north.code}
    his = sign_in(person=bo)
    page = his.get("/today").text
    assert due_codes(page) == [north.code] and "Everybody's:" in flat(page)
    whole = his.get("/today?whose=all").text
    assert set(due_codes(whole)) == {south.code, north.code} and "tended by Ada" in flat(whole)
    say_away(session, ada, NOW, TODAY, TODAY + timedelta(days=3), bo)
    session.commit()
    assert set(due_codes(his.get("/today").text)) == {south.code, north.code}
    assert "you cover Ada" in flat(his.get("/today").text)
    assert hers.post(f"/trials/{south.id}/tended-by", data={"mine": "no"}).status_code == 303
    session.expire_all()
    assert south.tended_by == []


def test_who_may_not_tend_takes_nothing_on(session: Session, sign_in: SignIn, ada: Person, two) -> None:
    assert sign_in("reader").post(f"/trials/{two[0].id}/tended-by", data={"mine": "yes"}).status_code == 403
