"""A trial of another lab, taken in from the package it wrote: its rows, its photos, and whether they hold together."""

from __future__ import annotations

import json
import re
from collections.abc import Mapping
from datetime import datetime
from hashlib import sha256
from pathlib import Path

from sqlalchemy.orm import Session

from orderly_bench.core.errors import OrderlyError, UnusableData
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.database.archive import revision_of
from orderly_bench.formats.photo import read_photo
from orderly_bench.record.gather import gather
from orderly_bench.trial import carried
from orderly_bench.trial.models import Person, Trial
from orderly_bench.trial.photos import keep_picture

_PHOTO = re.compile(r"photos/.*-([0-9a-f]{64})\.jpg")


def take_in(session: Session, actor: Person, now: datetime, files: Mapping[str, bytes], folder: Path) -> Trial:
    """The trial, once its record could be read as any trial's here.

    Raises
    ------
    UnusableData
        A package without the trial's own rows, or with rows that do not hold together.
    Refused
        It is in this lab already.
    """
    if "trial.json" not in files:
        rule = _("Have it taken by someone who may plan there, with this version")
        raise UnusableData(_("the package holds tables and report, and not the trial itself"), rule)
    try:
        sent = json.loads(files["trial.json"])
    except ValueError as error:
        raise UnusableData(_("trial.json can not be read"), _("Take the file anew from its lab")) from error
    trial = carried.take_in(session, actor, now, sent, revision_of(session.connection()) or "")
    try:
        gather(session, trial)
    except OrderlyError:
        raise
    except Exception as error:
        raise UnusableData(_("its rows do not hold together"), _("Take the file anew from its lab")) from error
    for path, content in files.items():
        hit = _PHOTO.fullmatch(path)
        if hit and sha256(content).hexdigest() == hit[1]:
            keep_picture(folder, hit[1], content, read_photo(content).small)
    return trial
