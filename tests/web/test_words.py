"""Every specialist's word that the evidence uses stands on the Words page, its plain line first."""

from __future__ import annotations

import pytest
from bs4 import BeautifulSoup
from sqlalchemy.orm import Session

from orderly_bench.core.messages.specialists import WORDS, known, words_in
from tests.factories import create_finished, create_person
from tests.web.conftest import SignIn

#: Names a reader meets on Compare, Design and in the report.
MET = (
    "Holm", "ICC", "digest", "quasi-binomial", "conditional logistic", "Wilson", "Newcombe", "Klingenberg", "Rao-Scott", "McNemar", "Firth",
    "Cochran-Mantel-Haenszel", "randomisation test", "p", "alpha", "margin", "power", "retrospective", "split-plot", "replicate",
)  # fmt: skip


@pytest.mark.parametrize("word", MET)
def test_each_has_a_plain_line_and_its_name_apart(word: str) -> None:
    found = known(word)
    assert (
        found is not None
        and found.plain.endswith(".")
        and found.more
        and word.casefold() not in found.plain.casefold().split()
    )


def test_the_page_is_a_step_from_the_verdict(session: Session, sign_in: SignIn) -> None:
    trial = create_finished(session, create_person(session), create_person(session, "scorer"))
    client = sign_in("reader")
    page = BeautifulSoup(client.get("/words").text, "html.parser")
    assert [dt.text for dt in page.select(".words dt")] == [word.word for word in WORDS]
    assert 'href="/words"' in client.get(f"/trials/{trial.id}/compare").text
    assert len({word.word.casefold() for word in WORDS}) == len(WORDS)


@pytest.mark.parametrize("page", ["compare", "report", "design"])
def test_every_specialists_word_of_a_page_has_its_plain_line_there(
    session: Session, sign_in: SignIn, page: str
) -> None:
    trial = create_finished(session, create_person(session), create_person(session, "scorer"))
    text = sign_in().get(f"/trials/{trial.id}/{page}").text
    soup = BeautifulSoup(text, "html.parser")
    listed = soup.select_one("dl.words, dl.plain-words")
    assert listed is not None
    told = {dt.text: dd.text for dt, dd in zip(listed.select("dt"), listed.select("dd"), strict=True)}
    listed.extract()
    standing = {
        word.word for word in words_in(soup.main.get_text(" ") if page == "report" else soup.body.get_text(" "))
    }
    assert standing <= set(told), "none is left unsaid"
    assert {word: known(word).plain for word in told} == told  # type: ignore[union-attr]
    assert {"compare": "Holm", "report": "headless", "design": "digest"}[page] in told


def test_letters_are_no_words_of_the_specialists() -> None:
    assert [word.word for word in words_in("p < 0.01 and a pot of powerful marginal digestion")] == ["p"]
    assert words_in("a pinch, p.m., Wilsons-on-Sea, intervalometer") == []
