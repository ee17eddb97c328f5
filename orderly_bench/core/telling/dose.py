"""Strength as a dose, in words: the trend, the bend, and the best strength where the data carry one."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from orderly_bench.core.judgement.analysis import marginal_arms
from orderly_bench.core.judgement.arms import ArmResult
from orderly_bench.core.judgement.dose_curve import STRENGTH, DoseCurve
from orderly_bench.core.judgement.result import Analysis
from orderly_bench.core.judgement.trend import Trend
from orderly_bench.core.messages.numbers import p_value
from orderly_bench.core.messages.say import clause, say
from orderly_bench.core.responses.registry import kind_of


def levels_of_dose(analysis: Analysis, factor: str) -> list[ArmResult]:
    """Results by strength, over the other factors, weakest first."""
    scores = analysis.trends[factor].scores
    arms = marginal_arms(analysis, (analysis.observations.factors.index(factor),))
    return sorted(arms, key=lambda arm: scores[arm.levels[factor]])


def dose_lines(analysis: Analysis, factor: str) -> list[str]:
    """What may be said of the strengths of one factor."""
    trend = analysis.trends[factor]
    curve, alpha = trend.curve, analysis.settings.alpha
    arms = levels_of_dose(analysis, factor)
    if curve is None:
        return [_trend_line(analysis, factor, trend, arms)] if trend.test.p is not None else []
    said = []
    bends = curve.bend.p is not None and curve.bend.p < alpha and not curve.saturated
    if bends:
        said.append(say("dose/bends", factor=factor, p=p_value(curve.bend.p)))
    elif trend.test.p is not None:
        said.append(_trend_line(analysis, factor, trend, arms))
    return [*said, _best_line(curve, alpha, bends, [arm.levels[factor] for arm in arms])]


def _trend_line(analysis: Analysis, factor: str, trend: Trend, arms: Sequence[ArmResult]) -> str:
    carried = trend.test.p is not None and trend.test.p < analysis.settings.alpha
    way = ("rises" if _rises(trend, factor, arms) else "falls") if carried else "no_trend"
    kind = kind_of(analysis.settings.response)
    what = "" if kind.yes_no or not carried else "/other"
    return say(f"dose/{way}{what}", factor=factor, p=p_value(trend.test.p), measured=kind.heading)


def _best_line(curve: DoseCurve, alpha: float, bends: bool, levels: Sequence[str]) -> str:
    if curve.best is not None and curve.best_low is not None and curve.best_high is not None:
        unit = _unit(levels)
        best, low, high = (f"{_two(at)}{unit}" for at in (curve.best, curve.best_low, curve.best_high))
        return say("dose/best", best=best, low=low, high=high, level=f"{100 * (1 - alpha):g} %")
    if curve.saturated:
        return say("dose/open", why=clause("dose/saturated"))
    if not bends:
        return say("dose/open", why=clause("dose/no_bend", p=p_value(curve.bend.p)))
    return say("dose/open", why=clause("dose/outside"))


def _two(strength: float) -> str:
    """Two significant figures: no curve of a trial knows a strength better."""
    return f"{float(f'{strength:.2g}'):g}"


def _rises(trend: Trend, factor: str, arms: Sequence[ArmResult]) -> bool:
    n = np.array([arm.stuck for arm in arms], dtype=float)
    strength = np.array([trend.scores[arm.levels[factor]] for arm in arms])
    values = np.array([arm.estimate or 0.0 for arm in arms])
    return bool((n * (strength - np.average(strength, weights=n)) * values).sum() > 0)


def _unit(levels: Sequence[str]) -> str:
    units = {match["unit"] for level in levels if (match := STRENGTH.fullmatch(level)) and match["unit"]}
    return f" {units.pop()}" if len(units) == 1 else ""
