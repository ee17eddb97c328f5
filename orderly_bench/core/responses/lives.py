"""Days to root as read: what happened to every cutting at which check, and what looks on different days leave open."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from orderly_bench.core.methods.time_to_root import Lives, incidence
from orderly_bench.core.observations.table import Observations, Row


def lives_of(observations: Observations) -> Lives:
    """Cuttings of the observations, events at the check that found them."""
    rows = observations.known
    days = {d for row in rows for d in (row.last_without_day, row.first_with_day) if d is not None and d > 0}
    checks = np.array(sorted(days))
    kinds = np.array([("rooted", "dead", "censored").index(row.outcome) for row in rows])
    at = np.array([_place(row, checks) for row in rows])
    return Lives(checks, kinds, at)


def looked_apart(observations: Observations, a: int, b: int) -> float | None:
    """A day on which one arm was looked at while the other, not yet settled, was not; None when there is none.

    An arm was looked at on the days its rows name. A day it does not name is known to be missed only where one of its cuttings
    went unseen from before that day until after it.
    """
    rows = [[row for row in observations.known if row.levels == observations.arms[arm]] for arm in (a, b)]
    looked = [{d for row in of for d in (row.last_without_day, row.first_with_day) if d} for of in rows]
    for one, other in ((0, 1), (1, 0)):
        for day in sorted(looked[one] - looked[other]):
            if any(
                (row.last_without_day or 0.0) < day < row.first_with_day
                for row in rows[other]
                if row.first_with_day is not None
            ):
                return day
    return None


def _place(row: Row, checks: np.ndarray) -> int:
    """Index of the check of the event, or of the last check a censored cutting was followed to."""
    if row.outcome == "censored":
        return int(np.searchsorted(checks, row.last_without_day or 0.0, side="right")) - 1
    return int(np.searchsorted(checks, row.first_with_day or 0.0))


def possible_gap(observations: Observations, a: int, b: int) -> tuple[float, float]:
    """Ends of the difference of mean rooted-days of two arms, by the first and the last day on which each cutting could have rooted.

    The first is the day after the last look without roots, the last that of the look that found them. The low end has arm a at
    its last days and arm b at its first, the high end the reverse; both run to the last check of all.
    """
    horizon = float(lives_of(observations).checks[-1])
    first_a, first_b = (_area_of(observations, arm, True, horizon) for arm in (a, b))
    last_a, last_b = (_area_of(observations, arm, False, horizon) for arm in (a, b))
    return last_a - first_b, first_a - last_b


def _area_of(observations: Observations, arm: int, first: bool, horizon: float) -> float:
    """Mean rooted-days of one arm up to a day."""
    alone = observations.only([arm])
    rows = tuple(_at_first(row) for row in alone.rows) if first else alone.rows
    lives = lives_of(replace(alone, rows=rows))
    if not lives.checks.size:
        return 0.0
    cumulative = incidence(lives.categories().sum(axis=0), lives.checks.size)
    return float(cumulative @ np.diff(np.append(lives.checks, horizon)))


def _at_first(row: Row) -> Row:
    """The same cutting, found on the first day on which it could have been."""
    if row.outcome != "rooted" or row.first_with_day is None:
        return row
    return replace(row, first_with_day=min(row.first_with_day, (row.last_without_day or 0.0) + 1.0))
