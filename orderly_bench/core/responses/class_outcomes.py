"""Root numbers in classes: ordered as grades are, with a middle class and no mean."""

from __future__ import annotations

import numpy as np

from orderly_bench.core.layouts.frame import Frame
from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.responses.added import Classed
from orderly_bench.core.responses.grade_outcomes import GradeOutcomes
from orderly_bench.core.responses.outcomes import OfArm


class ClassOutcomes(GradeOutcomes):
    """By the least number of each class."""

    average_is = N_("middle class from")
    averages_differ = False

    def alone(self, arm: int, level: float, exact: bool) -> OfArm:
        """Cuttings by least root number of their class, and the class of the middle one."""
        values = self.of(arm).astype(int)
        counts = {str(floor): int((values == floor).sum()) for floor in np.unique(values).tolist()}
        return OfArm(None, None, Classed(counts, int(_middle(values))))

    def average(self, arm: int) -> float | None:
        """The middle class."""
        return _middle(self.of(arm))

    def adjusted(self, frame: Frame, a: int, b: int) -> tuple[float, float] | None:
        """The middle classes as counted: classes have no means that could be adjusted."""
        label, values = frame.label[frame.unit_of_rows], self.o.responses[frame.rows]
        return _middle(values[label == a]), _middle(values[label == b])


def _middle(values: np.ndarray) -> float:
    return float(np.sort(values)[(values.size - 1) // 2])
