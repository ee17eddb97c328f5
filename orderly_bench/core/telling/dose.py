"""Strength as a dose, in words: the trend, the bend, and the best strength where the data carry one."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from enum import Enum

import numpy as np

from orderly_bench.core.judgement.analysis import marginal_arms
from orderly_bench.core.judgement.arms import ArmResult
from orderly_bench.core.judgement.dose_curve import STRENGTH, DoseCurve
from orderly_bench.core.judgement.result import Analysis
from orderly_bench.core.judgement.trend import Trend
from orderly_bench.core.messages.numbers import p_value
from orderly_bench.core.messages.say import clause, say
from orderly_bench.core.responses.registry import kind_of


class DoseWay(Enum):
    """How the response goes with the strength."""

    RISES = "rises"
    FALLS = "falls"
    BENDS = "bends"
    OPEN = "open"


@dataclass(frozen=True)
class OverStrengths:
    """How the response goes with the strength of one factor, and what is said of it."""

    way: DoseWay
    told: str


def over_strengths(analysis: Analysis) -> OverStrengths | None:
    """How the response goes with the strength of the one factor that is a dose; None without one, or a test of it."""
    if len(analysis.trends) != 1:
        return None
    ((factor, trend),) = analysis.trends.items()
    if trend.test.p is None:
        return None
    told = dose_lines(analysis, factor)[0]
    if trend.curve is not None and _turns(trend.curve):
        return OverStrengths(DoseWay.BENDS, _bend_line(analysis, factor, trend.curve))
    if not _carried(analysis, trend):
        return OverStrengths(DoseWay.OPEN, told)
    rises = _rises(trend, factor, levels_of_dose(analysis, factor))
    return OverStrengths(DoseWay.RISES if rises else DoseWay.FALLS, told)


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
    bends = _bends(curve, alpha)
    if not _turns(curve) and trend.test.p is not None and (_carried(analysis, trend) or not bends):
        said.append(_trend_line(analysis, factor, trend, arms))
    if bends:
        said.append(_bend_line(analysis, factor, curve))
    return [*said, _best_line(curve, alpha, bends, [arm.levels[factor] for arm in arms])]


def _bends(curve: DoseCurve, alpha: float) -> bool:
    return curve.bend.p is not None and curve.bend.p < alpha and not curve.saturated


def _carried(analysis: Analysis, trend: Trend) -> bool:
    return trend.test.p is not None and trend.test.p < analysis.settings.alpha


def _trend_line(analysis: Analysis, factor: str, trend: Trend, arms: Sequence[ArmResult]) -> str:
    carried = _carried(analysis, trend)
    kind = kind_of(analysis.settings.response)
    way = ("rises" if _rises(trend, factor, arms) else "falls") if carried else "no_trend"
    what = "" if kind.yes_no or not carried else "/other"
    return say(f"dose/{way}{what}", factor=factor, p=p_value(trend.test.p), measured=kind.heading)


def _bend_line(analysis: Analysis, factor: str, curve: DoseCurve) -> str:
    """Up and down is only said where the top, or the bottom, lies inside the strengths tried."""
    if not _turns(curve):
        return say("dose/over_log", factor=factor, p=p_value(curve.bend.p))
    what = "" if curve.of_rates else "/other"
    heading = kind_of(analysis.settings.response).heading
    return say(f"dose/bends{what}", factor=factor, p=p_value(curve.bend.p), measured=heading)


def _turns(curve: DoseCurve) -> bool:
    return curve.turns or curve.best is not None


def _best_line(curve: DoseCurve, alpha: float, bends: bool, levels: Sequence[str]) -> str:
    if curve.best is not None and curve.best_low is not None and curve.best_high is not None:
        unit = _unit(levels)
        best, low, high = (f"{_two(at)}{unit}" for at in (curve.best, curve.best_low, curve.best_high))
        return say("dose/best", best=best, low=low, high=high, level=f"{100 * (1 - alpha):g} %")
    if curve.saturated:
        return say("dose/open", why=clause("dose/saturated"))
    if curve.bend.p is not None and (curve.misfit.p is None or curve.misfit.p < alpha):
        return say("dose/open", why=clause("dose/misfit", p=p_value(curve.misfit.p)))
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
