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

from orderly_bench.cli.main import build_parser
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
