"""A row for each arm and a column for each replicate says what a row for each of them would."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from orderly_bench.cli.main import main
from orderly_bench.core.errors import UnusableData
from orderly_bench.core.responses.kind import Response
from orderly_bench.core.vocabulary import KnownBy
from orderly_bench.formats.old_trial_csv import read_old_trial
from orderly_bench.formats.tidy_csv import read_observations

#: Arm, and how many of ten rooted in each of four trays.
TRAYS = {"none": (2, 3, 2, 1), "IBA 1000": (5, 6, 4, 5), "IBA 3000": (8, 8, 6, 9)}
HEADS = {
    "rep": ("R1", "R2", "R3", "R4"), "Rep": ("Rep 1", "Rep 2", "Rep 3", "Rep 4"), "roman": ("I", "II", "III", "IV"),
    "replication": ("Replication I", "Replication II", "Replication III", "Replication IV"), "no": ("Rep. No. 1", "Rep. No. 2", "Rep. No. 3", "Rep. No. 4"),
}  # fmt: skip


def across(heads: tuple[str, ...], cell: str = "{k}/10", more: str = "", beside: str = "") -> str:
    rows = [
        ",".join([arm, *([beside] if more else []), *(cell.format(k=k) for k in did)]) for arm, did in TRAYS.items()
    ]
    return "\n".join([",".join(["Hormone", *([more] if more else []), *heads]), *rows, ""])


def down(word: str = "rep") -> str:
    rows = [f"{arm},{i},10,{k}" for arm, did in TRAYS.items() for i, k in enumerate(did, 1)]
    return "\n".join([f"hormone,{word},stuck,rooted", *rows, ""])


def answered(tmp_path: Path, capsys: pytest.CaptureFixture[str], text: str, *words: str) -> dict[str, object]:
    file = tmp_path / "t.csv"
    file.write_text(text)
    assert main(["analyse", str(file), "--factors", "hormone", "--margin", "0.15", "--json", *words]) == 0
    found: dict[str, object] = json.loads(capsys.readouterr().out)
    found["codes"] = {one["code"] for one in found.pop("cautions")}  # type: ignore[attr-defined]
    return found


@pytest.mark.parametrize("how", HEADS)
@pytest.mark.parametrize("words", [(), ("--block", "rep")])
def test_replicates_are_the_rows_they_would_be(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], how: str, words: tuple[str, ...]
) -> None:
    found, rows = answered(tmp_path, capsys, across(HEADS[how]), *words), answered(tmp_path, capsys, down(), *words)
    assert found.pop("codes") == rows.pop("codes") | {"reps_across"}  # type: ignore[operator]
    assert found == rows and found["n_units"] == 12


@pytest.mark.parametrize(
    "text",
    [
        across(HEADS["rep"], "{k}", "No. of cuttings", "10"), across(HEADS["rep"], "{k}0 %", "n", "10"),
        across((*HEADS["rep"], "Mean", "SE"), "{k}/10").replace("1/10\n", "1/10,20,0.5\n").replace("5/10\nIBA 3", "5/10,50,0.5\nIBA 3").replace("9/10\n", "9/10,77.5,0.6\n"),
    ],
)  # fmt: skip
def test_counts_beside_how_many_and_shares_and_a_mean_beside_them(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], text: str
) -> None:
    found, rows = answered(tmp_path, capsys, text), answered(tmp_path, capsys, down())
    assert found["comparisons"] == rows["comparisons"] and found["arms"] == rows["arms"]


def test_trays_of_an_arm_have_names_of_their_own(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    found = answered(tmp_path, capsys, across(("Tray 1", "Tray 2", "Tray 3", "Tray 4")), "--unit", "tray")
    rows = answered(tmp_path, capsys, down("pot"), "--unit", "hormone,pot")
    assert found["n_units"] == 12 and found["comparisons"] == rows["comparisons"]


def test_a_measured_mean_below_a_replicate_is_one_value() -> None:
    rows = read_observations(b"hormone,I,II,III\nnone,22.1,31,25\nIBA,52,,61.5\n", ["hormone"], Response.LONGEST).rows
    assert [(row.levels[0], row.response) for row in rows] == [
        ("none", 22.1),
        ("none", 31),
        ("none", 25),
        ("IBA", 52),
        ("IBA", 61.5),
    ]


def test_a_finished_trial_comes_in_so_too() -> None:
    found = read_old_trial(across(HEADS["rep"]).encode(), ["hormone"], "", "rep", KnownBy.LIFTED)
    assert (
        len(found) == 120
        and len({row.unit for row in found}) == 12
        and {row.block for row in found} == {"1", "2", "3", "4"}
    )
    assert {row.unit for row in found if row.line == 2} == {f"line 2, R{i}" for i in (1, 2, 3, 4)}


@pytest.mark.parametrize(
    ("text", "says"),
    [
        (across(HEADS["rep"], "{k}"), "row 2, column R1: '2' does not say of how many"), (across(HEADS["rep"], "{k}0 %"), "no column says of how many"),
        (across(("Row 1", "Row 2", "Row 3", "Row 4")), "no column 'rooted'"), ("hormone,R1,note 2\nnone,2/10,wet\n", "no column 'rooted'"),
    ],
)  # fmt: skip
def test_what_is_none_or_does_not_say_of_how_many_is_refused(text: str, says: str) -> None:
    with pytest.raises(UnusableData, match=says):
        read_observations(text.encode(), ["hormone"])
