"""Every headless command shows an example in its own help, and the example is one that it takes."""

from __future__ import annotations

import shlex

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
