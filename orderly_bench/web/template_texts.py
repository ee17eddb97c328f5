"""The texts of templates: a text between tags is its own key in the language's list, and so is a label that an expression prints.

Templates are written in plain English and stay so. Where other languages are offered, each text is looked up as the page is made, in the
language of who asked for it; so is an expression that stands as text, so that labels and names of states follow.
"""

from __future__ import annotations

import re
from collections.abc import Iterator

from jinja2 import pass_context
from jinja2.ext import Extension
from jinja2.lexer import Token, TokenStream
from markupsafe import Markup

from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.messages.translation import number_or

#: Attributes that people read or hear.
READ = ("placeholder", "title", "aria-label", "alt", "data-say")
PIECE = re.compile(r"<!--.*?-->|<|>|\"|[^<>\"]+", re.DOTALL)
NAME = re.compile(r"([a-z-]+)=$")
LETTER = re.compile(r"[A-Za-z]{2}|^[A-Za-z]$")
#: ``{{ "the text"|text_in_language }}``, the text in the place of the blank.
LOOKUP = (("variable_begin", "{{"), ("string", ""), ("pipe", "|"), ("name", "text_in_language"), ("variable_end", "}}"))


class Html:
    """Where in the HTML a template is, followed through its pieces."""

    def __init__(self) -> None:
        self.in_tag, self.attribute, self.raw, self._tag = False, "", False, ""

    @property
    def read(self) -> bool:
        """Whether what stands here is read by people."""
        if self.in_tag:
            return self.attribute in READ
        return not self.raw

    def pieces(self, data: str) -> Iterator[tuple[bool, str]]:
        """The data in pieces, each with whether it is read."""
        for piece in PIECE.findall(data):
            yield self._goes_on(piece), piece

    def _goes_on(self, piece: str) -> bool:
        if piece == "<" and not self.in_tag:
            self.in_tag, self.attribute, self._tag = True, "", ""
        elif piece == ">" and self.in_tag and not self.attribute:
            self.in_tag = False
            self.raw = self._tag.startswith(("script", "style", "textarea"))
        elif piece == '"' and self.in_tag:
            named = NAME.search(self._tag)
            self.attribute = "" if self.attribute else named[1] if named else "?"
            self._tag += piece
        elif self.in_tag and not self.attribute:
            self._tag += piece
        elif not piece.startswith("<!--"):
            return self.read
        return False


def parts(html: Html, data: str) -> Iterator[tuple[str, str, str]]:
    """The data in pieces: blanks before, a text that is looked up, blanks after; where nothing is, all of it stands before."""
    for read, piece in html.pieces(data):
        text = " ".join(piece.split())
        if read and LETTER.search(text):
            yield piece[: len(piece) - len(piece.lstrip())], text, piece[len(piece.rstrip()) :]
        else:
            yield piece, "", ""


@pass_context
def label(_context: object, value: object) -> object:
    """What an expression prints: a plain text is looked up, a number has the language's decimals, anything else stays."""
    if isinstance(value, Markup) or not isinstance(value, str | float):
        return value
    return number_or(str(value), _(str(value)))


@pass_context
def text_of(_context: object, text: str) -> Markup:
    """A text of a template, which is HTML; asked of the context, for else it would be looked up once, as the template is compiled."""
    return Markup(_(text))  # noqa: S704 - the template's own, or the language's file


class Texts(Extension):
    """Look up what a template says, in the language of who reads it."""

    def __init__(self, environment) -> None:  # type: ignore[no-untyped-def]
        super().__init__(environment)
        environment.filters["in_language"] = label
        environment.filters["text_in_language"] = text_of

    def filter_stream(self, stream: TokenStream) -> Iterator[Token]:
        """Tokens with the lookup in the place of each text, and behind each expression that is read."""
        html, wrapped = Html(), False
        for token in stream:
            if token.type == "data":
                yield from _looked_up(html, token)
                continue
            if token.type == "variable_begin":
                wrapped = html.read
                yield token
                if wrapped:
                    yield Token(token.lineno, "lparen", "(")
                continue
            if token.type == "variable_end" and wrapped:
                yield Token(token.lineno, "rparen", ")")
                yield Token(token.lineno, "pipe", "|")
                yield Token(token.lineno, "name", "in_language")
            yield token


def _looked_up(html: Html, token: Token) -> Iterator[Token]:
    for before, text, after in parts(html, token.value):
        if before:
            yield Token(token.lineno, "data", before)
        if text:
            for kind, value in LOOKUP:
                yield Token(token.lineno, kind, value or text)
        if after:
            yield Token(token.lineno, "data", after)
