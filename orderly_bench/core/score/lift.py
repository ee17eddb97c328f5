"""The order in which units are lifted: drawn over all arms, so that no arm lies bare longer or is judged by tired eyes; pairs stay together."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np


def lift_order(units: Sequence[tuple[int, str | None]], rng: np.random.Generator) -> list[int]:
    """Ids of the units in a drawn order.

    Parameters
    ----------
    units : sequence of (int, str or None)
        Id and pair of each; None where it has no pair. Partners are lifted one after the other, which of them first is drawn.
    """
    groups: dict[object, list[int]] = {}
    for unit, pair in units:
        groups.setdefault(unit if pair is None else pair, []).append(unit)
    together = list(groups.values())
    found: list[int] = []
    for place in rng.permutation(len(together)):
        own = together[place]
        found += [own[i] for i in rng.permutation(len(own))]
    return found
