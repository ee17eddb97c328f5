"""Facade of the chapter: analyse one response of a trial laid out in any of the layouts."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from itertools import product

import numpy as np

from orderly_bench.core.cautions import Caution
from orderly_bench.core.compare import terms as factorial
from orderly_bench.core.compare import time_to_root
from orderly_bench.core.compare.clusters import Cluster, cluster_of, design_effects, rate_interval
from orderly_bench.core.compare.comparisons import Comparison, PairEvidence, Side, chosen_pairs, compare_family
from orderly_bench.core.compare.difference import odds_ratio
from orderly_bench.core.compare.doubts import doubts_about
from orderly_bench.core.compare.effects import Effects
from orderly_bench.core.compare.layout_tests import design_name, factor_test, overall_tests, pair_test
from orderly_bench.core.compare.letters import compact_letters
from orderly_bench.core.compare.logistic import ModelTest
from orderly_bench.core.compare.main_effects import by_factors, level_contrasts
from orderly_bench.core.compare.missing import missing_range
from orderly_bench.core.compare.observations import JOINER, Observations
from orderly_bench.core.compare.rates import Interval, clopper_pearson, normal_quantile, wilson
from orderly_bench.core.compare.responses import Response, rule_for
from orderly_bench.core.compare.second_opinion import model_test, term_model
from orderly_bench.core.compare.trend import Trend, trend
from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.randomise.randomisation import RandomisationTest
from orderly_bench.core.randomise.redrawn import Pairs


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

    def __post_init__(self) -> None:
        if not 0 < self.alpha < 0.5:
            raise InvalidInput("alpha", "must lie above 0 and below 0.5", self.alpha)
        if not 1 <= self.draws <= 2_000_000:
            raise InvalidInput("draws", "must lie between 1 and 2000000", self.draws)
        if self.seed < 0:
            raise InvalidInput("seed", "must be 0 or more", self.seed)
        if self.against_control and self.control is None:
            raise InvalidInput("control", "name the control arm when the family is 'control'")
        rule_for(self.response, self.alpha, self.margin)


@dataclass(frozen=True)
class ArmResult:
    """One arm.

    Attributes
    ----------
    stuck : int
        Cuttings with a known outcome (n).
    rooted : int
        How many count as yes (k); for other responses how many are above 0.
    left_out : int
        Stuck without a known outcome.
    estimate : float or None
        Rate, mean or area, by the response.
    extras : dict
        ``mean_per_rooted``; for days ``cif``, ``median_day`` and ``area``.
    """

    name: str
    levels: dict[str, str]
    stuck: int
    rooted: int
    left_out: int
    estimate: float | None
    interval: Interval | None
    extras: dict[str, object] = field(default_factory=dict)

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
    cluster: Cluster
    cautions: list[Caution]
    trends: dict[str, Trend]

    @property
    def blocked(self) -> bool:
        """Whether the units were laid out in blocks."""
        return bool(self.observations.blocks)


def analyse(observations: Observations, settings: Settings) -> Analysis:
    """Analyse one response.

    Parameters
    ----------
    observations : Observations
        At least two arms, each with a known outcome.
    settings : Settings

    Notes
    -----
    Edge cases: none or all rooted everywhere gives p = 1 and no model; an arm at 0 or 100 % gets Firth's fit instead of the
    ordinary logistic one; a block lacking an arm makes the layout incomplete blocks; one wave per season, or one unit per arm,
    gives no p.
    """
    rng = np.random.default_rng(settings.seed)
    response = settings.response
    test, redrawn = overall_tests(observations, response, rng, settings.draws)
    model = _overall_model(observations, response)
    comparisons = _comparisons(observations, settings, rng, redrawn)
    arms = _arms(observations, settings)
    terms = _terms(observations, settings, rng)
    cluster = (
        cluster_of(observations.units, observations.responses, len(observations.arms))
        if response.binary
        else Cluster(None, None)
    )
    doubts = doubts_about(observations, settings.alpha, test, model, comparisons, [term.model for term in terms])
    letters = _letters(arms, comparisons, settings)
    trends = _trends(observations, settings, rng)
    return Analysis(
        observations,
        settings,
        design_name(observations),
        arms,
        test,
        model,
        terms,
        comparisons,
        letters,
        cluster,
        doubts,
        trends,
    )


def _control_index(observations: Observations, settings: Settings) -> int | None:
    if settings.control is None:
        return None
    if settings.control not in observations.arms:
        raise InvalidInput(
            "control", f"must be one of the arms: {'; '.join(observations.names)}", JOINER.join(settings.control)
        )
    return observations.arms.index(settings.control)


def _trends(observations: Observations, settings: Settings, rng: np.random.Generator) -> dict[str, Trend]:
    if settings.dose is None:
        return {}
    if settings.dose not in observations.factors:
        raise InvalidInput("dose", f"must be one of the factors: {', '.join(observations.factors)}", settings.dose)
    factor = observations.factors.index(settings.dose)
    return {settings.dose: trend(observations, factor, settings.response, rng, settings.draws)}


def _comparisons(
    observations: Observations, settings: Settings, rng: np.random.Generator, redrawn: Pairs
) -> list[Comparison]:
    control = _control_index(observations, settings)
    response = settings.response
    effects = Effects(observations, response)
    pairs = []
    for a, b in chosen_pairs(len(observations.arms), control if settings.against_control else None):
        test = redrawn.get((min(a, b), max(a, b))) or pair_test(observations, a, b, response, rng, settings.draws)
        pairs.append(_evidence(observations, effects, a, b, test))
    return compare_family(pairs, rule_for(response, settings.alpha, settings.margin))


def _evidence(observations: Observations, effects: Effects, a: int, b: int, test: RandomisationTest) -> PairEvidence:
    both = [a, b]
    n_a, n_b = observations.stuck[:, both].sum(axis=0).tolist()
    k_a, k_b = observations.counted[both].tolist()
    units = np.bincount(observations.replicates.arm, minlength=len(observations.arms))[both]
    sides = Side(observations.names[a], k_a, n_a), Side(observations.names[b], k_b, n_b)
    extras: dict[str, float | None] = {}
    if effects.response is Response.DAYS:
        extras = _hazard_ratio(observations, effects, a, b)
    if not effects.response.binary:
        return PairEvidence(*sides, test, effects.between(a, b), float(units.mean()), int(units.min()), extras=extras)
    simple = not (observations.clustered or observations.latin or observations.grouped or observations.incomplete)
    missing = None
    if simple:
        rooted, stuck, out = (t[:, both] for t in (observations.rooted, observations.stuck, observations.left_out))
        missing = missing_range(rooted, stuck, out, bool(observations.blocks))
    return PairEvidence(
        *sides,
        test,
        effects.between(a, b),
        float(units.mean()),
        int(units.min()),
        odds_ratio(k_a, n_a, k_b, n_b),
        missing,
    )


def _hazard_ratio(observations: Observations, effects: Effects, a: int, b: int) -> dict[str, float | None]:
    two = observations.only([a, b])
    found = time_to_root.hazard(time_to_root.lives_of(two), two.arm_of_known).ratio(0, 1, normal_quantile(0.95))
    hr, low, high = found or (None, None, None)
    return {"hazard_ratio": hr, "hr_low": low, "hr_high": high}


def _arms(observations: Observations, settings: Settings) -> list[ArmResult]:
    response, level = settings.response, 1 - settings.alpha
    lives = time_to_root.lives_of(observations) if response is Response.DAYS else None
    effects = (
        design_effects(observations.replicates, len(observations.arms))
        if response.binary and (observations.clustered or observations.grouped)
        else None
    )
    results = []
    for i, arm in enumerate(observations.arms):
        k, n = int(observations.counted[i]), int(observations.stuck[:, i].sum())
        interval, estimate = None, None
        extras: dict[str, object] = {}
        if response.binary:
            estimate = k / n
            interval = (
                rate_interval(observations.replicates, i, effects, level) if effects else _rate(settings, k, n, level)
            )
        elif response is Response.ROOT_CLASS:
            extras = _classes_of_arm(observations, i)
        elif lives is not None:
            estimate, extras = _days_of_arm(observations, lives, i)
        else:
            estimate, interval, extras = _mean_of_arm(observations, i, level)
        levels = dict(zip(observations.factors, arm, strict=True))
        results.append(
            ArmResult(
                observations.names[i], levels, n, k, int(observations.left_out[:, i].sum()), estimate, interval, extras
            )
        )
    return results


def _rate(settings: Settings, k: int, n: int, level: float) -> Interval | None:
    return clopper_pearson(k, n, level) if settings.interval == "clopper-pearson" else wilson(k, n, level)


def _mean_of_arm(
    observations: Observations, arm: int, level: float
) -> tuple[float, Interval | None, dict[str, object]]:
    """Mean per cutting, t interval over unit means, and the mean of those above 0 (described only)."""
    from scipy.special import stdtrit

    values = observations.responses[observations.arm_of_known == arm]
    units = observations.replicates.mean[observations.replicates.arm == arm]
    above = values[values > 0]
    interval = None
    if units.size > 1 and units.std(ddof=1) > 0:
        half = float(stdtrit(units.size - 1, 0.5 + level / 2) * units.std(ddof=1) / np.sqrt(units.size))
        interval = Interval(max(0.0, float(units.mean()) - half), float(units.mean()) + half, level)
    return float(values.mean()), interval, {"mean_per_rooted": float(above.mean()) if above.size else None}


def _classes_of_arm(observations: Observations, arm: int) -> dict[str, object]:
    """Cuttings by least root number of their class, and the class of the middle one; classes have no mean."""
    values = np.sort(observations.responses[observations.arm_of_known == arm]).astype(int)
    counts = {str(floor): int((values == floor).sum()) for floor in np.unique(values).tolist()}
    return {"cuttings_by_class_floor": counts, "median_class_floor": int(values[(values.size - 1) // 2])}


def _days_of_arm(
    observations: Observations, lives: time_to_root.Lives, arm: int
) -> tuple[float | None, dict[str, object]]:
    counts = lives.categories()[observations.arm_of_known == arm].sum(axis=0)
    if lives.checks.size == 0:
        return None, {"cif": {}, "median_day": None, "area": None}
    cumulative = time_to_root.incidence(counts, lives.checks.size)
    area = float(time_to_root.areas(counts, lives.checks)) if lives.checks.size > 1 else None
    cif = {f"{day:g}": float(value) for day, value in zip(lives.checks, cumulative, strict=True)}
    return area, {"cif": cif, "median_day": time_to_root.median_day(cumulative, lives.checks), "area": area}


def _letters(arms: list[ArmResult], comparisons: list[Comparison], settings: Settings) -> dict[str, str]:
    """Letters, highest first; empty when pairs of arms are left uncompared or without a p."""
    if len(comparisons) < len(arms) * (len(arms) - 1) // 2 or any(c.p is None for c in comparisons):
        return {}
    order = [arm.name for arm in sorted(arms, key=lambda arm: -(arm.estimate or 0.0))]
    told_apart = {
        frozenset((c.a.name, c.b.name))
        for c in comparisons
        if c.p_adjusted is not None and c.p_adjusted < settings.alpha
    }
    return compact_letters(order, told_apart)


def _overall_model(observations: Observations, response: Response) -> ModelTest:
    arms = len(observations.arms)
    coded = np.column_stack([np.ones(arms), np.eye(arms)[:, 1:]])
    return model_test(observations, response, coded[:, :1], coded)


def _terms(observations: Observations, settings: Settings, rng: np.random.Generator) -> list[TermResult]:
    factors = len(observations.factors)
    if factors < 2 and not observations.grouped:
        return []
    results = []
    for term in factorial.all_terms(factors):
        name = ":".join(observations.factors[f] for f in term)
        test = factor_test(observations, term[0], settings.response, rng, settings.draws) if len(term) == 1 else None
        model = term_model(observations, settings.response, term)
        results.append(TermResult(name, tuple(observations.factors[f] for f in term), test, model))
    if not settings.response.binary:
        return results
    tests = {result.name: result.test for result in results if result.test is not None}
    contrasts = level_contrasts(observations, settings.response, tests, rng, settings.draws)
    rule = rule_for(settings.response, settings.alpha, settings.margin)
    compared = compare_family([pair for _, pair in contrasts], rule)
    owned = [(factor, c) for (factor, _), c in zip(contrasts, compared, strict=True)]
    return [replace(r, contrasts=[c for factor, c in owned if factor == r.name]) for r in results]


def marginal_arms(analysis: Analysis, factors: tuple[int, ...]) -> list[ArmResult]:
    """Results by the combinations of some of the factors, over the levels of the others; described, not compared."""
    o = analysis.observations
    if len(factors) == len(o.factors):
        return analysis.arms
    return _arms(by_factors(o, factors), analysis.settings)


def is_full_factorial(observations: Observations) -> bool:
    """Whether every combination of levels is an arm."""
    return len(observations.arms) == len(list(product(*observations.level_names)))
