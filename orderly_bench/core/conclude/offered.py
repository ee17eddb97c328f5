"""Sentences that the evidence carries, offered to who concludes, and those it does not: each is read as a typed one would be."""

from __future__ import annotations

from dataclasses import dataclass

from orderly_bench.core.conclude.facts import Facts, Settled
from orderly_bench.core.conclude.sentences import Mark, Marked, mark
from orderly_bench.core.messages.translation import capital
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.responses.counts import YES_NO
from orderly_bench.core.responses.kind import Response

#: Pairs offered, the headline's first.
MOST_PAIRS = 6


@dataclass(frozen=True)
class Offered:
    """What can be said, and what can't yet, with why."""

    carried: tuple[str, ...] = ()
    not_carried: tuple[Marked, ...] = ()


def offered(facts: Facts | None, response: Response) -> Offered:
    """Sentences of a test by yes or no, with its counts; none where nothing was compared, or it is of another kind.

    A sentence is offered only where a person who typed it would be told that the data carry it.
    """
    if facts is None or not facts.compared or response not in YES_NO:
        return Offered()
    marked = [mark(one, facts) for pair in facts.pairs[:MOST_PAIRS] for one in _of_pair(pair, response)]
    sure = tuple(one.sentence for one in marked if one.mark is Mark.CARRIED)
    return Offered(sure, tuple(one for one in marked if one.mark in (Mark.BEYOND, Mark.AGAINST)))


def _of_pair(pair: Settled, response: Response) -> list[str]:
    high, low, did = pair.higher, pair.lower, YES_NO[response][0]
    alike = _("{a} and {b} are equally good here.", a=capital(high.label), b=low.label)
    if pair.alike:
        return [alike]
    said = N_("{high} rooted more than {low}") if response is Response.ROOTED else N_("{high} did better than {low}")
    more = _(said, high=capital(high.label), low=low.label)
    if not pair.clear:
        return [f"{more}.", alike]
    counts = _(
        "{k} of {n} {did} against {k2} of {n2}",
        k=str(high.did),
        n=str(high.known),
        did=did,
        k2=str(low.did),
        n2=str(low.known),
    )
    return [f"{more}: {counts}."]
