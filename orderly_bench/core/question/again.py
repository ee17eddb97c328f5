"""The next trial from this one: the same question and arms, open again, with what was counted as its guesses."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.words import tell
from orderly_bench.core.plan.treatments import MOST_PER_ARM
from orderly_bench.core.plan.value import Plan


def again(plan: Plan, code: str, more_units: int = 0, rates: Mapping[str, float] | None = None) -> Plan:
    """A plan to be asked, drawn and locked anew.

    What belongs to the one before is left behind: its draw, its pieces and days, why it was locked all the same, arms given up.

    Parameters
    ----------
    code : str
        Of the new trial.
    more_units : int
        Units more for each arm, in one wave.
    rates : mapping of letter to float, optional
        What each arm came to, as a share: the guess of the next.

    Raises
    ------
    InvalidInput
        More than an arm may hold.
    """
    design = plan.design
    per_arm = design.cuttings_per_arm + more_units * design.cuttings_per_unit
    if not more_units >= 0 or per_arm > MOST_PER_ARM:
        raise InvalidInput("more units", tell("an arm holds {most} cuttings at most", most=MOST_PER_ARM), more_units)
    arms = tuple(
        replace(
            arm,
            abandoned="",
            units=None if arm.units is None else arm.units + more_units,
            guess=(rates or {}).get(arm.id, arm.guess),
        )
        for arm in plan.treatments.arms
    )
    return replace(
        plan,
        code=code,
        question=replace(plan.question, anyway="", wanted_by=None),
        treatments=replace(plan.treatments, arms=arms),
        design=replace(design, cuttings_per_arm=per_arm, pieces=()),
        schedule=replace(plan.schedule, waves=tuple(replace(wave, planned_for=None) for wave in plan.schedule.waves)),
        draws=(),
        units=(),
        departures=(),
    )
