"""Read typed values from a form; what can't be read is refused by name, never guessed.

Why not WTForms: its fields render and validate for one form class each, while these forms have as many rows as the trial has arms,
and the rules they are checked by are the core's, shared with the headless commands. Flask-WTF gives the token.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from datetime import date
from enum import StrEnum
from math import isfinite
from typing import TypeVar

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.measures import Measure, read_as, units_of
from orderly_bench.core.messages.words import tell

LONGEST_NUMBER = 20
#: Digits of an id are fewer.
LONGEST_ID = 10
WHOLE = re.compile(r"-?[0-9]+")
#: What no keyboard types and no page shows; line ends and tabs are text.
CONTROL = re.compile(r"[\x00-\x08\x0b\x0c\x0e-\x1f\x7f]")
Form = Mapping[str, str]
Choice = TypeVar("Choice", bound=StrEnum)


def text(form: Form, name: str) -> str:
    """Text as typed, ends trimmed, one kind of line end."""
    return form.get(name, "").replace("\r\n", "\n").strip()


def whole(form: Form, name: str, label: str) -> int:
    """A whole number."""
    typed = text(form, name)
    if len(typed) > LONGEST_NUMBER or WHOLE.fullmatch(typed) is None:
        raise InvalidInput(label, tell("type a whole number"), typed or "nothing")
    return int(typed)


def number(form: Form, name: str, label: str) -> float:
    """A number, with a point or a comma before the decimals."""
    typed = text(form, name).replace(",", ".")
    try:
        value = float(typed) if len(typed) <= LONGEST_NUMBER else float("nan")
    except ValueError:
        value = float("nan")
    if not isfinite(value):
        raise InvalidInput(label, tell("type a number"), typed or "nothing")
    return value


def measured(form: Form, name: str, label: str, measure: Measure) -> float:
    """A length or volume: a bare number in ``measure``, or one with its unit behind it."""
    typed = text(form, name)
    value = read_as(typed, measure)
    if value is None:
        raise InvalidInput(
            label,
            tell("type a number, or one with {units_of} behind it", units_of=units_of(measure)),
            typed or "nothing",
        )
    return value


def optional_measured(form: Form, name: str, label: str, measure: Measure) -> float | None:
    """The same, or None when left empty."""
    return measured(form, name, label, measure) if text(form, name) else None


def optional_litres(form: Form, name: str, label: str) -> float | None:
    """Litres, or a volume with its unit behind it; None when left empty. A bare number is litres."""
    typed = text(form, name)
    bare = typed.replace(",", ".").replace(".", "", 1).isdigit()
    value = optional_measured({name: f"{typed} L" if bare else typed}, name, label, Measure.ML)
    return None if value is None else value / 1000


def sent_number(typed: str) -> int | None:
    """A whole number that a page itself put into a field or address, such as an id; None for anything else."""
    return int(typed) if typed.isascii() and typed.isdigit() and len(typed) < LONGEST_ID else None


def one_of(form: Form, name: str, label: str, choices: type[Choice]) -> Choice:
    """One of the values of an enumeration."""
    typed = text(form, name)
    if typed not in list(choices):
        raise InvalidInput(label, tell("choose one of: {names}", names=", ".join(choices)), typed or "nothing")
    return choices(typed)


def optional_whole(form: Form, name: str, label: str) -> int | None:
    """A whole number, or None when left empty."""
    return whole(form, name, label) if text(form, name) else None


def optional_number(form: Form, name: str, label: str) -> float | None:
    """A number, or None when left empty."""
    return number(form, name, label) if text(form, name) else None


def day(form: Form, name: str, label: str) -> date:
    """A date as the browser's date field sends it."""
    typed = text(form, name)
    try:
        return date.fromisoformat(typed)
    except ValueError:
        raise InvalidInput(label, tell("choose a date (year-month-day)"), typed or "nothing") from None


def lines(form: Form, name: str) -> list[str]:
    """One entry per line, blank ones dropped."""
    return [line.strip() for line in text(form, name).split("\n") if line.strip()]


def control_character_in(form: Form) -> str:
    """Name of the first field that holds a control character; blank when none does."""
    return next((name for name in form if CONTROL.search(name) or CONTROL.search(form[name])), "")
