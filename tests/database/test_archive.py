"""A lab into one file and back through the real commands, also one of an older version; damaged and foreign files are refused."""

from __future__ import annotations

import json
import os
import zipfile
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
from sqlalchemy import Engine, select, text
from sqlalchemy.orm import Session

from orderly_bench.cli import keep, prepare
from orderly_bench.cli.main import main
from orderly_bench.core.errors import OrderlyError
from orderly_bench.database import archive
from orderly_bench.database.engine import make_engine
from orderly_bench.database.migrate import migrate
from orderly_bench.trial.models import Lab, ScoreRecord, Trial
from orderly_bench.trial.versions import plan_holds
from tests.conftest import database_url, emptied
from tests.database.test_labs import load
from tests.factories import create_finished, create_person, evidence

Command = Callable[..., int]


@pytest.fixture
def engines() -> Iterator[tuple[Engine, Engine]]:
    """A database with a lab, and an empty one."""
    made = tuple(emptied(make_engine(database_url(name))) for name in ("orderly_from", "orderly_into"))
    yield made  # type: ignore[misc]
    for engine in made:
        engine.dispose()


@pytest.fixture
def command(monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> Command:
    def run(engine: Engine, *words: str, photos: Path | None = None) -> int:
        monkeypatch.setenv("ORDERLY_BENCH_DATABASE_URL", engine.url.render_as_string(hide_password=False))
        monkeypatch.setenv("ORDERLY_BENCH_PHOTOS", str(photos or tmp_path / "none"))
        return main(words)

    return run


def lived_in(engine: Engine) -> str:
    """A lab with a finished trial; its verdict in one line."""
    migrate(engine)
    with Session(engine) as session:
        session.add(Lab(name="Tarn Head, übers Fjell", time_zone="Europe/Oslo"))
        researcher, scorer = create_person(session), create_person(session, "scorer")
        trial = create_finished(session, researcher, scorer)
        session.commit()
        return headline(session, trial)


def headline(session: Session, trial: Trial) -> str:
    found = evidence(session, trial)
    assert found.reading is not None
    return found.reading.headline


def test_a_lab_comes_back_row_for_row_with_its_verdict_and_photos(
    engines: tuple[Engine, Engine], command: Command, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    old, new = engines
    said = lived_in(old)
    photos, file = tmp_path / "photos", tmp_path / "lab.zip"
    (photos / "26-01").mkdir(parents=True)
    (photos / "26-01" / "tray 1.jpg").write_bytes(bytes(range(256)))
    assert command(old, "backup", str(file), photos=photos) == 0
    assert file.stat().st_mode & 0o077 == 0 and not file.with_name("lab.zip.part").exists()
    assert command(new, "restore", str(file), photos=tmp_path / "back") == 0
    assert "Restored 1 trial," in capsys.readouterr().out
    assert (tmp_path / "back" / "26-01" / "tray 1.jpg").read_bytes() == bytes(range(256))
    with old.connect() as one, new.connect() as other:
        assert archive.digests(one) == archive.digests(other)
    with Session(new) as session:
        (trial,) = session.scalars(select(Trial))
        assert plan_holds(trial) and headline(session, trial) == said
        assert session.scalars(select(Lab.name)).one() == "Tarn Head, übers Fjell"


def test_a_lab_of_an_older_version_is_kept_restored_and_brought_up_to_date(
    engines: tuple[Engine, Engine], command: Command, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    old, new = engines
    load(old, "2026_11_23")
    with old.connect() as connection:
        scores = connection.execute(text("SELECT COUNT(*) FROM score")).scalar()
    file = tmp_path / "old.zip"
    assert command(old, "backup", str(file)) == 0
    assert command(new, "restore", str(file)) == 0
    assert command(old, "upgrade", str(tmp_path / "before.zip")) == 0
    assert "Brought from 2026" in capsys.readouterr().out and (tmp_path / "before.zip").exists()
    for engine in (old, new):
        with Session(engine) as session:
            assert len(session.scalars(select(ScoreRecord.id)).all()) == scores
            assert all(plan_holds(trial) for trial in session.scalars(select(Trial)) if trial.versions)
    assert command(old, "upgrade", str(tmp_path / "again.zip")) == 0
    assert "Nothing to bring up to date" in capsys.readouterr().out


def test_a_lab_is_never_overwritten(
    engines: tuple[Engine, Engine], command: Command, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    old, _ = engines
    lived_in(old)
    file = tmp_path / "lab.zip"
    assert command(old, "backup", str(file)) == 0
    with old.connect() as connection:
        before = archive.digests(connection)
    assert command(old, "restore", str(file)) == 1
    assert "a lab here already" in capsys.readouterr().err
    with old.connect() as connection:
        assert archive.digests(connection) == before


def changed(file: Path, into: Path, name: str, change: Callable[[bytes], bytes | None]) -> Path:
    """A copy of a zip with one entry changed, or left out."""
    with zipfile.ZipFile(file) as source, zipfile.ZipFile(into, "w") as target:
        for entry in source.namelist():
            content: bytes | None = source.read(entry)
            if entry == name:
                content = change(content or b"")
            if content is not None:
                target.writestr(entry, content)
    return into


def test_damaged_foreign_and_newer_files_are_refused_with_nothing_written(
    engines: tuple[Engine, Engine], command: Command, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    old, new = engines
    lived_in(old)
    file = tmp_path / "lab.zip"
    assert command(old, "backup", str(file)) == 0

    def newer(content: bytes) -> bytes:
        return json.dumps({**json.loads(content), "revision": "20991231_2359_future", "version": "9.9"}).encode()

    foreign = tmp_path / "foreign.zip"
    foreign.write_bytes(os.urandom(400))
    for bad, says in (
        (
            changed(file, tmp_path / "a.zip", "tables/score.jsonl", lambda c: c.replace(b"alive", b"dead!")),
            "was changed since",
        ),
        (changed(file, tmp_path / "b.zip", "tables/unit.jsonl", lambda _: None), "missing or damaged"),
        (changed(file, tmp_path / "c.zip", "contents.json", newer), "newer version (9.9)"),
        (changed(file, tmp_path / "d.zip", "contents.json", lambda _: b"[]"), "no backup of a lab"),
        (foreign, "no backup of a lab"),
    ):
        assert command(new, "restore", str(bad)) == 1
        assert says in capsys.readouterr().err
        with new.connect() as connection:
            assert connection.execute(text("SHOW TABLES")).all() == []


def test_a_backup_is_one_moment_while_people_go_on(engines: tuple[Engine, Engine], tmp_path: Path) -> None:
    """A row written after the snapshot is not in it, in whatever table."""
    old, _ = engines
    lived_in(old)
    real = archive._tables

    def meanwhile(connection):
        with Session(old) as other:
            create_person(other, "reader")
            other.commit()
        return real(connection)

    with old.connect() as connection:
        before = archive.digests(connection)["person"]["rows"]
    archive._tables = meanwhile  # type: ignore[assignment]
    try:
        with (tmp_path / "one.zip").open("wb") as out:
            from datetime import UTC, datetime

            held = archive.back_up(old, out, tmp_path / "none", "test", datetime.now(UTC))
    finally:
        archive._tables = real
    assert held["tables"]["person"]["rows"] == before


def test_a_lab_is_put_in_the_place_of_another_which_is_kept_first(
    engines: tuple[Engine, Engine], command: Command, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    old, new = engines
    said = lived_in(old)
    file, kept = tmp_path / "lab.zip", tmp_path / "kept.zip"
    assert command(old, "backup", str(file)) == 0
    load(new, "2026_11_23")
    migrate(new)
    with new.connect() as connection:
        before = archive.digests(connection)
    assert command(new, "restore", str(file), f"--over={kept}") == 0
    assert f"What was here: {kept}" in capsys.readouterr().out
    with Session(new) as session:
        (trial,) = session.scalars(select(Trial))
        assert headline(session, trial) == said
    assert command(new, "restore", str(kept), f"--over={tmp_path / 'again.zip'}") == 0
    with new.connect() as connection:
        assert archive.digests(connection) == before, "and back"


@pytest.mark.parametrize("when", ["before", "midway"])
def test_what_can_not_be_put_there_leaves_the_lab_that_was(
    engines: tuple[Engine, Engine],
    command: Command,
    tmp_path: Path,
    monkeypatch: pytest.MonkeyPatch,
    capsys: pytest.CaptureFixture[str],
    when: str,
) -> None:
    old, _ = engines
    lived_in(old)
    file, kept = tmp_path / "lab.zip", tmp_path / "kept.zip"
    assert command(old, "backup", str(file)) == 0
    with old.connect() as connection:
        before = archive.digests(connection)
    if when == "before":
        file = changed(file, tmp_path / "bad.zip", "tables/trial.jsonl", lambda content: content + b"\n")
    else:
        real, tries = archive.restore, []

        def once_broken(*arguments: object) -> object:
            tries.append(1)
            if len(tries) == 1:
                raise OrderlyError("the disk is full")
            return real(*arguments)  # type: ignore[arg-type]

        monkeypatch.setattr(archive, "restore", once_broken)
    assert command(old, "restore", str(file), f"--over={kept}") == 1
    said = capsys.readouterr().err
    assert ("was changed since" in said) if when == "before" else ("The lab as it was is back" in said)
    assert kept.exists() is (when == "midway")
    with old.connect() as connection:
        assert archive.digests(connection) == before


def test_run_keeps_an_older_lab_before_it_is_migrated_and_says_the_way_back(
    engines: tuple[Engine, Engine],
    command: Command,
    tmp_path: Path,
    monkeypatch: pytest.MonkeyPatch,
    capsys: pytest.CaptureFixture[str],
) -> None:
    old, new = engines
    load(old, "2026_11_23")
    monkeypatch.setenv("ORDERLY_BENCH_BACKUPS", str(tmp_path))
    assert command(old, "prepare", "--mode=run") == 0
    (kept,) = tmp_path.glob("before-*.zip")
    said = capsys.readouterr().out
    assert f"./bench restore --over {kept}" in said and "of an older version" in said
    assert command(new, "restore", str(kept)) == 0, "what was kept is whole"
    capsys.readouterr()
    assert command(old, "prepare", "--mode=run") == 0
    assert list(tmp_path.glob("before-*.zip")) == [kept] and "older version" not in capsys.readouterr().out


def test_a_demo_lab_of_an_older_version_may_be_made_anew_and_no_other(
    engines: tuple[Engine, Engine], command: Command, capsys: pytest.CaptureFixture[str]
) -> None:
    old, _ = engines
    load(old, "2026_11_23")
    assert prepare.may_be_emptied(old), "it is one of the demo"
    with old.connect() as connection:
        connection.execute(text("UPDATE lab SET is_demo = 0"))
        connection.commit()
    assert command(old, "prepare", "--mode=demo", "--fresh") == 2
    assert "not the demo lab" in capsys.readouterr().err


def test_a_sealed_backup_comes_back_with_its_passphrase_alone(
    engines: tuple[Engine, Engine], command: Command, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    old, new = engines
    told = lived_in(old)
    (tmp_path / "words").write_text("gravel heron lantern moss\n")
    (tmp_path / "others").write_text("granite osprey candle fern\n")
    (tmp_path / "short").write_text("short\n")
    file, words = tmp_path / "lab.zip.sealed", f"--passphrase-file={tmp_path / 'words'}"
    assert command(old, "backup", str(tmp_path / "no.zip"), f"--passphrase-file={tmp_path / 'short'}") == 1
    assert not (tmp_path / "no.zip").exists() and not (tmp_path / "no.zip.part").exists()
    assert command(old, "backup", str(file), words) == 0
    assert (
        file.stat().st_mode & 0o777 == 0o600 and b"Lavandula" not in file.read_bytes() and not zipfile.is_zipfile(file)
    )
    capsys.readouterr()
    assert command(new, "restore", str(file)) == 1 and "this backup is sealed" in capsys.readouterr().err
    assert command(new, "restore", str(file), f"--passphrase-file={tmp_path / 'others'}") == 1
    assert "does not open with this passphrase" in capsys.readouterr().err
    assert command(new, "restore", str(file), words) == 0
    with Session(new) as session:
        assert headline(session, session.scalars(select(Trial)).one()) == told


def test_two_backups_of_one_name_do_not_mix(engines: tuple[Engine, Engine], tmp_path: Path) -> None:
    """The second is refused and takes nothing of the first away; what a killed one left is written over."""
    old, _ = engines
    lived_in(old)
    file = tmp_path / "lab.zip"
    part = tmp_path / "lab.zip.part"
    with keep._part(part) as being_written:
        being_written.write(b"half")
        being_written.flush()
        with pytest.raises(OrderlyError, match="being written just now"):
            keep.back_up(old, file, tmp_path / "none")
        assert part.read_bytes() == b"half"
    assert keep.back_up(old, file, tmp_path / "none") and not part.exists()
    with zipfile.ZipFile(file) as archived:
        assert archive.contents_of(archived)["tables"]["trial"]["rows"] == 1
