"""Labels as PDF: code, check character and a machine-readable square; no arm, ever."""

from __future__ import annotations

import io

import segno
from flask import render_template
from markupsafe import Markup

from orderly_bench.core.design.codes import spaced
from orderly_bench.trial.models import Trial, Unit


def square(code: str) -> Markup:
    """A QR square of the code as inline svg."""
    out = io.BytesIO()
    segno.make(code, error="m", micro=False).save(
        out, kind="svg", xmldecl=False, svgns=True, border=1, scale=1, omitsize=True
    )
    return Markup(out.getvalue().decode())  # noqa: S704 - drawn by segno from letters and digits


def labels_html(trial: Trial, units: list[Unit]) -> str:
    """The sheet of labels, strips per tray, in bench order."""
    strips = [
        (tray, [(spaced(unit.code), square(unit.code), unit) for unit in units if unit.place.tray_id == tray.id])
        for tray in trial.trays
    ]
    return render_template("labels_pdf.html", trial=trial, strips=strips)
