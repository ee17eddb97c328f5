"""A trial to take away: one zip with its plan, its tables, its figures and report, described by a Frictionless data package.

Frictionless Standards, Data Package version 1 (2017): https://specs.frictionlessdata.io
"""

from __future__ import annotations

import csv
import hashlib
import io
import json
import zipfile
import zlib
from collections.abc import Callable, Iterator, Mapping, Sequence
from datetime import datetime
from typing import IO, Any

from orderly_bench.core.errors import UnusableData
from orderly_bench.core.messages.translation import gettext as _

#: What a column of our tables holds; every other is text.
INTEGERS = (
    "tray", "row", "column", "site", "check_planned_day", "days_after_sticking", "root_number", "root_count", "quality", "foliage", "callus",
    "blind", "revision", "carried_forward", "rooted", "alive", "fit_to_pot_on",
)  # fmt: skip
NUMBERS = ("longest_root_mm", "ball_percent")
MIME = {
    "csv": "text/csv",
    "svg": "image/svg+xml",
    "jpg": "image/jpeg",
    "pdf": "application/pdf",
    "yaml": "application/yaml",
    "txt": "text/plain",
    "R": "text/x-r",
    "json": "application/json",
}
#: Zips written at one moment from the same content are the same bytes.
EPOCH = (1980, 1, 1, 0, 0, 0)
DESCRIPTOR = "datapackage.json"


def schema_of(content: str) -> dict[str, Any]:
    """The columns of one of our tables with their types; a whole column that does not fit its type is text."""
    header, *rows = list(csv.reader(io.StringIO(content)))
    fields = []
    for i, name in enumerate(header):
        cells = [row[i] for row in rows if row[i] != ""]
        kind = "string"
        if name in INTEGERS and all(_is_whole(cell) for cell in cells):
            kind = "integer"
        elif name in NUMBERS and all(_is_number(cell) for cell in cells):
            kind = "number"
        fields.append({"name": name, "type": kind})
    return {"fields": fields, "missingValues": [""]}


def _is_whole(cell: str) -> bool:
    return cell.removeprefix("-").isascii() and cell.removeprefix("-").isdigit()


def _is_number(cell: str) -> bool:
    try:
        float(cell)
    except ValueError:
        return False
    return True


#: A file's content, or what reads it when it is its turn: photos are held one at a time.
Content = bytes | str | Callable[[], bytes]


def _bytes(content: Content) -> bytes:
    found = content() if callable(content) else content
    return found.encode() if isinstance(found, str) else found


def package(
    out: IO[bytes],
    name: str,
    title: str,
    description: str,
    at: datetime,
    files: Mapping[str, Content],
    sources: Sequence[str] = (),
) -> None:
    """Write the zip.

    Parameters
    ----------
    out : binary file
        What it is written to.
    name : str
        Of the package, small letters, digits, ``-``, ``.``.
    files : mapping
        Content by path inside the zip; CSV files get a schema, every file its size and SHA-256.
    sources : sequence of str
        Titles of what it rests on.
    """
    resources = []
    with zipfile.ZipFile(out, "w") as archive:
        for path, content in files.items():
            data = _bytes(content)
            resources.append(_resource(path, data))
            _write(archive, path, data)
        descriptor = {
            "profile": "data-package", "name": name, "title": title, "description": description, "created": at.strftime("%Y-%m-%dT%H:%M:%SZ"),
            "resources": resources,
        } | ({"sources": [{"title": source} for source in sources]} if sources else {})  # fmt: skip
        _write(archive, DESCRIPTOR, json.dumps(descriptor, ensure_ascii=False, indent=1).encode())


def _write(archive: zipfile.ZipFile, path: str, data: bytes) -> None:
    entry = zipfile.ZipInfo(path, EPOCH)
    entry.compress_type, entry.external_attr = zipfile.ZIP_DEFLATED, 0o644 << 16
    archive.writestr(entry, data)


def _resource(path: str, data: bytes) -> dict[str, Any]:
    kind = path.rpartition(".")[2]
    made: dict[str, Any] = {
        "name": path.replace("/", "-").rpartition(".")[0].lower(), "path": path, "format": kind, "mediatype": MIME[kind],
        "bytes": len(data), "hash": f"sha256:{hashlib.sha256(data).hexdigest()}",
    }  # fmt: skip
    if kind != "csv":
        return made | {"profile": "data-resource"}
    return made | {"profile": "tabular-data-resource", "encoding": "utf-8", "schema": schema_of(data.decode())}


#: What a package may unpack to, and hold; what is read of a file at a time.
MOST_BYTES, MOST_FILES, PIECE = 4_000_000_000, 5_000, 1_000_000
#: The largest of its files that is held whole.
MOST_HELD = 200_000_000


class Package(Mapping[str, bytes]):
    """The files of a package by their path, each read when it is asked for."""

    def __init__(self, archive: zipfile.ZipFile, paths: Sequence[str]) -> None:
        self._archive, self._paths = archive, dict.fromkeys(paths)

    def __getitem__(self, path: str) -> bytes:
        if path not in self._paths:
            raise KeyError(path)
        return self._archive.read(path)

    def __iter__(self) -> Iterator[str]:
        return iter(self._paths)

    def __len__(self) -> int:
        return len(self._paths)


def read_package(sent: IO[bytes]) -> Package:
    """A package, once each of its files is what its descriptor says. The file stays open as long as it is read.

    Raises
    ------
    UnusableData
        No zip, no descriptor, too large, a file missing or other than described.
    """
    try:
        archive = zipfile.ZipFile(sent)
        entries = archive.infolist()
        sizes = [one.file_size for one in entries]
        if len(entries) > MOST_FILES or sum(sizes) > MOST_BYTES or max(sizes, default=0) > MOST_HELD:
            raise UnusableData(_("the file unpacks to more than a package holds"), _("Take a zip that a lab wrote"))
        described = {str(one["path"]): one["hash"] for one in json.loads(archive.read(DESCRIPTOR))["resources"]}
        wrong = [path for path, digest in described.items() if _digest(archive, path) != digest]
    except (
        zipfile.BadZipFile,
        KeyError,
        TypeError,
        ValueError,
        NotImplementedError,
        RuntimeError,
        zlib.error,
    ) as error:
        raise UnusableData(
            _("this file is no package of a trial"), _("Take the zip from Conclude, Everything in one zip")
        ) from error
    if wrong:
        raise UnusableData(
            _("{names} is not as its package describes it", names=", ".join(wrong[:3])),
            _("Take it anew; it was changed or damaged"),
        )
    return Package(archive, list(described))


def _digest(archive: zipfile.ZipFile, path: str) -> str:
    found = hashlib.sha256()
    with archive.open(path) as content:
        while piece := content.read(PIECE):
            found.update(piece)
    return f"sha256:{found.hexdigest()}"
