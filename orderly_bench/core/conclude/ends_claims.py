"""Ends of an interval in a sentence, held against those of the arms: *16 to 43 %*, *as low as 16 %*."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence

from orderly_bench.core.conclude.english import NUMBER, number
from orderly_bench.core.conclude.facts import Counted
from orderly_bench.core.conclude.mark import Mark

_PERCENT = r"\s*(?:%|percent\b|per cent\b)"
#: Both ends, where a word says that they are such.
BOTH = re.compile(
    rf"(?:(?:{NUMBER}{_PERCENT} ?)?\b(?:interval|ci|confidence|range[ds]?|limits)\b[^.;%]{{0,24}}?|\bbetween )\b(?P<low>{NUMBER})(?:{_PERCENT})? ?(?:to|and|-|–) ?(?P<high>{NUMBER}){_PERCENT}",
    re.I,
)
ONE = re.compile(rf"\bas (?:(?P<low>low|few|little)|(?P<high>high|many|much)) as (?P<end>{NUMBER}){_PERCENT}", re.I)
#: How far an end may lie from what was worked out and still be it, in points.
ROUNDED = 1.0


def ends(text: str, arms: Sequence[Counted]) -> Iterator[tuple[re.Match[str], Mark]]:
    """Every end or pair of ends, carried where an arm has it; of which arm it is said is left open, so any other is not checked."""
    known = [(100 * arm.low, 100 * arm.high) for arm in arms if arm.low is not None and arm.high is not None]
    for hit in BOTH.finditer(text):
        low, high = number(hit["low"]), number(hit["high"])
        fits = any(abs(low - a) <= ROUNDED and abs(high - b) <= ROUNDED for a, b in known)
        yield hit, Mark.CARRIED if fits and len(arms) == 1 else Mark.NOT_CHECKED
    for hit in ONE.finditer(text):
        fits = any(abs(number(hit["end"]) - (b if hit["high"] else a)) <= ROUNDED for a, b in known)
        yield hit, Mark.CARRIED if fits and len(arms) == 1 else Mark.NOT_CHECKED
