"""Read typed values from a form; what can't be read is refused by name, never guessed.

Why not WTForms: its fields render and validate for one form class each, while these forms have as many rows as the trial has arms,
and the rules they are checked by are the core's, shared with the headless commands. Flask-WTF gives the token.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from contextlib import closing
from datetime import date
from enum import StrEnum
from typing import IO, TypeVar

from werkzeug.datastructures import FileStorage

from orderly_bench.core import typed
from orderly_bench.core.measures import Measure
from orderly_bench.core.plan.part import tidy

#: Digits of an id are fewer.
LONGEST_ID = 10
#: What no keyboard types and no page shows; line ends and tabs are text.
CONTROL = re.compile(r"[\x00-\x08\x0b\x0c\x0e-\x1f\x7f]")
Form = Mapping[str, str]
Choice = TypeVar("Choice", bound=StrEnum)


def text(form: Form, name: str) -> str:
    """Text as typed, ends trimmed, one kind of line end."""
    return tidy(form.get(name, ""))


def whole(form: Form, name: str, label: str) -> int:
    """A whole number."""
    return typed.read_whole(text(form, name), label)


def number(form: Form, name: str, label: str) -> float:
    """A number, with a point or a comma before the decimals."""
    return typed.read_number(text(form, name), label)


def quantity(form: Form, name: str, label: str, measure: Measure) -> float:
    """A length or volume: a bare number in ``measure``, or one with its unit behind it."""
    return typed.read_measured(text(form, name), label, measure)


def optional_quantity(form: Form, name: str, label: str, measure: Measure) -> float | None:
    """The same, or None when left empty."""
    return quantity(form, name, label, measure) if text(form, name) else None


def file(files: Mapping[str, FileStorage], name: str) -> tuple[str, bytes | None]:
    """Name and content of a file that was sent, None where none was; its place on the disk is given back.

    Read once and kept with it: a change that collides with another is tried again.
    """
    sent = files.get(name)
    if sent is None or not sent.filename:
        return "", None
    if "content" not in vars(sent):
        with closing(sent):
            vars(sent)["content"] = sent.read()
    return sent.filename, vars(sent)["content"]


def stream(files: Mapping[str, FileStorage], name: str) -> IO[bytes] | None:
    """A file that was sent, from its beginning, None where none was; it lies on the disk where it is large."""
    sent = files.get(name)
    if sent is None or not sent.filename:
        return None
    sent.stream.seek(0)
    return sent.stream


def sent_number(sent: str) -> int | None:
    """A whole number that a page itself put into a field or address, such as an id; None for anything else."""
    return int(sent) if sent.isascii() and sent.isdigit() and len(sent) < LONGEST_ID else None


#: Days that an entry may have waited on a device; with another day its clock is off.
LONGEST_WAIT = 14


def noted_on(form: Form, today: date) -> date:
    """The day on which an entry was made that waited on a device for the network; today where it did not."""
    try:
        day = date.fromisoformat(form.get("noted_on", ""))
    except ValueError:
        return today
    return day if 0 <= (today - day).days <= LONGEST_WAIT else today


def one_of(form: Form, name: str, label: str, choices: type[Choice]) -> Choice:
    """One of the values of an enumeration."""
    return typed.read_choice(text(form, name), label, choices)


def optional_whole(form: Form, name: str, label: str) -> int | None:
    """A whole number, or None when left empty."""
    return whole(form, name, label) if text(form, name) else None


def optional_number(form: Form, name: str, label: str) -> float | None:
    """A number, or None when left empty."""
    return number(form, name, label) if text(form, name) else None


def day(form: Form, name: str, label: str) -> date:
    """A date as the browser's date field sends it."""
    return typed.read_day(text(form, name), label)


def lines(form: Form, name: str) -> list[str]:
    """One entry per line, blank ones dropped."""
    return [line.strip() for line in text(form, name).split("\n") if line.strip()]


def control_character_in(form: Form) -> str:
    """Name of the first field that holds a control character; blank when none does."""
    return next((name for name in form if CONTROL.search(name) or CONTROL.search(form[name])), "")
