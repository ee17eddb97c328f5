"""What the Prepare page prints: media, counts, cautions."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date

from sqlalchemy.orm import Session

from orderly_bench.core.cautions import Caution
from orderly_bench.core.design.in_numbers import in_numbers
from orderly_bench.core.measures import NOTHING_GIVEN
from orderly_bench.core.messages.say import caution
from orderly_bench.core.plan.aspects import AspectKind
from orderly_bench.core.plan.pieces import Pick, pick_list
from orderly_bench.core.plan.value import Plan
from orderly_bench.core.prepare.hormones import Bottle, HormoneSheet
from orderly_bench.core.prepare.needs import MediumOfPlan, media_of, undrained
from orderly_bench.core.prepare.on_trays import OnTrays, goes_on_trays, on_trays
from orderly_bench.core.prepare.ready import Needed, ToDo, shopping, to_do, with_shelf
from orderly_bench.core.prepare.taking import how_to_take
from orderly_bench.core.prepare.water import Fill, in_water
from orderly_bench.core.stock import supplies
from orderly_bench.figures import dilution, vessel
from orderly_bench.stock.operations import all_supplies, litres_ready, plants_by_code, recipes_known
from orderly_bench.trial import load
from orderly_bench.trial.models import SeenTo, Trial
from orderly_bench.trial.readiness import seen_to
from orderly_bench.trial.reserved import litres_reserved


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
    water: bool
    undrained: bool


@dataclass(frozen=True)
class ToPick:
    """The pick list, and donors from which more is to be taken than they should give."""

    picks: list[Pick]
    cautions: list[Caution]
    how: list[str]

    @property
    def waves(self) -> bool:
        """Whether there are several."""
        return any(pick.wave for pick in self.picks)

    @property
    def stems(self) -> bool:
        """Whether any piece names its stem."""
        return any(pick.pieces.stem for pick in self.picks)


def picks_of(session: Session, trial: Trial) -> ToPick | None:
    """What to take from each donor and where it goes; None where pieces are not allotted."""
    plan = trial.plan
    if not plan.design.pieces or trial.locked_at is None:
        return None
    units = load.units_with_everything(session, trial)
    waves = {wave.id: wave.number for wave in trial.waves}
    places = [
        (cutting.code, waves[unit.wave_id], cutting.piece)
        for unit in units
        for cutting in unit.cuttings
        if cutting.replaces_id is None
    ]
    picks = pick_list(plan, places)
    taken: dict[tuple[int, str], int] = {}
    for pick in picks:
        at = pick.wave, pick.pieces.donor
        taken[at] = taken.get(at, 0) + len(pick.codes)
    plants = plants_by_code(session, [donor for _, donor in taken])
    over = [
        caution("over_taken", donor=donor, n=n, most=most)
        for (_, donor), n in taken.items()
        if (plant := plants.get(donor.casefold())) and (most := plant.most_to_take) is not None and n > most
    ]
    return ToPick(picks, over, how_to_take([plant.value for plant in plants.values()]))


def needs_of(session: Session, trial: Trial) -> Needs:
    """What has to stand ready."""
    plan = trial.plan
    media = media_of(plan, recipes_known(session))
    trays = in_numbers(load.standing_of(trial, load.places_of(session, trial)))
    places = sum(tray.rows * tray.columns for tray in trial.trays)
    hormone = plan.treatments.of_kind(AspectKind.HORMONE)
    hormones = hormone is not None and any(level.name.casefold() not in NOTHING_GIVEN for level in hormone.levels)
    containers = sum(medium.need.cells for medium in media)
    labels = sum(plan.units_of(arm) * len(plan.waves_of(arm)) for arm in plan.treatments.arms) if trays else 0
    water = any(in_water(plan, arm) for arm in plan.treatments.arms)
    return Needs(plan.cuttings, trays, places, containers, labels, media, hormones, water, bool(undrained(plan)))


def trays_of(session: Session, trial: Trial, hidden: bool) -> list[OnTrays]:
    """Which trays get what goes on whole trays; nothing for who may not see the arms."""
    if hidden or not goes_on_trays(trial.plan):
        return []
    return on_trays(trial.plan, load.arms_by_tray(session, trial))


def drawn(sheet: HormoneSheet, bottle: Bottle) -> list[str]:
    """A figure for each dish that is diluted, blank for the others."""
    name = f"{bottle.ppm:g} ppm"
    return [
        dilution.figure(name, dish.stock_ml, dish.fill_ml, dish.name) if dish.stock_ml is not None and dish.fill_ml is not None else ""
        for dish in sheet.dishes
    ]  # fmt: skip


def vessel_drawn(plan: Plan, fill: Fill) -> str:
    """One vessel of an arm in water, filled to scale."""
    return vessel.figure(fill.level_ml, plan.container_of(plan.treatments.arm(fill.arm)).volume_ml, fill.level_mm)


def list_of(session: Session, trial: Trial) -> list[tuple[ToDo, SeenTo | None]]:
    """What has to be seen to, each with who ticked it."""
    ticked = seen_to(session, trial)
    return [(item, ticked.get(item.key)) for item in to_do(trial.plan)]


def shopping_of(session: Session, trial: Trial, labels: int, day: date) -> list[Needed]:
    """What is to be had for a trial."""
    known, ready = recipes_known(session), litres_ready(session)
    lines = shopping(trial.plan, ready, litres_reserved(session, trial), labels, known=known)
    shelf = supplies.on_shelf([row.value for row in all_supplies(session)], day)
    return with_shelf(lines, {of: there for of, there in shelf.items() if of != (of[0], "L") or of[0] not in ready})
