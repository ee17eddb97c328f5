"""Signs of failure where they are read, and what went wrong without a trial."""

from __future__ import annotations

import pytest
from sqlalchemy.orm import Session

from orderly_bench.chapters.score import operations as score
from orderly_bench.core.vocabulary import FailureSign, Roots, Score, State
from orderly_bench.trial.models import Trial
from tests.factories import NOW, ROOTED, create_person, create_stuck, open_endpoint
from tests.web.conftest import SignIn, flat

BLACK = Score(State.DEAD, Roots.NONE, failure=FailureSign.BLACK_BASE)


@pytest.fixture
def trial(session: Session) -> Trial:
    """Arm A black at the base, the others rooted; the check still open."""
    lead = create_person(session)
    made = create_stuck(session, lead, cuttings_per_arm=6)
    check = open_endpoint(session, made, lead)
    for unit in made.units:
        found = BLACK if unit.arm.letter == "A" else ROOTED
        score.keep_score(session, check, unit.cuttings[0], lead, NOW, found)
    session.commit()
    return made


def test_totals_while_open_and_arms_once_closed(session: Session, sign_in: SignIn, trial: Trial) -> None:
    client, at = sign_in(), f"/trials/{trial.id}"
    assert "Black base 6 of 24." in flat(client.get(f"{at}/score").text)
    lead = create_person(session)
    score.close_check(session, next(c for c in trial.checks if c.is_open), lead, NOW)
    session.commit()
    compared = flat(client.get(f"{at}/compare").text)
    assert "It points to rot" in compared and "6 of 6" in compared[compared.index("Signs of failure") :][:600]
    assert "Black base: A 6 of 6, B 0 of 6, C 0 of 6, D 0 of 6. It points to rot" in flat(
        client.get(f"{at}/report").text
    )


def test_a_cause_leads_to_a_trial_that_would_tell(session: Session, sign_in: SignIn, trial: Trial) -> None:
    client = sign_in()
    plant = trial.plan.question.botanical_name
    page = flat(client.get(f"/what-went-wrong?seen=black+from+the+base+up&wet=wet&taxon={plant}").text)
    assert "The medium was kept wet." in page and page.index("Too little air at the base") < page.index("Wood too soft")
    assert "No failure of this plant is on record here" in page, "an open check tells nothing yet"
    score.close_check(session, next(c for c in trial.checks if c.is_open), create_person(session), NOW)
    session.commit()
    assert "black base 6 of 24" in client.get(f"/what-went-wrong?taxon={plant}").text
    made = client.post("/trials", data={"botanical_name": plant, "start": "wet"})
    assert made.status_code == 303
    asked = session.query(Trial).order_by(Trial.id.desc()).first()
    assert asked is not None and [level.name for level in asked.factors[0].levels] == ["wet", "nearly dry"]
    assert len(asked.arms) == 2


def test_what_cannot_be_read_is_said_and_kept(sign_in: SignIn) -> None:
    page = sign_in("reader").get("/what-went-wrong?seen=mould&days=-3")
    assert page.status_code == 422 and 'value="-3"' in page.text
