"""A lab in one file, and back: every table as JSON lines in a zip, with counts, digests and the photos.

The data alone are kept; tables, triggers and grants come from the migrations, so that a file outlives the server and the accounts it
came from. Everything is read in one snapshot, while people go on working.
"""

from __future__ import annotations

import base64
import hashlib
import json
import zipfile
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from datetime import date, datetime
from decimal import Decimal
from pathlib import Path
from typing import IO, Any

from alembic.script import ScriptDirectory
from sqlalchemy import Connection, Engine, MetaData, Table, func, insert, select, text
from sqlalchemy.exc import DBAPIError

from orderly_bench.core.errors import Refused, UnusableData
from orderly_bench.database.migrate import APART, config_for, migrate
from orderly_bench.database.under_way import under_way

FORM = "orderly-bench lab 1"
#: What a restored lab does without: sessions, tries to sign in, results that are worked out again.
LEFT_BEHIND = ("alembic_version", *APART, "signed_in", "throttle", "reset_link", "worked_out", "curve_kept")
AT_ONCE = 500


def revision_of(connection: Connection) -> str | None:
    """The migration a database stands at; None when it has no tables of ours."""
    try:
        found: str | None = connection.execute(text("SELECT version_num FROM alembic_version")).scalar()
    except DBAPIError:
        connection.rollback()
        return None
    return found


def _tables(connection: Connection) -> list[Table]:
    found = MetaData()
    found.reflect(connection)
    return [table for table in found.sorted_tables if table.name not in LEFT_BEHIND]


def _plain(value: Any) -> Any:
    """A value as JSON holds it."""
    if isinstance(value, datetime):
        return {"at": value.isoformat()}
    if isinstance(value, date):
        return {"on": value.isoformat()}
    if isinstance(value, bytes):
        return {"bytes": base64.b64encode(value).decode()}
    return {"number": str(value)} if isinstance(value, Decimal) else value


def _back(value: Any) -> Any:
    if not isinstance(value, dict) or len(value) != 1:
        return value
    ((kind, held),) = value.items()
    known: dict[str, Callable[[Any], Any]] = {
        "at": datetime.fromisoformat, "on": date.fromisoformat, "bytes": base64.b64decode, "number": Decimal,
    }  # fmt: skip
    return known[kind](held) if kind in known else value


def _lines(connection: Connection, table: Table) -> Iterator[bytes]:
    """Rows in the order of their keys, a line each."""
    rows = connection.execution_options(stream_results=True).execute(select(table).order_by(*table.primary_key.columns))
    for row in rows:
        plain = {column: _plain(value) for column, value in row._mapping.items()}
        yield json.dumps(plain, ensure_ascii=False, sort_keys=True).encode() + b"\n"


def digests(connection: Connection) -> dict[str, dict[str, Any]]:
    """Rows and SHA-256 of every table that is kept."""
    found = {}
    for table in _tables(connection):
        digest, rows = hashlib.sha256(), 0
        for line in _lines(connection, table):
            digest.update(line)
            rows += 1
        found[table.name] = {"rows": rows, "sha256": digest.hexdigest()}
    return found


def back_up(engine: Engine, file: IO[bytes], photos: Path, version: str, now: datetime) -> dict[str, Any]:
    """Write the lab into a file; what it holds, as the file's own list of contents."""
    with engine.connect() as connection, zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED) as archive:
        connection.execute(text("SET TRANSACTION ISOLATION LEVEL REPEATABLE READ"))
        connection.execute(text("START TRANSACTION WITH CONSISTENT SNAPSHOT"))
        revision = revision_of(connection)
        if revision is None:
            raise Refused("There is no lab here yet. Start it once with ./bench run.")
        tables: dict[str, dict[str, Any]] = {}
        for table in _tables(connection):
            digest, rows = hashlib.sha256(), 0
            with archive.open(f"tables/{table.name}.jsonl", "w", force_zip64=True) as entry:
                for line in _lines(connection, table):
                    entry.write(line)
                    digest.update(line)
                    rows += 1
            tables[table.name] = {"rows": rows, "sha256": digest.hexdigest()}
        pictures = {}
        for path in sorted(p for p in photos.rglob("*") if p.is_file()) if photos.is_dir() else []:
            name = path.relative_to(photos).as_posix()
            content = path.read_bytes()
            archive.writestr(f"photos/{name}", content)
            pictures[name] = hashlib.sha256(content).hexdigest()
        contents = {
            "form": FORM, "version": version, "revision": revision, "made": now.isoformat(), "tables": tables, "photos": pictures,
        }  # fmt: skip
        archive.writestr("contents.json", json.dumps(contents, indent=1, sort_keys=True))
    return contents


def contents_of(archive: zipfile.ZipFile) -> dict[str, Any]:
    """A file's list of contents.

    Raises
    ------
    UnusableData
        No backup of ours.
    """
    try:
        contents: dict[str, Any] = json.loads(archive.read("contents.json"))
        if contents["form"] == FORM and isinstance(contents["tables"], dict):
            return contents
    except (KeyError, TypeError, ValueError):
        pass
    raise UnusableData("this file is no backup of a lab", "Take one that ./bench backup wrote")


def check(engine: Engine, file: IO[bytes]) -> dict[str, Any]:
    """A file's list of contents, once the whole file was read and is of a version that is known here.

    Raises
    ------
    UnusableData
        No backup, a damaged one, or one of a newer version.
    """
    with _opened(file) as archive, engine.connect() as connection:
        contents = contents_of(archive)
        _check_file(archive, contents)
        _check_revision(connection, contents)
    return contents


@dataclass(frozen=True)
class Standing:
    """How a database stands: whether it is at the newest migration, and whether a lab with people or trials is in it."""

    newest: bool
    lived_in: bool


def standing_of(engine: Engine) -> Standing:
    """Before anything is changed."""
    with engine.connect() as connection:
        newest = ScriptDirectory.from_config(config_for(connection)).get_current_head()
        return Standing(revision_of(connection) == newest, _lived_in(connection))


def put_away(engine: Engine) -> None:
    """Drop all that is there."""
    with engine.connect() as connection:
        _drop(connection)


def _opened(file: IO[bytes]) -> zipfile.ZipFile:
    try:
        return zipfile.ZipFile(file)
    except zipfile.BadZipFile as error:
        raise UnusableData("this file is no backup of a lab", "Take one that ./bench backup wrote") from error


def restore(engine: Engine, file: IO[bytes], photos: Path, kept: str = "") -> dict[str, Any]:
    """Put a file's lab into an empty database, and bring it to the newest migration; ``kept`` is what comes back if it is broken off.

    Raises
    ------
    UnusableData
        No backup, a damaged one, or one of a newer version.
    Refused
        There is a lab already; nothing was written.
    """
    contents = check(engine, file)
    with _opened(file) as archive:
        with engine.connect() as connection:
            _empty(connection)
        with under_way(engine, kept):
            migrate(engine, contents["revision"])
            with engine.begin() as connection:
                _fill(connection, archive, contents)
                found = digests(connection)
                wrong = [name for name, held in contents["tables"].items() if found.get(name) != held]
                if wrong:
                    raise UnusableData(
                        f"what was written differs from the file in: {', '.join(wrong)}", "Nothing was kept; try again"
                    )
            migrate(engine)
        for name in contents["photos"]:
            target = photos / name
            target.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
            target.write_bytes(archive.read(f"photos/{name}"))
    return contents


def _check_file(archive: zipfile.ZipFile, contents: dict[str, Any]) -> None:
    """The whole file is read before anything is written."""
    wanted = {f"tables/{name}.jsonl": held["sha256"] for name, held in contents["tables"].items()}
    wanted |= {f"photos/{name}": digest for name, digest in contents["photos"].items()}
    for name, digest in wanted.items():
        if ".." in name or name.startswith("/"):
            raise UnusableData(f"{name} is no name of ours", "Take a file that ./bench backup wrote")
        try:
            found = hashlib.sha256(archive.read(name)).hexdigest()
        except (KeyError, zipfile.BadZipFile) as error:
            raise UnusableData(f"{name} is missing or damaged", "Take another copy of the backup") from error
        if found != digest:
            raise UnusableData(f"{name} was changed since it was written", "Take another copy of the backup")


def _check_revision(connection: Connection, contents: dict[str, Any]) -> None:
    known = {script.revision for script in ScriptDirectory.from_config(config_for(connection)).walk_revisions()}
    if contents["revision"] not in known:
        raise UnusableData(
            f"this backup was made by a newer version ({contents['version']})",
            "Bring this installation up to date first",
        )


def _lived_in(connection: Connection) -> bool:
    held = MetaData()
    held.reflect(connection)
    counted = (
        select(func.count()).select_from(held.tables[name]) for name in ("person", "trial") if name in held.tables
    )
    return any(connection.execute(count).scalar() for count in counted)


def _empty(connection: Connection) -> None:
    """Refuse a database that holds a lab; put away the tables of one that was only started."""
    if _lived_in(connection):
        raise Refused(
            "There is a lab here already, and it is not overwritten. Restore into an empty installation, or with --over, which keeps it first."
        )
    _drop(connection)


def _drop(connection: Connection) -> None:
    held = MetaData()
    held.reflect(connection, only=lambda name, _: name not in APART)
    connection.execute(text("SET FOREIGN_KEY_CHECKS = 0"))
    held.drop_all(connection)
    connection.execute(text("SET FOREIGN_KEY_CHECKS = 1"))
    connection.commit()


def _fill(connection: Connection, archive: zipfile.ZipFile, contents: dict[str, Any]) -> None:
    connection.execute(text("SET FOREIGN_KEY_CHECKS = 0"))
    for table in _tables(connection):
        if table.name not in contents["tables"]:
            continue
        connection.execute(table.delete())
        rows: list[dict[str, Any]] = []
        with archive.open(f"tables/{table.name}.jsonl") as lines:
            for line in lines:
                rows.append({column: _back(value) for column, value in json.loads(line).items()})
                if len(rows) == AT_ONCE:
                    connection.execute(insert(table), rows)
                    rows = []
        if rows:
            connection.execute(insert(table), rows)
    connection.execute(text("SET FOREIGN_KEY_CHECKS = 1"))
