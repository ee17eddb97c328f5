"""Today names what is still to be done, and nothing else."""

from __future__ import annotations

from datetime import timedelta

from bs4 import BeautifulSoup
from sqlalchemy.orm import Session

from orderly_bench.chapters.conclude.operations import conclude
from orderly_bench.chapters.score import operations as score
from orderly_bench.core.vocabulary import KnownBy
from orderly_bench.trial.checks import checks_of
from tests.factories import DAY_ZERO, NOW, TODAY, create_finished, create_person, create_stuck, evidence
from tests.web.conftest import SignIn


def test_what_was_passed_by_and_what_is_concluded_are_gone(session: Session, sign_in: SignIn) -> None:
    actor, scorer = create_person(session), create_person(session, "scorer")
    waits, passed, done = (create_stuck(session, actor) for _ in range(2)), create_stuck(session, actor), None
    first, second = waits
    end = checks_of(session, passed)[-1]
    score.open_check(
        session, end, actor, NOW, score.Looking(DAY_ZERO + timedelta(days=42), KnownBy.LIFTED.value), TODAY
    )
    done = create_finished(session, actor, scorer)
    conclude(session, done, actor, NOW, evidence(session, done), "hold", "Wait.")
    session.commit()
    page = BeautifulSoup(sign_in().get("/today").text, "html.parser")
    listed = " ".join(page.main.get_text(" ").split())
    checks = {t.code: [li.get_text(" ") for li in page.select("li") if t.code in li.get_text() and "heck, day" in li.get_text()] for t in (first, second, passed, done)}  # fmt: skip
    assert [len(checks[t.code]) for t in (first, second)] == [2, 2], checks
    assert ["day 14" in line for line in checks[passed.code]] == [False], "the check of day 14 can't be opened any more"
    assert done.code not in listed and passed.code in listed
