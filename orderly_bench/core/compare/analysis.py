"""Facade of the chapter: analyse rooted yes/no on single cuttings, with or without blocks."""

from __future__ import annotations

from dataclasses import dataclass, field
from itertools import combinations, product

import numpy as np

from orderly_bench.core.cautions import Caution
from orderly_bench.core.compare import conditional_logistic, firth, logistic
from orderly_bench.core.compare import terms as factorial
from orderly_bench.core.compare.comparisons import Comparison, Pair, arm_pairs, compare_family
from orderly_bench.core.compare.doubts import doubts_about
from orderly_bench.core.compare.hypergeometric import two_sided_p
from orderly_bench.core.compare.letters import compact_letters
from orderly_bench.core.compare.logistic import ModelTest
from orderly_bench.core.compare.observations import JOINER, Observations
from orderly_bench.core.compare.quadratic_form import permutation_test
from orderly_bench.core.compare.randomisation import RandomisationTest
from orderly_bench.core.compare.rates import Interval, clopper_pearson, wilson
from orderly_bench.core.errors import InvalidInput


@dataclass(frozen=True)
class Settings:
    """What the researcher fixed beforehand.

    Attributes
    ----------
    alpha : float
    margin : float or None
        Smallest difference that matters, as a proportion.
    draws, seed : int
        Monte Carlo draws and the seed they start from.
    control : tuple of str or None
        Level values of the control arm.
    against_control : bool
        The family is each arm against the control instead of all pairs.
    interval : str
        ``wilson`` or ``clopper-pearson`` for the rates.
    """

    alpha: float = 0.05
    margin: float | None = None
    draws: int = 20_000
    seed: int = 1
    control: tuple[str, ...] | None = None
    against_control: bool = False
    interval: str = "wilson"

    def __post_init__(self) -> None:
        if not 0 < self.alpha < 0.5:
            raise InvalidInput("alpha", "must lie above 0 and below 0.5", self.alpha)
        if self.margin is not None and not 0 < self.margin < 1:
            raise InvalidInput("margin", "must lie above 0 and below 1, such as 0.15 for 15 points", self.margin)
        if not 1 <= self.draws <= 2_000_000:
            raise InvalidInput("draws", "must lie between 1 and 2000000", self.draws)
        if self.seed < 0:
            raise InvalidInput("seed", "must be 0 or more", self.seed)
        if self.against_control and self.control is None:
            raise InvalidInput("control", "name the control arm when the family is 'control'")


@dataclass(frozen=True)
class ArmResult:
    """One arm: k of n with its interval; ``left_out`` were stuck but have no known outcome."""

    name: str
    levels: dict[str, str]
    stuck: int
    rooted: int
    left_out: int
    interval: Interval | None

    @property
    def rate(self) -> float:
        """k/n."""
        return self.rooted / self.stuck


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
    """Everything Compare shows, with the inputs it came from."""

    observations: Observations
    settings: Settings
    design: str
    arms: list[ArmResult]
    test: RandomisationTest
    model: ModelTest
    terms: list[TermResult]
    comparisons: list[Comparison]
    letters: dict[str, str]
    cautions: list[Caution]

    @property
    def blocked(self) -> bool:
        """Whether the units were laid out in blocks."""
        return bool(self.observations.blocks)


def analyse(observations: Observations, settings: Settings) -> Analysis:
    """Analyse rooted yes/no.

    Parameters
    ----------
    observations : Observations
        Single cuttings in at least two arms, with or without blocks.
    settings : Settings

    Notes
    -----
    Edge cases: none or all rooted everywhere gives p = 1 and no model; an arm at 0 or 100 % gets
    Firth's fit instead of the ordinary logistic one; a block lacking an arm adds nothing to that
    arm's comparisons.
    """
    rng = np.random.default_rng(settings.seed)
    blocked = bool(observations.blocks)
    control = _control_index(observations, settings)
    pairs = arm_pairs(
        observations.names,
        observations.rooted,
        observations.stuck,
        observations.left_out,
        blocked,
        control if settings.against_control else None,
    )
    comparisons = compare_family(pairs, settings.alpha, settings.margin)
    test = _overall_test(observations, settings, rng)
    model = _overall_model(observations)
    arms = _arms(observations, settings)
    terms = _terms(observations, settings, rng)
    doubts = doubts_about(observations, settings.alpha, test, model, comparisons)
    design = "randomised complete blocks" if blocked else "completely randomised"
    return Analysis(
        observations,
        settings,
        design,
        arms,
        test,
        model,
        terms,
        comparisons,
        _letters(arms, comparisons, settings),
        doubts,
    )


def _control_index(observations: Observations, settings: Settings) -> int | None:
    if settings.control is None:
        return None
    if settings.control not in observations.arms:
        raise InvalidInput(
            "control", f"must be one of the arms: {'; '.join(observations.names)}", JOINER.join(settings.control)
        )
    return observations.arms.index(settings.control)


def _arms(observations: Observations, settings: Settings) -> list[ArmResult]:
    interval = clopper_pearson if settings.interval == "clopper-pearson" else wilson
    results = []
    for i, arm in enumerate(observations.arms):
        k, n = int(observations.rooted[:, i].sum()), int(observations.stuck[:, i].sum())
        results.append(
            ArmResult(
                observations.names[i],
                dict(zip(observations.factors, arm, strict=True)),
                n,
                k,
                int(observations.left_out[:, i].sum()),
                interval(k, n, 1 - settings.alpha),
            )
        )
    return results


def _letters(arms: list[ArmResult], comparisons: list[Comparison], settings: Settings) -> dict[str, str]:
    """Letters, highest rate first; empty when the family leaves pairs of arms uncompared."""
    if len(comparisons) < len(arms) * (len(arms) - 1) // 2:
        return {}
    order = [arm.name for arm in sorted(arms, key=lambda arm: -arm.rate)]
    told_apart = {
        frozenset((c.a.name, c.b.name))
        for c in comparisons
        if c.p_adjusted is not None and c.p_adjusted < settings.alpha
    }
    return compact_letters(order, told_apart)


def _overall_test(observations: Observations, settings: Settings, rng: np.random.Generator) -> RandomisationTest:
    if len(observations.arms) == 2:
        p = two_sided_p(observations.rooted, observations.stuck)
        return RandomisationTest(p, True, None, float(observations.rooted[:, 0].sum()))
    return permutation_test(observations.rooted, observations.stuck, rng, settings.draws)


def _at_the_end(observations: Observations) -> bool:
    """Whether an arm rooted fully or not at all."""
    k, n = observations.rooted.sum(axis=0), observations.stuck.sum(axis=0)
    return bool(((k == 0) | (k == n)).any())


def _overall_model(observations: Observations) -> ModelTest:
    arms = len(observations.arms)
    coded = np.column_stack([np.ones(arms), np.eye(arms)[:, 1:]])
    return _model(observations, coded[:, :1], coded)


def _model(observations: Observations, smaller: np.ndarray, larger: np.ndarray) -> ModelTest:
    """The layout's second opinion on the columns ``larger`` (with intercept) adds to ``smaller``."""
    if observations.blocks:
        return conditional_logistic.likelihood_ratio(
            smaller[:, 1:], larger[:, 1:], observations.rooted, observations.stuck
        )
    k, n = observations.rooted.sum(axis=0), observations.stuck.sum(axis=0)
    if _at_the_end(observations):
        tested = np.arange(larger.shape[1]) >= smaller.shape[1]
        return firth.likelihood_ratio(larger, tested, k.astype(float), n.astype(float))
    return logistic.likelihood_ratio("logistic", smaller, larger, k, n)


def _terms(observations: Observations, settings: Settings, rng: np.random.Generator) -> list[TermResult]:
    factors = len(observations.factors)
    if factors < 2:
        return []
    results = []
    for term in factorial.all_terms(factors):
        smaller, larger = factorial.type_two(observations.level_index, term, True)
        name = ":".join(observations.factors[f] for f in term)
        test = _main_effect(observations, term[0], settings, rng) if len(term) == 1 else None
        added = larger.shape[1] - smaller.shape[1]
        model = _model(observations, smaller, larger) if added else ModelTest("not estimable", None, 0, None)
        results.append(TermResult(name, tuple(observations.factors[f] for f in term), test, model))
    return _with_contrasts(observations, settings, results)


def _stratified(observations: Observations, factor: int) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Counts per (other factors x block) and level of one factor: rooted, stuck, left out."""
    index = observations.level_index
    others = np.delete(index, factor, axis=1)
    strata = sorted({tuple(row) for row in others.tolist()})
    levels = len(observations.level_names[factor])
    tables = []
    for source in (observations.rooted, observations.stuck, observations.left_out):
        table = np.zeros((len(strata) * source.shape[0], levels), dtype=int)
        for arm, (other, level) in enumerate(zip(others.tolist(), index[:, factor].tolist(), strict=True)):
            start = strata.index(tuple(other)) * source.shape[0]
            table[start : start + source.shape[0], level] += source[:, arm]
        tables.append(table)
    return tables[0], tables[1], tables[2]


def _main_effect(
    observations: Observations, factor: int, settings: Settings, rng: np.random.Generator
) -> RandomisationTest:
    """Permute the factor's levels inside strata of the other factors x block."""
    rooted, stuck, _ = _stratified(observations, factor)
    if ((stuck > 0).sum(axis=1) < 2).all():
        return RandomisationTest(None, True, None, None)
    if rooted.shape[1] == 2:
        return RandomisationTest(two_sided_p(rooted, stuck), True, None, float(rooted[:, 0].sum()))
    return permutation_test(rooted, stuck, rng, settings.draws)


def _with_contrasts(observations: Observations, settings: Settings, results: list[TermResult]) -> list[TermResult]:
    """Add the differences between levels, as one family over all factors."""
    pairs: list[Pair] = []
    owner: list[str] = []
    for f, factor in enumerate(observations.factors):
        rooted, stuck, left_out = _stratified(observations, f)
        for a, b in combinations(range(rooted.shape[1]), 2):
            both = [a, b]
            names = (observations.level_names[f][a], observations.level_names[f][b])
            pairs.append(Pair(names, rooted[:, both], stuck[:, both], left_out[:, both], True))
            owner.append(factor)
    compared = compare_family(pairs, settings.alpha, settings.margin)
    return [
        TermResult(
            r.name, r.factors, r.test, r.model, [c for c, who in zip(compared, owner, strict=True) if r.name == who]
        )
        for r in results
    ]


def is_full_factorial(observations: Observations) -> bool:
    """Whether every combination of levels is an arm."""
    return len(observations.arms) == len(list(product(*observations.level_names)))
