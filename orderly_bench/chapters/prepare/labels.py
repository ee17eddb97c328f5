"""Labels as PDF: code, check character and a machine-readable square; no arm, ever.

The squares of a row of labels are one picture: laying out a drawing for each of hundreds of labels takes too long.
"""

from __future__ import annotations

import base64
import io
import re
from collections.abc import Sequence
from dataclasses import dataclass
from math import ceil

import numpy as np
import segno
from flask import render_template
from PIL import Image

from orderly_bench.core.design.codes import spaced
from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import dated
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.trial.models import Trial, Unit

#: Modules of a square with its quiet edge, and dots for one module.
SIDE, DOTS = 23, 2
#: One mask for all: choosing the best of eight costs most of the time and gains nothing at this size.
MASK = 2
#: Width of a sheet between its edges, mm; least and most of a label.
SHEET_MM, NARROWEST, WIDEST, LOWEST, HIGHEST = 190.0, 30.0, 105.0, 12.0, 60.0
#: A label at least so high has a third line.
THREE_LINES_MM = 17.0
USUAL = "46x18"
#: Sizes that are offered, mm: small sheets, larger ones, and strips for trays.
SIZES = ("38x21", "46x18", "63x30", "95x15")
_TYPED = re.compile(r"(\d{2,3}(?:[.,]\d)?) ?[x×] ?(\d{2}(?:[.,]\d)?)")


@dataclass(frozen=True)
class LabelSize:
    """A label in mm, and what follows from it for its sheet.

    >>> LabelSize(46, 18).across, round(LabelSize(46, 18).square_mm, 1)
    (4, 15.1)
    """

    width: float
    height: float

    @property
    def across(self) -> int:
        """Labels side by side."""
        return int(SHEET_MM / self.width + 1e-9)

    @property
    def pitch(self) -> int:
        """Modules from one label's square to the next, so that squares and labels keep step."""
        return ceil(SIDE * self.width / min(self.height - 2.7, self.width / 3))

    @property
    def square_mm(self) -> float:
        """Side of a square."""
        return SIDE * self.width / self.pitch

    @property
    def text_mm(self) -> float:
        """From the label's edge to its text."""
        return self.square_mm + 2.6

    @property
    def row_mm(self) -> float:
        """Width of a row of labels."""
        return self.width * self.across

    @property
    def lines(self) -> int:
        """Lines under the code that fit."""
        return 2 if self.height >= THREE_LINES_MM else 1


def read_size(typed: str) -> LabelSize:
    """A size as typed: ``46x18``.

    Raises
    ------
    InvalidInput
        Not two sides in mm, or a label that no sheet or code fits.
    """
    found = _TYPED.fullmatch(typed.strip().lower())
    width, height = (float(side.replace(",", ".")) for side in found.groups()) if found else (0.0, 0.0)
    if not (NARROWEST <= width <= WIDEST and LOWEST <= height <= HIGHEST):
        rule = _(
            "write its sides in mm, from {w:g}x{h:g} to {most_w:g}x{most_h:g}",
            w=NARROWEST,
            h=LOWEST,
            most_w=WIDEST,
            most_h=HIGHEST,
        )
        raise InvalidInput("size of a label", rule, typed[:20])
    return LabelSize(width, height)


@dataclass(frozen=True)
class LabelRow:
    """Labels side by side: the picture of their squares, and code, unit, sticking day and donor of each."""

    squares: str
    labels: list[tuple[str, Unit, str, str]]


def square(code: str) -> np.ndarray:
    """A QR square of a code with a quiet edge of one module; True is dark, shape (23, 23)."""
    matrix = segno.make(code, error="m", micro=False, version=1, mask=MASK).matrix
    return np.pad(np.array([list(row) for row in matrix], dtype=bool), 1)


def picture(codes: Sequence[str], size: LabelSize) -> str:
    """The squares of a row of labels as the address of one black-and-white picture."""
    dark = np.zeros((SIDE, size.pitch * size.across), dtype=bool)
    for i, code in enumerate(codes):
        dark[:, i * size.pitch : i * size.pitch + SIDE] = square(code)
    large = np.repeat(np.repeat(~dark, DOTS, axis=0), DOTS, axis=1)
    out = io.BytesIO()
    Image.fromarray(large).convert("1").save(out, format="PNG")
    return "data:image/png;base64," + base64.b64encode(out.getvalue()).decode()


def rows_of(units: Sequence[Unit], size: LabelSize, stuck: dict[int, str]) -> list[LabelRow]:
    """Units in rows of labels; ``stuck`` says the sticking day of a wave."""
    chunks = [units[i : i + size.across] for i in range(0, len(units), size.across)]
    return [
        LabelRow(
            picture([u.code for u in chunk], size),
            [(spaced(u.code), u, stuck.get(u.wave_id, ""), _donor(u)) for u in chunk],
        )
        for chunk in chunks
    ]


def _donor(unit: Unit) -> str:
    """The stock plant that a unit's pieces come from; blank where nobody allotted them, or they come from several."""
    found = {c.donor.code for c in unit.cuttings if c.donor}
    return found.pop() if len(found) == 1 else ""


def labels_html(trial: Trial, units: list[Unit], size: LabelSize) -> str:
    """The sheet of labels, strips per tray, in bench order; a line to write the day on where nothing is stuck yet."""
    by_tray: dict[int, list[Unit]] = {}
    for unit in units:
        by_tray.setdefault(unit.place.tray_id, []).append(unit)
    days: dict[int, list[str]] = {}
    for lot in trial.lots:
        days.setdefault(lot.wave_id, []).append(dated(lot.day_zero.middle))
    stuck = {wave: found[0] for wave, found in days.items() if len(set(found)) == 1}
    strips = [(tray, len(own), rows_of(own, size, stuck)) for tray in trial.trays for own in [by_tray.get(tray.id, [])]]
    return render_template("labels_pdf.html", trial=trial, strips=strips, size=size)
