"""Strength as a dose, in words and as a figure."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from orderly_bench.core.judgement.analysis import Analysis, marginal_arms
from orderly_bench.core.judgement.dose_curve import STRENGTH, DoseCurve
from orderly_bench.core.judgement.trend import Trend
from orderly_bench.core.messages.numbers import p_value
from orderly_bench.core.messages.say import phrase, say
from orderly_bench.figures import dose as dose_figure
from orderly_bench.figures.svg import PAGE, Palette


@dataclass(frozen=True)
class DoseShown:
    """One factor whose levels are strengths: its curve, the points it goes by, and what may be said."""

    factor: str
    curve: DoseCurve
    points: list[dose_figure.DosePoint]
    lines: list[str]

    def draw(self, palette: Palette = PAGE) -> str:
        """The figure as svg markup."""
        return dose_figure.figure(self.points, self.curve, self.factor, palette)


def shown(analysis: Analysis) -> list[DoseShown]:
    """Every dose of an analysis that has a curve."""
    return [
        DoseShown(factor, trend.curve, _points(analysis, factor, trend), _lines(analysis, factor, trend, trend.curve))
        for factor, trend in analysis.trends.items()
        if trend.curve is not None
    ]


def _points(analysis: Analysis, factor: str, trend: Trend) -> list[dose_figure.DosePoint]:
    arms = marginal_arms(analysis, (analysis.observations.factors.index(factor),))
    found = [
        dose_figure.DosePoint(arm.name, trend.scores[arm.name], arm.rooted, arm.stuck, arm.interval) for arm in arms
    ]
    return sorted(found, key=lambda point: point.strength)


def _lines(analysis: Analysis, factor: str, trend: Trend, curve: DoseCurve) -> list[str]:
    points, alpha = _points(analysis, factor, trend), analysis.settings.alpha
    said = []
    bends = curve.bend.p is not None and curve.bend.p < alpha and not curve.saturated
    if bends:
        said.append(say("dose/bends", factor=factor, p=p_value(curve.bend.p)))
    elif trend.test.p is not None:
        carried = trend.test.p < alpha
        up = _rises(points)
        key = f"dose/{'rises' if up else 'falls'}" if carried else "dose/no_trend"
        said.append(say(key, factor=factor, p=p_value(trend.test.p)))
    if curve.best is not None and curve.best_low is not None and curve.best_high is not None:
        unit = _unit([point.name for point in points])
        best, low, high = (f"{_two(at)}{unit}" for at in (curve.best, curve.best_low, curve.best_high))
        level = f"{100 * (1 - alpha):g} %"
        said.append(say("dose/best", best=best, low=low, high=high, level=level))
    elif curve.saturated:
        said.append(say("dose/open", why=phrase("dose/saturated")))
    elif not bends:
        said.append(say("dose/open", why=phrase("dose/no_bend", p=p_value(curve.bend.p))))
    else:
        said.append(say("dose/open", why=phrase("dose/outside")))
    return said


def _two(strength: float) -> str:
    """Two significant figures: no curve of a trial knows a strength better."""
    return f"{float(f'{strength:.2g}'):g}"


def _rises(points: list[dose_figure.DosePoint]) -> bool:
    n = np.array([point.stuck for point in points], dtype=float)
    strength = np.array([point.strength for point in points])
    rate = np.array([point.rooted for point in points]) / n
    return bool((n * (strength - np.average(strength, weights=n)) * rate).sum() > 0)


def _unit(levels: list[str]) -> str:
    units = {match["unit"] for level in levels if (match := STRENGTH.fullmatch(level)) and match["unit"]}
    return f" {units.pop()}" if len(units) == 1 else ""
