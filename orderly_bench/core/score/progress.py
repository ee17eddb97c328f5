"""How far a check is, and which cutting comes next."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass


@dataclass(frozen=True)
class Progress:
    """``in_scope`` = seen + carried + unaccounted; passed by = unaccounted before the last one seen."""

    in_scope: int
    seen: int
    carried: int
    passed_by: int

    @property
    def unaccounted(self) -> int:
        """Cuttings in scope without a kept or carried score."""
        return self.in_scope - self.seen - self.carried

    @property
    def ahead(self) -> int:
        """Unaccounted ones not yet come to."""
        return self.unaccounted - self.passed_by


def progress(order: Sequence[int], seen: set[int], carried: set[int]) -> Progress:
    """Progress over cuttings in bench order (ids); carried ones need no score."""
    positions = [i for i, cutting in enumerate(order) if cutting in seen]
    last = positions[-1] if positions else -1
    passed = sum(1 for cutting in order[: last + 1] if cutting not in seen and cutting not in carried)
    return Progress(len(order), len(positions), sum(1 for c in order if c in carried and c not in seen), passed)


def next_unscored(order: Sequence[int], accounted: set[int], after: int | None = None) -> int | None:
    """The next unaccounted cutting after ``after`` in bench order, wrapping round; None when all are."""
    start = order.index(after) + 1 if after in order else 0
    for cutting in [*order[start:], *order[:start]]:
        if cutting not in accounted:
            return cutting
    return None
