"""Agreement of two scorers, from a file with a column for each or from counts."""

from __future__ import annotations

import json
import re
from pathlib import Path

import pytest

from orderly_bench.cli.main import main
from orderly_bench.core.score.agreement import crossed

TWICE = [("0", "0")] * 20 + [("0", "1")] * 5 + [("1", "0")] * 10 + [("1", "1")] * 15 + [("1", ""), ("", "0")]


@pytest.fixture
def twice(tmp_path: Path) -> str:
    file = tmp_path / "twice.csv"
    file.write_text("cutting,Ines,Tomas\n" + "".join(f"{i},{a},{b}\n" for i, (a, b) in enumerate(TWICE)))
    return str(file)


def test_a_file_says_what_its_counts_say(twice: str, capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["kappa", "--table", "20,5;10,15", "--json"]) == 0
    counted = json.loads(capsys.readouterr().out)["kappa"]
    assert main(["kappa", twice, "--by", "ines, tomas", "--json"]) == 0
    found = json.loads(capsys.readouterr().out)
    assert found == {"kappa": counted, "n": 50, "alike": 35, "left_out": 2, "classes": ["0", "1"]}
    assert counted == pytest.approx(0.4), "0.7 alike, 0.5 by chance"
    assert main(["kappa", twice, "--by", "ines,tomas"]) == 0
    assert capsys.readouterr().out.splitlines() == ["35 of 50 alike", "kappa 0.400", "2 cuttings left out: one of the two is blank"]  # fmt: skip


def test_classes_stand_in_their_natural_order() -> None:
    both = crossed(["2", "10", "5"], ["10", "10", "2"])
    assert both.classes == ("2", "5", "10") and both.counts.tolist() == [[0, 0, 1], [1, 0, 0], [0, 0, 1]]


@pytest.mark.parametrize(
    ("words", "says"),
    [
        ((), "give one of the two"),
        (("FILE", "--table", "1,2;3,4"), "give one of the two"),
        (("FILE",), "--by: name two columns"),
        (("FILE", "--by", "Ines"), "--by: name two columns"),
        (("FILE", "--by", "Ines,Hale"), "there is no column 'Hale'"),
        (("nowhere.csv", "--by", "Ines,Tomas"), "nowhere.csv.*can't be read"),
    ],
)  # fmt: skip
def test_what_can_not_be_held_together_is_said(
    twice: str, capsys: pytest.CaptureFixture[str], words: tuple[str, ...], says: str
) -> None:
    assert main(["kappa", *(twice if word == "FILE" else word for word in words)]) == 2
    told = capsys.readouterr().err
    assert re.search(says, told), told
