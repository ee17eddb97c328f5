"""How each number of an analysis came about, as lines a reader can check by hand."""

from __future__ import annotations

from dataclasses import dataclass

from orderly_bench.core.judgement.arms import ArmResult
from orderly_bench.core.judgement.comparisons import Comparison
from orderly_bench.core.judgement.result import Analysis
from orderly_bench.core.layouts.from_rows import layout_of
from orderly_bench.core.messages.numbers import p_value
from orderly_bench.core.messages.say import clause, say
from orderly_bench.core.messages.translation import Typed, in_full
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.methods.randomisation import RandomisationTest
from orderly_bench.core.methods.rates import Interval, normal_quantile
from orderly_bench.core.responses.added import Added, Classed, Curve, Numbers
from orderly_bench.core.responses.outcomes_of import outcomes_of
from orderly_bench.core.responses.registry import kind_of
from orderly_bench.core.telling.wording import by_class

#: What forbids every test has its own words; what forbids one comparison has not.
NO_P = ("look", "described_only", "block_is_arm")


@dataclass(frozen=True)
class Working:
    """What is worked out, and its lines."""

    title: str
    lines: list[str]


def show_working(analysis: Analysis) -> list[Working]:
    """The whole analysis: the layout and overall test, every arm, every comparison, of levels and of arms."""
    levels = [c for term in analysis.terms for c in term.contrasts]
    return [
        _overall(analysis),
        *[_arm(analysis, arm) for arm in analysis.arms],
        *[comparison_working(analysis, c, len(levels)) for c in levels],
        *[comparison_working(analysis, c, len(analysis.comparisons)) for c in analysis.comparisons],
    ]


def _number(value: float) -> str:
    return in_full(f"{value:.4g}")


def _span(interval: Interval) -> str:
    return _("{number} to {number2}", number=_number(interval.low), number2=_number(interval.high))


def _overall(analysis: Analysis) -> Working:
    o, test, model = analysis.observations, analysis.test, analysis.model
    counts = {"known": len(o.known), "n": len(o.rows), "units": layout_of(o).unit_count}
    strata = clause("working/strata", strata=layout_of(o).strata(len(o.blocks))) if o.blocks else ""
    lines = [
        clause("working/known", design=analysis.design, **counts) + strata,
        _test_line(analysis, test),
    ]
    if test.statistic is not None:
        lines.append(clause("working/statistic", value=_number(test.statistic)))
    if model.p is not None:
        found = clause("working/chi2", value=_number(model.chi2), df=model.df) if model.chi2 is not None else ""
        if model.f is not None:
            found = clause("working/f", value=_number(model.f), df1=model.df1, df2=model.df2)
        lines.append(clause("working/second", name=model.name, found=found, p=p_value(model.p)))
    if analysis.cluster.icc is not None and analysis.cluster.design_effect is not None:
        icc, effect = _number(analysis.cluster.icc), _number(analysis.cluster.design_effect)
        lines.append(clause("working/icc", icc=icc, effect=effect))
    return Working(clause("working/alike"), lines)


def _test_line(analysis: Analysis, test: RandomisationTest) -> str:
    if test.p is None:
        return clause(f"working/no_p/{analysis.untested}" if analysis.untested in NO_P else "working/no_p")
    if test.exact:
        return clause("working/exact", p=_number(test.p))
    draws = test.draws or 0
    hits = round(test.p * (draws + 1)) - 1
    error = _number(test.monte_carlo_error or 0.0)
    return clause("working/draws", hits=hits, draws=draws, p=_number(test.p), seed=analysis.settings.seed, error=error)


def _arm(analysis: Analysis, arm: ArmResult) -> Working:
    o, response = analysis.observations, analysis.settings.response
    lines = []
    if kind_of(response).yes_no and arm.rate is not None:
        lines.append(f"{arm.rooted} / {arm.stuck} = {_number(arm.rate)}")
    elif arm.estimate is not None:
        what = _(outcomes_of(o, response).estimate_is, n=arm.stuck)
        lines.append(f"{what} = {_number(arm.estimate)}")
    lines += _added(arm.added, [one.added for one in analysis.arms])
    if arm.interval is not None:
        level, method = f"{100 * arm.interval.level:g}", interval_method(analysis)
        lines.append(clause("working/interval", level=level, method=method, span=_span(arm.interval)))
        if kind_of(response).yes_no and not layout_of(o).shared and analysis.settings.interval == "wilson":
            lines.append(_wilson_line(arm, arm.interval.level))
    if arm.left_out:
        lines.append(clause("working/left_out", n=arm.left_out))
    return Working(arm.name, lines)


def _added(added: Added, among: list[Added]) -> list[str]:
    """What the response adds to an arm."""
    if isinstance(added, Numbers):
        mean = added.mean_per_rooted
        return [clause("working/none_above") if mean is None else clause("working/mean_above", value=_number(mean))]
    if isinstance(added, Classed):
        return [clause("working/classes", counts=by_class(added, among), median=added.median_floor)]
    if isinstance(added, Curve):
        day = added.median_day
        return [clause("working/no_half") if day is None else clause("working/half", day=f"{day:g}")]
    return []


def interval_method(analysis: Analysis) -> str:
    """What the intervals of the arms are, in words."""
    o = analysis.observations
    if not kind_of(analysis.settings.response).yes_no:
        return _("t interval over unit means")
    if layout_of(o).shared:
        return _("Wilson on effective counts (Rao-Scott)")
    return "Clopper-Pearson" if analysis.settings.interval == "clopper-pearson" else "Wilson"


def arm_intervals(analysis: Analysis) -> str:
    """The intervals of the arms as a caption names them, with their level."""
    level = f"{100 * (1 - analysis.settings.alpha):g}"
    if not kind_of(analysis.settings.response).yes_no:
        return _("{level} % t intervals over unit means", level=level)
    return _("{method} {level} % intervals", method=interval_method(analysis), level=level)


def _wilson_line(arm: ArmResult, level: float) -> str:
    z = normal_quantile(level)
    k, n = arm.rooted, arm.stuck
    formula = f"({k} + z²/2 ± z √({k} x {n - k} / {n} + z²/4)) / ({n} + z²)"
    return _("{formula} with z = {z}", formula=Typed(formula), z=_number(z))


def comparison_working(analysis: Analysis, c: Comparison, family: int) -> Working:
    """One comparison: its test, its interval, its family, and the rule that gave the verdict."""
    alpha = analysis.settings.alpha
    lines = [_test_line(analysis, c.test)]
    if c.p_adjusted is not None:
        lines.append(clause("working/adjusted", method=c.adjusted_by, n=family, p=_number(c.p_adjusted)))
    if c.difference.estimate is not None:
        what = kind_of(analysis.settings.response).scale.value
        value = _number(c.difference.estimate)
        lines.append(clause("working/effect", scale=what, value=value, method=c.difference.method))
    interval = c.difference.interval
    if interval is not None:
        level = f"{100 * interval.level:g}"
        lines.append(clause("working/interval", level=level, method="interval", span=_span(interval)))
    if c.simultaneous is not None and family > 1:
        lines.append(clause("working/simultaneous", alpha=f"{alpha:g}", n=family, span=_span(c.simultaneous)))
    lines.append(_("{verdict}: {why}", verdict=c.verdict, why=_why(analysis, c, family)))
    if c.more_units is not None:
        lines.append(say("more_units", n=c.more_units))
    return Working(f"{c.a.name} \u2212 {c.b.name}", lines)


def _why(analysis: Analysis, c: Comparison, family: int) -> str:
    alpha, margin = analysis.settings.alpha, analysis.settings.margin
    if c.p_adjusted is None:
        return clause("working/without_p")
    below = "working/below" if c.p_adjusted < alpha else "working/not_below"
    start = clause(below, p=_number(c.p_adjusted), alpha=f"{alpha:g}")
    if margin is None:
        return clause("working/no_margin", start=start)
    reason = clause(f"why/{c.verdict.value}", level=f"{100 * (1 - 2 * alpha / max(1, family)):.4g}")
    return clause("working/why", start=start, reason=reason, margin=f"{margin:g}")
