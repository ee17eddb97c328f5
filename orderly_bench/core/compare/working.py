"""How each number of an analysis came about, as lines a reader can check by hand."""

from __future__ import annotations

from dataclasses import dataclass

from orderly_bench.core.compare.analysis import Analysis
from orderly_bench.core.compare.arms import Added, ArmResult, Classed, Curve, Numbers
from orderly_bench.core.compare.comparisons import Comparison
from orderly_bench.core.compare.measured import measured
from orderly_bench.core.compare.rates import Interval, normal_quantile
from orderly_bench.core.compare.verdict import Verdict
from orderly_bench.core.compare.wording import p_value
from orderly_bench.core.randomise.randomisation import RandomisationTest
from orderly_bench.core.responses.registry import kind_of


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
    return f"{value:.4g}"


def _span(interval: Interval) -> str:
    return f"{_number(interval.low)} to {_number(interval.high)}"


def _overall(analysis: Analysis) -> Working:
    o, test, model = analysis.observations, analysis.test, analysis.model
    lines = [
        f"{analysis.design}: {len(o.known)} of {len(o.rows)} cuttings with a known outcome, in {o.layout.unit_count} units"
        + (f" and {len(o.blocks)} {o.layout.strata_are}" if o.blocks else ""),
        _test_line(test, analysis.settings.seed),
    ]
    if test.statistic is not None:
        lines.append(f"statistic as observed: {_number(test.statistic)}")
    if model.p is not None:
        found = f"chi2 = {_number(model.chi2)} on {model.df} df" if model.chi2 is not None else ""
        if model.f is not None:
            found = f"F = {_number(model.f)} on {model.df1} and {model.df2} df"
        lines.append(f"second opinion, {model.name}: {found}, {p_value(model.p)}")
    if analysis.cluster.icc is not None and analysis.cluster.design_effect is not None:
        icc, effect = _number(analysis.cluster.icc), _number(analysis.cluster.design_effect)
        lines.append(f"cuttings of one unit: ICC {icc}; design effect 1 + (mean unit size - 1) x ICC = {effect}")
    return Working("all arms alike?", lines)


def _test_line(test: RandomisationTest, seed: int) -> str:
    if test.p is None:
        return "no p: nothing that tells these apart was randomised, or it was on a single unit"
    if test.exact:
        return f"p = {_number(test.p)}: the share of all assignments of this layout at least as extreme"
    draws = test.draws or 0
    hits = round(test.p * (draws + 1)) - 1
    error = _number(test.monte_carlo_error or 0.0)
    return f"p = (1 + {hits}) / (1 + {draws}) = {_number(test.p)}, seed {seed}, Monte Carlo error {error}"


def _arm(analysis: Analysis, arm: ArmResult) -> Working:
    o, response = analysis.observations, analysis.settings.response
    lines = []
    if kind_of(response).yes_no:
        lines.append(f"{arm.rooted} / {arm.stuck} = {_number(arm.rate)}")
    elif arm.estimate is not None:
        what = measured(o, response).estimate_is.format(n=arm.stuck)
        lines.append(f"{what} = {_number(arm.estimate)}")
    lines += _added(arm.added)
    if arm.interval is not None:
        lines.append(f"{100 * arm.interval.level:g} % {interval_method(analysis)}: {_span(arm.interval)}")
        if kind_of(response).yes_no and not o.layout.shared and analysis.settings.interval == "wilson":
            lines.append(_wilson_line(arm, arm.interval.level))
    if arm.left_out:
        lines.append(f"{arm.left_out} left out: no known outcome")
    return Working(arm.name, lines)


def _added(added: Added) -> list[str]:
    """What the response adds to an arm."""
    if isinstance(added, Numbers):
        mean = added.mean_per_rooted
        return ["none above 0" if mean is None else f"mean of those above 0 = {_number(mean)}"]
    if isinstance(added, Classed):
        counts = ", ".join(f"{n} from {floor}" for floor, n in added.by_floor.items())
        return [f"cuttings by class: {counts}; the middle one is from {added.median_floor}"]
    if isinstance(added, Curve):
        return ["half not reached" if added.median_day is None else f"half by day {added.median_day:g}"]
    return []


def interval_method(analysis: Analysis) -> str:
    """What the intervals of the arms are, in words."""
    o = analysis.observations
    if not kind_of(analysis.settings.response).yes_no:
        return "t interval over unit means"
    if o.layout.shared:
        return "Wilson on effective counts (Rao-Scott)"
    return "Clopper-Pearson" if analysis.settings.interval == "clopper-pearson" else "Wilson"


def _wilson_line(arm: ArmResult, level: float) -> str:
    z = normal_quantile(level)
    k, n = arm.rooted, arm.stuck
    return f"({k} + z²/2 ± z √({k} x {n - k} / {n} + z²/4)) / ({n} + z²) with z = {_number(z)}"


def comparison_working(analysis: Analysis, c: Comparison, family: int) -> Working:
    """One comparison: its test, its interval, its family, and the rule that gave the verdict."""
    alpha = analysis.settings.alpha
    lines = [_test_line(c.test, analysis.settings.seed)]
    if c.p_adjusted is not None:
        lines.append(f"Holm over {family}: {_number(c.p_adjusted)}")
    if c.difference.estimate is not None:
        what = kind_of(analysis.settings.response).scale.value
        lines.append(f"{what} = {_number(c.difference.estimate)} by {c.difference.method}")
    if c.difference.interval is not None:
        lines.append(f"{100 * c.difference.interval.level:g} % interval: {_span(c.difference.interval)}")
    if c.simultaneous is not None and family > 1:
        lines.append(f"simultaneous, 1 - {alpha:g}/{family}: {_span(c.simultaneous)}")
    lines.append(f"{c.verdict.value}: {_why(analysis, c, family)}")
    if c.more_units is not None:
        lines.append(f"about {c.more_units} more units per arm could settle it, if the rates really are these")
    return Working(f"{c.a.name} \u2212 {c.b.name}", lines)


def _why(analysis: Analysis, c: Comparison, family: int) -> str:
    alpha, margin = analysis.settings.alpha, analysis.settings.margin
    if c.p_adjusted is None:
        return "without a p nothing can be clear"
    side = "below" if c.p_adjusted < alpha else "not below"
    start = f"adjusted p {_number(c.p_adjusted)} is {side} {alpha:g}"
    if margin is None:
        return f"{start}; no margin was given, so nothing can be said about its size"
    reasons = {
        Verdict.CLEAR_LARGE: "the whole simultaneous interval lies beyond the margin",
        Verdict.CLEAR_PROBABLY_LARGE: "the estimate reaches the margin, the simultaneous interval does not wholly",
        Verdict.CLEAR_SMALL: "the whole simultaneous interval lies inside the margin",
        Verdict.CLEAR_UNCERTAIN: "the simultaneous interval is partly inside the margin, or holds no difference",
        Verdict.SAME: f"and the {100 * (1 - 2 * alpha / max(1, family)):.4g} % interval lies inside the margin",
        Verdict.NOT_SETTLED: "and the interval reaches beyond the margin",
    }
    return f"{start}; {reasons[c.verdict]} ({margin:g})"
