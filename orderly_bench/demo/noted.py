"""What is noted in the demo lab beside the scores: how cuttings went in, and what loggers read."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime
from zoneinfo import ZoneInfo

import numpy as np
from sqlalchemy.orm import Session

from orderly_bench.chapters.stick import measuring
from orderly_bench.trial.conditions import LogSent, keep_log
from orderly_bench.trial.load import units_with_everything
from orderly_bench.trial.models import Person, Trial


def logged(
    session: Session, trial: Trial, who: Person, at: datetime, files: Sequence[tuple[str, int | None, bytes]]
) -> None:
    """What loggers read at some places: of a tray by its number, or of the whole bench."""
    units = units_with_everything(session, trial)
    for zone, tray, data in files:
        sent = LogSent(data, f"{zone.replace(' ', '-')}.csv", zone, 16.0, 24.0, ZoneInfo("Europe/London"))
        here = [unit for unit in units if tray in (None, unit.place.tray.number)]
        keep_log(session, trial, who, at, sent, here)


def cuttings_measured(session: Session, trial: Trial, who: Person, at: datetime, seed: int) -> None:
    """How the lavender went in: the lot's own, every length, and three that went in otherwise."""
    usual = {"leaves": "some taken off", "depth_mm": "30", "put_in": "hole first", "watered_in": "yes"}
    measuring.note_usual(session, trial, who, at, trial.lots[0], usual)
    cuttings, rng = measuring.in_bench_order(session, trial), np.random.default_rng(seed)
    lengths = " ".join(str(n) for n in rng.normal(82, 6, len(cuttings)).round().astype(int))
    measuring.note_in_order(session, trial, who, at, cuttings, "length_mm", lengths)
    for number, noted in ((4, {"shape": "bent"}), (29, {"depth_mm": "20"}), (51, {"shape": "bent", "depth_mm": "22"})):
        measuring.note(session, trial, who, at, cuttings[number], noted)
