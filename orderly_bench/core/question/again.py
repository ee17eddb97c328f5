"""The next trial from this one: the same question and arms, open again, with what was counted as its guesses."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import all_of
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.plan import edit
from orderly_bench.core.plan.separable import Mend
from orderly_bench.core.plan.table import Table, mended, table_of, treatments_of
from orderly_bench.core.plan.treatments import MOST_PER_ARM, MOST_WAVES
from orderly_bench.core.plan.value import Plan

LONGEST_PLANT = 120


@dataclass(frozen=True)
class Otherwise:
    """What the next trial has otherwise.

    Attributes
    ----------
    more_units : int
        Units more for each arm, in one wave.
    plant : str
        Another plant to ask the same of; blank for the same.
    second_waves : bool
        Each wave once more, so that what lay in one occasion can be told from it.
    missing_arm : bool
        With the arms that were missing to tell apart what could not be.
    """

    more_units: int = 0
    plant: str = ""
    second_waves: bool = False
    missing_arm: bool = False


SAME = Otherwise()


def missing_arms(plan: Plan) -> tuple[Table, Mend] | None:
    """The fewest arms whose adding alone tells apart what could not be, with the table they go into; None where none is missing."""
    table = table_of(plan.treatments)
    separation = table.separation()
    mends = [one for one in separation.mends if one.added and not one.make_same] if separation else []
    return (table, mends[0]) if mends else None


def missing_words(plan: Plan) -> str:
    """What those arms are; blank where none is missing."""
    found = missing_arms(plan)
    if found is None:
        return ""
    table, mend = found
    varying = {str(i) for i, line in enumerate(table.lines) if len({*line.values[: table.arms]} - {""}) > 1}
    return all_of([" + ".join(value for i, value in arm.items() if value and i in varying) for arm in mend.add_arms])


def _with_missing(plan: Plan) -> Plan:
    """The plan with those arms, each that was there as it was; what travelled is asked, too."""
    found = missing_arms(plan)
    if found is None:
        raise InvalidInput("arms", _("none is missing: what is asked can be told apart"))
    before, (table, mend) = plan.treatments, found
    travelled = table.travelling()
    whole = mended(table, mend)
    lines = tuple(
        replace(line, asked=line.asked or there in travelled)
        for line, there in zip(whole.lines, table.lines, strict=True)
    )
    treatments = treatments_of(replace(whole, lines=lines), before)
    earlier = edit.earlier_arms(before, treatments)
    own = {letter: plan.container_of(arm) for letter, arm in earlier.items()}
    made = replace(plan, treatments=edit.with_numbers_of(treatments, earlier))
    return edit.with_containers(made, plan.design.container, own)


def again(plan: Plan, code: str, other: Otherwise = SAME, rates: Mapping[str, float] | None = None) -> Plan:
    """A plan to be asked, drawn and locked anew.

    What belongs to the one before is left behind: its draw, its pieces and days, why it was locked all the same, arms given up.

    Parameters
    ----------
    code : str
        Of the new trial.
    other : Otherwise
    rates : mapping of letter to float, optional
        What each arm came to, as a share: the guess of the next, unless it is of another plant.

    Raises
    ------
    InvalidInput
        More than an arm or a season may hold, or a name too long.
    """
    plan = _with_missing(plan) if other.missing_arm else plan
    design, more_units, plant = plan.design, other.more_units, " ".join(other.plant.split())
    if len(plant) > LONGEST_PLANT:
        raise InvalidInput("another plant", _("keep it within {most} characters", most=LONGEST_PLANT), plant[:40])
    waves = tuple(replace(wave, planned_for=None) for wave in plan.schedule.waves)
    if other.second_waves:
        waves += tuple(replace(wave, number=wave.number + len(waves)) for wave in waves)
        if len(waves) > MOST_WAVES:
            raise InvalidInput("waves", _("a trial holds {most} at most", most=MOST_WAVES), len(waves))
    asked = replace(plan.question, anyway="", wanted_by=None)
    if plant and plant.casefold() != asked.botanical_name.casefold():
        asked, rates = replace(asked, botanical_name=plant, cultivar="", source="", known=(), book=()), None
    per_arm = design.cuttings_per_arm + more_units * design.cuttings_per_unit
    if not more_units >= 0 or per_arm > MOST_PER_ARM:
        raise InvalidInput("more units", _("an arm holds {most} cuttings at most", most=MOST_PER_ARM), more_units)
    arms = tuple(
        replace(
            arm,
            abandoned="",
            units=None if arm.units is None else arm.units + more_units,
            guess=(rates or {}).get(arm.id, arm.guess)
            if asked.botanical_name == plan.question.botanical_name
            else None,
        )
        for arm in plan.treatments.arms
    )
    return replace(
        plan,
        code=code,
        question=asked,
        treatments=replace(plan.treatments, arms=arms),
        design=replace(design, cuttings_per_arm=per_arm, pieces=()),
        schedule=replace(plan.schedule, waves=waves),
        draws=(),
        units=(),
        departures=(),
    )
