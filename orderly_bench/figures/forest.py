"""One contrast over several trials: each with its interval and weight, then the mean and the range for a next trial."""

from __future__ import annotations

from math import sqrt

from orderly_bench.core.messages.numbers import points
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.methods.combine import Combined
from orderly_bench.core.methods.rates import normal_quantile
from orderly_bench.figures.svg import PAGE, Palette, drawing, line, text

WIDTH, ROW, LEFT, RIGHT = 760.0, 38.0, 190.0, 600.0


def figure(found: Combined, first: str, second: str, palette: Palette = PAGE) -> str:
    """The figure as svg markup; squares are as large as their weight, the diamond is the mean."""
    z = normal_quantile(0.95)
    ends = [(one.difference - z * sqrt(one.variance), one.difference + z * sqrt(one.variance)) for one in found.trials]
    ahead = (found.prediction_low, found.prediction_high)
    wide = [abs(e) for pair in ends for e in pair] + [abs(found.ci_low), abs(found.ci_high)]
    reach = min(1.0, max([*wide, 0.2]) * 1.05)

    def x(value: float) -> float:
        return LEFT + (max(-reach, min(reach, value)) + reach) / (2 * reach) * (RIGHT - LEFT)

    rows = len(found.trials)
    bottom = 14 + ROW * (rows + (2 if ahead[0] is not None else 1))
    body = line(x(0), 6, x(0), bottom, palette.mid, 1.5)
    for at in (-reach, -reach / 2, reach / 2, reach):
        body += line(x(at), 6, x(at), bottom, palette.line, 1, "2 4")
        body += text(x(at), bottom + 18, points(at, True), fill=palette.mid, anchor="middle", size=13)
    body += text(x(0), bottom + 18, "0", fill=palette.mid, anchor="middle", size=13)
    for i, (one, (low, high)) in enumerate(zip(found.trials, ends, strict=True)):
        y = 14 + ROW * (i + 0.5)
        side = 6 + 12 * sqrt(one.weight)
        body += text(4, y - 2, one.name, fill=palette.ink)
        counts = _(
            "{k1} of {n1}, {k2} of {n2}", k1=one.first.k, n1=str(one.first.n), k2=one.second.k, n2=str(one.second.n)
        )
        body += text(4, y + 13, counts, fill=palette.mid, size=12)
        body += line(x(low), y, x(high), y, palette.ink, 2)
        body += f'<rect x="{x(one.difference) - side / 2:.1f}" y="{y - side / 2:.1f}" width="{side:.1f}" height="{side:.1f}" fill="{palette.ink}"/>'
        body += text(
            RIGHT + 14, y + 4, f"{points(one.difference, True)}, {100 * one.weight:.0f} %", fill=palette.mid, size=13
        )
    y = 14 + ROW * (rows + 0.5)
    body += text(4, y + 4, _("all together"), fill=palette.ink, weight=600)
    body += (
        f'<path d="M{x(found.ci_low):.1f} {y:.1f}L{x(found.estimate):.1f} {y - 8:.1f}L{x(found.ci_high):.1f} {y:.1f}'
        f'L{x(found.estimate):.1f} {y + 8:.1f}Z" fill="{palette.ink}"/>'
    )
    body += text(RIGHT + 14, y + 4, points(found.estimate, True), fill=palette.ink, weight=600, size=13)
    if ahead[0] is not None and ahead[1] is not None:
        y += ROW
        body += text(4, y + 4, _("a next trial"), fill=palette.ink)
        body += line(x(ahead[0]), y, x(ahead[1]), y, palette.mid, 5)
    label = _("{first} less {second} in points, trial by trial, with 95 % intervals", first=first, second=second)
    return drawing(WIDTH, bottom + 28, label, body)
