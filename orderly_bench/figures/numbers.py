"""Root number, or another measure, over time: a thin line for every cutting, a thick one for each arm's mean."""

from __future__ import annotations

import numpy as np

from orderly_bench.core.compare.number_over_time import Described, NumberOverTime
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.figures import stakes, svg
from orderly_bench.figures.curves import BOTTOM, DASHES, HEIGHT, LEFT, RIGHT, TOP, WIDTH
from orderly_bench.figures.svg import PAGE, Palette


def figure(
    letters: list[str],
    found: NumberOverTime | Described,
    palette: Palette = PAGE,
    title: str = "",
    rises: bool = True,
    most: float = 1.0,
) -> str:
    """The figure as svg markup.

    Parameters
    ----------
    letters : list of str
        Of the arms, in their order.
    title : str
        What it shows; blank for the number of roots.
    rises : bool
        It began at none on the day of sticking.
    most : float
        To which the scale goes at least.
    """
    last, most = float(found.days[-1]), max(most, float(np.nanmax(found.counts)))
    step = next(s for s in (1, 2, 5, 10, 20, 50, 100, 500, 1000, 10_000) if most / s <= 6)

    def path(days: np.ndarray, values: np.ndarray) -> str:
        seen = ~np.isnan(values)
        points = [
            (LEFT + day / last * (RIGHT - LEFT), BOTTOM - value / most * (BOTTOM - TOP))
            for day, value in zip(days[seen], values[seen], strict=True)
        ]
        return "".join(f"{'L' if i else 'M'}{x:.1f} {y:.1f}" for i, (x, y) in enumerate(points))

    body = ""
    for tick in range(0, int(most) + 1, step):
        y = BOTTOM - tick / most * (BOTTOM - TOP)
        body += svg.line(LEFT, y, RIGHT, y, palette.line)
        body += svg.text(LEFT - 8, y + 4, str(tick), fill=palette.mid, anchor="end", size=13)
    for day in [0.0, *found.days.tolist()]:
        x = LEFT + day / last * (RIGHT - LEFT)
        body += svg.text(x, BOTTOM + 20, f"{day:g}", fill=palette.mid, anchor="middle", size=13)
    body += svg.text(
        (LEFT + RIGHT) / 2, BOTTOM + 38, _("days after sticking"), fill=palette.mid, anchor="middle", size=13
    )
    for arm, row in zip(found.arm, found.counts, strict=True):
        colour = stakes.line_colour(letters[arm], palette is PAGE)
        body += f'<path d="{path(found.days, row)}" fill="none" stroke="{colour}" stroke-width="0.8" opacity="0.45"/>'
    ends: list[tuple[float, str]] = []
    for i, (letter, mean) in enumerate(zip(letters, found.mean, strict=True)):
        colour, dash = stakes.line_colour(letter, palette is PAGE), DASHES[i % len(DASHES)]
        dashed = f' stroke-dasharray="{dash}"' if dash else ""
        whole = (
            path(np.concatenate([[0.0], found.days]), np.concatenate([[0.0], mean]))
            if rises
            else path(found.days, mean)
        )
        body += f'<path d="{whole}" fill="none" stroke="{colour}" stroke-width="3"{dashed}/>'
        known = mean[~np.isnan(mean)]
        ends.append((BOTTOM - float(known[-1] if known.size else 0.0) / most * (BOTTOM - TOP), letter))
    place = -1e9
    for at, letter in sorted(ends):
        place = max(at, place + 26)
        body += f'<g transform="translate({RIGHT + 12:.1f} {place - 13:.1f}) scale(0.72)">{stakes.inside(letter)}</g>'
    said = title or _("Root number by day, every cutting and the mean of each arm")
    return svg.drawing(WIDTH, HEIGHT, said, body)
