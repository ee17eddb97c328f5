"""How often a plan would find what is guessed: power of its own layout, unit, response and test.

The layout is drawn, the guesses make many trials, and each is judged by the primary comparison with its family (Casagrande, Pike &
Smith 1978, Appl Stat 27:176, by enumeration for two arms of single cuttings; else by simulation).
"""

from __future__ import annotations

from dataclasses import dataclass
from math import sqrt

import numpy as np

from orderly_bench.core.layouts.from_rows import layout_of
from orderly_bench.core.methods.many import DRAWS
from orderly_bench.core.methods.two_arms import pair_power
from orderly_bench.core.rehearse.blank_trial import BlankTrial
from orderly_bench.core.rehearse.family import Compared, Family
from orderly_bench.core.rehearse.outcomes import Guess, simulated
from orderly_bench.core.responses.kind import Response

TRIALS = 1_000
#: Trials worked on at once.
BATCH = 500


@dataclass(frozen=True)
class Chance:
    """Share of trials in which one comparison is found.

    Attributes
    ----------
    a, b : str
    guessed : float
        The difference of the guesses, a less b, over the arms on each side.
    share : float
    mc_error : float
        Standard error of the share; 0 where every outcome is counted.
    trials : int
        0 where every outcome is counted.
    """

    a: str
    b: str
    guessed: float
    share: float
    mc_error: float
    trials: int


def guessed_gap(one: Compared, values: np.ndarray) -> float:
    """Difference of the mean guesses on both sides, shape of ``values``: (arms,) in the observations' order."""
    return float(values[list(one.first)].mean() - values[list(one.second)].mean())


def chances(
    blank: BlankTrial,
    family: Family,
    guess: Guess,
    alpha: float,
    trials: int,
    rng: np.random.Generator,
    draws: int = DRAWS,
) -> list[Chance]:
    """Of every comparison of the family, in its order.

    Parameters
    ----------
    blank : BlankTrial
    family : Family
        Of the blank's observations.
    guess : Guess
        A value for each arm of ``blank.order``.
    """
    o = blank.observations
    by_arm = np.empty(len(o.arms))
    by_arm[o.arm_of_known] = np.array(guess.values, dtype=float)[blank.arm]
    gaps = [guessed_gap(one, by_arm) for one in family.compared]
    if _counted_out(blank, family, guess):
        n = np.bincount(o.arm_of_known)
        share = pair_power(float(by_arm[0]), int(n[0]), float(by_arm[1]), int(n[1]), alpha)
        return [Chance(family.compared[0].a, family.compared[0].b, gaps[0], share, 0.0, 0)]
    hits = np.zeros(len(family.compared))
    done = 0
    while done < trials:
        batch = min(BATCH, trials - done)
        values = simulated(guess, blank.arm, blank.unit, batch, rng)
        hits += (family.p_values(values, guess.response, rng, draws) < alpha).sum(axis=0)
        done += batch
    return [
        Chance(one.a, one.b, gap, float(hit / trials), sqrt(hit / trials * (1 - hit / trials) / trials), trials)
        for one, gap, hit in zip(family.compared, gaps, hits, strict=True)
    ]


def _counted_out(blank: BlankTrial, family: Family, guess: Guess) -> bool:
    """Two arms of single cuttings over the whole bench."""
    o = blank.observations
    single = blank.unit.size == int(blank.unit.max()) + 1
    return layout_of(o).counted_out and len(o.arms) == 2 and single and guess.response is Response.ROOTED
