"""What the plants are wanted for: how many of them the trial itself would give, and how many to stick for enough.

Rates counted here stand before what is written elsewhere, and the two are never pooled.
"""

from __future__ import annotations

from dataclasses import dataclass

from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.methods.stick_for import StickFor, beta_binomial_tail, for_batches, for_rate
from orderly_bench.core.plan.rates import BookRate, KnownRate

#: Every arm at or above reaches the ceiling; at or below, the floor.
CEILING, FLOOR = 0.95, 0.05


@dataclass(frozen=True)
class Gauge:
    """What may be hoped for.

    Attributes
    ----------
    wanted, stuck : int
    expected : float
        Plants expected from what is stuck.
    chance : float
        Of at least as many as wanted.
    stick : StickFor
        How many to stick for enough in ``sure`` of 100.
    rate : float
    source : str
        Where the rate comes from, in words.
    """

    wanted: int
    stuck: int
    expected: float
    chance: float
    stick: StickFor
    rate: float
    source: str
    sure: int = 95


def rate_known(known: tuple[KnownRate, ...], book: tuple[BookRate, ...]) -> tuple[float, str] | None:
    """The rate to plan by and where it comes from; own before written, None where nothing is known."""
    if known:
        k, n = sum(one.rooted for one in known), sum(one.stuck for one in known)
        return k / n, _("{k} of {n} counted here", k=k, n=n)
    if book:
        low, high = min(one.low for one in book), max(one.high for one in book)
        return (low + high) / 200, _(
            "the middle of {low:g} to {high:g} % as written by {names}",
            low=low,
            high=high,
            names=", ".join(b.author for b in book),
        )
    return None


def gauge(
    wanted: int, stuck: int, known: tuple[KnownRate, ...], book: tuple[BookRate, ...], sure: int = 95
) -> Gauge | None:
    """Expected plants, the chance of enough, how many to stick; None where no rate is known or it is 0."""
    from scipy.special import bdtrc

    found = rate_known(known, book)
    if found is None or found[0] <= 0:
        return None
    rate, source = found
    assurance = sure / 100
    if not known:
        chance = float(bdtrc(wanted - 1, stuck, rate)) if stuck >= wanted else 0.0
        return Gauge(wanted, stuck, stuck * rate, chance, for_rate(wanted, rate, assurance), rate, source, sure)
    stick = for_batches(wanted, [(one.rooted, one.stuck) for one in known], assurance)
    a, b = stick.beta or (0.5, 0.5)
    return Gauge(wanted, stuck, stuck * rate, beta_binomial_tail(wanted, stuck, a, b), stick, rate, source, sure)


def ceiling_words(guesses: list[float], easy_as: str = "") -> str:
    """Why shares near all or none can tell nothing, from the guesses; blank where they can."""
    if guesses and min(guesses) >= CEILING:
        return _(
            "Every arm is guessed to reach {least:.0f} % or more{easy_as}: ask for speed, number or length instead.",
            least=100 * min(guesses),
            easy_as=easy_as,
        )
    if guesses and max(guesses) <= FLOOR:
        return _(
            "No arm is guessed above {last:.0f} %{easy_as}: take a way that roots some first, or ask who stays alive.",
            last=100 * max(guesses),
            easy_as=easy_as,
        )
    return ""
