"""Differences in points of rooting, against the band that is too small to matter."""

from __future__ import annotations

from orderly_bench.core.judgement.comparisons import Comparison
from orderly_bench.core.messages.numbers import points
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.figures import svg
from orderly_bench.figures.svg import PAGE, Palette

WIDE = svg.Frame(900.0, 44.0, 300.0, 860.0)
NARROW = svg.Frame(400.0, 72.0, 14.0, 386.0, narrow=True)
LONGEST_NAME = 36


def _short(name: str) -> str:
    return name if len(name) <= LONGEST_NAME else name[: LONGEST_NAME - 1] + "…"


def figure(
    comparisons: list[Comparison], margin: float | None, palette: Palette = PAGE, frame: svg.Frame = WIDE
) -> str:
    """The figure as svg markup; a difference without an interval is a ring, and said so."""
    ends = [
        abs(e)
        for c in comparisons
        if c.difference.interval
        for e in (c.difference.interval.low, c.difference.interval.high)
    ]
    ends += [abs(c.difference.estimate) for c in comparisons if c.difference.estimate is not None]
    reach = min(1.0, max([*ends, 1.6 * (margin or 0), 0.2]) * 1.08)

    def x(value: float) -> float:
        return frame.left + (value + reach) / (2 * reach) * (frame.right - frame.left)

    bottom = 10 + frame.row * len(comparisons)
    body = ""
    if margin is not None:
        body += f'<rect x="{x(-margin):.1f}" y="6" width="{x(margin) - x(-margin):.1f}" height="{bottom - 6:.1f}" fill="{palette.band}"/>'
    step = 0.1 if reach <= 0.35 else (0.2 if reach <= 0.65 else 0.25)
    for i in range(-int(reach / step), int(reach / step) + 1):
        at = i * step
        body += svg.line(
            x(at),
            6,
            x(at),
            bottom,
            palette.mid if i == 0 else palette.line,
            1.5 if i == 0 else 1,
            "" if i == 0 else "2 4",
        )
        body += svg.text(x(at), bottom + 18, points(at, True) if i else "0", fill=palette.mid, anchor="middle", size=13)
    for i, comparison in enumerate(comparisons):
        y = 10 + frame.row * (i + (0.78 if frame.narrow else 0.5))
        named = 10 + frame.row * i + 16 if frame.narrow else y - 2
        body += svg.text(4, named, _short(comparison.a.name), fill=palette.ink, size=14.5)
        body += svg.text(4, named + 16, f"− {_short(comparison.b.name)}", fill=palette.mid, size=13)
        span, estimate = comparison.difference.interval, comparison.difference.estimate
        if span and estimate is not None:
            body += svg.interval(x(max(span.low, -reach)), x(estimate), x(min(span.high, reach)), y, palette.ink)
        elif estimate is not None:
            body += svg.counted(x(max(-reach, min(reach, estimate))), y, palette.ink)
            body += svg.text(x(0), y + 20, _("no interval"), fill=palette.mid, anchor="middle")
        else:
            body += svg.text(x(0), y + 4, _("no interval"), fill=palette.mid, anchor="middle")
    height = bottom + 28
    if margin is not None:
        body += svg.text(
            x(0),
            bottom + 36,
            _("grey: too small to matter to you (±{points} points)", points=points(margin)),
            fill=palette.mid,
            anchor="middle",
            size=12.5,
        )
        height += 18
    return svg.drawing(frame.width, height, _("Differences in points of rooting with their intervals"), body)
