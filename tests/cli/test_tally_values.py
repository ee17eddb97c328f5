"""Numbers, lengths and grades in a tally: they say what their cuttings would, and what one number cannot say is asked."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from orderly_bench.cli.main import main
from orderly_bench.core.errors import InvalidInput, UnusableData
from orderly_bench.core.responses.kind import Response
from orderly_bench.formats.row_a_cutting import Columns
from orderly_bench.formats.tidy_csv import read_observations

#: Medium, tray, how many of 10 rooted, and their roots in all.
TRAYS = [("pumice", 1, 8, 31), ("pumice", 2, 7, 22), ("pumice", 3, 9, 40), ("pumice", 4, 6, 15), ("bark", 5, 3, 7), ("bark", 6, 4, 9), ("bark", 7, 0, 0), ("bark", 8, 2, 2)]  # fmt: skip


def tally(head: str, of: str, smaller: int = 1) -> str:
    by = {"total": lambda k: 1, "rooted": lambda k: k or 1, "stuck": lambda k: 10}[of]
    lines = [f"{m},{t},10,{k},{roots / by(k) / smaller:.12g}" for m, t, k, roots in TRAYS]
    return "\n".join([f"Medium,Tray,Stuck,Rooted,{head}", *lines, ""])


def analysed(tmp_path: Path, capsys: pytest.CaptureFixture[str], text: str, *words: str) -> dict[str, object]:
    file = tmp_path / "trial.csv"
    file.write_text(text)
    assert main(["analyse", str(file), "--factors", "medium", "--json", *words]) == 0
    found: dict[str, object] = json.loads(capsys.readouterr().out, parse_float=lambda number: round(float(number), 6))
    found["cautions"] = [one for one in found["cautions"] if one["code"] not in ("tally", "tally_values")]  # type: ignore[attr-defined]
    return found


def by_cutting(name: str, whole: bool) -> str:
    """The same, a row a cutting: what rooted shares the roots of its tray."""
    lines = []
    for medium, tray, k, roots in TRAYS:
        each = [roots // k + (i < roots % k) if whole else roots / k for i in range(k)]
        lines += [f"{medium},{tray},1,{value:.12g}" for value in each] + [f"{medium},{tray},0,0"] * (10 - k)
    return "\n".join([f"medium,tray,rooted,{name}", *lines, ""])


@pytest.mark.parametrize(
    ("head", "of", "said"),
    [
        ("Total roots", "total", ()),
        ("Mean no. of roots per rooted cutting", "rooted", ()),
        ("Roots / cutting stuck", "stuck", ()),
        ("root_count", "total", ("--numbers-are", "total")),
        ("Mean roots per cutting", "rooted", ("--numbers-are", "per-rooted")),
        ("Average root number", "stuck", ("--numbers-are", "per-stuck")),
    ],
)
def test_a_number_for_several_cuttings_says_what_they_say(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], head: str, of: str, said: tuple[str, ...]
) -> None:
    single = analysed(tmp_path, capsys, by_cutting("root_count", True), "--unit", "tray", "--response", "root_count")
    assert single["overall"]["p"] < 0.05  # type: ignore[index]
    written = tally(head, of)
    for unit in ((), ("--unit", "tray")):
        assert analysed(tmp_path, capsys, written, "--response", "root_count", *said, *unit) == single


@pytest.mark.parametrize(
    ("name", "head"),
    [
        ("longest_root_mm", "Mean longest root per rooted cutting (mm)"), ("longest_root_mm", "Longest root (mm) of rooted cuttings"),
        ("longest_root_mm", "Longest root of rooted cuttings in cm"), ("quality", "Mean root grade of rooted cuttings"),
    ],
)  # fmt: skip
def test_lengths_and_grades_alike(tmp_path: Path, capsys: pytest.CaptureFixture[str], name: str, head: str) -> None:
    words = ("--response", name, "--unit", "tray")
    single = analysed(tmp_path, capsys, by_cutting(name, False), *words)
    assert analysed(tmp_path, capsys, tally(head, "rooted", 10 if head.endswith("cm") else 1), *words) == single


def test_what_rooted_is_compared_whatever_stands_beside(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    plain = analysed(tmp_path, capsys, tally("remark", "total"))
    assert analysed(tmp_path, capsys, tally("root_count", "stuck")) == plain
    percent = tally("root_count", "rooted").replace("Rooted", "Rooting (%)")
    for _m, tray, k, _r in TRAYS:
        percent = percent.replace(f",{tray},10,{k},", f",{tray},10,{10 * k},")
    assert analysed(tmp_path, capsys, percent) == plain


def test_a_row_of_which_the_number_is_blank_is_unknown_whole() -> None:
    text = "medium,stuck,rooted,total roots\na,3,2,\na,3,0,\nb,2,2,5\nb,2,0,0\n"
    told = read_observations(text.encode(), ["medium"], Response.ROOT_COUNT)
    assert [row.response for row in told.rows] == [None, None, None, 0, 0, 0, 3, 2, 0, 0]


@pytest.mark.parametrize(
    ("head", "rows", "says"),
    [
        ("Mean roots", ["a,5,4,2.5", "b,5,1,1"], "column Mean roots: one number for several.*--numbers-are total"),
        ("roots per rooted cutting", ["a,5,0,2", "b,5,3,1"], "row 2.*nothing of that row rooted"),
        ("roots per stuck cutting", ["a,5,4,2", "b,5,3,0.4"], "row 3.*3 rooted, and no more than 2 roots in all"),
        ("total roots", ["a,5,4,7.5", "b,5,3,4"], "row 2.*A total is counted"),
        ("total roots", ["a,5,4,7", "b,5,,4"], "row 3.*this row does not"),
    ],
)  # fmt: skip
def test_what_can_not_be_is_said(head: str, rows: list[str], says: str) -> None:
    with pytest.raises(UnusableData, match=says):
        read_observations(
            "\n".join([f"medium,stuck,rooted,{head}", *rows, ""]).encode(), ["medium"], Response.ROOT_COUNT
        )


def test_a_mean_with_nothing_beside_it_asks_for_how_many() -> None:
    with pytest.raises(UnusableData, match=r"where it is a mean, add columns of how many were stuck"):
        read_observations(b"medium,root_count\na,2.5\nb,3\n", ["medium"], Response.ROOT_COUNT)


def test_pieces_drawn_singly_and_several_looks_need_each_number() -> None:
    text = tally("total roots", "total").encode()
    with pytest.raises(InvalidInput, match="needs the number of each cutting"):
        read_observations(text, ["medium"], Response.ROOT_COUNT, Columns(single=True))
    looks = b"medium,day,stuck,rooted,total roots\na,20,5,2,4\na,30,5,4,9\nb,20,5,1,1\nb,30,5,2,3\n"
    with pytest.raises(UnusableData, match="Keep the rows of the last look alone"):
        read_observations(looks, ["medium"], Response.ROOT_COUNT, Columns(day="day", unit="medium"))
    with pytest.raises(UnusableData, match="as looks at the same cuttings do"):
        read_observations(looks, ["medium"], Response.ROOT_COUNT)
    of_one = b"medium,root_count\na,2\na,3\nb,4\nb,4\n"
    with pytest.raises(InvalidInput, match="leave it out"):
        read_observations(of_one, ["medium"], Response.ROOT_COUNT, Columns(numbers_are="total"))
