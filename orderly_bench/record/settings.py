"""How a trial is analysed: what its plan asked, as the analysis takes it."""

from __future__ import annotations

from orderly_bench.core.judgement.dose_curve import dose_factor
from orderly_bench.core.judgement.settings import Settings
from orderly_bench.core.plan.question import Headline, TrialKind
from orderly_bench.core.plan.treatments import Aspect, Treatments
from orderly_bench.core.question.sentence import margin_of
from orderly_bench.core.responses.kind import Response
from orderly_bench.record.value import TrialRecord

DRAWS = 20_000


def settings_of(record: TrialRecord) -> Settings:
    """Settings of the analysis; the seed comes from the digest of the lock, so a reload gives the same figures."""
    asked = record.plan.question
    seed = int((record.digest or "1")[:7], 16)
    treatments = record.plan.treatments
    control = next((treatments.level_names(arm) for arm in treatments.arms if arm.control), None)
    return Settings(
        alpha=asked.alpha,
        margin=margin_of(asked.response, asked.margin_points, asked.margin_own),
        response=asked.response,
        draws=DRAWS,
        seed=seed,
        control=control,
        against_control=asked.headline is Headline.CONTROL and control is not None,
        max_t=asked.max_t and asked.headline is Headline.CONTROL and control is not None,
        look=asked.kind is TrialKind.LOOK,
        not_worse=asked.not_worse and control is not None,
        by_factor=asked.headline is Headline.FACTORS,
        properties=tuple(aspect.name for aspect in treatments.asked if aspect.property),
        dose=None
        if asked.kind is TrialKind.LOOK or asked.response is Response.DAYS
        else dose_factor({a.name: _levels(treatments, a) for a in treatments.asked}),
    )


def _levels(treatments: Treatments, aspect: Aspect) -> list[str]:
    """Names of the levels that some arm has, the factor's order kept."""
    used = {arm.says.get(aspect.id) for arm in treatments.arms}
    return [level.name for level in aspect.levels if level.id in used]
