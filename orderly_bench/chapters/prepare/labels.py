"""Labels as PDF: code, check character and a machine-readable square; no arm, ever.

The squares of a row of labels are one picture: laying out a drawing for each of hundreds of labels takes too long.
"""

from __future__ import annotations

import base64
import io
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import segno
from flask import render_template
from PIL import Image

from orderly_bench.core.design.codes import spaced
from orderly_bench.trial.models import Trial, Unit

PER_ROW = 4
#: Modules from one label's square to the next, of a square with its quiet edge, and dots for one module.
PITCH, SIDE, DOTS = 69, 23, 2
#: One mask for all: choosing the best of eight costs most of the time and gains nothing at this size.
MASK = 2


@dataclass(frozen=True)
class LabelRow:
    """Labels side by side: the picture of their squares, and code and unit of each."""

    squares: str
    labels: list[tuple[str, Unit]]


def square(code: str) -> np.ndarray:
    """A QR square of a code with a quiet edge of one module; True is dark, shape (23, 23)."""
    matrix = segno.make(code, error="m", micro=False, version=1, mask=MASK).matrix
    return np.pad(np.array([list(row) for row in matrix], dtype=bool), 1)


def picture(codes: Sequence[str]) -> str:
    """The squares of a row of labels as the address of one black-and-white picture."""
    dark = np.zeros((SIDE, PITCH * PER_ROW), dtype=bool)
    for i, code in enumerate(codes):
        dark[:, i * PITCH : i * PITCH + SIDE] = square(code)
    large = np.repeat(np.repeat(~dark, DOTS, axis=0), DOTS, axis=1)
    out = io.BytesIO()
    Image.fromarray(large).convert("1").save(out, format="PNG")
    return "data:image/png;base64," + base64.b64encode(out.getvalue()).decode()


def rows_of(units: Sequence[Unit]) -> list[LabelRow]:
    """Units in rows of labels."""
    chunks = [units[i : i + PER_ROW] for i in range(0, len(units), PER_ROW)]
    return [LabelRow(picture([u.code for u in chunk]), [(spaced(u.code), u) for u in chunk]) for chunk in chunks]


def labels_html(trial: Trial, units: list[Unit]) -> str:
    """The sheet of labels, strips per tray, in bench order."""
    by_tray: dict[int, list[Unit]] = {}
    for unit in units:
        by_tray.setdefault(unit.place.tray_id, []).append(unit)
    strips = [(tray, len(by_tray.get(tray.id, [])), rows_of(by_tray.get(tray.id, []))) for tray in trial.trays]
    return render_template("labels_pdf.html", trial=trial, strips=strips)
