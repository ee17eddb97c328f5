"""Facade of the chapter: analyse one response of a trial laid out in any of the layouts."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from functools import cached_property

import numpy as np

from orderly_bench.core.cautions import Caution
from orderly_bench.core.errors import InvalidInput, UnusableData
from orderly_bench.core.judgement.arms import ArmResult, arm_results, unknown_results
from orderly_bench.core.judgement.comparisons import Comparison, Hurdle, PairEvidence, chosen_pairs, compare_family
from orderly_bench.core.judgement.doubts import doubts_about, doubts_about_doses
from orderly_bench.core.judgement.layout_tests import factor_test, overall_tests
from orderly_bench.core.judgement.main_effects import Levels, by_factors, level_ends, level_pairs
from orderly_bench.core.judgement.pairs import pair_ends, pair_evidence, tested
from orderly_bench.core.judgement.second_opinion import model_test, term_model
from orderly_bench.core.judgement.starts import Beside, Start, doubts_about_starts, starts_apart
from orderly_bench.core.judgement.trend import Trend, trend
from orderly_bench.core.judgement.verdict import Rule
from orderly_bench.core.judgement.weighted import doubts_of_sizes, very_unequal, with_weights
from orderly_bench.core.layouts import layout_of
from orderly_bench.core.layouts.draws import for_all_arms
from orderly_bench.core.layouts.layout import NO_MODEL
from orderly_bench.core.layouts.one_arm_blocks import SetAside, set_aside
from orderly_bench.core.messages.words import tell
from orderly_bench.core.methods import max_t
from orderly_bench.core.methods import terms as factorial
from orderly_bench.core.methods.clusters import Cluster, cluster_of
from orderly_bench.core.methods.letters import compact_letters
from orderly_bench.core.methods.logistic import ModelTest
from orderly_bench.core.methods.randomisation import NOTHING_RANDOMISED, RandomisationTest
from orderly_bench.core.methods.redrawn import Pairs
from orderly_bench.core.observations.table import JOINER, NOT_STUCK, Observations
from orderly_bench.core.randomise.shuffled import ShuffledWithin
from orderly_bench.core.responses.kind import Response
from orderly_bench.core.responses.outcomes import Outcomes
from orderly_bench.core.responses.outcomes_of import outcomes_of
from orderly_bench.core.responses.registry import kind_of
from orderly_bench.core.responses.rooting import ROOTING, rooting

#: Unless the plan says another margin for rooting.
ROOTING_MARGIN = 0.15


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
    rooting_margin : float
        Within which rooting must lie for a response of the rooted to be called the same.
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
    rooting_margin: float = ROOTING_MARGIN

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
    if not nothing and not settings.look and very_unequal(work.outcomes):
        beside = np.random.default_rng([settings.seed, 8])
        comparisons = with_weights(work.outcomes, comparisons, beside, settings.draws)
        levels = iter(with_weights(work.outcomes, [c for t in terms for c in t.contrasts], beside, settings.draws))
        terms = [replace(t, contrasts=[next(levels) for _ in t.contrasts]) for t in terms]
    arms = arm_results(
        outcomes_of(told, settings.response),
        1 - settings.alpha,
        settings.interval == "clopper-pearson",
        not settings.look,
    )
    arms += unknown_results(observations)
    return Analysis(
        kept,
        settings,
        layout_of(kept).title,
        arms,
        test,
        model,
        terms,
        comparisons,
        _letters(arms, comparisons, settings),
        _cluster(kept, settings),
        [
            *doubts_about(
                observations,
                told,
                aside,
                settings,
                test,
                model,
                comparisons,
                terms,
                headline_of(kept, settings, comparisons, terms),
            ),
            *doubts_of_sizes(work.outcomes, [*(c for t in terms for c in t.contrasts), *comparisons]),
            *doubts_about_doses(trends),
            *doubts_about_starts(starts, [*(c for t in terms for c in t.contrasts), *comparisons]),
        ],
        trends,
        aside,
        starts,
    )


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


def judged(observations: Observations, settings: Settings) -> list[Comparison]:
    """The comparisons of the headline alone, as ``analyse`` makes them: levels of the factors, or pairs of arms.

    Without models, doubts and whatever else stands beside: for trials that are simulated by the thousand.
    """
    aside = set_aside(observations.told())
    work = _Work(aside.kept, settings, _nothing_tested(observations, settings, aside), bare=True)
    if settings.by_factor and len(aside.kept.factors) > 1:
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
        self.outcomes = outcomes_of(observations, settings.response)
        self.rng = np.random.default_rng(settings.seed)
        self.apart = np.random.default_rng([settings.seed, 1])

    def tests(self) -> tuple[RandomisationTest, Pairs]:
        """The test of all arms, and of the pairs that share its redraws."""
        if self.nothing:
            return NOTHING_RANDOMISED, {}
        return overall_tests(self.outcomes, self.rng, self.settings.draws)

    def overall(self) -> tuple[RandomisationTest, ModelTest, Pairs]:
        """All arms alike?"""
        test, redrawn = self.tests()
        if self.nothing:
            return test, NO_MODEL, redrawn
        arms = len(self.o.arms)
        coded = np.column_stack([np.ones(arms), np.eye(arms)[:, 1:]])
        return test, model_test(self.outcomes, coded[:, :1], coded), redrawn

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
                test = tested(self.outcomes, a, b, overall, redrawn, self.rng, s.draws)
            pairs.append(pair_evidence(self.outcomes, a, b, test, self.nothing, self.bare))
        if self.outcomes.kind.hurdled and not self.nothing:
            pairs = self._hurdled(pairs, self._rooted_pairs(chosen))
        for i, (a, b) in enumerate(chosen if not self.nothing else []):
            both = pair_ends(self.outcomes, a, b, self.apart, s.draws)
            if both is not None:
                ends[i] = both
        return compare_family(pairs, s.rule(), ends, s.not_worse, self._joint(chosen))

    @cached_property
    def _rooted(self) -> Outcomes | None:
        """Whether the same cuttings rooted; None where that can't be had."""
        found = rooting(self.o, self.settings.response)
        return None if found is None else outcomes_of(found, ROOTING)

    def _rooted_pairs(self, chosen: list[tuple[int, int]]) -> list[PairEvidence]:
        """The same pairs of arms by rooting."""
        rooted, draws = self._rooted, self.settings.draws
        if rooted is None:
            return []
        rng = np.random.default_rng([self.settings.seed, 7])
        overall, redrawn = overall_tests(rooted, rng, draws)
        return [
            pair_evidence(rooted, a, b, tested(rooted, a, b, overall, redrawn, rng, draws), bare=True)
            for a, b in chosen
        ]

    def _rooted_levels(self, chosen: list[tuple[int, int, int]]) -> list[PairEvidence]:
        """The same pairs of levels by rooting."""
        if self._rooted is None:
            return []
        rng = np.random.default_rng([self.settings.seed, 7])
        levels = Levels(self._rooted, rng, self.settings.draws)
        tests = {f: factor_test(self._rooted, f, rng, self.settings.draws) for f, _, _ in chosen if self._two(f)}
        return [levels.evidence(f, a, b, tests.get(f)) for f, a, b in chosen]

    def _two(self, factor: int) -> bool:
        return len(self.o.level_names[factor]) == 2

    def _hurdled(self, pairs: list[PairEvidence], rooted: list[PairEvidence]) -> list[PairEvidence]:
        """Each pair with how its sides rooted."""
        if not rooted:
            return [replace(pair, hurdled=True) for pair in pairs]
        margin = self.settings.rooting_margin
        hurdles = [
            Hurdle((c.a.rooted, c.a.stuck), (c.b.rooted, c.b.stuck), c.difference.estimate, c.p_adjusted, margin)
            for c in compare_family(rooted, Rule(self.settings.alpha, 1))
        ]
        return [replace(pair, hurdled=True, hurdle=h) for pair, h in zip(pairs, hurdles, strict=True)]

    def _joint(self, chosen: list[tuple[int, int]]) -> list[float] | None:
        """Adjusted p by the studentised maximum, where planned: every arm against the control, shuffled within blocks."""
        control = _control_index(self.o, self.settings)
        if not self.settings.max_t or self.nothing or control is None:
            return None
        drawn = for_all_arms(self.o)
        if drawn is None or not isinstance(drawn.layout, ShuffledWithin):
            return None
        means = self.outcomes.unit_scores(drawn)
        found = max_t.adjusted(means, drawn.layout, control, self.rng, self.settings.draws)
        return [found[a] for a, _ in chosen]

    def terms(self) -> list[TermResult]:
        """Main effects and interactions, with the contrasts of the levels."""
        s, factors = self.settings, len(self.o.factors)
        if s.look or (factors < 2 and not layout_of(self.o).one_factor_is_term):
            return []
        results = []
        for term in factorial.all_terms(factors):
            name = ":".join(self.o.factors[f] for f in term)
            test = None
            if len(term) == 1:
                test = NOTHING_RANDOMISED if self.nothing else factor_test(self.outcomes, term[0], self.rng, s.draws)
            model = NO_MODEL if self.nothing else term_model(self.outcomes, term)
            results.append(TermResult(name, tuple(self.o.factors[f] for f in term), test, model))
        if self.nothing:
            return results
        contrasts = self.contrasts({r.name: r.test for r in results if r.test is not None})
        return [replace(r, contrasts=[c for factor, c in contrasts if factor == r.name]) for r in results]

    def contrasts(self, tests: dict[str, RandomisationTest]) -> list[tuple[str, Comparison]]:
        """Differences between the levels of every factor that can be told from the others, one family.

        ``tests`` holds the main effects that were worked out already.
        """
        s, chosen = self.settings, level_pairs(self.o)
        levels = Levels(self.outcomes, self.rng, s.draws)
        pairs, ends = [], {}
        for f, a, b in chosen:
            pairs.append(levels.evidence(f, a, b, tests.get(self.o.factors[f]) if self._two(f) else None))
        if self.outcomes.kind.hurdled:
            pairs = self._hurdled(pairs, self._rooted_levels(chosen))
        for i, pair in enumerate(chosen):
            both = level_ends(self.outcomes, pair, self.apart, s.draws)
            if both is not None:
                ends[i] = both
        compared = compare_family(pairs, s.rule(), ends, s.not_worse)
        return [(self.o.factors[f], c) for (f, _, _), c in zip(chosen, compared, strict=True)]

    def same_start(
        self, starts: list[Start], comparisons: list[Comparison], terms: list[TermResult]
    ) -> tuple[list[Comparison], list[TermResult]]:
        """Beside each comparison the one with the start in the model."""
        s = self.settings
        beside = Beside(self.outcomes, starts, s.rule(), np.random.default_rng([s.seed, 4]), s.draws)
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
        return {s.dose: trend(self.outcomes, self.o.factors.index(s.dose), self.rng, s.draws, s.alpha)}


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
    return arm_results(outcomes_of(by_factors(o, factors), s.response), 1 - s.alpha, s.interval == "clopper-pearson")
