"""What the Design page prints."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date

from orderly_bench.core.design.codes import spaced
from orderly_bench.core.design.in_numbers import in_numbers
from orderly_bench.core.design.lids import lids_of, said_of
from orderly_bench.core.lab import Hemisphere, season_of
from orderly_bench.core.layouts.kinds import planned
from orderly_bench.core.messages.translation import dated
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.methods.clusters import pooled_icc
from orderly_bench.core.plan.aspects import AspectKind
from orderly_bench.core.plan.question import TrialKind
from orderly_bench.core.plan.treatments import MOST_WAVES, Shape
from orderly_bench.core.plan.value import Plan
from orderly_bench.core.responses.registry import kind_of
from orderly_bench.trial.load import PARTED, standing_of
from orderly_bench.trial.models import Trial, Unit
from orderly_bench.web.bench_map import Cell, TrayView, blocks_of, cell_size, short_group, tray_views
from orderly_bench.web.fields import sent_number


def said_of_waves(plan: Plan, hemisphere: Hemisphere, today: date) -> dict[int, str]:
    """What the calendar says of each wave with a day: its season here where season is asked, and that a day is past."""
    said = {}
    for wave in plan.schedule.waves:
        if wave.planned_for is None:
            continue
        season = _("{season_of} here", season_of=season_of(wave.planned_for, hemisphere)) if seasons_of(plan) else ""
        past = (
            _("this day is past: what was stuck before the lock is retrospective") if wave.planned_for < today else ""
        )
        said[wave.number] = "; ".join(part for part in (season, past) if part)
    return said


@dataclass(frozen=True)
class Likeness:
    """How alike cuttings of one container were in the lab's own trials: the guess for the next, and where it comes from."""

    icc: float
    words: str


def likeness_of(before: Sequence[tuple[float, int, str]], plant: str) -> Likeness | None:
    """From earlier trials as (ICC, degrees of freedom, plant); None without any."""
    pooled = pooled_icc([(icc, df) for icc, df, _ in before])
    if pooled is None:
        return None
    of = _("of {plant}", plant=plant) if all(name == plant for _, _, name in before) else _("of other plants")
    each = ", ".join(f"{icc:.2f}" for icc, _, _ in before[:6])
    trials = "trial" if len(before) == 1 else "trials"
    return Likeness(
        pooled,
        _(
            "{pooled:.2f} from {n} own {trials} {of} ({each})",
            pooled=pooled,
            n=len(before),
            trials=trials,
            of=of,
            each=each,
        ),
    )


def seasons_of(plan: Plan) -> list[tuple[str, str]]:
    """Levels of the season that waves may belong to; none where season is not asked."""
    season = plan.treatments.of_kind(AspectKind.SEASON)
    return [(level.id, level.name) for level in season.levels] if season and season.asked else []


#: What holds the cuttings of one unit where the container holds several units.
PLACE = {Shape.CELLS: N_("cell"), Shape.BED: N_("place")}


def title_of(plan: Plan) -> str:
    """The design in a few words: ``40 a side in 4 blocks along the bench``."""
    design, arms = plan.design, plan.treatments.arms
    if not arms:
        return _("How many, and where?")
    each = {plan.cuttings_of(arm) for arm in arms}
    text = {1: N_("{n} of one arm"), 2: N_("{n} a side")}.get(len(arms), N_("{n} per arm"))
    number = _(text, n=each.pop()) if len(each) == 1 else _("Unequal numbers")
    if design.cuttings_per_unit > 1 and len({plan.per_unit(arm) for arm in arms}) == 1:
        number += _(
            ", {n} to a {what},",
            n=design.cuttings_per_unit,
            what=PLACE.get(design.container.shape, design.container.shape),
        )
    where = planned(design.layout).where(design.numbers, design.gradient)
    waves = _(", {n} waves", n=len(plan.schedule.waves)) if len(plan.schedule.waves) > 1 else ""
    return f"{number} {where}{waves}"


def _what_counts(plan: Plan) -> str:
    """What the end is read for: a verdict only of a test."""
    asked = plan.question
    if asked.kind is not TrialKind.TEST:
        return _(
            "what counts: {response} on day {endpoint_day}",
            response=kind_of(asked.response).heading.casefold(),
            endpoint_day=asked.endpoint_day,
        )
    verdict = _(
        "the verdict: of {headline}, at alpha {alpha:g}, on day {endpoint_day}",
        headline=plan.speaks_of,
        alpha=asked.alpha,
        endpoint_day=asked.endpoint_day,
    )
    if not asked.planned_looks:
        return verdict
    days = ", ".join(map(str, asked.planned_looks))
    return _("{verdict}; arms compared before it on day {days}, out of the same alpha", verdict=verdict, days=days)


def freezes(plan: Plan) -> list[str]:
    """What the lock freezes, in words."""
    asked, arms = plan.question, len(plan.treatments.arms)
    text = N_("{n} arm, {cuttings} cuttings, {title_of}, with every place as drawn")
    many = N_("{n} arms, {cuttings} cuttings, {title_of}, with every place as drawn")
    return [
        _("the question: {sentence}", sentence=asked.sentence),
        _(
            text if arms == 1 else many,
            n=arms,
            cuttings=plan.cuttings,
            title_of=title_of(plan),
        ),
        _what_counts(plan),
        _("the looks: day {names}", names=", ".join(str(d) for d in [*plan.schedule.check_days, asked.endpoint_day])),
    ]


@dataclass(frozen=True)
class Month:
    """A month of the year strip: its name, season here, and the waves planned in it."""

    name: str
    season: str
    waves: tuple[int, ...]


def year_strip(plan: Plan, hemisphere: Hemisphere) -> list[Month]:
    """The year as it runs here, with the waves; empty while no wave has a day."""
    planned = [wave for wave in plan.schedule.waves if wave.planned_for]
    if not planned:
        return []
    year = min(wave.planned_for for wave in planned if wave.planned_for).year
    months = []
    for number in range(1, 13):
        here = tuple(w.number for w in planned if w.planned_for and w.planned_for.month == number)
        middle = date(year, number, 15)
        months.append(Month(dated(middle, "%b"), str(season_of(middle, hemisphere)), here))
    return months


def map_of(trial: Trial, units: list[Unit], hidden: bool, donors: Mapping[int, str]) -> list[TrayView]:
    """The drawn bench; arms as stakes, or codes only while they are hidden. ``donors`` by unit."""

    def cell(unit: Unit) -> Cell:
        what = "" if hidden else _(", arm {letter}: {name}", letter=unit.arm.letter, name=unit.arm.name)
        groups = "".join(f", {g.name}" for g in unit.groupings)
        donor = donors.get(unit.id, "")
        groups += _(", from {donor}", donor=donor) if donor else ""
        place, code = unit.place, spaced(unit.code)
        label = _(
            "{code}, row {row} column {column}{groups}{what}",
            code=code,
            row=place.row,
            column=place.column,
            groups=groups,
            what=what,
        )
        group = next((g.name for g in unit.groupings if g.kind in PARTED), "")
        letter = "" if hidden else unit.arm.letter
        return Cell(
            place.row, place.column, unit.id, label, letter=letter, group=short_group(group), code=code, donor=donor
        )

    return tray_views(trial.trays, units, cell, blocks_of, cell_size([t.columns for t in trial.trays]))


def lid_words(units: list[Unit]) -> list[str]:
    """What the lids over several places do to the comparison."""
    under = [(g.name, unit.arm.letter) for unit in units for g in unit.groupings if g.kind == "lid"]
    return said_of(lids_of(under))


def stands_words(trial: Trial, units: Sequence[Unit]) -> str:
    """What it stands in: ``3 trays of cells, 4 x 8; 2 jars``."""
    places = {(unit.place.tray_id, unit.place.row, unit.place.column) for unit in units}
    return "; ".join(in_numbers(standing_of(trial, places)))


def unit_words(plan: Plan) -> list[tuple[str, list[str]]]:
    """What a unit is and how many replicates that makes over all waves, with the letters of the arms it holds for."""
    found: dict[str, list[str]] = {}
    for arm in plan.treatments.arms:
        units, per_unit = plan.units_of(arm) * len(plan.waves_of(arm)), plan.per_unit(arm)
        what = _("{per_unit} cuttings together", per_unit=per_unit) if per_unit > 1 else _("one cutting each")
        found.setdefault(_("{what}, {units:replicate|replicates}", what=what, units=units), []).append(arm.id)
    return list(found.items())


def wave_numbers(values: Mapping[str, str]) -> range:
    """Numbers of the waves that a form asks for; one where it says nothing readable."""
    typed = sent_number(values.get("waves", "").strip())
    return range(1, 2) if typed is None else range(1, 1 + min(MOST_WAVES, typed))
