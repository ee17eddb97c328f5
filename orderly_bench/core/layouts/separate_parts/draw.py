"""Parts that no block joins: each drawn by itself."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from orderly_bench.core.randomise.drawn_layout import DrawnLayout


@dataclass(frozen=True)
class Part:
    """Units of one part, the arms that stand in it, and its own layout, whose arms are numbered within the part."""

    units: np.ndarray
    arms: np.ndarray
    layout: DrawnLayout


@dataclass(frozen=True)
class Separate:
    """Blocks in parts that share no arm.

    Attributes
    ----------
    arm, block : ndarray of int, shape (units,)
    parts : tuple of Part
    """

    arm: np.ndarray
    block: np.ndarray
    parts: tuple[Part, ...]

    def assignments(self) -> int:
        """Those of the parts, multiplied."""
        found = 1
        for part in self.parts:
            found *= part.layout.assignments()
        return found

    def every(self) -> np.ndarray | None:
        """Not listed."""
        return None

    def unlabelled(self) -> np.ndarray | None:
        """Not listed."""
        return None

    def redraw(self, rng: np.random.Generator, draws: int) -> np.ndarray:
        """Arm indices of ``draws`` fresh draws, shape (draws, units)."""
        drawn = np.empty((draws, self.arm.size), dtype=np.intp)
        for part in self.parts:
            drawn[:, part.units] = part.arms[part.layout.redraw(rng, draws)]
        return drawn

    def groups(self) -> dict[str, np.ndarray]:
        """The blocks."""
        return {"block": self.block}
