"""What a response adds to an arm or to a pair of arms."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Numbers:
    """Of a number, a length or a grade: its mean among those above 0, described only; None where there are none."""

    mean_per_rooted: float | None


@dataclass(frozen=True)
class Classed:
    """Of root numbers in classes: cuttings by the least number of their class, and the class of the middle one."""

    by_floor: dict[str, int]
    median_floor: int


@dataclass(frozen=True)
class Curve:
    """Of days to root: the cumulative proportion rooted by day, the day by which half had, and the area; None not reached."""

    incidence: dict[str, float]
    median_day: float | None
    area: float | None


#: What a response adds to an arm; None where its rate says it all.
Added = Numbers | Classed | Curve | None


@dataclass(frozen=True)
class DaysApart:
    """What days to root add to two arms.

    Attributes
    ----------
    hazard : tuple of (ratio, low, high) or None
        Cause-specific hazard of the first over the second; None without a finite fit, or where they are described only.
    possible : tuple of (low, high) or None
        Ends of the gap by first and last possible days; None where both were looked at on the same days.
    """

    hazard: tuple[float, float, float] | None
    possible: tuple[float, float] | None
