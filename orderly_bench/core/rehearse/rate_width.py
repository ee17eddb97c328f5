"""What so many cuttings would say of a rate that comes out as guessed."""

from __future__ import annotations

from typing import NamedTuple

from orderly_bench.core.methods.rates import Interval, wilson
from orderly_bench.core.plan.question import TrialKind
from orderly_bench.core.plan.value import Plan
from orderly_bench.core.rehearse.curve import effective

#: How alike cuttings of one container are taken to be where nobody said.
USUAL_ICC = 0.2


class RateWidth(NamedTuple):
    """The guessed rate, the interval that the cuttings planned would give, and how many single cuttings they are worth."""

    rate: float
    interval: Interval
    worth: float


def rate_width(plan: Plan) -> RateWidth | None:
    """The interval of a rate at the numbers planned; None without a guess, of another kind of trial, or from one unit.

    Wilson (1927) on effective counts, n / (1 + (m - 1) ICC) (Kish 1965, *Survey Sampling*, ch. 5), with m cuttings to a unit.
    """
    arm = next(iter(plan.treatments.arms), None)
    if plan.question.kind is not TrialKind.RATE or arm is None or arm.guess is None:
        return None
    units, each = plan.units_of(arm) * len(plan.waves_of(arm)), plan.per_unit(arm)
    if units < 2:
        return None
    icc = plan.design.assumed_icc if plan.design.assumed_icc is not None else USUAL_ICC
    worth = effective(units * each, each, icc)
    interval = wilson(arm.guess * worth, worth)
    return None if interval is None else RateWidth(arm.guess, interval, worth)
