"""How long pieces were held between taking and sticking: a delay past the limit named beforehand is a doubt, one on purpose is not."""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass

from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.typed import read_number

NUMBERS = {"a": 1, "an": 1, "one": 1, "two": 2, "three": 3, "four": 4, "five": 5, "six": 6, "seven": 7}
#: Hours in what a unit begins with.
UNITS = {"m": 1 / 60, "h": 1.0, "d": 24.0}
SPAN = re.compile(
    rf"(?<![\w.,–-])(\d+(?:[.,]\d+)?|(?:{'|'.join(NUMBERS)})(?=\s))\s*(min(?:ute)?s?|h(?:ou)?rs?|h|days?|d)\b",
    re.IGNORECASE,
)
RANGE = re.compile(r"\d\s*(?:-|–|to|or)\s*\d", re.IGNORECASE)


@dataclass(frozen=True)
class Held:
    """One lot: its name, hours between taking and sticking (None: not said), whether that was the treatment."""

    lot: str
    hours: float | None
    on_purpose: bool


def hours_said(words: str) -> float | None:
    """Hours that words say, days and minutes added up; None where they say none, or a range.

    >>> hours_said("1 day and 6 hours in a bag")
    30.0
    """
    spans = SPAN.findall(words)
    if not spans or RANGE.search(words):
        return None
    return float(
        sum((NUMBERS.get(many.lower()) or read_number(many, words)) * UNITS[unit[0].lower()] for many, unit in spans)
    )


def held_words(words: str, hours: float | None) -> str:
    """How and for how long in one: hours are added where the words do not say them; blank where nothing was said."""
    if hours is None or hours_said(words) == hours:
        return words
    return ", ".join(part for part in (words, _("{hours:g} h", hours=hours)) if part)


def too_long(lots: Iterable[Held], limit: float) -> str:
    """Lots held for more than ``limit`` hours, not on purpose, the longest first, in words; of one lot alone the hours. Blank: none."""
    held = list(lots)
    late = [(lot.hours, lot.lot) for lot in held if lot.hours is not None and lot.hours > limit and not lot.on_purpose]
    if len(held) == 1:
        return "".join(_("{hours:g} h", hours=hours) for hours, _lot in late)
    return "; ".join(_("{lot}: {hours:g} h", lot=lot, hours=hours) for hours, lot in sorted(late, reverse=True))
