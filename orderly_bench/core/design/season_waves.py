"""How many waves a season needs before season can mean anything: waves are its units."""

from __future__ import annotations

from math import comb

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import gettext as _

MOST = 24


def smallest_p(waves: tuple[int, ...]) -> float:
    """Smallest p that permuting waves over seasons can reach: one arrangement, and for two seasons of one size its mirror.

    Parameters
    ----------
    waves : tuple of int
        Waves of each season.

    Examples
    --------
    >>> round(smallest_p((2, 2)), 4)
    0.3333
    """
    if len(waves) < 2 or min(waves) < 1:
        raise InvalidInput(
            "waves", _("a comparison of seasons needs at least one wave of two seasons"), ", ".join(map(str, waves))
        )
    ways, left = 1, sum(waves)
    for number in waves:
        ways *= comb(left, number)
        left -= number
    alike = 2 if len(waves) == 2 and waves[0] == waves[1] else 1
    return min(1.0, alike / ways)


def least_waves(seasons: int, alpha: float) -> int:
    """Least waves of each season for which the smallest p lies below alpha."""
    return next((n for n in range(1, MOST + 1) if smallest_p((n,) * seasons) < alpha), MOST)
