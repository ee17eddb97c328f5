"""What the Compare page prints beside the words of the evidence: the bench by result, tops that mislead."""

from __future__ import annotations

from orderly_bench.core.compare.tops import TopsAgainstRoots
from orderly_bench.core.design.codes import spaced
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.responses.counts import YES_NO, at_one_look, told_of
from orderly_bench.core.responses.kind import Response
from orderly_bench.evidence.rows import value_of
from orderly_bench.evidence.verdict import Evidence
from orderly_bench.figures.glyphs import UNSCORED, look_of
from orderly_bench.record.facts import CuttingResult
from orderly_bench.record.value import UnitRecord
from orderly_bench.trial.load import PARTED
from orderly_bench.web.bench_map import Cell, TrayView, block_lines

NOTABLE_TOPS = 0.2


def map_of(evidence: Evidence) -> list[TrayView]:
    """The bench by result, with the arm's stake in each cell's corner."""
    response = at_one_look(evidence.record.plan.question.response)
    by_unit: dict[int, list[CuttingResult]] = {}
    for r in evidence.results:
        by_unit.setdefault(r.cutting.unit.id, []).append(r)
    by_tray: dict[int, list[UnitRecord]] = {}
    for unit in evidence.record.units:
        by_tray.setdefault(unit.tray, []).append(unit)
    views = []
    for tray in evidence.record.trays:
        units = {(unit.row, unit.column): unit for unit in by_tray.get(tray.number, [])}
        cells = [
            _cell(units[r, c], by_unit.get(units[r, c].id, []), response) if (r, c) in units else Cell(r, c)
            for r in range(1, tray.rows + 1)
            for c in range(1, tray.columns + 1)
        ]
        parted = {at: next((n for k, n in u.groups.items() if k in PARTED), None) for at, u in units.items()}
        views.append(TrayView(tray.number, tray.rows, tray.columns, cells, "", 34, block_lines(parted)))
    return views


def _cell(unit: UnitRecord, results: list[CuttingResult], response: Response) -> Cell:
    if not results:
        return Cell(unit.row, unit.column, None, "not stuck")
    label = _(
        "{spaced}, arm {arm}: {outcome_words}",
        spaced=spaced(unit.code),
        arm=unit.arm,
        outcome_words=_outcome_words(results, response),
    )
    # A unit of several shows the cutting in its middle: as many fare better as worse.
    shown = sorted(results, key=lambda r: (bool(r.outcome.rooted), r.score.root_number or 0 if r.score else 0))
    score = shown[len(shown) // 2].score
    look = look_of(score) if score else UNSCORED
    return Cell(
        unit.row,
        unit.column,
        results[0].cutting.id,
        label,
        letter=unit.arm,
        look=look,
        count=_k_of_n(results, response),
    )


def _k_of_n(results: list[CuttingResult], response: Response) -> str:
    """How many of the cuttings in one place came out, of those known; blank for one cutting, and where it is no yes or no."""
    values = [value for r in results if (value := value_of(response, r)) is not None]
    return f"{sum(map(bool, values))}/{len(values)}" if len(results) > 1 and response in YES_NO and values else ""


def _outcome_words(results: list[CuttingResult], response: Response) -> str:
    values = [value_of(response, r) for r in results]
    if len(results) == 1:
        return _("{what} ({state})", what=told_of(response, values[0]), state=results[0].outcome.state)
    known = [value for value in values if value is not None]
    if response in YES_NO:
        yes = sum(1 for value in known if value)
        return _("{k} of {n} {what}", k=yes, n=str(len(known)), what=YES_NO[response][0])
    return ", ".join(told_of(response, value) for value in values)


def misleading_tops(evidence: Evidence) -> list[tuple[str, TopsAgainstRoots]]:
    """Letters of the arms in which at least a fifth of the good tops stand over bare stems, worst first."""
    letters = {name: letter for letter, name in evidence.record.arm_names.items()}
    found = [(letters[t.arm], t) for t in evidence.tops if t.lush and t.lush_without_roots / t.lush >= NOTABLE_TOPS]
    return sorted(found, key=lambda pair: -pair[1].lush_without_roots / pair[1].lush)
