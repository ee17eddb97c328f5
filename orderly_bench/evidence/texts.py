"""The evidence in words and figures, for Compare, Conclude and the report."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from markupsafe import Markup

from orderly_bench.core.cautions import Caution
from orderly_bench.core.compare.as_done import share_of_days
from orderly_bench.core.compare.sensitivity import Answer
from orderly_bench.core.judgement.comparisons import Comparison, turned
from orderly_bench.core.judgement.result import Analysis
from orderly_bench.core.layouts.from_rows import layout_of
from orderly_bench.core.messages.numbers import p_value, points, size, small, span
from orderly_bench.core.messages.say import say
from orderly_bench.core.messages.translation import Typed, capital, dated
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.methods.randomisation import RandomisationTest
from orderly_bench.core.responses.added import Curve
from orderly_bench.core.responses.counts import at_one_look, counted_by
from orderly_bench.core.responses.kind import Response
from orderly_bench.core.responses.registry import kind_of
from orderly_bench.core.score.days import days_in_words
from orderly_bench.core.score.details import by_arm
from orderly_bench.core.score.endpoint import COLUMNS, NOT_EXAMINED
from orderly_bench.core.score.second import agreement_of
from orderly_bench.core.score.signs import SignCount, signs_of
from orderly_bench.core.telling.headline import counts_of, parted, values_words
from orderly_bench.core.telling.one_rate import Advice
from orderly_bench.core.tend.schedule import days_after_sticking
from orderly_bench.core.vocabulary import Roots, Top
from orderly_bench.evidence.rows import value_of
from orderly_bench.evidence.verdict import Evidence
from orderly_bench.figures import curves, differences, rates, strips
from orderly_bench.figures.svg import PAGE, Frame, Palette
from orderly_bench.record.facts import scored_twice, scores_by_arm
from orderly_bench.record.value import TrialRecord


def is_share(analysis: Analysis) -> bool:
    """Whether the endpoint is a yes or no, shown as rates."""
    return kind_of(analysis.settings.response).yes_no


@dataclass(frozen=True)
class PairRow:
    """Two arms, or two levels of a factor, as a row of a table, its size in the endpoint's unit; ``adjusted`` blank where it is as counted."""

    a: str
    b: str
    counts: str
    size: str
    span: str
    adjusted: str
    comparison: Comparison


def pair_rows(evidence: Evidence) -> list[PairRow]:
    """Every pair of arms, the higher side first."""
    return [_row(c, evidence.analysis) for c in pairs(evidence)] if evidence.analysis else []


def factor_rows(evidence: Evidence) -> list[tuple[str, list[PairRow]]]:
    """The contrasts of every factor's levels, over the others, the higher side first."""
    found = evidence.analysis
    terms = found.terms if found is not None and len(found.observations.factors) > 1 else []
    return [(term.name, [_row(turned(c), found) for c in term.contrasts]) for term in terms if found and term.contrasts]


def permuted_factors(evidence: Evidence) -> set[str]:
    """Factors whose p permutes whole waves, which nobody assigned."""
    if evidence.analysis is None:
        return set()
    o = evidence.analysis.observations
    return {o.factors[f] for f in layout_of(o).carried}


def _row(c: Comparison, analysis: Analysis) -> PairRow:
    d, share = c.difference, is_share(analysis)
    far = "none" if d.estimate is None else (points(d.estimate, True) if share else size(d.estimate))
    nothing = kind_of(analysis.settings.response).nothing
    ends = span(d.interval.low, d.interval.high, share, share, apart_from=[nothing]) if d.interval else "none"
    counts = f"{counts_of(c.a)} v {counts_of(c.b)}"
    if share:
        sides = {"rooted": c.a.rooted, "stuck": c.a.stuck, "rooted2": c.b.rooted, "stuck2": c.b.stuck}
        counts = _("{rooted} of {stuck} v {rooted2} of {stuck2}", **sides)
    values = values_words(c, kind_of(analysis.settings.response)) if parted(c, analysis) else ""
    return PairRow(
        c.a.label if c.factor is not None else c.a.name,
        c.b.label if c.factor is not None else c.b.name,
        counts,
        far,
        ends,
        values,
        c,
    )


def size_heading(analysis: Analysis) -> str:
    """What the size of a pair is counted in."""
    return "Points" if is_share(analysis) else capital(kind_of(analysis.settings.response).scale.value)


def rooting_by_day(names: dict[str, str], days: Analysis) -> list[tuple[str, dict[str, float]]]:
    """The cumulative proportion rooted by day of each arm, by its letter."""
    letters = {full: letter for letter, full in names.items()}
    return sorted(
        ((letters[arm.name], arm.added.incidence) for arm in days.arms if isinstance(arm.added, Curve)),
        key=lambda row: row[0],
    )


def rooting_over_time(
    evidence: Evidence, others: dict[Response, Analysis | str], palette: Palette = PAGE, narrow: bool = False
) -> Markup:
    """How rooting rose from check to check, beside an endpoint that is of one day; blank where one check alone was scored."""
    days = others.get(Response.DAYS, "")
    if isinstance(days, str) or by_day(evidence):
        return Markup("")
    rows = rooting_by_day(evidence.record.arm_names, days)
    if len({day for _letter, rooted in rows for day in rooted}) < 2:
        return Markup("")
    return Markup(curves.figure(rows, palette, narrow))  # noqa: S704 - drawn by us


def strips_of(names: dict[str, str], analysis: Analysis) -> list[strips.Strip]:
    """Every cutting's value by arm, with the interval of its mean."""
    o, found = analysis.observations, {arm.name: arm.interval for arm in analysis.arms}
    values = {
        o.names[i]: [float(v) for v, a in zip(o.responses, o.arm_of_known, strict=True) if a == i]
        for i in range(len(o.arms))
    }
    return [
        strips.Strip(letter, values[full], (ends.low, ends.high) if (ends := found.get(full)) else None)
        for letter, full in names.items()
        if full in values
    ]


def strip_figure(evidence: Evidence, palette: Palette = PAGE, narrow: bool = False) -> Markup:
    """Every cutting's value by arm, where the endpoint is no share; of days how rooting rose over them."""
    if evidence.analysis is None:
        return Markup("")
    if by_day(evidence):
        rooted = rooting_by_day(evidence.record.arm_names, evidence.analysis)
        return Markup(curves.figure(rooted, palette, narrow))  # noqa: S704 - drawn by us
    rows = strips_of(evidence.record.arm_names, evidence.analysis)
    heading = kind_of(evidence.analysis.settings.response).heading
    return Markup(strips.figure(rows, heading, palette))  # noqa: S704 - every text is escaped when drawn


def rates_figure(evidence: Evidence, palette: Palette = PAGE, frame: Frame = rates.WIDE) -> Markup:
    """Rates by arm, in the arms' order."""
    if evidence.analysis is None:
        return Markup("")
    if not is_share(evidence.analysis):
        return strip_figure(evidence, palette, frame.narrow)
    results = {arm.name: arm for arm in evidence.analysis.arms}
    names = evidence.record.arm_names
    lines = [rates.RateLine(letter, results[name]) for letter, name in names.items() if name in results]
    heading = kind_of(evidence.analysis.settings.response).heading
    return Markup(rates.figure(lines, palette, frame, heading))  # noqa: S704 - every text is escaped when drawn


def by_day(evidence: Evidence) -> bool:
    """Whether the picture is of how rooting rose, which has no interval of an arm."""
    return evidence.analysis is not None and evidence.analysis.settings.response is Response.DAYS


def picture_of(evidence: Evidence) -> str:
    """What the picture of the arms shows."""
    if evidence.analysis is None:
        return ""
    response = evidence.analysis.settings.response
    heading = kind_of(response).heading
    if by_day(evidence):
        return _("{heading}: the share rooted by day and arm, a step at each check, the last", heading=heading)
    if is_share(evidence.analysis):
        return _("{heading} of stuck by arm", heading=heading)
    return _("{heading} by arm", heading=heading)


def differences_figure(evidence: Evidence, palette: Palette = PAGE, frame: Frame = differences.WIDE) -> Markup:
    """The headline family's differences against the margin, where they are points."""
    if evidence.analysis is None or evidence.reading is None or not is_share(evidence.analysis):
        return Markup("")
    shown = [finding.comparison for finding in evidence.reading.findings[:8]]
    return Markup(differences.figure(shown, evidence.analysis.settings.margin, palette, frame))  # noqa: S704


@dataclass(frozen=True)
class ReconciledRow:
    """Counts of one arm by column, with the sum that must equal its stuck."""

    letter: str
    name: str
    counts: list[int]
    stuck: int


@dataclass(frozen=True)
class Reconciled:
    """The counts of every arm, in columns that add up to its stuck."""

    columns: list[str]
    rows: list[ReconciledRow]
    half: str = ""  #: of days to root, by which look half of each arm had rooted


def reconciled(evidence: Evidence) -> Reconciled:
    """What was counted by arm, in the words of the endpoint."""
    names, response = evidence.record.arm_names, at_one_look(evidence.record.plan.question.response)
    if response is Response.ROOTED:
        columns, counts = list(COLUMNS), [[evidence.reconciliation[x][c] for c in COLUMNS] for x in names]
    else:
        of_arm = [[value_of(response, r) for r in evidence.results if r.cutting.unit.arm == x] for x in names]
        columns, counts = counted_by(response, of_arm)
    rows = [ReconciledRow(x, name, own, sum(own)) for (x, name), own in zip(names.items(), counts, strict=True)]
    return Reconciled(columns, rows, _half_by(evidence))


def _half_by(evidence: Evidence) -> str:
    """By which look half of each arm had roots; blank where days are not what was asked."""
    if evidence.analysis is None or not by_day(evidence):
        return ""
    letters = {full: letter for letter, full in evidence.record.arm_names.items()}
    of_arm = {letters[arm.name]: arm.added.median_day for arm in evidence.analysis.arms if isinstance(arm.added, Curve)}
    told = [
        _("{letter} on day {day:g}", letter=letter, day=day)
        if day is not None
        else _("{letter} not by the end", letter=letter)
        for letter, day in sorted(of_arm.items())
    ]
    return _("half had roots at the look: {told}", told=", ".join(told)) if told else ""


def changes(evidence: Evidence) -> list[str]:
    """Units that got another arm's treatment: from when, for what share of their days, and why."""
    record = evidence.record
    units = {unit.id: unit for unit in record.units}
    lots = {c.unit.id: c.lot for c in record.cuttings if c.lot is not None}
    told = []
    for unit, lot in lots.items():
        own = [change for change in record.changes_until_end if change.unit == unit]
        if not own:
            continue
        days = [(float(days_after_sticking(change.day, lot.day_zero)), change.arm) for change in own]
        shares = share_of_days(units[unit].arm, days, float(evidence.day))
        parts = _(", ").join(
            _("{share:.0f} % of its days as {arm}", share=100 * s, arm=arm) for arm, s in shares.items()
        )
        why = "; ".join(
            _("{arm} from {day}: {reason}", arm=c.arm, day=dated(c.day), reason=Typed(c.reason)) for c in own
        )
        told.append(
            _(
                "{code}, drawn into {arm}: {parts} ({why})",
                code=units[unit].code,
                arm=units[unit].arm,
                parts=parts,
                why=why,
            )
        )
    return told


def lifted_for_good(record: TrialRecord) -> list[str]:
    """Checks at which drawn units were lifted for good, so that they are in no later count."""
    found = []
    for check in record.checks:
        if check.sample is None or not check.opened:
            continue
        units = {c.unit.id for c in record.counted if c.unit.sampled == check.id}
        found.append(
            _(
                "{n:unit|units}, {each} of each arm, were drawn and lifted for good at the check of day {day}{lot}; they are in no later count",
                n=len(units),
                each=check.sample,
                day=str(check.planned_das),
                lot=_(" of {name}", name=record.lot(check.lot).name) if len(record.lots) > 1 else "",
            )
        )
    return found


def not_looked(evidence: Evidence) -> list[str]:
    """What was lifted for good before, and arms in which somebody's roots were not looked for, with how many of how many."""
    told = lifted_for_good(evidence.record)
    for letter in evidence.record.arm_names:
        own = [r.outcome for r in evidence.results if r.cutting.unit.arm == letter]
        blind = sum(1 for outcome in own if outcome.state in (Roots.NOT_LOOKED, NOT_EXAMINED.state))
        if blind:
            told.append(
                _("{letter}: roots not looked for in {n} of {of}", letter=letter, n=str(blind), of=str(len(own)))
            )
    return told


def tops_by_arm(evidence: Evidence) -> tuple[list[str], list[tuple[str, list[int]]]]:
    """What was seen above the soil, by arm: the tops there were, and how many of each."""
    seen = [(r.cutting.unit.arm, r.score.top) for r in evidence.results if r.score and r.score.top is not None]
    columns = [top for top in Top if any(top is own for _, own in seen)]
    rows = [(letter, [seen.count((letter, top)) for top in columns]) for letter in evidence.record.arm_names]
    return [str(top) for top in columns], rows if columns else []


def signs(evidence: Evidence) -> list[SignCount]:
    """Signs of failure by arm, among the counted cuttings that were looked at."""
    scored = [(r.cutting.unit.arm, r.score) for r in evidence.results]
    return signs_of(list(evidence.record.arm_names), scored)


def details(evidence: Evidence) -> list[tuple[str, list[tuple[str, str]]]]:
    """What else was said of roots and shoots, a row each, by the arm's letter; none where nobody said any."""
    letters = {name: letter for letter, name in evidence.record.arm_names.items()}
    found = by_arm(scores_by_arm(evidence.record, evidence.results))
    return [(what, [(letters[name], told) for name, told in row.items()]) for what, row in found]


def agreement(evidence: Evidence) -> str:
    """How far two scorers agree at the endpoint; blank where nothing was scored twice."""
    twice = scored_twice(evidence.results)
    return agreement_of(twice).words if twice else ""


def days_of(evidence: Evidence) -> str:
    """On which days after its own sticking each arm was looked at: ``day 42``; the planned day where nobody looked."""
    record = evidence.record
    by_arm: dict[str, set[int]] = {letter: set() for letter in record.arm_names}
    for result in evidence.results:
        check = result.check
        if check is not None and check.day is not None and result.kept is not None and not result.carried:
            by_arm[result.cutting.unit.arm].add(days_after_sticking(result.kept.day, record.lot(check.lot).day_zero))
    return days_in_words(by_arm) or _("day {day}", day=str(evidence.day))


def looked(evidence: Evidence) -> list[str]:
    """When it was looked at, lot by lot, in days after its own sticking."""
    told = []
    for check in evidence.checks:
        if check.day is None:
            continue
        lot = evidence.record.lot(check.lot)
        on = _("{day}, day {das}", day=dated(check.day), das=str(days_after_sticking(check.day, lot.day_zero)))
        several = len(evidence.record.lots) > 1
        on = _("about {on}", on=on) if check.about else _("on {on}", on=on)
        told.append(_("{lot} {on}", lot=lot.name, on=on) if several else on)
    return told


def since(answers: Sequence[Answer]) -> list[str]:
    """The verdict as it is with what became of the plants after the endpoint; it stands beside the endpoint's own."""
    return [one.words for one in answers if one.later]


def advice_of(evidence: Evidence) -> Advice | None:
    """How many to stick for the plants wanted, from a rate; None of another kind, where none are wanted, or it can't be told."""
    asked = evidence.record.plan.question
    if evidence.rate is None or asked.wanted_plants is None:
        return None
    return evidence.rate.to_stick(asked.wanted_plants, asked.wanted_sure / 100)


def to_stick(evidence: Evidence) -> str:
    """The same in words; blank where nothing is wanted."""
    if evidence.rate is None or evidence.record.plan.question.wanted_plants is None:
        return ""
    advised = advice_of(evidence)
    return advised.sentence if advised else say("stick_for/none")


def rooted_means(evidence: Evidence) -> str:
    """What *rooted* means here, and how it was known; never a rule beside its own breach."""
    ways = {
        way: sum(own.get(way, 0) for own in evidence.known_by.values())
        for own in evidence.known_by.values()
        for way in own
    }
    seen = "; ".join(_("{n} {way}", n=str(n), way=way) for way, n in ways.items() if n)
    from_mm = evidence.record.plan.question.root_from_mm
    least = _(", from {mm:g} mm", mm=from_mm) if from_mm is not None else ""
    what = _("not dead, and roots seen or counted{least}", least=least)
    return _("{what} ({seen})", what=what, seen=seen) if seen else what


def all_cautions(evidence: Evidence) -> list[Caution]:
    """Those of the analysis or of the rate, and those of the log."""
    advised = advice_of(evidence)
    own = [*(evidence.analysis.cautions if evidence.analysis else []), *(advised.known.cautions if advised else [])]
    return [*own, *evidence.cautions]


def pairs(evidence: Evidence) -> list[Comparison]:
    """All pairs of arms, the higher side first."""
    return [turned(c) for c in evidence.analysis.comparisons] if evidence.analysis else []


def redraw_words(analysis: Analysis) -> str:
    """What the randomisation test repeats, in words."""
    return layout_of(analysis.observations).redrawn


def _draws(test: RandomisationTest) -> str:
    return _("{draws} draws, s.e. {small}", draws=test.draws, small=small(test.monte_carlo_error or 0.0))


def tested_words(analysis: Analysis) -> str:
    """The randomisation test in a caption; each factor's where no one draw gave all arms."""
    tests = [("", analysis.test)]
    if analysis.test.p is None:
        tests = [(f"{t.name} ", t.test) for t in analysis.terms if t.test is not None and t.test.p is not None]
    said = [f"{about}{p_value(t.p)}, {'exact' if t.exact else _draws(t)}" for about, t in tests]
    return _("randomisation test {names}", names="; ".join(said)) if said else _("no randomisation test")


def second_opinion_words(analysis: Analysis) -> str:
    """Whether the model beside the randomisation test falls on the same side of alpha."""
    alpha = analysis.settings.alpha
    judged = [
        (t.name, t.model.name, t.test.p, t.model.p) for t in analysis.terms if t.test and analysis.test.p is None
    ] or [("", analysis.model.name, analysis.test.p, analysis.model.p)]
    said = []
    for about, name, p, model_p in judged:
        if name == "no model" or p is None:
            continue
        start = f"{about}: " if about else ""
        if model_p is None:
            said.append(
                _("{start}the {name} model has no finite fit; the randomisation test stands.", start=start, name=name)
            )
        else:
            agrees = "agrees" if (model_p < alpha) == (p < alpha) else "disagrees"
            said.append(
                _(
                    "{start}a {name} model {agrees}: {p}.",
                    start=start,
                    name=name,
                    agrees=agrees,
                    p=p_value(model_p),
                )
            )
    return " ".join(map(capital, said)) if said else _("No model stands beside it.")
