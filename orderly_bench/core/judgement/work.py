"""One analysis being worked out, in the order in which its random numbers are drawn."""

from __future__ import annotations

from dataclasses import replace
from functools import cached_property

import numpy as np

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.judgement.comparisons import Comparison, Hurdle, PairEvidence
from orderly_bench.core.judgement.family import Joint, chosen_pairs, compare_family
from orderly_bench.core.judgement.layout_tests import factor_test, overall_tests
from orderly_bench.core.judgement.main_effects import Levels, level_ends, level_pairs
from orderly_bench.core.judgement.pairs import at_both_ends, pair_ends, pair_evidence, tested
from orderly_bench.core.judgement.result import TermResult
from orderly_bench.core.judgement.second_opinion import model_test, term_model
from orderly_bench.core.judgement.settings import Settings, control_index
from orderly_bench.core.judgement.starts import Beside
from orderly_bench.core.judgement.trend import Trend, trend
from orderly_bench.core.judgement.verdict import Rule
from orderly_bench.core.layouts.draws import for_all_arms
from orderly_bench.core.layouts.from_rows import layout_of
from orderly_bench.core.layouts.layout import NO_MODEL
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.methods import max_t
from orderly_bench.core.methods import terms as factorial
from orderly_bench.core.methods.logistic import ModelTest
from orderly_bench.core.methods.randomisation import NOTHING_RANDOMISED, RandomisationTest
from orderly_bench.core.methods.redrawn import Pairs
from orderly_bench.core.methods.starting_alike import Start
from orderly_bench.core.observations.table import Observations
from orderly_bench.core.randomise.shuffled import ShuffledWithin
from orderly_bench.core.responses.outcomes import Outcomes
from orderly_bench.core.responses.outcomes_of import outcomes_of
from orderly_bench.core.responses.rooting import ROOTING, rooting


class Work:
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
        control = control_index(self.o, s)
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

    def _joint(self, chosen: list[tuple[int, int]]) -> Joint | None:
        """Adjusted p by the studentised maximum, where planned: every arm against the control, shuffled within blocks."""
        if not self.settings.max_t or self.nothing:
            return None
        seen = self._jointly(self.outcomes, self.rng)
        if seen is None:
            return None

        def of(pair: int, end: int | None) -> float:
            found = seen
            if end is not None:
                whole = at_both_ends(self.outcomes, *chosen[pair])[end]
                found = self._jointly(whole, np.random.default_rng([self.settings.seed, 9])) or seen
            return found[chosen[pair][0]]

        return of

    def _jointly(self, outcomes: Outcomes, rng: np.random.Generator) -> dict[int, float] | None:
        control, drawn = control_index(outcomes.o, self.settings), for_all_arms(outcomes.o)
        if control is None or drawn is None or not isinstance(drawn.layout, ShuffledWithin):
            return None
        return max_t.adjusted(outcomes.unit_scores(drawn), drawn.layout, control, rng, self.settings.draws)

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
                "dose", _("must be one of the factors: {names}", names=", ".join(self.o.factors)), s.dose
            )
        return {s.dose: trend(self.outcomes, self.o.factors.index(s.dose), self.rng, s.draws, s.alpha)}
