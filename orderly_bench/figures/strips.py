"""Every cutting visible: values by arm as dots, the mean as a bar that stands on its interval."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass

from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.figures import stakes, svg
from orderly_bench.figures.svg import PAGE, Palette

WIDTH, LEFT, RIGHT, ROW = 900.0, 60.0, 860.0, 64.0
MOST_STACKED = 7


@dataclass(frozen=True)
class Strip:
    """An arm: its letter, the value of each cutting, and the ends of its mean's interval, if it has one."""

    letter: str
    values: list[float]
    interval: tuple[float, float] | None = None


def figure(rows: list[Strip], label: str, palette: Palette = PAGE) -> str:
    """The figure as svg markup.

    Parameters
    ----------
    rows : list of Strip
    label : str
        What the axis shows, with its unit.
    """
    top = max((v for row in rows for v in (*row.values, *(row.interval or ()))), default=1.0) or 1.0
    step = next(s for s in (1, 2, 5, 10, 20, 25, 50, 100, 200, 500, 1000, 1e9) if top / s <= 8)

    def x(value: float) -> float:
        return LEFT + value / top * (RIGHT - LEFT)

    bottom = 10 + ROW * len(rows)
    body = ""
    tick = 0.0
    while tick <= top:
        body += svg.line(x(tick), 6, x(tick), bottom, palette.line)
        body += svg.text(x(tick), bottom + 18, f"{tick:g}", fill=palette.mid, anchor="middle", size=13)
        tick += step
    for i, row in enumerate(rows):
        middle = 10 + ROW * (i + 0.5)
        colour = stakes.line_colour(row.letter, palette is PAGE)
        body += f'<g transform="translate(8 {middle - 17:.1f}) scale(0.95)">{stakes.inside(row.letter)}</g>'
        used: Counter[int] = Counter()
        for value in sorted(row.values):
            column = round(x(value) / 8)
            n = used[column]
            used[column] += 1
            lift = ((n % MOST_STACKED) + 1) // 2 * (1 if n % 2 else -1) * 7.5
            body += f'<circle cx="{x(value) + (n // MOST_STACKED) * 2.5:.1f}" cy="{middle + lift:.1f}" r="3.6" fill="none" stroke="{colour}" stroke-width="1.6"/>'
        if row.values:
            mean = sum(row.values) / len(row.values)
            body += svg.line(x(mean), middle - 27, x(mean), middle + 27, palette.ink, 3)
        if row.interval:
            low, high = (x(max(0.0, end)) for end in row.interval)
            body += svg.line(low, middle + 27, high, middle + 27, palette.ink, 3)
    body += svg.text((LEFT + RIGHT) / 2, bottom + 36, label, fill=palette.mid, anchor="middle", size=13)
    return svg.drawing(WIDTH, bottom + 46, _("{label}, every cutting by arm, the bar is the mean", label=label), body)
