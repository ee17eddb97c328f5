"""Rates by arm with their intervals."""

from __future__ import annotations

from dataclasses import dataclass

from orderly_bench.core.judgement.arms import ArmResult
from orderly_bench.core.messages.numbers import known_of
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.figures import stakes, svg
from orderly_bench.figures.svg import PAGE, Palette

WIDE = svg.Frame(900.0, 48.0, 210.0, 660.0)
NARROW = svg.Frame(400.0, 64.0, 12.0, 376.0, narrow=True)


@dataclass(frozen=True)
class RateLine:
    """One arm of the figure: its letter and its result."""

    letter: str
    result: ArmResult


def figure(lines: list[RateLine], palette: Palette = PAGE, frame: svg.Frame = WIDE, heading: str = "Rooted") -> str:
    """The figure as svg markup; a count without an interval is a ring. ``heading`` is what was counted."""

    def x(rate: float) -> float:
        return frame.left + rate * (frame.right - frame.left)

    bottom = 14 + frame.row * len(lines)
    body = ""
    for percent in (0, 25, 50, 75, 100):
        at = x(percent / 100)
        body += svg.line(at, 8, at, bottom, palette.line)
        label = f"{percent}" + (" %" if percent == 100 else "")
        body += svg.text(at, bottom + 20, label, fill=palette.mid, anchor="middle", size=13)
    for i, line in enumerate(lines):
        top = 14 + frame.row * i
        y = top + frame.row * (0.72 if frame.narrow else 0.5)
        body += _names(line, top, palette, frame)
        ends, rate = line.result.interval, line.result.rate
        if rate is not None:
            colour = stakes.line_colour(line.letter, palette is PAGE)
            mark = (
                svg.interval(x(ends.low), x(rate), x(ends.high), y, colour) if ends else svg.counted(x(rate), y, colour)
            )
            body += f'<g class="arm-colour">{mark}</g>'
    label = "; ".join(
        f"{line.letter} {line.result.name}: {known_of(line.result.rooted, line.result.stuck, line.result.left_out)}"
        for line in lines
    )
    return svg.drawing(frame.width, bottom + 30, _("{heading} by arm. {label}", heading=heading, label=label), body)


def _names(line: RateLine, top: float, palette: Palette, frame: svg.Frame) -> str:
    """Stake, levels and counts of one arm: beside its bar, or above it on a narrow screen."""
    counts, levels = (
        known_of(line.result.rooted, line.result.stuck, line.result.left_out),
        list(line.result.levels.values()),
    )
    if frame.narrow:
        body = f'<g transform="translate(0 {top + 1:.1f}) scale(0.8)">{stakes.inside(line.letter)}</g>'
        body += svg.text(24, top + 22, line.result.name, fill=palette.ink, size=14)
        return body + svg.text(frame.width - 2, top + 22, counts, fill=palette.ink, size=14, anchor="end")
    y = top + frame.row / 2
    body = f'<g transform="translate(4 {y - 17:.1f}) scale(0.95)">{stakes.inside(line.letter)}</g>'
    body += svg.text(34, y + (-2 if len(levels) > 1 else 5), levels[0], fill=palette.ink, size=15)
    if len(levels) > 1:
        body += svg.text(34, y + 14, " + ".join(levels[1:]), fill=palette.mid, size=12.5)
    return body + svg.text(frame.right + 34, y + 5, counts, fill=palette.ink, size=15)
