"""Verdicts, intervals and margins in words, as the response's scale has them."""

from __future__ import annotations

from orderly_bench.core.messages.numbers import in_points, size, span
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.methods.rates import Interval
from orderly_bench.core.responses.kind import Kind, Scale


def interval_words(interval: Interval, kind: Kind) -> str:
    """An interval with its confidence."""
    ends = span(interval.low, interval.high, kind.yes_no, apart_from=[kind.nothing])
    return _("{level:.3g} % interval {span}", level=100 * interval.level, span=ends)


def margin_words(margin: float, kind: Kind) -> str:
    """The margin in its own unit."""
    if kind.yes_no:
        return in_points(margin)
    if kind.scale is Scale.NUMBER:
        return _("a ratio of {size}", size=size(margin))
    unit = {Scale.LENGTH: " mm", Scale.DAYS: _(" days")}.get(kind.scale, "")
    return f"{size(margin)}{unit}"
