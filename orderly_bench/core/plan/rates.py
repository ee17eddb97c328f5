"""Rates that are known before the trial: counted here, or written elsewhere; how each is typed, a line each."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from typing import TypeVar

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.plan.part import Part, plan_field

MOST_RATES = 24
#: *31/60 trial 25-04*, *31 of 60 in sand*, *trial 25: 31/60*.
_COUNTS = re.compile(r"(?P<rooted>\d{1,6}) ?(?:/|of|out of) ?(?P<stuck>\d{1,6})(?: rooted)?(?![\d/])", re.IGNORECASE)
#: *60-70 an old card*, *90 to 100 %, an old card*, *an old card: 55 %*.
_NUMBER = r"\d{1,3}(?:[.,]\d{1,2})?"
_PERCENT = re.compile(
    rf"(?:about |around )?(?P<low>{_NUMBER}) ?%?(?: ?(?:-|–|to) ?(?P<high>{_NUMBER}))? ?%?(?![\d.,]*\d)", re.IGNORECASE
)
T = TypeVar("T")


@dataclass(frozen=True)
class KnownRate(Part):
    """What was counted here before: so many rooted of so many stuck."""

    number: int
    rooted: int = plan_field("rooted", 0)
    stuck: int = plan_field("stuck", 0)
    source: str = plan_field("counted in", "")


@dataclass(frozen=True)
class BookRate(Part):
    """What is written elsewhere, in percent, and by whom; never pooled with what was counted here."""

    number: int
    low: float = plan_field("from, %", 0.0)
    high: float = plan_field("to, %", 0.0)
    author: str = plan_field("written by", "")


def read_known(text: str) -> tuple[KnownRate, ...]:
    """Own counts typed a line each: ``31/60 trial 25-04``.

    Raises
    ------
    InvalidInput
        A line without rooted/stuck, or too many.
    """
    found = []
    for number, line in enumerate((one.strip() for one in text.splitlines() if one.strip()), start=1):
        hit, source = _one(line, _COUNTS)
        rooted, stuck = (int(hit["rooted"]), int(hit["stuck"])) if hit else (0, 0)
        if not 0 <= rooted <= stuck <= 100_000 or not stuck:
            raise InvalidInput(
                "known here",
                _("write rooted/stuck and where it was counted, a line each: 31/60 trial 25-04"),
                line[:60],
            )
        found.append(KnownRate(number, rooted, stuck, source[:120]))
    return _not_too_many(tuple(found))


def _one(line: str, pattern: re.Pattern[str]) -> tuple[re.Match[str] | None, str]:
    """The rate that a line begins with, or that stands alone behind a colon or comma, and what else it says; None where there are several."""
    head = pattern.match(line)
    if head is None:
        source, sign, rest = line.rpartition(":")
        head, behind = (pattern.fullmatch(rest.strip()), source.strip()) if sign else (None, "")
        return head, behind
    source = line[head.end() :].strip(" ,;:%")
    return (None, "") if _COUNTS.search(source) and pattern is _COUNTS else (head, source)


def write_known(known: Sequence[KnownRate]) -> str:
    """The lines again."""
    return "\n".join(f"{one.rooted}/{one.stuck} {one.source}".strip() for one in known)


def read_book(text: str) -> tuple[BookRate, ...]:
    """Rates written elsewhere, a line each: ``60-70 the station's old card``.

    Raises
    ------
    InvalidInput
        A line without a rate in percent, or without who wrote it.
    """
    found = []
    for number, line in enumerate((one.strip() for one in text.splitlines() if one.strip()), start=1):
        hit, author = _one(line, _PERCENT)
        low = float(hit["low"].replace(",", ".")) if hit else -1.0
        high = float((hit["high"] or hit["low"]).replace(",", ".")) if hit else -1.0
        if not 0 <= low <= high <= 100 or not author:
            raise InvalidInput(
                "written elsewhere",
                _("write percent and who wrote it, a line each: 60-70 old propagation card"),
                line[:60],
            )
        found.append(BookRate(number, low, high, author[:120]))
    return _not_too_many(tuple(found))


def write_book(book: Sequence[BookRate]) -> str:
    """The lines again."""
    ends = (f"{one.low:g}-{one.high:g}" if one.low != one.high else f"{one.low:g}" for one in book)
    return "\n".join(f"{rate} {one.author}" for rate, one in zip(ends, book, strict=True))


def _not_too_many(rates: tuple[T, ...]) -> tuple[T, ...]:
    if len(rates) > MOST_RATES:
        raise InvalidInput("rates", _("{most_rates} lines are the most", most_rates=MOST_RATES), len(rates))
    return rates
