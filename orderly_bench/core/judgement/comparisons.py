"""A family of comparisons: Holm adjusted, with simultaneous intervals for the verdict."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

from orderly_bench.core.judgement.range import Range
from orderly_bench.core.judgement.varies import Varies
from orderly_bench.core.judgement.verdict import Verdict
from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.methods.difference import Difference
from orderly_bench.core.methods.randomisation import RandomisationTest
from orderly_bench.core.methods.rates import Interval
from orderly_bench.core.responses.added import DaysApart

#: How p is adjusted for the other comparisons of a family: stepwise, or by one redraw of all arms.
HOLM, JOINT = "Holm", "max-T"


@dataclass(frozen=True)
class Side:
    """One side of a comparison.

    Attributes
    ----------
    name : str
    rooted, stuck : int
        k of the n with a known outcome; k counts what is 1, or above 0.
    unknown : int
        Stuck without a known outcome.
    mean : float or None
        Of the known, where the response is no yes or no: what ``average`` names.
    average : str
        What of them it is: a mean, the middle class, rooted-days.
    said : str
        The name as it stands in a sentence; blank where it is the name.
    index : int
        Which arm, or level of the factor.
    """

    name: str
    rooted: int
    stuck: int
    unknown: int = 0
    mean: float | None = None
    sentence_name: str = ""
    average: str = "mean"
    index: int = 0

    @property
    def label(self) -> str:
        """The name as it stands in a sentence."""
        return self.sentence_name or self.name

    @property
    def share_unknown(self) -> float:
        """Unknown of all stuck."""
        return self.unknown / max(1, self.stuck + self.unknown)

    @property
    def rate(self) -> float | None:
        """k/n, None when n is 0."""
        return self.rooted / self.stuck if self.stuck else None


@dataclass(frozen=True)
class Limits:
    """What one comparison can't get beyond.

    Attributes
    ----------
    untold : tuple of str
        Codes that make it *cannot tell*, whatever its numbers.
    capped : tuple of str
        Codes that make it *suggested* at most.
    """

    untold: tuple[str, ...] = ()
    capped: tuple[str, ...] = ()


@dataclass(frozen=True)
class Hurdle:
    """How the two sides rooted, beside a response of those that did: the value of the rooted says little where rooting parts them.

    Attributes
    ----------
    a, b : tuple of (int, int)
        Rooted and known of each side.
    estimate, p_adjusted : float or None
        Of the same pair's rooting, in the same family.
    margin : float
        Within which rooting must lie.
    """

    a: tuple[int, int]
    b: tuple[int, int]
    estimate: float | None
    p_adjusted: float | None
    margin: float

    def holds(self, alpha: float) -> bool:
        """Whether rooting lets the response be called the same."""
        if self.estimate is None or self.p_adjusted is None:
            return False
        few = min(self.a[0], self.b[0]) < LEAST_ROOTED
        return not few and self.p_adjusted >= alpha and abs(self.estimate) < self.margin


@dataclass(frozen=True)
class PairEvidence:
    """Two sides before the family is known.

    ``effect`` gives the estimate with its interval at any confidence, ``effect_for_same`` that which *practically the same* is held
    against, where it is another; ``units`` is the mean number of units a side, ``fewest`` that of the side with fewer; ``adjusted``
    both sides adjusted for where they stood; ``varies`` how the difference varies between strata; ``hurdle`` the same sides' rooting;
    ``strata`` how many hold both sides; ``adjusts_for`` what parts the adjusted values from the counts: place, factors, both, units.
    """

    a: Side
    b: Side
    test: RandomisationTest
    effect: Callable[[float], Difference]
    units: float
    fewest: int
    odds_ratio: float | None = None
    adjusted: tuple[float, float] | None = None
    limits: Limits = Limits()
    days: DaysApart | None = None
    factor: int | None = None
    effect_for_same: Callable[[float], Difference] | None = None
    varies: tuple[Varies, ...] | None = None
    hurdle: Hurdle | None = None
    hurdled: bool = False
    joined: bool = True
    strata: int = 1
    adjusts_for: str = ""

    def rooting_allows(self, alpha: float) -> bool:
        """Whether rooting lets the response be called the same."""
        return not self.hurdled or (self.hurdle is not None and self.hurdle.holds(alpha))


#: Both ends of what the unknown outcomes of a pair could have been: all of a's against it, and the reverse.
Ends = tuple[PairEvidence, PairEvidence]

#: Fewer rooted cuttings than this in an arm say nothing of their roots.
LEAST_ROOTED = 5
#: Averages that can be taken from one another.
OVER_DAYS = N_("mean rooted-days")
HAVE_DIFFERENCES = ("mean", OVER_DAYS)
#: As a proportion: farther than this from the raw counts, an adjusted difference says so.
FAR_FROM_RAW = 0.05


@dataclass(frozen=True)
class NotWorse:
    """Whether a is no worse than b by more than the margin: the one-sided 1 - alpha/c lower limit, and whether it holds."""

    limit: float
    holds: bool


@dataclass(frozen=True)
class SameStart:
    """The comparison as it would be had all cuttings started alike.

    ``estimate`` and ``interval`` are None where the response has no difference of means, all but the verdict where the arm can't be told from the start; ``changes``: whether the verdict does.
    """

    estimate: float | None
    interval: Interval | None
    p: float | None
    p_adjusted: float | None
    verdict: Verdict
    changes: bool


def sign_of(value: float | None) -> int:
    """1, -1 or 0, which stands for nothing too."""
    return 0 if not value else (1 if value > 0 else -1)


@dataclass(frozen=True)
class Comparison:
    """a against b.

    ``difference`` holds the plain 1 - alpha interval; ``simultaneous`` the 1 - alpha/c interval the
    verdict used; ``same`` the 1 - 2 alpha/c one; ``nothing`` is the estimate that means no difference.
    """

    a: Side
    b: Side
    difference: Difference
    simultaneous: Interval | None
    same: Interval | None
    test: RandomisationTest
    p_adjusted: float | None
    verdict: Verdict
    odds_ratio: float | None
    units: float
    fewest: int
    adjusted: tuple[float, float] | None = None
    range: Range | None = None
    not_worse: NotWorse | None = None
    same_start: SameStart | None = None
    more_units: int | None = None
    more_units_margin: int | None = None
    smallest_gap: float | None = None
    nothing: float = 0.0
    limits: Limits = Limits()
    days: DaysApart | None = None
    factor: int | None = None
    varies: tuple[Varies, ...] | None = None
    hurdle: Hurdle | None = None
    hurdle_held: bool = False
    alpha: float = 0.05
    joined: bool = True
    strata: int = 1
    adjusts_for: str = ""
    adjusted_by: str = HOLM
    weighted_p: float | None = None
    more_units_open: str = ""  #: code of why no number of more units stands here, where one was asked for

    @property
    def p(self) -> float | None:
        """The unadjusted p."""
        return self.test.p

    @property
    def decided_by(self) -> Interval | None:
        """The interval that decided: the one for *practically the same* behind that verdict, else the simultaneous one."""
        return self.same if self.verdict is Verdict.SAME else self.simultaneous

    @property
    def raw(self) -> float | None:
        """Difference of the sides as counted: of k/n, or of the means; None when a side is empty, or classes have no mean."""
        if self.a.mean is not None and self.a.average not in HAVE_DIFFERENCES:
            return None
        ends = [side.rate if side.mean is None else side.mean for side in (self.a, self.b)]
        return None if ends[0] is None or ends[1] is None else ends[0] - ends[1]

    @property
    def yes_no(self) -> bool:
        """Whether its sides are counts of yes and no."""
        return self.a.mean is None

    @property
    def above(self) -> float | None:
        """How far the estimate lies above no difference, in its own unit."""
        estimate = self.difference.estimate
        return None if estimate is None else estimate - self.nothing

    @property
    def clear(self) -> bool:
        """Whether the adjusted p lies below alpha."""
        return self.p_adjusted is not None and self.p_adjusted < self.alpha

    @property
    def apart_as_adjusted(self) -> float | None:
        """Difference of the two adjusted values; None where they have none."""
        if self.adjusted is None or (not self.yes_no and self.a.average not in HAVE_DIFFERENCES):
            return None
        return self.adjusted[0] - self.adjusted[1]

    @property
    def ahead(self) -> float:
        """Above 0 where a is ahead: by its own test, then by the estimate, then by the sides as adjusted and as counted."""
        return self.test.direction or self.above or self.apart_as_adjusted or self.raw or 0.0

    @property
    def direction_differs(self) -> bool:
        """Whether a clear p's statistic, estimate and adjusted values point different ways; one that is nothing agrees with either."""
        signs = {sign_of(value) for value in (self.test.direction, self.above, self.apart_as_adjusted)} - {0}
        return self.clear and len(signs) > 1

    @property
    def reversed_by_adjustment(self) -> bool:
        """Whether the estimate and the raw values point in different directions, where a difference was found."""
        return self.clear and self.raw is not None and self.above is not None and self.raw * self.above < 0

    @property
    def far_from_raw(self) -> bool:
        """Whether the estimate of a rate lies over 5 points from the raw counts, or a difference that was found points the other way."""
        away = self.yes_no and self.raw is not None and self.above is not None
        far = away and abs((self.raw or 0.0) - (self.above or 0.0)) > FAR_FROM_RAW
        return far or self.reversed_by_adjustment

    @property
    def reversal(self) -> Varies | None:
        """The grouping over which the sides change places, firmly enough to count."""
        return next((one for one in self.varies or () if one.reverses and not one.fragile), None)


def turned(comparison: Comparison) -> Comparison:
    """The same difference with the higher side first, for sentences."""
    if comparison.ahead >= 0:
        return comparison
    nothing = comparison.nothing

    def other(value: float | None) -> float | None:
        if value is None:
            return None
        if nothing == 1:
            return 1 / value if value > 0 else None
        return 2 * nothing - value

    def flip(interval: Interval | None) -> Interval | None:
        if interval is None:
            return None
        low, high = other(interval.high), other(interval.low)
        return None if low is None or high is None else Interval(low, high, interval.level)

    d, r = comparison.difference, comparison.range
    return replace(
        comparison,
        a=comparison.b,
        b=comparison.a,
        difference=Difference(other(d.estimate), flip(d.interval), d.method),
        simultaneous=flip(comparison.simultaneous),
        same=flip(comparison.same),
        odds_ratio=1 / comparison.odds_ratio if comparison.odds_ratio else None,
        adjusted=comparison.adjusted and (comparison.adjusted[1], comparison.adjusted[0]),
        range=r
        and Range(
            r.unknown, other(r.high), other(r.low), r.p_high, r.p_low, r.verdict_high, r.verdict_low,
            (-r.directions[1], -r.directions[0]),
        ),
        not_worse=None,
        same_start=comparison.same_start and replace(
            comparison.same_start, estimate=other(comparison.same_start.estimate), interval=flip(comparison.same_start.interval)
        ),
        days=None,
        test=replace(comparison.test, direction=-comparison.test.direction if comparison.test.direction else None),
        varies=comparison.varies and tuple(one.turned() for one in comparison.varies),
        hurdle=comparison.hurdle and replace(
            comparison.hurdle, a=comparison.hurdle.b, b=comparison.hurdle.a,
            estimate=None if comparison.hurdle.estimate is None else -comparison.hurdle.estimate,
        ),
    )  # fmt: skip
