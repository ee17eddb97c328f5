"""What no outcome could have reached is not said of a p that was reached: a Latin square, as people head its columns."""

from __future__ import annotations

from pathlib import Path

import pytest

from tests.cli.test_bad_input import answer, codes

SQUARE = ["ABCD", "BCDA", "CDAB", "DABC"]
ROOTED = [[3, 6, 8, 7], [5, 8, 6, 2], [9, 7, 4, 5], [8, 3, 6, 7]]


def test_a_square_of_four_can_convince_by_its_pairs(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    rows = [f"{r},{c},{SQUARE[r][c]},10,{ROOTED[r][c]}\n" for r in range(4) for c in range(4)]
    text = "row,col,medium,No. cuttings,No. rooted\n" + "".join(rows)
    found = answer(tmp_path, capsys, text, "--row", "row", "--column", "col")
    seen = min(c["p_adjusted"] for c in found["comparisons"])
    assert seen < 0.5 and "cannot_convince" not in codes(found)
