"""Facade of the chapter: analyse one response of a trial laid out in any of the layouts."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from itertools import product

import numpy as np

from orderly_bench.core.cautions import Caution
from orderly_bench.core.compare import max_t
from orderly_bench.core.compare import terms as factorial
from orderly_bench.core.compare.arms import ArmResult, arm_results, unknown_results
from orderly_bench.core.compare.clusters import Cluster, cluster_of
from orderly_bench.core.compare.comparisons import Comparison, chosen_pairs, compare_family
from orderly_bench.core.compare.doubts import doubts_about, doubts_about_doses
from orderly_bench.core.compare.laid_out.layout import NO_MODEL
from orderly_bench.core.compare.layout_tests import factor_test, overall_tests
from orderly_bench.core.compare.letters import compact_letters
from orderly_bench.core.compare.logistic import ModelTest
from orderly_bench.core.compare.main_effects import Levels, by_factors, level_ends, level_pairs
from orderly_bench.core.compare.measured import measured
from orderly_bench.core.compare.observations import JOINER, NOT_STUCK, Observations
from orderly_bench.core.compare.one_arm_blocks import SetAside, set_aside
from orderly_bench.core.compare.pairs import pair_ends, pair_evidence, tested
from orderly_bench.core.compare.second_opinion import model_test, term_model
from orderly_bench.core.compare.starts import Beside, Start, doubts_about_starts, starts_apart
from orderly_bench.core.compare.trend import Trend, trend
from orderly_bench.core.compare.verdict import Rule
from orderly_bench.core.compare.what_was_drawn import for_all_arms
from orderly_bench.core.errors import InvalidInput, UnusableData
from orderly_bench.core.messages.words import tell
from orderly_bench.core.randomise.randomisation import NOTHING_RANDOMISED, RandomisationTest
from orderly_bench.core.randomise.redrawn import Pairs
from orderly_bench.core.randomise.shuffled import ShuffledWithin
from orderly_bench.core.responses.kind import Response
from orderly_bench.core.responses.registry import kind_of


@dataclass(frozen=True)
class Settings:
    """What the researcher fixed beforehand.

    Attributes
    ----------
    alpha : float
    margin : float or None
        Smallest difference that matters, in the unit of the response's estimate.
    draws, seed : int
        Monte Carlo draws and the seed they start from.
    control : tuple of str or None
        Level values of the control arm.
    against_control : bool
        The family is each arm against the control instead of all pairs.
    interval : str
        ``wilson`` or ``clopper-pearson`` for the rates.
    response : Response
    dose : str or None
        The factor whose levels are strengths, for its trend.
    look : bool
        A look, to see what to test: counts, and nothing that could be taken for a verdict.
    not_worse : bool
        Each first side is also judged for being no worse than the second by more than the margin; planned beforehand only.
    properties : tuple of str
        Factors that are properties of the pieces: a sentence about them speaks of these pieces.
    max_t : bool
        Against the control: adjust by the studentised maximum over the redraws instead of by Holm.
    by_factor : bool
        Whether the headline speaks of factors where they can be told apart, or of pairs of arms; fixed in the plan.
    """

    alpha: float = 0.05
    margin: float | None = None
    draws: int = 20_000
    seed: int = 1
    control: tuple[str, ...] | None = None
    against_control: bool = False
    interval: str = "wilson"
    response: Response = Response.ROOTED
    dose: str | None = None
    look: bool = False
    not_worse: bool = False
    max_t: bool = False
    by_factor: bool = True
    properties: tuple[str, ...] = ()

    def __post_init__(self) -> None:
        if not 0 < self.alpha < 0.5:
            raise InvalidInput("alpha", tell("must lie above 0 and below 0.5"), self.alpha)
        if not 1 <= self.draws <= 2_000_000:
            raise InvalidInput("draws", tell("must lie between 1 and 2000000"), self.draws)
        if self.seed < 0:
            raise InvalidInput("seed", tell("must be 0 or more"), self.seed)
        if self.against_control and self.control is None:
            raise InvalidInput("control", tell("name the control arm when the family is 'control'"))
        if self.max_t and not self.against_control:
            raise InvalidInput("max-T", tell("is for each arm against the control; name the control and that family"))
        if self.not_worse and self.margin is None:
            raise InvalidInput("not worse than", tell("needs a margin: by how much is worse"))
        self.rule()

    def rule(self) -> Rule:
        """The verdict's rule on the response's own scale, for a family of one."""
        kind = kind_of(self.response)
        low, high = kind.inside(self.margin) or (None, None)
        return Rule(self.alpha, 1, kind.nothing, low, high)


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
class Analysis:
    """Everything Compare shows, with the inputs it came from.

    ``observations`` are those compared; ``aside`` tells of the blocks that hold one arm and take no part.
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
    aside: SetAside
    starts: list[Start] = field(default_factory=list)

    @property
    def blocked(self) -> bool:
        """Whether the units were laid out in blocks."""
        return bool(self.observations.blocks)

    @property
    def cuttings(self) -> int:
        """All that were stuck: compared, in blocks set aside, in arms of which nothing is known."""
        compared = sum(row.state != NOT_STUCK for row in self.observations.rows)
        return compared + self.aside.cuttings + sum(arm.left_out for arm in self.arms if not arm.stuck)


def analyse(observations: Observations, settings: Settings) -> Analysis:
    """Analyse one response.

    Parameters
    ----------
    observations : Observations
        At least two arms. One without a known outcome is counted and stands in no comparison; beside it at least one has some.
    settings : Settings

    Notes
    -----
    Edge cases: none or all rooted everywhere gives p = 1 and no model; an arm at 0 or 100 % gets Firth's fit instead of the
    ordinary logistic one; a block lacking an arm makes the layout incomplete blocks; one wave per season, or one unit per arm,
    gives no p; a block that holds one arm only is set aside first.
    """
    told = observations.told()
    aside = set_aside(told)
    kept = aside.kept
    _control_index(observations, settings)
    if settings.control in [observations.arms[a] for a in observations.unknown_arms]:
        raise UnusableData(
            tell("the control {names} has no cutting with a known outcome", names=JOINER.join(settings.control or ())),
            tell("Score it, or compare the other arms with one another"),
        )
    nothing = _nothing_tested(observations, settings, aside)
    work = _Work(kept, settings, nothing)
    test, model, redrawn = work.overall()
    comparisons = work.comparisons(test, redrawn)
    terms, trends = work.terms(), work.trends()
    starts = starts_apart(kept)
    if starts and not nothing:
        comparisons, terms = work.same_start(starts, comparisons, terms)
    arms = arm_results(
        measured(told, settings.response), 1 - settings.alpha, settings.interval == "clopper-pearson", not settings.look
    )
    arms += unknown_results(observations)
    return Analysis(
        kept,
        settings,
        kept.layout.title,
        arms,
        test,
        model,
        terms,
        comparisons,
        _letters(arms, comparisons, settings),
        _cluster(kept, settings),
        [
            *doubts_about(observations, told, aside, settings, test, model, comparisons, terms),
            *doubts_about_doses(trends),
            *doubts_about_starts(starts, [*(c for t in terms for c in t.contrasts), *comparisons]),
        ],
        trends,
        aside,
        starts,
    )


def judged(observations: Observations, settings: Settings) -> list[Comparison]:
    """The comparisons of the headline alone, as ``analyse`` makes them: levels of the factors, or pairs of arms.

    Without models, doubts and whatever else stands beside: for trials that are simulated by the thousand.
    """
    aside = set_aside(observations.told())
    work = _Work(aside.kept, settings, _nothing_tested(observations, settings, aside), bare=True)
    if settings.by_factor and kind_of(settings.response).yes_no and len(aside.kept.factors) > 1:
        contrasts = work.contrasts({})
        if contrasts:
            return [comparison for _, comparison in contrasts]
    return work.comparisons(*work.tests())


def _nothing_tested(observations: Observations, settings: Settings, aside: SetAside) -> str:
    """Code of what forbids every test; blank when there is nothing."""
    if settings.look:
        return "look"
    if len(aside.kept.arms) < 2:
        return "nothing_known"
    if aside.nothing_left:
        return "block_is_arm"
    beyond = float(observations.share_left_out.max()) > kind_of(settings.response).described_beyond
    return "described_only" if beyond else ""


def _cluster(observations: Observations, settings: Settings) -> Cluster:
    if settings.look or not kind_of(settings.response).yes_no:
        return Cluster(None, None)
    return cluster_of(observations.units, observations.responses, len(observations.arms))


def _control_index(observations: Observations, settings: Settings) -> int | None:
    if settings.control is None:
        return None
    if settings.control not in observations.arms:
        raise InvalidInput(
            "control",
            tell("must be one of the arms: {names}", names="; ".join(observations.names)),
            JOINER.join(settings.control),
        )
    return observations.arms.index(settings.control)


class _Work:
    """One analysis being worked out.

    Parameters
    ----------
    observations : Observations
    settings : Settings
    nothing : str
        Code of what forbids every test.
    bare : bool
        The comparisons alone, without what stands beside them.

    Notes
    -----
    The ends of the unknown draw from a stream of their own, so that a lost record never moves another figure.
    """

    def __init__(self, observations: Observations, settings: Settings, nothing: str, bare: bool = False) -> None:
        self.bare = bare
        self.o, self.settings, self.nothing = observations, settings, nothing
        self.measured = measured(observations, settings.response)
        self.rng = np.random.default_rng(settings.seed)
        self.apart = np.random.default_rng([settings.seed, 1])

    def tests(self) -> tuple[RandomisationTest, Pairs]:
        """The test of all arms, and of the pairs that share its redraws."""
        if self.nothing:
            return NOTHING_RANDOMISED, {}
        return overall_tests(self.measured, self.rng, self.settings.draws)

    def overall(self) -> tuple[RandomisationTest, ModelTest, Pairs]:
        """All arms alike?"""
        test, redrawn = self.tests()
        if self.nothing:
            return test, NO_MODEL, redrawn
        arms = len(self.o.arms)
        coded = np.column_stack([np.ones(arms), np.eye(arms)[:, 1:]])
        return test, model_test(self.measured, coded[:, :1], coded), redrawn

    def comparisons(self, overall: RandomisationTest, redrawn: Pairs) -> list[Comparison]:
        """Pairs of arms: the family as planned."""
        s = self.settings
        if s.look:
            return []
        control = _control_index(self.o, s)
        chosen = chosen_pairs(len(self.o.arms), control if s.against_control else None)
        pairs, ends = [], {}
        for a, b in chosen:
            test = NOTHING_RANDOMISED
            if not self.nothing:
                test = tested(self.measured, a, b, overall, redrawn, self.rng, s.draws)
            pairs.append(pair_evidence(self.measured, a, b, test, self.nothing, self.bare))
        for i, (a, b) in enumerate(chosen if not self.nothing else []):
            both = pair_ends(self.measured, a, b, self.apart, s.draws)
            if both is not None:
                ends[i] = both
        return compare_family(pairs, s.rule(), ends, s.not_worse, self._joint(chosen))

    def _joint(self, chosen: list[tuple[int, int]]) -> list[float] | None:
        """Adjusted p by the studentised maximum, where planned: every arm against the control, shuffled within blocks."""
        control = _control_index(self.o, self.settings)
        if not self.settings.max_t or self.nothing or control is None:
            return None
        drawn = for_all_arms(self.o)
        if drawn is None or not isinstance(drawn.layout, ShuffledWithin):
            return None
        means = drawn.means(self.measured.values)
        found = max_t.adjusted(means, drawn.layout, control, self.rng, self.settings.draws)
        return [found[a] for a, _ in chosen]

    def terms(self) -> list[TermResult]:
        """Main effects and interactions; of a yes or no with the contrasts of their levels."""
        s, factors = self.settings, len(self.o.factors)
        if s.look or (factors < 2 and not self.o.layout.one_factor_is_term):
            return []
        results = []
        for term in factorial.all_terms(factors):
            name = ":".join(self.o.factors[f] for f in term)
            test = None
            if len(term) == 1:
                test = NOTHING_RANDOMISED if self.nothing else factor_test(self.measured, term[0], self.rng, s.draws)
            model = NO_MODEL if self.nothing else term_model(self.measured, term)
            results.append(TermResult(name, tuple(self.o.factors[f] for f in term), test, model))
        if self.nothing or not kind_of(s.response).yes_no:
            return results
        contrasts = self.contrasts({r.name: r.test for r in results if r.test is not None})
        return [replace(r, contrasts=[c for factor, c in contrasts if factor == r.name]) for r in results]

    def contrasts(self, tests: dict[str, RandomisationTest]) -> list[tuple[str, Comparison]]:
        """Differences between the levels of every factor that can be told from the others, one family.

        ``tests`` holds the main effects that were worked out already.
        """
        s, chosen = self.settings, level_pairs(self.o)
        levels = Levels(self.measured, self.rng, s.draws)
        pairs, ends = [], {}
        for f, a, b in chosen:
            only = tests.get(self.o.factors[f]) if len(self.o.level_names[f]) == 2 else None
            pairs.append(levels.evidence(f, a, b, only))
        for i, pair in enumerate(chosen):
            both = level_ends(self.measured, pair, self.apart, s.draws)
            if both is not None:
                ends[i] = both
        compared = compare_family(pairs, s.rule(), ends, s.not_worse)
        return [(self.o.factors[f], c) for (f, _, _), c in zip(chosen, compared, strict=True)]

    def same_start(
        self, starts: list[Start], comparisons: list[Comparison], terms: list[TermResult]
    ) -> tuple[list[Comparison], list[TermResult]]:
        """Beside each comparison the one with the start in the model."""
        s = self.settings
        beside = Beside(self.measured, starts, s.rule(), np.random.default_rng([s.seed, 4]), s.draws)
        judged = beside.of_levels([(t.name, c) for t in terms for c in t.contrasts])
        again = [replace(t, contrasts=[c for factor, c in judged if factor == t.name]) for t in terms]
        return beside.of_arms(comparisons), again

    def trends(self) -> dict[str, Trend]:
        """The trend of the factor that is a dose."""
        s = self.settings
        if s.dose is None or self.nothing:
            return {}
        if s.dose not in self.o.factors:
            raise InvalidInput(
                "dose", tell("must be one of the factors: {names}", names=", ".join(self.o.factors)), s.dose
            )
        return {s.dose: trend(self.measured, self.o.factors.index(s.dose), self.rng, s.draws, s.alpha)}


def _letters(arms: list[ArmResult], comparisons: list[Comparison], settings: Settings) -> dict[str, str]:
    """Letters, highest first; empty when pairs of arms are left uncompared or without a p."""
    arms = [arm for arm in arms if arm.stuck]
    if len(arms) < 2 or len(comparisons) < len(arms) * (len(arms) - 1) // 2 or any(c.p is None for c in comparisons):
        return {}
    order = [arm.name for arm in sorted(arms, key=lambda arm: -(arm.estimate or 0.0))]
    told_apart = {
        frozenset((c.a.name, c.b.name))
        for c in comparisons
        if c.p_adjusted is not None and c.p_adjusted < settings.alpha
    }
    return compact_letters(order, told_apart)


def marginal_arms(analysis: Analysis, factors: tuple[int, ...]) -> list[ArmResult]:
    """Results by the combinations of some of the factors, over the levels of the others; described, not compared."""
    o, s = analysis.observations, analysis.settings
    if len(factors) == len(o.factors):
        return analysis.arms
    return arm_results(measured(by_factors(o, factors), s.response), 1 - s.alpha, s.interval == "clopper-pearson")


def is_full_factorial(observations: Observations) -> bool:
    """Whether every combination of levels is an arm."""
    return len(observations.arms) == len(list(product(*observations.level_names)))
