"""From a conclusion to the method card, to the next plan, and to trials of one question together."""

from __future__ import annotations

import pytest
from sqlalchemy.orm import Session

from orderly_bench.chapters.conclude import operations as conclude
from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.stock.kept import LessonKind, MethodCard
from orderly_bench.core.stock.ways import Way
from orderly_bench.stock import operations as stock
from orderly_bench.stock.models import Lesson, WayKept
from orderly_bench.trial.models import Trial
from tests.factories import BARE, FACTORS, NOW, ROOTED, create_finished, create_person, create_trial, evidence
from tests.web.conftest import SignIn, flat
from tests.web.test_without_verdict import ended

PLANT = "Lavandula angustifolia"
TWO = [FACTORS[0]]


def concluded(
    session: Session,
    decision: str = "hold",
    after: conclude.After = conclude.NOTHING_MORE,
    rooted: str = "A",
    **changes: object,
) -> Trial:
    """A trial of pumice and bark of six each, those of these arms rooted."""
    found = {letter: ROOTED if letter in rooted else BARE for letter in "AB"}
    trial = ended(session, found, {"cuttings_per_arm": 6, **changes.pop("laid", {})}, TWO, **changes)
    conclude.conclude(
        session, trial, create_person(session), NOW, evidence(session, trial), decision, "Pumice rooted 6 of 6.", after
    )
    session.commit()
    return trial


def test_every_arm_leaves_its_counts_and_the_best_is_marked(session: Session, sign_in: SignIn) -> None:
    trial = concluded(session)
    first, second = stock.ways_for(session, PLANT)["not said"]
    assert (first.way, first.rooted, first.known, first.worth, first.best_of) == ("pumice", 6, 6, 6.0, 2)
    assert (second.way, second.rooted, second.best_of, second.decision) == ("bark", 0, 0, "hold")
    conclude.conclude(session, trial, create_person(session), NOW, evidence(session, trial), "drop", "Again.")
    cards = flat(sign_in().get("/cards").text)
    assert "By trial and by way" in cards, "counted, though nobody wrote a card"
    assert "Counted here in 2 ways" in cards and "no rate" not in cards.lower()
    assert session.query(WayKept).count() == 2 and {w.decision for w in stock.ways_for(session, PLANT)["not said"]} == {
        "drop"
    }


def test_shared_units_are_worth_less_and_one_unit_nothing(session: Session) -> None:
    pots = {"cuttings_per_arm": 12, "cuttings_per_unit": 3, "columns": 2, "rows": 2}
    concluded(session, laid=pots)
    pumice, bark = stock.ways_for(session, PLANT)["not said"]
    assert (pumice.known, pumice.worth, bark.worth) == (12, 4.0, 4.0), "all of a pot alike, its size is its worth"
    concluded(session, laid=pots | {"cuttings_per_arm": 3})
    single = [way for way in stock.ways_for(session, PLANT)["not said"] if way.trial.endswith("02")]
    assert [way.worth for way in single] == [None, None]


def test_adopt_writes_the_way_that_stands_to_the_card(session: Session, sign_in: SignIn) -> None:
    actor = create_person(session)
    trial = create_finished(session, actor, create_person(session, "scorer"), "A", factors=TWO, cuttings_per_arm=6)
    session.commit()
    client, at = sign_in(), f"/trials/{trial.id}/conclude"
    form = {
        "decision": "adopt",
        "text": "Pumice.",
        "adopted": "A",
        "lesson_keep": "pumice",
        "lesson_stop": "bark in spring",
    }
    wrong = client.post(at, data=form | {"decision": "hold"})
    assert wrong.status_code == 422 and "goes with adopt" in wrong.text and "bark in spring" in wrong.text
    assert client.post(at, data=form | {"adopted": "Q"}).status_code == 422
    assert session.query(WayKept).count() == 0 and stock.all_cards(session) == []
    assert client.post(at, data=form).status_code == 303
    (card,) = stock.all_cards(session)
    assert (card.taxon, card.way) == (PLANT, f"pumice ({trial.code}: 6 of 6, 61 to 100 %, the best of 2)")
    page = flat(client.get("/cards").text)
    assert f"pumice ({trial.code}: 6 of 6, 61 to 100 %, the best of 2)" in page
    assert "adopted" in page and "the best of 2" in page
    assert {(one.what, one.text) for one in session.query(Lesson)} == {("keep", "pumice"), ("stop", "bark in spring")}


def test_lessons_come_back_when_the_plant_is_next_planned(session: Session, sign_in: SignIn) -> None:
    trial = concluded(session, after=conclude.After(lessons={LessonKind.CHANGE: "vent from week 3"}))
    later = create_trial(session, create_person(session))
    session.commit()
    page = flat(sign_in().get(f"/trials/{later.id}/question").text)
    assert "Learned here" in page and "vent from week 3" in page and f"{trial.code}: " in page
    first = stock.ways_for(session, PLANT)["not said"][0]
    assert "Known here" in page and first.as_chosen in page and f">{trial.code}</span>" in page
    with pytest.raises(InvalidInput):
        stock.keep_lessons(session, PLANT, "x", {LessonKind.KEEP: "y" * 301}, "")


def test_a_single_way_feeds_the_next_plan_and_a_best_of_several_never(session: Session, sign_in: SignIn) -> None:
    concluded(session)
    rate = concluded(session, kind="rate", rooted="A")
    stock.keep_card(session, MethodCard(PLANT, "not said", rate=0.2))
    later = create_trial(session, create_person(session))
    session.commit()
    client = sign_in()
    card = stock.all_cards(session)[0]
    page = client.post(f"/trials/{later.id}/question/bring", data={"from_card": str(card.id)}).text
    counted = [w for w in stock.ways_for(session, PLANT)["not said"] if w.trial == rate.code]
    assert counted[0].as_batch and counted[0].as_batch in page
    assert "6/6 trial" not in page.replace(counted[0].as_batch, "")
    cards = client.get("/cards").text
    assert "the book&#39;s lies outside" in cards
    assert cards.count("/sums/stick?want=100") == 1, "of the single way alone"
    sent = cards.split("/sums/stick?")[1].split('"')[0].replace("&amp;", "&")
    assert "is needed" not in (answer := client.get(f"/sums/stick?{sent}").text) and "Answer" in answer


def test_trials_of_one_question_together(session: Session, sign_in: SignIn) -> None:
    client = sign_in("reader")
    assert client.get("/together").status_code == 200
    concluded(session)
    concluded(session, rooted="AB")
    concluded(session, kind="look")
    page = flat(client.get(f"/together?taxon={PLANT}").text)
    assert "bark less pumice: −" in page and "3 trials" in page and "a look." in page
    assert page.index("The trials disagree") < page.index("95 % interval"), "disagreement stands before the mean"
    more = flat(client.get(f"/together?taxon={PLANT}&first=pumice&second=bark&looks=yes").text)
    assert "pumice less bark: +" in more and "Left out" not in more
    assert "With looks and retrospective trials" in page and "With looks and retrospective trials" not in more
    wrong = client.get(f"/together?taxon={PLANT}&first=pumice&second=moon")
    assert wrong.status_code == 422 and "side by side in no trial" in wrong.text


def test_where_only_looks_are_there_they_are_offered(session: Session, sign_in: SignIn) -> None:
    concluded(session, kind="look")
    answered = sign_in("reader").get(f"/together?taxon={PLANT}")
    assert answered.status_code == 200, "nobody did anything wrong"
    assert "side by side in no trial that counts" in flat(answered.text) and "a look" in answered.text
    assert "With looks and retrospective trials" in answered.text
    asked = sign_in("reader").get(f"/together?taxon={PLANT}&first=bark&second=pumice&looks=yes")
    assert asked.status_code == 200 and "bark less pumice: " in flat(asked.text)


def test_the_book_stands_beside_the_count_on_compare_and_in_the_report(session: Session, sign_in: SignIn) -> None:
    trial = concluded(session, book="90-100 Old handbook\n0-30 Field notes")
    client = sign_in()
    for page in ("compare", "report"):
        text = flat(client.get(f"/trials/{trial.id}/{page}").text)
        assert "A: book 90 to 100 %; here 6 of 6" in text and "(Old handbook)" in text, page
        assert "B: book 90 to 100 %; here 0 of 6" in text and "the book&#39;s lies outside" in text, page
        assert "B: book 0 to 30 %; here 0 of 6" in text and "the book&#39;s can be" in text, page
    bare = concluded(session)
    assert "Written elsewhere" not in flat(client.get(f"/trials/{bare.id}/compare").text)


def test_a_rate_on_the_card_is_a_book_s_for_pieces_of_its_type(session: Session, sign_in: SignIn) -> None:
    trial = concluded(session)
    stock.keep_card(session, MethodCard(PLANT, "not said", rate=0.9))
    stock.keep_card(session, MethodCard(PLANT, "heel", rate=0.5))
    session.commit()
    client = sign_in()
    for page in ("compare", "report"):
        text = flat(client.get(f"/trials/{trial.id}/{page}").text)
        assert "B: book 90 %; here 0 of 6" in text and "(the method card, not said)" in text, page
        assert "heel" not in text
    stock.keep_card(session, MethodCard(PLANT, "not said", rate=0.9, rooted=3, stuck=4))
    session.commit()
    assert "the method card, not said" not in client.get(f"/trials/{trial.id}/compare").text, (
        "what was counted is no book's"
    )


def test_strengths_given_here_before_stand_on_the_hormone_sheet(session: Session, sign_in: SignIn) -> None:
    ways = [
        (PLANT, "tip", Way("25-07", "A", "pumice + IBA 2000 ppm", 42, 11, 20, 20.0)),
        (PLANT, "tip", Way("25-07", "B", "pumice", 42, 5, 20, 20.0)),
    ]
    stock.keep_ways(session, "25-07", ways)
    trial = create_trial(session, create_person(session))
    session.commit()
    page = flat(sign_in().get(f"/trials/{trial.id}/hormones").text)
    assert "Tip, pumice + IBA 2000 ppm: 11 of 20, 34 to 74 % in 25-07 (own)." in page and "pumice: 5" not in page
