"""Whether arms started alike in a size, such as a length, or in a kind, such as a grade.

They start apart in a size when their means lie more than a quarter of the spread of the cuttings apart (Rubin 2001, Health Serv
Outcomes Res Methodol 2:169), in either when an arm is also further off than one cutting would put it.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import combinations

import numpy as np

from orderly_bench.core.messages.translation import all_of
from orderly_bench.core.messages.translation import gettext as _

#: Of the spread of the cuttings, between two arms' means.
FAR_APART = 0.25
#: A kind with more than one level for so many cuttings is not held against the arms.
CUTTINGS_A_LEVEL = 4
NO_VARIANCE = 1e-12


@dataclass(frozen=True)
class Start:
    """One thing that the cuttings started with, in which the arms differ; ``words`` say how, ``far`` by how many spreads."""

    name: str
    words: str
    far: float = 0.0


def sizes_in(cells: Sequence[str]) -> np.ndarray | None:
    """The cells as numbers, a blank as none; None where they are kinds. Shape (cuttings,)."""
    try:
        found = np.array([float(cell.replace(",", ".")) if cell else np.nan for cell in cells])
    except ValueError:
        return None
    return found if np.isfinite(found).any() and not np.isinf(found).any() else None


def apart(name: str, cells: Sequence[str], arm: np.ndarray, spoken: Sequence[str], called: str = "") -> Start | None:
    """How arms differ in one thing that each cutting started with; None where they started alike.

    Parameters
    ----------
    name : str
        Of the thing, as it stands in the words.
    cells : sequence of str, shape (cuttings,)
        Numbers or kinds; blank where not known.
    arm : ndarray of int, shape (cuttings,)
    spoken : sequence of str, shape (arms,)
        Names of the arms.
    called : str
        What it is called in the words, where that is not its name.
    """
    if len(spoken) < 2:
        return None
    sizes, called = sizes_in(cells), called or name
    found = _kinds_apart(called, cells, arm, spoken) if sizes is None else _sizes_apart(called, sizes, arm, spoken)
    return None if found is None else replace(found, name=name)


def _sizes_apart(name: str, sizes: np.ndarray, arm: np.ndarray, spoken: Sequence[str]) -> Start | None:
    known = np.isfinite(sizes)
    of_arm = [sizes[(arm == a) & known] for a in range(len(spoken))]
    means = [float(one.mean()) if one.size else np.nan for one in of_arm]
    spread = float(np.sqrt(np.mean([one.var() for one in of_arm if one.size])))
    gap = float(np.nanmax(means) - np.nanmin(means))
    if gap <= FAR_APART * spread or gap <= NO_VARIANCE or _one_makes_it(of_arm):
        return None
    told = [_("{m:.3g} in {spoken}", m=m, spoken=spoken[a]) for a, m in enumerate(means)]
    return Start(name, _("{name} on average ", name=name) + all_of(told), gap / max(spread, NO_VARIANCE))


def _one_makes_it(of_arm: Sequence[np.ndarray]) -> bool:
    """Whether no arm is further from the whole than a single cutting, the furthest from it, would put it."""
    every = np.concatenate(list(of_arm))
    off = max(abs(float((one - every.mean()).sum())) for one in of_arm)
    return off <= float(np.abs(every - every.mean()).max()) + NO_VARIANCE


def _kinds_apart(name: str, cells: Sequence[str], arm: np.ndarray, spoken: Sequence[str]) -> Start | None:
    kinds, arms = sorted(set(cells) - {""}), range(len(spoken))
    if len(kinds) < 2 or len(kinds) * CUTTINGS_A_LEVEL > len(cells):
        return None
    table = np.array(
        [[sum(1 for c, a in zip(cells, arm, strict=True) if c == kind and a == one) for one in arms] for kind in kinds]
    )
    size = np.bincount(arm, minlength=len(spoken))
    expected = table.sum(axis=1, keepdims=True) * size / size.sum()
    share = table / np.maximum(1, size)
    whole = table.sum(axis=1) / size.sum()
    far = max(
        abs(share[i, a] - share[i, b]) / max(NO_VARIANCE, float(np.sqrt(whole[i] * (1 - whole[i]))))
        for i in range(len(kinds))
        for a, b in combinations(arms, 2)
    )
    off = np.abs(table - expected).max(axis=1)
    if off.max() <= 1 + NO_VARIANCE or far <= FAR_APART:
        return None
    kind = min(range(len(kinds)), key=lambda i: (-off[i], whole[i]))  # of two as far off, the rarer tells more
    counts = all_of(
        [_("{table} of {size} in {spoken}", table=table[kind, a], size=size[a], spoken=spoken[a]) for a in arms]
    )
    return Start(name, f"{name} {kinds[kind]}: {counts}", float(far))
