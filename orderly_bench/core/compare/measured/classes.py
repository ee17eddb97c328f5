"""Root numbers in classes: ordered as grades are, with a middle class and no mean."""

from __future__ import annotations

import numpy as np

from orderly_bench.core.compare.arms import Classed
from orderly_bench.core.compare.measured.grades import Grades
from orderly_bench.core.compare.measured.measured import OfArm
from orderly_bench.core.messages.words import word


class Classes(Grades):
    """By the least number of each class."""

    average_is = word("middle class from")

    def _middle(self, arm: int) -> float:
        values = np.sort(self.of(arm))
        return float(values[(values.size - 1) // 2])

    def alone(self, arm: int, level: float, exact: bool) -> OfArm:
        """Cuttings by least root number of their class, and the class of the middle one."""
        values = self.of(arm).astype(int)
        counts = {str(floor): int((values == floor).sum()) for floor in np.unique(values).tolist()}
        return OfArm(None, None, Classed(counts, int(self._middle(arm))))

    def average(self, arm: int) -> float | None:
        """The middle class."""
        return self._middle(arm)
