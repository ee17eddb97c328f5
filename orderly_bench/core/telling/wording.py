"""Verdicts, intervals and margins in words, as the response's scale has them."""

from __future__ import annotations

from collections.abc import Iterable
from itertools import pairwise

from orderly_bench.core.messages.numbers import in_points, size, span
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.methods.rates import Interval
from orderly_bench.core.responses.added import Added, Classed
from orderly_bench.core.responses.kind import Kind, Scale


def interval_words(interval: Interval, kind: Kind) -> str:
    """An interval with its confidence."""
    ends = span(interval.low, interval.high, kind.yes_no, apart_from=[kind.nothing])
    return _("{level:.3g} % interval {span}", level=100 * interval.level, span=ends)


def by_class(classed: Classed, among: Iterable[Added]) -> str:
    """How many cuttings had how many roots; a class reaches to the next that an arm ``among`` them has.

    >>> by_class(Classed({"0": 5, "4": 2}, 0), [Classed({"1": 3, "4": 6, "10": 1}, 4)])
    '5 none, 2 with 4 to 9'
    """
    floors = sorted({int(floor) for one in (classed, *among) if isinstance(one, Classed) for floor in one.by_floor})
    ends = dict(pairwise(floors))

    def words(n: int, floor: int) -> str:
        if floor == 0:
            return _("{n} none", n=n)
        last = ends[floor] - 1 if floor in ends else None
        if last is None:
            return _("{n} with {floor} or more", n=n, floor=floor)
        return (
            _("{n} with {floor}", n=n, floor=floor)
            if last == floor
            else _("{n} with {floor} to {last}", n=n, floor=floor, last=last)
        )

    return ", ".join(words(n, int(floor)) for floor, n in classed.by_floor.items())


def margin_words(margin: float, kind: Kind) -> str:
    """The margin in its own unit."""
    if kind.yes_no:
        return in_points(margin)
    if kind.scale is Scale.NUMBER:
        return _("a ratio of {size}", size=size(margin))
    unit = {Scale.LENGTH: " mm", Scale.DAYS: _(" days")}.get(kind.scale, "")
    return f"{size(margin)}{unit}"
