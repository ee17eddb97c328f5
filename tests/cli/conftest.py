"""A file asked at the command line."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from orderly_bench.cli.main import main


@pytest.fixture
def ask(tmp_path: Path, capsys: pytest.CaptureFixture[str]):
    def asked(header: str, lines: list[str], *flags: str) -> dict | str:
        file = tmp_path / "t.csv"
        file.write_text("\n".join([header, *lines]) + "\n")
        status = main(["analyse", str(file), "--draws", "200", "--json", *flags])
        captured = capsys.readouterr()
        return json.loads(captured.out) if status == 0 else captured.err

    return asked
