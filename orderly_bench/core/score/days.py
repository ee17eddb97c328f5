"""On which days after sticking the arms were looked at, in the fewest words that are true of each."""

from __future__ import annotations

from collections.abc import Collection, Mapping

from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.vocabulary import TOUCHING, KnownBy


def touched_early(way: KnownBy, das: int, left_alone_until: int | None) -> bool:
    """Whether looking this way on this day touches what is to be left alone still."""
    return left_alone_until is not None and das < left_alone_until and way in TOUCHING


def days_in_words(by_arm: Mapping[str, Collection[int]]) -> str:
    """The days of all arms where they are the same, else each arm's own; blank where nobody looked.

    Parameters
    ----------
    by_arm : mapping of str to collection of int
        Days after its own sticking on which each arm, by its letter, was looked at.

    Examples
    --------
    >>> days_in_words({"A": {42}, "B": {42}}), days_in_words({"A": {42, 44}, "B": {42, 44}})
    ('day 42', 'days 42 to 44')
    >>> days_in_words({"A": {42}, "B": {48, 49}, "C": set()})
    'day 42 (A), days 48 to 49 (B)'
    """
    groups: dict[tuple[int, int], list[str]] = {}
    for letter, days in by_arm.items():
        if days:
            groups.setdefault((min(days), max(days)), []).append(letter)
    if len(groups) == 1:
        return _span(*next(iter(groups)))
    return ", ".join(f"{_span(*span)} ({', '.join(letters)})" for span, letters in groups.items())


def _span(first: int, last: int) -> str:
    if first == last:
        return _("day {day}", day=str(first))
    return _("days {first} to {last}", first=str(first), last=str(last))
