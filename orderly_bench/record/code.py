"""The code that decides, as one digest: what was kept by other code is never read again."""

from __future__ import annotations

import hashlib
from functools import cache
from pathlib import Path

#: Folders whose code decides what is kept: the rules, the record they read, what is said and drawn of it.
DECIDES = ("core", "record", "evidence", "figures")
PACKAGE = Path(__file__).resolve().parents[1]


def digest_of_code(package: Path, folders: tuple[str, ...] = DECIDES) -> str:
    """SHA-256 over names and contents of every source in these folders."""
    found = hashlib.sha256()
    for folder in folders:
        for file in sorted((package / folder).rglob("*.py")):
            found.update(str(file.relative_to(package)).encode() + b"\0" + file.read_bytes() + b"\0")
    return found.hexdigest()


@cache
def code_digest() -> str:
    """That of this installation."""
    return digest_of_code(PACKAGE)
