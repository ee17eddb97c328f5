"""Strength as a dose, in words and as a figure."""

from __future__ import annotations

from dataclasses import dataclass

from orderly_bench.core.judgement.dose_curve import DoseCurve
from orderly_bench.core.judgement.result import Analysis
from orderly_bench.core.judgement.trend import Trend
from orderly_bench.core.telling.dose import dose_lines, levels_of_dose
from orderly_bench.figures import dose as dose_figure
from orderly_bench.figures.svg import PAGE, Palette


@dataclass(frozen=True)
class DoseCurveFigure:
    """One factor whose levels are strengths: its curve, the points it goes by, and what may be said."""

    factor: str
    curve: DoseCurve
    points: list[dose_figure.DosePoint]
    lines: list[str]

    def draw(self, palette: Palette = PAGE) -> str:
        """The figure as svg markup."""
        return dose_figure.figure(self.points, self.curve, self.factor, palette)


def dose_curves(analysis: Analysis) -> list[DoseCurveFigure]:
    """Every dose of an analysis that has a curve."""
    return [
        DoseCurveFigure(factor, trend.curve, _points(analysis, factor, trend), dose_lines(analysis, factor))
        for factor, trend in analysis.trends.items()
        if trend.curve is not None
    ]


def _points(analysis: Analysis, factor: str, trend: Trend) -> list[dose_figure.DosePoint]:
    return [
        dose_figure.DosePoint(arm.name, trend.scores[arm.name], arm.rooted, arm.stuck, arm.interval)
        for arm in levels_of_dose(analysis, factor)
    ]
