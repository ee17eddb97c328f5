"""The draw behind a question: of all arms, of two of them, of a factor. Nothing is permuted that was not laid out so."""

from __future__ import annotations

from orderly_bench.core.compare.laid_out.drawn import Drawn
from orderly_bench.core.compare.observations import Observations


def for_all_arms(observations: Observations) -> Drawn | None:
    """The draw behind the overall test; None when no single draw gave all arms, or nothing was randomised."""
    if any(len(observations.level_names[f]) > 1 for f in observations.not_drawn):
        return None
    return observations.layout.drawn()


def for_pair(observations: Observations, a: int, b: int) -> Drawn | None:
    """The draw behind two arms, on their own units only; None for an arm with a single shared unit, plot or wave."""
    return observations.only([a, b]).layout.drawn_between() if observations.drawn_apart(a, b) else None


def for_factor(observations: Observations, factor: int) -> Drawn | None:
    """The draw behind a main effect; None for a factor that nothing drew."""
    return None if factor in observations.not_drawn else observations.layout.drawn_of(factor)
