"""Trials of which nothing is judged: looks, rates, and checks at which nobody looked. Their doubts and counts stand all the same."""

from __future__ import annotations

import re
from dataclasses import replace
from datetime import timedelta

import pytest
from bs4 import BeautifulSoup
from flask.testing import FlaskClient
from sqlalchemy.orm import Session

from orderly_bench.chapters.conclude.operations import conclude
from orderly_bench.chapters.design import locking
from orderly_bench.chapters.design import operations as design
from orderly_bench.chapters.score import operations as score
from orderly_bench.chapters.shelf.stock_operations import plants_by_taxon
from orderly_bench.chapters.stick import operations as stick_ops
from orderly_bench.core.plan.treatments import Container, Shape
from orderly_bench.core.stock.kept import StockPlant
from orderly_bench.core.vocabulary import KnownBy, LayoutKind, Roots, Score, State, Top
from orderly_bench.stock import operations as stock
from orderly_bench.stock.models import Lesson
from orderly_bench.trial.checks import checks_of
from orderly_bench.trial.models import Conclusion, Trial
from orderly_bench.trial.reserved import litres_reserved
from tests.factories import (
    BARE,
    DAY_ZERO,
    LOCKED,
    NOW,
    ROOTED,
    TODAY,
    add_lot,
    create_locked,
    create_person,
    create_stuck,
    create_trial,
    evidence,
    open_endpoint,
    save_design,
    score_all,
    stick_all,
)
from tests.web.conftest import SignIn, flat

Factors = list[tuple[str, str, list[str]]]
MEDIA = [("medium", "medium", ["bark", "pumice"])]
UNSEEN = Score(State.ALIVE, Roots.NOT_LOOKED, top=Top.GROWING)


def ended(
    session: Session,
    found: dict[str, Score],
    laid: dict[str, object] | None = None,
    factors: Factors = MEDIA,
    **asked: object,
) -> Trial:
    """A trial of two arms, closed, every cutting of an arm scored so."""
    actor = create_person(session)
    trial = create_trial(session, actor, factors=factors, **asked)
    save_design(session, trial, actor, layout=LayoutKind.COMPLETELY_RANDOMISED.value, blocks=1, **(laid or {}))
    design.draw(session, trial, actor, LOCKED, 3)
    locking.lock_plan(session, trial, actor, LOCKED, "to see")
    stick_all(session, trial, actor)
    check = open_endpoint(session, trial, actor)
    for unit in trial.units:
        for cutting in unit.cuttings:
            score.keep_score(session, check, cutting, actor, NOW, found[unit.arm.letter])
    score.close_check(session, check, actor, NOW)
    session.commit()
    return trial


def words(client: FlaskClient, path: str) -> str:
    answered = client.get(path)
    assert answered.status_code == 200, path
    return " ".join(BeautifulSoup(answered.text, "html.parser").body.get_text(" ").split())


@pytest.mark.parametrize("kind", ["test", "look"])
def test_where_nobody_looked_at_roots_the_tops_and_counts_stand_and_no_answer_is_given(
    session: Session, sign_in: SignIn, kind: str
) -> None:
    trial = ended(session, {"A": UNSEEN, "B": UNSEEN}, kind=kind)
    client, where = sign_in(), f"/trials/{trial.id}"
    for page in ("compare", "report"):
        shown = words(client, f"{where}/{page}")
        for letter in "AB":
            assert f"{letter} : roots not looked for in 4 of 4" in shown.replace(f"{letter}:", f"{letter} :"), page
        assert "20 May 2026, day 42" in shown and re.search(r"Tops Arm growing A bark 4 B pumice 4", shown), page
        assert not re.search(r"rooted (more|less|fewer) than", shown) and "p =" not in shown, page


def test_a_look_has_counts_and_doubts_and_no_word_of_a_verdict(session: Session, sign_in: SignIn) -> None:
    trial = ended(session, {"A": ROOTED, "B": BARE}, kind="look")
    client, where = sign_in(), f"/trials/{trial.id}"
    conclude(
        session, trial, create_person(session), NOW, evidence(session, trial), "hold", "Bark is better. Try it again."
    )
    session.commit()
    for page in ("compare", "report", "conclude"):
        shown = words(client, f"{where}/{page}")
        for word in ("verdict", "Strength", "annot tell", "clear and", "not settled", "p <"):
            at = shown.find(word)
            assert at < 0, (page, shown[max(0, at - 90) : at + 60])
        assert "4 of 4" in shown, page
    for page in ("report", "conclude"):
        shown = words(client, f"{where}/{page}")
        assert "Bark is better. [beyond the data: 'better' says how arms compare; nothing was compared here" in shown
        assert "Try it again. [not about the result]" in shown


def test_the_doubts_of_a_rate_are_shown_as_those_of_a_test(session: Session, sign_in: SignIn) -> None:
    trial = ended(session, {"A": ROOTED}, kind="rate", wanted_plants=20)
    trial_doubts = evidence(session, trial).cautions
    client, where = sign_in(), f"/trials/{trial.id}"
    for page in ("compare", "report", "conclude"):
        shown = words(client, f"{where}/{page}")
        assert all(doubt.text in shown for doubt in trial_doubts), page
        assert "Batches differ; one batch can't say by how much." in shown, page


def test_two_arms_in_one_jar_are_looked_at_with_their_doubt_on_every_page(session: Session, sign_in: SignIn) -> None:
    jar = {"one_vessel": True, "container": Container(Shape.JAR, 1, 1, 900.0)}
    trial = ended(
        session,
        {"A": ROOTED, "B": BARE},
        jar,
        [("taxon or cultivar", "cultivar", ["Headland", "Tarn Blue"])],
        kind="look",
    )
    assert {(u.place.tray.number, u.place.row, u.place.column) for u in trial.units} == {(1, 1, 1)}
    client, at = sign_in(), f"/trials/{trial.id}"
    for page in ("compare", "conclude", "report"):
        text = words(client, f"{at}/{page}")
        assert "All arms share 1 vessel: they stand in the same medium, which is one unit for them all" in text, page
        assert "verdict" not in text.lower(), page
    assert "all in one vessel" in words(client, f"{at}/design")


class TestClosedWithoutAVerdict:
    WHY = {"decision": "repeat", "why": "The power was cut for three days.", "lesson_stop": "One heater on one fuse"}

    def test_nothing_more_is_asked_of_it_its_lessons_stay_and_a_late_endpoint_is_judged(
        self, session: Session, sign_in: SignIn
    ) -> None:
        actor = create_person(session)
        trial = create_stuck(session, actor)
        client, at = sign_in(), f"/trials/{trial.id}/conclude"
        assert "It can't be judged any more" in client.get(at).text and trial.code in client.get("/today").text
        assert client.post(f"{at}/without", data=self.WHY).status_code == 303
        twice = client.post(f"{at}/without", data=self.WHY)
        assert twice.status_code == 422 and "closed without a verdict already" in twice.text, "a double click"
        assert session.query(Conclusion).count() == 1
        page = " ".join(client.get(at).text.split())
        assert "Closed without a verdict" in page and "The power was cut" in page and "be judged any more" not in page
        assert "no verdict" in page and "concluded" not in page, "the walk does not say it was concluded"
        assert "Begin it" in page, "the next trial begins from here"
        assert trial.code not in client.get("/today").text
        assert "closed without a verdict" in client.get("/trials").text
        assert "One heater on one fuse" in lesson_texts(session)
        check = open_endpoint(session, trial, actor)
        score_all(session, trial, check, actor)
        score.close_check(session, check, actor, NOW)
        session.commit()
        again = client.get(at).text
        assert "Conclude again" in again and "The power was cut" in again, "judged as usual, beside what was kept"

    @pytest.mark.parametrize(
        ("changes", "says"),
        [
            ({"decision": "adopt"}, "drop, repeat or hold"),
            ({"why": " "}, "what ended it"),
            ({"why": "x" * 4001}, "what ended it"),
        ],
    )
    def test_it_is_refused_with_what_was_typed_kept(
        self, session: Session, sign_in: SignIn, changes: dict[str, str], says: str
    ) -> None:
        trial = create_stuck(session, create_person(session))
        answer = sign_in().post(f"/trials/{trial.id}/conclude/without", data=self.WHY | changes)
        assert answer.status_code == 422 and says in answer.text and "One heater on one fuse" in answer.text
        assert session.query(Conclusion).count() == 0 and lesson_texts(session) == []

    def test_what_was_kept_for_it_is_free_again(self, session: Session, sign_in: SignIn) -> None:
        trial = create_locked(session, create_person(session))
        session.commit()
        plant = stock.keep_plant(session, StockPlant("L1", trial.plan.question.botanical_name))
        trial.units[0].cuttings[0].donor_id = plant.id
        session.commit()

        def pieces_waited_for() -> int:
            return sum(shown.waiting for _, plants in plants_by_taxon(session) for shown in plants)

        assert sum(litres_reserved(session).values()) > 0 and pieces_waited_for() == 1
        assert sign_in().post(f"/trials/{trial.id}/conclude/without", data=self.WHY).status_code == 303
        assert litres_reserved(session) == {} and pieces_waited_for() == 0

    def test_not_before_the_lock_and_not_once_the_endpoint_is_closed(self, session: Session, sign_in: SignIn) -> None:
        draft, judged = create_trial(session, create_person(session)), ended(session, {"A": ROOTED, "B": BARE})
        client = sign_in()
        for trial, says in ((draft, "not locked"), (judged, "conclude from what it found")):
            answer = client.post(f"/trials/{trial.id}/conclude/without", data=self.WHY)
            assert answer.status_code == 422 and says in answer.text
        assert session.query(Conclusion).count() == 0


def lesson_texts(session: Session) -> list[str]:
    return [lesson.text for lesson in session.query(Lesson)]


def test_a_trial_closed_without_a_verdict_has_its_report_in_totals(session: Session, sign_in: SignIn) -> None:
    actor = create_person(session)
    trial = create_stuck(session, actor, factors=MEDIA, cuttings_per_arm="8")
    early = checks_of(session, trial)[0]
    score.open_check(
        session, early, actor, NOW, score.Looking(DAY_ZERO + timedelta(days=14), KnownBy.HOLE.value), TODAY
    )
    for unit in trial.units:
        died = Score(State.DEAD, Roots.NOT_LOOKED) if unit.arm.letter == "A" else replace(ROOTED, known_by=KnownBy.HOLE)
        score.keep_score(session, early, unit.cuttings[0], actor, NOW, died)
    score.close_check(session, early, actor, NOW)
    session.commit()
    client, page = sign_in("researcher"), f"/trials/{trial.id}"
    assert client.get(f"{page}/report").status_code == 422
    form = {"decision": "repeat", "why": "The mat burnt through.", "lesson_stop": "no mats overnight"}
    assert client.post(f"{page}/conclude/without", data=form).status_code == 303
    assert f"{page}/report" in client.get(f"{page}/conclude").text
    told = flat(client.get(f"{page}/report").text)
    for words in (
        "Closed without a verdict",
        "The mat burnt through.",
        "no mats overnight",
        "roots seen in 8 of 16 scored, 8 dead",
        "A bark; B pumice",
    ):
        assert words in told, words
    assert "A 8" not in told and "8 of 8" not in told, "nothing of any difference"
    assert client.get(f"{page}/report.pdf").mimetype == "application/pdf"
    blind = flat(sign_in("scorer").get(f"{page}/report").text)
    assert "roots seen in 8 of 16" in blind and "bark" not in blind.split("What was planned")[1]


def test_a_control_of_which_nothing_was_stuck_is_told_and_no_fault(session: Session, sign_in: SignIn) -> None:
    actor = create_person(session)
    trial = create_trial(session, actor, factors=[("medium", "medium", ["bark", "pumice", "sand"])], control="bark")
    save_design(session, trial, actor, layout=LayoutKind.COMPLETELY_RANDOMISED.value, blocks=1, cuttings_per_arm="6")
    design.draw(session, trial, actor, LOCKED, 3)
    locking.lock_plan(session, trial, actor, LOCKED, "to see")
    arms = trial.plan.treatments.arms
    control = next((arm.id for arm in arms if arm.control), "")
    lot = add_lot(session, trial, actor)
    for unit in trial.units:
        if unit.arm.letter == control:
            stick_ops.set_cutting(session, trial, actor, NOW, unit.cuttings[0], "broke", lot)
    for tray in trial.trays:
        stick_ops.confirm_tray(session, trial, actor, NOW, tray.number, lot)
    stick_ops.finish_sticking(session, trial, actor, NOW, trial.waves[0])
    check = open_endpoint(session, trial, actor)
    for unit in (unit for unit in trial.units if unit.arm.letter != control):
        score.keep_score(session, check, unit.cuttings[0], actor, NOW, ROOTED)
    score.close_check(session, check, actor, NOW)
    session.commit()
    assert control, "the plan has one"
    for page in ("compare", "conclude", "report"):
        answered = sign_in("researcher").get(f"/trials/{trial.id}/{page}")
        assert answered.status_code == 200 and "nothing was stuck" in flat(answered.text), page
