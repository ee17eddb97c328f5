"""Verdicts, intervals and margins in words, as the response's scale has them."""

from __future__ import annotations

from orderly_bench.core.judgement.verdict import Verdict
from orderly_bench.core.messages.numbers import in_points, size, span
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.methods.rates import Interval
from orderly_bench.core.responses.kind import Kind, Scale

VERDICT_MEANING = {
    Verdict.CLEAR_LARGE: N_("a difference, and all of its interval lies beyond your margin"),
    Verdict.CLEAR_PROBABLY_LARGE: N_("a difference; the estimate reaches your margin, its interval does not wholly"),
    Verdict.CLEAR_SMALL: N_("a difference, and all of its interval lies inside your margin"),
    Verdict.CLEAR_UNCERTAIN: N_("a difference; whether it matters to you is open"),
    Verdict.SAME: N_("any difference is smaller than your margin"),
    Verdict.NOT_SETTLED: N_("the evidence does not tell which, or whether they differ"),
}


def interval_words(interval: Interval, kind: Kind) -> str:
    """An interval with its confidence."""
    return _(
        "{level:.3g} % interval {span}", level=100 * interval.level, span=span(interval.low, interval.high, kind.yes_no)
    )


def margin_words(margin: float, kind: Kind) -> str:
    """The margin in its own unit."""
    if kind.yes_no:
        return in_points(margin)
    if kind.scale is Scale.NUMBER:
        return _("a ratio of {size}", size=size(margin))
    unit = {Scale.LENGTH: " mm", Scale.DAYS: _(" days")}.get(kind.scale, "")
    return f"{size(margin)}{unit}"
