"""The smallest p that any outcome can reach: arms that rooted fully against arms that did not at all."""

from __future__ import annotations

from itertools import combinations

import numpy as np

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.methods.hypergeometric import log_choose, two_sided_p

MOST_PER_ARM = 2_000


def check_per_arm(per_arm: int, blocks: int) -> None:
    """Refuse numbers that no bench holds or that do not divide over the blocks."""
    if not 1 <= per_arm <= MOST_PER_ARM:
        raise InvalidInput(
            "cuttings per arm", _("must be between 1 and {most_per_arm}", most_per_arm=MOST_PER_ARM), per_arm
        )
    if blocks < 1:
        raise InvalidInput("blocks", _("must be 1 or more"), blocks)
    if per_arm % blocks:
        raise InvalidInput("cuttings per arm", _("must be a multiple of the {blocks} blocks", blocks=blocks), per_arm)


def smallest_pair_p(per_arm: int, blocks: int = 1) -> float:
    """p of one arm fully rooted against none, ``per_arm`` cuttings each, over equal blocks.

    Equals 2 / C(2u, u)^blocks with u cuttings per arm and block.
    """
    check_per_arm(per_arm, blocks)
    u = per_arm // blocks
    return two_sided_p(np.tile([u, 0], (blocks, 1)), np.full((blocks, 2), u))


def smallest_overall_p(arms: int, per_arm: int, blocks: int = 1) -> float:
    """Smallest overall p over all splits of the arms into all-rooted and none-rooted."""
    check_per_arm(per_arm, blocks)
    if arms < 2:
        raise InvalidInput("arms", _("must be 2 or more"), arms)
    if arms == 2:
        return smallest_pair_p(per_arm, blocks)
    u = per_arm // blocks
    # By symmetry only the number of rooted arms matters. The extreme split has the least probability
    # of all tables with its margin, shared by every choice of that many arms.
    best = min(float(log_choose(arms, g) - blocks * log_choose(arms * u, g * u)) for g in range(1, arms))
    return float(min(1.0, np.exp(best)))


def smallest_adjusted_pair_p(arms: int, per_arm: int, blocks: int = 1) -> float:
    """Smallest p of a pair after Holm's first step over all pairs: nothing smaller can ever be reached."""
    pairs = len(list(combinations(range(arms), 2)))
    return min(1.0, pairs * smallest_pair_p(per_arm, blocks))
