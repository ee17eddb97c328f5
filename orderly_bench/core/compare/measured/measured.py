"""What every response answers when its trial is read: what is averaged and drawn again, how big, its model, its words.

How a response is read from a score or a cell lies in ``core/responses``; this is the same response over the observations. The
defaults are those of a number on every cutting; a file beside this one says what is different in each. What reads a trial asks
the response and knows none of them by name.
"""

from __future__ import annotations

from abc import ABC, abstractmethod
from functools import cached_property
from typing import TYPE_CHECKING, ClassVar, NamedTuple, Self

import numpy as np

from orderly_bench.core.cautions import Caution
from orderly_bench.core.compare.arms import Added, Numbers
from orderly_bench.core.compare.classical import Classical
from orderly_bench.core.compare.comparisons import DaysApart
from orderly_bench.core.compare.laid_out.drawn import Drawn
from orderly_bench.core.compare.laid_out.layout import NO_MODEL
from orderly_bench.core.compare.logistic import ModelTest
from orderly_bench.core.compare.rate_effects import Effect
from orderly_bench.core.compare.rates import Interval
from orderly_bench.core.messages.words import word
from orderly_bench.core.randomise import permutation
from orderly_bench.core.randomise.randomisation import RandomisationTest
from orderly_bench.core.randomise.shuffled import ShuffledWithin
from orderly_bench.core.responses.kind import Kind, Response
from orderly_bench.core.responses.registry import kind_of

if TYPE_CHECKING:
    from orderly_bench.core.compare.observations import Observations


class OfArm(NamedTuple):
    """One arm on its own: its estimate, the interval of that, and what the response adds."""

    estimate: float | None
    interval: Interval | None
    added: Added


class Measured(ABC):
    """One response over one set of observations; models are fitted once.

    Attributes
    ----------
    estimate_is : str
        What an arm's estimate is, in words, with ``{n}`` for its cuttings.
    average_is : str
        What stands for an arm's cuttings in a sentence.
    pooled : bool
        Its mean over the cuttings of a unit does not depend on the other arms, so that a trend can be permuted.
    """

    estimate_is: ClassVar[str] = word("mean of {n} cuttings")
    average_is: ClassVar[str] = "mean"
    pooled: ClassVar[bool] = True

    def __init__(self, observations: Observations, response: Response) -> None:
        self.o, self.response = observations, response

    @property
    def kind(self) -> Kind:
        """How the response is read, and its scale."""
        return kind_of(self.response)

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

    def redrawn(self, drawn: Drawn, layout: ShuffledWithin, rng: np.random.Generator, draws: int) -> RandomisationTest:
        """The means of what was drawn, permuted as they were."""
        return permutation.test(drawn.means(self.values), layout, rng, draws)

    # How big

    @abstractmethod
    def between(self, a: int, b: int) -> Effect:
        """The effect of arm a against arm b."""

    def adjusted(self, a: int, b: int) -> tuple[float, float] | None:
        """Two rates adjusted for where they stood: their difference is the estimate. None where that has no meaning."""
        return None

    def alone(self, arm: int, level: float, exact: bool) -> OfArm:
        """Mean per cutting, t interval over unit means, and the mean of those above 0 (described only)."""
        from scipy.special import stdtrit

        values, replicates = self.of(arm), self.o.layout.replicates
        units = replicates.mean[replicates.arm == arm]
        above = values[values > 0]
        interval = None
        if units.size > 1 and units.std(ddof=1) > 0:
            half = float(stdtrit(units.size - 1, 0.5 + level / 2) * units.std(ddof=1) / np.sqrt(units.size))
            interval = Interval(max(0.0, float(units.mean()) - half), float(units.mean()) + half, level)
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
        from orderly_bench.core.compare import classical

        o = self.o
        if not o.layout.tables:
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

    def doubts(self) -> list[Caution]:
        """What is doubtful of this response alone."""
        return []


def whole_design(smaller: np.ndarray, larger: np.ndarray) -> bool:
    """Whether the columns ask if all arms are alike."""
    return bool(smaller.shape[1] == 1 and larger.shape[1] == larger.shape[0])
