"""Root number over time: each cutting's line, the mean of each arm by check, and the area under it with its randomisation test.

The area is by trapezoids from sticking, when there were none, in root-days; a cutting that was not counted at a check is joined
straight over it, and one not counted at the last check has no area (unknown is unknown).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.methods import permutation
from orderly_bench.core.methods.randomisation import RandomisationTest
from orderly_bench.core.randomise.shuffled import ShuffledWithin

#: Share of an arm that must be counted for its mean to be one.
LEAST_COUNTED = 0.8


@dataclass(frozen=True)
class Described:
    """What was measured of every cutting by check, and the arms' means; nothing of it is tested.

    Attributes
    ----------
    days : ndarray of float, shape (checks,)
    counts : ndarray of float, shape (cuttings, checks)
        Not a number where it was not measured.
    arm : ndarray of int, shape (cuttings,)
    mean : ndarray of float, shape (arms, checks)
        Of those measured; not a number where over a fifth of the arm was not.
    """

    days: np.ndarray
    counts: np.ndarray
    arm: np.ndarray
    mean: np.ndarray


def described(values: np.ndarray, days: np.ndarray, arm: np.ndarray, arms: int) -> Described:
    """A measure of every cutting by check, described; shapes as in ``Described``."""
    return Described(days, values, arm, _means(values, arm, arms)[0])


def _means(values: np.ndarray, arm: np.ndarray, arms: int) -> tuple[np.ndarray, np.ndarray]:
    """The arms' means by check, and how many they are of."""
    seen = ~np.isnan(values)
    counted = np.stack([seen[arm == a].sum(axis=0) for a in range(arms)])
    totals = np.stack([np.where(seen, values, 0.0)[arm == a].sum(axis=0) for a in range(arms)])
    enough = (counted > 0) & (counted >= LEAST_COUNTED * np.bincount(arm, minlength=arms)[:, None])
    return np.where(enough, totals / np.maximum(1, counted), np.nan), counted


@dataclass(frozen=True)
class NumberOverTime:
    """Root number by check.

    Attributes
    ----------
    days : ndarray of float, shape (checks,)
    mean : ndarray of float, shape (arms, checks)
        Of those counted; not a number where over a fifth of the arm was not counted, for those that show no root are counted
        first, which figures leave as a gap.
    counted : ndarray of int, shape (arms, checks)
    area : ndarray of float, shape (cuttings,)
        Root-days of each cutting with one; not a number for the others.
    mean_area : list of float or None
        By arm.
    test : RandomisationTest
        Of the areas, as drawn.
    counts, arm : ndarray
        What it was made from.
    """

    days: np.ndarray
    mean: np.ndarray
    counted: np.ndarray
    area: np.ndarray
    mean_area: list[float | None]
    test: RandomisationTest
    counts: np.ndarray
    arm: np.ndarray


def over_time(
    counts: np.ndarray,
    days: np.ndarray,
    arm: np.ndarray,
    members: list[list[int]],
    stratum: np.ndarray,
    rng: np.random.Generator,
    draws: int,
    arms: int | None = None,
) -> NumberOverTime:
    """Root number of every cutting at every check.

    Parameters
    ----------
    counts : ndarray of float, shape (cuttings, checks)
        Not a number where not counted.
    days : ndarray of float, shape (checks,)
        Days after sticking, rising.
    arm : ndarray of int, shape (cuttings,)
    members : list of list of int
        Cuttings of each unit.
    stratum : ndarray of int, shape (units,)
        Block of each unit.
    arms : int, optional
        How many there are; one of which nothing was stuck has no mean. Left out, as many as ``arm`` names.

    Raises
    ------
    InvalidInput
        Days that do not rise from above 0.
    """
    if days.size < 1 or days[0] <= 0 or (np.diff(days) <= 0).any():
        raise InvalidInput("days", _("must rise, the first after sticking"), days.tolist())
    arms = int(arm.max()) + 1 if arms is None else arms
    mean, counted = _means(counts, arm, arms)
    area = np.array([_area(row, days) for row in counts])
    known = ~np.isnan(area)
    mean_area = [float(area[known & (arm == a)].mean()) if (known & (arm == a)).any() else None for a in range(arms)]
    test = _test(area, arm, members, stratum, rng, draws)
    return NumberOverTime(days, mean, counted, area, mean_area, test, counts, arm)


def _area(row: np.ndarray, days: np.ndarray) -> float:
    """Trapezoids from 0 at sticking to the last check; not a number when that was not counted."""
    seen = ~np.isnan(row)
    if not seen[-1]:
        return float("nan")
    return float(np.trapezoid(np.concatenate([[0.0], row[seen]]), np.concatenate([[0.0], days[seen]])))


def _test(
    area: np.ndarray,
    arm: np.ndarray,
    members: list[list[int]],
    stratum: np.ndarray,
    rng: np.random.Generator,
    draws: int,
) -> RandomisationTest:
    kept = [(unit, [i for i in inside if not np.isnan(area[i])]) for unit, inside in enumerate(members)]
    kept = [(unit, inside) for unit, inside in kept if inside]
    labels = np.array([arm[inside[0]] for _, inside in kept], dtype=int)
    if np.unique(labels).size < 2:
        return RandomisationTest(None, True, None, None)
    means = np.array([area[inside].mean() for _, inside in kept])
    labels = np.unique(labels, return_inverse=True)[1]
    strata = np.unique(stratum[[unit for unit, _ in kept]], return_inverse=True)[1]
    return permutation.test(means, ShuffledWithin(labels, strata), rng, draws)
