"""What a conclusion is held against: the counts of the arms, and what each comparison settled."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from orderly_bench.core.cautions import Caution
from orderly_bench.core.judgement.arms import ArmResult
from orderly_bench.core.judgement.comparisons import Comparison, turned
from orderly_bench.core.judgement.result import Analysis
from orderly_bench.core.judgement.strength import grade
from orderly_bench.core.responses.kind import Response
from orderly_bench.core.responses.registry import kind_of
from orderly_bench.core.telling.dose import OverStrengths, over_strengths
from orderly_bench.core.telling.headline import Reading
from orderly_bench.core.telling.one_rate import OneRate
from orderly_bench.core.vocabulary import Strength


@dataclass(frozen=True)
class Counted:
    """An arm, or a level of a factor: how many did of how many known."""

    name: str
    did: int
    known: int
    low: float | None = None  #: ends of its interval, as shares; None where it has none
    high: float | None = None
    said: str = ""  #: the name as it stands in a sentence; blank where it is the name

    @property
    def label(self) -> str:
        """The name as it stands in a sentence."""
        return self.said or self.name

    @property
    def rate(self) -> float | None:
        """Share that did; None where nothing is known."""
        return self.did / self.known if self.known else None


@dataclass(frozen=True)
class Settled:
    """A comparison: the higher side first; whether it is clear, or practically the same, as far as the strength carries it."""

    higher: Counted
    lower: Counted
    clear: bool
    alike: bool
    p: float | None = None
    p_adjusted: float | None = None

    @property
    def names(self) -> frozenset[str]:
        """Both sides."""
        return frozenset((self.higher.name, self.lower.name))

    @property
    def ratio(self) -> float | None:
        """Rate of the higher side over that of the lower, as counted; None where the lower is none."""
        high, low = self.higher.rate, self.lower.rate
        return high / low if high is not None and low else None


@dataclass(frozen=True)
class Cost:
    """What a plant of an arm costs, with the range that its rate gives; no range from one unit."""

    name: str
    plant: float
    low: float | None
    high: float | None

    def apart(self, other: Cost) -> bool:
        """Whether the ranges do not meet."""
        if self.low is None or self.high is None or other.low is None or other.high is None:
            return False
        return self.high < other.low or other.high < self.low


@dataclass(frozen=True)
class Facts:
    """Everything that the sentences can be held against.

    Attributes
    ----------
    arms : tuple of Counted
    pairs : tuple of Settled
        Of arms and of levels over the other factors; the headline's first.
    shares : bool
        Whether the endpoint is a yes or no, so that percentages and counts are of it.
    compared : bool
        False of a look, and where one arm alone is known.
    strength : Strength
        Of the headline.
    factors : tuple of str
        What was varied.
    levels : tuple of tuple of str
        Of each factor, in its order.
    response : Response
        What was scored as the endpoint.
    days : tuple of int
        After sticking, on which it was looked at; none where that is not known.
    letters : tuple of (str, str)
        By which arms are called on their stakes, each with the arm's name.
    costs : tuple of Cost
        Of arms, where what a plant takes was kept.
    dose : OverStrengths or None
        How it goes with the strength of the one factor whose levels are strengths.
    """

    arms: tuple[Counted, ...]
    pairs: tuple[Settled, ...]
    shares: bool
    compared: bool
    strength: Strength
    factors: tuple[str, ...] = ()
    levels: tuple[tuple[str, ...], ...] = ()
    response: Response = Response.ROOTED
    days: tuple[int, ...] = ()
    letters: tuple[tuple[str, str], ...] = ()
    costs: tuple[Cost, ...] = ()
    dose: OverStrengths | None = None

    @property
    def groups(self) -> tuple[tuple[str, ...], ...]:
        """Names that are held against each other: the levels of each factor, or the arms."""
        return self.levels or (tuple(arm.name for arm in self.arms),)

    @property
    def names(self) -> list[str]:
        """Of arms and levels, the longest first, so that a name inside another is not found for it."""
        found = {arm.name for arm in self.arms} | {side.name for p in self.pairs for side in (p.higher, p.lower)}
        found |= {name for group in self.levels for name in group}
        return sorted(found, key=lambda name: (-len(name), name))


def facts_of(
    analysis: Analysis,
    reading: Reading,
    cautions: Sequence[Caution],
    days: Sequence[int] = (),
    letters: Mapping[str, str] | None = None,
) -> Facts:
    """The facts of an analysis; ``cautions`` are those of the log beside its own, ``days`` those of looking, after sticking; ``letters`` the arms'."""
    doubts, broken = [*analysis.cautions, *cautions], bool(reading.departures)
    lead = [finding.comparison for finding in reading.findings]
    every = [*lead, *analysis.comparisons, *(c for term in analysis.terms for c in term.contrasts)]
    pairs: dict[frozenset[str], Comparison] = {}
    for one in every:
        pairs.setdefault(frozenset((one.a.name, one.b.name)), one)
    return Facts(
        tuple(_arm(arm) for arm in analysis.arms),
        tuple(_settled(turned(c), doubts, broken) for c in pairs.values()) if reading.findings else (),
        kind_of(analysis.settings.response).yes_no,
        bool(reading.findings),
        reading.strength,
        tuple(analysis.observations.factors),
        tuple(tuple(names) for names in analysis.observations.level_names),
        analysis.settings.response,
        tuple(sorted(set(days))),
        tuple((letters or {}).items()),
        dose=over_strengths(analysis) if reading.findings else None,
    )


def facts_of_rate(found: OneRate) -> Facts:
    """The facts of one arm alone: its counts, and nothing that was compared."""
    arm = found.arm
    return Facts((_arm(arm),), (), kind_of(found.response).yes_no, False, Strength.CANNOT_TELL, response=found.response)


def _arm(arm: ArmResult) -> Counted:
    ends = (arm.interval.low, arm.interval.high) if arm.interval else (None, None)
    return Counted(arm.name, arm.rooted, arm.stuck, *ends)


def _settled(c: Comparison, doubts: list[Caution], broken: bool) -> Settled:
    carried = grade(c, doubts, broken).strength is not Strength.CANNOT_TELL
    sides = [Counted(side.name, side.rooted, side.stuck, said=side.label) for side in (c.a, c.b)]
    return Settled(sides[0], sides[1], c.verdict.clear and carried, c.verdict.alike and carried, c.p, c.p_adjusted)
