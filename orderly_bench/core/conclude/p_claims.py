"""A p in a sentence, held against that of the comparison it speaks of."""

from __future__ import annotations

import re
from collections.abc import Iterator

from orderly_bench.core.cautions import Caution
from orderly_bench.core.conclude.facts import Facts, Settled
from orderly_bench.core.conclude.mark import Mark
from orderly_bench.core.conclude.names import NamesFound
from orderly_bench.core.messages.numbers import p_value
from orderly_bench.core.messages.say import caution

#: *p < 0.05*, *P = .009*, *a p-value below 0,01*; the brackets around it belong to it.
P = re.compile(
    r"\(?\bp(?:[- ]values?)?\s*(?:was |is |of )?\s*(?P<sign>=|<=?|>=?|\u2264|\u2265|below|under|less than|above|over|greater than)\s*(?P<value>0?[.,]\d+)\s*\)?",
    re.I,
)
BELOW, ABOVE = (
    ("<", "<=", "\u2264", "below", "under", "less than"),
    (">", ">=", "\u2265", "above", "over", "greater than"),
)


def with_pairs(
    text: str, said: NamesFound, facts: Facts, pair: Settled | None
) -> Iterator[tuple[re.Match[str], Settled | None]]:
    """Every p with the comparison it is of: of *a over b (p) and c (p)* the first is of a and b, the second of a and c.

    ``pair`` is the one that the whole sentence speaks of. None where several names stand before a p that could be its own.
    """
    subject, past = said.names[0] if said.names else "", 0
    for hit in P.finditer(text):
        since = {one.name for one in said.mentions if past <= one.start < hit.start()}
        past = hit.end()
        if len(said.names) < 3:
            yield hit, pair
        else:
            sides = {subject, *since}
            yield hit, next((one for one in facts.pairs if one.names == sides), None)


def held(hit: re.Match[str], pair: Settled | None) -> tuple[Mark, Caution | None]:
    """The adjusted p carries it; the pair's own alone says more than the family lets it, unless the verdict is the same."""
    if pair is None or pair.p is None or pair.p_adjusted is None:
        return Mark.NOT_CHECKED, None
    if _fits(hit, pair.p_adjusted):
        return Mark.CARRIED, None
    words = hit[0].strip(" ()")
    a, b, adjusted = pair.higher.name, pair.lower.name, p_value(pair.p_adjusted)
    if not _fits(hit, pair.p):
        return Mark.AGAINST, caution("says_more", "p", words=words, p=p_value(pair.p), a=a, b=b, adjusted=adjusted)
    if pair.clear and hit["sign"] == "=":
        return Mark.CARRIED, None
    return Mark.BEYOND, caution("says_more", "p_alone", words=words, a=a, b=b, adjusted=adjusted)


def _fits(hit: re.Match[str], p: float) -> bool:
    typed, sign = hit["value"].replace(",", "."), hit["sign"].lower()
    stated = float(typed)
    if sign in BELOW:
        return p < stated
    if sign in ABOVE:
        return p > stated
    return abs(p - stated) <= 0.5 * 10.0 ** -len(typed.split(".")[1]) + 1e-9
