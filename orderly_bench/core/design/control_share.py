"""How best to share cuttings between a control and the arms compared with it (Dunnett 1955, J Am Stat Assoc 50:1096).

With c arms against one control the differences are known best when the control has the square root of c times as many as each arm.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import sqrt

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import gettext as _


@dataclass(frozen=True)
class Share:
    """Cuttings of the control and of each other arm; ``left`` are over."""

    control: int
    each: int
    left: int

    @property
    def variance(self) -> float:
        """Of a difference, in units of that of one cutting."""
        return 1 / self.control + 1 / self.each


def share_with_control(total: int, arms: int, per_block: int = 1) -> Share:
    """The best whole numbers for so many cuttings.

    Parameters
    ----------
    total : int
        Cuttings in all.
    arms : int
        Arms compared with the control.
    per_block : int
        Both numbers are multiples of it: the blocks, or cuttings in a unit.

    >>> share_with_control(100, 4)
    Share(control=32, each=17, left=0)
    """
    if arms < 1:
        raise InvalidInput("arms", _("must be 1 or more beside the control"), arms)
    if per_block < 1 or total < (arms + 1) * per_block:
        raise InvalidInput(
            "cuttings", _("must be at least {arms}: one for every arm", arms=(arms + 1) * max(1, per_block)), total
        )
    best = round(total / (arms + sqrt(arms)) / per_block)
    tried = []
    for steps in range(max(1, best - 2), best + 3):
        each = steps * per_block
        control = (total - arms * each) // per_block * per_block
        if control >= per_block:
            tried.append(Share(control, each, total - control - arms * each))
    return min(tried, key=lambda share: (share.variance, share.left))
