"""Units of very unequal size: the same test with their means weighted, beside the one that decides.

A unit of n cuttings tells n / (1 + (n - 1) ICC) times as much as one of a single cutting (Kish 1965, *Survey Sampling*, ch. 5). Where
the weighted test falls on the other side of alpha, the comparison is *suggested* at most.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from orderly_bench.core.cautions import Caution
from orderly_bench.core.judgement.comparisons import Comparison, Limits
from orderly_bench.core.judgement.family import adjusted_alike
from orderly_bench.core.layouts.draws import for_pair, frame_of_factor
from orderly_bench.core.layouts.frame import Frame
from orderly_bench.core.layouts.from_rows import layout_of
from orderly_bench.core.messages.numbers import p_value
from orderly_bench.core.messages.say import caution, clause
from orderly_bench.core.methods import permutation
from orderly_bench.core.methods.clusters import cluster_of
from orderly_bench.core.randomise.shuffled import ShuffledWithin
from orderly_bench.core.responses.outcomes import Outcomes

#: The largest unit over the smallest.
VERY_UNEQUAL = 4.0


def very_unequal(outcomes: Outcomes) -> bool:
    """Whether the largest unit holds over four times as many cuttings as the smallest."""
    sizes = outcomes.o.units.cuttings
    return bool(outcomes.o.clustered and sizes.max() > VERY_UNEQUAL * sizes.min())


def with_weights(
    outcomes: Outcomes, comparisons: Sequence[Comparison], rng: np.random.Generator, draws: int
) -> list[Comparison]:
    """The comparisons, those capped that the weighted test would judge otherwise."""
    found = [None if c.p is None else _weighted_p(outcomes, c, rng, draws) for c in comparisons]
    adjusted = adjusted_alike(comparisons, found)
    return [
        replace(c, weighted_p=p, limits=Limits(c.limits.untold, (*c.limits.capped, "unit_sizes_differ")))
        if p is not None and c.verdict.clear != (p < c.alpha)
        else c
        for c, p in zip(comparisons, adjusted, strict=True)
    ]


def doubts_of_sizes(outcomes: Outcomes, comparisons: Sequence[Comparison]) -> list[Caution]:
    """The first comparison that the weights change, once."""
    changed = next((c for c in comparisons if c.weighted_p is not None), None)
    if changed is None:
        return []
    sizes = outcomes.o.units.cuttings
    key = "weights/clear" if (changed.weighted_p or 0.0) < changed.alpha else "weights/open"
    said = clause(key, a=changed.a.label, b=changed.b.label, p=p_value(changed.weighted_p))
    return [caution("unit_sizes_differ", "weighted", least=int(sizes.min()), most=int(sizes.max()), changed=said)]


def _weighted_p(outcomes: Outcomes, c: Comparison, rng: np.random.Generator, draws: int) -> float | None:
    frame = _frame(outcomes, c)
    if frame is None:
        return None
    icc = max(0.0, cluster_of(outcomes.o.units, outcomes.o.responses, len(outcomes.o.arms)).icc or 0.0)
    weight = frame.sizes / (1 + (frame.sizes - 1) * icc)
    values = outcomes.unit_values(frame)
    total = np.bincount(frame.stratum, weight)
    middle = np.bincount(frame.stratum, weight * values) / np.maximum(total, 1e-300)
    layout = ShuffledWithin(frame.label, frame.stratum)
    return permutation.test(weight * (values - middle[frame.stratum]), layout, rng, draws).p


def _frame(outcomes: Outcomes, c: Comparison) -> Frame | None:
    """The units of both sides, 0 and 1, in their strata; None where the whole layout is redrawn."""
    o = outcomes.o
    if c.factor is not None:
        found = frame_of_factor(o, c.factor)
        return None if found is None or found.modelled else found.only(c.a.index, c.b.index)
    layout = layout_of(o)
    if layout.whole_redraw or layout.parts or for_pair(o, c.a.index, c.b.index) is None:
        return None
    return layout.frame(c.a.index, c.b.index).only(c.a.index, c.b.index)
