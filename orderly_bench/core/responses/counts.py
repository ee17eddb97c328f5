"""The counts of an arm by its endpoint: columns that add up to what was stuck, what is not known among them."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence

from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.responses.kind import Response
from orderly_bench.core.responses.registry import kind_of

NOT_KNOWN = N_("not known")
#: What a yes and a no of an endpoint are called in a column.
YES_NO = {
    Response.ROOTED: (N_("rooted"), N_("not rooted")),
    Response.ALIVE: (N_("alive"), N_("dead")),
    Response.FIT: (N_("fit to pot on"), N_("not fit")),
}
GRADED = (Response.QUALITY, Response.FOLIAGE)
WITH_ROOTS, WITHOUT = N_("with roots"), N_("none")


def at_one_look(response: Response) -> Response:
    """What one look says of an endpoint: of days to root, whether it had rooted by then."""
    return Response.ROOTED if response is Response.DAYS else response


def counted_by(response: Response, arms: Sequence[Sequence[float | None]]) -> tuple[list[str], list[list[int]]]:
    """Columns of an endpoint and the counts of each arm in them; every arm's counts add up to its cuttings.

    Parameters
    ----------
    arms : sequence of sequences of float or None
        Values of the cuttings of each arm on the response's scale; None where not known.

    >>> counted_by(Response.ALIVE, [[1.0, 0.0, None], [1.0, 1.0, 1.0]])
    (['alive', 'dead', 'not known'], [[1, 1, 1], [3, 0, 0]])
    """
    names = _names(response, arms)
    of_arm = [Counter(_column(response, value) for value in values) for values in arms]
    return list(names.values()), [[counts[key] for key in names] for counts in of_arm]


def _names(response: Response, arms: Sequence[Sequence[float | None]]) -> dict[float | None, str]:
    """Columns by the key of their values, the unknown last."""
    if response in YES_NO:
        yes, no = YES_NO[response]
        return {1.0: yes, 0.0: no, None: NOT_KNOWN}
    if response in GRADED:
        most = int((kind_of(response).ends or (0.0, 5.0))[1])
        return {float(grade): str(grade) for grade in range(most + 1)} | {None: NOT_KNOWN}
    if response is Response.ROOT_CLASS:
        floors = sorted({value for values in arms for value in values if value is not None} | {0.0})
        classes = {f: _("from {floor}", floor=f"{f:g}") if f else WITHOUT for f in floors}
        return classes | {None: NOT_KNOWN}
    return {1.0: WITH_ROOTS, 0.0: WITHOUT, None: NOT_KNOWN}


def _column(response: Response, value: float | None) -> float | None:
    """The key of a value's column."""
    if value is None or response in GRADED or response is Response.ROOT_CLASS:
        return value
    return float(value > 0)


def told_of(response: Response, value: float | None) -> str:
    """What one cutting's value says, in words.

    >>> told_of(Response.ALIVE, 0.0), told_of(Response.ROOT_COUNT, 7.0), told_of(Response.FIT, None)
    ('dead', '7', 'not known')
    """
    if value is None:
        return NOT_KNOWN
    return YES_NO[response][0 if value else 1] if response in YES_NO else f"{value:g}"
