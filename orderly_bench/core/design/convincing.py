"""What keeps a planned test from convincing anybody, found before anything is stuck."""

from __future__ import annotations

from collections import Counter
from itertools import combinations
from math import comb, prod

from orderly_bench.core.design.from_plan import request_of_all
from orderly_bench.core.design.season_waves import least_waves, smallest_p
from orderly_bench.core.layouts.kinds import planned, reach_of
from orderly_bench.core.messages.say import clause
from orderly_bench.core.messages.translation import all_of, any_of
from orderly_bench.core.methods.holm import tidy
from orderly_bench.core.methods.smallest_p import smallest_pair_p
from orderly_bench.core.plan.aspects import AspectKind
from orderly_bench.core.plan.question import Headline, TrialKind
from orderly_bench.core.plan.treatments import Aspect
from orderly_bench.core.plan.value import Plan


def why_not(plan: Plan) -> list[str]:
    """Why the plan's test can't convince, a phrase each; empty where it can, and for a look, which never claims to.

    Its smallest p over all waves, of an asked factor, or of the pairs that the declared headline speaks of under Holm, is not below
    alpha; an asked contrast is not separable; or a season has too few waves.
    """
    if plan.question.kind is not TrialKind.TEST or len(plan.treatments.arms) < 2:
        return []
    return [*too_few(plan), *_mixed(plan), *_lids(plan), *_season(plan)]


def too_few(plan: Plan) -> list[str]:
    """What no outcome could make clear, for there are too few units or too many comparisons; empty for a look or a single arm."""
    if plan.question.kind is not TrialKind.TEST or len(plan.treatments.arms) < 2:
        return []
    return _reach(plan) or _family(plan)


def _reach(plan: Plan) -> list[str]:
    request = request_of_all(plan)
    if request is None:
        return []
    reach = reach_of(request)
    # On whole plots one factor may be beyond telling while the others, inside them, are not.
    lowest = tidy(min(reach.overall, reach.pair))
    return (
        [clause("cannot_convince", p=f"{lowest:.2g}", alpha=f"{plan.question.alpha:g}")]
        if lowest >= plan.question.alpha
        else []
    )


def _family(plan: Plan) -> list[str]:
    """What the declared headline speaks of and could never come out clear, whatever is seen."""
    request, alpha, asked = request_of_all(plan), plan.question.alpha, plan.treatments.asked
    if request is None:
        return []
    arms = len(plan.treatments.arms)
    if plan.question.headline is not Headline.FACTORS or len(asked) == 1:
        pairs = arms - 1 if plan.question.headline is Headline.CONTROL else comb(arms, 2)
        # A joint redraw adjusts by itself, and never to more than Holm.
        p = tidy(min(1.0, (1 if plan.question.max_t else pairs) * reach_of(request).pair))
        return [clause("no_pair_convinces", n=pairs, p=f"{p:.2g}")] if p >= alpha else []
    found = []
    for aspect in asked:
        p_of_factor = smallest_factor_p(plan, aspect)
        if p_of_factor is not None and p_of_factor >= alpha:
            found.append(clause("factor_cannot_convince", name=aspect.name, p=f"{p_of_factor:.2g}"))
    return found


def smallest_factor_p(plan: Plan, aspect: Aspect) -> float | None:
    """Smallest p, after Holm over its levels, that an asked factor can reach over the others; None where it is not worked out here.

    All of one level rooted and none of the other, in every stratum: block, wave, and the same levels of the other factors.
    One of all assignments inside strata is as extreme, or two where the levels have equally many in each.
    """
    design, layout = plan.design, planned(plan.design.layout)
    if layout.whole_plots and aspect.id == design.whole_aspect:
        levels = len(aspect.levels)
        return tidy(min(1.0, comb(levels, 2) * smallest_pair_p(design.blocks // levels)))
    if not layout.shuffles_units or aspect.kind is AspectKind.SEASON:
        return None
    strata: dict[tuple[object, ...], Counter[str]] = {}
    blocks = layout.strata(design.blocks)
    for arm in plan.treatments.arms:
        others = tuple(arm.says.get(other.id) for other in plan.treatments.asked if other is not aspect)
        for wave in plan.waves_of(arm):
            for block in range(blocks):
                strata.setdefault((others, wave.number, block), Counter())[arm.says[aspect.id]] += (
                    plan.units_of(arm) // blocks
                )
    pairs = list(combinations([level.id for level in aspect.levels], 2))
    least = 1.0
    for a, b in pairs:
        both = [(each[a], each[b]) for each in strata.values() if each[a] and each[b]]
        if both:
            ways = prod(comb(one + other, one) for one, other in both)
            least = min(least, (2 if all(one == other for one, other in both) else 1) / ways)
    return tidy(min(1.0, len(pairs) * least))


def _mixed(plan: Plan) -> list[str]:
    return [
        clause("not_separable", name=name, others=any_of(others)) for name, others in plan.treatments.mixed_up().items()
    ]


def _lids(plan: Plan) -> list[str]:
    """Arms under lids of their own while others are not, or under lids over another number: the lid goes with the arm."""
    own = {arm.id: arm.under_lid for arm in plan.treatments.arms}
    under = [letter for letter, n in own.items() if n]
    if not under or (len(under) == len(own) and len(set(own.values())) == 1):
        return []
    return [clause("lid_goes_with", names=all_of(under), n=len(under))]


def _season(plan: Plan) -> list[str]:
    season = plan.treatments.of_kind(AspectKind.SEASON)
    if season is None or not season.asked:
        return []
    waves = Counter(wave.season for wave in plan.schedule.waves)
    each = tuple(waves[level.id] for level in season.levels)
    if min(each) < 1:
        return [clause("season_without_waves")]
    lowest = smallest_p(each)
    if lowest < plan.question.alpha:
        return []
    if len(plan.treatments.asked) > 1 and plan.question.headline is not Headline.FACTORS:
        return []
    return [clause("season_few_waves", p=f"{lowest:.2g}", least=least_waves(len(each), plan.question.alpha))]
