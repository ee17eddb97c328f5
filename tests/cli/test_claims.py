"""``claims``: every sentence with its mark and why, from a file; a rate and a look compare nothing."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from orderly_bench.cli.main import main

ROWS = [f"p{n},pumice,{int(n % 8 > 0)}" for n in range(40)] + [f"b{n},bark,{int(n % 3 == 0)}" for n in range(40)]


def marks(tmp_path: Path, capsys: pytest.CaptureFixture[str], text: str, *flags: str) -> list[tuple[str, str]]:
    file = tmp_path / "trial.csv"
    file.write_text("cutting,medium,rooted\n" + "\n".join(ROWS) + "\n")
    flags = flags or ("--factors", "medium", "--margin", "0.15")
    assert main(["claims", str(file), *flags, "--text", text, "--json"]) == 0
    found = json.loads(capsys.readouterr().out)
    assert list(found) == ["sentences"] and all(set(one) == {"text", "mark", "why"} for one in found["sentences"])
    assert " ".join(one["text"] for one in found["sentences"]) == text
    assert all(one["why"] for one in found["sentences"] if one["mark"] in ("against", "beyond"))
    return [(one["mark"], one["why"]) for one in found["sentences"]]


def test_each_sentence_has_its_mark(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    text = "Pumice rooted more than bark. Bark rooted more. 35 of 40 rooted in pumice. 30 of 40 rooted in pumice. Pumice always roots. Round pots did it. It rained."
    found = marks(tmp_path, capsys, text)
    assert [mark for mark, _ in found] == [
        "carried",
        "against",
        "carried",
        "against",
        "beyond",
        "beyond",
        "not_about",
    ]
    assert "'30 of 40' is not among the counts" in found[3][1]


@pytest.mark.parametrize("flags", [("--factors", "medium", "--look"), ("--rate",)])
def test_nothing_is_ahead_where_nothing_was_compared(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], flags: tuple[str, ...]
) -> None:
    assert [mark for mark, _ in marks(tmp_path, capsys, "It rooted better than bark.", *flags)] == ["beyond"]


def test_words_say_what_json_does_and_what_can_not_be_read_is_told(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    marks(tmp_path, capsys, "Bark rooted more.")
    file = str(tmp_path / "trial.csv")
    assert main(["claims", file, "--factors", "medium", "--text", "Bark rooted more."]) == 0
    assert capsys.readouterr().out.startswith("Bark rooted more. [against the data] 'more': it came out the other way")
    for argv in (
        [file, "--factors", "medium", "--text", " "],
        [file, "--factors", "soil", "--text", "x"],
        [file, "--text", "x"],
    ):
        assert main(["claims", *argv]) == 2
        told = capsys.readouterr()
        assert told.err.strip() and not told.out
