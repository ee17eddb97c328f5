"""A tally instead of a row a cutting: it says the same as its cuttings would, and a row is a unit until somebody says otherwise."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from orderly_bench.cli.main import main
from orderly_bench.core.errors import UnusableData
from orderly_bench.core.responses.kind import Response
from orderly_bench.core.vocabulary import KnownBy, Roots
from orderly_bench.formats.old_trial_csv import read_old_trial
from orderly_bench.formats.row_a_cutting import Columns
from orderly_bench.formats.tidy_csv import read_observations

TRAYS = [("pumice", 1, 12), ("pumice", 2, 15), ("pumice", 3, 14), ("pumice", 4, 11), ("bark", 5, 6), ("bark", 6, 9), ("bark", 7, 8), ("bark", 8, 4)]  # fmt: skip
TALLY = "medium,tray,stuck,rooted\n" + "".join(f"{medium},{tray},20,{k}\n" for medium, tray, k in TRAYS)
WHOLE = "medium,tray,rooted\n" + "".join(
    f"{medium},{tray},{int(i < k)}\n" for medium, tray, k in TRAYS for i in range(20)
)


def analysed(tmp_path: Path, capsys: pytest.CaptureFixture[str], text: str, *words: str) -> dict[str, object]:
    file = tmp_path / "trial.csv"
    file.write_text(text)
    assert main(["analyse", str(file), "--factors", "medium", "--margin", "0.15", "--json", *words]) == 0
    found: dict[str, object] = json.loads(capsys.readouterr().out)
    return found


def without(found: dict[str, object], *codes: str) -> dict[str, object]:
    kept = [one for one in found["cautions"] if one["code"] not in codes]  # type: ignore[attr-defined]
    return found | {"cautions": kept}


@pytest.mark.parametrize(
    "written", [TALLY, TALLY.replace("stuck,rooted", "rooted").replace(",20,", ",")], ids=["beside", "of"]
)
def test_a_tally_says_what_its_cuttings_say(tmp_path: Path, capsys: pytest.CaptureFixture[str], written: str) -> None:
    if "stuck" not in written:
        written = "\n".join(line if not line[-1:].isdigit() else f"{line}/20" for line in written.splitlines())
    by_tray = analysed(tmp_path, capsys, WHOLE, "--unit", "tray")
    assert analysed(tmp_path, capsys, written, "--unit", "tray") == by_tray
    by_row = analysed(tmp_path, capsys, written)
    assert "tally" in str(by_row) and without(by_row, "tally") == without(by_tray, "tally")
    singly = analysed(tmp_path, capsys, written, "--single")
    assert without(singly, "unused_grouping") == without(analysed(tmp_path, capsys, WHOLE), "unused_grouping")
    assert singly["overall"]["p"] < by_row["overall"]["p"]  # type: ignore[index]


def test_totals_of_an_arm_are_one_unit_each_until_its_pieces_are_said_to_be_drawn_singly(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    totals = "medium,rooted\npumice,52/80\nbark,27 of 80\n"
    assert analysed(tmp_path, capsys, totals)["overall"]["p"] is None  # type: ignore[index]
    assert analysed(tmp_path, capsys, totals, "--single")["overall"]["p"] < 0.001  # type: ignore[index]


def test_the_dead_of_a_tally_are_dead() -> None:
    told = read_observations(b"medium,n,rooted,died\na,5,2,1\nb,4,4,0\n", ["medium"])
    assert [(row.response, row.state) for row in told.rows if row.levels == ("a",)] == [
        (1.0, ""), (1.0, ""), (0.0, "dead"), (0.0, ""), (0.0, ""),
    ]  # fmt: skip
    assert [unit.count("tally") for unit in {one.code for one in told.questions}] == [1]


def test_other_yes_or_no_responses_are_tallied_too_and_numbers_are_not() -> None:
    alive = read_observations(b"medium,stuck,alive\na,5,2\nb,4,4\n", ["medium"], Response.ALIVE, Columns(single=True))
    assert [row.response for row in alive.rows] == [1, 1, 0, 0, 0, 1, 1, 1, 1]
    counts = read_observations(b"medium,stuck,root_count\na,5,2\nb,4,4\n", ["medium"], Response.ROOT_COUNT)
    assert [row.response for row in counts.rows] == [2, 4], "a number of roots of one cutting each"


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("medium,stuck,rooted,dead\na,5,4,2\nb,5,1,0\n", "row 2.*4 rooted and 2 dead are more than 5 stuck"),
        ("medium,stuck,rooted,state\na,5,4,dead\nb,5,1,\n", "row 2, column state: one value for several cuttings"),
        ("medium,rooted\na,5\nb,1\n", "or a tally, with how many were stuck"),
        ("medium,stuck,rooted\na,5,4\nb,5,1\nTotal,10,5\n", "row 4.*sums or averages others"),
        ("medium,stuck,rooted\na,5,4\nMean,5,2\nb,5,1\n", "row 3.*sums or averages others"),
        ("medium,stuck,rooted\na,5,4\nb,5,1\nboth,10,5\n", "row 4.*sums or averages others"),
        ("medium,stuck,rooted\na,5,4\nb,,1\n", "row 3.*the others say how many of how many, this row does not"),
        ("medium,stuck,rooted\na,5,4\nb,,lost\n", "row 3.*leave the row out where nothing of it was counted"),
    ],
)
def test_what_is_no_whole_tally_is_said(text: str, says: str) -> None:
    with pytest.raises(UnusableData, match=says):
        read_observations(text.encode(), ["medium"])


def test_single_and_a_unit_are_not_both_given(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    file = tmp_path / "trial.csv"
    file.write_text(TALLY)
    assert main(["analyse", str(file), "--factors", "medium", "--single", "--unit", "tray"]) == 2
    assert "give one of the two" in capsys.readouterr().err


SHARES = "medium,tray,n,{head}\n" + "".join(f"{medium},{tray},20,{5 * k}\n" for medium, tray, k in TRAYS)


@pytest.mark.parametrize("head", ["Rooted (%)", "percent rooted", "Rooting %", "Rooted percentage"])
def test_shares_of_how_many_were_stuck_are_their_numbers(head: str) -> None:
    told = read_observations(SHARES.format(head=head).encode(), ["medium"])
    assert told.rows == read_observations(TALLY.encode(), ["medium"]).rows


@pytest.mark.parametrize(
    ("many", "share", "number"),
    [(12, "66.7 %", 8), (12, '"66,7%"', 8), (12, "67%", 8), (8, "12.5%", 1), (20, "100%", 20), (20, "0%", 0)],
)
def test_a_share_as_it_was_rounded_is_the_number_it_came_of(many: int, share: str, number: int) -> None:
    told = read_observations(f"medium,n,rooted\na,{many},{share}\nb,3,1\n".encode(), ["medium"])
    assert sum(row.response or 0 for row in told.rows if row.levels == ("a",)) == number


@pytest.mark.parametrize(("many", "share"), [(20, "67%"), (12, "66%"), (300, "50%"), (20, "105%")])
def test_a_share_that_no_number_gives_or_several_do_is_refused(many: int, share: str) -> None:
    with pytest.raises(UnusableData, match=r"is no whole number of cuttings, or could be several.*how many there were"):
        read_observations(f"medium,n,rooted\na,{many},{share}\nb,3,1\n".encode(), ["medium"])


def test_shares_are_never_taken_for_numbers_where_a_finished_trial_comes_in_either() -> None:
    shares = b"medium,tray,stuck,Rooted (%)\nsand,1,80,65\nbark,2,80,35\n"
    rows = read_old_trial(shares, ["medium"], "tray", "", KnownBy.LIFTED)
    assert [sum(row.score.roots is Roots.SEEN for row in rows if row.unit == unit) for unit in "12"] == [52, 28]


def test_columns_are_found_however_people_head_them_and_answers_however_they_write_them() -> None:
    told = read_observations(
        b"Medium;Pot ;Rooted?;No. of roots\nsand;1;Yes;3\nsand;1;no;\nbark;2;N;\nbark;2;y;2\n",
        ["medium"],
        columns=Columns(unit="pot"),
    )
    assert [row.response for row in told.rows] == [1, 0, 0, 1] and told.units.arm.size == 2


def test_what_did_not_root_has_no_roots_where_their_number_is_blank() -> None:
    text = b"medium,rooted,root_count,longest_root_mm,quality\na,1,4,12,3\na,0,,,\nb,1,,,\nb,,,,\n"
    for response, value in ((Response.ROOT_COUNT, 4), (Response.LONGEST, 12), (Response.QUALITY, 3)):
        told = read_observations(text, ["medium"], response)
        assert [row.response for row in told.rows] == [value, 0, None, None], "rooted, and nobody counted: unknown"


@pytest.mark.parametrize("control", ["bark", "medium=bark", "MEDIUM=bark"])
def test_the_control_of_one_factor_is_its_level(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], control: str
) -> None:
    assert analysed(tmp_path, capsys, TALLY, "--family", "control", "--control", control)["overall"]["p"] < 0.05  # type: ignore[index]
    file = tmp_path / "trial.csv"
    assert main(["analyse", str(file), "--factors", "medium,tray", "--control", "bark"]) == 2
    assert "give one level for each factor: medium=…,tray=…" in capsys.readouterr().err


@pytest.mark.parametrize(
    "written",
    [
        "pot,medium,n_stuck,n_rooted\n1,a,10,4\n2,a,10,6\n3,b,10,9\n4,b,10,8\n",
        "pot,medium,Rooted cuttings,Not rooted\n1,a,4,6\n2,a,6,4\n3,b,9,1\n4,b,8,2\n",
        "pot,medium,number rooted,cuttings stuck\n1,a,4,10\n2,a,6,10\n3,b,9,10\n4,b,8,10\n",
    ],
)
def test_how_many_were_stuck_is_found_or_summed(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], written: str
) -> None:
    found = analysed(tmp_path, capsys, written, "--unit", "pot")
    assert {arm["arm"]: (arm["k"], arm["n"]) for arm in found["arms"]} == {"a": (10, 20), "b": (17, 20)}  # type: ignore[attr-defined]


def test_those_that_did_not_root_and_the_dead_are_not_summed(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    """The dead may be among them, or beside them."""
    file = tmp_path / "trial.csv"
    file.write_text("medium,rooted,not rooted,dead\na,4,6,2\nb,9,1,0\n")
    assert main(["analyse", str(file), "--factors", "medium"]) == 2
    assert "how many were stuck in a column beside it" in capsys.readouterr().err


def test_pairs_of_rows_that_hold_several_are_blocks_of_two(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    text = "medium,plant,stuck,rooted\n" + "".join(
        f"{medium},{plant},10,{k}\n"
        for plant, both in enumerate([(8, 5), (7, 4), (9, 7), (6, 6), (8, 3)])
        for medium, k in zip(("pumice", "bark"), both, strict=True)
    )
    paired, blocked = (analysed(tmp_path, capsys, text, flag, "plant") for flag in ("--pair", "--block"))
    told = {one["code"] for one in paired["cautions"]} - {one["code"] for one in blocked["cautions"]}
    assert told == {"pairs_of_units"} and without(paired, "pairs_of_units") == blocked


def test_a_cell_of_a_square_is_a_unit_and_is_not_asked_about(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    text = "medium,row,column,stuck,rooted\n" + "".join(
        f"{'abc'[(r + c) % 3]},r{r},c{c},10,{3 + (5 * r + 2 * c) % 6}\n" for r in range(3) for c in range(3)
    )
    square = analysed(tmp_path, capsys, text, "--row", "row", "--column", "column")
    apart = analysed(tmp_path, capsys, text)
    assert [any(one["code"] == "tally" for one in found["cautions"]) for found in (square, apart)] == [False, True]
