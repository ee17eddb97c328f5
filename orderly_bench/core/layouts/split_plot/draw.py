"""Split-plot: one factor drawn over whole plots, the combinations of the others inside each."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.randomise.drawn_layout import Request
from orderly_bench.core.randomise.shuffled import ShuffledWithin


@dataclass(frozen=True)
class SplitPlot:
    """One factor on whole plots, the combinations of the others inside each.

    Attributes
    ----------
    whole, sub, plot : ndarray of int, shape (units,)
        Level of the whole-plot factor, combination of the other levels, and whole plot of each unit.
    arms : ndarray of int, shape (whole levels, sub combinations)
        Arm index of each combination.
    """

    whole: np.ndarray
    sub: np.ndarray
    plot: np.ndarray
    arms: np.ndarray

    @property
    def arm(self) -> np.ndarray:
        """Arm index of each unit as drawn."""
        found: np.ndarray = self.arms[self.whole, self.sub]
        return found

    @property
    def block(self) -> np.ndarray:
        """The whole plot."""
        return self.plot

    @cached_property
    def whole_plots(self) -> ShuffledWithin:
        """The draw of the whole-plot factor: one entry a whole plot."""
        firsts = np.unique(self.plot, return_index=True)[1]
        return ShuffledWithin(self.whole[firsts], np.zeros(firsts.size, dtype=int))

    @property
    def sub_plots(self) -> ShuffledWithin:
        """The draw inside the whole plots."""
        return ShuffledWithin(self.sub, self.plot, "whole plot")

    def assignments(self) -> int:
        """Assignments of whole plots times those inside them."""
        return self.whole_plots.assignments() * self.sub_plots.assignments()

    def every(self) -> np.ndarray | None:
        """Not listed: each factor is tested on its own part of the draw."""
        return None

    def unlabelled(self) -> np.ndarray | None:
        """Not listed either."""
        return None

    def redraw(self, rng: np.random.Generator, draws: int) -> np.ndarray:
        """Arm indices of ``draws`` fresh draws, shape (draws, units)."""
        whole = self.whole_plots.redraw(rng, draws)[:, self.plot]
        found: np.ndarray = self.arms[whole, self.sub_plots.redraw(rng, draws)]
        return found

    def groups(self) -> dict[str, np.ndarray]:
        """The whole plots."""
        return {"whole plot": self.plot}


def draw_in_whole_plots(request: Request, rng: np.random.Generator) -> SplitPlot:
    """Draw whole plots, and inside each."""
    levels, subs = len(request.whole), len(request.whole[0]) if request.whole else 0
    if levels < 2 or subs < 2 or any(len(arms) != subs for arms in request.whole):
        raise InvalidInput("arms", _("a split-plot needs every combination of two or more factors"), request.arms)
    if request.blocks % levels or request.blocks < 2 * levels:
        rule = _(
            "must be a multiple of the {levels} levels of the whole-plot factor, and at least {levels2}",
            levels=levels,
            levels2=2 * levels,
        )
        raise InvalidInput("whole plots", rule, request.blocks)
    plots_per_level = request.blocks // levels
    if request.units_per_arm % plots_per_level:
        fitting = plots_per_level * max(1, round(request.units_per_arm / plots_per_level))
        rule = _(
            "must be a multiple of the {plots_per_level} whole plots of each level; take {fitting}",
            plots_per_level=plots_per_level,
            fitting=fitting,
        )
        raise InvalidInput("units per arm", rule, request.units_per_arm)
    inside = np.repeat(np.arange(subs), request.units_per_arm // plots_per_level)
    plot = np.repeat(np.arange(request.blocks), inside.size)
    whole = rng.permutation(np.repeat(np.arange(levels), plots_per_level))[plot]
    sub = np.concatenate([rng.permutation(inside) for _ in range(request.blocks)])
    return SplitPlot(whole, sub, plot, np.array(request.whole))


def whole_plot_arms(level_of_arm: list[int], combination_inside: list[tuple[int, ...]]) -> tuple[tuple[int, ...], ...]:
    """Arm indices by level of the whole-plot factor, as a split-plot's request wants them.

    Parameters
    ----------
    level_of_arm : list of int
        Level of the whole-plot factor of each arm.
    combination_inside : list of tuple of int
        The other levels of each arm.

    Raises
    ------
    InvalidInput
        When some level lacks a combination that another has.
    """
    insides = sorted(set(combination_inside))
    place = {key: arm for arm, key in enumerate(zip(level_of_arm, combination_inside, strict=True))}
    levels = sorted(set(level_of_arm))
    if any((level, inside) not in place for level in levels for inside in insides):
        raise InvalidInput("arms", _("a split-plot needs every combination; add the arms left out"), len(level_of_arm))
    return tuple(tuple(place[level, inside] for inside in insides) for level in levels)
