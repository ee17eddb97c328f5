"""Tops against roots: of the good-looking tops of each arm, how many stand over roots and how many over nothing."""

from __future__ import annotations

from orderly_bench.core.compare.tops import TopsAgainstRoots
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.figures import stakes, svg
from orderly_bench.figures.svg import PAGE, Palette

WIDTH, LEFT, RIGHT, ROW = 900.0, 60.0, 660.0, 46.0


def figure(rows: list[tuple[str, TopsAgainstRoots]], palette: Palette = PAGE) -> str:
    """The figure as svg markup: filled over roots, open over bare stems."""
    most = max((t.lush for _, t in rows), default=1) or 1
    unit = (RIGHT - LEFT) / most
    body = ""
    for i, (letter, t) in enumerate(rows):
        middle = 8 + ROW * (i + 0.5)
        body += f'<g transform="translate(8 {middle - 17:.1f}) scale(0.95)">{stakes.inside(letter)}</g>'
        rooted = t.lush - t.lush_without_roots
        colour = stakes.line_colour(letter, palette is PAGE)
        body += f'<rect x="{LEFT}" y="{middle - 11:.1f}" width="{rooted * unit:.1f}" height="22" fill="{colour}"/>'
        body += f'<rect x="{LEFT + rooted * unit:.1f}" y="{middle - 10:.1f}" width="{t.lush_without_roots * unit:.1f}" height="20" fill="none" stroke="{colour}" stroke-width="2" stroke-dasharray="4 3"/>'
        body += svg.text(
            RIGHT + 20,
            middle + 5,
            _("{lush_without_roots} of {lush} without roots", lush_without_roots=t.lush_without_roots, lush=t.lush),
            fill=palette.ink,
            size=14,
        )
    return svg.drawing(
        WIDTH, 16 + ROW * len(rows), _("Good-looking tops with roots (filled) and without (open), by arm"), body
    )
