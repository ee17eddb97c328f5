"""Rows of the CSV files, and the report."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from sqlalchemy.orm import Session

from orderly_bench.chapters.compare.evidence import CuttingResult, never_stuck, results_at
from orderly_bench.chapters.score.operations import checks_of
from orderly_bench.core.compare.observations import NOT_STUCK
from orderly_bench.core.tend.schedule import days_after_sticking
from orderly_bench.trial.models import Cutting, Trial, Unit

Row = tuple[Sequence[str], Sequence[object]]


def _where(cutting: Cutting) -> list[object]:
    place = cutting.unit.place
    return [cutting.code, place.tray.number, place.row, place.column]


def _groups(unit: Unit) -> list[object]:
    return [unit.code, *(unit.group(kind) for kind in ("block", "pair", "whole plot", "row", "column"))]


def endpoint_rows(trial: Trial, results: list[CuttingResult], with_arms: bool) -> Iterator[Row]:
    """One row per cutting at the endpoint; no levels while arms are hidden."""
    for r in results:
        s = r.score
        rooted = None if r.outcome.rooted is None else int(r.outcome.rooted)
        scored = [s.root_number, s.root_class, s.longest_root_mm, s.quality, s.fit] if s else [None] * 5
        cells = [*_where(r.cutting), *_groups(r.cutting.unit), rooted, r.outcome.state, *scored]
        yield (r.cutting.unit.arm.level_names if with_arms else (), cells)
    for cutting in never_stuck(trial):
        cells = [*_where(cutting), *_groups(cutting.unit), None, NOT_STUCK, *[None] * 5]
        yield (cutting.unit.arm.level_names if with_arms else (), cells)


def score_rows(session: Session, trial: Trial, with_arms: bool) -> Iterator[Row]:
    """One row per cutting per check that was opened."""
    for check in checks_of(session, trial):
        if check.opened_at is None or check.day is None:
            continue
        for r in results_at(session, check):
            s = r.score
            das = days_after_sticking(check.day, r.cutting.lot.day_zero) if r.cutting.lot else None
            cells: list[object] = [*_where(r.cutting), check.planned_das, check.day.isoformat(), das, check.way]
            if s is None:
                cells += ["unaccounted", *[None] * 16]
            else:
                callus = None if s.callus is None else int(s.callus)
                cells += [
                    s.state, s.roots, s.root_number, s.root_class, s.longest_root_mm, s.quality, callus, s.top, s.failure, s.fit, s.known_by, s.note,
                    s.person.name, int(s.blind), s.at.isoformat(), s.revision, int(r.carried),
                ]  # fmt: skip
            yield (r.cutting.unit.arm.level_names if with_arms else (), cells)
