"""What keeps a planned test from convincing anybody, found before anything is stuck."""

from __future__ import annotations

from collections import Counter

from orderly_bench.core.design.from_plan import request_of_all
from orderly_bench.core.design.reach import reach_of
from orderly_bench.core.design.season_waves import least_waves, smallest_p
from orderly_bench.core.messages.say import phrase
from orderly_bench.core.messages.words import any_of
from orderly_bench.core.plan.aspects import AspectKind
from orderly_bench.core.plan.question import TrialKind
from orderly_bench.core.plan.value import Plan


def why_not(plan: Plan) -> list[str]:
    """Why the plan's test can't convince, a phrase each; empty where it can, and for a look, which never claims to.

    Its smallest p over all waves is not below alpha, an asked contrast is not separable, or a
    season that is all there is to ask has too few waves.
    """
    if plan.question.kind is not TrialKind.TEST or len(plan.treatments.arms) < 2:
        return []
    return [*_reach(plan), *_mixed(plan), *_season(plan)]


def _reach(plan: Plan) -> list[str]:
    request = request_of_all(plan)
    if request is None:
        return []
    reach = reach_of(request)
    # On whole plots one factor may be beyond telling while the others, inside them, are not.
    lowest = min(reach.overall, reach.pair)
    return (
        [phrase("cannot_convince", p=f"{lowest:.2g}", alpha=f"{plan.question.alpha:g}")]
        if lowest >= plan.question.alpha
        else []
    )


def _mixed(plan: Plan) -> list[str]:
    found = plan.treatments.separation()
    if found is None or found.separable:
        return []
    names = {aspect.id: aspect.name for aspect in plan.treatments.aspects}
    mixed: dict[str, list[str]] = {}
    for contrast in found.contrasts:
        if not contrast.separable:
            others = contrast.travels_with or {other for each in contrast.together for other in each}
            mixed.setdefault(names[contrast.aspect], []).extend(names[other] for other in others)
    return [phrase("not_separable", name=name, others=any_of(dict.fromkeys(others))) for name, others in mixed.items()]


def _season(plan: Plan) -> list[str]:
    season = plan.treatments.of_kind(AspectKind.SEASON)
    if season is None or not season.asked:
        return []
    waves = Counter(wave.season for wave in plan.schedule.waves)
    each = tuple(waves[level.id] for level in season.levels)
    if min(each) < 1:
        return [phrase("season_without_waves")]
    lowest = smallest_p(each)
    if lowest < plan.question.alpha or len(plan.treatments.asked) > 1:
        return []
    return [phrase("season_few_waves", p=f"{lowest:.2g}", least=least_waves(len(each), plan.question.alpha))]
