"""The card of steps at the tray: the lab's own for a kind of cutting, else those usual for such pieces.

The usual ones: Hartmann and Kester's Plant Propagation, 8th ed. (2011), chapter 10.
"""

from __future__ import annotations

import re

from orderly_bench.core.messages.words import word

MOST_STEPS, LONGEST_STEP = 12, 60
WIPED, HOLE, UP = word("blade wiped between plants"), word("hole first, then the piece"), word("buds up")
COMMON = (WIPED, word("base recut"), word("leaves off below the line"), HOLE, UP)
#: Of kinds of pieces whose name holds such a word.
_OF_KIND = (
    (r"root", (WIPED, word("top cut flat, bottom slanting"), HOLE, word("flat end up"))),
    (r"leaf|leaves|blade", (WIPED, word("stalk recut"), word("upper side up"), word("vein or stalk in the medium"))),
    (r"hard|dormant|stick", (WIPED, word("cut straight below a bud, slanting above the top one"), HOLE, UP, word("two buds in the medium"))),
    (r"heel", (WIPED, word("tail of the heel trimmed"), word("leaves off below the line"), HOLE, UP)),
)  # fmt: skip
#: Pieces of a shoot, whatever else their name says of leaves or roots.
_OF_A_SHOOT = re.compile(r"\b(?:tip|stem|shoot|node|nodal|internode|mallet|basal|cane)s?\b")
#: What else is done with pieces that were bought or sent in.
SENT_IN = (word("pieces washed"), word("gel rinsed off"))


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
