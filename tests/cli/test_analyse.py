"""The headless command on files as people bring them."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from orderly_bench.cli.main import main

GOOD = "medium,block,rooted,state\npumice,1,1,\npumice,1,0,\nsand,1,0,\nsand,1,,missing\npumice,2,1,\nsand,2,0,\n"


def write(folder: Path, content: str | bytes) -> str:
    file = folder / "trial.csv"
    file.write_bytes(content if isinstance(content, bytes) else content.encode())
    return str(file)


def test_a_blank_is_left_out_and_counted(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["analyse", write(tmp_path, GOOD), "--factors", "medium", "--block", "block", "--json"]) == 0
    result = json.loads(capsys.readouterr().out)
    assert [(a["arm"], a["k"], a["n"], a["left_out"]) for a in result["arms"]] == [
        ("pumice", 2, 3, 0),
        ("sand", 0, 2, 1),
    ]
    assert result["n_cuttings"] == 6 and result["n_blocks"] == 2


@pytest.mark.parametrize(
    "content",
    [
        GOOD.encode("utf-8-sig"),
        GOOD.replace(",", ";").encode(),
        GOOD.replace(",", "\t").encode(),
        GOOD.replace("\n", "\r\n").encode(),
        ("\n" + GOOD + "\n\n").encode(),
    ],
    ids=["bom", "semicolons", "tabs", "windows", "blank lines"],
)
def test_spreadsheet_habits_give_the_same_answer(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], content: bytes
) -> None:
    main(["analyse", write(tmp_path, GOOD), "--factors", "medium", "--json"])
    plain = json.loads(capsys.readouterr().out)
    assert main(["analyse", write(tmp_path, content), "--factors", "medium", "--json"]) == 0
    assert json.loads(capsys.readouterr().out) == plain


@pytest.mark.parametrize(
    ("content", "factors", "message"),
    [
        ("", "medium", "the file is empty"),
        ("medium,rooted\n", "medium", "no cuttings"),
        (GOOD, "hormone", "there is no column 'hormone'"),
        (GOOD.replace("pumice,1,1", "pumice,1,2"), "medium", "row 2, column rooted: '2' is not a rooting result"),
        (GOOD.replace("pumice,1,1", "pumice,1,maybe"), "medium", "Write 1 for rooted"),
        (GOOD.replace("pumice,2,1,", ",2,1,"), "medium", "row 6, column medium: the level is blank"),
        (GOOD.replace("pumice,2,1,", "pumice,2,1"), "medium", "row 6: has 3 cells where the header has 4"),
        (GOOD.replace("sand", "pumice"), "medium", "one arm"),
        ("medium,medium,rooted\na,b,1\n", "medium", "stands twice"),
        ("rooted\n1\n", "rooted", "no factor"),
        (b"\xff\xfe\x00", "medium", "no text that can be read"),
        ("medium,rooted\na,90%\nb,80%\n", "medium", "column rooted: a share, and no column says of how many"),
        ("medium,% rooted\na,90\nb,80\n", "medium", "Add a column of how many were stuck"),
        (GOOD, "medium,medium", "name each column once"),
    ],
)
def test_bad_files_name_row_column_and_remedy(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], content: str, factors: str, message: str
) -> None:
    status = main(["analyse", write(tmp_path, content), "--factors", factors, "--json"])
    captured = capsys.readouterr()
    assert status == 2
    assert message in captured.err and captured.out == ""


def test_one_bad_file_does_not_stop_the_others(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    good = write(tmp_path, GOOD)
    assert main(["analyse", str(tmp_path / "none.csv"), good, "--factors", "medium", "--json"]) == 2
    captured = capsys.readouterr()
    assert "can't be read" in captured.err and len(captured.out.splitlines()) == 1


def test_the_readable_table_has_counts_intervals_and_verdicts(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    main(["analyse", write(tmp_path, GOOD), "--factors", "medium", "--margin", "0.15"])
    text = capsys.readouterr().out
    assert "2 of 3 (67 %)" in text and "not settled" in text and "! Sand: none of 2 rooted" in text


def test_the_control_family_compares_with_the_control_only(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    rows = "".join(f"{arm},{i % 3 == 0:d}\n" for arm in ("a", "b", "c") for i in range(9))
    file = write(tmp_path, "medium,rooted\n" + rows)
    assert main(["analyse", file, "--factors", "medium", "--family", "control", "--control", "medium=b", "--json"]) == 0
    pairs = [(c["a"], c["b"]) for c in json.loads(capsys.readouterr().out)["comparisons"]]
    assert pairs == [("a", "b"), ("c", "b")]
    assert main(["analyse", file, "--factors", "medium", "--control", "medium=z", "--json"]) == 2
    assert "must be one of the arms" in capsys.readouterr().err


def test_a_level_that_is_a_bare_number_is_said_with_its_factor(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    file = tmp_path / "dose.csv"
    file.write_text("hormone,rooted\n" + "0,0\n0,1\n" * 4 + "500,1\n500,1\n" * 4)
    assert main(["analyse", str(file), "--factors", "hormone"]) == 0
    assert "hormone 0 against hormone 500" in capsys.readouterr().out
