"""Words in the language of the installation: what is written here in English is looked up in that language's list, if there is one.

An English text is its own key, with its values in braces; whole numbers choose between singular and plural by themselves.

>>> tell("must be at least the {n:place|places} to fill", n=12)
'must be at least the 12 places to fill'
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field
from datetime import date


def one_or_many(n: int) -> int:
    """Which form a number takes in English: the first for one, the second for any other."""
    return int(n != 1)


@dataclass(frozen=True)
class Language:
    """What is said instead of each English text, and which of its forms a number takes; a text that is not there stays English."""

    texts: Mapping[str, str] = field(default_factory=dict)
    form_of: Callable[[int], int] = one_or_many


ENGLISH = Language()
_spoken = ENGLISH


def speak(language: Language = ENGLISH) -> None:
    """Say every text so from now on, in the whole process."""
    global _spoken
    _spoken = language


def shown(text: str) -> str:
    """A label in the language spoken."""
    return _spoken.texts.get(text, text)


def word(text: str) -> str:
    """Marks a label for the list of all words; it is looked up where it is shown."""
    return text


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
            return format(int(self), spec)
        forms = spec.removeprefix("~").split("|")
        word = forms[self.form_of(abs(int(self)))]
        return word if spec.startswith("~") else f"{int(self)} {word}"


MONTHS = (
    word("January"), word("February"), word("March"), word("April"), word("May"), word("June"), word("July"), word("August"),
    word("September"), word("October"), word("November"), word("December"),
)  # fmt: skip
IN_SHORT = (
    word("Jan"), word("Feb"), word("Mar"), word("Apr"), word("May"), word("Jun"), word("Jul"), word("Aug"), word("Sep"), word("Oct"),
    word("Nov"), word("Dec"),
)  # fmt: skip


def dated(day: date, form: str = "%-d %b %Y") -> str:
    """A date in the form given, its month in the language spoken.

    >>> dated(date(2026, 3, 9))
    '9 Mar 2026'
    """
    named = form.replace("%B", shown(MONTHS[day.month - 1])).replace("%b", shown(IN_SHORT[day.month - 1]))
    return day.strftime(named)


class Dated:
    """A date in a template, formatted as ``dated`` does."""

    def __init__(self, day: date) -> None:
        self.day = day

    def __format__(self, spec: str) -> str:
        return dated(self.day, spec) if spec else str(self.day)


class Typed(str):
    """What a person typed: it stays as it is."""

    __slots__ = ()


def tell(text: str, **values: object) -> str:
    """A text with its values in place."""
    return within(text, values)


def capital(text: str) -> str:
    """A sentence's first letter as a capital; a name that is no plain word (b0, pH) stays as it was given.

    >>> capital("sand rooted"), capital("b0 lacks sand")
    ('Sand rooted', 'b0 lacks sand')
    """
    first = text.split(" ", 1)[0]
    plain = first.islower() and not any(sign.isdigit() for sign in first)
    return text[:1].upper() + text[1:] if plain else text


def all_of(names: Iterable[str]) -> str:
    """Names with *and* between."""
    return tell(" and ").join(names)


def any_of(names: Iterable[str]) -> str:
    """Names with *or* between."""
    return tell(" or ").join(names)


def within(template: str, values: Mapping[str, object]) -> str:
    """A template with its values in place, as a part of a sentence; a value that is a label is looked up too."""
    said = _spoken.texts.get(template)
    form_of = one_or_many if said is None else _spoken.form_of
    return (said or template).format(**{name: _value(value, form_of) for name, value in values.items()})


def _value(value: object, form_of: Callable[[int], int]) -> object:
    if isinstance(value, int) and not isinstance(value, bool):
        return Counted(value, form_of)
    if isinstance(value, date):
        return Dated(value)
    return shown(str(value)) if isinstance(value, str) and not isinstance(value, Typed) else value
