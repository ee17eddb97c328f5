"""Backups that the running lab makes by itself."""

from __future__ import annotations

import json
import sys
from datetime import datetime, timedelta
from pathlib import Path

import pytest

from orderly_bench.machine import scheduled, serve
from orderly_bench.machine.problem import Problem
from orderly_bench.machine.scheduled import Schedule, due, made_so_far, put_away, remember, remembered

NOW = datetime(2026, 3, 9, 14, 0, 0)


@pytest.fixture
def place(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    (tmp_path / "var").mkdir()
    monkeypatch.setattr(scheduled, "make_var", lambda: tmp_path / "var")
    monkeypatch.setattr(serve, "VAR", tmp_path / "var")
    folder = tmp_path / "backups"
    folder.mkdir()
    return folder


def made(folder: Path, *ago: timedelta) -> None:
    for since in ago:
        Schedule(str(folder), "day", 14).next_file(NOW - since).write_text("x")


def test_the_setting_is_kept_and_put_away(place: Path) -> None:
    assert remembered() is None
    assert remember(str(place), "day", 3) == remembered() == Schedule(str(place), "day", 3)
    assert remember(str(place), "never", 3) is None and remembered() is None
    for folder, every, keep, secret in (
        (place / "no", "day", 3, ""),
        (place, "year", 3, ""),
        (place, "day", 0, ""),
        (place, "day", 3, "none"),
    ):
        with pytest.raises(Problem):
            remember(str(folder), every, keep, secret)
    assert remembered() is None


@pytest.mark.parametrize(
    ("every", "ago", "is_due"),
    [
        ("day", [], True), ("day", [timedelta(hours=23)], False), ("day", [timedelta(hours=24)], True), ("day", [timedelta(days=9)], True),
        ("week", [timedelta(days=6)], False), ("hour", [timedelta(hours=1)], True), ("day", [-timedelta(days=2)], True),
        ("day", [-timedelta(days=2), timedelta(hours=1)], False),
    ],
)  # fmt: skip
def test_one_is_due_when_the_newest_is_old_or_there_is_none(
    place: Path, every: str, ago: list[timedelta], is_due: bool
) -> None:
    """Missed ones are due at once; one from a clock that was set back counts as none."""
    made(place, *ago)
    assert due(Schedule(str(place), every, 14), NOW) is is_due


def test_the_newest_are_kept_and_nothing_else_is_touched(place: Path) -> None:
    made(place, *(timedelta(days=n) for n in range(5)))
    for other in ("notes.txt", "orderly-bench-today.zip", "orderly-bench-20260101-000000.zip.part"):
        (place / other).write_text("mine")
    schedule = Schedule(str(place), "day", 2)
    assert len(put_away(schedule)) == 3
    assert [at for at, _ in made_so_far(schedule)] == [NOW - timedelta(days=1), NOW]
    assert len(list(place.iterdir())) == 5 and put_away(schedule) == []


def stand_in(monkeypatch: pytest.MonkeyPatch, tmp_path: Path, status: int) -> Path:
    """A program in Python's place, which writes what it is asked for and ends with a status."""
    program = tmp_path / "python"
    program.write_text(
        f"#!{sys.executable}\nimport json, sys\nopen(sys.argv[4], 'w').write(json.dumps(sys.argv[3:]))\nsys.exit({status})\n"
    )
    program.chmod(0o700)
    monkeypatch.setattr(serve, "PYTHON", program)
    return program


def test_the_running_lab_makes_it_once_and_keeps_the_newest(
    place: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    stand_in(monkeypatch, tmp_path, 0)
    (tmp_path / "words").write_text("gravel heron lantern moss")
    old = Schedule(str(place), "day", 1).next_file(datetime.now() - timedelta(days=3))
    old.write_text("x")
    remember(str(place), "day", 1, str(tmp_path / "words"))
    backups = serve.Backups("run", {})
    backups.look()
    assert backups.running is not None
    backups.running.wait(20)
    backups.look()
    (file,) = place.iterdir()
    assert file.name.endswith(".zip.sealed") and backups.running is None
    assert json.loads(file.read_text()) == ["backup", str(file), f"--passphrase-file={tmp_path / 'words'}"]
    backups.next_look = 0.0
    backups.look()
    assert backups.running is None, "it is not due again"


def test_one_that_fails_deletes_nothing_and_is_tried_later(
    place: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    stand_in(monkeypatch, tmp_path, 1)
    made(place, timedelta(days=400), timedelta(days=300))
    remember(str(place), "day", 1)
    backups = serve.Backups("run", {})
    backups.look()
    assert backups.running is not None
    backups.running.wait(20)
    before = backups.next_look
    backups.look()
    assert len(list(place.iterdir())) == 3 and backups.next_look > before + 600
    assert "tried again" in capsys.readouterr().err
    backups.stop()


def test_the_demo_lab_and_one_without_a_setting_make_none(place: Path) -> None:
    serve.Backups("run", {}).look()
    remember(str(place), "hour", 1)
    demo = serve.Backups("demo", {})
    demo.look()
    assert demo.running is None and list(place.iterdir()) == []
