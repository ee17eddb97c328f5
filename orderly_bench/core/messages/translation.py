"""Texts in the language of who reads: what is written here in English is looked up in that language's list, if there is one.

An English text is its own key, with its values in braces; whole numbers choose between singular and plural by themselves.

>>> gettext("must be at least the {n:place|places} to fill", n=12)
'must be at least the 12 places to fill'
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Mapping
from contextvars import ContextVar
from dataclasses import dataclass, field
from datetime import date
from decimal import Decimal as Exactly
from functools import lru_cache, wraps
from typing import ParamSpec, TypeVar

#: As Python writes what is large or small.
_NUMBER = re.compile(r"[-+\u2212]?\d+\.\d+")
_POWER = re.compile(r"[+-]?\d+(?:\.\d+)?e[+-]\d+")


def one_or_many(n: int) -> int:
    """Which form a number takes in English: the first for one, the second for any other."""
    return int(n != 1)


@dataclass(frozen=True)
class Language:
    """What is said instead of each English text, which of its forms a number takes, and the mark before its decimals; a text that is not
    there stays English.
    """

    texts: Mapping[str, str] = field(default_factory=dict)
    form_of: Callable[[int], int] = one_or_many
    code: str = "en"
    name: str = "English"
    decimal: str = "."


ENGLISH = Language()
#: Of the process, and of who is answered just now, where that is another.
_usual = ENGLISH
_here: ContextVar[Language | None] = ContextVar("language", default=None)


def language() -> Language:
    """The language in use here."""
    return _here.get() or _usual


def use_language(chosen: Language = ENGLISH) -> None:
    """Put every text in this language from now on, in the whole process, wherever no other is chosen for who is answered."""
    global _usual
    _usual = chosen


def answer_in(chosen: Language | None) -> None:
    """Put texts in this language for who is answered here; None: in that of the process again."""
    _here.set(chosen)


def gettext(text: str, **values: object) -> str:
    """A text in the language in use, with its values in place if it has any; imported as ``_``."""
    return within(text, values) if values else language().texts.get(text, text)


def gettext_noop(text: str) -> str:
    """Marks a label for the list of all texts; it is looked up where it is shown. Imported as ``N_``."""
    return text


Given = ParamSpec("Given")
Made = TypeVar("Made")


def cached_per_language(most: int) -> Callable[[Callable[Given, Made]], Callable[Given, Made]]:
    """``lru_cache`` of a function whose result holds texts: each language has its own."""

    def decorate(function: Callable[Given, Made]) -> Callable[Given, Made]:
        @lru_cache(maxsize=most)
        def known(_code: str, *args: Given.args, **kwargs: Given.kwargs) -> Made:
            return function(*args, **kwargs)

        @wraps(function)
        def asked(*args: Given.args, **kwargs: Given.kwargs) -> Made:
            return known(language().code, *args, **kwargs)  # type: ignore[arg-type]

        return asked

    return decorate


class Counted(int):
    """A whole number in a template: ``{n:unit|units}`` is the number with its noun, ``{n:~is|are}`` the word alone.

    There are as many forms as the language of the template has.
    """

    form_of: Callable[[int], int]

    def __new__(cls, number: int, form_of: Callable[[int], int] = one_or_many) -> Counted:
        """The number, with the rule by which it chooses its form."""
        made = super().__new__(cls, number)
        made.form_of = form_of
        return made

    def __format__(self, spec: str) -> str:
        if "|" not in spec:
            return in_full(format(int(self), spec))
        forms = spec.removeprefix("~").split("|")
        word = forms[self.form_of(abs(int(self)))]
        return word if spec.startswith("~") else f"{int(self)} {word}"


_ = gettext
N_ = gettext_noop

MONTHS = (
    N_("January"), N_("February"), N_("March"), N_("April"), N_("May"), N_("June"), N_("July"), N_("August"),
    N_("September"), N_("October"), N_("November"), N_("December"),
)  # fmt: skip
IN_SHORT = (
    N_("Jan"), N_("Feb"), N_("Mar"), N_("Apr"), N_("May"), N_("Jun"), N_("Jul"), N_("Aug"), N_("Sep"), N_("Oct"),
    N_("Nov"), N_("Dec"),
)  # fmt: skip


def dated(day: date, form: str = N_("%-d %b %Y")) -> str:
    """A date in the form given, which is a text as any other, its month in the language in use.

    >>> dated(date(2026, 3, 9))
    '9 Mar 2026'
    """
    named = _(form).replace("%B", _(MONTHS[day.month - 1])).replace("%b", _(IN_SHORT[day.month - 1]))
    return day.strftime(named)


class Dated:
    """A date in a template, formatted as ``dated`` does."""

    def __init__(self, day: date) -> None:
        self.day = day

    def __format__(self, spec: str) -> str:
        return dated(self.day, spec) if spec else str(self.day)


class Decimal(float):
    """A number in a template, with the language's mark before its decimals."""

    def __format__(self, spec: str) -> str:
        return decimal(in_full(format(float(self), spec)))


def in_full(written: str) -> str:
    """A number without powers of ten; any other text as it is.

    >>> in_full("1.23e+03"), in_full("5e-05"), in_full("12.5"), in_full("inf")
    ('1230', '0.00005', '12.5', 'inf')
    """
    return f"{Exactly(written):f}" if _POWER.fullmatch(written) else written


def decimal(written: str) -> str:
    """A number as it is written in English, with the mark that the language in use has before decimals.

    >>> decimal("12.5")
    '12.5'
    """
    return written.replace(".", language().decimal)


def number_or(written: str, otherwise: str) -> str:
    """What stands by itself on a page or in a figure: a number with the language's decimals, anything else as given.

    >>> number_or("12.5", ""), number_or("12.5 ppm", "12.5 ppm")
    ('12.5', '12.5 ppm')
    """
    return decimal(written) if _NUMBER.fullmatch(written) else otherwise


class Typed(str):
    """What a person typed: it stays as it is."""

    __slots__ = ()


def capital(text: str) -> str:
    """A sentence's first letter as a capital; a name that is no plain word (b0, pH) stays as it was given.

    >>> capital("sand rooted"), capital("b0 lacks sand")
    ('Sand rooted', 'b0 lacks sand')
    """
    first = text.split(" ", 1)[0]
    plain = first.islower() and not any(sign.isdigit() for sign in first)
    return text[:1].upper() + text[1:] if plain else text


def all_of(names: Iterable[str]) -> str:
    """Names with *and* before the last: "medium", "medium and hormone", "medium, hormone and cover"."""
    return _series(names, _(" and "))


def any_of(names: Iterable[str]) -> str:
    """Names with *or* before the last."""
    return _series(names, _(" or "))


def _series(names: Iterable[str], between: str) -> str:
    *first, last = [*names] or [""]
    return between.join([", ".join(first), last]) if first else last


def within(template: str, values: Mapping[str, object]) -> str:
    """A template with its values in place, as a part of a sentence; a value that is a label is looked up too."""
    used = language()
    translated = used.texts.get(template)
    form_of = one_or_many if translated is None else used.form_of
    return (translated or template).format(**{name: _value(value, form_of) for name, value in values.items()})


def _value(value: object, form_of: Callable[[int], int]) -> object:
    if isinstance(value, int) and not isinstance(value, bool):
        return Counted(value, form_of)
    if isinstance(value, float):
        return Decimal(value)
    if isinstance(value, date):
        return Dated(value)
    return _(str(value)) if isinstance(value, str) and not isinstance(value, Typed) else value
