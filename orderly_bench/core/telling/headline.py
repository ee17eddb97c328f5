"""The reading of an analysis: the headline, its strength, and what stands beside it. Its words are in the catalogue."""

from __future__ import annotations

from dataclasses import dataclass

from orderly_bench.core.cautions import Caution
from orderly_bench.core.judgement.comparisons import OVER_DAYS, Comparison, Side, turned
from orderly_bench.core.judgement.doubts_of_pairs import (
    doubts_of_its_own,
    each_stratum,
    sides_of,
    which_points_where,
    why_hurdled,
)
from orderly_bench.core.judgement.pairs import side
from orderly_bench.core.judgement.result import Analysis, TermResult, led_by_factor
from orderly_bench.core.judgement.strength import Graded, grade
from orderly_bench.core.judgement.verdict import Verdict
from orderly_bench.core.layouts.from_rows import layout_of
from orderly_bench.core.messages.numbers import in_points, known_of, size
from orderly_bench.core.messages.say import clause, say
from orderly_bench.core.messages.translation import all_of
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.observations.table import KINDS_OF_PLANT, PROPERTIES
from orderly_bench.core.responses.kind import Kind
from orderly_bench.core.responses.outcomes_of import outcomes_of
from orderly_bench.core.responses.registry import kind_of
from orderly_bench.core.telling.wording import interval_words, margin_words
from orderly_bench.core.vocabulary import Strength

#: Places with a word of their own.
#: An adjusted rate this far below 0 or above 1 is a linear fit's, not a rate.
NO_RATE = 1e-9
#: A p below this is shown as being below it.
LEAST_SHOWN = 1e-4
#: Strongest first.
ORDER = (Strength.SHOWN, Strength.SHOWN_ALIKE, Strength.SUGGESTED, Strength.CANNOT_TELL)


@dataclass(frozen=True)
class Finding:
    """One comparison of the headline family, in words.

    ``about`` is the factor, or ``arms``; ``sentence`` the counts; ``grade`` verdict, size and margin.
    """

    about: str
    comparison: Comparison
    sentence: str
    grade: str
    graded: Graded


@dataclass(frozen=True)
class Reading:
    """What the first screen says.

    ``codes`` are what keeps the strength of the headline from being higher, ``reasons`` the same in words.
    """

    findings: list[Finding]
    strength: Strength
    codes: tuple[str, ...]
    reasons: list[str]
    by_factor: bool
    counts: str = ""
    departures: tuple[str, ...] = ()

    @property
    def grade(self) -> str:
        """Verdict, size and margin of the headline; blank for a look."""
        return self.findings[0].grade if self.findings else ""

    @property
    def other_factors(self) -> list[Finding]:
        """Of each factor beside that of the headline its most telling comparison; none where pairs of arms lead."""
        first: dict[str, Finding] = {}
        for finding in self.findings if self.by_factor else []:
            first.setdefault(finding.about, finding)
        return list(first.values())[1:]

    @property
    def headline(self) -> str:
        """The verdict in one sentence, departures from the plan last; of a look its counts."""
        return " ".join(filter(None, (self.sentence, self.not_as_planned)))

    @property
    def sentence(self) -> str:
        """The verdict alone; of a look its counts."""
        return self.findings[0].sentence if self.findings else self.counts

    @property
    def not_as_planned(self) -> str:
        """The departures from the plan, beside a verdict that says something."""
        if not self.findings or not self.departures:
            return ""
        head = self.findings[0]
        said = head.comparison.verdict is not Verdict.NOT_SETTLED and head.graded.strength is not Strength.CANNOT_TELL
        return say("not_as_planned", what="; ".join(self.departures)) if said else ""


def counts_of(one: Side) -> str:
    """A side as counted, the unknown beside: ``16 of 20 (80 %)``, ``mean 3.4 (n 20)``."""
    if one.mean is None:
        return known_of(one.rooted, one.stuck, one.unknown)
    unknown = _("; {unknown} unknown", unknown=one.unknown) if one.unknown else ""
    rooted = _(", {k} rooted", k=one.rooted) if one.average == OVER_DAYS else ""
    return f"{_(one.average)} {size(one.mean)} (n {one.stuck}{rooted}{unknown})"


def sentence_for(comparison: Comparison, graded: Graded, analysis: Analysis) -> str:
    """Both sides as counted, worded no stronger than the verdict and its strength. Expects the higher side first."""
    kind = kind_of(analysis.settings.response)
    a, b = comparison.a.label, comparison.b.label
    counts = _("{first} against {second}", first=counts_of(comparison.a), second=counts_of(comparison.b))
    names = {"a": a, "b": b, "counts": counts}
    if graded.strength is Strength.CANNOT_TELL:
        return _untold(comparison, graded, kind, names, analysis)
    if comparison.verdict.alike:
        return _alike(comparison, kind, analysis, names) + _of_these_pieces(comparison, analysis)
    more = clause(f"more/{kind.response}", a=a, b=b)
    if "aliased_with_interaction" in graded.codes:
        more += clause("if_separate")
    if comparison.verdict is Verdict.CLEAR_SMALL:
        more += clause("but_small")
    together = _changed_together(comparison, analysis) if "aliased" in graded.codes else ""
    together += _of_these_pieces(comparison, analysis)
    if not parted(comparison, analysis) or comparison.adjusted is None:
        return say("clear", more=more, counts=counts) + together
    where = clause(f"adjusted/{comparison.adjusts_for or 'place'}")
    if kind.yes_no:
        return _adjusted(comparison.adjusted, comparison.difference.estimate or 0.0, more, counts, where) + together
    return say("clear/means", more=more, values=values_words(comparison, kind), where=where, counts=counts) + together


#: Rates adjusted part from the counts by more than this.
ONE_POINT = 0.01
#: Other values by more than this share of the margin, or of the value without one.
OF_MARGIN, OF_VALUE = 0.1, 0.05


def parted(comparison: Comparison, analysis: Analysis) -> bool:
    """Whether the adjusted values are not those counted, so that both are given."""
    raw = [side.rate if side.mean is None else side.mean for side in (comparison.a, comparison.b)]
    if comparison.adjusted is None or raw[0] is None or raw[1] is None:
        return False
    apart = max(abs(x - y) for x, y in zip(comparison.adjusted, (raw[0], raw[1]), strict=True))
    gap, counted = comparison.apart_as_adjusted, comparison.raw
    if gap is not None and counted is not None and gap * counted < 0:
        return True
    if comparison.yes_no:
        estimate = comparison.difference.estimate
        away = 0.0 if estimate is None or counted is None else abs(estimate - counted)
        return max(apart, away) > ONE_POINT + 1e-9
    margin, kind = analysis.settings.margin, kind_of(analysis.settings.response)
    if margin is not None and kind.margin_of_values:
        return apart > OF_MARGIN * margin
    return any(
        abs(x - y) > OF_VALUE * abs(y) + 1e-12 for x, y in zip(comparison.adjusted, (raw[0], raw[1]), strict=True)
    )


def values_words(comparison: Comparison, kind: Kind) -> str:
    """Both adjusted values, in words."""
    first, second = comparison.adjusted or (0.0, 0.0)
    if kind.yes_no:
        return _("{first} against {second}", first=f"{100 * first:.0f} %", second=f"{100 * second:.0f} %")
    return _("{first} against {second}", first=size(first), second=size(second))


def _adjusted(rates: tuple[float, float], estimate: float, more: str, counts: str, where: str) -> str:
    """Percent of the adjusted rates, whose difference is the estimate also as rounded; a linear fit beyond 0 or 100 % is no rate."""
    first, second = (100 * rate for rate in rates)
    places = 0 if round(first) - round(second) == round(100 * estimate) else 1
    size = in_points(estimate) if not places else _("{n} points", n=f"{100 * estimate:.{places}f}")
    if not -NO_RATE <= min(rates) <= max(rates) <= 1 + NO_RATE:
        return say("clear/adjusted_beyond", more=more, size=size, where=where, counts=counts)
    said = _("{first} against {second}", first=f"{abs(first):.{places}f} %", second=f"{abs(second):.{places}f} %")
    return say("clear/adjusted", more=more, size=size, rates=said, where=where, counts=counts)


def _untold(comparison: Comparison, graded: Graded, kind: Kind, names: dict[str, str], analysis: Analysis) -> str:
    if "range_changes_verdict" in graded.codes:
        return say("range", **names)
    why = {
        "one_unit": "one_unit",
        "season_not_waves": "season",
        "waves_not_replicated": "waves",
        "described_only": "described",
        "block_is_arm": "blocks",
        "looked_on_different_days": "days",
        "not_joined": "not_joined",
    }
    code = next((why[c] for c in graded.codes if c in why), "")
    if "direction_differs" in graded.codes:
        return say("no_comparison", why=say("why/direction_differs", parts=which_points_where(comparison)), **names)
    reversal = comparison.reversal
    if "reverses" in graded.codes and reversal is not None:
        up, down = sides_of(reversal)
        return say("no_comparison", why=say("why/reverses", up=up, down=down, **names), **names)
    code = code or ("nothing_drawn" if comparison.p is None else "")
    if code == "described" and max(comparison.a.share_unknown, comparison.b.share_unknown) <= kind.described_beyond:
        code = "described_elsewhere"
    if not code:
        return _not_settled(comparison, kind, names, analysis)
    o = analysis.observations
    times = [o.factors[f] for f in layout_of(o).not_drawn]
    return say("no_comparison", why=say(f"why/{code}", factors=all_of(times), n=len(times)), **names)


def _not_settled(comparison: Comparison, kind: Kind, names: dict[str, str], analysis: Analysis) -> str:
    """With what would have been called the same, had it held everywhere; adjusted values where they part from the counts."""
    varying = next((one for one in comparison.varies or () if one.ends_the_same), None)
    if varying is not None:
        return say("not_settled/varies", what=varying.name, each=each_stratum(varying, kind), **names)
    if comparison.hurdle_held and comparison.hurdle is not None:
        return say("not_settled/hurdle", rooted=why_hurdled(comparison, comparison.alpha), **names)
    if parted(comparison, analysis):
        where = clause(f"adjusted/{comparison.adjusts_for or 'place'}")
        return say("not_settled/adjusted", values=values_words(comparison, kind), where=where, **names)
    return say("not_settled", **names)


def _alike(comparison: Comparison, kind: Kind, analysis: Analysis, names: dict[str, str]) -> str:
    margin = analysis.settings.margin
    values = {
        **names,
        "interval": interval_words(comparison.same, kind) if comparison.same else "interval",
        "margin": "" if margin is None else margin_words(margin, kind),
    }
    a, b = comparison.a, comparison.b
    if kind.yes_no and a.rooted + b.rooted in (0, a.stuck + b.stuck):
        key = "alike/none" if a.rooted + b.rooted == 0 else "alike/all"
        return say(key, did=clause(f"did/{kind.response}"), **values)
    return say("alike", alike=clause(f"same/{kind.response}", **names), **values)


def differing(comparison: Comparison, analysis: Analysis) -> list[str]:
    """The factors in which the two sides differ: arms by their levels, levels by the factor that has both."""
    o = analysis.observations
    if comparison.factor is not None:
        return [o.factors[comparison.factor]]
    first, second = (o.arms[side.index] for side in (comparison.a, comparison.b))
    return [f for f, one, other in zip(o.factors, first, second, strict=True) if one != other]


def _of_these_pieces(comparison: Comparison, analysis: Analysis) -> str:
    """What is a property of the pieces was not assigned: the sentence speaks of these pieces."""
    known = {name.casefold() for name in analysis.settings.properties} | PROPERTIES | KINDS_OF_PLANT
    own = [f for f in differing(comparison, analysis) if f.casefold().replace("_", " ") in known]
    return " " + say("of_these_pieces", factors=all_of(own), n=len(own)) if own else ""


def _changed_together(comparison: Comparison, analysis: Analysis) -> str:
    """The factors in which two arms differ, for a pair of whole arms."""
    factors = differing(comparison, analysis)
    return " " + say("together", factors=all_of(factors)) if len(factors) > 1 else ""


def grade_for(comparison: Comparison, analysis: Analysis) -> str:
    """Verdict, estimate with interval, margin, and for *not settled* what could settle it."""
    kind, margin = kind_of(analysis.settings.response), analysis.settings.margin
    d = comparison.difference
    if d.estimate is None:
        return say("grade/none", verdict=comparison.verdict.value)
    far = _size_words(comparison, kind)
    deciding = comparison.same if comparison.verdict is Verdict.SAME and comparison.same else d.interval
    span = interval_words(deciding, kind) if deciding else _("no interval")
    said = {"verdict": comparison.verdict.value, "far": far, "span": span}
    text = say("grade/no_margin", **said) if margin is None else say("grade", **said, margin=margin_words(margin, kind))
    more = more_units_words(comparison, analysis)
    return f"{text} {more}" if more else text


#: What keeps a number from being worked out of any pair; said once, not of each.
OF_NO_PAIR = ("response", "layout")


def more_units_words(comparison: Comparison, analysis: Analysis) -> str:
    """What could settle it, or that nothing could; blank where that was not asked, or is not worked out of any pair."""
    if comparison.more_units_open in ("", *OF_NO_PAIR):
        said = []
    elif comparison.more_units_open == "stopped":
        return say("more_units/stopped")
    else:
        said = [say(f"more_units/{comparison.more_units_open}")]
    if comparison.more_units is not None:
        said.append(say("more_units", n=comparison.more_units))
    family = "/family" if len(analysis.comparisons) > 1 else ""
    if comparison.more_units_margin:
        said.append(say(f"more_units_margin{family}", n=comparison.more_units_margin))
    if comparison.smallest_gap is not None:
        said.append(say(f"smallest_gap{family}", gap=in_points(comparison.smallest_gap)))
    return " ".join(said)


def not_worse_words(comparison: Comparison, analysis: Analysis) -> str:
    """Whether the first side is not worse than the second by more than the margin; blank where that was not asked."""
    found, margin = comparison.not_worse, analysis.settings.margin
    if found is None or margin is None:
        return ""
    kind = kind_of(analysis.settings.response)
    limit = in_points(found.limit, True) if kind.yes_no else size(found.limit)
    names = {
        "a": comparison.a.label,
        "b": comparison.b.label,
        "margin": margin_words(margin, kind),
        "limit": limit,
    }
    return say("not_worse/holds" if found.holds else "not_worse/open", **names)


def _size_words(comparison: Comparison, kind: Kind) -> str:
    estimate = comparison.difference.estimate or 0.0
    if kind.yes_no:
        return clause("size/more", points=in_points(estimate)) if estimate > 0 else clause("size/none")
    return clause("size/scale", scale=kind.scale.value, size=size(estimate))


def _main_effects(analysis: Analysis) -> list[TermResult]:
    return [term for term in analysis.terms if len(term.factors) == 1]


def read(
    analysis: Analysis,
    departures: list[str] | None = None,
    other_cautions: list[Caution] | None = None,
    planned: bool = True,
) -> Reading:
    """Put an analysis in words.

    Parameters
    ----------
    analysis : Analysis
    departures : list of str
        Ways in which the plan was not followed; any of them makes a clear verdict *suggested*.
    other_cautions : list of Caution
        Doubts from the log: incidents, visibility, days.
    planned : bool
        False for a file without a plan: then nothing is said to be as planned.
    """
    if analysis.settings.look:
        return Reading([], Strength.CANNOT_TELL, ("look",), [_("a look compares nothing")], False, look_words(analysis))
    cautions = [*analysis.cautions, *(other_cautions or [])]
    broken = tuple(departures or ())
    told = [term for term in _main_effects(analysis) if term.contrasts]
    by_factor = led_by_factor(analysis.observations, analysis.settings, told)
    chosen = (
        [(t.name, c) for t in told for c in t.contrasts] if by_factor else [("arms", c) for c in analysis.comparisons]
    )
    findings = [_finding(about, c, analysis, cautions, bool(broken)) for about, c in chosen]
    findings.sort(key=_order)
    if not findings:
        counts = say("no_other_known", counts=_counts(analysis))
        return Reading([], Strength.CANNOT_TELL, ("nothing_known",), [_("one arm alone is known")], False, counts)
    head = findings[0].graded
    return Reading(
        findings,
        head.strength,
        head.codes,
        _in_words(findings[0].comparison, head, cautions, broken, planned, kind_of(analysis.settings.response)),
        by_factor,
        "",
        broken,
    )


def _finding(about: str, comparison: Comparison, analysis: Analysis, cautions: list[Caution], broken: bool) -> Finding:
    best = turned(comparison)
    graded = grade(best, cautions, broken)
    return Finding(about, best, sentence_for(best, graded, analysis), grade_for(best, analysis), graded)


def _order(finding: Finding) -> tuple[int, int, float, float]:
    """Strongest first; of those with as small a p as is shown, the one that lies farthest from no difference."""
    c = finding.comparison
    p = 1.0 if c.p_adjusted is None else max(c.p_adjusted, LEAST_SHOWN)
    far = abs(c.above or 0.0)
    return ORDER.index(finding.graded.strength), list(Verdict).index(c.verdict), p, -far


def _in_words(
    comparison: Comparison,
    head: Graded,
    cautions: list[Caution],
    departures: tuple[str, ...],
    planned: bool,
    kind: Kind,
) -> list[str]:
    """Why the strength is not higher; of what is shown, that it was planned."""
    if head.strength in (Strength.SHOWN, Strength.SHOWN_ALIKE):
        verdict = _(comparison.verdict.value if comparison.verdict is not Verdict.CLEAR_UNCERTAIN else "clear")
        return [_("{verdict}, as planned" if planned else "{verdict}, as this file stands", verdict=verdict)]
    said = list(departures) if "departure" in head.codes else []
    own = [doubt for doubt in doubts_of_its_own(comparison, kind) if doubt.code in head.codes]
    own += [doubt for doubt in cautions if doubt.code in head.codes and doubt.code not in {one.code for one in own}]
    said += [doubt.text.rstrip(".") for doubt in own]
    return said or [_("not settled")]


def look_words(analysis: Analysis) -> str:
    """The counts of a look, arm by arm."""
    return say("look", counts=_counts(analysis))


def _counts(analysis: Analysis) -> str:
    seen = outcomes_of(analysis.observations, analysis.settings.response)
    sides = [side(seen, arm) for arm in range(len(seen.o.arms))]
    counts = [f"{one.label} {counts_of(one)}" for one in sides]
    counts += [f"{arm.name} {known_of(0, 0, arm.left_out)}" for arm in analysis.arms if not arm.stuck]
    return "; ".join(counts)
