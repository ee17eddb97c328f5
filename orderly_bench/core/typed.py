"""How a value is typed: read from text, written back, held to its limits. What can't be read is refused by name, never guessed."""

from __future__ import annotations

import re
from collections.abc import Callable, Collection, Iterable, Mapping
from contextvars import ContextVar
from dataclasses import dataclass, field
from datetime import date, datetime
from enum import StrEnum
from math import isfinite
from typing import Any, TypeVar

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.measures import Measure, read_as, units_of
from orderly_bench.core.messages.numbers import plain
from orderly_bench.core.messages.translation import gettext as _

LONGEST_NUMBER = 20
#: Small numbers as people write them.
NUMBER_WORDS = {
    "one": 1,
    "two": 2,
    "three": 3,
    "four": 4,
    "five": 5,
    "six": 6,
    "seven": 7,
    "eight": 8,
    "nine": 9,
    "ten": 10,
}
WHOLE = re.compile(r"-?[0-9]+")
#: A field that may not be left blank.
NEEDED: Any = object()
Choice = TypeVar("Choice", bound=StrEnum)


def read_whole(typed: str, label: str) -> int:
    """A whole number."""
    if len(typed) > LONGEST_NUMBER or WHOLE.fullmatch(typed) is None:
        raise InvalidInput(label, _("type a whole number"), typed or "nothing")
    return int(typed)


def read_number(typed: str, label: str) -> float:
    """A number, with a point or a comma before the decimals."""
    try:
        value = float(typed.replace(",", ".")) if len(typed) <= LONGEST_NUMBER else float("nan")
    except ValueError:
        value = float("nan")
    if not isfinite(value):
        raise InvalidInput(label, _("type a number"), typed or "nothing")
    return value


def read_measured(typed: str, label: str, measure: Measure) -> float:
    """A length or volume: a bare number in ``measure``, or one with its unit behind it."""
    value = read_as(typed, measure)
    if value is None:
        rule = _("type a number, or one with {units_of} behind it", units_of=units_of(measure))
        raise InvalidInput(label, rule, typed or "nothing")
    return value


def read_choice(typed: str, label: str, choices: type[Choice]) -> Choice:
    """One of the values of an enumeration."""
    if typed not in list(choices):
        raise InvalidInput(label, _("choose one of: {names}", names=", ".join(choices)), typed or "nothing")
    return choices(typed)


class DayOrder(StrEnum):
    """How a lab writes days with strokes; without one a day that can be read in two ways is asked about."""

    ASK = "ask"
    DAY_FIRST = "day first"
    MONTH_FIRST = "month first"


#: Asked for the lab's order where a day can be read in two ways, and only then.
day_order: ContextVar[Callable[[], DayOrder] | None] = ContextVar("day_order", default=None)
_STROKES = {DayOrder.DAY_FIRST: "%d/%m/%Y", DayOrder.MONTH_FIRST: "%m/%d/%Y"}
_NO_MONTH = re.compile(r"(?:the )?\d{1,2}(?:\.|st|nd|rd|th)?", re.IGNORECASE)
_COUNTED_DAY = re.compile(r"(?:on )?day \d+\b.*", re.IGNORECASE)


def read_day(typed: str, label: str) -> date:
    """A date: year-month-day as the browser's field sends it, or as people write it where it can be read in one way only, or as the
    lab writes it.

    >>> read_day("31.3.2026", "day") == read_day("31 Mar 2026", "day") == read_day("3/31/2026", "day") == date(2026, 3, 31)
    True
    """
    plain = _AROUND.sub("", " ".join(typed.split()))
    found = {day for form in _FORMS_OF_DAY if (day := _day_as(plain, form)) is not None}
    if len(found) > 1:
        ask = day_order.get()
        found &= {_day_as(plain, _STROKES.get(ask() if ask else DayOrder.ASK, ""))}
        if not found:
            raise InvalidInput(label, _("can be read as two days; write it year-month-day"), typed)
    if found:
        return found.pop()
    if _NO_MONTH.fullmatch(typed.strip()):
        rule = _("is a day without its month; write year-month-day")
    elif _COUNTED_DAY.fullmatch(typed.strip()):
        rule = _("is a day counted from another; write the date itself, year-month-day")
    else:
        rule = _("choose a date (year-month-day)")
    raise InvalidInput(label, rule, typed or "nothing")


#: Points part the day from the month and it from the year; strokes are read both ways about.
_FORMS_OF_DAY = (
    "%Y-%m-%d", "%Y/%m/%d", "%d.%m.%Y", "%d %b %Y", "%d %B %Y", "%d-%b-%Y", "%b %d %Y", "%B %d %Y",
    "%d/%m/%Y", "%m/%d/%Y",
)  # fmt: skip
#: Beside a date and no part of it: the day of the week, *th* behind the day, *of*, a comma or point behind a name.
_AROUND = re.compile(
    r"^(?:mon|tue|wed|thu|fri|sat|sun)[a-z]*[,.]? |(?<=\d)(?:st|nd|rd|th)\b|\bof (?=[a-z])|(?<=\d),(?= \d{4}$)|(?<=[a-z]{3})\.(?= )",
    re.IGNORECASE,
)


def _day_as(typed: str, form: str) -> date | None:
    try:
        return datetime.strptime(typed, form).date()
    except ValueError:
        return None


def written(value: object) -> str:
    """A plain value as it stands in a field.

    >>> written(2.50), written(12345.67), written(True), written(None), written(("base", "tip"))
    ('2.5', '12345.67', 'yes', '', 'base, tip')
    """
    if value is None or value is False:
        return ""
    if value is True:
        return "yes"
    if isinstance(value, float):
        return f"{value:.10g}"
    return ", ".join(map(str, value)) if isinstance(value, tuple) else str(value)


@dataclass(frozen=True)
class Kind:
    """A kind of field.

    Attributes
    ----------
    read : callable
        From what was typed, and the field's label, to the value; raises InvalidInput.
    write : callable
        The text again.
    check : callable
        Holds a value to the field's limits, however it came about; raises InvalidInput.
    blank : object
        What a field left blank stands for, ``NEEDED`` where it may not be.
    box : bool
        A box to tick, which sends nothing when it is not.
    html : mapping
        Attributes of the field on a page.
    options : tuple of (value, words)
        Of a choice.
    limits : tuple of float, or None
        Least and greatest, of a number.
    """

    read: Callable[[str, str], Any]
    write: Callable[[Any], str] = written
    check: Callable[[Any, str], None] = lambda value, label: None
    blank: Any = NEEDED
    box: bool = False
    html: Mapping[str, str] = field(default_factory=dict)
    options: tuple[tuple[str, str], ...] = ()
    limits: tuple[float, float] | None = None

    @property
    def kind(self) -> str:
        """The type of its field on a page."""
        return self.html.get("type", "text")

    @property
    def numeric(self) -> bool:
        """Whether it takes a number alone."""
        return "data-number" in self.html or self.kind == "number"

    @property
    def long(self) -> bool:
        """Whether it takes several lines."""
        return "rows" in self.html

    @property
    def attributes(self) -> dict[str, str]:
        """Attributes of its field, but for the type."""
        return {name: value for name, value in self.html.items() if name != "type"}

    def value_of(self, typed: str, label: str) -> Any:
        """What a field as typed says."""
        return self.blank if not typed and self.blank is not NEEDED else self.read(typed, label)

    def text_of(self, value: Any) -> str:
        """What stands in the field."""
        return "" if self.blank is not NEEDED and value == self.blank else self.write(value)


def _within(least: float, most: float, blank: Any) -> Callable[[Any, str], None]:
    def check(value: Any, label: str) -> None:
        if value != blank and not least <= value <= most:
            rule = _("must be between {least} and {most}", least=plain(least), most=plain(most))
            raise InvalidInput(label, rule + ("" if blank is NEEDED else _("; leave it blank for none")), value)

    return check


def whole(least: int, most: int, blank: Any = NEEDED) -> Kind:
    """A whole number within its limits."""
    html = {"type": "number", "min": str(least), "max": str(most)}
    return Kind(
        read_whole, check=_within(least, most, blank), blank=blank, html=_needed(html, blank), limits=(least, most)
    )


#: How a field for decimals is written: as text, for a browser's own field of numbers drops a comma that is not its language's.
DECIMAL = {"inputmode": "decimal", "data-number": "yes"}


def number(least: float, most: float, blank: Any = NEEDED) -> Kind:
    """A number within its limits."""
    html = DECIMAL if least >= 0 else {"data-number": "yes"}
    return Kind(
        read_number, check=_within(least, most, blank), blank=blank, html=_needed(html, blank), limits=(least, most)
    )


#: Of a map of winters, such as 8b or zone 8.
HARDINESS_ZONE = re.compile(r"(?i)\s*(usda\s*)?(zone\s*h?\s*\d{1,2}\s*[ab]?|h?\d{1,2}\s*[ab])\s*")


def degrees_gained(least: float, most: float) -> Kind:
    """Degrees that cover and heat gain, or none; a hardiness zone is refused for what it is."""
    plain = number(least, most, None)

    def read(typed: str, label: str) -> float:
        if HARDINESS_ZONE.fullmatch(typed):
            rule = _(
                "a hardiness zone says how cold winters get at a place and adds no degrees; type how much warmer it was inside than outside"
            )
            raise InvalidInput(label, rule, typed)
        return read_number(typed, label)

    return Kind(read, check=plain.check, blank=None, html={"inputmode": "decimal"}, limits=plain.limits)


def in_own_unit() -> Kind:
    """A number, or none, whose limits depend on what it is of."""
    return Kind(read_number, blank=None, html=DECIMAL)


def quantity(measure: Measure, least: float, most: float, blank: Any = NEEDED) -> Kind:
    """A length or volume within its limits; a unit may be typed behind it."""
    return Kind(
        lambda typed, label: read_measured(typed, label, measure),
        check=_within(least, most, blank),
        blank=blank,
        html=_needed({"inputmode": "decimal"}, blank),
        limits=(least, most),
    )


def _needed(html: dict[str, str], blank: Any) -> dict[str, str]:
    return {**html, "required": ""} if blank is NEEDED else html


def text(longest: int, blank: str = "") -> Kind:
    """Text of so many characters at most; left blank it is ``blank``."""

    def check(value: str, label: str) -> None:
        if len(value) > longest:
            rule = _("keep it within {longest} characters", longest=longest)
            raise InvalidInput(label, rule, _("{n} characters", n=len(value)))

    return Kind(
        lambda typed, _: typed or blank, str, check, blank="" if not blank else NEEDED, html={"maxlength": str(longest)}
    )


def one_of(choices: type[StrEnum]) -> Kind:
    """One of the values of an enumeration."""
    options = tuple((one.value, one.value) for one in choices)
    return Kind(lambda typed, label: read_choice(typed, label, choices), options=options)


def named(*options: tuple[Any, str]) -> Kind:
    """One of a few values with words of their own; left blank, the first."""
    values = {str(value): value for value, _ in options}
    words = ", ".join(told for _, told in options)

    def read(typed: str, label: str) -> Any:
        if typed and typed not in values:
            raise InvalidInput(label, _("choose one of: {names}", names=words), typed)
        return values[typed] if typed else options[0][0]

    def check(value: Any, label: str) -> None:
        if value not in values.values():
            raise InvalidInput(label, _("choose one of: {names}", names=words), value)

    return Kind(read, str, check, options=tuple((str(value), told) for value, told in options))


def ticked() -> Kind:
    """A box."""
    return Kind(lambda typed, _: typed == "yes", box=True)


def yes_or_no() -> Kind:
    """Yes, no, or not said."""
    options = (("", "not said"), ("yes", "yes"), ("no", "no"))
    told = {"yes": True, "no": False}
    return Kind(lambda typed, _: told.get(typed), lambda value: "yes" if value else "no", blank=None, options=options)


def day() -> Kind:
    """A date, or none."""
    return Kind(read_day, blank=None, html={"type": "date"})


def lines(read: Callable[[str], Any], write: Callable[[Any], str]) -> Kind:
    """What is written a line each."""
    return Kind(lambda typed, _: read(typed), write, blank=(), html={"rows": "3"})


def words_list(least: int, most: int, longest: int) -> Kind:
    """Several words with commas between, or none."""

    def read(typed: str, label: str) -> tuple[str, ...]:
        found = tuple(part.strip() for part in typed.split(",") if part.strip())
        if not least <= len(found) <= most or any(len(part) > longest for part in found):
            rule = _("name {least} to {most}, comma between, or leave it blank", least=least, most=most)
            raise InvalidInput(label, rule, typed)
        return found

    return Kind(read, blank=(), html={"maxlength": str(most * (longest + 2))})


@dataclass(frozen=True)
class Asked:
    """A field asked for by itself: its name in a form or as an option (dashes), its words, how it is typed."""

    name: str
    words: str
    kind: Kind

    @property
    def option(self) -> str:
        """``--volume-ml``."""
        return "--" + self.name.replace("_", "-")


def read_those_typed(asked: Iterable[Asked], typed: Mapping[str, str], needed: Collection[str] = ()) -> dict[str, Any]:
    """The values of the fields that were not left blank, by name.

    Raises
    ------
    InvalidInput
        Names the field, the rule and what was typed; a ``needed`` one that was left blank too.
    """
    values = {}
    for one in asked:
        said, label = typed.get(one.name, "").strip(), _(one.words)
        if said:
            values[one.name] = one.kind.read(said, label)
            one.kind.check(values[one.name], label)
        elif one.name in needed:
            raise InvalidInput(label, _("must be given"))
    return values
