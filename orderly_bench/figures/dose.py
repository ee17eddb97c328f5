"""Rate over strength: the points of each strength, the curve, its band, and the best strength where there is one."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from orderly_bench.core.judgement.dose_curve import DoseCurve
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.methods.rates import Interval
from orderly_bench.figures import svg
from orderly_bench.figures.svg import PAGE, Palette

WIDTH, HEIGHT, LEFT, RIGHT, TOP, BOTTOM = 760.0, 330.0, 66.0, 704.0, 16.0, 262.0


@dataclass(frozen=True)
class DosePoint:
    """One strength as counted: its name, strength, k of n and interval."""

    name: str
    strength: float
    rooted: int
    stuck: int
    interval: Interval | None


def figure(points: list[DosePoint], curve: DoseCurve, what: str, palette: Palette = PAGE) -> str:
    """The figure as svg markup; ``what`` names the strengths, as in "hormone"."""
    first, last = (float(np.log1p(at / curve.smallest)) for at in (curve.strength[0], curve.strength[-1]))

    def x(strength: float) -> float:
        return LEFT + 14 + (float(np.log1p(strength / curve.smallest)) - first) / (last - first) * (RIGHT - LEFT - 28)

    def y(rate: float) -> float:
        return BOTTOM - rate * (BOTTOM - TOP)

    def path(rates: np.ndarray) -> list[str]:
        return [f"{x(s):.1f} {y(r):.1f}" for s, r in zip(curve.strength.tolist(), rates.tolist(), strict=True)]

    body = svg.percent_axis(LEFT, RIGHT, TOP, BOTTOM, palette)
    around = "L".join([*path(curve.low), *reversed(path(curve.high))])
    body += f'<path d="M{around}Z" fill="{palette.band}" stroke="none"/>'
    if curve.best is not None and curve.best_low is not None and curve.best_high is not None:
        body += f'<rect x="{x(curve.best_low):.1f}" y="{BOTTOM + 2:.1f}" width="{x(curve.best_high) - x(curve.best_low):.1f}" height="5" fill="{palette.ink}"/>'
        body += svg.line(x(curve.best), TOP, x(curve.best), BOTTOM + 7, palette.ink, 1, "4 3")
    body += f'<path d="M{"L".join(path(curve.rate))}" fill="none" stroke="{palette.ink}" stroke-width="2.5"/>'
    for point in points:
        at, rate = x(point.strength), point.rooted / point.stuck
        if point.interval is not None:
            body += svg.line(at, y(point.interval.low), at, y(point.interval.high), palette.ink, 1.5)
        body += f'<circle cx="{at:.1f}" cy="{y(rate):.1f}" r="5.5" fill="{palette.ink}"/>'
        body += svg.text(at, BOTTOM + 24, point.name, fill=palette.ink, anchor="middle", size=13)
        body += svg.text(
            at,
            BOTTOM + 41,
            _("{rooted} of {stuck}", rooted=point.rooted, stuck=point.stuck),
            fill=palette.mid,
            anchor="middle",
            size=12,
        )
    body += svg.text(
        (LEFT + RIGHT) / 2,
        BOTTOM + 60,
        _("{what}, strengths on a log scale", what=what),
        fill=palette.mid,
        anchor="middle",
        size=13,
    )
    said = "; ".join(
        _("{name}: {rooted} of {stuck}", name=point.name, rooted=point.rooted, stuck=point.stuck) for point in points
    )
    return svg.drawing(WIDTH, HEIGHT, _("Rooted by strength of {what}. {said}", what=what, said=said), body)
