"""A trial to take away: one zip with its plan, its tables, its figures and report, described by a Frictionless data package.

Frictionless Standards, Data Package version 1 (2017): https://specs.frictionlessdata.io
"""

from __future__ import annotations

import csv
import hashlib
import io
import json
import zipfile
from collections.abc import Mapping, Sequence
from datetime import datetime
from typing import Any

from orderly_bench.core.errors import UnusableData
from orderly_bench.core.messages.words import tell

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


def package(
    name: str, title: str, description: str, at: datetime, files: Mapping[str, bytes | str], sources: Sequence[str] = ()
) -> bytes:
    """The zip.

    Parameters
    ----------
    name : str
        Of the package, small letters, digits, ``-``, ``.``.
    files : mapping
        Content by path inside the zip; CSV files get a schema, every file its size and SHA-256.
    sources : sequence of str
        Titles of what it rests on.
    """
    resources = [_resource(path, content) for path, content in files.items()]
    descriptor = {
        "profile": "data-package", "name": name, "title": title, "description": description, "created": at.strftime("%Y-%m-%dT%H:%M:%SZ"),
        "resources": resources,
    } | ({"sources": [{"title": source} for source in sources]} if sources else {})  # fmt: skip
    everything = {"datapackage.json": json.dumps(descriptor, ensure_ascii=False, indent=1), **files}
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for path, content in everything.items():
            entry = zipfile.ZipInfo(path, EPOCH)
            entry.compress_type, entry.external_attr = zipfile.ZIP_DEFLATED, 0o644 << 16
            archive.writestr(entry, content)
    return out.getvalue()


def _resource(path: str, content: bytes | str) -> dict[str, Any]:
    data = content.encode() if isinstance(content, str) else content
    kind = path.rpartition(".")[2]
    made: dict[str, Any] = {
        "name": path.replace("/", "-").rpartition(".")[0].lower(), "path": path, "format": kind, "mediatype": MIME[kind],
        "bytes": len(data), "hash": f"sha256:{hashlib.sha256(data).hexdigest()}",
    }  # fmt: skip
    if kind != "csv":
        return made | {"profile": "data-resource"}
    return made | {"profile": "tabular-data-resource", "encoding": "utf-8", "schema": schema_of(data.decode())}


#: What a package may unpack to, and hold.
MOST_BYTES, MOST_FILES = 400_000_000, 5_000


def read_package(data: bytes) -> dict[str, bytes]:
    """The files of a package by their path, once each is what its descriptor says.

    Raises
    ------
    UnusableData
        No zip, no descriptor, too large, a file missing or other than described.
    """
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            entries = archive.infolist()
            if len(entries) > MOST_FILES or sum(one.file_size for one in entries) > MOST_BYTES:
                raise UnusableData(
                    tell("the file unpacks to more than a package holds"), tell("Take a zip that a lab wrote")
                )
            descriptor = json.loads(archive.read("datapackage.json"))
            found = {str(one["path"]): (archive.read(str(one["path"])), one["hash"]) for one in descriptor["resources"]}
    except (zipfile.BadZipFile, KeyError, TypeError, ValueError, NotImplementedError, RuntimeError) as error:
        raise UnusableData(
            tell("this file is no package of a trial"), tell("Take the zip from Conclude, Everything in one zip")
        ) from error
    wrong = [
        path for path, (content, digest) in found.items() if f"sha256:{hashlib.sha256(content).hexdigest()}" != digest
    ]
    if wrong:
        raise UnusableData(
            tell("{names} is not as its package describes it", names=", ".join(wrong[:3])),
            tell("Take it anew; it was changed or damaged"),
        )
    return {path: content for path, (content, _) in found.items()}
