"""What every response answers when its trial is read: what is averaged and drawn again, how big, its model, its words.

How a response is read from a score or a cell lies in ``core/responses``; this is the same response over the observations. The
defaults are those of a number on every cutting; a file beside this one says what is different in each. What reads a trial asks
the response and knows none of them by name.
"""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Callable
from functools import cached_property
from typing import ClassVar, NamedTuple, Self

import numpy as np

from orderly_bench.core.cautions import Caution
from orderly_bench.core.layouts.drawn import Drawn
from orderly_bench.core.layouts.frame import Frame
from orderly_bench.core.layouts.from_rows import layout_of
from orderly_bench.core.layouts.layout import NO_MODEL, Layout
from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.methods import permutation
from orderly_bench.core.methods.classical import Classical
from orderly_bench.core.methods.difference import Difference
from orderly_bench.core.methods.linear import ArmFit
from orderly_bench.core.methods.logistic import ModelTest
from orderly_bench.core.methods.randomisation import RandomisationTest
from orderly_bench.core.methods.rates import Interval
from orderly_bench.core.observations.table import Observations
from orderly_bench.core.randomise.shuffled import ShuffledWithin
from orderly_bench.core.responses.added import Added, DaysApart, Numbers
from orderly_bench.core.responses.kind import Kind, Response
from orderly_bench.core.responses.registry import kind_of

#: The effect of one side against another at any level of confidence.
Effect = Callable[[float], Difference]


class OfArm(NamedTuple):
    """One arm on its own: its estimate, the interval of that, and what the response adds."""

    estimate: float | None
    interval: Interval | None
    added: Added


class Outcomes(ABC):
    """One response over one set of observations; models are fitted once.

    Attributes
    ----------
    estimate_is : str
        What an arm's estimate is, in words, with ``{n}`` for its cuttings.
    average_is : str
        What stands for an arm's cuttings in a sentence.
    pooled : bool
        Its mean over the cuttings of a unit does not depend on the other arms, so that a trend can be permuted.
    averages_differ : bool
        What stands for an arm's cuttings can be taken from another's.
    """

    estimate_is: ClassVar[str] = N_("mean of {n:cutting|cuttings}")
    average_is: ClassVar[str] = "mean"
    pooled: ClassVar[bool] = True
    averages_differ: ClassVar[bool] = True

    def __init__(self, observations: Observations, response: Response) -> None:
        self.o, self.response = observations, response

    @property
    def kind(self) -> Kind:
        """How the response is read, and its scale."""
        return kind_of(self.response)

    @property
    def layout(self) -> Layout:
        """The layout of the trial."""
        return layout_of(self.o)

    def over(self, observations: Observations) -> Self:
        """The same response over other observations."""
        return type(self)(observations, self.response)

    def of(self, arm: int) -> np.ndarray:
        """Known values of one arm."""
        values: np.ndarray = self.o.responses[self.o.arm_of_known == arm]
        return values

    # What is drawn again

    @cached_property
    def values(self) -> np.ndarray:
        """What is averaged over each thing that was drawn, one for every known cutting."""
        return self.o.responses

    @property
    def ready(self) -> bool:
        """Whether there is enough to test anything."""
        return True

    def unit_scores(self, drawn: Drawn) -> np.ndarray:
        """What is permuted: one value for each thing that was drawn, the mean of its cuttings' values."""
        return drawn.means(self.values)

    def redrawn(self, drawn: Drawn, layout: ShuffledWithin, rng: np.random.Generator, draws: int) -> RandomisationTest:
        """What was drawn, permuted as it was."""
        return permutation.test(self.unit_scores(drawn), layout, rng, draws)

    # How big

    @abstractmethod
    def effect(self, frame: Frame, a: int, b: int) -> Effect:
        """The effect of side a against side b in the strata of their test."""

    def effect_for_same(self, frame: Frame, a: int, b: int) -> Effect:
        """The effect whose interval *practically the same* and *not worse* are held against."""
        return self.effect(frame, a, b)

    def adjusted(self, frame: Frame, a: int, b: int) -> tuple[float, float] | None:
        """Both sides adjusted for where they stood: means over the strata, least-squares means where those are modelled.

        As counted where nothing parts them; None where no stratum holds both.
        """
        values = self.o.responses
        if frame.modelled:
            fitted = frame.fit(frame.means(values))
            return (fitted.mean(a), fitted.mean(b)) if fitted.estimable[a, b] else None
        if frame.stratified:
            return frame.stratum_means(frame.means(values), a, b)
        label, known = frame.label[frame.unit_of_rows], values[frame.rows]
        first, second = (known[label == side] for side in (a, b))
        return (float(first.mean()), float(second.mean())) if first.size and second.size else None

    def unit_values(self, frame: Frame) -> np.ndarray:
        """One value for each unit of a frame, that its strata are held against."""
        return frame.means(self.o.responses)

    def _fit(self, frame: Frame) -> ArmFit:
        """The linear model of the unit means of a frame, fitted once."""
        kept: dict[int, tuple[Frame, ArmFit]] = self.__dict__.setdefault("_fitted", {})
        if id(frame) not in kept:
            kept[id(frame)] = frame, frame.fit(frame.means(self.o.responses))
        return kept[id(frame)][1]

    def alone(self, arm: int, level: float, exact: bool) -> OfArm:
        """Mean per cutting, t interval over unit means, and the mean of those above 0 (described only)."""
        from scipy.special import stdtrit

        values, replicates = self.of(arm), self.layout.replicates
        units = replicates.mean[replicates.arm == arm]
        above = values[values > 0]
        interval = None
        if units.size > 1 and units.std(ddof=1) > 0:
            half = float(stdtrit(units.size - 1, 0.5 + level / 2) * units.std(ddof=1) / np.sqrt(units.size))
            most = self.kind.ends[1] if self.kind.ends else float("inf")
            interval = Interval(max(0.0, float(units.mean()) - half), min(most, float(units.mean()) + half), level)
        return OfArm(float(values.mean()), interval, Numbers(float(above.mean()) if above.size else None))

    def average(self, arm: int) -> float | None:
        """What stands for an arm's known cuttings in a sentence; None where their counts do."""
        return float(self.of(arm).mean())

    # What stands beside

    def days(self, a: int, b: int, tested: bool) -> DaysApart | None:
        """What days to root add to a pair of arms; ``tested`` is false where they are described only. None else."""
        return None

    def untold(self, a: int, b: int) -> list[str]:
        """Codes of what keeps two arms from being told apart at all."""
        return []

    def model(self, smaller: np.ndarray, larger: np.ndarray) -> ModelTest:
        """What the columns of ``larger`` add to those of ``smaller``, each shape (arms, columns) with an intercept first."""
        return NO_MODEL

    def textbook(self, test: RandomisationTest) -> dict[str, Classical]:
        """The classical tests, by name; ``test`` is the overall one. By rank, unless the response knows better."""
        from orderly_bench.core.methods import classical

        o = self.o
        if not self.layout.tables:
            return {}
        if o.blocks:
            return {"van_elteren": classical.van_elteren(o.responses, o.arm_of_known, o.stratum_of_known)}
        found = {"kruskal": classical.kruskal(o.responses, o.arm_of_known)}
        if len(o.arms) == 2:
            found["wilcoxon"] = classical.wilcoxon(self.of(0), self.of(1))
        return found

    @property
    def theta(self) -> float | None:
        """Dispersion of the model of a number; None for everything else."""
        return None

    def doubts_of_margin(self, margin: float | None) -> list[Caution]:
        """What is doubtful of the margin, seen beside the response."""
        return []

    def doubts(self) -> list[Caution]:
        """What is doubtful of this response alone."""
        return []


def whole_design(smaller: np.ndarray, larger: np.ndarray) -> bool:
    """Whether the columns ask if all arms are alike."""
    return bool(smaller.shape[1] == 1 and larger.shape[1] == larger.shape[0])
