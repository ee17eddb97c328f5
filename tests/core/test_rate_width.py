"""How sure a rate would be at the numbers planned."""

from __future__ import annotations

from dataclasses import replace
from math import sqrt

import pytest

from orderly_bench.core.plan.question import TrialKind
from orderly_bench.core.plan.treatments import ArmPlan, Treatments
from orderly_bench.core.plan.value import Plan, PlannedWave
from orderly_bench.core.rehearse.rate_width import rate_width


def planned(guess: float | None, per_arm: int = 24, per_unit: int = 1, icc: float | None = None) -> Plan:
    plan = Plan("r")
    return replace(
        plan,
        question=replace(plan.question, kind=TrialKind.RATE),
        treatments=Treatments(arms=(ArmPlan("A", guess=guess),)),
        design=replace(plan.design, cuttings_per_arm=per_arm, cuttings_per_unit=per_unit, assumed_icc=icc),
    )


def by_hand(p: float, n: float) -> tuple[float, float]:
    """Wilson (1927) as the textbooks print it."""
    z = 1.959963985
    middle, half = p + z * z / (2 * n), z * sqrt(p * (1 - p) / n + z * z / (4 * n * n))
    return (middle - half) / (1 + z * z / n), (middle + half) / (1 + z * z / n)


@pytest.mark.parametrize(
    ("plan", "worth"),
    [
        (planned(0.6), 24.0),
        (planned(0.6, 24, 4, 0.5), 9.6),
        (planned(0.6, 24, 4), 15.0),
        (replace(planned(0.6), schedule=replace(Plan("r").schedule, waves=(PlannedWave(1), PlannedWave(2)))), 48.0),
    ],
)
def test_the_interval_is_that_of_so_many_standing_alone(plan: Plan, worth: float) -> None:
    found = rate_width(plan)
    assert found is not None and found.rate == 0.6 and found.worth == pytest.approx(worth)
    assert (found.interval.low, found.interval.high) == pytest.approx(by_hand(0.6, worth), abs=1e-6)


def test_nothing_is_said_without_a_guess_from_one_unit_or_of_a_test() -> None:
    test = replace(planned(0.6), question=Plan("r").question)
    assert [rate_width(p) for p in (planned(None), planned(0.6, 12, 12), test)] == [None, None, None]
