"""The tally of sticking: stuck + not stuck + still planned = planned; stuck + empty = positions."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass
from enum import StrEnum


class Status(StrEnum):
    """What became of a planned place."""

    PLANNED = "planned"
    STUCK = "stuck"
    NOT_STUCK = "not stuck"


#: Why a planned cutting was not stuck.
NOT_STUCK_REASONS = (
    "short of material", "short of medium", "short of containers", "broke", "wilted before sticking", "diseased", "wrong piece", "other",
)  # fmt: skip


@dataclass(frozen=True)
class StickTally:
    """Counts for one arm or for all."""

    planned: int
    stuck: int
    not_stuck: int
    reasons: dict[str, int]

    @property
    def waiting(self) -> int:
        """Planned places not yet decided."""
        return self.planned - self.stuck - self.not_stuck


def tally(cuttings: Iterable[tuple[str, str | None]]) -> StickTally:
    """Tally (status, reason) pairs; status is *planned*, *stuck* or *not stuck*."""
    pairs = list(cuttings)
    statuses = Counter(status for status, _ in pairs)
    reasons = Counter(reason or "other" for status, reason in pairs if status == "not stuck")
    return StickTally(len(pairs), statuses["stuck"], statuses["not stuck"], dict(reasons))
