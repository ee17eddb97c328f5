"""``./bench words``: the list of every text that the program says, for who wants it in another language."""

from __future__ import annotations

import argparse
import ast
import re
from collections.abc import Iterator
from pathlib import Path

from jinja2 import Environment

from orderly_bench.core.messages import english
from orderly_bench.core.messages.specialists import WORDS
from orderly_bench.formats.catalogue import write_template
from orderly_bench.web.template_texts import LETTER, Html, parts

PACKAGE = Path(__file__).resolve().parents[1]
LIST = PACKAGE.parent / "assets" / "messages.pot"
#: Calls whose texts are said, with which of their arguments.
SAID = {
    "_": [0], "N_": [0], "plan_field": [0], "InvalidInput": [0], "Leaf": [0, 1, 2], "whole": [2], "optional_whole": [2], "optional_number": [2],
    "number": [2], "day": [2], "optional_quantity": [2], "quantity": [2], "choice": [2], "dated": [1],
}  # fmt: skip
#: Strings of an expression that nobody reads: names, addresses, attributes.
CODE = re.compile(r"^.[a-z]*[\d_./:#|-]\S*.$|=[\"\\]")
#: How a date is written.
DATE = re.compile(r"%-?[dbBY]")
#: Modules that are tables of words.
TABLES = (
    "core/vocabulary.py",
    "core/question/starts.py",
    "core/plan/aspects.py",
    "core/stock/genera.py",
    "core/stick/tally.py",
    "core/responses/",
    "trial/access.py",
)


def run(_arguments: argparse.Namespace) -> int:
    """Write the list."""
    words = all_words()
    LIST.write_text(write_template(words), encoding="utf-8")
    print(f"{len(words)} texts are in {LIST.relative_to(PACKAGE.parent)}")
    return 0


def all_words() -> dict[str, str]:
    """Every text with the place it was first found in."""
    found: dict[str, str] = {}
    for text, place in (*_sentences(), *_of_code(), *_of_templates()):
        if LETTER.search(text) or DATE.search(text):
            found.setdefault(text, place)
    return found


def _sentences() -> Iterator[tuple[str, str]]:
    for code, (text, remedy) in english.CAUTIONS.items():
        yield text, f"caution {code}"
        yield remedy, f"caution {code}, what to do"
    for key, text in english.SENTENCES.items():
        yield text, f"sentence {key}"
    for one in WORDS:
        yield from ((one.word, "word"), (one.plain, f"word {one.word}"), (one.more, f"word {one.word}, its name"))


def _of_code() -> Iterator[tuple[str, str]]:
    for file in sorted(PACKAGE.rglob("*.py")):
        place = str(file.relative_to(PACKAGE))
        tree = ast.parse(file.read_text(encoding="utf-8"))
        for node in ast.walk(tree):
            if isinstance(node, ast.Call):
                yield from ((text, place) for text in _said_by(node))
            if isinstance(node, ast.ClassDef) and any("Enum" in ast.unparse(base) for base in node.bases):
                yield from ((text, place) for text in _texts(node.body))
        if place.startswith(TABLES):
            yield from ((text, place) for text in _texts(node for node in tree.body if not isinstance(node, ast.Expr)))


def _said_by(call: ast.Call) -> Iterator[str]:
    name = call.func.id if isinstance(call.func, ast.Name) else getattr(call.func, "attr", "")
    for at in range(len(call.args)) if name == "named" else SAID.get(name, []):
        for n in ast.walk(call.args[at]) if len(call.args) > at else ():
            if isinstance(n, ast.Constant) and isinstance(n.value, str):
                yield n.value


def _texts(nodes) -> Iterator[str]:  # type: ignore[no-untyped-def]
    for node in nodes:
        docs = {id(n.value) for n in ast.walk(node) if isinstance(n, ast.Expr)}
        for n in ast.walk(node):
            if isinstance(n, ast.Constant) and isinstance(n.value, str) and id(n) not in docs:
                yield n.value


def _of_templates() -> Iterator[tuple[str, str]]:
    environment = Environment(
        extensions=["jinja2.ext.loopcontrols"], trim_blocks=True, lstrip_blocks=True, autoescape=True
    )
    for file in sorted(PACKAGE.rglob("templates/**/*.html")):
        place, html = str(file.relative_to(PACKAGE)), Html()
        for _, kind, value in environment.lex(file.read_text(encoding="utf-8")):
            if kind == "data":
                yield from ((text, place) for _, text, _ in parts(html, value) if text)
            if kind == "string" and re.search(r"[A-Za-z]{2}", value) and not CODE.search(value):
                yield value[1:-1], place
