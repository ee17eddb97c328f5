"""Everything one step behind the verdict: other readings, other responses, figures to take away."""

from __future__ import annotations

import io

import pytest
from bs4 import BeautifulSoup
from PIL import Image
from pypdf import PdfReader
from sqlalchemy.orm import Session

from orderly_bench.chapters.score import operations as score
from orderly_bench.chapters.tend import operations as tend
from orderly_bench.core.judgement.result import Analysis
from orderly_bench.core.responses.kind import Response
from orderly_bench.core.vocabulary import Fit, KnownBy, Roots, Score, State, Top
from orderly_bench.evidence import readings
from orderly_bench.evidence.rows import days_by_cutting
from orderly_bench.trial.checks import checks_of
from orderly_bench.trial.models import Trial
from tests.factories import (
    BARE,
    DAY_ZERO,
    NOW,
    ROOTED,
    TODAY,
    create_finished,
    create_person,
    create_stuck,
    evidence,
    open_endpoint,
)
from tests.web.conftest import SignIn

NAMES = ("rates", "differences", "curves", "numbers", "roots", "lengths", "interaction", "tops")


@pytest.fixture
def finished(session: Session) -> Trial:
    """A and B rooted and are fit, C rooted and is not fit, D bare; one of A missing; an incident on block 2; an earlier check."""
    researcher, scorer = create_person(session), create_person(session, "scorer")
    trial = create_stuck(session, researcher, cuttings_per_arm=8, rows=4, columns=4)
    first = checks_of(session, trial)[0]
    score.open_check(
        session, first, researcher, NOW, score.Looking(DAY_ZERO.replace(day=DAY_ZERO.day), KnownBy.HOLE.value), TODAY
    )
    for unit in trial.units:
        score.keep_score(session, first, unit.cuttings[0], scorer, NOW, BARE)
    score.close_check(session, first, researcher, NOW)
    touched = [u.code for u in trial.units if u.group("block") == "block 2"]
    tend.record_incident(
        session,
        trial,
        scorer,
        NOW,
        tend.Happened(kind="heat", first_day=TODAY, last_day=TODAY, codes=touched, note=""),
        today=TODAY,
    )
    check = open_endpoint(session, trial, researcher)
    missing = next(u for u in trial.units if u.arm.letter == "A")
    for unit in trial.units:
        fit = Fit.YES if unit.arm.letter in "AB" else Fit.NO
        found = (
            Score(State.ALIVE, Roots.COUNTED, 4, 15.0, top=Top.GROWING, fit=fit) if unit.arm.letter in "ABC" else BARE
        )
        found = Score(State.MISSING, Roots.NOT_LOOKED) if unit is missing else found
        score.keep_score(session, check, unit.cuttings[0], scorer, NOW, found)
    score.close_check(session, check, researcher, NOW)
    session.commit()
    return trial


def test_readings_change_the_counts_they_should(session: Session, finished: Trial) -> None:
    found = evidence(session, finished)
    rows = {s.name: s.rows for s in readings.scenarios_of(found)}
    by_name = {name: sum(r.response or 0 for r in made) for name, made in rows.items()}
    assert by_name["only cuttings fit to pot on count"] == 15
    assert by_name["missing and unexamined count as failures"] == 23
    assert len(rows["without the 16 units touched: heat, 20 May"]) == 16
    assert by_name["at the check of day 14, at the hole"] == 0


def test_other_responses_are_read_from_the_scores(session: Session, finished: Trial) -> None:
    found = evidence(session, finished)
    explored = readings.explore(found)
    means = explored[Response.ROOT_COUNT]
    assert isinstance(means, Analysis)
    assert {arm.name: arm.estimate for arm in means.arms} == {
        "pumice + IBA": 4,
        "pumice + none": 4,
        "bark + IBA": 4,
        "bark + none": 0,
    }
    days = list(days_by_cutting(evidence(session, finished).record).values())
    assert sorted({(r.outcome, r.last_without_day, r.first_with_day) for r in days}, key=str) == [
        ("censored", 0.0, None), ("censored", 42.0, None), ("rooted", 0.0, 42.0),
    ]  # fmt: skip


def test_the_page_shows_readings_responses_lenses_and_figures(sign_in: SignIn, finished: Trial) -> None:
    soup = BeautifulSoup(sign_in("reader").get(f"/trials/{finished.id}/compare/more").text, "html.parser")
    assert [figure["id"] for figure in soup.select("figure[id]")] == list(NAMES)
    text = " ".join(soup.get_text(" ").split())
    assert "without the 16 units touched: heat" in text and "Root number" in text and "Bayesian, Jeffreys prior" in text


@pytest.mark.parametrize("name", NAMES)
def test_every_figure_can_be_taken_away(sign_in: SignIn, finished: Trial, name: str) -> None:
    client = sign_in("reader")
    address = f"/trials/{finished.id}/figures/{name}"
    svg = client.get(f"{address}.svg")
    assert svg.mimetype == "image/svg+xml" and "var(" not in svg.text and "<desc>" in svg.text
    pdf = client.get(f"{address}.pdf")
    assert finished.code in " ".join(PdfReader(io.BytesIO(pdf.data)).pages[0].extract_text().split())
    if name == "rates":
        picture = Image.open(io.BytesIO(client.get(f"{address}.png").data))
        assert picture.format == "PNG" and round(picture.info["dpi"][0]) == 300 and picture.width > 2000


def test_figures_wait_for_the_endpoint_and_unknown_ones_are_named(
    session: Session, sign_in: SignIn, finished: Trial
) -> None:
    client = sign_in()
    assert client.get(f"/trials/{finished.id}/figures/pie.svg").status_code == 404
    assert client.get(f"/trials/{finished.id}/figures/rates.gif").status_code == 404
    other = create_stuck(session, create_person(session))
    session.commit()
    assert client.get(f"/trials/{other.id}/figures/rates.svg").status_code == 422
    assert client.get(f"/trials/{other.id}/compare/more").status_code == 422


def test_among_the_rooted_alone_nothing_is_tested(session: Session, finished: Trial, sign_in: SignIn) -> None:
    page = BeautifulSoup(sign_in().get(f"/trials/{finished.id}/compare/more").text, "html.parser")
    row = next(r for r in page.select("tr") if "Root number, rooted only" in r.get_text())
    words = " ".join(row.get_text(" ").split())
    assert "4.0 (n 7)" in words and "4.0 (n 8)" in words and "none rooted" in words
    assert "no p: rooting came after the treatment" in words


def test_captions_count_what_is_drawn(session: Session, sign_in: SignIn, finished: Trial) -> None:
    client = sign_in()
    for page in ("compare", "report"):
        assert (
            "31 of 32 cuttings with a known outcome, Wilson 95 % intervals"
            in client.get(f"/trials/{finished.id}/{page}").text
        )


def test_concluding_works_nothing_out_again_and_a_corrected_score_does(session: Session) -> None:
    from orderly_bench.chapters.conclude.operations import conclude
    from orderly_bench.record.keep import stamp_of

    lead, scorer = create_person(session, "lead"), create_person(session, "scorer")
    trial = create_finished(session, lead, scorer)
    before = stamp_of(session, trial)
    conclude(session, trial, lead, NOW, evidence(session, trial), "repeat", "Sand may be better.")
    assert stamp_of(session, trial) == before
    check = checks_of(session, trial)[-1]
    score.keep_score(
        session, check, trial.units[0].cuttings[0], lead, NOW, BARE, score.Sent(seen_revision=1, reason="looked again")
    )
    assert stamp_of(session, trial) != before


def test_an_arm_of_which_nothing_is_known_hides_no_other(session: Session, sign_in: SignIn) -> None:
    """The tray of arm C was knocked off: A, B and D are compared, C stands with its counts on every page and figure."""
    researcher = create_person(session)
    trial = create_stuck(session, researcher, cuttings_per_arm=8, rows=4, columns=4)
    check = open_endpoint(session, trial, researcher)
    lost = Score(State.MISSING, Roots.NOT_LOOKED)
    for unit in trial.units:
        found = lost if unit.arm.letter == "C" else (ROOTED if unit.arm.letter in "AB" else BARE)
        score.keep_score(session, check, unit.cuttings[0], researcher, NOW, found)
    score.close_check(session, check, researcher, NOW)
    session.commit()
    name = next(arm.name for arm in trial.arms if arm.letter == "C")
    client, where = sign_in("reader"), f"/trials/{trial.id}"
    page = " ".join(BeautifulSoup(client.get(f"{where}/compare").text, "html.parser").get_text(" ").split())
    assert f"{name}: of none of its 8 cuttings is the outcome known".casefold() in page.casefold()
    assert "none of 8 known" in page and "rooted more than" in page
    for path in ("compare/more", "report", "conclude", "figures/rates.svg", "figures/interaction.svg", "endpoint.csv"):
        assert client.get(f"{where}/{path}").status_code == 200, path


def test_two_arms_of_which_one_is_lost_show_the_counts_of_the_other(session: Session, sign_in: SignIn) -> None:
    researcher = create_person(session)
    two = [("medium", "medium", ["pumice", "bark"])]
    trial = create_stuck(session, researcher, factors=two, cuttings_per_arm=8, rows=4, columns=4)
    check = open_endpoint(session, trial, researcher)
    for unit in trial.units:
        found = ROOTED if unit.arm.letter == "A" else Score(State.MISSING, Roots.NOT_LOOKED)
        score.keep_score(session, check, unit.cuttings[0], researcher, NOW, found)
    score.close_check(session, check, researcher, NOW)
    session.commit()
    client, where = sign_in("reader"), f"/trials/{trial.id}"
    page = " ".join(BeautifulSoup(client.get(f"{where}/compare").text, "html.parser").get_text(" ").split())
    assert "Nothing to compare with: pumice 8 of 8 (100 %); bark none of 8 known" in page
    assert "rooted more than" not in page and "Shown" not in page
    for path in ("compare/more", "report", "conclude", "figures/rates.svg", "endpoint.csv", "report.pdf"):
        assert client.get(f"{where}/{path}").status_code == 200, path
