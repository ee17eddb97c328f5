"""A layout: the object that draws a trial is the one that redraws it for the test.

Fisher (1935), *The Design of Experiments*: the p-value comes from repeating the draw that laid the trial out. A layout knows
what was randomised and nothing about responses. Each has a file of its own, with the draw that makes it from a request; how a
trial laid out so is read afterwards lies in its folder in ``core/layouts``.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Protocol

import numpy as np

from orderly_bench.core.vocabulary import LayoutKind


class DrawnLayout(Protocol):
    """What was drawn, and how to draw it again.

    Attributes
    ----------
    arm : ndarray of int, shape (units,)
        Arm index of each unit as drawn.
    block : ndarray of int, shape (units,)
        Group inside which units are compared; 0 throughout where there is none.
    """

    @property
    def arm(self) -> np.ndarray:
        """Arm index of each unit as drawn."""

    @property
    def block(self) -> np.ndarray:
        """Group of each unit."""

    def assignments(self) -> int:
        """How many different outcomes the draw could have had, or the ways to reach them."""

    def every(self) -> np.ndarray | None:
        """All assignments, equally likely, shape (assignments, units); None where they are not listed."""

    def unlabelled(self) -> np.ndarray | None:
        """All assignments with each set of them that differ in the arms' names alone given once; None where not listed."""

    def redraw(self, rng: np.random.Generator, draws: int) -> np.ndarray:
        """Arm indices of ``draws`` fresh draws, shape (draws, units)."""

    def groups(self) -> dict[str, np.ndarray]:
        """Typed groupings of the units: ``block``, ``pair``, ``row``, ``column``, ``whole plot``; each shape (units,)."""


@dataclass(frozen=True)
class Request:
    """What is to be drawn.

    Attributes
    ----------
    kind : LayoutKind
    arms : int
    units_per_arm : int
        Experimental units of each arm over the whole trial.
    blocks : int
        Complete or incomplete blocks; whole plots over all levels in a split-plot; else 1.
    block_size : int
        Units of an incomplete block.
    whole : tuple of tuple of int
        For a split-plot: arm indices by level of the whole-plot factor, each in the order of the combinations inside.
    unequal : tuple of int
        Units of each arm where they differ; only completely randomised or in blocks. ``units_per_arm`` is then the least.
    """

    kind: LayoutKind
    arms: int
    units_per_arm: int
    blocks: int = 1
    block_size: int = 0
    whole: tuple[tuple[int, ...], ...] = ()
    unequal: tuple[int, ...] = ()

    @property
    def units(self) -> tuple[int, ...]:
        """Units of each arm."""
        return self.unequal or (self.units_per_arm,) * self.arms
