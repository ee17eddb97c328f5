"""A design that would mostly miss what was guessed stays doubted beside what came of it."""

from __future__ import annotations

import pytest
from sqlalchemy.orm import Session

from orderly_bench.chapters.design import locking
from orderly_bench.chapters.design import operations as design
from orderly_bench.chapters.score import operations as score
from tests.factories import LOCKED, NOW, create_person, create_trial, open_endpoint, save_design, score_all, stick_all
from tests.web.conftest import SignIn, flat


@pytest.mark.parametrize(("guess", "doubted"), [("45", True), ("95", False)])
def test_it_is_said_on_compare_conclude_and_in_the_report(
    session: Session, sign_in: SignIn, guess: str, doubted: bool
) -> None:
    lead = create_person(session)
    trial = create_trial(session, lead, factors=[("medium", "medium", ["bark", "grit"])])
    save_design(
        session, trial, lead, layout="completely randomised", blocks=1, cuttings_per_arm=12, guess_A="30", guess_B=guess
    )
    design.draw(session, trial, lead, LOCKED, 3)
    locking.lock_plan(session, trial, lead, LOCKED)
    stick_all(session, trial, lead)
    check = open_endpoint(session, trial, lead)
    score_all(session, trial, check, create_person(session, "scorer"), "A")
    score.close_check(session, check, lead, NOW)
    session.commit()
    client = sign_in()
    for page in ("compare", "conclude", "report"):
        text = flat(client.get(f"/trials/{trial.id}/{page}").text)
        assert ("tends to look larger than it is" in text) is doubted, page
