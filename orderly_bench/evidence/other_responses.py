"""Beside the endpoint: other responses, and other ways of looking, in words."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from orderly_bench.core.judgement.arms import ArmResult
from orderly_bench.core.judgement.comparisons import Comparison, turned
from orderly_bench.core.judgement.lenses import look_through, unconditional
from orderly_bench.core.judgement.result import Analysis
from orderly_bench.core.messages.numbers import known_of, p_value, percent, points, size, span
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.plan.question import Exploratory
from orderly_bench.core.question.others import named_beside, other_words
from orderly_bench.core.responses.added import Added, Classed, Curve, Numbers
from orderly_bench.core.responses.kind import Response
from orderly_bench.core.responses.registry import kind_of
from orderly_bench.core.telling.wording import by_class
from orderly_bench.evidence.memory import digest_of, remembered
from orderly_bench.evidence.texts import is_share
from orderly_bench.evidence.verdict import Evidence


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
            unit = _("{unit}; named beforehand: {words}", unit=unit, words=other_words(beforehand[response]))
        if isinstance(analysis, str):
            rows.append(ExploredRow(name, unit, [], "", "", analysis))
            continue
        by_name = {arm.name: arm for arm in analysis.arms}
        among = [one.added for one in analysis.arms]
        estimates = [
            (letter, _estimate(by_name[full], response, among)) for letter, full in names.items() if full in by_name
        ]
        if analysis.settings.look:
            rows.append(ExploredRow(name, unit, estimates, _("a look: counts only"), ""))
            continue
        if not analysis.comparisons:
            rows.append(ExploredRow(name, unit, estimates, _("one arm alone is known"), ""))
            continue
        ranked = sorted(analysis.comparisons, key=lambda c: 2.0 if c.p_adjusted is None else c.p_adjusted)
        strongest = _strongest(names, turned(ranked[0]), response)
        if response in beforehand and analysis.settings.margin is not None:
            strongest = _("{pair}: {verdict}", pair=strongest, verdict=ranked[0].verdict)
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
            said.append((letter, f"{mean:.1f} (n {result.rooted})" if isinstance(mean, float) else _("none rooted")))
    no_test = _("no p: rooting came after the treatment, so the rooted are no longer what was drawn")
    return ExploredRow(_("{name}, rooted only", name=name), _("mean per rooted cutting, described"), said, no_test, "")


def _alike(analysis: Analysis) -> str:
    if analysis.test.p is not None or not analysis.terms:
        return p_value(analysis.test.p)
    return "; ".join(f"{t.name} {p_value(t.p)}" for t in analysis.terms if t.test is not None)


def _estimate(arm: ArmResult, response: Response, among: list[Added]) -> str:
    if kind_of(response).yes_no:
        return known_of(arm.rooted, arm.stuck, arm.left_out)
    if isinstance(arm.added, Classed):
        return by_class(arm.added, among)
    if arm.estimate is None:
        return "none"
    half = ""
    if isinstance(arm.added, Curve):
        day = arm.added.median_day
        half = _(", half not reached") if day is None else _(", half by day {day:g}", day=day)
    unknown = (
        _(
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
        return _(
            "{a} v {b}: no estimate, Holm {p}",
            a=letters[c.a.name],
            b=letters[c.b.name],
            p=p_value(c.p_adjusted),
        )
    kind = kind_of(response)
    ends = f" ({span(d.interval.low, d.interval.high, kind.yes_no, apart_from=[kind.nothing])})" if d.interval else ""
    far = points(d.estimate) if kind.yes_no else size(d.estimate)
    return _(
        "{a} v {b}: {effect} {far}{ends}, Holm {p}",
        a=letters[c.a.name],
        b=letters[c.b.name],
        effect=kind.effect,
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
    rows = [(_("Classical: {name}", name=name), p_value(test.p)) for name, test in lenses.classical.items()]
    boschloo = remembered(digest_of("boschloo", key), lambda: unconditional(analysis))
    rows += [(_("Classical: Boschloo, unconditional"), p_value(boschloo.p))] if boschloo else []
    rows += [
        (_("Cochran-Mantel-Haenszel, {factor}", factor=factor), p_value(test.p))
        for factor, test in lenses.cmh_by_factor.items()
    ]
    if lenses.p_best:
        best = max(zip(lenses.p_best, evidence.analysis.observations.names, strict=True))
        rows.append(
            (
                _("Bayesian, Jeffreys prior"),
                _("{best} has the highest rate with probability {chance}", best=best[1], chance=_chance(best[0])),
            )
        )
    names = evidence.analysis.observations.names
    for (a, b), pair in lenses.bayes.items():
        if pair.p_a_beyond is not None and pair.p_b_beyond is not None:
            beyond, first, second = max((pair.p_a_beyond, names[a], names[b]), (pair.p_b_beyond, names[b], names[a]))
            rows.append(
                (
                    _("{first} over {second} by more than the margin", first=first, second=second),
                    _("probability {chance}", chance=_chance(beyond)),
                )
            )
    return rows
