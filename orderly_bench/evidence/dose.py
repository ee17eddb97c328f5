"""Strength as a dose, in words and as a figure."""

from __future__ import annotations

from dataclasses import dataclass

from markupsafe import Markup

from orderly_bench.core.judgement.arms import ArmResult
from orderly_bench.core.judgement.dose_curve import STRENGTH, DoseCurve
from orderly_bench.core.judgement.result import Analysis
from orderly_bench.core.messages.numbers import size
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.responses.registry import kind_of
from orderly_bench.core.telling.dose import dose_lines, levels_of_dose
from orderly_bench.figures import dose as dose_figure
from orderly_bench.figures.svg import PAGE, Palette

#: Letters that fit below a point of the figure.
FITS = 13


@dataclass(frozen=True)
class DoseFigure:
    """One factor whose levels are strengths: its points, the curve, and what may be said."""

    factor: str
    measured: str
    curve: DoseCurve | None
    points: list[dose_figure.DosePoint]
    lines: list[str]

    @property
    def curve_is(self) -> str:
        """What the curve is, in words."""
        of_rates = self.curve is not None and self.curve.of_rates
        return _("a quadratic on the logit") if of_rates else _("a quadratic through the means of what was drawn")

    def draw(self, palette: Palette = PAGE) -> str:
        """The figure as svg markup."""
        return dose_figure.figure(self.points, self.curve, self.factor, self.measured, palette)


def doses(analysis: Analysis) -> list[DoseFigure]:
    """Every dose of an analysis of which something may be said."""
    kind = kind_of(analysis.settings.response)
    found = []
    for factor, trend in analysis.trends.items():
        points = [
            dose_figure.DosePoint(
                arm.name, _short(arm.name), trend.scores[arm.name], arm.estimate, _of(arm, kind.yes_no), arm.interval
            )
            for arm in levels_of_dose(analysis, factor)
            if arm.estimate is not None
        ]
        if lines := dose_lines(analysis, factor):
            found.append(DoseFigure(factor, kind.heading, trend.curve, points, lines))
    return found


def drawn_doses(analysis: Analysis | None, palette: Palette = PAGE) -> list[tuple[DoseFigure, Markup]]:
    """Each dose with its picture, for a page."""
    return [(one, Markup(one.draw(palette))) for one in doses(analysis)] if analysis else []  # noqa: S704 - drawn by us


def _short(level: str) -> str:
    """A level as it fits below a point: how strong alone, where it says much more."""
    said = STRENGTH.fullmatch(level)
    return level if said is None or len(level) <= FITS else f"{said['number']} {said['unit'] or ''}".strip()


def _of(arm: ArmResult, rate: bool) -> str:
    if rate:
        return _("{rooted} of {stuck}", rooted=arm.rooted, stuck=arm.stuck)
    return _("{mean}, n {n}", mean=size(arm.estimate or 0.0), n=arm.stuck)
