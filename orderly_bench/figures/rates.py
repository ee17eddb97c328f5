"""Rates by arm with their intervals."""

from __future__ import annotations

from dataclasses import dataclass

from orderly_bench.core.compare.analysis import ArmResult
from orderly_bench.core.compare.wording import of
from orderly_bench.figures import stakes, svg
from orderly_bench.figures.svg import PAGE, Palette

WIDTH, ROW, LEFT, RIGHT = 900.0, 48.0, 210.0, 660.0


@dataclass(frozen=True)
class RateLine:
    """One arm of the figure: its letter and its result."""

    letter: str
    result: ArmResult


def _x(rate: float) -> float:
    return LEFT + rate * (RIGHT - LEFT)


def figure(lines: list[RateLine], palette: Palette = PAGE) -> str:
    """The figure as svg markup."""
    bottom = 14 + ROW * len(lines)
    body = ""
    for percent in (0, 25, 50, 75, 100):
        x = _x(percent / 100)
        body += svg.line(x, 8, x, bottom, palette.line)
        body += svg.text(
            x, bottom + 20, f"{percent}" + (" %" if percent == 100 else ""), fill=palette.mid, anchor="middle", size=13
        )
    for i, line in enumerate(lines):
        y = 14 + ROW * (i + 0.5)
        body += f'<g transform="translate(4 {y - 17:.1f}) scale(0.95)">{stakes.inside(line.letter)}</g>'
        levels = list(line.result.levels.values())
        body += svg.text(34, y + (-2 if len(levels) > 1 else 5), levels[0], fill=palette.ink, size=15)
        if len(levels) > 1:
            body += svg.text(34, y + 14, " + ".join(levels[1:]), fill=palette.mid, size=12.5)
        if line.result.interval:
            colour = stakes.line_colour(line.letter, palette is PAGE)
            ends = line.result.interval
            body += f'<g class="arm-colour">{svg.interval(_x(ends.low), _x(line.result.rate), _x(ends.high), y, colour)}</g>'
        body += svg.text(RIGHT + 34, y + 5, of(line.result.rooted, line.result.stuck), fill=palette.ink, size=15)
    label = "; ".join(
        f"{line.letter} {line.result.name}: {of(line.result.rooted, line.result.stuck)}" for line in lines
    )
    return svg.drawing(WIDTH, bottom + 30, f"Rooted by arm. {label}", body)
