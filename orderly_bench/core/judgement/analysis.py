"""Facade of the chapter: analyse one response of a trial laid out in any of the layouts."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from orderly_bench.core.errors import UnusableData
from orderly_bench.core.judgement.arms import ArmResult, arm_results, unknown_results
from orderly_bench.core.judgement.comparisons import Comparison
from orderly_bench.core.judgement.doubts import doubts_about, doubts_about_doses
from orderly_bench.core.judgement.main_effects import by_factors
from orderly_bench.core.judgement.result import Analysis, Tested
from orderly_bench.core.judgement.settings import Settings, control_index
from orderly_bench.core.judgement.starts import doubts_about_starts, starts_apart
from orderly_bench.core.judgement.weighted import doubts_of_sizes, very_unequal, with_weights
from orderly_bench.core.judgement.work import Work
from orderly_bench.core.layouts.from_rows import layout_of
from orderly_bench.core.layouts.one_arm_blocks import SetAside, set_aside
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.methods.clusters import Cluster, cluster_of
from orderly_bench.core.methods.letters import compact_letters
from orderly_bench.core.observations.table import JOINER, Observations
from orderly_bench.core.responses.outcomes_of import outcomes_of
from orderly_bench.core.responses.registry import kind_of


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
    known = observations.of_known_arms()
    excluded = set_aside(known)
    kept = excluded.kept
    control_index(observations, settings)
    if settings.control in [observations.arms[a] for a in observations.unknown_arms]:
        raise UnusableData(
            _("the control {names} has no cutting with a known outcome", names=JOINER.join(settings.control or ())),
            _("Score it, or compare the other arms with one another"),
        )
    nothing = _nothing_tested(observations, settings, excluded)
    work = Work(kept, settings, nothing)
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
        outcomes_of(known, settings.response),
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
            *doubts_about(observations, known, excluded, settings, Tested(test, model, comparisons, terms)),
            *doubts_of_sizes(work.outcomes, [*(c for t in terms for c in t.contrasts), *comparisons]),
            *doubts_about_doses(trends),
            *doubts_about_starts(starts, [*(c for t in terms for c in t.contrasts), *comparisons]),
        ],
        trends,
        excluded,
        starts,
        nothing,
    )


def judged(observations: Observations, settings: Settings) -> list[Comparison]:
    """The comparisons of the headline alone, as ``analyse`` makes them: levels of the factors, or pairs of arms.

    Without models, doubts and whatever else stands beside: for trials that are simulated by the thousand.
    """
    excluded = set_aside(observations.of_known_arms())
    work = Work(excluded.kept, settings, _nothing_tested(observations, settings, excluded), bare=True)
    if settings.by_factor and len(excluded.kept.factors) > 1:
        contrasts = work.contrasts({})
        if contrasts:
            return [comparison for _, comparison in contrasts]
    return work.comparisons(*work.tests())


def _nothing_tested(observations: Observations, settings: Settings, excluded: SetAside) -> str:
    """Code of what forbids every test; blank when there is nothing."""
    if settings.look:
        return "look"
    if len(excluded.kept.arms) < 2:
        return "nothing_known"
    if excluded.nothing_left:
        return "block_is_arm"
    beyond = float(observations.share_left_out.max()) > kind_of(settings.response).described_beyond
    return "described_only" if beyond else ""


def _cluster(observations: Observations, settings: Settings) -> Cluster:
    if settings.look or not kind_of(settings.response).yes_no:
        return Cluster(None, None)
    return cluster_of(observations.units, observations.responses, len(observations.arms))


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
