"""Rows arranged for analysis, held to what their groups must be."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import replace

from orderly_bench.core.cautions import Caution
from orderly_bench.core.errors import UnusableData
from orderly_bench.core.layouts.from_rows import layout_of
from orderly_bench.core.messages.say import caution
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.observations.table import JOINER, Observations, Row, natural_key

#: Pairs named one by one.
MOST_NAMED = 6


def arrange(
    factors: Sequence[str], rows: Sequence[Row], least_arms: int = 2, questions: Sequence[Caution] = ()
) -> Observations:
    """Arrange rows into observations and check that the groups make sense.

    Raises
    ------
    UnusableData
        No rows, one arm, no examined cutting at all, in a square an arm without one, a group given for some rows only, a unit in
        two arms or two blocks, a pair that is not two cuttings of two arms, a square that is none.
    """
    if not rows:
        raise UnusableData(_("there are no cuttings"), _("Each cutting has one row"))
    rows, alone = _without_lone_partners(rows)
    arms = sorted({row.levels for row in rows}, key=lambda arm: tuple(natural_key(level) for level in arm))
    if len(arms) < least_arms:
        raise UnusableData(
            _("all cuttings are in one arm ({names})", names=JOINER.join(arms[0])),
            _("A comparison needs two arms; check what was varied"),
            column=",".join(factors),
        )
    if rows[0].wave is not None and rows[0].row is None and not _carried_by_waves(rows):
        rows = [replace(row, wave=None, block=_inside(row), in_wave=True) for row in rows]
    if rows[0].row is not None:
        rows = [replace(row, unit=f"{row.row} / {row.column}") for row in rows]  # a cell is a unit
    strata = {row.pair or row.block for row in rows} - {None}
    blocks = sorted((s for s in strata if s is not None), key=natural_key)
    for row in rows:
        if blocks and (row.pair or row.block) is None:
            raise UnusableData(_("no block is given"), _("Fill the block for every cutting"), row=row.line or None)
    seen = {row.levels for row in rows if row.known}
    square = rows[0].row is not None
    if len(seen) < (len(arms) if square else 1):
        unknown = next(arm for arm in arms if arm not in seen)
        raise UnusableData(
            _("arm {names} has no cutting with a known outcome", names=JOINER.join(unknown)),
            _("Score it, or compare the other arms without it"),
        )
    _check_units(rows)
    made = Observations(tuple(factors), tuple(arms), tuple(blocks), tuple(rows), (*questions, *alone))
    misfit = layout_of(made).misfit()
    if misfit is not None:
        raise misfit
    return made


def _without_lone_partners(rows: Sequence[Row]) -> tuple[Sequence[Row], list[Caution]]:
    """A pair of which one cutting stands in the table says nothing: set aside, unless no pair is whole."""
    if rows[0].pair is None:
        return rows, []
    times = Counter(row.pair for row in rows)
    lone = sorted((str(pair) for pair, n in times.items() if n == 1), key=natural_key)
    if not lone or len(lone) == len(times):
        return rows, []
    more = f" … ({len(lone)})" if len(lone) > MOST_NAMED else ""
    found = caution("lone_partner", n=len(lone), names=", ".join(lone[:MOST_NAMED]) + more)
    return [row for row in rows if times[row.pair] > 1], [found]


def _carried_by_waves(rows: Sequence[Row]) -> bool:
    """Whether whole waves carry the levels of some factor. Where none does, waves are blocks: every arm was drawn inside them."""
    waves: dict[str | None, set[tuple[str, ...]]] = {}
    for row in rows:
        waves.setdefault(row.wave, set()).add(row.levels)
    return any(
        len({row.levels[factor] for row in rows}) > 1
        and all(len({levels[factor] for levels in held}) == 1 for held in waves.values())
        for factor in range(len(rows[0].levels))
    )


def _inside(row: Row) -> str:
    return " ".join(name for name in (row.wave, row.block) if name)


def _check_units(rows: Sequence[Row]) -> None:
    """A unit has one arm and one place, a whole plot one block."""
    units: dict[str, Row] = {}
    plots: dict[str, Row] = {}
    for row in rows:
        if row.whole_plot is not None:
            plot = plots.setdefault(row.whole_plot, row)
            _refuse_two(_("whole plot {name}", name=row.whole_plot), row, (("blocks", row.block, plot.block),))
        if row.unit is None:
            continue
        first = units.setdefault(row.unit, row)
        places = (
            ("arms", row.levels, first.levels), ("blocks", row.block, first.block), ("whole plots", row.whole_plot, first.whole_plot),
            ("rows", row.row, first.row), ("columns", row.column, first.column), ("waves", row.wave, first.wave),
        )  # fmt: skip
        _refuse_two(_("unit {name}", name=row.unit), row, places)


def _refuse_two(which: str, row: Row, places: Sequence[tuple[str, object, object]]) -> None:
    for what, here, there in places:
        if here != there:
            raise UnusableData(
                _("{which} stands in two {what}", which=which, what=what),
                _(
                    "Give each its own name, and one place; where names begin anew, name both columns, comma between: block,pot"
                ),
                row=row.line or None,
            )
