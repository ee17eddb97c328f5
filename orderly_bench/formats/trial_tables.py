"""Column lists of a trial's CSV files; the endpoint file is what ``analyse`` reads back."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from orderly_bench.core.score.details import DETAILS
from orderly_bench.formats.table_csv import write

SCORE_COLUMNS = (
    "cutting", "tray", "row", "column", "site", "check_planned_day", "date", "days_after_sticking", "way", "state", "roots", "root_number",
    "root_class", "longest_root_mm", "quality", "foliage", "callus", "top", "failure", "fit_to_pot_on", "known_by", "note", "scored_by", "blind", "scored_at", "revision", "carried_forward",
    *(detail.name for detail in DETAILS),
)  # fmt: skip
ENDPOINT_COLUMNS = (
    "cutting", "tray", "row", "column", "unit", "block", "pair", "whole_plot", "square_row", "square_column", "wave", "rooted", "state",
    "root_count", "root_class", "longest_root_mm", "quality", "foliage", "fit_to_pot_on", "alive",
    "last_without_day", "first_with_day", "outcome", "donor", "stem", "place_on_stem", "grade",
)  # fmt: skip

PLANT_COLUMNS = ("arm", "cutting", "rooted", "went", "date", "price", "currency", "rights", "note", "written_by")


def plants_csv(rows: Iterable[Sequence[object]]) -> str:
    """One row per cutting: where it went at last, blank where nobody said."""
    return write(list(PLANT_COLUMNS), rows)


def scores_csv(factors: Sequence[str], rows: Iterable[tuple[Sequence[str], Sequence[object]]]) -> str:
    """One row per rooting site per check; ``factors`` is empty while arms are hidden."""
    return write([*factors, *SCORE_COLUMNS], ([*levels, *cells] for levels, cells in rows))


def endpoint_csv(
    factors: Sequence[str], rows: Iterable[tuple[Sequence[str], Sequence[object]]], measures: Sequence[str] = ()
) -> str:
    """One row per cutting at the endpoint; ``measures`` are columns of what was noted as they went in, at the end of each row."""
    return write([*factors, *ENDPOINT_COLUMNS, *measures], ([*levels, *cells] for levels, cells in rows))
