"""Cumulative proportion rooted by day and arm: a step at the check, never past the last."""

from __future__ import annotations

from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.figures import stakes, svg
from orderly_bench.figures.svg import PAGE, Palette

WIDTH, HEIGHT, LEFT, RIGHT, TOP, BOTTOM = 900.0, 330.0, 60.0, 830.0, 16.0, 286.0
DASHES = ("", "9 4", "3 3", "12 3 3 3", "6 2", "2 5")


def figure(curves: list[tuple[str, dict[str, float]]], palette: Palette = PAGE, narrow: bool = False) -> str:
    """The figure as svg markup.

    Parameters
    ----------
    curves : list of (letter, cumulative proportion by day)
    narrow : bool
        For a phone.
    """
    width, left, right = (400.0, 46.0, 362.0) if narrow else (WIDTH, LEFT, RIGHT)
    days = sorted({float(day) for _, cif in curves for day in cif})
    last = max(days, default=1.0)

    def x(day: float) -> float:
        return left + day / last * (right - left)

    def y(share: float) -> float:
        return BOTTOM - share * (BOTTOM - TOP)

    body = svg.percent_axis(left, right, TOP, BOTTOM, palette)
    for day in [0.0, *days]:
        body += svg.text(x(day), BOTTOM + 20, f"{day:g}", fill=palette.mid, anchor="middle", size=13)
    body += svg.text(
        (left + right) / 2, BOTTOM + 38, _("days after sticking"), fill=palette.mid, anchor="middle", size=13
    )
    ends: list[tuple[float, str]] = []
    for i, (letter, cif) in enumerate(curves):
        colour, path, share = stakes.line_colour(letter, palette is PAGE), f"M{x(0):.1f} {y(0):.1f}", 0.0
        for day in days:
            path += f"H{x(day):.1f}"
            share = cif.get(f"{day:g}", share)
            path += f"V{y(share):.1f}"
        dash = DASHES[i % len(DASHES)]
        body += (
            f'<path d="{path}" fill="none" stroke="{colour}" stroke-width="3"'
            + (f' stroke-dasharray="{dash}"' if dash else "")
            + "/>"
        )
        ends.append((y(share), letter))
    place = -1e9
    for at, letter in sorted(ends):
        place = max(at, place + 26)
        body += f'<g transform="translate({right + 12:.1f} {place - 13:.1f}) scale(0.72)">{stakes.inside(letter)}</g>'
    return svg.drawing(width, HEIGHT, _("Cumulative proportion rooted by day and arm"), body)
