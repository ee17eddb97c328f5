"""The smallest adjusted p that the comparisons of a trial could have reached, whatever had been seen."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from orderly_bench.core.judgement.comparisons import JOINT, Comparison
from orderly_bench.core.layouts.draws import for_all_arms, for_pair, frame_of_factor
from orderly_bench.core.layouts.frame import Frame
from orderly_bench.core.layouts.from_rows import layout_of
from orderly_bench.core.layouts.reach import apart
from orderly_bench.core.methods import additive, redrawn
from orderly_bench.core.methods.holm import holm
from orderly_bench.core.methods.hypergeometric import two_sided_p
from orderly_bench.core.observations.table import Observations
from orderly_bench.core.randomise.shuffled import ShuffledWithin

DRAWS = 2_000
#: More assignments of a pair than this reach any alpha that is asked.
ENOUGH = 1e7


def smallest_adjusted(observations: Observations, comparisons: Sequence[Comparison]) -> list[float | None]:
    """Of every comparison of a family, Holm over the smallest p that each could have had; None where it has no p at all.

    One side all, the other none: no outcome has a smaller p by the same draw. A joint redraw of all arms adjusts by itself, down to the
    p of the pair.
    """
    found = [None if c.p is None else smallest_of(observations, c) for c in comparisons]
    return found if any(c.adjusted_by == JOINT for c in comparisons) else holm(found)


def smallest_of(observations: Observations, comparison: Comparison) -> float:
    """The smallest p that one comparison could have had; what was seen was reached."""
    least = _smallest(observations, comparison)
    return least if comparison.p is None else min(least, comparison.p)


def _smallest(o: Observations, c: Comparison) -> float:
    if c.factor is not None:
        return _of_levels(o, c.factor, c.a.index, c.b.index)
    home, a, b = layout_of(o).home(c.a.index, c.b.index)
    if layout_of(home).whole_redraw:
        return _of_redrawn(home, a, b)
    drawn = for_pair(home, a, b)
    if drawn is None or not isinstance(drawn.layout, ShuffledWithin):
        return 1.0
    return _of_counts(drawn.layout.counts)


def _of_counts(counts: np.ndarray) -> float:
    """Units of both sides in each stratum, shape (strata, 2): the first all, the second none."""
    mixed = counts[(counts > 0).all(axis=1)]
    if not mixed.size:
        return 1.0
    from scipy.special import gammaln

    ways = float((gammaln(mixed.sum(axis=1) + 1) - gammaln(mixed + 1).sum(axis=1)).sum())
    if ways > np.log(ENOUGH):
        return float(2 * np.exp(-ways))
    return two_sided_p(np.column_stack([mixed[:, 0], np.zeros(len(mixed), dtype=int)]), mixed)


def _of_levels(o: Observations, factor: int, a: int, b: int) -> float:
    frame = frame_of_factor(o, factor)
    if frame is None:
        return 1.0
    if not frame.modelled:
        return _of_counts(frame.counts(a, b))
    drawn = for_all_arms(o)
    if drawn is None:
        return 1.0
    smaller, larger = additive.alike(o.level_index, factor, a, b), additive.main_effects(o.level_index)
    values = _extreme(frame, a, b)
    return additive.test(values, drawn.layout, smaller, larger, np.random.default_rng(0), DRAWS).p or 1.0


def _extreme(frame: Frame, a: int, b: int) -> np.ndarray:
    return np.where(frame.label == a, 1.0, np.where(frame.label == b, 0.0, 0.5))


def _of_redrawn(o: Observations, a: int, b: int) -> float:
    """The least over the others being all, none, or between."""
    drawn = for_all_arms(o)
    if drawn is None:
        return 1.0
    kept = o.worked_out.setdefault("smallest_redrawn", {})
    key = (min(a, b), max(a, b))
    if key not in kept:
        arm = drawn.layout.arm
        if "redraws" not in kept:
            kept["redraws"] = drawn.layout.redraw(np.random.default_rng(0), DRAWS)
        found = []
        for of_arm in apart(len(o.arms), *key):
            test = redrawn.tests(of_arm[arm], drawn.layout, np.random.default_rng(0), DRAWS, kept["redraws"])[1][key]
            found.append(1.0 if test.p is None else test.p)
        kept[key] = min(found)
    smallest: float = kept[key]
    return smallest
