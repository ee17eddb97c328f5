"""Units drawn to be lifted for good: a destructive look takes some and leaves the rest for the endpoint.

All units in scope are drawn from, however they fare: taking those that live alone would leave the failures behind. Where blocks, pairs
or rows hold the same arms in the same numbers, what stays is laid out alike: as many of each arm go from every block, or whole blocks.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import gettext as _

FIELD = "units of each arm lifted for good"


@dataclass(frozen=True)
class InScope:
    """A unit that can be drawn: its id, its arm's letter, and the block, pair or row it stands in; None where it has none."""

    id: int
    arm: str
    together: str | None = None


def drawn_sample(units: Sequence[InScope], of_each: int, rng: np.random.Generator) -> list[int]:
    """Ids of the drawn units, in the order given.

    Parameters
    ----------
    units : sequence of InScope
    of_each : int
        Units of each arm to draw, at least 1.

    Raises
    ------
    InvalidInput
        An arm would keep none, or blocks that stay alike do not give that number.
    """
    counts = Counter(unit.arm for unit in units)
    fewest = min(counts.values(), default=0)
    if not 1 <= of_each < fewest:
        raise InvalidInput(
            FIELD,
            _("the arm with the fewest has {n:unit|units}, and one at least has to stay of each", n=fewest),
            of_each,
        )
    groups = _alike(units)
    per_group = fewest // len(groups) if groups else 0
    if not groups:
        chosen = _of_each_arm(units, of_each, rng)
    elif of_each % len(groups) == 0:
        chosen = {id for group in groups for id in _of_each_arm(group, of_each // len(groups), rng)}
    elif of_each % per_group == 0:
        taken = [groups[i] for i in rng.permutation(len(groups))[: of_each // per_group]]
        chosen = {unit.id for group in taken for unit in group}
    else:
        raise InvalidInput(
            FIELD,
            _(
                "{blocks} blocks hold {n:unit|units} of each arm: a multiple of {blocks}, as many from every block, or of {n} for whole ones",
                blocks=len(groups),
                n=per_group,
            ),
            of_each,
        )
    return [unit.id for unit in units if unit.id in chosen]


def _of_each_arm(units: Sequence[InScope], number: int, rng: np.random.Generator) -> set[int]:
    chosen: set[int] = set()
    for arm in sorted({unit.arm for unit in units}):
        own = [unit.id for unit in units if unit.arm == arm]
        chosen |= {own[i] for i in rng.permutation(len(own))[:number]}
    return chosen


def _alike(units: Sequence[InScope]) -> list[list[InScope]]:
    """The blocks, where every unit stands in one and all hold every arm in the same number; empty else."""
    groups: dict[str, list[InScope]] = {}
    for unit in units:
        if unit.together is None:
            return []
        groups.setdefault(unit.together, []).append(unit)
    held = [Counter(unit.arm for unit in group) for group in groups.values()]
    even = all(one == held[0] for one in held) and len(set(held[0].values())) == 1 and len(held[0]) > 1
    return list(groups.values()) if even else []


def what_stays(units: Sequence[InScope], drawn: Sequence[int]) -> str:
    """How many are lifted and how many of each arm stay, in words that tell no arm from another."""
    taken = set(drawn)
    left = Counter(unit.arm for unit in units if unit.id not in taken)
    low, high = min(left.values()), max(left.values())
    each = _("{n} of each arm", n=low) if low == high else _("{low} to {high} of each arm", low=low, high=high)
    return _(
        "{n} of {units} units, drawn over the arms, are lifted for good and are in no later count; {each} stay.",
        n=len(taken),
        units=len(units),
        each=each,
    )
