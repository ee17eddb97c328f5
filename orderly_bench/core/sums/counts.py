"""A count as a rate with its intervals."""

from __future__ import annotations

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.methods.rates import Interval, bound_of_none, clopper_pearson, wilson
from orderly_bench.core.sums.sum import Answer, SumKind
from orderly_bench.core.typed import Asked, whole


def interval(k: int, n: int) -> Answer:
    """95 % intervals of k of n: Wilson's score interval, and the exact one of Clopper and Pearson.

    >>> [round(end, 4) for end in interval(46, 50).result["wilson"]]
    [0.8116, 0.9685]
    """
    if k > n:
        raise InvalidInput("counted", _("can't be more than the {n} looked at", n=n), k)
    score, exact = wilson(k, n), clopper_pearson(k, n)
    ends = {"wilson": _ends(score), "exact": _ends(exact)}
    working = _(
        "{k} of {n} is {share:.1f} %; 95 of 100 such intervals hold the true rate: {low:.1f} to {high:.1f} % (Wilson)",
        k=k, n=n, share=100 * k / n, low=100 * ends["wilson"][0], high=100 * ends["wilson"][1],
    )  # fmt: skip
    lines = (working, _of_all_or_none(k, n)) if k in (0, n) else (working,)
    return Answer(ends, lines, (_("Of cuttings that stand alone; those that share a pot tell less."),))


def _of_all_or_none(k: int, n: int) -> str:
    """What none or all of so many tell of the rate, in words."""
    bound = 100 * (bound_of_none(n) or 1.0)
    if k:
        return _("all of {n}: the true rate is at least {least:.1f} % at 95 %, one-sided", n=n, least=100 - bound)
    return _("none of {n}: the true rate is at most {most:.1f} % at 95 %, one-sided", n=n, most=bound)


def _ends(found: Interval | None) -> list[float]:
    return [found.low, found.high] if found is not None else [0.0, 1.0]


SUMS = (
    SumKind(
        "interval", N_("a rate with its interval"),
        (Asked("k", N_("counted"), whole(0, 1_000_000)), Asked("n", N_("of"), whole(1, 1_000_000))),
        interval, {"k": "46", "n": "50"},
    ),
)  # fmt: skip
