"""Dated lines: kept as written, shown where they are read, an interim look where they tell arms apart, hidden from the blind."""

from __future__ import annotations

from datetime import timedelta

import pytest
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from orderly_bench.chapters.score import operations as score
from orderly_bench.core.tend.notes import tells_arms_apart
from orderly_bench.record.gather import gather
from orderly_bench.trial.blindness import arms_hidden, results_by_arm
from orderly_bench.trial.models import InterimLook, Note, ScoreRecord, Trial
from orderly_bench.trial.notes import Written, write_note
from tests.factories import DAY_ZERO, NOW, TODAY, create_person, create_stuck, open_endpoint, score_all
from tests.web.conftest import SignIn, flat


@pytest.fixture
def trial(session: Session) -> Trial:
    made = create_stuck(session, create_person(session))
    session.commit()
    return made


def sent(text: str, **more: str) -> dict[str, str]:
    return {"note_text": text, "note_day": str(TODAY), "note_code": "", "note_key": ""} | more


@pytest.mark.parametrize(
    ("text", "looks"),
    [
        ("Pumice is rooting already.", True), ("Arm B has roots.", True), ("Roots at the wall of one.", False), ("Pumice dried out.", False),
        ("No roots yet in bark fines.", True), ("Beetroots stood beside the bark.", False),
        ("B roots before A does.", True), ("First root in B's tray", True), ("A root at the wall", False), ("Bench B: a root seen", False), ("A roots well", True), ("A root is seen. A leaf fell.", False), ("Roots are seen: A has them.", True),
    ],
)  # fmt: skip
def test_a_note_that_says_which_arm_roots_is_an_interim_look(text: str, looks: bool) -> None:
    assert tells_arms_apart(text, ["pumice", "bark fines", "bark"], "AB") is looks


def test_a_note_is_kept_once_shown_on_tend_and_in_the_report(session: Session, sign_in: SignIn, trial: Trial) -> None:
    client, code = sign_in("researcher"), trial.units[0].code
    for _ in range(2):
        note = sent("The leaf was yellow <b>.", note_code=code, note_key="one")
        assert client.post(f"/trials/{trial.id}/notes", data=note).status_code == 303
    assert session.scalar(select(func.count(Note.id))) == 1
    page = client.get(f"/trials/{trial.id}/tend").text
    assert "The leaf was yellow &lt;b&gt;." in page and "<title>The leaf was yellow" in page
    assert session.scalar(select(func.count(InterimLook.id))) == 0
    actor = create_person(session)
    check = open_endpoint(session, trial, actor)
    score_all(session, trial, check, actor)
    score.close_check(session, check, actor, NOW)
    session.commit()
    for where in ("report", "conclude"):
        assert "The leaf was yellow" in flat(client.get(f"/trials/{trial.id}/{where}").text), where


def test_what_tells_arms_apart_is_on_record_until_the_end(session: Session, sign_in: SignIn, trial: Trial) -> None:
    client = sign_in("researcher")
    client.post(f"/trials/{trial.id}/notes", data=sent("Pumice has roots at the wall"))
    assert [look.reason for look in gather(session, trial).looks] == ["a note: Pumice has roots at the wall"]
    actor = create_person(session)
    check = open_endpoint(session, trial, actor)
    score_all(session, trial, check, actor)
    score.close_check(session, check, actor, NOW)
    session.commit()
    assert "looked" in flat(client.get(f"/trials/{trial.id}/compare").text).lower()
    client.post(f"/trials/{trial.id}/notes", data=sent("Bark rooted late"))
    session.expire_all()
    assert len(gather(session, trial).looks) == 1, "after the end nothing is early"


def test_the_blind_read_their_own_notes_alone(session: Session, sign_in: SignIn, trial: Trial) -> None:
    sign_in("researcher").post(f"/trials/{trial.id}/notes", data=sent("The pumice end is dry"))
    blind = sign_in("scorer")
    blind.post(f"/trials/{trial.id}/notes", data=sent("A slug sat on tray 1"))
    page = flat(blind.get(f"/trials/{trial.id}/tend").text)
    assert "A slug sat on tray 1" in page and "The pumice end is dry" not in page


@pytest.mark.parametrize(
    "bad",
    [{"note_text": " "}, {"note_text": "x" * 501}, {"note_day": "2026-31-02"}, {"note_day": str(DAY_ZERO.replace(year=2020))}, {"note_day": "2027-01-01"}, {"note_code": "QQQQQ"}],
)  # fmt: skip
def test_what_can_not_be_is_refused_and_stands_in_its_field(
    session: Session, sign_in: SignIn, trial: Trial, bad: dict[str, str]
) -> None:
    answered = sign_in("scorer").post(f"/trials/{trial.id}/notes", data=sent("kept as typed") | bad)
    assert answered.status_code in (404, 422) and (bad.get("note_text") or "kept as typed")[:400] in answered.text
    assert session.scalar(select(func.count(Note.id))) == 0


def test_writing_of_roots_by_arm_opens_nothing_to_the_blind(session: Session, sign_in: SignIn, trial: Trial) -> None:
    scorer = create_person(session, "scorer")
    write_note(session, trial, scorer, NOW, Written(TODAY, "arm B roots, somebody said"), TODAY)
    session.commit()
    assert arms_hidden(session, trial, scorer) and not results_by_arm(session, trial, scorer)
    assert gather(session, trial).looks[0].person == scorer.name


def test_a_root_seen_between_checks_is_in_no_count_and_offers_a_look_at_all_arms(
    session: Session, sign_in: SignIn
) -> None:
    trial = create_stuck(session, create_person(session), TODAY - timedelta(days=20), check_days="14")
    session.commit()
    client, page = sign_in("researcher"), f"/trials/{trial.id}"
    code = trial.units[3].code
    assert client.post(f"{page}/notes", data=sent("", note_root="yes")).status_code == 422, "which one?"
    assert client.post(f"{page}/extra-check").status_code == 422, "nothing was seen"
    assert client.post(f"{page}/notes", data=sent("", note_root="yes", note_code=code)).status_code == 303
    shown = flat(client.get(f"{page}/tend").text)
    assert "root seen</span> a root is to be seen" in shown and "check of all arms today, day 20" in shown
    assert session.scalar(select(func.count()).select_from(ScoreRecord)) == 0
    assert "Plan a check" not in flat(sign_in("scorer").get(f"{page}/tend").text)
    assert client.post(f"{page}/extra-check").status_code == 303
    session.expire_all()
    assert 20 in trial.plan.schedule.check_days and trial.versions[-1].why.startswith(f"a root was seen in {code}")
    assert client.post(f"{page}/extra-check").status_code == 422, "it is planned now"
    assert "Plan a check" not in flat(client.get(f"{page}/tend").text)


def test_a_plain_note_needs_words(session: Session, sign_in: SignIn, trial: Trial) -> None:
    assert sign_in("researcher").post(f"/trials/{trial.id}/notes", data=sent("")).status_code == 422


def test_a_note_is_of_a_tray_or_of_an_arm_and_says_so_where_it_is_read(
    session: Session, sign_in: SignIn, trial: Trial
) -> None:
    client, at = sign_in(), f"/trials/{trial.id}"
    for of, text in (("Tray 1", "algae on the lid"), ("arm b", "leaves yellow"), ("", "all watered")):
        assert client.post(f"{at}/notes", data=sent(text, note_code=of)).status_code == 303
    assert [(n.tray, n.arm, n.early) for n in session.scalars(select(Note).order_by(Note.id))] == [(1, "", False), (None, "B", False), (None, "", False)]  # fmt: skip
    page = flat(client.get(f"{at}/tend").text)
    assert "tray 1</span> algae on the lid" in page and "arm B</span> leaves yellow" in page
    assert [n.code for n in gather(session, trial).notes] == ["tray 1", "arm B", ""]
    assert client.get(f"{at}/tend?note_of=K73M4").text.count('value="K73M4"') == 1


def test_of_an_arm_roots_before_the_end_are_an_interim_look(session: Session, sign_in: SignIn, trial: Trial) -> None:
    sign_in().post(f"/trials/{trial.id}/notes", data=sent("roots at the wall", note_code="arm A"))
    assert session.scalars(select(Note)).one().early


@pytest.mark.parametrize(("of", "said"), [("tray 99", "this trial has trays"), ("arm Z", "this trial has arms")])
def test_what_the_trial_does_not_have_is_refused(
    session: Session, sign_in: SignIn, trial: Trial, of: str, said: str
) -> None:
    answered = sign_in().post(f"/trials/{trial.id}/notes", data=sent("dry", note_code=of))
    assert (
        answered.status_code == 422 and said in flat(answered.text) and session.scalar(select(func.count(Note.id))) == 0
    )


def test_who_scores_blind_writes_of_no_arm(session: Session, sign_in: SignIn, trial: Trial) -> None:
    person = create_person(session, "scorer")
    assert arms_hidden(session, trial, person)
    session.commit()
    answered = sign_in(person=person).post(f"/trials/{trial.id}/notes", data=sent("dry", note_code="arm A"))
    assert answered.status_code == 422 and "You score blind" in flat(answered.text)
