"""Would it be seen? The chance to find what is guessed over how many are stuck, for the plan's own layout, unit, endpoint and test."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction

import numpy as np

from orderly_bench.core.design.propose import holds
from orderly_bench.core.design.simulated_power import needed_per_arm
from orderly_bench.core.errors import InvalidInput, OrderlyError
from orderly_bench.core.layouts.kinds import planned
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.plan.question import Headline
from orderly_bench.core.plan.value import BlocksAre, Plan
from orderly_bench.core.rehearse.blank_trial import BlankTrial, of_plan
from orderly_bench.core.rehearse.chance import Chance, chances
from orderly_bench.core.rehearse.family import Family, family_of
from orderly_bench.core.rehearse.outcomes import Guess
from orderly_bench.core.responses.registry import kind_of

#: Sizes shown, against the one planned.
SIZES = (
    Fraction(1, 4),
    Fraction(1, 2),
    Fraction(3, 4),
    Fraction(1),
    Fraction(3, 2),
    Fraction(2),
    Fraction(5, 2),
    Fraction(3),
    Fraction(5),
    Fraction(8),
    Fraction(12),
)
#: Trials of each pass over the sizes: coarse first.
PASSES = (150, 450, 1_400)
#: Chance to find it that is aimed at.
ENOUGH, MORE = 0.8, 0.9
#: Beyond it no larger size is shown.
SURE = 0.97
MOST_CUTTINGS = 3_000
#: Cuttings per arm up to which the least number is counted out.
MOST_COUNTED = 600


@dataclass(frozen=True)
class Point:
    """One size: cuttings per arm in a wave, and the chance of the greatest and the least difference guessed."""

    per_arm: int
    great: Chance
    least: Chance


def guess_of(plan: Plan) -> Guess | None:
    """The guesses of the plan by arm; from the two rates assumed where arms have none of their own; None without any.

    Two rates: the control, or the arms of the first level asked, come to the first, all others to the second.
    """
    arms, design, asked = plan.treatments.arms, plan.design, plan.question
    own = [arm.guess for arm in arms]
    values: list[float] | None = None
    if arms and all(value is not None for value in own):
        values = [value for value in own if value is not None]
    elif design.assumed_rates is not None and kind_of(asked.response).yes_no and plan.treatments.asked:
        control = next((arm for arm in arms if arm.control), arms[0])
        first = plan.treatments.asked[0].id
        low = [arm.says.get(first) == control.says.get(first) for arm in arms]
        values = [design.assumed_rates[0] if here else design.assumed_rates[1] for here in low]
    if values is None:
        return None
    looks = tuple(float(day) for day in plan.schedule.check_days)
    return Guess(tuple(values), asked.response, design.assumed_icc or 0.0, float(asked.endpoint_day), looks)


def sized(plan: Plan) -> list[Plan]:
    """The plan smaller and larger, as its layout allows; itself among them, the smallest first."""
    found: dict[int, Plan] = {}
    unnamed = replace(plan, design=replace(plan.design, blocks_are=BlocksAre.PLACES, block_names=()))
    for times in SIZES:
        for one in _resized(plan if times == 1 else unnamed, times):
            if (
                one.design.cuttings_per_arm not in found
                and one.cuttings <= max(MOST_CUTTINGS, plan.cuttings)
                and holds(one)
            ):
                found[one.design.cuttings_per_arm] = one
    return [found[n] for n in sorted(found)]


def _resized(plan: Plan, times: Fraction) -> Iterator[Plan]:
    design = plan.design
    if times == 1:
        yield plan
        return
    if any(arm.units for arm in plan.treatments.arms):
        return
    numbers = planned(design.layout).resized(design.numbers, len(plan.treatments.arms), times)
    if numbers is not None:
        yield replace(plan, design=design.with_numbers(numbers))


def blank_trial(plan: Plan) -> tuple[BlankTrial, Family]:
    """The plan on its blank, with the comparisons its headline makes."""
    blank = of_plan(plan, np.random.default_rng(1))
    treatments = plan.treatments
    control = next((treatments.level_names(arm) for arm in treatments.arms if arm.control), None)
    against = control if plan.question.headline is Headline.CONTROL else None
    by_factor = plan.question.headline is Headline.FACTORS
    return blank, family_of(blank.observations, by_factor, against)


def point(plan: Plan, guess: Guess, trials: int, seed: int = 1) -> Point:
    """Chance at the plan's own size.

    Raises
    ------
    InvalidInput
        Guesses that are all alike: there is nothing to find.
    """
    blank, family = blank_trial(plan)
    found = chances(blank, family, guess, plan.question.alpha_left, trials, np.random.default_rng(seed))
    differ = [one for one in found if abs(one.guessed) > 1e-9]
    if not differ:
        raise InvalidInput(
            "guesses", _("are alike in every comparison, so there is no difference to find; guess two that differ")
        )
    ordered = sorted(differ, key=lambda one: abs(one.guessed))
    return Point(plan.design.cuttings_per_arm, ordered[-1], ordered[0])


class Overtaken(Exception):
    """Nobody waits for this any more."""


def _always(_done: int, _all: int) -> bool:
    return True


def curve(plan: Plan, guess: Guess, step: int, go_on: Callable[[int, int], bool] = _always) -> list[Point]:
    """Points of one pass: the first holds the planned size and its neighbours, later ones all sizes with more trials.

    Parameters
    ----------
    go_on : callable
        Asked before every size, with how many of how many are done.

    Raises
    ------
    Overtaken
        When it says no.
    """
    sizes = sized(plan)
    here = next((i for i, one in enumerate(sizes) if one.design.cuttings_per_arm == plan.design.cuttings_per_arm), 0)
    chosen = (
        sizes
        if step
        else [sizes[i] for i in sorted({max(0, here - 2), here, min(len(sizes) - 1, here + 2)})]
        if sizes
        else []
    )
    found = []
    for done, one in enumerate(chosen):
        if not go_on(done, len(chosen)):
            raise Overtaken
        try:
            found.append(point(one, guess, PASSES[min(step, len(PASSES) - 1)], seed=1 + step))
            if one.design.cuttings_per_arm > plan.design.cuttings_per_arm and found[-1].great.share > SURE:
                break
        except OrderlyError:
            if one.design.cuttings_per_arm == plan.design.cuttings_per_arm:
                raise
    return found


def needed(points: Sequence[Point], aim: float, guess: Guess, alpha: float) -> int | None:
    """Cuttings per arm at which the greatest difference reaches a chance; None beyond the last point.

    Counted out where the points were, up to ``MOST_COUNTED``; else read between the points.
    """
    if points and points[0].great.trials == 0:
        return needed_per_arm(min(guess.values), max(guess.values), aim, alpha, MOST_COUNTED)
    shares = np.maximum.accumulate([one.great.share for one in points]) if points else np.array([])
    for i, share in enumerate(shares.tolist()):
        if share >= aim:
            if i == 0:
                return points[0].per_arm
            low, high = shares[i - 1], share
            part = (aim - low) / (high - low)
            return int(np.ceil(points[i - 1].per_arm + part * (points[i].per_arm - points[i - 1].per_arm)))
    return None


def detectable(plan: Plan, guess: Guess, trials: int = 300) -> float | None:
    """The smallest difference above the lowest guess that this design finds 8 times in 10; None where even the most is not.

    The arms guessed highest are raised together, the others stay as guessed. Of shares and grades up to their ends, of the rest up
    to four times the lowest.
    """
    blank, family = blank_trial(plan)
    low, high = min(guess.values), max(guess.values)
    top = (
        {True: 1.0, False: 5.0}[kind_of(guess.response).yes_no]
        if kind_of(guess.response).yes_no or kind_of(guess.response).graded
        else 4 * low
    )
    raised = [value == high and high > low for value in guess.values]
    if not any(raised) or top <= low:
        return None

    def chance(gap: float) -> float:
        values = tuple(low + gap if up else value for up, value in zip(raised, guess.values, strict=True))
        found = chances(
            blank, family, replace(guess, values=values), plan.question.alpha_left, trials, np.random.default_rng(5)
        )
        return max(found, key=lambda one: abs(one.guessed)).share

    if chance(top - low) < ENOUGH:
        return None
    below, enough = 0.0, top - low
    while enough - below > (top - low) / 64:
        middle = (below + enough) / 2
        below, enough = (below, middle) if chance(middle) >= ENOUGH else (middle, enough)
    return enough


def effective(per_arm: int, per_unit: int, icc: float) -> float:
    """How many single cuttings an arm of shared units is worth: n / (1 + (m - 1) ICC) (Kish 1965, *Survey Sampling*, ch. 5)."""
    return per_arm / (1 + (per_unit - 1) * icc)
