"""Quality, classes, treatments given and unequal seeing: from the score pad to the verdict and its files."""

from __future__ import annotations

import pytest
from bs4 import BeautifulSoup
from sqlalchemy import select
from sqlalchemy.orm import Session

from orderly_bench.chapters.score import operations as score
from orderly_bench.chapters.tend import operations as tend
from orderly_bench.core.judgement.result import Analysis
from orderly_bench.core.responses.kind import Response
from orderly_bench.core.vocabulary import KnownBy, Roots, Score, State
from orderly_bench.evidence.readings import explore
from orderly_bench.trial.models import AuditEntry, Trial
from tests.factories import (
    BARE,
    NOW,
    TODAY,
    create_person,
    create_stuck,
    evidence,
    open_endpoint,
)
from tests.web.conftest import SignIn, flat


class TestQualityAndClasses:
    def open_trial(self, session: Session) -> tuple[Trial, score.CheckVisit]:
        researcher = create_person(session)
        trial = create_stuck(session, researcher)
        return trial, open_endpoint(session, trial, researcher)

    def test_they_are_typed_on_the_pad_and_kept(self, session: Session, sign_in: SignIn) -> None:
        trial, check = self.open_trial(session)
        first, second = trial.units[0].cuttings[0], trial.units[1].cuttings[0]
        client = sign_in("scorer")
        form = {
            "cutting": first.id,
            "revision": 0,
            "state": "alive",
            "roots": "counted",
            "root_class": "5-9",
            "quality": "4",
            "foliage": "3",
        }
        assert client.post(f"/checks/{check.id}/scores", data=form).status_code == 303
        form = {
            "cutting": second.id,
            "revision": 0,
            "state": "alive",
            "roots": "none",
            "quality": "0",
            "root_class": "",
        }
        assert client.post(f"/checks/{check.id}/scores", data=form).status_code == 303
        kept = score.current_scores(session, [check])[check.id]
        assert (kept[first.id, 1].root_class, kept[first.id, 1].root_number, kept[first.id, 1].quality) == (
            "5-9",
            None,
            4,
        )
        assert (kept[second.id, 1].root_class, kept[second.id, 1].quality) == (None, 0)
        assert (kept[first.id, 1].foliage, kept[second.id, 1].foliage) == (3, None)
        page = client.get(f"/trials/{trial.id}/score?check={check.id}&cutting={first.id}").text
        assert 'value="5-9" data-implies="counted" checked' in flat(page) and "5-9 roots" in page

    @pytest.mark.parametrize(
        ("changes", "message"),
        [
            ({"root_class": "5-9", "root_number": "7"}, "not both"),
            ({"root_class": "a lot"}, "such as 5-9"),
            ({"roots": "none", "root_class": "5-9"}, "leave it empty when roots are"),
            ({"root_class": "1-4", "quality": "6"}, "between 0 and 5"),
            ({"root_class": "1-4", "quality": "0"}, "is 0 for no roots"),
            ({"roots": "none", "quality": "2", "root_class": ""}, "is 0 for no roots"),
            ({"roots": "not looked", "quality": "2", "root_class": ""}, "nobody looked at"),
        ],
    )
    def test_what_contradicts_itself_is_refused(
        self, session: Session, sign_in: SignIn, changes: dict[str, str], message: str
    ) -> None:
        trial, check = self.open_trial(session)
        form = {
            "cutting": trial.units[0].cuttings[0].id,
            "revision": 0,
            "state": "alive",
            "roots": "counted",
            **changes,
        }
        answer = sign_in("scorer").post(f"/checks/{check.id}/scores", data=form)
        assert answer.status_code == 422 and message in BeautifulSoup(answer.text, "html.parser").get_text()
        assert score.current_scores(session, [check])[check.id] == {}

    def test_they_are_compared_beside_the_verdict(self, session: Session, sign_in: SignIn) -> None:
        trial, check = self.open_trial(session)
        scorer = create_person(session, "scorer")
        grown = Score(State.ALIVE, Roots.COUNTED, root_class="5-9", quality=4)
        counted = Score(State.ALIVE, Roots.COUNTED, 12, 30.0, quality=5)
        for unit in trial.units:
            found = {"A": grown, "B": counted}.get(unit.arm.letter, Score(State.ALIVE, Roots.NONE, quality=0))
            score.keep_score(session, check, unit.cuttings[0], scorer, NOW, found)
        score.close_check(session, check, create_person(session), NOW)
        others = explore(evidence(session, trial))
        quality, classes = others[Response.QUALITY], others[Response.ROOT_CLASS]
        assert isinstance(quality, Analysis) and isinstance(classes, Analysis)
        letters = {arm.name: arm.letter for arm in trial.arms}
        assert {letters[arm.name]: arm.estimate for arm in quality.arms} == {"A": 4, "B": 5, "C": 0, "D": 0}
        assert {letters[a.name]: a.added.median_floor for a in classes.arms} == {
            "A": 5,
            "B": 10,
            "C": 0,
            "D": 0,
        }
        page = sign_in().get(f"/trials/{trial.id}/compare/more").text
        assert "Quality of the roots" in page and "Root number in classes" in page


class TestTreatmentsGiven:
    def test_a_change_is_recorded_named_and_counted_both_ways(self, session: Session, sign_in: SignIn) -> None:
        trial = create_stuck(session, create_person(session))
        unit = next(u for u in trial.units if u.arm.letter == "A")
        client = sign_in()
        form = {"code": unit.code, "letter": "D", "treated_on": TODAY.isoformat(), "treated_why": "Wrong bag opened"}
        assert client.post(f"/trials/{trial.id}/treatments", data=form).status_code == 303
        assert client.post(f"/trials/{trial.id}/treatments", data=form).status_code == 303
        assert len(tend.treatment_changes_of(session, trial)) == 1
        entry = session.scalars(select(AuditEntry).where(AuditEntry.action == "recorded another treatment")).one()
        assert entry.new == {"code": unit.code, "planned": "A", "given": "D", "day": TODAY.isoformat()}
        check = open_endpoint(session, trial, create_person(session))
        for u in trial.units:
            found = Score(State.ALIVE, Roots.COUNTED, 3) if u.arm.letter in "AB" else BARE
            score.keep_score(session, check, u.cuttings[0], create_person(session, "scorer"), NOW, found)
        score.close_check(session, check, create_person(session), NOW)
        found = evidence(session, trial)
        rows = {row.arm: row for row in found.as_done}
        assert (rows["A"].planned_known, rows["A"].done_known, rows["D"].done_known) == (4, 3, 5)
        assert rows["D"].done_rooted == 1 and rows["D"].planned_rooted == 0
        assert "1 unit was given another treatment" in found.departures
        assert any(c.code == "not_as_planned" for c in found.cautions)
        page = client.get(f"/trials/{trial.id}/compare").text
        assert "As planned and as done" in page
        assert "without the 1 given another treatment" in client.get(f"/trials/{trial.id}/compare/more").text

    def test_blind_scorers_learn_no_arm_from_it(self, session: Session, sign_in: SignIn) -> None:
        researcher = create_person(session)
        trial = create_stuck(session, researcher)
        unit = next(u for u in trial.units if u.arm.letter == "A")
        tend.record_treatment_change(
            session,
            trial,
            researcher,
            NOW,
            tend.Given(unit=unit, letter="D", day=TODAY, reason="Wrong bag"),
            today=TODAY,
        )
        open_endpoint(session, trial, researcher)
        shown = BeautifulSoup(sign_in("scorer").get(f"/trials/{trial.id}/tend").text, "html.parser").select_one(
            "#treatments"
        )
        assert shown is not None and "Wrong bag" not in shown.get_text() and "as planned," not in shown.get_text()
        assert shown.select("svg") == [] and shown.select("form") == []

    @pytest.mark.parametrize(
        ("changes", "message"),
        [
            ({"letter": "Z"}, "choose one of the arms A, B, C, D"),
            ({"letter": "A"}, "is in that arm already"),
            ({"treated_why": " "}, "say what happened"),
            ({"treated_on": "2020-01-01"}, "between sticking and today"),
            ({"code": "34679"}, "No label has the code"),
        ],
    )
    def test_impossible_changes_are_refused(
        self, session: Session, sign_in: SignIn, changes: dict[str, str], message: str
    ) -> None:
        trial = create_stuck(session, create_person(session))
        unit = next(u for u in trial.units if u.arm.letter == "A")
        form = {"code": unit.code, "letter": "D", "treated_on": TODAY.isoformat(), "treated_why": "mixed up", **changes}
        answer = sign_in().post(f"/trials/{trial.id}/treatments", data=form)
        assert answer.status_code in (404, 422) and message in BeautifulSoup(answer.text, "html.parser").get_text()
        assert tend.treatment_changes_of(session, trial) == []

    def test_a_scorer_may_not_record_one(self, session: Session, sign_in: SignIn) -> None:
        trial = create_stuck(session, create_person(session))
        answer = sign_in("scorer").post(f"/trials/{trial.id}/treatments", data={"code": trial.units[0].code})
        assert answer.status_code == 403


def test_arms_seen_in_different_ways_are_a_serious_doubt(session: Session) -> None:
    researcher = create_person(session)
    trial = create_stuck(session, researcher)
    check = open_endpoint(session, trial, researcher)
    for unit in trial.units:
        way = KnownBy.WALL if unit.arm.letter in "AB" else KnownBy.LIFTED
        score.keep_score(
            session, check, unit.cuttings[0], researcher, NOW, Score(State.ALIVE, Roots.SEEN, known_by=way)
        )
    score.close_check(session, check, researcher, NOW)
    found = evidence(session, trial)
    assert {"unequal_visibility", "mixed_evidence"} <= {c.code for c in found.cautions}
