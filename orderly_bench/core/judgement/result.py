"""What an analysis came to."""

from __future__ import annotations

from dataclasses import dataclass, field

from orderly_bench.core.cautions import Caution
from orderly_bench.core.judgement.arms import ArmResult
from orderly_bench.core.judgement.comparisons import Comparison
from orderly_bench.core.judgement.settings import Settings
from orderly_bench.core.judgement.trend import Trend
from orderly_bench.core.layouts.one_arm_blocks import SetAside
from orderly_bench.core.methods.clusters import Cluster
from orderly_bench.core.methods.logistic import ModelTest
from orderly_bench.core.methods.randomisation import RandomisationTest
from orderly_bench.core.methods.starting_alike import Start
from orderly_bench.core.observations.table import NOT_STUCK, Observations


@dataclass(frozen=True)
class TermResult:
    """A main effect (randomisation test and model) or an interaction (model only)."""

    name: str
    factors: tuple[str, ...]
    test: RandomisationTest | None
    model: ModelTest
    contrasts: list[Comparison] = field(default_factory=list)

    @property
    def p(self) -> float | None:
        """The p that counts: the randomisation's, or the model's for an interaction."""
        return self.test.p if self.test is not None else self.model.p


@dataclass(frozen=True)
class Tested:
    """What was tested: all arms at once, the terms, the comparisons."""

    test: RandomisationTest
    model: ModelTest
    comparisons: list[Comparison]
    terms: list[TermResult]


@dataclass(frozen=True)
class Analysis:
    """Everything Compare shows, with the inputs it came from.

    ``observations`` are those compared; ``excluded`` tells of the blocks that hold one arm and take no part; ``untested`` is the
    code of what forbids every test, blank where tests are made.
    """

    observations: Observations
    settings: Settings
    design: str
    arms: list[ArmResult]
    test: RandomisationTest
    model: ModelTest
    terms: list[TermResult]
    comparisons: list[Comparison]
    letters: dict[str, str]
    cluster: Cluster
    cautions: list[Caution]
    trends: dict[str, Trend]
    excluded: SetAside
    starts: list[Start] = field(default_factory=list)
    untested: str = ""

    @property
    def blocked(self) -> bool:
        """Whether the units were laid out in blocks."""
        return bool(self.observations.blocks)

    @property
    def cuttings(self) -> int:
        """All that were stuck: compared, in blocks set aside, in arms of which nothing is known."""
        compared = sum(row.state != NOT_STUCK for row in self.observations.rows)
        return compared + self.excluded.cuttings + sum(arm.left_out for arm in self.arms if not arm.stuck)


def headline_of(
    observations: Observations, settings: Settings, comparisons: list[Comparison], terms: list[TermResult]
) -> list[Comparison]:
    """The comparisons that the sentence rests on: of the factors where the plan says so and all can be told apart, else of the arms."""
    told = [term for term in terms if term.contrasts]
    return [c for t in told for c in t.contrasts] if led_by_factor(observations, settings, told) else comparisons


def led_by_factor(observations: Observations, settings: Settings, told: list[TermResult]) -> bool:
    """Whether the headline speaks of factors: of a whole factorial, and of a fraction with all factors in its model."""
    if not settings.by_factor or not told or len(observations.factors) < 2:
        return False
    fraction = all("aliased_with_interaction" in c.limits.capped for term in told for c in term.contrasts)
    return fraction or observations.every_combination
