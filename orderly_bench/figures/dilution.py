"""A dilution drawn: the bottle, what is taken from it, what it is filled up with, the dish."""

from __future__ import annotations

from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.figures.svg import PAGE, Palette, drawing, line, text

WIDTH, HEIGHT = 620.0, 190.0
#: Where bottle, cylinder and dish stand, and the floor under them.
BOTTLE, CYLINDER, DISH, FLOOR = 70.0, 300.0, 520.0, 140.0
TALLEST = 104.0


def figure(bottle: str, stock_ml: float, fill_ml: float, dish: str, palette: Palette = PAGE) -> str:
    """From the bottle to the dish, the cylinder filled to scale.

    Parameters
    ----------
    bottle, dish : str
        What stands under each.
    stock_ml, fill_ml : float
        mL from the bottle, mL to fill up with.
    """
    whole = stock_ml + fill_ml
    high = TALLEST * stock_ml / whole
    ink, liquid, rest = palette.ink, "var(--color-root)", palette.band
    bottle_shape = (
        f'<path d="M{BOTTLE - 34} {FLOOR}V{FLOOR - 66}Q{BOTTLE - 34} {FLOOR - 84} {BOTTLE - 14} {FLOOR - 88}V{FLOOR - 110}H{BOTTLE + 14}'
        f'V{FLOOR - 88}Q{BOTTLE + 34} {FLOOR - 84} {BOTTLE + 34} {FLOOR - 66}V{FLOOR}Z" fill="none" stroke="{ink}" stroke-width="2.4"/>'
        f'<rect x="{BOTTLE - 32}" y="{FLOOR - 52}" width="64" height="51" fill="{liquid}"/>'
    )
    cylinder = (
        f'<rect x="{CYLINDER - 24}" y="{FLOOR - TALLEST:.1f}" width="48" height="{TALLEST - high:.1f}" fill="{rest}"/>'
        f'<rect x="{CYLINDER - 24}" y="{FLOOR - high:.1f}" width="48" height="{high:.1f}" fill="{liquid}"/>'
        f'<path d="M{CYLINDER - 24} {FLOOR - TALLEST - 14}V{FLOOR}H{CYLINDER + 24}V{FLOOR - TALLEST - 14}" fill="none" stroke="{ink}" stroke-width="2.4"/>'
    )
    dish_shape = (
        f'<path d="M{DISH - 60} {FLOOR - 26}Q{DISH - 54} {FLOOR} {DISH - 40} {FLOOR}H{DISH + 40}Q{DISH + 54} {FLOOR} {DISH + 60} {FLOOR - 26}Z" '
        f'fill="{liquid}" fill-opacity="0.55" stroke="{ink}" stroke-width="2.4"/>'
    )
    ways = line(BOTTLE + 50, FLOOR - 40, CYLINDER - 44, FLOOR - 40, ink, 2) + line(
        CYLINDER + 44, FLOOR - 40, DISH - 76, FLOOR - 40, ink, 2
    )
    ends = "".join(
        f'<path d="M{x - 8} {FLOOR - 46}L{x} {FLOOR - 40}L{x - 8} {FLOOR - 34}" fill="none" stroke="{ink}" stroke-width="2"/>'
        for x in (CYLINDER - 44, DISH - 76)
    )
    words = (
        text(BOTTLE, FLOOR + 22, bottle, anchor="middle")
        + text((BOTTLE + CYLINDER) / 2, FLOOR - 50, _("{ml:.4g} mL", ml=stock_ml), anchor="middle", weight=700, size=16)
        + text(CYLINDER, FLOOR + 22, _("fill up with {ml:.4g} mL", ml=fill_ml), anchor="middle")
        + text((CYLINDER + DISH) / 2 - 14, FLOOR - 50, _("{ml:.4g} mL", ml=whole), anchor="middle", weight=700, size=16)
        + text(DISH, FLOOR + 22, dish, anchor="middle")
    )
    label = _(
        "{stock:.4g} mL from the bottle of {bottle}, filled up with {fill:.4g} mL: {dish}",
        stock=stock_ml, bottle=bottle, fill=fill_ml, dish=dish,
    )  # fmt: skip
    return drawing(WIDTH, HEIGHT, label, bottle_shape + cylinder + dish_shape + ways + ends + words)
