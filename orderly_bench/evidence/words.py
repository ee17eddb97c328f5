"""The evidence in words and figures, for Compare, Conclude and the report."""

from __future__ import annotations

import shlex
from collections.abc import Sequence
from dataclasses import dataclass

from markupsafe import Markup

from orderly_bench.core.cautions import Caution
from orderly_bench.core.compare.as_done import share_of_days
from orderly_bench.core.judgement.arms import ArmResult
from orderly_bench.core.judgement.comparisons import Comparison, turned
from orderly_bench.core.judgement.lenses import look_through, unconditional
from orderly_bench.core.judgement.result import Analysis
from orderly_bench.core.layouts.from_rows import layout_of
from orderly_bench.core.messages.numbers import known_of, p_value, percent, points, size, small, span
from orderly_bench.core.messages.say import say
from orderly_bench.core.messages.words import Typed, capital, dated, tell
from orderly_bench.core.methods.randomisation import RandomisationTest
from orderly_bench.core.plan.question import Exploratory
from orderly_bench.core.question.others import named_beside, other_words
from orderly_bench.core.responses.added import Classed, Curve, Numbers
from orderly_bench.core.responses.counts import counted_by
from orderly_bench.core.responses.kind import Response
from orderly_bench.core.responses.registry import kind_of
from orderly_bench.core.score.days import days_in_words
from orderly_bench.core.score.endpoint import COLUMNS, NOT_EXAMINED
from orderly_bench.core.telling.headline import counts_of, parted, values_words
from orderly_bench.core.telling.one_rate import Advice
from orderly_bench.core.tend.schedule import days_after_sticking
from orderly_bench.core.vocabulary import Roots, Top
from orderly_bench.evidence.memory import digest_of, remembered
from orderly_bench.evidence.rows import value_of
from orderly_bench.evidence.verdict import Evidence
from orderly_bench.figures import differences, rates, strips
from orderly_bench.figures.svg import PAGE, Frame, Palette


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
    ends = span(d.interval.low, d.interval.high, share, share) if d.interval else "none"
    counts = f"{counts_of(c.a)} v {counts_of(c.b)}"
    if share:
        sides = {"rooted": c.a.rooted, "stuck": c.a.stuck, "rooted2": c.b.rooted, "stuck2": c.b.stuck}
        counts = tell("{rooted} of {stuck} v {rooted2} of {stuck2}", **sides)
    values = values_words(c, kind_of(analysis.settings.response)) if parted(c, analysis) else ""
    return PairRow(
        c.a.spoken if c.factor is not None else c.a.name,
        c.b.spoken if c.factor is not None else c.b.name,
        counts,
        far,
        ends,
        values,
        c,
    )


def size_heading(analysis: Analysis) -> str:
    """What the size of a pair is counted in."""
    return "Points" if is_share(analysis) else capital(kind_of(analysis.settings.response).scale.value)


def strip_figure(evidence: Evidence, palette: Palette = PAGE) -> Markup:
    """Every cutting's value by arm, where the endpoint is no share."""
    if evidence.analysis is None or evidence.analysis.settings.response is Response.DAYS:
        return Markup("")
    o = evidence.analysis.observations
    values = {
        o.names[i]: [float(v) for v, a in zip(o.responses, o.arm_of_known, strict=True) if a == i]
        for i in range(len(o.arms))
    }
    rows = [(letter, values[full]) for letter, full in evidence.record.arm_names.items() if full in values]
    heading = kind_of(evidence.analysis.settings.response).heading
    return Markup(strips.figure(rows, heading, palette))  # noqa: S704 - every text is escaped when drawn


def rates_figure(evidence: Evidence, palette: Palette = PAGE, frame: Frame = rates.WIDE) -> Markup:
    """Rates by arm, in the arms' order."""
    if evidence.analysis is None:
        return Markup("")
    if not is_share(evidence.analysis):
        return strip_figure(evidence, palette)
    results = {arm.name: arm for arm in evidence.analysis.arms}
    names = evidence.record.arm_names
    lines = [rates.RateLine(letter, results[name]) for letter, name in names.items() if name in results]
    heading = kind_of(evidence.analysis.settings.response).heading
    return Markup(rates.figure(lines, palette, frame, heading))  # noqa: S704 - every text is escaped when drawn


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


def reconciled(evidence: Evidence) -> Reconciled:
    """What was counted by arm, in the words of the endpoint."""
    names, response = evidence.record.arm_names, evidence.record.plan.question.response
    if response is Response.ROOTED:
        columns, counts = list(COLUMNS), [[evidence.reconciliation[x][c] for c in COLUMNS] for x in names]
    else:
        of_arm = [[value_of(response, r) for r in evidence.results if r.cutting.unit.arm == x] for x in names]
        columns, counts = counted_by(response, of_arm)
    rows = [ReconciledRow(x, name, own, sum(own)) for (x, name), own in zip(names.items(), counts, strict=True)]
    return Reconciled(columns, rows)


def changes(evidence: Evidence) -> list[str]:
    """Units that got another arm's treatment: from when, for what share of their days, and why."""
    record = evidence.record
    units = {unit.id: unit for unit in record.units}
    lots = {c.unit.id: c.lot for c in record.cuttings if c.lot is not None}
    told = []
    for unit, lot in lots.items():
        own = [change for change in record.changes if change.unit == unit]
        if not own:
            continue
        days = [(float(days_after_sticking(change.day, lot.day_zero)), change.arm) for change in own]
        shares = share_of_days(units[unit].arm, days, float(evidence.day))
        parts = tell(", ").join(
            tell("{share:.0f} % of its days as {arm}", share=100 * s, arm=arm) for arm, s in shares.items()
        )
        why = "; ".join(
            tell("{arm} from {day}: {reason}", arm=c.arm, day=dated(c.day), reason=Typed(c.reason)) for c in own
        )
        told.append(
            tell(
                "{code}, drawn into {arm}: {parts} ({why})",
                code=units[unit].code,
                arm=units[unit].arm,
                parts=parts,
                why=why,
            )
        )
    return told


def not_looked(evidence: Evidence) -> list[str]:
    """Arms in which somebody's roots were not looked for, with how many of how many."""
    told = []
    for letter in evidence.record.arm_names:
        own = [r.outcome for r in evidence.results if r.cutting.unit.arm == letter]
        blind = sum(1 for outcome in own if outcome.state in (Roots.NOT_LOOKED, NOT_EXAMINED.state))
        if blind:
            told.append(
                tell("{letter}: roots not looked for in {n} of {of}", letter=letter, n=str(blind), of=str(len(own)))
            )
    return told


def tops_by_arm(evidence: Evidence) -> tuple[list[str], list[tuple[str, list[int]]]]:
    """What was seen above the soil, by arm: the tops there were, and how many of each."""
    seen = [(r.cutting.unit.arm, r.score.top) for r in evidence.results if r.score and r.score.top is not None]
    columns = [top for top in Top if any(top is own for _, own in seen)]
    rows = [(letter, [seen.count((letter, top)) for top in columns]) for letter in evidence.record.arm_names]
    return [str(top) for top in columns], rows if columns else []


def days_of(evidence: Evidence) -> str:
    """On which days after its own sticking each arm was looked at: ``day 42``; the planned day where nobody looked."""
    record = evidence.record
    by_arm: dict[str, set[int]] = {letter: set() for letter in record.arm_names}
    for result in evidence.results:
        check = result.check
        if check is not None and check.day is not None and result.kept is not None and not result.carried:
            by_arm[result.cutting.unit.arm].add(days_after_sticking(check.day, record.lot(check.lot).day_zero))
    return days_in_words(by_arm) or tell("day {day}", day=str(evidence.day))


def looked(evidence: Evidence) -> list[str]:
    """When it was looked at, lot by lot, in days after its own sticking."""
    told = []
    for check in evidence.checks:
        if check.day is None:
            continue
        lot = evidence.record.lot(check.lot)
        on = tell("{day}, day {das}", day=dated(check.day), das=str(days_after_sticking(check.day, lot.day_zero)))
        several = len(evidence.record.lots) > 1
        told.append(tell("{lot} on {on}", lot=lot.name, on=on) if several else tell("on {on}", on=on))
    return told


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
    seen = "; ".join(tell("{n} {way}", n=str(n), way=way) for way, n in ways.items() if n)
    what = tell("not dead, and roots seen or counted")
    return tell("{what} ({seen})", what=what, seen=seen) if seen else what


def all_cautions(evidence: Evidence) -> list[Caution]:
    """Those of the analysis or of the rate, and those of the log."""
    advised = advice_of(evidence)
    own = [*(evidence.analysis.cautions if evidence.analysis else []), *(advised.known.cautions if advised else [])]
    return [*own, *evidence.cautions]


def pairs(evidence: Evidence) -> list[Comparison]:
    """All pairs of arms, the higher side first."""
    return [turned(c) for c in evidence.analysis.comparisons] if evidence.analysis else []


def command(evidence: Evidence) -> str:
    """The exact headless command that gives the same numbers from the endpoint CSV."""
    if evidence.rate is not None:
        file, asked = f"endpoint-{evidence.record.code}.csv", evidence.record.plan.question
        words = ["./bench", "analyse", file, "--response", evidence.rate.response.value, "--rate"]
        words += ["--unit", "unit"] if evidence.rate.shared else []
        if asked.wanted_plants is not None:
            words += ["--want", str(asked.wanted_plants), "--assurance", f"{asked.wanted_sure / 100:g}"]
        return shlex.join(words)
    if evidence.analysis is None:
        return ""
    s = evidence.analysis.settings
    o = evidence.analysis.observations
    words = [
        "./bench",
        "analyse",
        f"endpoint-{evidence.record.code}.csv",
        "--response",
        s.response.value,
        "--factors",
        ",".join(o.factors),
    ]
    flags = (
        ("--unit", o.rows[0].unit is not None, "unit"),
        ("--block", o.rows[0].block is not None, "block"),
        *((flag, True, column) for flag, column in layout_of(o).columns),
    )
    for flag, used, column in flags:
        words += [flag, column] if used else []
    words += ["--start", ",".join(name for name, _ in o.rows[0].start)] if o.rows[0].start else []
    words += ["--margin", f"{s.margin:g}"] if s.margin is not None else []
    words += ["--alpha", f"{s.alpha:g}", "--draws", str(s.draws), "--seed", str(s.seed)]
    words += ["--family", "control" if s.against_control else "all"]
    if s.control is not None:
        words += ["--control", ",".join(f"{f}={level}" for f, level in zip(o.factors, s.control, strict=True))]
    words += ["--headline", "factors" if s.by_factor else "pairs"] if len(o.factors) > 1 else []
    words += ["--dose", s.dose] if s.dose is not None else []
    words += ["--max-t"] if s.max_t else []
    words += ["--not-worse-than"] if s.not_worse else []
    words += ["--look"] if s.look else []
    return shlex.join(words)


@dataclass(frozen=True)
class ExploredRow:
    """Another response: its estimates by arm and what the draw says; ``problem`` where it can't be analysed."""

    name: str
    unit: str
    estimates: list[tuple[str, str]]
    overall: str
    strongest: str
    problem: str = ""


def explored(
    names: dict[str, str], analyses: dict[Response, Analysis | str], others: Sequence[Exploratory] = ()
) -> list[ExploredRow]:
    """The other responses as rows of a table, all exploratory; ``names`` are the arms' by letter, ``others`` those named beforehand."""
    rows = []
    beforehand = named_beside(others)
    for response, analysis in analyses.items():
        name, unit = kind_of(response).heading, kind_of(response).unit
        if response in beforehand:
            unit = tell("{unit}; named beforehand: {words}", unit=unit, words=other_words(beforehand[response]))
        if isinstance(analysis, str):
            rows.append(ExploredRow(name, unit, [], "", "", analysis))
            continue
        by_name = {arm.name: arm for arm in analysis.arms}
        estimates = [(letter, _estimate(by_name[full], response)) for letter, full in names.items() if full in by_name]
        if analysis.settings.look:
            rows.append(ExploredRow(name, unit, estimates, tell("a look: counts only"), ""))
            continue
        if not analysis.comparisons:
            rows.append(ExploredRow(name, unit, estimates, tell("one arm alone is known"), ""))
            continue
        ranked = sorted(analysis.comparisons, key=lambda c: 2.0 if c.p_adjusted is None else c.p_adjusted)
        strongest = _strongest(names, turned(ranked[0]), response)
        if response in beforehand and analysis.settings.margin is not None:
            strongest = tell("{pair}: {verdict}", pair=strongest, verdict=ranked[0].verdict)
        rows.append(ExploredRow(name, unit, estimates, _alike(analysis), strongest))
        if response in (Response.ROOT_COUNT, Response.LONGEST):
            rows.append(_per_rooted(names, name, by_name))
    return rows


def _per_rooted(names: dict[str, str], name: str, arms: dict[str, ArmResult]) -> ExploredRow:
    """The same among the rooted alone: described, never tested, since rooting came after the treatment."""
    said = []
    for letter, full in names.items():
        result = arms.get(full)
        mean = result.added.mean_per_rooted if result and isinstance(result.added, Numbers) else None
        if result is not None:
            said.append((letter, f"{mean:.1f} (n {result.rooted})" if isinstance(mean, float) else tell("none rooted")))
    no_test = tell("no p: rooting came after the treatment, so the rooted are no longer what was drawn")
    return ExploredRow(
        tell("{name}, rooted only", name=name), tell("mean per rooted cutting, described"), said, no_test, ""
    )


def _alike(analysis: Analysis) -> str:
    if analysis.test.p is not None or not analysis.terms:
        return p_value(analysis.test.p)
    return "; ".join(f"{t.name} {p_value(t.p)}" for t in analysis.terms if t.test is not None)


def _estimate(arm: ArmResult, response: Response) -> str:
    if kind_of(response).yes_no:
        return known_of(arm.rooted, arm.stuck, arm.left_out)
    if isinstance(arm.added, Classed):
        return ", ".join(
            f"{n} x {'none' if floor == '0' else f'from {floor}'}" for floor, n in arm.added.by_floor.items()
        )
    if arm.estimate is None:
        return "none"
    half = ""
    if isinstance(arm.added, Curve):
        day = arm.added.median_day
        half = tell(", half not reached") if day is None else tell(", half by day {day:g}", day=day)
    unknown = (
        tell(
            "; {left_out} unknown, {percent}",
            left_out=arm.left_out,
            percent=percent(arm.left_out / (arm.stuck + arm.left_out), 0),
        )
        if arm.left_out
        else ""
    )
    return f"{arm.estimate:.1f}{half} (n {arm.stuck}{unknown})"


def _strongest(names: dict[str, str], c: Comparison, response: Response) -> str:
    letters = {full: letter for letter, full in names.items()}
    d = c.difference
    if d.estimate is None:
        return tell(
            "{a} v {b}: no estimate, Holm {p}",
            a=letters[c.a.name],
            b=letters[c.b.name],
            p=p_value(c.p_adjusted),
        )
    yes_no = kind_of(response).yes_no
    ends = f" ({span(d.interval.low, d.interval.high, yes_no)})" if d.interval else ""
    far = points(d.estimate) if yes_no else size(d.estimate)
    return tell(
        "{a} v {b}: {effect} {far}{ends}, Holm {p}",
        a=letters[c.a.name],
        b=letters[c.b.name],
        effect=kind_of(response).effect,
        far=far,
        ends=ends,
        p=p_value(c.p_adjusted),
    )


def _chance(probability: float) -> str:
    """Percent, never all or nothing: the posterior is not that sure of itself."""
    if probability > 0.99:
        return "over 99 %"
    return "below 1 %" if probability < 0.01 else f"{100 * probability:.0f} %"


def lens_rows(evidence: Evidence) -> list[tuple[str, str]]:
    """Other lenses as (school, what it says)."""
    if evidence.analysis is None or evidence.analysis.settings.look or not is_share(evidence.analysis):
        return []
    analysis = evidence.analysis
    key = digest_of("lenses", analysis.observations.factors, analysis.observations.rows, analysis.settings)
    lenses = remembered(key, lambda: look_through(analysis))
    rows = [(tell("Classical: {name}", name=name), p_value(test.p)) for name, test in lenses.classical.items()]
    boschloo = remembered(digest_of("boschloo", key), lambda: unconditional(analysis))
    rows += [(tell("Classical: Boschloo, unconditional"), p_value(boschloo.p))] if boschloo else []
    rows += [
        (tell("Cochran-Mantel-Haenszel, {factor}", factor=factor), p_value(test.p))
        for factor, test in lenses.cmh_by_factor.items()
    ]
    if lenses.p_best:
        best = max(zip(lenses.p_best, evidence.analysis.observations.names, strict=True))
        rows.append(
            (
                tell("Bayesian, Jeffreys prior"),
                tell("{best} has the highest rate with probability {chance}", best=best[1], chance=_chance(best[0])),
            )
        )
    names = evidence.analysis.observations.names
    for (a, b), pair in lenses.bayes.items():
        if pair.p_a_beyond is not None and pair.p_b_beyond is not None:
            beyond, first, second = max((pair.p_a_beyond, names[a], names[b]), (pair.p_b_beyond, names[b], names[a]))
            rows.append(
                (
                    tell("{first} over {second} by more than the margin", first=first, second=second),
                    tell("probability {chance}", chance=_chance(beyond)),
                )
            )
    return rows


def redraw_words(analysis: Analysis) -> str:
    """What the randomisation test repeats, in words."""
    return layout_of(analysis.observations).redrawn


def _draws(test: RandomisationTest) -> str:
    return tell("{draws} draws, s.e. {small}", draws=test.draws, small=small(test.monte_carlo_error or 0.0))


def tested_words(analysis: Analysis) -> str:
    """The randomisation test in a caption; each factor's where no one draw gave all arms."""
    tests = [("", analysis.test)]
    if analysis.test.p is None:
        tests = [(f"{t.name} ", t.test) for t in analysis.terms if t.test is not None and t.test.p is not None]
    said = [f"{about}{p_value(t.p)}, {'exact' if t.exact else _draws(t)}" for about, t in tests]
    return tell("randomisation test {names}", names="; ".join(said)) if said else tell("no randomisation test")


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
                tell(
                    "{start}the {name} model has no finite fit; the randomisation test stands.", start=start, name=name
                )
            )
        else:
            agrees = "agrees" if (model_p < alpha) == (p < alpha) else "disagrees"
            said.append(
                tell(
                    "{start}a {name} model {agrees}: {p}.",
                    start=start,
                    name=name,
                    agrees=agrees,
                    p=p_value(model_p),
                )
            )
    return " ".join(map(capital, said)) if said else tell("No model stands beside it.")
