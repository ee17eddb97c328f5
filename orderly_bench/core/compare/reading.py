"""The reading of an analysis: the headline, its strength, and what stands beside it."""

from __future__ import annotations

from dataclasses import dataclass

from orderly_bench.core.cautions import Caution
from orderly_bench.core.compare.analysis import Analysis, TermResult, is_full_factorial
from orderly_bench.core.compare.comparisons import Comparison, turned
from orderly_bench.core.compare.verdict import Verdict
from orderly_bench.core.compare.wording import of, points, said_first
from orderly_bench.core.vocabulary import Strength


@dataclass(frozen=True)
class Finding:
    """One comparison of the headline family, in words.

    ``about`` is the factor, or ``arms``; ``sentence`` the counts; ``grade`` verdict, size and margin.
    """

    about: str
    comparison: Comparison
    sentence: str
    grade: str


@dataclass(frozen=True)
class Reading:
    """What the first screen says."""

    findings: list[Finding]
    strength: Strength
    reasons: list[str]
    by_factor: bool

    @property
    def headline(self) -> str:
        """The verdict in one sentence."""
        return self.findings[0].sentence


def interaction_needed(analysis: Analysis) -> bool:
    """Whether an interaction is below alpha, or cannot be judged, so that main effects mislead."""
    interactions = [term for term in analysis.terms if len(term.factors) > 1]
    return any(term.p is not None and term.p < analysis.settings.alpha for term in interactions)


def _order(comparison: Comparison) -> tuple[int, float]:
    p = 1.0 if comparison.p_adjusted is None else comparison.p_adjusted
    return list(Verdict).index(comparison.verdict), p


def sentence_for(comparison: Comparison) -> str:
    """Counts of both sides, worded no stronger than the verdict. Expects the higher side first."""
    a, b = comparison.a, comparison.b
    counts = f"{of(a.rooted, a.stuck)} against {of(b.rooted, b.stuck)}"
    if comparison.verdict.clear and comparison.far_from_raw:
        size = points(comparison.difference.estimate)
        return f"{said_first(a.name)} rooted more than {b.name} by {size} points, adjusted for where they stood; as counted {counts}."
    if comparison.verdict.clear:
        return f"{said_first(a.name)} rooted more than {b.name}: {counts}."
    if comparison.verdict is Verdict.SAME:
        if a.rooted + b.rooted == 0:
            return (
                f"Nothing rooted in {a.name} or {b.name}: {counts}. This tells nothing about them where they do root."
            )
        if a.rooted + b.rooted == a.stuck + b.stuck:
            return (
                f"All rooted in {a.name} and {b.name}: {counts}. This tells nothing about them where some fail to root."
            )
        return f"{said_first(a.name)} and {b.name} rooted practically the same: {counts}."
    return f"Not settled between {a.name} and {b.name}: {counts}."


def grade_for(comparison: Comparison, alpha: float, margin: float | None) -> str:
    """Verdict, estimate with interval, margin, and for *not settled* what could settle it."""
    d = comparison.difference
    if d.estimate is None or d.interval is None:
        return f"{said_first(comparison.verdict.value)}: no difference can be estimated."
    size = f"{points(d.estimate)} points more" if d.estimate > 0 else "no difference in the counts"
    deciding = comparison.same if comparison.verdict is Verdict.SAME and comparison.same else d.interval
    interval = f"{100 * deciding.level:.3g} % interval {points(deciding.low)} to {points(deciding.high)}"
    text = f"{said_first(comparison.verdict.value)}: {size}, {interval}"
    text += f"; your margin is {points(margin)}." if margin is not None else "; no margin was set."
    if comparison.verdict is Verdict.NOT_SETTLED:
        text += _what_would_settle(comparison.more_units)
    return text


def _what_would_settle(more: int | None) -> str:
    if more is None:
        return ""
    return f" About {more} more a side could settle it, if the rates really are these."


def _finding(about: str, comparison: Comparison, analysis: Analysis) -> Finding:
    best = turned(comparison)
    settings = analysis.settings
    return Finding(about, best, sentence_for(best), grade_for(best, settings.alpha, settings.margin))


def _main_effects(analysis: Analysis) -> list[TermResult]:
    return [term for term in analysis.terms if len(term.factors) == 1]


def read(
    analysis: Analysis, departures: list[str] | None = None, other_cautions: list[Caution] | None = None
) -> Reading:
    """Put an analysis in words.

    Parameters
    ----------
    analysis : Analysis
    departures : list of str
        Ways in which the plan was not followed; any of them makes a clear verdict *suggested*.
    other_cautions : list of Caution
        Doubts from the log: incidents, visibility, days.
    """
    compared = bool(analysis.terms) and all(term.contrasts for term in _main_effects(analysis))
    by_factor = compared and not interaction_needed(analysis) and is_full_factorial(analysis.observations)
    if by_factor:
        findings = [_finding(term.name, c, analysis) for term in _main_effects(analysis) for c in term.contrasts]
    else:
        findings = [_finding("arms", c, analysis) for c in analysis.comparisons]
    findings.sort(key=lambda finding: _order(finding.comparison))
    serious = [c.text.rstrip(".") for c in [*analysis.cautions, *(other_cautions or [])] if c.serious]
    strength, reasons = _strength(findings, departures or [], serious)
    return Reading(findings, strength, reasons, by_factor)


def _strength(findings: list[Finding], departures: list[str], serious: list[str]) -> tuple[Strength, list[str]]:
    verdicts = [finding.comparison.verdict for finding in findings]
    if any(verdict.clear for verdict in verdicts):
        reasons = [*departures, *serious]
        return (Strength.SUGGESTED, reasons) if reasons else (Strength.SHOWN, ["clear, as planned"])
    if verdicts and all(verdict is Verdict.SAME for verdict in verdicts):
        return Strength.SHOWN_ALIKE, ["practically the same"]
    return Strength.CANNOT_TELL, ["not settled"]


@dataclass(frozen=True)
class PredictionResult:
    """A prediction held against the outcome: predicted order, observed order, where the first came in."""

    predicted: list[str]
    observed: list[str]
    place_of_first: int
    sentence: str


def hold_prediction(predicted: list[str], rates: dict[str, float], short: dict[str, str]) -> PredictionResult:
    """Where the predicted best came in; ties take the best place they share.

    Parameters
    ----------
    predicted : list of str
        Arm names, best first.
    rates : dict of str to float
    short : dict of str to str
        How to call each arm in the sentence.
    """
    observed = sorted(rates, key=lambda name: -rates[name])
    first = predicted[0]
    place = 1 + sum(1 for rate in rates.values() if rate > rates[first] + 1e-12)
    ordinal = {1: "first", 2: "second", 3: "third"}.get(place, f"{place}th")
    tied = sum(1 for rate in rates.values() if abs(rate - rates[first]) <= 1e-12) > 1
    return PredictionResult(
        predicted, observed, place, f"You expected {short[first]} first. It came {'joint ' if tied else ''}{ordinal}."
    )
