"""The tally of sticking: stuck + not stuck + still planned = planned; stuck + empty = positions."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass
from enum import StrEnum

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import gettext as _


class Status(StrEnum):
    """What became of a planned place."""

    PLANNED = "planned"
    STUCK = "stuck"
    NOT_STUCK = "not stuck"


#: Why a planned cutting was not stuck.
NOT_STUCK_REASONS = (
    "short of material", "short of medium", "short of containers", "broke", "wilted before sticking", "diseased", "wrong piece", "record lost", "other",
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


def check_counted(counted: int | None, rows: list[int], not_stuck: int) -> None:
    """A count of what stands in a tray, held against its places; it is questioned, never fitted in. Nobody counted: nothing is held.

    Parameters
    ----------
    counted : int or None
    rows : list of int
        Planned pieces of each row, those not stuck among them.
    not_stuck : int
        How many of them are noted as not stuck.

    Raises
    ------
    InvalidInput
        The two differ.

    >>> check_counted(60, [30, 30], 0)
    """
    stand = sum(rows) - not_stuck
    if counted is None or counted == stand:
        return
    each = str(rows[0]) if len(set(rows)) == 1 else " + ".join(map(str, rows))
    held = _("{n:row|rows} of {each} {n:~holds|hold} {all}", n=len(rows), each=each, all=sum(rows))
    if not_stuck:
        held = _("{held}, less {n} not stuck: {stand}", held=held, n=not_stuck, stand=stand)
    do = (
        _("Count once more; what is over can be begun as a group beside the trial")
        if counted > stand
        else _("Count once more, or note by code what was not stuck")
    )
    raise InvalidInput("counted here", _("must be what stands here: {held}. {do}", held=held, do=do), counted)
