"""Small pieces of SVG, with colours that follow the page's theme or are fixed for a file."""

from __future__ import annotations

from dataclasses import dataclass
from html import escape

from orderly_bench.core.messages.translation import number_or


@dataclass(frozen=True)
class Palette:
    """Colours of a figure."""

    ink: str = "var(--color-ink)"
    mid: str = "var(--color-mid)"
    line: str = "var(--color-line)"
    band: str = "var(--color-band)"
    ground: str = "var(--color-zinc)"


@dataclass(frozen=True)
class Frame:
    """Measures of a figure in rows: on a desk the names stand left of the bars, on a narrow screen above them."""

    width: float
    row: float
    left: float
    right: float
    narrow: bool = False


PAGE = Palette()
PAPER = Palette("#10302a", "#51625e", "#aab6b3", "#d3dad8", "#fff")


def text(
    x: float,
    y: float,
    words: str,
    *,
    size: float = 14,
    fill: str = "var(--color-ink)",
    anchor: str = "start",
    weight: int = 400,
    halo: str = "",
) -> str:
    """A line of text; ``halo`` is a colour around its letters where lines pass behind it."""
    around = f' stroke="{halo}" stroke-width="4" stroke-linejoin="round" paint-order="stroke"' if halo else ""
    return f'<text x="{x:.1f}" y="{y:.1f}" font-family="Atkinson" font-size="{size:g}" fill="{fill}" text-anchor="{anchor}" font-weight="{weight}"{around}>{escape(number_or(words, words))}</text>'


def line(x1: float, y1: float, x2: float, y2: float, stroke: str, width: float = 1, dash: str = "") -> str:
    """A straight line."""
    dashed = f' stroke-dasharray="{dash}"' if dash else ""
    return f'<path d="M{x1:.1f} {y1:.1f}L{x2:.1f} {y2:.1f}" stroke="{stroke}" stroke-width="{width:g}"{dashed} fill="none"/>'


def percent_axis(left: float, right: float, top: float, bottom: float, palette: Palette) -> str:
    """Grid lines at 0, 25 ... 100 % with their labels, 0 at the bottom."""
    body = ""
    for percent in (0, 25, 50, 75, 100):
        at = bottom - percent / 100 * (bottom - top)
        label = f"{percent} %" if percent == 100 else str(percent)
        body += line(left, at, right, at, palette.line) + text(
            left - 8, at + 4, label, fill=palette.mid, anchor="end", size=13
        )
    return body


def interval(low: float, middle: float, high: float, y: float, colour: str, radius: float = 7) -> str:
    """An estimate with its interval, whiskers at the ends."""
    return (
        line(low, y, high, y, colour, 3)
        + line(low, y - 7, low, y + 7, colour, 2.5)
        + line(high, y - 7, high, y + 7, colour, 2.5)
        + f'<circle cx="{middle:.1f}" cy="{y:.1f}" r="{radius:g}" fill="{colour}"/>'
    )


def counted(middle: float, y: float, colour: str, radius: float = 6) -> str:
    """A count that has no interval: a ring, so that it is seen to be bare."""
    return f'<circle cx="{middle:.1f}" cy="{y:.1f}" r="{radius:g}" fill="none" stroke="{colour}" stroke-width="2.5"/>'


def drawing(width: float, height: float, label: str, body: str) -> str:
    """The svg element around a figure."""
    return f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {width:g} {height:g}" role="img" aria-label="{escape(label, quote=True)}">{body}</svg>'
