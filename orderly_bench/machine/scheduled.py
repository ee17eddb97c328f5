"""Backups that the running lab makes by itself: where, how often, how many are kept; one that was missed is made at the next start."""

from __future__ import annotations

import json
import re
from dataclasses import asdict, dataclass
from datetime import datetime, timedelta
from pathlib import Path

from orderly_bench.machine.paths import make_var
from orderly_bench.machine.problem import Problem

NAME = re.compile(r"orderly-bench-(\d{8}-\d{6})\.zip(?:\.sealed)?")
EVERY = {"hour": timedelta(hours=1), "day": timedelta(days=1), "week": timedelta(weeks=1)}
NEVER = "never"
MOST_KEPT = 1_000
#: After one that failed, the next try.
AGAIN = timedelta(minutes=15)


@dataclass(frozen=True)
class Schedule:
    """A folder, how often, how many are kept there, and the file that holds the passphrase (blank: not sealed)."""

    folder: str
    every: str
    keep: int
    passphrase_file: str = ""

    def next_file(self, now: datetime) -> Path:
        """Where the next backup goes."""
        return Path(self.folder) / f"orderly-bench-{now:%Y%m%d-%H%M%S}.zip{'.sealed' if self.passphrase_file else ''}"


def _setting() -> Path:
    return make_var() / "backup.json"


def remember(folder: str, every: str, keep: int, passphrase_file: str = "") -> Schedule | None:
    """Keep the setting; *never* puts it away. None then.

    Raises
    ------
    Problem
        A folder or file that is not there, a number that can't be.
    """
    if every == NEVER:
        _setting().unlink(missing_ok=True)
        return None
    if every not in EVERY:
        raise Problem(f"--every is one of: {', '.join([*EVERY, NEVER])}.")
    if not 1 <= keep <= MOST_KEPT:
        raise Problem(f"--keep must be between 1 and {MOST_KEPT}, not {keep}.")
    place = Path(folder).absolute()
    if not place.is_dir():
        raise Problem(f"There is no folder {place}. Make it, or give another.")
    secret = str(Path(passphrase_file).absolute()) if passphrase_file else ""
    if secret and not Path(secret).is_file():
        raise Problem(f"There is no file {secret} with the passphrase.")
    made = Schedule(str(place), every, keep, secret)
    file = _setting()
    file.touch(mode=0o600)
    file.write_text(json.dumps(asdict(made)))
    return made


def remembered() -> Schedule | None:
    """The setting, None where there is none."""
    file = _setting()
    return Schedule(**json.loads(file.read_text())) if file.exists() else None


def made_so_far(schedule: Schedule) -> list[tuple[datetime, Path]]:
    """Backups in the folder by their own names, oldest first; nothing else in it is looked at."""
    found = [
        (m[1], file) for file in Path(schedule.folder).glob("orderly-bench-*.zip*") if (m := NAME.fullmatch(file.name))
    ]
    return sorted((datetime.strptime(at, "%Y%m%d-%H%M%S"), file) for at, file in found)


def due(schedule: Schedule, now: datetime) -> bool:
    """Whether the newest is older than it should be, or there is none; one from the future (the clock was set back) counts as none."""
    past = [at for at, _ in made_so_far(schedule) if at <= now]
    return not past or now - past[-1] >= EVERY[schedule.every]


def put_away(schedule: Schedule) -> list[Path]:
    """Delete all but the newest; those deleted."""
    old = [file for _, file in made_so_far(schedule)[: -schedule.keep]]
    for file in old:
        file.unlink(missing_ok=True)
    return old
