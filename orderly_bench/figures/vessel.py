"""A vessel of water drawn: how high it stands, and the line that no leaf may pass."""

from __future__ import annotations

from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.figures.svg import PAGE, Palette, drawing, line, text

WIDTH, HEIGHT = 300.0, 170.0
LEFT, RIGHT, TOP, FLOOR = 30.0, 110.0, 22.0, 150.0


def figure(level_ml: float, whole_ml: float, level_mm: float | None, palette: Palette = PAGE) -> str:
    """One vessel, filled to scale.

    Parameters
    ----------
    level_ml, whole_ml : float
        mL of water, and that the vessel holds.
    level_mm : float or None
        How high it stands; None where the vessel's width is not said.
    """
    surface = FLOOR - (FLOOR - TOP) * level_ml / whole_ml
    ink, middle = palette.ink, (LEFT + RIGHT) / 2
    high = _("{ml:.4g} mL", ml=level_ml)
    if level_mm is not None:
        high = _("{ml:.4g} mL, {mm:.0f} mm high", ml=level_ml, mm=level_mm)
    parts = (
        f'<rect x="{LEFT}" y="{surface:.1f}" width="{RIGHT - LEFT}" height="{FLOOR - surface:.1f}" fill="{palette.band}"/>'
        f'<path d="M{LEFT} {TOP - 12}V{FLOOR}H{RIGHT}V{TOP - 12}" fill="none" stroke="{ink}" stroke-width="2.4"/>'
        + line(middle, TOP - 16, middle, FLOOR - 12, "var(--color-leaf)", 4)
        + line(LEFT - 8, surface, RIGHT + 22, surface, ink, 1.4)
        + text(RIGHT + 28, surface - 3, high, weight=700, size=15)
        + text(RIGHT + 28, surface + 17, _("no leaf below this line"))
    )
    return drawing(WIDTH, HEIGHT, _("a vessel of {whole:g} mL filled to {high}", whole=whole_ml, high=high), parts)
