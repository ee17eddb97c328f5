"""The card of steps at the tray: the lab's own for a kind of cutting, else those usual for such pieces.

The usual ones: Hartmann and Kester's Plant Propagation, 8th ed. (2011), chapter 10.
"""

from __future__ import annotations

import re

from orderly_bench.core.messages.translation import gettext_noop as N_

MOST_STEPS, LONGEST_STEP = 12, 60
WIPED, HOLE, UP = N_("blade wiped between plants"), N_("hole first, then the piece"), N_("buds up")
COMMON = (WIPED, N_("base recut"), N_("leaves off below the line"), HOLE, UP)
#: Of kinds of pieces whose name holds such a word.
_OF_KIND = (
    (r"root", (WIPED, N_("top cut flat, bottom slanting"), HOLE, N_("flat end up"))),
    (r"leaf|leaves|blade", (WIPED, N_("stalk recut"), N_("upper side up"), N_("vein or stalk in the medium"))),
    (r"hard|dormant|stick", (WIPED, N_("cut straight below a bud, slanting above the top one"), HOLE, UP, N_("two buds in the medium"))),
    (r"heel", (WIPED, N_("tail of the heel trimmed"), N_("leaves off below the line"), HOLE, UP)),
)  # fmt: skip
#: Pieces of a shoot, whatever else their name says of leaves or roots.
_OF_A_SHOOT = re.compile(r"\b(?:tip|stem|shoot|node|nodal|internode|mallet|basal|cane)s?\b")
#: What else is done with pieces that were bought or sent in.
SENT_IN = (N_("pieces washed"), N_("gel rinsed off"))


def steps_for(own: str, cutting_type: str, sent_in: bool) -> list[str]:
    """The steps in their order; ``own`` is the card's, with ; between them.

    >>> steps_for("", "semi-hard tip", False)[:2]
    ['blade wiped between plants', 'base recut']
    >>> steps_for("bark slit; laid flat", "", True)
    ['bark slit', 'laid flat', 'pieces washed', 'gel rinsed off']
    """
    typed = [" ".join(step.split())[:LONGEST_STEP] for step in own.split(";")]
    found: list[str] = [step for step in typed if step][:MOST_STEPS] or list(_usual(cutting_type))
    return [*dict.fromkeys([*found, *(SENT_IN if sent_in else ())])]


def _usual(cutting_type: str) -> tuple[str, ...]:
    words = re.sub(r"semi-?\s?hard|leaf[- ]bud", "", cutting_type.casefold())
    kinds = _OF_KIND[2:] if _OF_A_SHOOT.search(words) else _OF_KIND
    return next((steps for kind, steps in kinds if re.search(rf"\b({kind})", words)), COMMON)
