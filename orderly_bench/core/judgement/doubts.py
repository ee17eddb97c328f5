"""Doubts about a comparison, as coded cautions with remedies; their words are in the catalogue."""

from __future__ import annotations

from math import prod

import numpy as np

from orderly_bench.core.cautions import Caution
from orderly_bench.core.judgement.comparisons import Comparison
from orderly_bench.core.judgement.disagreements import (
    interval_and_p,
    judges,
    judges_of_terms,
    model_named,
    overall_and_pairs,
)
from orderly_bench.core.judgement.doubts_of_pairs import (
    bare_p,
    cannot_convince,
    doubts_of_pairs,
    pairs_named,
    range_doubt,
)
from orderly_bench.core.judgement.result import TermResult, Tested, headline_of, led_by_factor
from orderly_bench.core.judgement.settings import Settings
from orderly_bench.core.judgement.trend import Trend
from orderly_bench.core.layouts.draws import interactions_in_blocks, needs_all_factors
from orderly_bench.core.layouts.from_rows import layout_of
from orderly_bench.core.layouts.one_arm_blocks import SetAside
from orderly_bench.core.messages.numbers import in_points, percent, points
from orderly_bench.core.messages.say import caution, clause
from orderly_bench.core.messages.translation import all_of
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.methods import additive
from orderly_bench.core.methods.logistic import ModelTest
from orderly_bench.core.methods.randomisation import RandomisationTest
from orderly_bench.core.methods.rates import bound_of_none
from orderly_bench.core.observations.table import EARLIER_ROOTS, Observations, kind_of_plant, spoken_level
from orderly_bench.core.responses.kind import Kind, Response, Scale
from orderly_bench.core.responses.outcomes_of import outcomes_of
from orderly_bench.core.responses.registry import kind_of

LEFT_OUT_SHARE = 0.05
#: Shares of places left empty that differ by more than this between arms are uneven.
NOT_STUCK_UNEVEN = 0.05
ONE_POINT = 0.01
#: Below this many units a side a shift has no 95 % interval.
FEW_FOR_SHIFT = 6
#: An interaction below this is worth a caution.
INTERACTION = 0.10


def doubts_about(
    whole: Observations,
    observations: Observations,
    excluded: SetAside,
    settings: Settings,
    tested: Tested,
) -> list[Caution]:
    """All cautions raised by the table and its analysis, most general first; of a look only those about its counts.

    ``whole`` holds every arm, ``observations`` those with a known outcome.
    """
    test, model, comparisons, terms = tested.test, tested.model, tested.comparisons, tested.terms
    headline = headline_of(excluded.kept, settings, comparisons, terms)
    kind = kind_of(settings.response)
    found = [*_nothing_known(whole), *doubts_about_counts(whole, settings.response)]
    if settings.look:
        return found
    everything = [*comparisons, *(c for term in terms for c in term.contrasts)]
    return [
        *_not_randomised(observations),
        *_one_arm_blocks(excluded),
        *_entangled(observations),
        *_pairs_lead(excluded.kept, settings, terms),
        *layout_of(observations).few(),
        *cannot_convince(excluded.kept, settings.alpha, headline),
        *(_silent_strata(observations, kind) if kind.yes_no else []),
        *(_at_the_ends(observations, kind) if kind.yes_no else []),
        *found,
        *_described_only(whole, kind),
        *_ranges([*headline, *everything]),
        *outcomes_of(observations, settings.response).doubts(),
        *outcomes_of(observations, settings.response).doubts_of_margin(settings.margin),
        *_lacking(observations),
        *(_unweighted(observations, comparisons) if kind.yes_no else []),
        *_raw_against_adjusted(everything),
        *_no_estimate(everything, kind),
        *doubts_of_pairs(excluded.kept, kind, settings.alpha, comparisons, [c for t in terms for c in t.contrasts]),
        *_interactions(terms),
        *overall_and_pairs(settings.alpha, test, headline),
        *interval_and_p(settings.alpha, excluded.kept, headline, everything),
        *judges(settings.alpha, test, model),
        *judges_of_terms(settings.alpha, terms),
        *_models(test, model, [term.model for term in terms]),
        *(_nothing_varies(observations, kind, test) if kind.yes_no else []),
    ]


def doubts_about_counts(observations: Observations, response: Response) -> list[Caution]:
    """What is doubtful of the counts themselves, whatever is compared."""
    return [
        *observations.questions,
        *_questioned(observations, response),
        *_earlier_roots(observations),
        *_left_out(observations, response),
        *_not_stuck(observations),
    ]


def doubts_about_doses(trends: dict[str, Trend]) -> list[Caution]:
    """What a curve over strengths can't tell."""
    saturated = [factor for factor, trend in trends.items() if trend.curve is not None and trend.curve.saturated]
    return [caution("dose_saturated", factor=factor) for factor in saturated]


def _not_randomised(observations: Observations) -> list[Caution]:
    found = []
    times = [observations.factors[f] for f in layout_of(observations).not_drawn if len(observations.level_names[f]) > 1]
    if times:
        found.append(caution("season_not_waves", factors=all_of(times), n=len(times), serious=True))
    kinds = [
        name
        for f, name in enumerate(observations.factors)
        if kind_of_plant(name) and len(observations.level_names[f]) > 1
    ]
    if kinds:
        found.append(caution("not_drawn", "kinds", factors=all_of(kinds), n=len(kinds)))
    return [*found, *layout_of(observations).doubts()]


def _one_arm_blocks(excluded: SetAside) -> list[Caution]:
    if excluded.nothing_left:
        return [caution("block_is_arm", serious=True)]
    if not excluded.blocks:
        return []
    names = ", ".join(excluded.blocks[:6])
    return [caution("one_arm_block", blocks=len(excluded.blocks), names=names, cuttings=excluded.cuttings)]


def _entangled(observations: Observations) -> list[Caution]:
    """Factors that can't be told from the others added up, or only as if no two worked together."""
    if len(observations.factors) < 2:
        return []
    levels, factors = observations.level_index, range(len(observations.factors))
    found = []
    mixed = [observations.factors[f] for f in factors if not additive.estimable(levels, f)]
    if mixed:
        found.append(caution("aliased", factors=all_of(mixed), serious=True))
    modelled = [observations.factors[f] for f in factors if needs_all_factors(observations, f)]
    if modelled and not observations.every_combination:
        found.append(caution("aliased_with_interaction", factors=all_of(modelled)))
    elif modelled:
        together = interactions_in_blocks(observations)
        if together:
            found.append(caution("interaction_in_blocks", factors="; ".join(all_of(list(names)) for names in together)))
    return found


def _pairs_lead(observations: Observations, settings: Settings, terms: list[TermResult]) -> list[Caution]:
    """Factors were asked to lead, and can't: a combination that was not stuck has no place in their sums."""
    told = [term for term in terms if term.contrasts]
    if not settings.by_factor or not told or observations.every_combination:
        return []
    if led_by_factor(observations, settings, told):
        return []
    lacking = prod(len(names) for names in observations.level_names) - len(observations.arms)
    return [caution("pairs_lead", n=lacking)]


def _silent_strata(observations: Observations, kind: Kind) -> list[Caution]:
    """Blocks or pairs in which all or none rooted say nothing about the difference."""
    if not layout_of(observations).strata_fall_silent:
        return []
    rooted, stuck = observations.rooted.sum(axis=1), observations.stuck.sum(axis=1)
    silent, count = int(((rooted == 0) | (rooted == stuck)).sum()), len(observations.blocks)
    if silent <= count / 2 or rooted.sum() in (0, stuck.sum()):
        return []
    strata = layout_of(observations).strata(count)
    did = clause(f"did/{kind.response}")
    return [caution("silent_block", silent=silent, strata=strata, did=did, rest=count - silent)]


def _unweighted(observations: Observations, comparisons: list[Comparison]) -> list[Caution]:
    """The difference of mean unit proportions lies over a point from the difference of k/n."""
    if not observations.clustered:
        return []
    for c in comparisons:
        if c.raw is not None and c.above is not None and abs(c.raw - c.above) > ONE_POINT:
            return [caution("unit_sizes_differ", a=c.a.label, b=c.b.label)]
    return []


def _raw_against_adjusted(comparisons: list[Comparison]) -> list[Caution]:
    far = [c for c in comparisons if c.far_from_raw]
    if not far:
        return []
    turned = [c for c in far if c.reversed_by_adjustment]
    worst = (turned or far)[0]
    if not worst.yes_no:
        return [caution("raw_against_adjusted", "turned", a=worst.a.label, b=worst.b.label, serious=True)]
    raw, adjusted = in_points(worst.raw, True), points(worst.above, True)
    return [
        caution(
            "raw_against_adjusted",
            a=worst.a.label,
            b=worst.b.label,
            raw=raw,
            adjusted=adjusted,
            serious=bool(turned),
        )
    ]


def _no_estimate(comparisons: list[Comparison], kind: Kind) -> list[Caution]:
    tested = [c for c in comparisons if c.p is not None]
    sizeless = [c for c in tested if c.difference.estimate is None]
    rooted = [c for c in sizeless if c.a.mean and c.b.mean]
    if rooted:
        return [caution("no_ratio", "not_fitted", a=rooted[0].a.label, b=rooted[0].b.label)]
    if sizeless:
        return [caution("no_ratio")]
    without = [c for c in tested if c.difference.interval is None] if kind.scale is Scale.LENGTH else []
    if not without:
        return []
    few = [c for c in without if c.fewest < FEW_FOR_SHIFT]
    return [caution("no_interval", "few" if few else "", names=pairs_named(few or without))]


def _nothing_varies(observations: Observations, kind: Kind, test: RandomisationTest) -> list[Caution]:
    rooted, stuck = observations.rooted.sum(), observations.stuck.sum()
    if test.p is None or test.p < 0.9999 or rooted not in (0, stuck):
        return []
    did = clause(f"did/{kind.response}")
    what = _("none {did} in any arm", did=did) if rooted == 0 else _("all {did} in every arm", did=did)
    return [caution("nothing_varies", what=what, serious=True)]


def _at_the_ends(observations: Observations, kind: Kind) -> list[Caution]:
    """None or all of an arm: the exact bound, by the things that were drawn and not by the cuttings in them.

    Where an arm has unknown outcomes the bound is of the known alone, and says so.
    """
    found = []
    arms = len(observations.arms)
    rooted, stuck = observations.rooted.sum(axis=0).tolist(), observations.stuck.sum(axis=0).tolist()
    counted = np.bincount(layout_of(observations).replicates.arm, minlength=arms).tolist()
    unknown = observations.left_out.sum(axis=0).tolist()
    what = layout_of(observations).replicates_are
    for name, k, n, units, out in zip(observations.labels, rooted, stuck, counted, unknown, strict=True):
        bound = bound_of_none(units)
        if bound is None or units < 2 or k not in (0, n):
            continue
        limit = (
            _("below {bound:.0f} %", bound=100 * bound) if k == 0 else _("above {bound:.0f} %", bound=100 * (1 - bound))
        )
        found.append(
            caution(
                "none_or_all",
                arm=name,
                which=N_("none") if k == 0 else N_("all"),
                n=n,
                did=clause(f"did/{kind.response}"),
                inside=_(" in {units} {what}", units=units, what=what) if units < n else "",
                limit=limit,
                but=_(", but {out} more {out:~is|are} unknown", out=out) if out else "",
            )
        )
    return found


def _questioned(observations: Observations, response: Response) -> list[Caution]:
    rows = [row for row in observations.rows if row.questioned]
    if not rows:
        return []
    where = ", ".join(str(row.line) for row in rows[:6] if row.line) + (_(" and more") if len(rows) > 6 else "")
    lines = _(" ({n:~line|lines} {where})", n=len(rows), where=where) if where else ""
    did = kind_of(response).did
    return [caution("state_against_rooted", n=len(rows), lines=lines, did=did, state=rows[0].state, serious=True)]


def _earlier_roots(observations: Observations) -> list[Caution]:
    """Cuttings that had roots when they were stuck, by arm."""
    starts = {row.start for row in observations.rows}
    rooted = {start for start in starts if any(name == EARLIER_ROOTS and cell != "0" for name, cell in start)}
    had = [row for row in observations.rows if row.start in rooted] if rooted else []
    if not had:
        return []
    by_arm = {arm: sum(row.levels == arm for row in had) for arm in observations.arms}
    parts = ", ".join(
        _("{n} of {name}", n=n, name=name) for name, n in zip(observations.labels, by_arm.values(), strict=True) if n
    )
    unknown = sum(not row.known for row in had)
    return [caution("earlier_roots", n=len(had), parts=parts, unknown=unknown)]


def _nothing_known(observations: Observations) -> list[Caution]:
    return [
        caution(
            "nothing_known",
            arm=observations.labels[arm],
            out=int(observations.left_out[:, arm].sum()),
            serious=True,
        )
        for arm in observations.unknown_arms
    ]


def _left_out(observations: Observations, response: Response) -> list[Caution]:
    out, share = observations.left_out.sum(axis=0), observations.share_left_out
    if out.sum() == 0:
        return []
    worst = int(share.argmax())
    many = bool(share.max() > LEFT_OUT_SHARE)
    parts = ", ".join(
        _("{n} from {name}", n=n, name=name) for name, n in zip(observations.labels, out.tolist(), strict=True) if n
    )
    tail = clause("left_out_many", share=f"{100 * share[worst]:.0f} %", arm=observations.labels[worst]) if many else ""
    return [
        caution("left_out", out=int(out.sum()), parts=parts, many=tail, serious=many and kind_of(response).ends is None)
    ]


def _not_stuck(observations: Observations) -> list[Caution]:
    empty = observations.not_stuck
    planned = empty + observations.stuck.sum(axis=0) + observations.left_out.sum(axis=0)
    share = empty / np.maximum(1, planned)
    if share.max() - share.min() <= NOT_STUCK_UNEVEN:
        return []
    parts = ", ".join(
        _("{n} of {m} of {name}", n=n, m=m, name=name)
        for name, n, m in zip(observations.labels, empty.tolist(), planned.tolist(), strict=True)
    )
    return [caution("not_stuck_uneven", parts=parts)]


def _described_only(observations: Observations, kind: Kind) -> list[Caution]:
    worst = int(observations.share_left_out.argmax())
    share = float(observations.share_left_out[worst])
    if share <= kind.described_beyond:
        return []
    out = int(observations.left_out[:, worst].sum())
    stuck = out + int(observations.stuck[:, worst].sum())
    arm = observations.labels[worst]
    return [
        caution(
            "described_only", response=kind.heading, out=out, stuck=stuck, arm=arm, share=percent(share, stuck), serious=True
        )
    ]  # fmt: skip


def _ranges(comparisons: list[Comparison]) -> list[Caution]:
    """The first whose verdict hangs on its unknown outcomes, once."""
    return [doubt for c in comparisons for doubt in range_doubt(c)][:1]


def _lacking(observations: Observations) -> list[Caution]:
    lacking = layout_of(observations).lacking()
    missing = [
        _(
            "{block} lacks {spoken}",
            block=spoken_level("block", observations.blocks[block]),
            spoken=observations.labels[arm],
        )
        for block, arm in lacking
    ]
    more = [_("{n} more", n=len(missing) - 4)] if len(missing) > 4 else []
    return [caution("block_lacks_arm", missing="; ".join([*missing[:4], *more]))] if missing else []


def _interactions(terms: list[TermResult]) -> list[Caution]:
    for term in terms:
        if len(term.factors) > 1 and term.p is not None and term.p < INTERACTION:
            first, *others = term.factors
            return [caution("interaction", first=first, second=all_of(others), p=bare_p(term.p))]
    return []


def _models(test: RandomisationTest, model: ModelTest, models: list[ModelTest]) -> list[Caution]:
    lost = [m.name for m in [model, *models] if m.p is None and m.name != "no model"]
    found = []
    if (lost and test.p is not None) or any(m.p is None and m.name != "no model" for m in models):
        found.append(caution("model_not_finite", model=model_named(lost[0])))
    if model.name == "Poisson":
        found.append(caution("no_overdispersion"))
    return found
