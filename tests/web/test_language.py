"""Another language: every word that a page says is in the list, and what people typed is left alone."""

from __future__ import annotations

import functools
import gc
import json
import re
from collections.abc import Iterator
from pathlib import Path

import pytest
from bs4 import BeautifulSoup, NavigableString
from flask import Flask
from sqlalchemy import Connection, delete, select
from sqlalchemy.orm import Session

from orderly_bench.cli.main import main
from orderly_bench.cli.words import LIST, all_words
from orderly_bench.core.errors import InvalidInput, UnusableData
from orderly_bench.core.messages.say import caution, say
from orderly_bench.core.messages.words import Typed, speak, tell
from orderly_bench.core.stock.genera import SHIPPED
from orderly_bench.database.base import Base
from orderly_bench.demo.tarn_head import load_demo
from orderly_bench.evidence import memory
from orderly_bench.formats.word_list import read_language, write_words
from orderly_bench.trial.models import Lab, Person
from orderly_bench.web.words import Html, told
from tests.web.conftest import client_of, make_app

CHAPTERS = ("question", "design", "prepare", "stick", "tend", "score", "compare", "conclude")
PAGES = (
    "/", "/trials", *(f"/trials/{{{n}}}/{chapter}" for n in range(4) for chapter in CHAPTERS), "/benches", "/plants", "/cards", "/media", "/genera",
    "/people", "/lab", "/rehearse", "/words", "/trials/{0}/report", "/trials/{0}/compare/more", "/audit",
)  # fmt: skip
#: Signs of a digest that a page shows: cut there, letters may stand together that nowhere else do.
SHOWN_OF_DIGEST = 12
#: Shown as they are in any language: formats, what the browser is told, the command line.
AS_THEY_ARE = set(
    [
        "html",
        "svg",
        "pdf",
        "png",
        "csv",
        "utc",
        "bench",
        "analyse",
        "endpoint",
        "response",
        "factors",
        "block",
        "margin",
        "alpha",
        "draws",
        "seed",
        "start",
        "family",
        "all",
        "control",
        "unit",
        "whole",
        "plot",
        "rooted",
        "none",
        "with",
    ]
)


def forget_what_was_said() -> None:
    """The language is chosen once, at the start: what this process remembers of another would stay."""
    memory._kept.clear()
    for known in gc.get_objects():
        if isinstance(known, functools._lru_cache_wrapper):
            known.cache_clear()


@pytest.fixture
def brackets(tmp_path: Path) -> Iterator[Path]:
    """A language that says everything in brackets."""
    file = tmp_path / "brackets.json"
    file.write_text(write_words({text: f"⟦{text}⟧" for text in all_words()}))
    forget_what_was_said()
    yield file
    speak()
    forget_what_was_said()


def outside(text: str) -> str:
    """What stands in no bracket."""
    while (shorter := re.sub(r"⟦[^⟦⟧]*⟧", " ", text)) != text:
        text = shorter
    return " ".join(text.split())


def typed_words(session: Session) -> set[str]:
    """Every word of what is stored, with the codes and secrets of the demo lab; of a digest also of the part that pages show."""
    stored = []
    for table in Base.metadata.sorted_tables:
        for row in session.execute(select(table)):
            stored += [str(value) for value in row if isinstance(value, (str, list, dict))]
    stored += [value[:SHOWN_OF_DIGEST] for value in stored if re.fullmatch(r"[0-9a-f]{64}", value)]
    return set(re.findall(r"[a-z]+", " ".join(stored).casefold()))


def test_every_word_of_every_page_is_in_the_list(connection: Connection, session: Session, brackets: Path) -> None:
    app: Flask = make_app(connection, LANGUAGE=str(brackets), DEMO=True)
    session.execute(delete(Lab))
    load_demo(session)
    session.commit()
    sources = " ".join(note.source for note in SHIPPED).casefold()
    known = typed_words(session) | AS_THEY_ARE | set(re.findall("[a-z]+", sources))
    client = client_of(app, session.scalars(select(Person).where(Person.role == "lead")).one())
    trials = sorted(int(n) for n in set(re.findall(r"/trials/(\d+)/", client.get("/trials").text)))
    missing, seen = {}, 0
    for path in PAGES:
        answer = client.get(path.format(*trials), follow_redirects=True)
        assert answer.status_code == 200, path
        page = BeautifulSoup(answer.text, "html.parser")
        for hidden in page(["script", "style", "svg"]):
            hidden.decompose()
        for node in page.find_all(string=lambda text: type(text) is NavigableString):
            seen += str(node).count("⟦")
            words = re.findall(r"[a-z]{4,}", outside(str(node)).casefold())
            missing |= {word: (path, str(node)) for word in words if word not in known}
    assert seen > 2_000, "the pages are said in brackets"
    assert missing == {}


def test_the_list_is_current() -> None:
    assert json.loads(LIST.read_text(encoding="utf-8")) == all_words(), "run ./bench words"


def test_sentences_and_refusals_are_said_in_the_language_and_what_was_typed_is_not() -> None:
    speak(
        {
            "{n:unit has|units have} no known outcome.": "{n:Einheit|Einheiten} ohne Ergebnis.",
            "pieces": "Stücke",
            "none": "keins",
        }.get
    )  # type: ignore[arg-type]
    try:
        assert say("units_lost", n=2) == "2 Einheiten ohne Ergebnis."
    finally:
        speak()
    speak(
        lambda text: {
            "pieces": "Stücke",
            "must be 1 or more": "mindestens 1",
            "none": "keins",
            "{a} v {b}": "{a} gegen {b}",
        }.get(text, text)
    )
    try:
        assert str(InvalidInput("pieces", tell("must be 1 or more"), "none")) == "Stücke: mindestens 1 (given: none)."
        assert tell("{a} v {b}", a="none", b=Typed("none")) == "keins gegen none"
    finally:
        speak()
    assert [say("units_lost", n=n) for n in (0, 1, 2)] == [
        "0 units have no known outcome.",
        "1 unit has no known outcome.",
        "2 units have no known outcome.",
    ]
    assert caution("not_drawn", groups="tub").text == "Beside the trial, not drawn, so in no comparison: tub."


def test_only_what_is_read_is_looked_up() -> None:
    html = Html()
    page = '<p class="all">All  of\n it <b title="Why">now</b></p><script>let all = "All";</script><input value="All" placeholder="'
    assert told(html, page, str.upper) == (
        '<p class="all">ALL OF IT <b title="WHY">NOW</b></p><script>let all = "All";</script><input value="All" placeholder="'
    )
    assert html.read, "an expression here is read out"
    typed = Html()
    list(typed.pieces("<p>As <textarea name='x'>"))
    assert not typed.read, "what a person typed is left alone"
    assert list(typed.pieces("</textarea> Else"))[-1] == (True, " Else")
    assert told(html, 'such as"> 12 %<!-- note --></p>', str.upper) == 'SUCH AS"> 12 %<!-- note --></p>'


def test_a_file_that_is_no_language_is_refused(tmp_path: Path) -> None:
    file = tmp_path / "words.json"
    for wrong, says in (
        ("{", "can't be read as a language"),
        ("[]", "is no list of texts"),
        ('{"All": 3}', "is no list of texts"),
    ):
        file.write_text(wrong)
        with pytest.raises(UnusableData, match=says):
            read_language(file)
    file.write_text('{"All": "Alles", "None": ""}')
    said = read_language(file)
    assert [said(text) for text in ("All", "None", "Else")] == ["Alles", "None", "Else"]


def test_headless_speaks_it_too(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    file, data = tmp_path / "words.json", tmp_path / "t.csv"
    file.write_text('{"there is no column {name!r}": "Spalte {name!r} fehlt"}')
    data.write_text("rooted\n1\n0\n")
    monkeypatch.setenv("ORDERLY_BENCH_LANGUAGE", str(file))
    try:
        assert main(["analyse", str(data), "--factors", "medium"]) == 2
    finally:
        speak()
    assert "Spalte 'medium' fehlt" in capsys.readouterr().err
