"""What the plants are wanted for: how many of them the trial itself would give, and how many to stick for enough.

Rates counted here stand before what is written elsewhere, and the two are never pooled.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TypeVar

from orderly_bench.core.design.stick_for import StickFor, beta_binomial_tail, for_batches, for_rate
from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.words import tell
from orderly_bench.core.plan.question import BookRate, KnownRate

ASSURANCE = 0.95
MOST_RATES = 24
#: Characters of rooted/stuck are fewer.
LONGEST_COUNTS = 16
T = TypeVar("T")
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
        How many to stick for enough in 95 of 100.
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


def rate_known(known: tuple[KnownRate, ...], book: tuple[BookRate, ...]) -> tuple[float, str] | None:
    """The rate to plan by and where it comes from; own before written, None where nothing is known."""
    if known:
        k, n = sum(one.rooted for one in known), sum(one.stuck for one in known)
        return k / n, tell("{k} of {n} counted here", k=k, n=n)
    if book:
        low, high = min(one.low for one in book), max(one.high for one in book)
        return (low + high) / 200, tell(
            "the middle of {low:g} to {high:g} % as written by {names}",
            low=low,
            high=high,
            names=", ".join(b.author for b in book),
        )
    return None


def gauge(
    wanted: int, stuck: int, known: tuple[KnownRate, ...], book: tuple[BookRate, ...], assurance: float = ASSURANCE
) -> Gauge | None:
    """Expected plants, the chance of enough, how many to stick; None where no rate is known or it is 0."""
    from scipy.special import bdtrc

    found = rate_known(known, book)
    if found is None or found[0] <= 0:
        return None
    rate, source = found
    if not known:
        chance = float(bdtrc(wanted - 1, stuck, rate)) if stuck >= wanted else 0.0
        return Gauge(wanted, stuck, stuck * rate, chance, for_rate(wanted, rate, assurance), rate, source)
    stick = for_batches(wanted, [(one.rooted, one.stuck) for one in known], assurance)
    a, b = stick.beta or (0.5, 0.5)
    return Gauge(wanted, stuck, stuck * rate, beta_binomial_tail(wanted, stuck, a, b), stick, rate, source)


def ceiling_words(guesses: list[float], easy_as: str = "") -> str:
    """Why shares near all or none can tell nothing, from the guesses; blank where they can."""
    if guesses and min(guesses) >= CEILING:
        return tell(
            "Every arm is guessed to reach {least:.0f} % or more{easy_as}: ask for speed, number or length instead.",
            least=100 * min(guesses),
            easy_as=easy_as,
        )
    if guesses and max(guesses) <= FLOOR:
        return tell(
            "No arm is guessed above {last:.0f} %{easy_as}: take a way that roots some first, or ask who stays alive.",
            last=100 * max(guesses),
            easy_as=easy_as,
        )
    return ""


def read_known(text: str) -> tuple[KnownRate, ...]:
    """Own counts typed a line each: ``31/60 trial 25-04``.

    Raises
    ------
    InvalidInput
        A line without rooted/stuck, or too many.
    """
    found = []
    for number, line in enumerate((one.strip() for one in text.splitlines() if one.strip()), start=1):
        counts, _, source = line.partition(" ")
        rooted, _, stuck = counts.partition("/")
        plain = len(counts) < LONGEST_COUNTS and rooted.isdecimal() and stuck.isdecimal()
        if not plain or not 0 <= int(rooted) <= int(stuck) <= 100_000 or not int(stuck):
            raise InvalidInput(
                "known here",
                tell("write rooted/stuck and where it was counted, a line each: 31/60 trial 25-04"),
                line[:60],
            )
        found.append(KnownRate(number, int(rooted), int(stuck), source.strip()[:120]))
    return _not_too_many(tuple(found))


def read_book(text: str) -> tuple[BookRate, ...]:
    """Rates written elsewhere, a line each: ``60-70 the station's old card``.

    Raises
    ------
    InvalidInput
        A line without a rate in percent, or without who wrote it.
    """
    found = []
    for number, line in enumerate((one.strip() for one in text.splitlines() if one.strip()), start=1):
        rates, _, author = line.partition(" ")
        low, _, high = rates.replace("%", "").replace("–", "-").partition("-")
        try:
            ends = float(low), float(high or low)
        except ValueError:
            ends = (-1.0, -1.0)
        if not 0 <= ends[0] <= ends[1] <= 100 or not author.strip(" %"):
            raise InvalidInput(
                "written elsewhere",
                tell("write percent and who wrote it, a line each: 60-70 old propagation card"),
                line[:60],
            )
        found.append(BookRate(number, *ends, author.strip(" %")[:120]))
    return _not_too_many(tuple(found))


def _not_too_many(rates: tuple[T, ...]) -> tuple[T, ...]:
    if len(rates) > MOST_RATES:
        raise InvalidInput("rates", tell("{most_rates} lines are the most", most_rates=MOST_RATES), len(rates))
    return rates
