"""How far a check is, and which cutting comes next."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import TypeVar

K = TypeVar("K")


@dataclass(frozen=True)
class Progress:
    """``in_scope`` = seen + carried + unaccounted; passed by = unaccounted before the last one seen."""

    in_scope: int
    seen: int
    carried: int
    passed_by: int

    @property
    def accounted(self) -> int:
        """Cuttings with a kept or carried score."""
        return self.seen + self.carried

    @property
    def unaccounted(self) -> int:
        """Cuttings in scope without a kept or carried score."""
        return self.in_scope - self.accounted

    @property
    def ahead(self) -> int:
        """Unaccounted ones not yet come to."""
        return self.unaccounted - self.passed_by


def progress(order: Sequence[K], seen: set[K], carried: set[K]) -> Progress:
    """Progress over what is scored, by identity in bench order; carried ones need no score."""
    positions = [i for i, cutting in enumerate(order) if cutting in seen]
    last = positions[-1] if positions else -1
    passed = sum(1 for cutting in order[: last + 1] if cutting not in seen and cutting not in carried)
    return Progress(len(order), len(positions), sum(1 for c in order if c in carried and c not in seen), passed)


def next_unscored(order: Sequence[K], accounted: set[K], after: K | None = None) -> K | None:
    """The next unaccounted cutting after ``after`` in bench order, wrapping round; None when all are."""
    start = order.index(after) + 1 if after is not None and after in order else 0
    for cutting in [*order[start:], *order[:start]]:
        if cutting not in accounted:
            return cutting
    return None
