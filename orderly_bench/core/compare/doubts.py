"""Doubts about a comparison, as coded cautions with remedies."""

from __future__ import annotations

import numpy as np

from orderly_bench.core.cautions import Caution
from orderly_bench.core.compare import additive
from orderly_bench.core.compare.comparisons import Comparison
from orderly_bench.core.compare.logistic import ModelTest
from orderly_bench.core.compare.observations import Observations
from orderly_bench.core.compare.rates import bound_of_none
from orderly_bench.core.compare.wording import listed, points
from orderly_bench.core.randomise.randomisation import RandomisationTest

LEFT_OUT_SHARE = 0.05
FEW_UNITS = 6
ONE_POINT = 0.01


def doubts_about(
    observations: Observations,
    alpha: float,
    test: RandomisationTest,
    model: ModelTest,
    comparisons: list[Comparison],
    models: list[ModelTest],
) -> list[Caution]:
    """All cautions raised by the table and its analysis, most general first."""
    binary = set(np.unique(observations.responses)) <= {0.0, 1.0} and not any(row.outcome for row in observations.known)
    found = [
        *_not_randomised(observations),
        *_entangled(observations),
        *_few_units(observations),
        *_sparse(alpha, test, comparisons),
        *(_silent_strata(observations) if binary else []),
        *(_at_the_ends(observations) if binary else []),
        *_questioned(observations),
        *_left_out(observations),
        *_lacking(observations),
        *_unweighted(observations, comparisons),
        *(_raw_against_adjusted(comparisons) if binary else []),
        *_no_estimate(comparisons),
        *_disagreement(alpha, test, model),
    ]
    lost = [m.name for m in [model, *models] if m.p is None and m.name != "no model"]
    if (lost and test.p is not None) or any(m.p is None and m.name != "no model" for m in models):
        found.append(
            Caution(
                "model_not_finite",
                f"The {lost[0]} model has no finite fit here, so it gives no second opinion; the randomisation test stands.",
                "Nothing need be done; more cuttings would let the model fit",
            )
        )
    if model.name == "Poisson":
        found.append(
            Caution(
                "no_overdispersion",
                "Root numbers vary no more than chance would have it, so Poisson is used.",
                "Nothing need be done",
            )
        )
    if (
        test.p is not None
        and test.p >= 0.9999
        and binary
        and observations.rooted.sum() in (0, observations.stuck.sum())
    ):
        found.append(_nothing_varies(observations))
    return found


def _not_randomised(observations: Observations) -> list[Caution]:
    found = []
    if any(len(observations.level_names[f]) > 1 for f in observations.not_drawn):
        found.append(
            Caution(
                "season_not_waves",
                "Season was not drawn, and without waves it can't be told apart from that particular week: no p and no verdict.",
                "Give the wave of every cutting, with at least two waves in each season",
                serious=True,
            )
        )
    if observations.waved:
        found.append(
            Caution(
                "season_not_assigned",
                "Season can't be assigned: its p permutes waves and assumes that they could have fallen either way.",
                "Repeat over years before trusting it",
            )
        )
        waves = observations.group_index(lambda r: r.wave)
        if any(np.unique(waves[observations.arm_of_known == a]).size < 2 for a in range(len(observations.arms))):
            found.append(
                Caution(
                    "waves_not_replicated",
                    "With one wave in a season the difference can't be told apart from that particular week.",
                    "Stick at least two waves in each season",
                    serious=True,
                )
            )
    return found


def _entangled(observations: Observations) -> list[Caution]:
    """Factors that can't be told from the others added up, or only as if no two worked together."""
    if len(observations.factors) < 2:
        return []
    levels, factors = observations.level_index, range(len(observations.factors))
    found = []
    mixed = [observations.factors[f] for f in factors if not additive.estimable(levels, f)]
    if mixed:
        found.append(
            Caution(
                "aliased",
                f"{listed(mixed)} changed together from arm to arm: what one of them does can't be told from the others.",
                "Compare whole arms, and add the arms that would tell them apart",
                serious=True,
            )
        )
    fraction = [observations.factors[f] for f in factors if additive.needs_all_factors(observations, f)]
    if fraction:
        found.append(
            Caution(
                "aliased_with_interaction",
                f"Not every combination was stuck: {listed(fraction)} can't be told from what other factors do together, "
                "and the tests assume that no two of them work together.",
                "Stick all combinations to see whether they do",
            )
        )
    return found


def _few_units(observations: Observations) -> list[Caution]:
    if observations.grouped:
        return _few_groups(observations)
    if not observations.clustered:
        return _one_cutting(observations)
    per_arm = np.bincount(observations.units.arm, minlength=len(observations.arms))
    if per_arm.min() < 2:
        names = ", ".join(n for n, m in zip(observations.names, per_arm.tolist(), strict=True) if m < 2)
        return [
            Caution(
                "one_unit",
                f"{names}: one unit is one replicate, however many cuttings it holds; no p and no interval can be had.",
                "Give each arm several pots or vessels of its own",
                serious=True,
            )
        ]
    if per_arm.min() < FEW_UNITS:
        return [
            Caution(
                "few_units",
                f"Only {per_arm.min()} units in the smallest arm: intervals from few units are fragile.",
                "More units with fewer cuttings each would say more",
            )
        ]
    return []


def _one_cutting(observations: Observations) -> list[Caution]:
    alone = [n for n, m in zip(observations.names, observations.stuck.sum(axis=0).tolist(), strict=True) if m == 1]
    if not alone:
        return []
    return [
        Caution(
            "one_unit",
            f"{listed(alone)}: a single cutting is one replicate; no p can be had, and its interval is all but everything.",
            "Stick more of this arm, or leave it out of the comparison",
            serious=True,
        )
    ]


def _few_groups(observations: Observations) -> list[Caution]:
    """Whole plots or waves are the replicates of what was put on them."""
    what = "whole plots" if observations.split else "waves"
    per_arm = np.bincount(observations.replicates.arm, minlength=len(observations.arms))
    if not 2 <= per_arm.min() < FEW_UNITS:
        return []
    return [
        Caution(
            "few_units",
            f"Only {per_arm.min()} {what} in the smallest arm: what differs between {what} rests on so many.",
            f"More {what} with fewer cuttings each would say more",
        )
    ]


def _silent_strata(observations: Observations) -> list[Caution]:
    """Blocks or pairs in which all or none rooted, or one arm stands alone, say nothing about the difference."""
    if len(observations.blocks) < 2 or observations.incomplete:
        return []
    rooted, stuck = observations.rooted.sum(axis=1), observations.stuck.sum(axis=1)
    silent = int(((rooted == 0) | (rooted == stuck)).sum())
    if silent <= len(observations.blocks) / 2 or rooted.sum() in (0, stuck.sum()):
        return []
    what = "pairs" if observations.paired else "blocks"
    return [
        Caution(
            "sparse_strata",
            f"In {silent} of {len(observations.blocks)} {what} all or none rooted; the comparison rests on the other {len(observations.blocks) - silent}.",
            "Larger blocks would let more of them speak, or judge at a day when about half have rooted",
        )
    ]


def _sparse(alpha: float, test: RandomisationTest, comparisons: list[Comparison]) -> list[Caution]:
    """No outcome of the layout could have been clear: p can't get below what it is with so few assignments."""
    if test.p is not None and test.exact and test.p >= alpha and all(c.p is None or c.p >= alpha for c in comparisons):
        extreme = [
            c
            for c in comparisons
            if c.a.rate is not None and c.b.rate is not None and {c.a.rate, c.b.rate} == {0.0, 1.0}
        ]
        if extreme:
            return [
                Caution(
                    "sparse_strata",
                    f"All against none still gives p = {test.p:.2g}: a layout this small can't convince, whatever happens.",
                    "Stick more per arm and block",
                    serious=True,
                )
            ]
    return []


def _unweighted(observations: Observations, comparisons: list[Comparison]) -> list[Caution]:
    """The difference of mean unit proportions lies over a point from the difference of k/n."""
    if not observations.clustered:
        return []
    away = [
        c for c in comparisons if c.difference.estimate is not None and c.a.rate is not None and c.b.rate is not None
    ]
    far = [c for c in away if abs((c.a.rate or 0) - (c.b.rate or 0) - (c.difference.estimate or 0)) > ONE_POINT]
    if not far or not set(np.unique(observations.responses)) <= {0.0, 1.0}:
        return []
    return [
        Caution(
            "unit_sizes_differ",
            f"Units differ in size: {far[0].a.name} against {far[0].b.name} by unit means is over a point away from the difference of k of n.",
            "The unit means were randomised and decide; keep units of one size next time",
        )
    ]


def _raw_against_adjusted(comparisons: list[Comparison]) -> list[Caution]:
    far = [c for c in comparisons if c.far_from_raw]
    if not far:
        return []
    turned = [c for c in far if c.reversed_by_adjustment]
    worst = (turned or far)[0]
    raw, adjusted = points(worst.raw, True), points(worst.difference.estimate, True)
    return [
        Caution(
            "raw_against_adjusted",
            f"{worst.a.name} against {worst.b.name}: {raw} points as counted, {adjusted} adjusted for where they stood.",
            "The adjusted difference compares like with like; see how the arms are spread over blocks and units",
            serious=bool(turned),
        )
    ]


def _no_estimate(comparisons: list[Comparison]) -> list[Caution]:
    if not any(c.difference.estimate is None and c.p is not None for c in comparisons):
        return []
    return [
        Caution(
            "no_ratio",
            "An arm with mean 0 has no ratio; its p and the means stand alone.",
            "Compare rooting itself, or look at a later day",
        )
    ]


def _nothing_varies(observations: Observations) -> Caution:
    what = "Nothing rooted" if observations.rooted.sum() == 0 else "Everything rooted"
    return Caution(
        "nothing_varies",
        f"{what} in any arm, which tells nothing about these treatments where they do differ.",
        "Check at another day, or compare speed, number or length of roots",
        serious=True,
    )


def _at_the_ends(observations: Observations) -> list[Caution]:
    """None or all of an arm rooted: the exact bound, by the things that were drawn and not by the cuttings in them."""
    found = []
    arms = len(observations.arms)
    rooted, stuck = observations.rooted.sum(axis=0).tolist(), observations.stuck.sum(axis=0).tolist()
    counted = np.bincount(observations.replicates.arm, minlength=arms).tolist()
    what = "whole plots" if observations.split else "waves" if observations.waved else "units"
    for name, k, n, units in zip(observations.names, rooted, stuck, counted, strict=True):
        bound = bound_of_none(units)
        if bound is None or units < 2 or k not in (0, n):
            continue
        which = "none" if k == 0 else "all"
        limit = f"below {100 * bound:.0f} %" if k == 0 else f"above {100 * (1 - bound):.0f} %"
        inside = f" in {units} {what}" if units < n else ""
        found.append(
            Caution(
                "none_or_all",
                f"{name}: {which} of {n} rooted{inside}. The true rate is {limit} at 95 %, one-sided.",
                "More cuttings of this arm would narrow it",
            )
        )
    return found


def _questioned(observations: Observations) -> list[Caution]:
    rows = [row for row in observations.rows if row.questioned]
    if not rows:
        return []
    where = ", ".join(str(row.line) for row in rows[:6] if row.line) + (" and more" if len(rows) > 6 else "")
    lines = f" ({'line' if len(rows) == 1 else 'lines'} {where})" if where else ""
    has = "cutting has" if len(rows) == 1 else "cuttings have"
    return [
        Caution(
            "state_against_rooted",
            f"{len(rows)} {has} an outcome that the state rules out{lines}, such as rooted and {rows[0].state}; counted as unknown.",
            "Say which of the two is right",
            serious=True,
        )
    ]


def _left_out(observations: Observations) -> list[Caution]:
    out, known = observations.left_out.sum(axis=0), observations.stuck.sum(axis=0)
    if out.sum() == 0:
        return []
    share = out / np.maximum(1, out + known)
    worst = int(share.argmax())
    many = bool(share.max() > LEFT_OUT_SHARE)
    parts = ", ".join(f"{n} from {name}" for name, n in zip(observations.names, out.tolist(), strict=True) if n)
    verb = "cutting has" if out.sum() == 1 else "cuttings have"
    text = f"{out.sum()} {verb} no known outcome ({parts})."
    if many:
        text += f" That is {100 * share[worst]:.0f} % of {observations.names[worst]}; a result can hang on them."
    return [
        Caution(
            "left_out", text, "Look at the range from all failed to all rooted; find and score them if you can", many
        )
    ]


def _lacking(observations: Observations) -> list[Caution]:
    if not observations.blocks or observations.paired:
        return []
    missing = [
        f"{block} lacks {observations.names[arm]}"
        for row, block in enumerate(observations.blocks)
        for arm in np.flatnonzero(observations.stuck[row] == 0)
    ]
    if not missing:
        return []
    return [
        Caution(
            "block_lacks_arm",
            f"{'; '.join(missing[:4])}. Such a block adds nothing to that arm's comparisons.",
            "Read the differences as coming from the other blocks",
        )
    ]


def _disagreement(alpha: float, test: RandomisationTest, model: ModelTest) -> list[Caution]:
    if test.p is None or model.p is None or (test.p < alpha) == (model.p < alpha):
        return []
    return [
        Caution(
            "judges_disagree",
            f"The randomisation test (p {test.p:.2g}) and the {model.name} model (p {model.p:.2g}) fall on different sides of {alpha:g}.",
            "The randomisation test decides; treat the result as close to the line and repeat with more cuttings",
        )
    ]
