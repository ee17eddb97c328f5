"""What the Compare page prints beside the words of the evidence: the bench by result, tops that mislead."""

from __future__ import annotations

from orderly_bench.core.compare.tops import TopsAgainstRoots
from orderly_bench.core.design.codes import spaced
from orderly_bench.evidence.verdict import Evidence
from orderly_bench.figures.glyphs import UNSCORED, look_of
from orderly_bench.record.reading import CuttingResult
from orderly_bench.trial.models import Arm, Trial, Unit
from orderly_bench.web.bench_map import Cell, TrayView, tray_views

NOTABLE_TOPS = 0.2


def map_of(trial: Trial, evidence: Evidence) -> list[TrayView]:
    """The bench by result, with the arm's stake in each cell's corner and incidents marked."""
    by_unit: dict[int, list[CuttingResult]] = {}
    for r in evidence.results:
        by_unit.setdefault(r.cutting.unit.id, []).append(r)

    def cell(unit: Unit) -> Cell:
        place, results = unit.place, by_unit.get(unit.id, [])
        if not results:
            return Cell(place.row, place.column, None, "not stuck")
        arm: Arm = unit.arm
        label = f"{spaced(unit.code)}, arm {arm.letter}: {_outcome_words(results)}"
        # A unit of several shows the cutting in its middle: as many fare better as worse.
        shown = sorted(results, key=lambda r: (bool(r.outcome.rooted), r.score.root_number or 0 if r.score else 0))
        score = shown[len(shown) // 2].score
        look = look_of(score) if score else UNSCORED
        return Cell(place.row, place.column, results[0].cutting.id, label, letter=arm.letter, look=look)

    return tray_views(trial.trays, trial.units, cell, cell_px=34)


def _outcome_words(results: list[CuttingResult]) -> str:
    if len(results) > 1:
        known = [r for r in results if r.outcome.rooted is not None]
        return f"{sum(1 for r in known if r.outcome.rooted)} of {len(known)} rooted"
    only = results[0].outcome
    outcome = "left out" if only.rooted is None else ("rooted" if only.rooted else "not rooted")
    return f"{outcome} ({only.state})"


def misleading_tops(trial: Trial, evidence: Evidence) -> list[tuple[Arm, TopsAgainstRoots]]:
    """Arms in which at least a fifth of the good tops stand over bare stems, worst first."""
    by_name = {arm.name: arm for arm in trial.arms}
    found = [(by_name[t.arm], t) for t in evidence.tops if t.lush and t.lush_without_roots / t.lush >= NOTABLE_TOPS]
    return sorted(found, key=lambda pair: -pair[1].lush_without_roots / pair[1].lush)
