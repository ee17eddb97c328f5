"""What the Prepare page prints: media, counts, cautions."""

from __future__ import annotations

from dataclasses import dataclass

from orderly_bench.core.prepare.medium import MediumNeed, medium_need, read_recipe
from orderly_bench.core.vocabulary import FactorKind
from orderly_bench.trial.models import Trial

ALL_ARMS = "the medium of all arms"


@dataclass(frozen=True)
class Needs:
    """Counts and volumes for the whole trial."""

    cuttings: int
    trays: int
    cells: int
    labels: int
    media: list[MediumNeed]
    hormones: bool


def media_of(trial: Trial) -> dict[str, int]:
    """Cells to fill by medium; one entry for all arms when medium is not varied."""
    factor = next((i for i, f in enumerate(trial.factors) if f.kind == FactorKind.MEDIUM), None)
    cells: dict[str, int] = {}
    for arm in trial.arms:
        medium = ALL_ARMS if factor is None else arm.level_names[factor]
        cells[medium] = cells.get(medium, 0) + trial.cuttings_per_arm
    return cells


def needs_of(trial: Trial) -> Needs:
    """What has to stand ready."""
    total = trial.cuttings_per_arm * len(trial.arms)
    media = [
        medium_need(medium, cells, trial.cell_volume_ml, read_recipe(trial.recipes.get(medium, "")))
        for medium, cells in media_of(trial).items()
    ]
    cells = sum(tray.rows * tray.columns for tray in trial.trays)
    hormones = any(f.kind == FactorKind.HORMONE for f in trial.factors)
    return Needs(total, len(trial.trays), cells, len(trial.units), media, hormones)
