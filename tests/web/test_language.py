"""Another language: every word that a page says is in the list, and what people typed is left alone."""

from __future__ import annotations

import ast
import io
import re
import shlex
from collections.abc import Iterator
from pathlib import Path

import pytest
from babel.messages.catalog import Catalog
from babel.messages.mofile import write_mo
from babel.messages.pofile import read_po, write_po
from bs4 import BeautifulSoup, NavigableString
from flask import Flask
from sqlalchemy import Connection, delete, select
from sqlalchemy.orm import Session

from orderly_bench.cli.main import main
from orderly_bench.cli.words import LIST, PACKAGE, all_words
from orderly_bench.core.errors import InvalidInput, UnusableData
from orderly_bench.core.messages.say import caution, say
from orderly_bench.core.messages.translation import Language, Typed, use_language
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.stock.genera import SHIPPED
from orderly_bench.database.base import Base
from orderly_bench.demo.tarn_head import load_demo
from orderly_bench.formats.catalogue import read_language, read_texts, write_template
from orderly_bench.trial.models import Lab, Person
from orderly_bench.web.template_texts import Html, parts
from tests.web.conftest import client_of, make_app

CHAPTERS = ("question", "design", "prepare", "stick", "tend", "score", "compare", "conclude")
PAGES = (
    "/", "/trials", *(f"/trials/{{{n}}}/{chapter}" for n in range(4) for chapter in CHAPTERS), "/benches", "/plants", "/cards", "/media", "/genera",
    "/people", "/lab", "/rehearse", "/words", "/trials/{0}/report", "/trials/{0}/compare/more", "/audit",
)  # fmt: skip
#: Pages of results that are kept, asked for in English before and after.
REMEMBERED = ("/trials/{0}/compare", "/trials/{0}/report", "/rehearse")
READS_MADE = {"Accept-Language": "made,en;q=0.5"}
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


#: A language that was made for this: three plural forms, by Polish rules; every text in brackets, longer by a third.
RULE = "nplurals=3; plural=(n==1 ? 0 : n%10>=2 && n%10<=4 && (n%100<12 || n%100>14) ? 1 : 2);"
COUNT = re.compile(r"(\{\w+:~?)([^{}|]*)\|([^{}|]*)\}")


def made_of(text: str) -> str:
    """A text in the made language."""
    forms = COUNT.sub(r"\1\2|\3|\3 many}", text)
    return f"⟦{forms}{'·' * (len(text) // 3)}⟧"


def as_po(texts: dict[str, str], rule: str = RULE) -> str:
    catalog = Catalog(locale=None)
    catalog.mime_headers = [("Content-Type", "text/plain; charset=utf-8"), ("Plural-Forms", rule)]
    for text, said in texts.items():
        catalog.add(text, said)
    held = io.BytesIO()
    write_po(held, catalog, width=0)
    return held.getvalue().decode().replace("#, fuzzy\n", "", 1)


@pytest.fixture(scope="module")
def language(tmp_path_factory: pytest.TempPathFactory) -> Path:
    file = tmp_path_factory.mktemp("language") / "made.po"
    file.write_text(as_po({text: made_of(text) for text in all_words()}), encoding="utf-8")
    return file


@pytest.fixture
def brackets(language: Path) -> Iterator[Path]:
    """The made language; English again afterwards."""
    yield language
    use_language()


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
    app: Flask = make_app(connection, LANGUAGES=str(brackets), DEMO=True)
    session.execute(delete(Lab))
    load_demo(session)
    session.commit()
    sources = " ".join(note.source for note in SHIPPED).casefold()
    known = typed_words(session) | AS_THEY_ARE | set(re.findall("[a-z]+", sources))
    client = client_of(app, session.scalars(select(Person).where(Person.role == "lead")).one())
    trials = sorted(int(n) for n in set(re.findall(r"/trials/(\d+)/", client.get("/trials").text)))
    in_english = {path: client.get(path.format(*trials), follow_redirects=True).text for path in REMEMBERED}
    missing, seen = {}, 0
    for path in PAGES:
        answer = client.get(path.format(*trials), follow_redirects=True, headers=READS_MADE)
        assert answer.status_code == 200, path
        page = BeautifulSoup(answer.text, "html.parser")
        for hidden in page(["script", "style"]):
            hidden.decompose()
        for node in page.find_all(string=lambda text: type(text) is NavigableString):
            seen += str(node).count("⟦")
            words = re.findall(r"[a-z]{4,}", outside(str(node)).casefold())
            missing |= {word: (path, str(node)) for word in words if word not in known}
    assert seen > 2_000, "the pages are said in brackets"
    assert missing == {}
    for path, before in in_english.items():
        after = client.get(path.format(*trials), follow_redirects=True).text
        assert "⟦" not in before + after and len(before) == len(after), "nothing of the other language is remembered"


def test_the_list_is_current() -> None:
    assert LIST.read_text(encoding="utf-8") == write_template(all_words()), "run ./bench words"
    assert read_texts(LIST) == list(all_words())


def texts_handed_on() -> dict[str, str]:
    """Texts that a function keeps in a name before it says them: the list finds them by their mark alone."""
    found = {}
    for file in sorted(PACKAGE.rglob("*.py")):
        for function in ast.walk(ast.parse(file.read_text(encoding="utf-8"))):
            if isinstance(function, ast.FunctionDef) and any(_says_a_name(node) for node in ast.walk(function)):
                texts = (
                    n.value for n in ast.walk(function) if isinstance(n, ast.Constant) and isinstance(n.value, str)
                )
                found |= {
                    text: file.name
                    for text in texts
                    if re.search(r"\{\w+[:}]", text) and re.search("[a-z] [a-z]", text)
                }
    return found


def _says_a_name(node: ast.AST) -> bool:
    called = isinstance(node, ast.Call) and isinstance(node.func, ast.Name) and node.func.id == "_"
    return called and isinstance(node.args[0], ast.Name)  # type: ignore[attr-defined]


def test_a_text_that_is_kept_in_a_name_first_is_in_the_list_too() -> None:
    handed_on = texts_handed_on()
    assert len(handed_on) > 8, "or it finds nothing"
    listed = all_words()
    assert {text: file for text, file in handed_on.items() if text not in listed} == {}


#: What the commands print, and which of their words are the file's own.
PRINTED = {
    "analyse {data} --factors medium,hormone --block block --margin 0.15 --explain": 4_000,
    "analyse {data} --factors medium --response root_count": 400,
    "analyse {data} --rate --want 40": 200,
    "analyse {data} --factors nothing": 10,
    "power --arms 0.45,0.70 --per-arm 24 --per-unit 4 --icc 0.2": 50,
    "rehearse --arms 0.4,0.7 --per-arm 20 --margin 0.15": 200,
    "stick-for --want 100 --from 31/50,18/40 --assurance 0.95": 50,
    "claims {data} --factors medium --text 'Sand rooted more.'": 20,
    "conditions {log} --band 18..24 --tz Europe/London": 150,
    "kappa --table 20,5;10,15 --weights linear": 10,
    "sum dilution --stock 10000 --want 1000 --volume-ml 250": 50,
}
OF_THE_FILE = {"medium", "hormone", "block", "bark", "sand", "none", "rooted", "more"}


@pytest.mark.parametrize("line", PRINTED)
def test_every_word_of_every_command_is_in_the_list(
    brackets: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str], line: str
) -> None:
    data, log = tmp_path / "t.csv", tmp_path / "log.csv"
    rows = (
        f"{'sand' if i % 2 else 'bark'},{'none' if i // 2 % 2 else 'IBA'},{i // 16 + 1},{int(i % 7 < 3 + 2 * (i % 2))},{i % 7 if i % 7 < 3 + 2 * (i % 2) else 0}"
        for i in range(96)
    )
    data.write_text("\n".join(["medium,hormone,block,rooted,root_count", *rows]) + "\n")
    hours = (f"2026-03-{day:02d} {hour:02d}:00,{18 + hour % 8}" for day in range(1, 20) for hour in range(24))
    log.write_text("\n".join(["time,air_c", *hours]) + "\n")
    main([*shlex.split(line.format(data=data, log=log)), "--language", str(brackets)])
    printed = "".join(capsys.readouterr()).replace(str(data), "").replace(str(log), "")
    assert len(printed) > PRINTED[line] and printed.count("⟦") >= 1
    assert set(re.findall(r"[a-z]{4,}", outside(printed).casefold())) <= OF_THE_FILE


@pytest.fixture
def spoken(request: pytest.FixtureRequest) -> Iterator[None]:
    use_language(request.param)
    yield
    use_language()


GERMAN = Language(
    {
        "{n:unit has|units have} no known outcome.": "{n:Einheit|Einheiten} ohne Ergebnis.", "pieces": "Stücke", "must be 1 or more": "mindestens 1",
        "none": "keins", "{a} v {b}": "{a} gegen {b}",
    }
)  # fmt: skip


@pytest.mark.parametrize("spoken", [GERMAN], indirect=True)
def test_sentences_and_refusals_are_said_in_the_language_and_what_was_typed_is_not(spoken: None) -> None:
    assert say("units_lost", n=2) == "2 Einheiten ohne Ergebnis."
    assert str(InvalidInput("pieces", _("must be 1 or more"), "none")) == "Stücke: mindestens 1 (given: none)."
    assert _("{a} v {b}", a="none", b=Typed("none")) == "keins gegen none"
    assert caution("not_drawn", groups="tub").text == "Beside the trial, not drawn, so in no comparison: tub."


def test_english_has_two_forms() -> None:
    assert [say("units_lost", n=n) for n in (0, 1, 2)] == [
        "0 units have no known outcome.", "1 unit has no known outcome.", "2 units have no known outcome.",
    ]  # fmt: skip


def test_a_language_has_as_many_forms_as_it_has_and_english_two_in_the_midst_of_it(tmp_path: Path) -> None:
    file = tmp_path / "pl.po"
    counts = "{n:unit has|units have} no known outcome."
    file.write_text(as_po({counts: "{n:a|b|c}, {n:~x|y|z}"}), encoding="utf-8")
    use_language(read_language(file))
    try:
        assert [_(counts, n=n) for n in (1, 2, 5, 12, 22, 25)] == [
            "1 a, x",
            "2 b, y",
            "5 c, z",
            "12 c, z",
            "22 b, y",
            "25 c, z",
        ]
        assert [_("{n:cutting|cuttings}", n=n) for n in (1, 2, 5, 21)] == [
            "1 cutting",
            "2 cuttings",
            "5 cuttings",
            "21 cuttings",
        ]
    finally:
        use_language()


def test_only_what_is_read_is_looked_up() -> None:
    html = Html()

    def translated(data: str) -> str:
        return "".join(before + text.upper() + after for before, text, after in parts(html, data))

    page = '<p class="all">All  of\n it <b title="Why">now</b></p><script>let all = "All";</script><input value="All" placeholder="'
    assert translated(page) == (
        '<p class="all">ALL OF IT <b title="WHY">NOW</b></p><script>let all = "All";</script><input value="All" placeholder="'
    )
    assert html.read, "an expression here is read out"
    typed = Html()
    list(typed.pieces("<p>As <textarea name='x'>"))
    assert not typed.read, "what a person typed is left alone"
    assert list(typed.pieces("</textarea> Else"))[-1] == (True, " Else")
    assert translated('such as"> 12 %<!-- note --></p>') == 'SUCH AS"> 12 %<!-- note --></p>'


@pytest.mark.parametrize(
    ("texts", "says"),
    [
        ({"{n} of {m}": "{n} von {k}"}, r"1 text has other values .*\{n\} of \{m\}"),
        ({"{n:unit|units}": "{n:Einheit|Einheiten}"}, "not 3 plural forms"),
        ({"a {n}": "b", "c {n}": "d {m}"}, "2 texts have"),
    ],
)
def test_a_translation_that_would_break_is_refused_with_its_texts(
    tmp_path: Path, texts: dict[str, str], says: str
) -> None:
    file = tmp_path / "made.po"
    file.write_text(as_po(texts), encoding="utf-8")
    with pytest.raises(UnusableData, match=says):
        read_language(file)


def test_a_file_that_is_no_language_is_refused(tmp_path: Path) -> None:
    file = tmp_path / "words.po"
    for wrong in ('msgid "All', "nonsense here", as_po({}, "nplurals=2; plural=import os;")):
        file.write_text(wrong)
        with pytest.raises(UnusableData, match="can't be read as a language"):
            read_language(file)
    with pytest.raises(UnusableData, match="can't be read as a language"):
        read_language(tmp_path / "none.po")


def test_blank_and_fuzzy_stay_english_and_a_compiled_file_is_the_same(tmp_path: Path) -> None:
    file = tmp_path / "words.po"
    file.write_text(as_po({"All": "Alles", "None": "", "{x": "{y"}) + '\n#, fuzzy\nmsgid "Some"\nmsgstr "Manche"\n')
    said = read_language(file)
    assert said.texts == {"All": "Alles", "{x": "{y"}
    with file.open("rb") as held, (tmp_path / "words.mo").open("wb") as out:
        write_mo(out, read_po(held))
    assert read_language(tmp_path / "words.mo").texts == said.texts
    assert [read_language(tmp_path / "words.mo").form_of(n) for n in (1, 2, 5)] == [0, 1, 2]


@pytest.mark.parametrize("how", ["before", "behind", "with its sign"])
def test_headless_speaks_it_too(tmp_path: Path, capsys: pytest.CaptureFixture[str], how: str) -> None:
    file, data = tmp_path / "de.po", tmp_path / "t.csv"
    file.write_text(as_po({"there is no column {name!r}": "Spalte {name!r} fehlt"}))
    data.write_text("rooted\n1\n0\n")
    words = ["analyse", str(data), "--factors", "medium"]
    named = {
        "before": ["--language", str(file), *words],
        "behind": [*words, "--language", str(file)],
        "with its sign": [*words, f"--language={file}"],
    }
    try:
        assert main(named[how]) == 2
    finally:
        use_language()
    assert "Spalte 'medium' fehlt" in capsys.readouterr().err


def test_no_page_writes_a_number_in_powers_of_ten(app: Flask) -> None:
    page = app.jinja_env.from_string(
        """{{ "%.3g"|format(1234.5) }}, {{ "%.2g"|format(0.00002) }}, {{ "%s of %g"|format("3", 4) }}"""
    )
    assert page.render() == "1230, 0.00002, 3 of 4"
