"""A part of the plan: each field says, where it stands, what it is called, how it is typed and whether the draw rests on it.

From that come the form and its page, what stands in the fields, the plan's text, the difference of two plans, what is
drawn, and the limits that every part holds itself to however it was made.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import Field, field, fields, replace
from enum import StrEnum
from functools import lru_cache
from typing import Any, TypeVar

from frozendict import frozendict

from orderly_bench.core.typed import Asked, Kind

#: Behind the name of a box that a page has, ticked or not.
BOX = "_box"


class Page(StrEnum):
    """Where a field is typed."""

    QUESTION = "question"
    DESIGN = "design"


def plan_field(
    words: str, default: Any, typed: Kind | None = None, page: Page | None = None, *, drawn: bool = True
) -> Any:
    """A field that a person calls ``words``; with how and where it is typed, and whether a draw rests on it."""
    return field(default=default, metadata={"words": words, "typed": typed, "page": page, "drawn": drawn})


def mapped(words: str = "") -> Any:
    """A field that holds texts by name; it can't be changed in place."""
    return field(default_factory=frozendict, metadata={"words": words, "mapping": True, "drawn": False})


class Part:
    """A part of the plan holds itself to the limits of its fields, and can't be changed in place."""

    def __post_init__(self) -> None:
        own: Any = type(self)
        for name, words, kind in _limits_of(own):
            kind.check(getattr(self, name), words)
        for name in _mappings_of(own):
            object.__setattr__(self, name, frozendict(getattr(self, name)))


@lru_cache(maxsize=64)
def _limits_of(kind: Any) -> tuple[tuple[str, str, Kind], ...]:
    found: tuple[Field[Any], ...] = fields(kind)
    return tuple((f.name, f.metadata["words"], f.metadata["typed"]) for f in found if f.metadata.get("typed"))


@lru_cache(maxsize=64)
def _mappings_of(kind: Any) -> tuple[str, ...]:
    found: tuple[Field[Any], ...] = fields(kind)
    return tuple(f.name for f in found if f.metadata.get("mapping"))


P = TypeVar("P", bound=Part)


def asked_on(kind: Any, page: Page) -> tuple[Asked, ...]:
    """The fields of a part that a page asks for, in the part's order."""
    found: tuple[Field[Any], ...] = fields(kind)
    return tuple(
        Asked(f.name, f.metadata["words"], f.metadata["typed"]) for f in found if f.metadata.get("page") is page
    )


def read_part(part: P, form: Mapping[str, str], page: Page, before: str = "") -> P:
    """The part with what a page's form says; a field that is not on it stays as it was.

    A box that is not ticked sends nothing: a page that has it sends its name with ``_box`` behind as well.

    Parameters
    ----------
    before : str
        What the names of the fields begin with.

    Raises
    ------
    InvalidInput
        The first field that can't be read, or is beyond its limits.
    """
    made = {}
    for one in asked_on(type(part), page):
        name = before + one.name
        typed = form.get(name, "" if one.kind.box and name + BOX in form else None)
        if typed is not None:
            made[one.name] = one.kind.value_of(tidy(typed), one.words)
    return replace(part, **made)  # type: ignore[type-var]


def unticked(values: dict[str, str], form: Mapping[str, str]) -> dict[str, str]:
    """What stands in the fields once a form was typed: its own, and no tick in a box that it has and did not send."""
    boxes = (name.removesuffix(BOX) for name in form if name.endswith(BOX))
    return {**values, **dict.fromkeys(boxes, ""), **form}


def tidy(typed: str) -> str:
    """Text as typed, ends trimmed, one kind of line end."""
    return typed.replace("\r\n", "\n").strip()


def written_part(part: Part, page: Page, before: str = "") -> dict[str, str]:
    """What stands in the fields of a page."""
    return {before + one.name: one.kind.text_of(getattr(part, one.name)) for one in asked_on(type(part), page)}


def drawn_of(part: Any) -> tuple[object, ...]:
    """The values of a part that a draw rests on, those of the parts in it among them."""
    values = (getattr(part, f.name) for f in fields(part) if f.metadata.get("drawn", True))
    return tuple(drawn_of(value) if isinstance(value, Part) else value for value in values)
