"""How many to stick for the plants wanted, from batches counted before or from a rate."""

from __future__ import annotations

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.methods.stick_for import for_batches, for_rate
from orderly_bench.core.sums.sum import Answer, SumKind, exactly_one
from orderly_bench.core.typed import Asked, number, text, whole


def read_batches(typed: str) -> list[tuple[int, int]]:
    """Batches as typed, each fit or rooted of stuck.

    Raises
    ------
    InvalidInput
        One that is no fit/stuck.

    Examples
    --------
    >>> read_batches("31/50, 18/40")
    [(31, 50), (18, 40)]
    """
    found = []
    for part in typed.split(","):
        rooted, _sep, stuck = part.strip().partition("/")
        if not rooted.isdecimal() or not stuck.isdecimal():
            raise InvalidInput(
                N_("earlier batches"),
                _("write batches as fit/stuck with commas between: 31/50,18/40"),
                part.strip()[:40],
            )
        found.append((int(rooted), int(stuck)))
    return found


def to_stick(want: int, batches: str, rate: float | None, sure: int) -> Answer:
    """Cuttings for so many plants, from batches (how far they part counts) or a rate in percent, as sure as is asked for.

    >>> to_stick(100, "", 60.0, 95).result
    {'stick': 185}
    """
    exactly_one(batches=batches.strip() or None, rate=rate)
    if rate is not None:
        found = for_rate(want, rate / 100, sure / 100)
        from_what = _("{rate:g} % of each batch", rate=rate)
    else:
        counted = read_batches(batches)
        found = for_batches(want, counted, sure / 100)
        k, n = (sum(part) for part in zip(*counted, strict=True))
        from_what = _("{k} of {n} in {batches:batch|batches}, and how far batches part", k=k, n=n, batches=len(counted))
    line = _(
        "{want} plants, {sure} times in 100, from {what}: stick {stick}",
        want=want,
        sure=sure,
        what=from_what,
        stick=found.stick,
    )
    return Answer({"stick": found.stick}, (line,), tuple(one.text for one in found.cautions))


SUMS = (
    SumKind(
        "stick", N_("how many to stick"),
        (
            Asked("want", N_("plants wanted"), whole(1, 100_000)), Asked("batches", N_("earlier batches, rooted/stuck"), text(300)),
            Asked("rate", N_("or a rate that is known, %"), number(0.01, 100, None)),
            Asked("sure", N_("sure of enough, times in 100; 95 where blank"), whole(50, 99, 95)),
        ),
        to_stick, {"want": "100", "batches": "31/50, 18/40, 40/60", "sure": "95"},
    ),
)  # fmt: skip
