"""The living page of interface parts, in development mode only."""

from __future__ import annotations

from flask import Blueprint, render_template
from flask.typing import ResponseReturnValue

from orderly_bench.core.cautions import Caution
from orderly_bench.core.vocabulary import Top
from orderly_bench.figures.glyphs import BELOW, Look
from orderly_bench.trial.access import Act
from orderly_bench.web.access import route
from orderly_bench.web.bench_map import Cell, TrayView

chapter = Blueprint("parts", __name__)
LETTERS = "ABCDEFGHIJKL"


@route(chapter, "/parts", Act.READ)
def parts_page() -> ResponseReturnValue:
    """Every part, with every state it can be in."""
    looks = [Look(top, below) for top in [t.value for t in Top] for below in BELOW if below != "nothing"]
    special = [
        Look("missing", "nothing"),
        Look("out", "not looked"),
        Look("unseen", "nothing"),
        Look("dried", "none", True),
    ]
    cells = [Cell(1, i + 1, i + 1, f"cell {i + 1}", letter=LETTERS[i], look=looks[i * 4]) for i in range(6)]
    tray = TrayView(1, 1, 8, [*cells, Cell(1, 7), Cell(1, 8, 8, "not stuck", cross=True)])
    doubt = Caution("example", "A doubt is one sentence.", "And says what would remove it")
    return render_template("parts_page.html", looks=[*looks, *special], letters=LETTERS, tray=tray, doubt=doubt)
