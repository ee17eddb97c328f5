"""``backup``, ``restore``, ``upgrade``: a lab into one file and back, and to a newer version with a way back."""

from __future__ import annotations

import argparse
import fcntl
import os
import sys
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from pathlib import Path
from typing import IO, Any

from sqlalchemy import select
from sqlalchemy.engine import Engine
from sqlalchemy.orm import Session

from orderly_bench import __version__
from orderly_bench.core.errors import InvalidInput, OrderlyError, Refused
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.database import archive
from orderly_bench.database.engine import make_engine
from orderly_bench.database.migrate import migrate
from orderly_bench.database.sealed_file import check_passphrase, is_sealed, seal, unseal
from orderly_bench.database.under_way import broken_off, ended, under_way
from orderly_bench.trial.models import Trial
from orderly_bench.trial.versions import plan_holds


def run(arguments: argparse.Namespace) -> int:
    """One of the three; trouble is one message and status 1."""
    url, photos = os.environ.get("ORDERLY_BENCH_DATABASE_URL"), Path(os.environ.get("ORDERLY_BENCH_PHOTOS", "photos"))
    if not url:
        print(f"Start with ./bench {arguments.command}, or set ORDERLY_BENCH_DATABASE_URL.", file=sys.stderr)
        return 2
    engine = make_engine(url)
    try:
        print(_done(engine, arguments, photos))
    except OrderlyError as error:
        print(error, file=sys.stderr)
        return 1
    finally:
        engine.dispose()
    return 0


def _done(engine: Engine, arguments: argparse.Namespace, photos: Path) -> str:
    """What was done, in words."""
    file = Path(arguments.file)
    secret = _passphrase(getattr(arguments, "passphrase_file", ""))
    if arguments.command == "backup":
        return back_up(engine, file, photos, secret)
    if arguments.command == "upgrade":
        return _upgrade(engine, file, photos)
    with _opened(file, secret) as plain:
        if arguments.over:
            return _restore_over(engine, plain, Path(arguments.over), photos)
        return _restore(engine, plain, photos)


def _passphrase(file: str) -> str:
    """The first line of the file that holds it; blank where none is named."""
    if not file:
        return ""
    try:
        return Path(file).read_text(encoding="utf-8").split("\n", 1)[0].strip()
    except (OSError, UnicodeDecodeError) as error:
        raise InvalidInput("passphrase", _("its file can't be read: {error}", error=error), file) from error


@contextmanager
def _opened(file: Path, passphrase: str) -> Iterator[Path]:
    """A backup as it can be read: itself, or a sealed one opened beside nobody's eyes and taken away afterwards."""
    with file.open("rb") as held:
        if not is_sealed(held):
            yield file
            return
        if not passphrase:
            raise InvalidInput(
                "passphrase", _("this backup is sealed; name the file that holds it: --passphrase-file FILE")
            )
        with tempfile.NamedTemporaryFile(prefix="restore-", suffix=".zip") as plain:
            unseal(held, plain, passphrase)
            plain.flush()
            yield Path(plain.name)


def back_up(engine: Engine, file: Path, photos: Path, passphrase: str = "") -> str:
    """Written beside its name and moved there whole, so that nothing half-written stands under it; sealed where a passphrase is given."""
    part = file.with_name(f"{file.name}.part")
    with _part(part) as out:
        if passphrase:
            check_passphrase(passphrase)
            with tempfile.TemporaryFile() as plain:
                contents = archive.back_up(engine, plain, photos, __version__, datetime.now(UTC))
                plain.seek(0)
                seal(plain, out, passphrase)
        else:
            contents = archive.back_up(engine, out, photos, __version__, datetime.now(UTC))
        out.flush()
        os.fsync(out.fileno())
        part.rename(file)
    return f"{file}: {_told(contents)}."


@contextmanager
def _part(path: Path) -> Iterator[IO[bytes]]:
    """The file that is being written; what a killed backup left of it is written over, one that is being written is not."""
    with os.fdopen(os.open(path, os.O_CREAT | os.O_WRONLY | os.O_NOFOLLOW, 0o600), "wb") as out:
        try:
            fcntl.flock(out, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError as error:
            raise Refused(_("A backup of this name is being written just now: {path}", path=path)) from error
        out.truncate()
        try:
            yield out
        except BaseException:
            path.unlink(missing_ok=True)
            raise


def _restore(engine: Engine, file: Path, photos: Path, kept: str = "") -> str:
    with file.open("rb") as held:
        contents = archive.restore(engine, held, photos, kept)
    doubtful = _not_holding(engine)
    note = (
        _("The plans of {names} do not fit their digests.", names=", ".join(doubtful))
        if doubtful
        else _("Every locked plan fits its digest.")
    )
    return _("Restored {what}. {note}", what=_told(contents), note=note)


def _restore_over(engine: Engine, file: Path, kept: Path, photos: Path) -> str:
    """Put a file's lab in the place of the one that is there, which is kept in ``kept`` first and comes back if the file can't."""
    with file.open("rb") as held:
        archive.check(engine, held)
    told = back_up(engine, kept, photos)
    try:
        with under_way(engine, str(kept.resolve())):  # noted before the first table goes
            archive.put_away(engine)
            restored = _restore(engine, file, photos, str(kept.resolve()))
        return f"{restored} {_('What was here: {kept}', kept=told)}"
    except BaseException:
        archive.put_away(engine)
        _restore(engine, kept, photos, str(kept.resolve()))
        print(_("The lab as it was is back."), file=sys.stderr)
        raise


def _upgrade(engine: Engine, file: Path, photos: Path) -> str:
    with engine.connect() as connection:
        before, was = archive.revision_of(connection), archive.digests(connection)
    kept = back_up(engine, file, photos)
    with under_way(engine, str(file.resolve())):
        migrate(engine)
    with engine.connect() as connection:
        after, now = archive.revision_of(connection), archive.digests(connection)
    lost = [name for name, held in was.items() if name in now and now[name]["rows"] < held["rows"]]
    doubtful = _not_holding(engine)
    if lost or doubtful:
        rows, plans = (
            (_("rows of {name}", name=name) for name in lost),
            (_("the plan of {code}", code=c) for c in doubtful),
        )
        what = ", ".join([*rows, *plans])
        return _("Something is not as it was: {what}. The lab as it was is in {kept}", what=what, kept=kept)
    if before == after:
        return _("Nothing to bring up to date. As it was: {kept}", kept=kept)
    return _("Brought from {before} to {after}. As it was: {kept}", before=before, after=after, kept=kept)


def begin_again(engine: Engine, photos: Path) -> str:
    """Undo a change of the database that was broken off: the lab as it was comes back, and to this version; what was done, in words.

    Raises
    ------
    Refused
        There was a lab, and its file is not there.
    """
    broken, now = broken_off(engine), archive.standing_of(engine)
    if broken is None:
        if not now.newest and not now.lived_in:
            archive.put_away(engine)  # a first start that was broken off: nothing of anybody's is in it
        return ""
    if broken.kept is None or (broken.kept and not Path(broken.kept).is_file()):
        where = broken.kept or _("none was made")
        raise Refused(
            _(
                "Bringing this lab to a newer version was broken off, and the lab as it was is not there ({where}). Put a backup in its place: "
                "./bench restore FILE, into an empty database.",
                where=where,
            )
        )
    archive.put_away(engine)
    if not broken.kept:
        ended(engine)
        return _("What was begun here was broken off, and is begun anew.")
    told = _restore(engine, Path(broken.kept), photos, broken.kept)
    return _("Bringing this lab to a newer version was broken off; it is begun again. {told}", told=told)


def _not_holding(engine: Engine) -> list[str]:
    with Session(engine) as session:
        return [trial.code for trial in session.scalars(select(Trial)) if trial.versions and not plan_holds(trial)]


def _told(contents: dict[str, Any]) -> str:
    tables = contents["tables"]
    rows, trials = sum(held["rows"] for held in tables.values()), tables.get("trial", {"rows": 0})["rows"]
    return _(
        "{trials:trial|trials}, {rows:row|rows} in {tables:table|tables}, {photos:photo|photos}, made {made}",
        trials=trials,
        rows=rows,
        tables=len(tables),
        photos=len(contents["photos"]),
        made=contents["made"][:16],
    )
