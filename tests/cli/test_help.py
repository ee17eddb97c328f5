"""Every headless command shows an example in its own help, and the example is one that it takes."""

from __future__ import annotations

import argparse
import shlex
import subprocess
import sys
from collections.abc import Iterator
from datetime import date
from pathlib import Path

import pytest

from orderly_bench.cli.main import build_parser, main
from orderly_bench.machine.commands import FORWARDED


@pytest.mark.parametrize("command", [*FORWARDED, "benchmark"])
def test_the_example_of_a_command_is_one_it_takes(command: str, capsys: pytest.CaptureFixture[str]) -> None:
    with pytest.raises(SystemExit) as left:
        build_parser().parse_args([command, "--help"])
    shown = capsys.readouterr().out
    assert left.value.code == 0 and f"usage: ./bench {command}" in shown
    example = shlex.split(" ".join(shown.rpartition("./bench")[2].split()))
    assert build_parser().parse_args(example).command == command


def parsers(parser: argparse.ArgumentParser) -> Iterator[argparse.ArgumentParser]:
    """A command and all below it."""
    yield parser
    for action in parser._actions:
        if isinstance(action, argparse._SubParsersAction):
            for own in action.choices.values():
                yield from parsers(own)


def test_every_command_below_a_command_has_a_help() -> None:
    found = {one.prog: one.format_help() for one in parsers(build_parser())}
    assert len(found) > 30 and "how much the air dries" in found["./bench sum"]
    assert all(f"usage: {name}" in shown for name, shown in found.items())
    assert "%" in found["./bench sum vpd"]


def test_every_option_says_what_it_is() -> None:
    """Of commands that people type; those that ./bench itself calls are left out."""
    typed = {f"./bench {name}" for name in (*FORWARDED, "benchmark")}
    ours = [one for one in parsers(build_parser()) if " ".join(one.prog.split()[:2]) in typed]
    silent = [
        f"{one.prog} {action.dest}"
        for one in ours
        for action in one._actions
        if not action.help and not isinstance(action, argparse._SubParsersAction)
    ]
    assert len(ours) > 20 and not silent


def test_a_reader_that_has_enough_is_no_fault(tmp_path: Path) -> None:
    log = tmp_path / "log.csv"
    log.write_text("time,air_c,ppfd\n" + "".join(f"{date.fromordinal(730_000 + n)},20,5\n" for n in range(8_000)))
    line = f"{sys.executable} -m orderly_bench.cli conditions {log} --band 18..24 | head -1"
    done = subprocess.run(line, shell=True, capture_output=True, text=True)
    assert done.stdout.startswith("8000 rows") and not done.stderr


@pytest.mark.parametrize(
    ("words", "told"),
    [
        (["analyse", "x.csv", "--blocks", "block"], "does not know: --blocks block. Is --block"),
        (["sum", "stick", "--wnt", "3"], "does not know: --wnt 3. Is --want meant?"),
        (["power", "--arms", "2", "--per-arm", "10", "odd"], "does not know: odd\n"),
    ],
)
def test_what_a_command_does_not_know_is_named_by_its_own_usage(
    capsys: pytest.CaptureFixture[str], words: list[str], told: str
) -> None:
    with pytest.raises(SystemExit):
        main(words)
    err = capsys.readouterr().err
    assert told in err and err.startswith(
        f"usage: ./bench {' '.join(w for w in words[:2] if w in ('analyse', 'sum', 'stick', 'power'))}"
    )


def test_without_factors_the_columns_of_the_file_are_named(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    file = tmp_path / "trial.csv"
    file.write_text("medium,rooted\nsand,1\n")
    assert main(["analyse", str(file)]) == 2
    assert "make up the arm, comma between; trial.csv has medium, rooted." in capsys.readouterr().err
    assert main(["analyse", str(tmp_path / "none.csv")]) == 2
    assert capsys.readouterr().err.rstrip().endswith("comma between.")
