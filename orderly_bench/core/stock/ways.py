"""Rates by trial and by way: each arm of a concluded trial keeps its counts; books stand beside and are never averaged in.

Intervals are Wilson's (1927), on effective counts where cuttings shared units. The range for a next batch is that of a beta fitted to the
batches (`stick_for.py`; Gelman et al. 2013, chapter 2).
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.numbers import points
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.methods.combine import ArmOfTrial, Combined, combine
from orderly_bench.core.methods.rates import Interval, wilson
from orderly_bench.core.methods.stick_for import for_batches

#: Batches from which a range for the next is given.
FEWEST_BATCHES = 3


@dataclass(frozen=True)
class Way:
    """What one arm of one trial came to.

    Attributes
    ----------
    way : str
        What the arm was, but for taxon and cutting type.
    rooted, known : int
        k of n with a known outcome.
    worth : float or None
        What those cuttings are worth as single ones, where units held several; None with one unit: no interval then.
    best_of : int
        How many arms it was the best of, 0 where it was not the best or stood alone: such a rate is too high by being chosen.
    kind : str
        Test, look or rate.
    late : bool
        Locked after sticking.
    """

    trial: str
    letter: str
    way: str
    day: int
    rooted: int
    known: int
    worth: float | None
    best_of: int = 0
    kind: str = "test"
    late: bool = False
    decision: str = ""
    adopted: bool = False

    @property
    def interval(self) -> Interval | None:
        """95 %; None where nothing is known, or from one unit."""
        if not self.known or self.worth is None:
            return None
        return wilson(self.rooted * self.worth / self.known, self.worth)

    @property
    def words(self) -> str:
        """``11 of 20, 34 to 74 %``."""
        found = self.interval
        counts = _("{k} of {n}", k=str(self.rooted), n=str(self.known))
        if found is None:
            return counts
        return _("{counts}, {low:.0f} to {high:.0f} %", counts=counts, low=100 * found.low, high=100 * found.high)

    @property
    def as_chosen(self) -> str:
        """The same, and how many it was the best of."""
        return _("{words}, the best of {n}", words=self.words, n=str(self.best_of)) if self.best_of else self.words

    @property
    def as_batch(self) -> str:
        """A line of what is known for planning: counts, or what they are worth where cuttings shared units; blank where it may not feed."""
        if not self.feeds or self.worth is None:
            return ""
        n = round(self.worth)
        k = self.rooted if n == self.known else round(self.rooted * self.worth / self.known)
        return f"{k}/{n} trial {self.trial}" if n else ""

    @property
    def feeds(self) -> bool:
        """Whether it may feed *how many to stick*: a single way that nobody chose among others, with an interval."""
        return self.kind == "rate" and self.worth is not None and self.known > 0


def next_batch(ways: Sequence[Way]) -> str:
    """How much batches of one way varied, and the range for the next; blank below three."""
    told = [way for way in ways if way.worth and way.known]
    if len(told) < FEWEST_BATCHES:
        return ""
    shares = sorted(way.rooted / way.known for way in told)
    spread = _("{n} batches, {low:.0f} to {high:.0f} %", n=str(len(told)), low=100 * shares[0], high=100 * shares[-1])
    batches = [(way.rooted * (way.worth or 0) / way.known, way.worth or 0.0) for way in told]
    fitted = for_batches(1, batches, 0.5).beta if any(k for k, _ in batches) else None
    if fitted is None:
        return spread
    from scipy.special import betaincinv

    low, high = (float(betaincinv(*fitted, q)) for q in (0.025, 0.975))
    return _("{spread}; a next one {low:.0f} to {high:.0f} %", spread=spread, low=100 * low, high=100 * high)


def is_of(card: str, said: str) -> bool:
    """Whether pieces are of a card's cutting type: all its words are said of them.

    >>> is_of("hardwood", "hardwood, 15 cm"), is_of("soft tip", "semi-hard tip"), is_of("semi-hard tip", "tip, semi-hard")
    (True, False, True)
    """
    words = set(re.findall(r"[\w-]+", card.casefold()))
    return bool(words) and words <= set(re.findall(r"[\w-]+", said.casefold()))


def against_book(low: float, high: float, way: Way) -> str:
    """A book's rate (0 to 1, low to high) set beside what was counted here; blank where nothing was.

    >>> against_book(0.9, 1.0, Way("26-01", "A", "pumice", 42, 11, 20, 20.0))
    "book 90 to 100 %; here 11 of 20, 34 to 74 %: the book's lies outside"
    """
    found = way.interval
    if not way.known:
        return ""
    book = _("{low:g} to {high:g} %", low=100 * low, high=100 * high) if low < high else _("{low:g} %", low=100 * low)
    head = _("book {book}; here {words}", book=book, words=way.words)
    if found is None:
        return head
    outside = low > found.high or high < found.low
    return _("{head}: the book's lies outside", head=head) if outside else _("{head}: the book's can be", head=head)


def pairs_of(ways: Sequence[Way]) -> list[tuple[str, str, int]]:
    """Pairs of ways that stood side by side in at least one trial, with how many trials; the most first."""
    by_trial: dict[str, list[str]] = {}
    for way in ways:
        by_trial.setdefault(way.trial, []).append(way.way)
    found: dict[tuple[str, str], int] = {}
    for names in by_trial.values():
        for i, first in enumerate(sorted(set(names))):
            for second in sorted(set(names))[i + 1 :]:
                found[first, second] = found.get((first, second), 0) + 1
    return sorted(((a, b, n) for (a, b), n in found.items()), key=lambda pair: (-pair[2], pair[:2]))


@dataclass(frozen=True)
class Together:
    """One contrast over several trials: the combination, and trials that were left out, each with why."""

    found: Combined
    left_out: tuple[tuple[str, str], ...]

    @property
    def mean(self) -> str:
        """The mean with its interval, in points."""
        ends = (_points(end) for end in (self.found.estimate, self.found.ci_low, self.found.ci_high))
        return _(
            "{mean} points, 95 % interval {low} to {high}", **dict(zip(("mean", "low", "high"), ends, strict=True))
        )

    @property
    def between(self) -> str:
        """What varies between trials, and the range for a next one; blank with one trial."""
        all_ = self.found
        if all_.i2 is None:
            return ""
        told = _("I² {i2:.0f} %, Q {q:.2f}, p = {p:.2g}", i2=all_.i2, q=all_.q, p=all_.q_p)
        if all_.prediction_low is None or all_.prediction_high is None:
            return told
        low, high = _points(all_.prediction_low), _points(all_.prediction_high)
        return _("{told}; a next trial {low} to {high}", told=told, low=low, high=high)


def _points(share: float) -> str:
    """Percentage points; no difference of rates lies outside -100 to 100."""
    return points(max(-1.0, min(1.0, share)), True)


def together(ways: Sequence[Way], first: str, second: str, with_looks: bool = False) -> Together:
    """Combine the trials in which two ways stood side by side, first less second.

    Parameters
    ----------
    with_looks : bool
        Take looks and retrospective trials too; otherwise they are named and left out.

    Raises
    ------
    InvalidInput
        No trial is left.
    """
    by_trial: dict[str, dict[str, Way]] = {}
    for way in ways:
        if way.way in (first, second):
            by_trial.setdefault(way.trial, {})[way.way] = way
    trials, out = [], []
    for name, has in sorted(by_trial.items()):
        if len(has) < 2:
            continue
        one, other = has[first], has[second]
        why = _why_not(one, other, with_looks)
        if why:
            out.append((name, why))
        else:
            trials.append((name, _arm(one), _arm(other)))
    if not trials:
        why = "; ".join(_("{trial}: {why}", trial=name, why=why) for name, why in out)
        raise InvalidInput("ways", _("stood side by side in no trial that counts"), why or f"{first}, {second}")
    return Together(combine(trials), tuple(out))


def _why_not(one: Way, other: Way, with_looks: bool) -> str:
    if not one.known or not other.known:
        return _("an arm of which nothing is known")
    if one.worth is None or other.worth is None:
        return _("an arm of one unit")
    if not with_looks and one.kind == "look":
        return _("a look")
    return _("retrospective") if not with_looks and one.late else ""


def _arm(way: Way) -> ArmOfTrial:
    return ArmOfTrial(way.rooted, way.known, way.worth)
