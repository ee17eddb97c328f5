"""Each chapter as pages: what is typed is kept, what is wrong is named, what is right is written."""

from __future__ import annotations

import io
import json
import re

import pytest
from bs4 import BeautifulSoup
from flask import Flask
from pypdf import PdfReader
from sqlalchemy import select
from sqlalchemy.orm import Session

from orderly_bench.app import create_app
from orderly_bench.cli.main import main
from orderly_bench.core.plan.aspects import AspectKind
from orderly_bench.core.plan.treatments import Container
from orderly_bench.trial.models import ScoreRecord, Trial
from tests.factories import (
    NOW,
    create_drawn,
    create_finished,
    create_locked,
    create_person,
    create_stuck,
    create_trial,
    evidence,
    open_endpoint,
)
from tests.web.conftest import SignIn, client_of, flat
from tests.web.forms import line, question_form


def test_a_trial_is_started_and_its_question_saved(session: Session, sign_in: SignIn) -> None:
    client = sign_in()
    where = client.post("/trials", data={"botanical_name": "Hippophae rhamnoides"}).headers["Location"]
    trial = session.scalars(select(Trial)).one()
    medium = line(AspectKind.MEDIUM, ["sand", "pumice"], asked=True)
    form = question_form(trial, medium, margin_points="12,5")
    assert client.post(where, data=form).status_code == 303
    session.expire_all()
    assert [arm.name for arm in trial.arms] == ["sand", "pumice"] and trial.plan.question.margin_points == 12.5
    made = "In Hippophae rhamnoides, does medium change how many root by day 42, by more than 12.5 of every 100?"
    assert trial.plan.question.sentence == made and made in client.get(where).text


@pytest.mark.parametrize(
    ("changes", "message"),
    [
        ({"value_1_1": "sand", "value_1_2": "SAND"}, "stands twice"),
        ({"value_1_1": "", "value_1_3": ""}, "it is blank in (given: A, C)"),
        ({"ask_1": "", "ask_2": ""}, "the arms differ in medium, hormone; mark what you ask"),
        ({"value_1_2": "bark", "value_1_4": "bark", "value_1_3": "bark"}, "B and D are alike in everything"),
        ({"endpoint_day": "soon"}, "type a whole number"),
        ({"endpoint_day": "9" * 30}, "type a whole number"),
        ({"margin_points": "nan"}, "type a number"),
        ({"botanical_name": " "}, "type the name of the plant"),
        ({"response": "height"}, "choose one of"),
        ({"dead_from_day": "90"}, "between 1 and the endpoint day"),
        ({"left_alone_until": "90"}, "between 1 and the endpoint day"),
        ({"wanted_plants": "0"}, "between 1 and 100000"),
        ({"known": "31 of many"}, "write rooted/stuck"),
        ({"book": "60-70"}, "who wrote it"),
        ({"check_days": "May to June"}, "months need the day of sticking"),
        ({"response": "quality", "margin_own": "80"}, "distance from one half"),
        ({"why": "x" * 5000}, "within 4000"),
        ({"version": "0"}, "Someone else changed this plan"),
    ],
)
def test_a_refused_question_keeps_what_was_typed(
    session: Session, sign_in: SignIn, changes: dict, message: str
) -> None:
    trial = create_trial(session, create_person(session))
    before = trial.plan.question.sentence
    response = sign_in().post(
        f"/trials/{trial.id}/question", data=question_form(trial, **{"sentence": "A new one?", **changes})
    )
    assert response.status_code in (409, 422)
    assert message in response.text
    if "question" not in changes:
        assert "A new one?" in response.text
    session.expire_all()
    assert trial.plan.question.sentence == before


def test_the_margin_works_as_it_is_typed(session: Session, sign_in: SignIn) -> None:
    trial = create_trial(session, create_person(session))
    client = sign_in()
    data = question_form(trial, value_2_2="NAA")
    text = client.post(f"/trials/{trial.id}/question/working", data=data).text
    assert "2 of medium x 3 of hormone: 4 arms of 6 combinations" in text
    data = {"cuttings_per_arm": "3", "layout": "completely randomised", "blocks": "1", "rows": "2", "columns": "4"}  # fmt: skip
    text = client.post(f"/trials/{trial.id}/design/working", data=data).text
    assert "No single pair of arms can ever be clear: its smallest p over all pairs is 0.6" in text
    text = client.post(f"/trials/{trial.id}/design/working", data={**data, "cuttings_per_arm": "20"}).text
    assert "No single pair" not in text and "Holm over 6 pairs: x 6" in text


def test_every_pair_of_arms_is_listed_with_what_it_tells(session: Session, sign_in: SignIn) -> None:
    trial = create_trial(session, create_person(session))
    form = question_form(
        trial,
        line(AspectKind.MEDIUM, ["bark", "bark", "sand"], True),
        line(AspectKind.HORMONE, ["IBA", "none", "IBA"], True),
    )
    text = sign_in().post(f"/trials/{trial.id}/question/working", data=form).text
    for told in ("A against C: medium<", "A against B: hormone<", "B against C: medium and hormone, together<"):
        assert f"<p>{told}" in text, told


@pytest.mark.parametrize(
    "path",
    [
        "/trials/999999",
        "/trials/999999/compare",
        "/trials/0/design",
        "/trials/99999999999999/score",
        "/nowhere",
        "/find?code=00000",
    ],
)
def test_unknown_things_are_404_with_a_way_on(sign_in: SignIn, path: str) -> None:
    response = sign_in().get(path)
    assert response.status_code == 404
    assert re.search(r"There is no|No label", response.text)


def test_every_chapter_opens_at_every_stage(session: Session, sign_in: SignIn) -> None:
    person = create_person(session)
    stages = [
        create_trial(session, person),
        create_drawn(session, person),
        create_locked(session, person),
        create_stuck(session, person),
    ]
    stages.append(create_finished(session, person, create_person(session, "scorer")))
    client = sign_in(person=person)
    for trial in stages:
        for chapter in ("question", "design", "prepare", "stick", "tend", "score", "compare", "conclude"):
            response = client.get(f"/trials/{trial.id}/{chapter}")
            assert response.status_code == 200, (trial.code, chapter)
            assert len(BeautifulSoup(response.text, "html.parser").select(".walk li")) == 8
    for path in ("/today", "/trials", "/people", "/lab"):
        assert client.get(path).status_code == 200


def test_a_new_trial_without_a_question_opens_everywhere(session: Session, sign_in: SignIn) -> None:
    client = sign_in()
    client.post("/trials", data={"botanical_name": "Buxus"})
    number = session.scalars(select(Trial.id)).one()
    for chapter in ("question", "design", "prepare", "stick", "tend", "score", "compare", "conclude"):
        assert client.get(f"/trials/{number}/{chapter}").status_code == 200, chapter


def test_a_plan_changed_after_locking_is_refused(session: Session, sign_in: SignIn) -> None:
    trial = create_locked(session, create_person(session))
    response = sign_in().post(f"/trials/{trial.id}/question", data=question_form(trial, sentence="Other?"))
    assert response.status_code == 422 and "Record an amendment" in response.text


def test_litres_are_worked_out_with_their_sum(session: Session, sign_in: SignIn) -> None:
    trial = create_drawn(session, create_person(session), container=Container(rows=2, columns=4, volume_ml=100))
    client = sign_in()
    form = {"recipe_0": "3 pumice, 1 coir", "recipe_1": ""}
    assert client.post(f"/trials/{trial.id}/prepare", data=form).status_code == 303
    text = client.get(f"/trials/{trial.id}/prepare").text
    assert "8 x 100 mL = 0.80 L; / 0.90 settling x 1.10 waste = 0.98 L" in text
    wrong = client.post(f"/trials/{trial.id}/prepare", data={**form, "recipe_0": "some pumice"})
    assert wrong.status_code == 422 and "parts and component" in wrong.text and "some pumice" in wrong.text


def test_labels_wait_for_the_lock_and_then_hold_every_code(session: Session, sign_in: SignIn) -> None:
    person = create_person(session)
    client = sign_in(person=person)
    assert client.get(f"/trials/{create_drawn(session, person).id}/labels.pdf").status_code == 422
    trial = create_locked(session, person)
    session.commit()
    response = client.get(f"/trials/{trial.id}/labels.pdf")
    assert response.mimetype == "application/pdf"
    text = "".join(page.extract_text() for page in PdfReader(io.BytesIO(response.data)).pages)
    assert all(f"{unit.code[:3]} {unit.code[3:]}" in text for unit in trial.units)
    assert fonts_of(response.data) == {"A", "M"}


def fonts_of(pdf: bytes) -> set[str]:
    """Names of the fonts a PDF embeds, without their subset tags."""
    found = set()
    for page in PdfReader(io.BytesIO(pdf)).pages:
        for font in page["/Resources"]["/Font"].values():
            found.add(str(font.get_object()["/BaseFont"]).split("+")[-1].split("-")[0])
    return found


def test_documents_use_the_shipped_fonts_and_load_nothing_else(app: Flask) -> None:
    from orderly_bench.web.pdf import pdf_of

    page = '<style>@font-face {{ font-family: Ours; src: url("{0}"); }} body {{ font-family: Ours; }}</style>words'
    assert fonts_of(pdf_of(page.format("static:fonts/atkinson-hyperlegible-next-latin-400-normal.woff2"))) == {"Ours"}
    assert "Ours" not in fonts_of(pdf_of(page.format("file:///usr/share/fonts/any.woff2")))
    assert PdfReader(io.BytesIO(pdf_of("static: stays as typed"))).pages[0].extract_text() == "static: stays as typed"


def test_sticking_by_tray_and_by_cell(session: Session, sign_in: SignIn) -> None:
    trial = create_locked(session, create_person(session))
    client = sign_in("scorer")
    assert client.post(f"/trials/{trial.id}/stick/tray", data={"tray": "1"}).status_code == 422
    assert client.post(f"/trials/{trial.id}/lot", data={"day": "2026-13-40"}).status_code == 422
    client.post(f"/trials/{trial.id}/lot", data={"day": "2026-05-01", "held": "bag"})
    client.post(f"/trials/{trial.id}/stick/tray", data={"tray": "1"})
    cutting = trial.units[0].cuttings[0].id
    assert (
        client.post(
            f"/trials/{trial.id}/stick/cutting", data={"cutting": cutting, "tray": "1", "reason": "eaten"}
        ).status_code
        == 422
    )
    client.post(f"/trials/{trial.id}/stick/cutting", data={"cutting": cutting, "tray": "1", "reason": "broke"})
    text = " ".join(BeautifulSoup(client.get(f"/trials/{trial.id}/stick").text, "html.parser").get_text(" ").split())
    assert "7 stuck + 1 not + 8 left = 16" in text and "1 x broke" in text
    other = create_locked(session, create_person(session))
    session.commit()
    assert (
        client.post(f"/trials/{other.id}/stick/cutting", data={"cutting": cutting, "reason": "broke"}).status_code
        == 404
    )


def test_several_that_were_not_stuck_are_noted_by_their_codes_or_none_is(session: Session, sign_in: SignIn) -> None:
    ines = create_person(session)
    trial, pots = create_locked(session, ines), create_locked(session, ines, cuttings_per_unit=2, cuttings_per_arm=8)
    client = sign_in("scorer")
    for one in (trial, pots):
        client.post(f"/trials/{one.id}/lot", data={"day": "2026-05-01", "held": "bag"})
    one, two, three = (unit.code for unit in trial.units[:3])
    at = f"/trials/{trial.id}/stick/several"

    def status() -> list[str]:
        session.expire_all()
        return [unit.cuttings[0].status for unit in trial.units[:3]]

    other = pots.units[0].code
    for codes, reason, says in (
        (f"{one}\n{other}", "broke", "is of no cutting of this trial"), (f"{one}\nnothing", "broke", "nothing"),
        ("", "broke", "name 1 to 600"), (one, "", "choose why"), (one, "eaten", "choose one of"),
    ):  # fmt: skip
        answer = client.post(at, data={"codes": codes, "reason": reason, "tray": "1"})
        assert answer.status_code in (404, 422) and says in answer.text, (codes, reason)
        assert status() == ["planned"] * 3, "all or none"
    client.post(at, data={"codes": f"{one[:3]} {one[3:]}\n{three.lower()}, {one}", "reason": "broke", "tray": "1"})
    assert status() == ["not stuck", "planned", "not stuck"]
    assert "0 stuck + 2 not" in flat(
        BeautifulSoup(client.get(f"/trials/{trial.id}/stick").text, "html.parser").get_text(" ")
    )
    beside = f"/trials/{pots.id}/stick/several"
    assert "type the number behind it" in client.post(beside, data={"codes": other, "reason": "broke"}).text
    client.post(beside, data={"codes": f"{other}-2", "reason": "broke"})
    session.expire_all()
    assert [cutting.status for cutting in pots.units[0].cuttings] == ["planned", "not stuck"] and two


@pytest.fixture
def scoring(session: Session, sign_in: SignIn):
    researcher, scorer = create_person(session), create_person(session, "scorer")
    trial = create_stuck(session, researcher)
    check = open_endpoint(session, trial, researcher)
    return trial, check, sign_in(person=scorer), sign_in(person=researcher)


def pad(trial: Trial, i: int = 0, **changes: object) -> dict[str, object]:
    values: dict[str, object] = {"cutting": trial.units[i].cuttings[0].id, "revision": 0, "state": "alive", "roots": "counted", "root_number": "4", "longest_root_mm": "12,5", "fit": "yes", "top": "growing"}  # fmt: skip
    return {**values, **changes}


def test_a_kept_score_brings_up_the_next(session: Session, scoring) -> None:
    trial, check, client, _ = scoring
    response = client.post(f"/checks/{check.id}/scores", data=pad(trial), headers={"HX-Request": "true"})
    assert response.status_code == 200
    soup = BeautifulSoup(response.text, "html.parser")
    assert soup.select_one("input[name=cutting]")["value"] == str(trial.units[1].cuttings[0].id)
    assert "1 of 16 seen, 15 unaccounted" in " ".join(soup.get_text().split())
    kept = session.scalars(select(ScoreRecord)).one()
    assert (kept.root_number, kept.longest_root_mm, kept.fit, kept.blind) == (4, 12.5, "yes", True)


@pytest.mark.parametrize(
    ("changes", "message"),
    [
        ({"root_number": "-1"}, "between 1 and 500"),
        ({"root_number": "1000000000"}, "between 1 and 500"),
        ({"roots": "none"}, "leave it empty when roots are"),
        ({"root_number": ""}, "type the number"),
        ({"root_number": "3.5"}, "type a whole number"),
        ({"roots": ""}, "a blank would be a guess"),
        ({"roots": "lots"}, "choose one of the buttons"),
        ({"state": "missing"}, "missing cutting has no roots to see"),
        ({"longest_root_mm": "-2"}, "above 0 and at most 2000"),
        ({"note": "x" * 501}, "within 500"),
        ({"cutting": "99999999"}, "There is no cutting"),
        ({"revision": "3"}, "was taken back while you were looking"),
    ],
)
def test_an_impossible_score_is_refused_and_nothing_written(
    session: Session, scoring, changes: dict, message: str
) -> None:
    trial, check, client, _ = scoring
    for headers in ({}, {"HX-Request": "true"}):
        response = client.post(f"/checks/{check.id}/scores", data=pad(trial, **changes), headers=headers)
        assert 400 <= response.status_code < 500
        assert message in BeautifulSoup(response.text, "html.parser").get_text()
    assert session.scalars(select(ScoreRecord)).all() == []


def test_two_people_on_one_cutting_are_shown_both(scoring) -> None:
    trial, check, scorer, researcher = scoring
    scorer.post(f"/checks/{check.id}/scores", data=pad(trial))
    second = researcher.post(
        f"/checks/{check.id}/scores",
        data=pad(trial, roots="none", root_number="", longest_root_mm="", fit="no"),
        headers={"HX-Request": "true"},
    )
    assert second.status_code == 409
    text = BeautifulSoup(second.text, "html.parser").get_text(" ")
    assert "Theirs" in text and "4 roots" in text and "Yours" in text and "roots none" in text


def test_closing_needs_every_cutting(scoring) -> None:
    trial, check, scorer, researcher = scoring
    assert "unaccounted for" in researcher.post(f"/checks/{check.id}/close").text
    for i in range(len(trial.units)):
        scorer.post(f"/checks/{check.id}/scores", data=pad(trial, i))
    assert researcher.post(f"/checks/{check.id}/close").headers["Location"].endswith("/compare")
    again = researcher.post(f"/checks/{check.id}/close")
    assert again.status_code == 422 and "closed already" in again.text


def test_compare_conclude_and_the_files_agree(session: Session, sign_in: SignIn, tmp_path, capsys) -> None:
    researcher = create_person(session)
    trial = create_finished(session, researcher, create_person(session, "scorer"), "ABC")
    client = sign_in(person=researcher)
    page = client.get(f"/trials/{trial.id}/compare").text
    command = BeautifulSoup(page, "html.parser").select(".margin .calc")[-1].get_text().split()
    file = tmp_path / command[2]
    file.write_text(client.get(f"/trials/{trial.id}/endpoint.csv").text)
    assert main(["analyse", str(file), *command[3:], "--json"]) == 0
    result = json.loads(capsys.readouterr().out)

    analysis = evidence(session, trial).analysis
    assert result["overall"]["p"] == analysis.test.p
    assert [c["p_adjusted"] for c in result["comparisons"]] == [c.p_adjusted for c in analysis.comparisons]
    assert [c["verdict"] for c in result["comparisons"]] == [c.verdict.value for c in analysis.comparisons]


def test_a_conclusion_is_kept_and_contradictions_are_pointed_out(session: Session, sign_in: SignIn) -> None:
    researcher = create_person(session)
    trial = create_finished(session, researcher, create_person(session, "scorer"), "ABCD")
    client = sign_in(person=researcher)
    text = client.post(
        f"/trials/{trial.id}/conclude/working",
        data={"text": "Pumice is better because it drains.", "decision": "adopt"},
    ).text
    assert "says there is a difference" in text and "is a hypothesis" in text
    assert client.post(f"/trials/{trial.id}/conclude", data={"decision": "cheer", "text": "x"}).status_code == 422
    assert (
        client.post(
            f"/trials/{trial.id}/conclude", data={"decision": "repeat", "text": "All rooted; ask about speed."}
        ).status_code
        == 303
    )
    report = client.get(f"/trials/{trial.id}/report").text
    assert "All rooted; ask about speed." in report and trial.digest in report
    pdf = PdfReader(io.BytesIO(client.get(f"/trials/{trial.id}/report.pdf").data))
    words = " ".join("".join(page.extract_text() for page in pdf.pages).split())
    assert "All rooted; ask about speed." in words and "--seed" in words
    assert fonts_of(client.get(f"/trials/{trial.id}/report.pdf").data) == {"Atkinson"}


def test_scores_csv_has_a_row_per_cutting_per_check(session: Session, sign_in: SignIn) -> None:
    trial = create_finished(session, create_person(session), create_person(session, "scorer"))
    lines = sign_in("reader").get(f"/trials/{trial.id}/scores.csv").text.splitlines()
    assert len(lines) == 17
    header, first = lines[0].split(","), lines[1].split(",")
    row = dict(zip(header, first, strict=True))
    assert row["days_after_sticking"] == "42" and row["blind"] == "1" and row["way"] == "lifted and counted"


def test_the_database_away_is_a_clear_page_and_keeps_the_entry(session: Session) -> None:
    person = create_person(session)
    away = create_app({"DATABASE_URL": "mysql+pymysql://nobody:x@127.0.0.1:1/none", "SECRET_KEY": "s", "TESTING": True, "PROPAGATE_EXCEPTIONS": False, "WTF_CSRF_ENABLED": False, "WARM": False, "DEMO": False, "DEVELOPMENT": False})  # fmt: skip
    client = client_of(away, person)
    assert "database does not answer" in client.get("/today").text
    response = client.post("/trials/1/amend", data={"what": "moved tray 2"})
    assert response.status_code == 503 and 'value="moved tray 2"' in response.text and "Save it again" in response.text


def test_a_huge_form_is_refused(sign_in: SignIn) -> None:
    response = sign_in().post("/trials", data={"botanical_name": "x" * 3_000_000})
    assert response.status_code == 413 and "more than a form may hold" in response.text


def test_an_unforeseen_error_is_a_page_not_a_traceback(
    app: Flask, session: Session, sign_in: SignIn, monkeypatch: pytest.MonkeyPatch
) -> None:
    from orderly_bench.chapters.question import operations

    def breaks(*_args: object) -> None:
        raise ZeroDivisionError("a detail for the log")

    monkeypatch.setattr(operations, "create_trial", breaks)
    response = sign_in().post("/trials", data={"botanical_name": "Buxus"})
    assert (
        response.status_code == 500 and "a detail for the log" not in response.text and 'value="Buxus"' in response.text
    )


def test_today_jobs_are_done_with_one_request(session: Session, sign_in: SignIn) -> None:
    from orderly_bench.chapters.tend.operations import jobs_of

    trial = create_stuck(session, create_person(session))
    client = sign_in("scorer")
    assert "Endpoint check, day 42" in client.get("/today").text
    job = jobs_of(session, trial)[-1]
    line = client.post(f"/jobs/{job.id}", headers={"HX-Request": "true"})
    assert "take back" in line.text
    session.expire_all()
    assert job.done_at == NOW


def test_an_incident_by_block_and_by_code(session: Session, sign_in: SignIn) -> None:
    from orderly_bench.chapters.tend.operations import incidents_of

    trial = create_stuck(session, create_person(session))
    outside = next(unit.code for unit in trial.units if unit.group("block") == "block 1")
    form = {
        "kind": "frost",
        "first_day": "2026-05-01",
        "last_day": "2026-05-02",
        "where": ["block 2"],
        "codes": f"{outside[:3]} {outside[3:]}",
        "note": "",
    }
    client = sign_in("scorer")
    assert client.post(f"/trials/{trial.id}/incidents", data=form).status_code == 303
    assert len(incidents_of(session, trial)[0].units) == 9
    assert client.post(f"/trials/{trial.id}/incidents", data={**form, "codes": "ZZZZZ"}).status_code == 404
