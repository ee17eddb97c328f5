"""The words of templates: a text between tags is its own key in the language's list, and so is a label that an expression prints.

Templates are written in plain English and stay so. Where a language is spoken, each text is looked up once, when its template is
compiled; an expression that stands as text is looked up when it is printed, so that labels and names of states follow.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator

from jinja2.ext import Extension
from jinja2.lexer import Token, TokenStream
from markupsafe import Markup

from orderly_bench.core.messages.words import shown

#: Attributes that people read or hear.
READ = ("placeholder", "title", "aria-label", "alt", "data-say")
PIECE = re.compile(r"<!--.*?-->|<|>|\"|[^<>\"]+", re.DOTALL)
NAME = re.compile(r"([a-z-]+)=$")
LETTER = re.compile(r"[A-Za-z]{2}|^[A-Za-z]$")


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


def told(html: Html, data: str, lookup: Callable[[str], str] = shown) -> str:
    """The data with what is read in it looked up; blanks at the ends of a text stay."""
    return "".join(_looked_up(piece, lookup) if read else piece for read, piece in html.pieces(data))


def _looked_up(text: str, lookup: Callable[[str], str]) -> str:
    inner = " ".join(text.split())
    if not LETTER.search(inner):
        return text
    start, end = text[: len(text) - len(text.lstrip())], text[len(text.rstrip()) :]
    return f"{start}{lookup(inner)}{end}"


def label(value: object) -> object:
    """What an expression prints: a plain text is looked up, anything else stays."""
    return shown(str(value)) if isinstance(value, str) and not isinstance(value, Markup) else value


class Words(Extension):
    """Look a template's words up as it is compiled."""

    def __init__(self, environment) -> None:  # type: ignore[no-untyped-def]
        super().__init__(environment)
        environment.filters["in_language"] = label

    def filter_stream(self, stream: TokenStream) -> Iterator[Token]:
        """Tokens with their texts looked up, and expressions that are read with the lookup behind them."""
        html, wrapped = Html(), False
        for token in stream:
            if token.type == "data":
                yield Token(token.lineno, "data", told(html, token.value))
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
