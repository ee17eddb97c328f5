"""An old trial of which nobody counted what was stuck: what rooted stands alone, beside a range where one is remembered; no rate is made."""

from __future__ import annotations

import re
from collections.abc import Mapping

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.messages.translation import gettext_noop as N_

NOT_KNOWN = N_("not known")
MOST = 100_000
_RANGE = re.compile(r"(\d{1,6})\s*(?:to|-|–)\s*(\d{1,6})", re.IGNORECASE)


def read_stuck(typed: str) -> str:
    """How many an arm were stuck, as it is kept: blank (the file has all), ``not known``, or ``20 to 30``.

    >>> read_stuck("about 20-30"), read_stuck("not known"), read_stuck("")
    ('20 to 30', 'not known', '')
    """
    said = " ".join(typed.split())
    if not said or said.casefold() == NOT_KNOWN:
        return said.casefold()
    hit = _RANGE.search(said)
    if hit is None or not 0 < int(hit[1]) <= int(hit[2]) <= MOST:
        raise InvalidInput(_("stuck in each arm"), _("write a range such as 20 to 30, or not known; blank where the file has all"), said[:40])  # fmt: skip
    return _("{low} to {high}", low=hit[1], high=hit[2])


def counted_alone(rooted: Mapping[str, int], stuck: str) -> str:
    """What can be said: those with roots by arm, and where a range is known between which shares it lies.

    Raises
    ------
    InvalidInput
        More with roots than were stuck at most.

    >>> counted_alone({"bark": 12, "pumice": 7}, "20 to 30")
    'Nobody counted what was stuck, so no rate is made and nothing is compared. With roots: bark 12 (40 to 60 % of 20 to 30), pumice 7 (23 to 35 % of 20 to 30).'
    """
    hit = _RANGE.fullmatch(stuck)
    told = []
    for name, n in rooted.items():
        if hit is None:
            told.append(f"{name} {n}")
            continue
        low, high = int(hit[1]), int(hit[2])
        if n > high:
            raise InvalidInput(
                _("stuck in each arm"),
                _("{n} of {name} have roots, more than were stuck", n=str(n), name=name),
                stuck,
            )
        share = _("{a:.0f} to {b:.0f} % of {stuck}", a=100 * n / high, b=100 * min(1.0, n / low), stuck=stuck)
        told.append(f"{name} {n} ({share})")
    return _(
        "Nobody counted what was stuck, so no rate is made and nothing is compared. With roots: {told}.",
        told=", ".join(told),
    )
