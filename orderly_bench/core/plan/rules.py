"""Rules of the question: factors and levels, days, margin, prediction."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import product

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.methods.looks import MOST_LOOKS
from orderly_bench.core.plan.aspects import AspectKind

MOST_FACTORS = 4
MOST_LEVELS = 8
MOST_ARMS = 24
LONGEST_LEVEL = 60


def check_levels(factor: str, levels: Sequence[str]) -> list[str]:
    """Levels as they will be kept: trimmed, at least two, no two alike.

    Raises
    ------
    InvalidInput
        Names the factor and the level that breaks a rule.
    """
    kept = [level.strip() for level in levels if level.strip()]
    if not 2 <= len(kept) <= MOST_LEVELS:
        raise InvalidInput(
            f"levels of {factor}",
            _("give 2 to {most_levels} levels, one on each line", most_levels=MOST_LEVELS),
            len(kept),
        )
    seen: dict[str, str] = {}
    for level in kept:
        if len(level) > LONGEST_LEVEL:
            raise InvalidInput(
                f"levels of {factor}",
                _("keep a level within {longest_level} characters", longest_level=LONGEST_LEVEL),
                level,
            )
        key = " ".join(level.casefold().split())
        if key in seen:
            raise InvalidInput(
                f"levels of {factor}",
                _("{seen!r} stands twice; every level needs its own name", seen=seen[key]),
                level,
            )
        seen[key] = level
    return kept


def check_factors(factors: Sequence[tuple[str, str, Sequence[str]]]) -> list[tuple[AspectKind, str, list[str]]]:
    """Factors as (kind, name, levels); one to four, with different names.

    Raises
    ------
    InvalidInput
        No factor, too many, two of one name, or an unknown kind.
    """
    if not 1 <= len(factors) <= MOST_FACTORS:
        raise InvalidInput(
            "factors", _("name 1 to {most_factors} things to vary", most_factors=MOST_FACTORS), len(factors)
        )
    kept: list[tuple[AspectKind, str, list[str]]] = []
    for kind, name, levels in factors:
        if kind not in list(AspectKind):
            raise InvalidInput("kind of factor", _("choose one of {names}", names=", ".join(AspectKind)), kind)
        clean = name.strip() or str(kind)
        if len(clean) > LONGEST_LEVEL:
            raise InvalidInput(
                "name of the factor",
                _("keep it within {longest_level} characters", longest_level=LONGEST_LEVEL),
                clean,
            )
        if clean.casefold() in {other.casefold() for _, other, _ in kept}:
            raise InvalidInput("factors", _("two factors have the same name; give each its own"), clean)
        kept.append((AspectKind(kind), clean, check_levels(clean, levels)))
    return kept


def combinations_of(levels: Sequence[Sequence[str]]) -> list[tuple[str, ...]]:
    """Every combination of levels, the first factor slowest.

    Raises
    ------
    InvalidInput
        More than 24 arms.
    """
    arms = list(product(*levels))
    if len(arms) > MOST_ARMS:
        raise InvalidInput(
            "arms", _("{most_arms} is the most one trial holds; take fewer levels", most_arms=MOST_ARMS), len(arms)
        )
    return arms


def endpoint_window_days(day: int) -> int:
    """Days either side within which the endpoint check still counts as on its day: 10 %, rounded down."""
    return day // 10


def check_death(dead_from_day: int | None, endpoint_day: int) -> None:
    """The earliest day anything may be called dead lies before the endpoint, or on it."""
    if dead_from_day is not None and dead_from_day > endpoint_day:
        rule = _("must be between 1 and the endpoint day, {endpoint_day}", endpoint_day=endpoint_day)
        raise InvalidInput("called dead from day", rule, dead_from_day)


def check_left_alone(left_alone_until: int | None, endpoint_day: int) -> None:
    """What is left alone until a day is still looked at in the end."""
    if left_alone_until is not None and left_alone_until > endpoint_day:
        rule = _("must be between 1 and the endpoint day, {endpoint_day}", endpoint_day=endpoint_day)
        raise InvalidInput("left alone until day", rule, left_alone_until)


def check_planned_looks(days: Sequence[int], check_days: Sequence[int]) -> None:
    """The arms are compared early on days on which they are looked at anyway."""
    lacking = [day for day in days if day not in check_days]
    if lacking:
        rule = _("must be among the looks before the end, {names}", names=", ".join(map(str, check_days)) or _("none"))
        raise InvalidInput("arms compared before the end", rule, ", ".join(map(str, lacking)))
    if len(days) >= MOST_LOOKS:
        raise InvalidInput("arms compared before the end", _("at most {n} times", n=MOST_LOOKS - 1), len(days))


def check_ranking(ranking: Sequence[str], arms: Sequence[str]) -> list[str]:
    """A predicted order of all arms, best first; none at all is *no opinion*.

    Raises
    ------
    InvalidInput
        An arm twice, missing or unknown.
    """
    if ranking and sorted(ranking) != sorted(arms):
        raise InvalidInput("prediction", _("rank every arm once, best first"), ", ".join(ranking) or "nothing")
    return list(ranking)
