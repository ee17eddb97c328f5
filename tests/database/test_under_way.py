"""A start that is killed while it changes the database: the next one begins anew, and nothing of a lab that was lived in is lost."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import zipfile
from collections.abc import Iterator
from pathlib import Path
from random import Random

import pytest
from alembic.script import ScriptDirectory
from sqlalchemy import Engine, inspect, text
from sqlalchemy.orm import Session

from orderly_bench.database import archive
from orderly_bench.database.engine import make_engine
from orderly_bench.database.under_way import TABLE, broken_off, under_way
from tests.conftest import database_url, emptied
from tests.database.test_labs import load

#: Runs a command and kills itself, without a word, at the n-th statement that changes a table after a revision was begun.
KILLED = """
import os, signal, sys
from sqlalchemy import event, Engine
from orderly_bench.cli.main import main
after, left = sys.argv[1], int(sys.argv[2])
begun = after in ("-", "SELECT")
CHANGES = ("SELECT",) if after == "SELECT" else ("ALTER", "CREATE", "DROP", "UPDATE", "INSERT")
@event.listens_for(Engine, "before_cursor_execute")
def _count(connection, cursor, statement, parameters, context, many):
    global begun, left
    words = statement.lstrip().upper()
    if begun and words.startswith(CHANGES) and "CHANGE_UNDER_WAY" not in words:
        left -= 1
        if left < 0:
            os.kill(os.getpid(), signal.SIGKILL)
    if words.startswith("UPDATE ALEMBIC_VERSION") and after in statement + str(parameters):
        begun = True
sys.exit(main(sys.argv[3:]))
"""


#: At which the old lab stands.
OLD = "20261123_1820_changed_treatments"


def steps() -> list[str]:
    """Every revision, in order."""
    folder = Path(archive.__file__).parent / "migrations"
    return [step.revision for step in ScriptDirectory(str(folder)).walk_revisions()][::-1]


def lacking() -> list[str]:
    """Every revision after which another comes that the old lab lacks."""
    known = steps()
    return known[known.index(OLD) : -1]


@pytest.fixture
def engine() -> Iterator[Engine]:
    made = emptied(make_engine(database_url("orderly_under_way")))
    yield made
    made.dispose()


def started(engine: Engine, backups: Path | None, kill: tuple[str, int] | None = None, *words: str) -> tuple[int, str]:
    """``prepare`` as a process of its own, killed where it says; its status and all it printed."""
    env = {
        **os.environ, "ORDERLY_BENCH_DATABASE_URL": engine.url.render_as_string(hide_password=False), "ORDERLY_BENCH_PHOTOS": "nowhere",
    }  # fmt: skip
    env |= {"ORDERLY_BENCH_BACKUPS": str(backups)} if backups else {}
    command = list(words) or ["prepare", "--mode", "run"]
    run = (
        [sys.executable, "-c", KILLED, kill[0], str(kill[1]), *command]
        if kill
        else [sys.executable, "-m", "orderly_bench.cli", *command]
    )
    done = subprocess.run(run, env=env, capture_output=True, text=True, timeout=120, check=False)
    return done.returncode, done.stdout + done.stderr


def what_it_holds(engine: Engine) -> dict[str, int]:
    """Rows of every table of a lab."""
    with engine.connect() as connection:
        return {name: held["rows"] for name, held in archive.digests(connection).items()}


def an_old_lab(engine: Engine) -> list[str]:
    """Loads it; the revisions it lacks."""
    load(engine, "2026_11_23")
    with engine.connect() as connection:
        at = archive.revision_of(connection)
    known = steps()
    return known[known.index(at or "") :]


@pytest.fixture(scope="module")
def whole() -> dict[str, int]:
    """What the old lab holds once it was brought up to date in peace."""
    engine = emptied(make_engine(database_url("orderly_under_way")))
    an_old_lab(engine)
    assert started(engine, None)[0] == 0
    held = what_it_holds(engine)
    engine.dispose()
    return held


def brought_through(engine: Engine, tmp_path: Path, after: str, statement: int, whole: dict[str, int]) -> None:
    status, _ = started(engine, tmp_path, (after, statement))
    assert status == -signal.SIGKILL, f"nothing was changed after {after}"
    broken = broken_off(engine)
    assert broken is not None and broken.kept is not None and Path(broken.kept).is_file()
    status, words = started(engine, tmp_path)
    assert status == 0 and "was broken off; it is begun again" in words, words
    assert what_it_holds(engine) == whole
    assert broken_off(engine) is None and archive.standing_of(engine) == archive.Standing(True, True)


@pytest.mark.parametrize(("at", "statement"), [(0, 5), (-2, 0)])
def test_a_kill_in_a_migration_of_an_old_lab_loses_nothing(
    engine: Engine, tmp_path: Path, whole: dict[str, int], at: int, statement: int
) -> None:
    lacks = an_old_lab(engine)
    brought_through(engine, tmp_path, lacks[at], statement, whole)


@pytest.mark.long
@pytest.mark.parametrize("after", lacking())
def test_a_kill_in_every_migration_of_an_old_lab_loses_nothing(
    engine: Engine, tmp_path: Path, whole: dict[str, int], after: str
) -> None:
    assert after in an_old_lab(engine)
    brought_through(engine, tmp_path, after, 0, whole)


@pytest.mark.parametrize(
    "statement", [pytest.param(0, marks=pytest.mark.long), 9, pytest.param(40, marks=pytest.mark.long)]
)
def test_a_first_start_that_is_killed_is_begun_anew(engine: Engine, tmp_path: Path, statement: int) -> None:
    assert started(engine, tmp_path, ("-", statement))[0] == -signal.SIGKILL
    status, words = started(engine, tmp_path)
    assert status == 0, words
    assert archive.standing_of(engine) == archive.Standing(True, False) and what_it_holds(engine)["lab"] == 1
    assert not list(tmp_path.iterdir()), "there was nothing to keep"


def test_a_start_that_broke_off_before_this_was_noted_is_begun_anew_too(engine: Engine, tmp_path: Path) -> None:
    started(engine, tmp_path, ("-", 9))
    with engine.begin() as connection:
        connection.execute(text(f"DROP TABLE {TABLE}"))
    assert started(engine, tmp_path)[0] == 0


@pytest.mark.parametrize(
    "statement", [15, pytest.param(60, marks=pytest.mark.long), pytest.param(110, marks=pytest.mark.long)]
)
def test_a_restore_that_is_killed_leaves_what_was_there(
    engine: Engine, tmp_path: Path, whole: dict[str, int], statement: int
) -> None:
    """While the tables go, and while the file's come."""
    an_old_lab(engine)
    file, kept = tmp_path / "lab.zip", tmp_path / "as-it-was.zip"
    assert started(engine, tmp_path)[0] == 0
    assert started(engine, None, None, "backup", str(file))[0] == 0
    with Session(engine) as session:
        session.execute(text("UPDATE person SET name = 'changed since' WHERE id = 1"))
        session.commit()
    assert started(engine, None, ("-", statement), "restore", "--over", str(kept), str(file))[0] == -signal.SIGKILL
    status, words = started(engine, tmp_path)
    assert status == 0, words
    assert what_it_holds(engine) == whole
    with engine.connect() as connection:
        assert connection.execute(text("SELECT name FROM person WHERE id = 1")).scalar() == "changed since"


def test_a_backup_that_is_killed_is_none_and_the_lab_is_untouched(
    engine: Engine, tmp_path: Path, whole: dict[str, int]
) -> None:
    """Killed at one of its reads: under its name stands nothing, and the next one is whole."""
    an_old_lab(engine)
    assert started(engine, None)[0] == 0
    file = tmp_path / "lab.zip"
    for seed in range(6):
        reads = ("SELECT", Random(seed).randrange(3, 30))
        assert started(engine, None, reads, "backup", str(file))[0] == -signal.SIGKILL
        assert not file.exists() and what_it_holds(engine) == whole
    assert started(engine, None, None, "backup", str(file))[0] == 0
    with zipfile.ZipFile(file) as archived:
        assert {name: t["rows"] for name, t in archive.contents_of(archived)["tables"].items()} == whole


def test_without_the_file_nothing_is_touched_and_the_way_is_said(engine: Engine, tmp_path: Path) -> None:
    lacks = an_old_lab(engine)
    started(engine, tmp_path, (lacks[0], 0))
    for file in tmp_path.iterdir():
        file.unlink()
    before = set(inspect(engine).get_table_names())
    status, words = started(engine, tmp_path)
    assert status == 1 and "is not there" in words and "restore FILE" in words
    assert set(inspect(engine).get_table_names()) == before


def test_the_note_goes_with_the_change_and_stays_where_it_failed(engine: Engine) -> None:
    with under_way(engine, ""):
        assert broken_off(engine) is not None
    assert broken_off(engine) is None
    with pytest.raises(RuntimeError), under_way(engine, None):
        raise RuntimeError("the disk is full")
    broken = broken_off(engine)
    assert broken is not None and broken.kept is None
