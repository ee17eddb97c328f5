"""A check over two days: each score keeps its own; of one that is typed in later all have the check's; arms apart in days are a doubt."""

from __future__ import annotations

import csv
from datetime import timedelta

import pytest
from sqlalchemy.orm import Session

from orderly_bench.chapters.score import operations as score
from orderly_bench.core.vocabulary import KnownBy
from orderly_bench.trial.checks import checks_of
from orderly_bench.trial.models import CheckVisit, Trial
from tests.factories import DAY_ZERO, NOW, ROOTED, TODAY, create_person, create_stuck, evidence
from tests.web.conftest import SignIn

DAS = (TODAY - DAY_ZERO).days


def opened(session: Session, day_before: int = 0) -> tuple[Trial, CheckVisit]:
    """An endpoint check of yesterday's, opened then; ``day_before`` opened so many days after its day."""
    trial = create_stuck(session, create_person(session), factors=[("medium", "medium", ["grit", "pumice"])], cuttings_per_arm="8")  # fmt: skip
    check, then = checks_of(session, trial)[-1], TODAY - timedelta(days=1 + day_before)
    looking = score.Looking(then, KnownBy.LIFTED.value)
    score.open_check(session, check, create_person(session), NOW - timedelta(days=1), looking, TODAY)
    session.commit()
    return trial, check


def sent(sign_in: SignIn, check: CheckVisit, cutting: int, **more: str) -> None:
    form = {"cutting": str(cutting), "state": "alive", "roots": "seen, not counted", "revision": "0", "fit": "not judged"}  # fmt: skip
    assert sign_in("scorer").post(f"/checks/{check.id}/scores", data=form | more).status_code == 303


def test_each_score_of_a_check_that_goes_on_has_its_day(session: Session, sign_in: SignIn) -> None:
    trial, check = opened(session)
    cuttings = [unit.cuttings[0].id for unit in trial.units]
    sent(sign_in, check, cuttings[0], noted_on=str(TODAY - timedelta(days=1)))
    sent(sign_in, check, cuttings[1])
    sent(sign_in, check, cuttings[2], noted_on=str(TODAY - timedelta(days=9)))
    session.expire_all()
    days = {one.cutting_id: (one.scored_on - TODAY).days for one in check.scores}
    assert days == {cuttings[0]: -1, cuttings[1]: 0, cuttings[2]: -1}, (
        "waited on a device; today's; none before the check"
    )
    rows = list(csv.DictReader(sign_in().get(f"/trials/{trial.id}/scores.csv").text.splitlines()))
    assert {row["days_after_sticking"] for row in rows if row["state"] == "alive"} == {str(DAS - 1), str(DAS)}
    assert [row["date"] for row in rows if row["days_after_sticking"] == str(DAS)] == [str(TODAY)]


def test_scores_typed_in_later_have_the_day_of_the_check(session: Session, sign_in: SignIn) -> None:
    trial, check = opened(session, day_before=1)
    sent(sign_in, check, trial.units[0].cuttings[0].id)
    session.expire_all()
    assert [one.scored_on for one in check.scores] == [check.day]


@pytest.mark.parametrize("scrambled", [True, False])
def test_an_arm_that_was_looked_at_a_day_later_is_a_doubt(session: Session, scrambled: bool) -> None:
    trial, check = opened(session)
    scorer = create_person(session, "scorer")
    for number, unit in enumerate(trial.units):
        later = number % 2 if scrambled else unit.arm.letter == "B"
        on = TODAY if later else TODAY - timedelta(days=1)
        score.keep_score(session, check, unit.cuttings[0], scorer, NOW, ROOTED, score.Sent(noted_on=on))
    score.close_check(session, check, create_person(session), NOW)
    found = evidence(session, trial)
    told = [one.text for one in found.cautions if one.code == "seen_on_other_days"]
    assert told == ([] if scrambled else [f"Arms were looked at on different days after sticking: day {DAS - 1} (A), day {DAS} (B). The later has had longer to root."])  # fmt: skip
