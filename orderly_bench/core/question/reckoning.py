"""Reckoning with weeks of 7 days: forward from sticking to rooted and ready, back from a day the plants are wanted, frost or heat.

Weeks to root are a range and stay one: what must be sure counts the most of them.
"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, timedelta

from orderly_bench.core.messages.translation import dated
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.question.too_early import Expected
from orderly_bench.core.year import YearHere, next_after


@dataclass(frozen=True)
class Wanted:
    """What is to be reckoned with: when it is stuck, weeks to root, weeks in the pot after that, the day it is wanted by."""

    stuck: date
    expected: Expected
    weeks_in_pot: int = 0
    by: date | None = None


@dataclass(frozen=True)
class Reckoned:
    """Lines of the sum, and what it warns of."""

    lines: tuple[str, ...]
    warnings: tuple[str, ...]


def reckon(wanted: Wanted, year: YearHere) -> Reckoned:
    """Forward and back; what the lab has not said of its year is asked for, never guessed.

    >>> reckon(Wanted(date(2026, 5, 7), Expected(5, 5, "the card"), 6, date(2026, 9, 30)), YearHere()).lines[2]
    'to be ready by 30 Sep 2026: stick by 15 Jul 2026'
    """
    stuck, most = wanted.stuck, wanted.expected.most
    rooted = tuple(stuck + timedelta(weeks=weeks) for weeks in (wanted.expected.least, most))
    ready = tuple(day + timedelta(weeks=wanted.weeks_in_pot) for day in rooted)
    lines = [
        _(
            "stuck {stuck} + {weeks}: rooted {rooted}",
            stuck=dated(stuck),
            weeks=wanted.expected.words,
            rooted=_span(rooted),
        )
    ]
    if wanted.weeks_in_pot:
        lines.append(_("+ {weeks:week|weeks} in the pot: ready {ready}", weeks=wanted.weeks_in_pot, ready=_span(ready)))
    in_all = timedelta(weeks=most + wanted.weeks_in_pot)
    warnings = []
    if wanted.by is not None:
        last = wanted.by - in_all
        lines.append(_("to be ready by {by}: stick by {last}", by=dated(wanted.by), last=dated(last)))
        if last < stuck:
            warnings.append(_("Stuck {stuck} it may not be ready by {by}.", stuck=dated(stuck), by=dated(wanted.by)))
    warnings += _heat(rooted, ready, year)
    frost_lines, frost_warnings = _frost(stuck, in_all, ready[-1], year)
    lines += frost_lines
    if not (year.first_frost and year.hot_from and year.hot_to):
        lines.append(_("frosts and hot weeks of this place: not said yet, so not reckoned with (Lab page)"))
    return Reckoned(tuple(lines), tuple([*warnings, *frost_warnings]))


def _heat(rooted: tuple[date, ...], ready: tuple[date, ...], year: YearHere) -> list[str]:
    hot = year.hot_between(rooted[0], ready[-1])
    if hot is None:
        return []
    return [
        _(
            "Potting on falls into the hot weeks here ({hot}): young roots need shade and water, or stick for another time.",
            hot=year.hot_words,
        )
    ]


def _frost(stuck: date, in_all: timedelta, ready: date, year: YearHere) -> tuple[list[str], list[str]]:
    if not year.first_frost:
        return [], []
    frost = next_after(year.first_frost, stuck)
    last = frost - in_all
    lines = [_("to be ready before the first frost, {frost}: stick by {last}", frost=dated(frost), last=dated(last))]
    if ready <= frost:
        return lines, []
    warning = _("It is ready only after the first frost ({frost}): winter it under cover", frost=dated(frost))
    if year.last_frost:
        out = next_after(year.last_frost, frost)
        warning += _(", and plant out after the last one ({out})", out=dated(out))
    return lines, [warning + "."]


def _span(days: tuple[date, ...]) -> str:
    first, last = days[0], days[-1]
    return dated(first) if first == last else _("{first} to {last}", first=dated(first), last=dated(last))
