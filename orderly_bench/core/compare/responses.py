"""The responses: what is analysed, in which unit its margin is, and what decides between two arms."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from orderly_bench.core.compare.verdict import Rule
from orderly_bench.core.errors import InvalidInput


class Response(StrEnum):
    """What was scored."""

    ROOTED = "rooted"
    FIT = "fit_to_pot_on"
    ALIVE = "alive"
    ROOT_COUNT = "root_count"
    LONGEST = "longest_root_mm"
    QUALITY = "quality"
    ROOT_CLASS = "root_class"
    DAYS = "days_to_root"

    @property
    def binary(self) -> bool:
        """Yes or no."""
        return self in (Response.ROOTED, Response.FIT, Response.ALIVE)

    @property
    def ordinal(self) -> bool:
        """Ordered grades, compared by rank: quality, or root numbers in classes."""
        return self in (Response.QUALITY, Response.ROOT_CLASS)


@dataclass(frozen=True)
class Scale:
    """What no difference is on the scale of the estimate, and what the estimate is called."""

    nothing: float
    estimate: str


SCALES = {
    Response.ROOTED: Scale(0.0, "difference of rates"),
    Response.FIT: Scale(0.0, "difference of rates"),
    Response.ALIVE: Scale(0.0, "difference of rates"),
    Response.ROOT_COUNT: Scale(1.0, "ratio of means"),
    Response.LONGEST: Scale(0.0, "shift in mm"),
    Response.QUALITY: Scale(0.5, "probability of superiority"),
    Response.ROOT_CLASS: Scale(0.5, "probability of superiority"),
    Response.DAYS: Scale(0.0, "difference of rooted-days"),
}


def rule_for(response: Response, alpha: float, margin: float | None) -> Rule:
    """The verdict's rule on the response's own scale.

    Raises
    ------
    InvalidInput
        A margin that is none on that scale: points as a proportion below 1; a ratio above 1; mm or days above 0; a distance
        from one half below 0.5.
    """
    nothing = SCALES[response].nothing
    if margin is None:
        return Rule(alpha, 1, nothing)
    if response.binary:
        _require(0 < margin < 1, "must lie above 0 and below 1, such as 0.15 for 15 points", margin)
        return Rule(alpha, 1, nothing, -margin, margin)
    if response is Response.ROOT_COUNT:
        _require(margin > 1, "is a ratio of means here: above 1, such as 1.25", margin)
        return Rule(alpha, 1, nothing, 1 / margin, margin)
    if response.ordinal:
        _require(0 < margin < 0.5, "is a distance from one half here: above 0 and below 0.5", margin)
        return Rule(alpha, 1, nothing, 0.5 - margin, 0.5 + margin)
    _require(0 < margin < 1e6, "must be above 0, in the unit of the response", margin)
    return Rule(alpha, 1, nothing, -margin, margin)


def _require(holds: bool, rule: str, value: float) -> None:
    if not holds:
        raise InvalidInput("margin", rule, value)
