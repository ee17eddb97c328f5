"""What every layout answers before its trial: its traits and words, what it holds, how it is drawn, when it is proposed.

The defaults are those of a layout whose numbers hang together; a folder's ``planned.py`` says what is different in each. What
plans a trial asks the layout and knows none of them by name.
"""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Callable
from dataclasses import dataclass, replace
from fractions import Fraction
from typing import ClassVar

import numpy as np

from orderly_bench.core.layouts.reach import Reach, of_redraw
from orderly_bench.core.randomise.drawn_layout import DrawnLayout, Request
from orderly_bench.core.vocabulary import LayoutKind


@dataclass(frozen=True)
class Numbers:
    """How many of a plan: cuttings of an arm and of a unit, blocks or whole plots, units of an incomplete block."""

    per_arm: int
    per_unit: int = 1
    blocks: int = 1
    block_size: int = 0


@dataclass(frozen=True)
class Answers:
    """What the four questions about the bench were answered, and what is aimed at.

    Attributes
    ----------
    arms, wanted, per_unit : int
        Arms, units aimed at in each, cuttings in one.
    gradient_ways : int
        Ways in which the bench differs.
    pieces_by : str
        What two pieces share: ``stem``, ``place`` on it, or nothing.
    alike_at_most : int
        Units that stand alike in one place; 0 where all do.
    on_trays, levels : str, int
        What stands on whole trays and how many levels of it are used, where other factors stand inside; blank and 0 for nothing.
    needed : float
        The p that one comparison must reach to be clear, whatever the others come to.
    can : callable
        Whether a layout can be drawn with these numbers.
    convinces : callable
        Whether a comparison of the verdict could come out clear in a layout with these numbers.
    stands, blocks : LayoutKind, int
        How it is laid out by now, with its blocks or whole plots, which are then kept; None and 0 where it is not.
    """

    arms: int
    wanted: int
    per_unit: int
    gradient_ways: int
    pieces_by: str
    alike_at_most: int
    on_trays: str
    levels: int
    needed: float
    can: Callable[[LayoutKind, Numbers], bool]
    convinces: Callable[[LayoutKind, Numbers], bool]
    stands: LayoutKind | None = None
    blocks: int = 0

    @property
    def differ(self) -> bool:
        """Whether the bench or the pieces are expected to differ."""
        return bool(self.gradient_ways or self.pieces_by)


@dataclass(frozen=True)
class Suited:
    """Numbers a layout proposes, and why."""

    numbers: Numbers
    reason: str


class Planned(ABC):
    """One layout before its trial.

    Attributes
    ----------
    kind : LayoutKind
    redraws : str
        What the test will repeat, in words.
    stratified : bool
        Something groups the units.
    shuffles_units : bool
        Units are shuffled one by one, over the bench or inside blocks that hold every arm: arms may have different numbers, and
        waves may belong to seasons.
    any_number : bool
        An arm may have any number that its strata divide, so the layout can be repeated in several waves.
    names_blocks : bool
        Blocks can be plants, days or people.
    counts_blocks : bool
        How many blocks, or whole plots, is the researcher's.
    part_blocks, whole_plots : bool
        Blocks hold some of the arms; one factor stands on whole plots.
    paired : bool
        Two cuttings of one line of pieces stand together.
    keeps_empty_places : bool
        A place that stayed empty is kept, so that the layout is whole.
    """

    kind: ClassVar[LayoutKind]
    redraws: ClassVar[str]
    stratified: ClassVar[bool] = True
    shuffles_units: ClassVar[bool] = False
    any_number: ClassVar[bool] = False
    names_blocks: ClassVar[bool] = False
    counts_blocks: ClassVar[bool] = False
    part_blocks: ClassVar[bool] = False
    whole_plots: ClassVar[bool] = False
    paired: ClassVar[bool] = False
    keeps_empty_places: ClassVar[bool] = False

    @abstractmethod
    def where(self, numbers: Numbers, gradient: str) -> str:
        """Where the arms stand, in words that follow a number: ``in 4 blocks``."""

    @abstractmethod
    def made_by(self, groups: set[str], complete: bool) -> bool:
        """Whether units with groups of these kinds stand so; ``complete`` where every block holds every arm."""

    @abstractmethod
    def proposal(self, answers: Answers) -> Suited | None:
        """What is proposed to these answers; None where another layout is."""

    @abstractmethod
    def draw(self, request: Request, rng: np.random.Generator) -> DrawnLayout:
        """Draw it.

        Raises
        ------
        InvalidInput
            What it can't hold.
        """

    def reach(self, request: Request) -> Reach:
        """The smallest p it can reach."""
        rng = np.random.default_rng(0)
        return of_redraw(request, self.draw(request, rng), rng)

    def strata(self, blocks: int) -> int:
        """Groups that hold every arm and that its units divide over, of so many blocks."""
        return blocks if self.counts_blocks else 1

    def over_waves(self, request: Request, waves: int) -> Request:
        """What several waves of it come to, each a block or several."""
        return replace(
            request,
            units_per_arm=request.units_per_arm * waves,
            blocks=request.blocks * waves,
            unequal=tuple(units * waves for units in request.unequal),
        )

    def resized(self, numbers: Numbers, arms: int, times: Fraction) -> Numbers | None:
        """Numbers so many times as large, or as near as it holds; None where there are none."""
        blocks, units = numbers.blocks * times, Fraction(numbers.per_arm, numbers.per_unit) * times
        if blocks.denominator > 1 or units.denominator > 1:
            return None
        return replace(numbers, blocks=int(blocks), per_arm=int(units) * numbers.per_unit)
