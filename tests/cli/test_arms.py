"""``arms``: from a file to JSON and words, or a message and status 2."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from orderly_bench.cli.main import main
from orderly_bench.core.plan.separable import separate
from orderly_bench.formats.arms_csv import read_arms, write_arms

TWO = "arm,medium,hormone,pot,cover,light\none,pumice,IBA,clear,lid,\ntwo,bark,none,dark,lid,\n"


def run(tmp_path: Path, text: str, *flags: str) -> int:
    file = tmp_path / "arms.csv"
    file.write_text(text)
    return main(["arms", str(file), *flags])


def test_json_has_every_key_and_its_mends_mend(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    assert run(tmp_path, TWO, "--asked", "hormone,medium", "--json") == 0
    found = json.loads(capsys.readouterr().out)
    assert found["same"] == {"cover": "lid"}
    assert (found["asked"], found["travelling"], found["not_said"]) == (["hormone", "medium"], ["pot"], ["light"])
    assert found["contrasts"][0] == {
        "aspect": "hormone", "a": "IBA", "b": "none", "separable": False, "travels_with": ["medium", "pot"], "together": []
    }  # fmt: skip
    assert found["mends"]
    rows = [dict(arm.values) for arm in read_arms(TWO.encode())]
    for mend in found["mends"]:
        assert mend["added"] == len(mend["add_arms"])
        wanted = [{**row, **dict.fromkeys(mend["make_same"], "alike")} for row in [*rows, *mend["add_arms"]]]
        text = "arm,medium,hormone,pot,cover,light\n" + "".join(
            f"{i}," + ",".join(row.get(a, "") for a in ("medium", "hormone", "pot", "cover", "light")) + "\n"
            for i, row in enumerate(wanted)
        )
        assert separate(read_arms(text.encode()), ["hormone", "medium"]).separable


def test_words_name_what_travels_and_the_mend(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    assert run(tmp_path, TWO, "--asked", "hormone", "--blank", "hormone=carrier alone") == 0
    said = capsys.readouterr().out
    assert "can't be told apart from medium or from pot" in said
    assert "make medium, pot the same in every arm" in said


@pytest.mark.parametrize(
    ("text", "flags", "says"),
    [
        ("arm,x\n1,a\n", ["--asked", "x"], "at least two"),
        ("arm,x\n1,a\n,b\n", ["--asked", "x"], "row 3, column arm"),
        ("name,x\n1,a\n2,b\n", ["--asked", "x"], "no column 'arm'"),
        ("arm\n1\n2\n", ["--asked", "x"], "no aspect"),
        ("arm,x\n1,a\n2,a\n", ["--asked", "x"], "must differ"),
        ("arm,x\n1,a\n2,b\n", ["--asked", "x", "--blank", "carrier"], "aspect=value"),
        ("", ["--asked", "x"], "empty"),
    ],
)
def test_a_bad_file_gets_a_message_and_status_2(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], text: str, flags: list[str], says: str
) -> None:
    assert run(tmp_path, text, *flags) == 2
    seen = capsys.readouterr()
    assert seen.out == ""
    assert says in seen.err


def test_arms_written_are_read_back() -> None:
    arms = read_arms(TWO.encode())
    assert read_arms(write_arms(arms, ["medium", "hormone", "pot", "cover", "light"]).encode()) == arms
