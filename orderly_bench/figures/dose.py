"""What came of each strength: its points, and where there is one the curve, its band and the best strength."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from orderly_bench.core.judgement.dose_curve import DoseCurve
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.methods.rates import Interval
from orderly_bench.figures import svg
from orderly_bench.figures.svg import PAGE, Palette

WIDTH, HEIGHT, LEFT, RIGHT, TOP, BOTTOM = 760.0, 330.0, 66.0, 704.0, 16.0, 262.0
Scale = Callable[[float], float]


@dataclass(frozen=True)
class DosePoint:
    """One strength as counted: its name, whole and as short as it fits below, strength, rate or mean, what that is of, and its
    interval.
    """

    name: str
    short: str
    strength: float
    value: float
    of: str
    interval: Interval | None


def figure(points: list[DosePoint], curve: DoseCurve | None, what: str, measured: str, palette: Palette = PAGE) -> str:
    """The figure as svg markup.

    Parameters
    ----------
    points : list of DosePoint
    curve : DoseCurve or None
        None where too little was drawn for one; values are then means.
    what, measured : str
        Name the strengths and what came of them: "hormone", "Rooted".
    """
    strengths = [point.strength for point in points]
    smallest = curve.smallest if curve else min((one for one in strengths if one > 0), default=1.0)
    first, last = (float(np.log1p(at / smallest)) for at in (min(strengths), max(strengths)))
    ends = [end for p in points for end in (p.value, p.interval.high if p.interval else 0.0)]
    rates = curve is not None and curve.of_rates
    if curve is not None:
        ends.append(float(curve.high.max()))
    top = 1.0 if rates else max(ends) or 1.0

    def x(strength: float) -> float:
        return LEFT + 14 + (float(np.log1p(strength / smallest)) - first) / (last - first) * (RIGHT - LEFT - 28)

    def y(value: float) -> float:
        return BOTTOM - max(0.0, value) / top * (BOTTOM - TOP)

    body = svg.percent_axis(LEFT, RIGHT, TOP, BOTTOM, palette) if rates else _values(y, top, palette)
    if curve is not None:
        body += _curve(curve, x, y, palette)
    for point in points:
        at = x(point.strength)
        if point.interval is not None:
            body += svg.line(at, y(point.interval.low), at, y(point.interval.high), palette.ink, 1.5)
        body += f'<circle cx="{at:.1f}" cy="{y(point.value):.1f}" r="5.5" fill="{palette.ink}"/>'
        body += svg.text(at, BOTTOM + 24, point.short, fill=palette.ink, anchor="middle", size=13)
        body += svg.text(at, BOTTOM + 41, point.of, fill=palette.mid, anchor="middle", size=12)
    below = _("{what}, strengths on a log scale", what=what)
    body += svg.text((LEFT + RIGHT) / 2, BOTTOM + 60, below, fill=palette.mid, anchor="middle", size=13)
    said = "; ".join(f"{point.name}: {point.of}" for point in points)
    label = _("{measured} by strength of {what}. {said}", measured=_(measured), what=what, said=said)
    return svg.drawing(WIDTH, HEIGHT, label, body)


def _values(y: Scale, top: float, palette: Palette) -> str:
    """Grid lines of what is no rate, with their numbers."""
    step = next(s for s in (0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50, 100, 500, 1000, 1e9) if top / s <= 6)
    body = ""
    for tick in np.arange(0, top + step / 1e6, step).tolist():
        body += svg.line(LEFT, y(tick), RIGHT, y(tick), palette.line)
        body += svg.text(LEFT - 8, y(tick) + 4, f"{tick:g}", fill=palette.mid, anchor="end", size=13)
    return body


def _curve(curve: DoseCurve, x: Scale, y: Scale, palette: Palette) -> str:
    def path(rates: np.ndarray) -> list[str]:
        return [f"{x(s):.1f} {y(r):.1f}" for s, r in zip(curve.strength.tolist(), rates.tolist(), strict=True)]

    around = "L".join([*path(curve.low), *reversed(path(curve.high))])
    body = f'<path d="M{around}Z" fill="{palette.band}" stroke="none"/>'
    if curve.best is not None and curve.best_low is not None and curve.best_high is not None:
        body += f'<rect x="{x(curve.best_low):.1f}" y="{BOTTOM + 2:.1f}" width="{x(curve.best_high) - x(curve.best_low):.1f}" height="5" fill="{palette.ink}"/>'
        body += svg.line(x(curve.best), TOP, x(curve.best), BOTTOM + 7, palette.ink, 1, "4 3")
    return body + f'<path d="M{"L".join(path(curve.height))}" fill="none" stroke="{palette.ink}" stroke-width="2.5"/>'
