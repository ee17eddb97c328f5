"""The ruler beside the pad: 100 mm, three to the pixel each."""

from __future__ import annotations

from dataclasses import dataclass

LEFT, PX_A_MM, LONG = 15, 3, 100


@dataclass(frozen=True)
class Ruler:
    """One path for all lines, and where the numbers stand: x and mm."""

    lines: str
    marks: list[tuple[int, int]]


def _line(mm: int) -> str:
    tall = 15 if mm % 10 == 0 else 10 if mm % 5 == 0 else 6
    return f"M{LEFT + mm * PX_A_MM} 0V{tall}"


RULER = Ruler("".join(map(_line, range(LONG + 1))), [(LEFT + mm * PX_A_MM, mm) for mm in range(10, LONG, 10)])
