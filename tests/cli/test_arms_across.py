"""A table with a column for each arm, and one on its side, say what the same cuttings say in rows."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from orderly_bench.cli.main import main
from orderly_bench.core.errors import UnusableData
from orderly_bench.core.responses.kind import Response
from orderly_bench.core.vocabulary import KnownBy, Roots, State
from orderly_bench.formats.old_trial_csv import read_old_trial
from orderly_bench.formats.tidy_csv import read_observations

ARMS = ("none", "1000 ppm", "3000 ppm")
#: By row of the sheet, the cell of each arm; blank where an arm has one cutting fewer.
COUNTS = [("0", "3", "5"), ("2", "4", "4"), ("1", "0", "6"), ("0", "2", ""), ("1", "5", "7"), ("3", "dead", "8")]
ANSWERS = [("yes", "yes", "no"), ("no", "yes", "yes"), ("no", "dead", "no"), ("no", "yes", ""), ("yes", "no", "yes")]
TRAYS = [("3/10", "8/10", "9/10"), ("2/10", "7 of 10", "8/10"), ("4/10", "9/10", "10/10"), ("3/10", "6/10", "8/10")]


def analysed(tmp_path: Path, capsys: pytest.CaptureFixture[str], text: str, *words: str) -> dict[str, object]:
    file = tmp_path / "trial.csv"
    file.write_text(text)
    assert main(["analyse", str(file), "--factors", "hormone", "--json", *words]) == 0
    found: dict[str, object] = json.loads(capsys.readouterr().out)
    return found


def codes(found: dict[str, object]) -> list[str]:
    return [one["code"] for one in found["cautions"]]  # type: ignore[attr-defined]


def without_reading(found: dict[str, object]) -> dict[str, object]:
    kept = [one for one in found["cautions"] if not one["code"].startswith("arms_across")]  # type: ignore[attr-defined]
    return {**found, "cautions": kept}


def across(cells: list[tuple[str, ...]], first: str = "no") -> str:
    rows = [",".join([str(i), *row]) for i, row in enumerate(cells, start=1)]
    return "\n".join([",".join([first, *ARMS]), *rows, ""])


def down(cells: list[tuple[str, ...]], response: str, first: str = "") -> str:
    rows = []
    for arm, column in zip(ARMS, zip(*cells, strict=True), strict=True):
        for i, cell in enumerate(column, start=1):
            if cell:
                said = ("0" if response in ("rooted", "alive") else "") if cell == "dead" else cell
                rows.append(",".join([*([str(i)] if first else []), arm, said, cell if cell == "dead" else ""]))
    return "\n".join([",".join([*([first] if first else []), "hormone", response, "state"]), *rows, ""])


@pytest.mark.parametrize(
    ("cells", "response"),
    [(COUNTS, "root_count"), (COUNTS, "longest_root_mm"), (ANSWERS, "rooted"), (ANSWERS, "alive")],
)
def test_arms_side_by_side_say_what_they_say_below_one_another(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], cells: list[tuple[str, ...]], response: str
) -> None:
    found = analysed(tmp_path, capsys, across(cells), "--response", response)
    assert codes(found).count("arms_across") == 1
    assert without_reading(found) == analysed(tmp_path, capsys, down(cells, response), "--response", response)


def test_rows_of_trays_are_units_of_each_arm_and_may_be_blocks(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    in_rows = down(TRAYS, "rooted", "rep")
    alone = analysed(tmp_path, capsys, across(TRAYS, "rep"))
    assert alone["design"] == "completely randomised, several cuttings per unit"
    assert without_reading(alone) == analysed(tmp_path, capsys, in_rows)
    blocked = analysed(tmp_path, capsys, across(TRAYS, "rep"), "--block", "rep")
    assert blocked["design"] == "randomised complete blocks, several cuttings per unit"
    assert without_reading(blocked) == analysed(tmp_path, capsys, in_rows, "--block", "rep")
    assert "unused_grouping" in codes(alone) and "unused_grouping" not in codes(blocked)
    counted = "\n".join(
        [",".join(["rep", "stuck", *ARMS])]
        + [",".join([str(i), "10", *(cell.split("/")[0].split(" ")[0] for cell in row)]) for i, row in enumerate(TRAYS)]
    )
    assert analysed(tmp_path, capsys, counted)["arms"] == alone["arms"]


def test_a_table_on_its_side_is_set_upright(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    on_its_side = "\n".join([",".join(["", *ARMS]), "Stuck,40,40,40", "Rooted,12,25,30", "Dead,5,3,8", ""])
    upright = "\n".join(["hormone,Stuck,Rooted,Dead", "none,40,12,5", "1000 ppm,40,25,3", "3000 ppm,40,30,8", ""])
    found = analysed(tmp_path, capsys, on_its_side, "--single")
    assert any("on its side" in one["text"] for one in found["cautions"])  # type: ignore[attr-defined]
    assert without_reading(found) == analysed(tmp_path, capsys, upright, "--single")


def test_numbers_that_could_be_two_things_are_asked_about() -> None:
    """8 may be the roots of one cutting, or how many of several rooted."""
    sheet = across([("3", "8", "9"), ("2", "7", "1")]).encode()
    with pytest.raises(UnusableData, match="8/10") as refused:
        read_observations(sheet, ["hormone"])
    assert refused.value.row == 2 and refused.value.column == "none"
    assert len(read_observations(sheet, ["hormone"], Response.ROOT_COUNT).rows) == 6


@pytest.mark.parametrize("name", ["Mean", "Total", "SE", "Std. dev."])
def test_a_row_below_that_works_out_the_others_is_no_cutting_and_such_a_column_no_arm(name: str) -> None:
    sheet = f"plant,none,1000 ppm\na,10,14\nb,12,19\nc,9,20\n{name},10,18\n".encode()
    with pytest.raises(UnusableData, match="sums or averages others") as refused:
        read_observations(sheet, ["hormone"], Response.LONGEST)
    assert refused.value.row == 5
    beside = f"plant,none,1000 ppm,{name}\na,10,14,12\nb,12,19,15.5\nc,9,20,14.5\n".encode()
    found = read_observations(beside, ["hormone"], Response.LONGEST)
    assert found.arms == (("1000 ppm",), ("none",)) and len(found.rows) == 6


@pytest.mark.parametrize(
    "sheet",
    [
        "medium,rooted\nsand,1\nbark,0\n",  # its outcome has a column: the factor is misspelt
        "label,1000 ppm\nx,1\ny,0\n",  # one arm
        "none,1000 ppm\nsoft,hard\n",  # cells that say nothing of rooting
    ],
)
def test_where_no_columns_can_be_arms_the_factor_is_missed(sheet: str) -> None:
    with pytest.raises(UnusableData, match="no column 'hormone'"):
        read_observations(sheet.encode(), ["hormone"])


def test_a_finished_trial_comes_in_from_such_a_sheet() -> None:
    rows = read_old_trial(across(ANSWERS).encode(), ["hormone"], "", "", KnownBy.LIFTED)
    assert [row.levels[0] for row in rows] == ["none"] * 5 + ["1000 ppm"] * 5 + ["3000 ppm"] * 4
    assert [row.score.roots is Roots.SEEN for row in rows[:5]] == [True, False, False, False, True]
    assert rows[7].score.state is State.DEAD
    assert len({row.unit for row in rows}) == 14, "each cutting stood alone"
    trays = read_old_trial(across(TRAYS, "rep").encode(), ["hormone"], "", "rep", KnownBy.LIFTED)
    assert len(trays) == 120 and {row.block for row in trays} == {"1", "2", "3", "4"}
