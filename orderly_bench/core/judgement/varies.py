"""Does a difference hold in every stratum? Held over one grouping at a time: blocks, waves, each other factor."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from orderly_bench.core.layouts.frame import Frame
from orderly_bench.core.methods import heterogeneity
from orderly_bench.core.methods.heterogeneity import Strata
from orderly_bench.core.methods.holm import holm
from orderly_bench.core.responses.outcomes import Outcomes

#: An adjusted p below this ends *practically the same*.
ENDS_THE_SAME = 0.10
#: An adjusted p of a reversal below this makes that it can't be told.
REVERSES = 0.05
#: Units of each side that a stratum needs to be held against the others.
LEAST_A_SIDE = 2
#: Over blocks, a reversal rests on so many units of each side in every one of them.
FIRM_A_SIDE = 5


@dataclass(frozen=True)
class Grouping:
    """What the strata are gathered by: blocks, waves, another factor.

    ``group`` is that of each unit of the frame, as an index of ``names``; ``by_block`` where they are blocks.
    """

    over: str
    name: str
    names: tuple[str, ...]
    group: np.ndarray
    by_block: bool = False


@dataclass(frozen=True)
class Varies:
    """How the difference varies over one grouping.

    Attributes
    ----------
    p, p_adjusted : float or None
        That one difference holds in every stratum; Holm over the groupings.
    reversal_p, reversal_p_adjusted : float or None
        That the sides do not change places.
    differences : tuple of (str, float)
        First minus second side in each stratum.
    fragile : bool
        Blocks with too few units of a side for a reversal to count.
    """

    over: str
    name: str
    p: float | None
    reversal_p: float | None
    differences: tuple[tuple[str, float], ...]
    fragile: bool
    p_adjusted: float | None = None
    reversal_p_adjusted: float | None = None

    @property
    def ends_the_same(self) -> bool:
        """Whether the two can't be called the same."""
        return self.p_adjusted is not None and self.p_adjusted < ENDS_THE_SAME

    @property
    def reverses(self) -> bool:
        """Whether the sides change places."""
        return self.reversal_p_adjusted is not None and self.reversal_p_adjusted < REVERSES

    def turned(self) -> Varies:
        """With the sides the other way round."""
        return replace(self, differences=tuple((name, -d) for name, d in self.differences))


def how_it_varies(
    outcomes: Outcomes, frame: Frame, a: int, b: int, groupings: Sequence[Grouping]
) -> tuple[Varies, ...] | None:
    """Heterogeneity and reversal over each grouping; None where none can be held against the strata."""
    found = [one for grouping in groupings if (one := _over(outcomes, frame, a, b, grouping)) is not None]
    if not found:
        return None
    adjusted = holm([one.p for one in found])
    reversals = holm([one.reversal_p for one in found])
    return tuple(
        replace(one, p_adjusted=p, reversal_p_adjusted=r) for one, p, r in zip(found, adjusted, reversals, strict=True)
    )


def _over(outcomes: Outcomes, frame: Frame, a: int, b: int, grouping: Grouping) -> Varies | None:
    n = np.column_stack(
        [np.bincount(grouping.group[frame.label == side], minlength=len(grouping.names)) for side in (a, b)]
    )
    held = np.flatnonzero((n >= LEAST_A_SIDE).all(axis=1))
    if held.size < 2:
        return None
    kept = np.isin(frame.label, [a, b]) & np.isin(grouping.group, held)
    group = grouping.group[kept]
    single = outcomes.kind.yes_no and frame.single
    fragile = grouping.by_block and int(n[held].min()) < FIRM_A_SIDE
    first = frame.label[kept] == a
    values = outcomes.unit_values(frame)[kept]
    counts = _counts(values, first, group, held) if single else None
    if counts is not None and not frame.modelled and np.unique(frame.stratum[kept]).size == held.size:
        p = heterogeneity.zelen(*counts)
        strata: Strata | None = heterogeneity.of_counts(*counts)
        shown = counts[0] / counts[1]
        differences = (shown[:, 0] - shown[:, 1]).tolist()
    else:
        beside = [g[kept] for g in frame.groupings] if frame.modelled else [frame.stratum[kept]]
        tested = heterogeneity.interaction(values, first, beside, group)
        if tested is None:
            return None
        p, strata = tested.p, tested.by_group
        differences = strata.difference.tolist()
        held = held[tested.told]
        if tested.residual <= 0:
            strata = _when_nothing_varies(outcomes, frame, kept, first, group, held)
    reversal = heterogeneity.reversal(strata) if strata is not None else None
    if p is None and reversal is None:
        return None
    named = tuple((grouping.names[i], d) for i, d in zip(held.tolist(), differences, strict=True))
    return Varies(grouping.over, grouping.name, p, reversal, named, fragile)


def _counts(
    values: np.ndarray, first: np.ndarray, group: np.ndarray, held: np.ndarray
) -> tuple[np.ndarray, np.ndarray]:
    tables = [
        np.column_stack([np.bincount(group[side], w[side], minlength=int(held.max()) + 1) for side in (first, ~first)])
        for w in (values, np.ones(values.size))
    ]
    rooted, stuck = (np.rint(t).astype(int)[held] for t in tables)
    return rooted, stuck


def _when_nothing_varies(
    outcomes: Outcomes, frame: Frame, kept: np.ndarray, first: np.ndarray, group: np.ndarray, held: np.ndarray
) -> Strata | None:
    """Units of a yes or no that are all alike count as their cuttings; others have no measure of a reversal."""
    if not outcomes.kind.yes_no:
        return None
    sizes = frame.sizes[kept]
    totals = frame.means(outcomes.o.responses)[kept] * sizes
    tables = [
        np.column_stack([np.bincount(group[side], w[side], minlength=int(held.max()) + 1) for side in (first, ~first)])
        for w in (totals, sizes)
    ]
    rooted, stuck = (np.rint(t).astype(int)[held] for t in tables)
    return heterogeneity.of_counts(rooted, stuck)
