"""What the Prepare page prints: media, counts, cautions."""

from __future__ import annotations

from dataclasses import dataclass

from orderly_bench.core.plan.aspects import AspectKind
from orderly_bench.core.prepare.needs import MediumOfPlan, media_of
from orderly_bench.trial.models import Trial


@dataclass(frozen=True)
class Needs:
    """Counts and volumes for the whole trial."""

    cuttings: int
    trays: list[str]
    places: int
    containers: int
    labels: int
    media: list[MediumOfPlan]
    hormones: bool


def needs_of(trial: Trial) -> Needs:
    """What has to stand ready."""
    plan = trial.plan
    media = media_of(plan)
    kinds: dict[str, int] = {}
    for tray in trial.trays:
        what = tray.shape if (tray.rows, tray.columns) == (1, 1) else f"{tray.shape}, {tray.rows} x {tray.columns}"
        kinds[what] = kinds.get(what, 0) + 1
    places = sum(tray.rows * tray.columns for tray in trial.trays)
    hormone = plan.treatments.of_kind(AspectKind.HORMONE)
    hormones = hormone is not None and any(level.name.casefold() != "none" for level in hormone.levels)
    containers = sum(medium.need.cells for medium in media)
    labels = sum(plan.units_of(arm) * len(plan.waves_of(arm)) for arm in plan.treatments.arms) if kinds else 0
    trays = [f"{number} x {what}" for what, number in kinds.items()]
    return Needs(plan.cuttings, trays, places, containers, labels, media, hormones)
