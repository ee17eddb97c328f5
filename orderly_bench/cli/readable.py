"""An analysed file as text for people: everything that was asked is answered here as in the JSON object."""

from __future__ import annotations

from pathlib import Path

from orderly_bench.core.judgement.arms import ArmResult
from orderly_bench.core.judgement.comparisons import Comparison
from orderly_bench.core.judgement.result import Analysis, TermResult
from orderly_bench.core.judgement.strength import grade
from orderly_bench.core.judgement.verdict import Verdict
from orderly_bench.core.layouts.from_rows import layout_of
from orderly_bench.core.messages.numbers import in_points, of, p_value, signs, size, span
from orderly_bench.core.messages.say import say
from orderly_bench.core.messages.translation import capital
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.responses.added import Added, Classed, Curve, Numbers
from orderly_bench.core.responses.kind import Kind, Response
from orderly_bench.core.responses.registry import kind_of
from orderly_bench.core.telling.dose import dose_lines
from orderly_bench.core.telling.headline import (
    OF_NO_PAIR,
    more_units_words,
    not_worse_words,
    parted,
    read,
    values_words,
)
from orderly_bench.core.telling.one_unit import alone_in_words
from orderly_bench.core.telling.wording import by_class

#: Pairs of arms that are listed one by one below their factors.
MOST_LISTED = 20


def readable(file: str, analysis: Analysis) -> str:
    """The same as a table for people."""
    lines = [
        _(
            "{name}: {design}, {n:cutting|cuttings}",
            name=Path(file).name,
            design=analysis.design,
            n=analysis.cuttings,
        ),
        *_measured(analysis),
        "",
        *_arms(analysis),
    ]
    reading = read(analysis, planned=False)
    lines += ["", f"  {reading.headline}", f"  {capital(_(reading.strength.value))}: {'; '.join(reading.reasons)}."]
    if reading.findings and not analysis.settings.look:
        lines += [f"  {reading.findings[0].grade}"]
    lines += [f"  {text}" for text in alone_in_words(analysis)]
    if not analysis.settings.look:
        lines += ["", *_tests(analysis), *_terms(analysis), ""]
        lines += _pairs(analysis)
    return "\n".join([*lines, *(f"  ! {caution.text}" for caution in analysis.cautions)]) + "\n"


def _measured(analysis: Analysis) -> list[str]:
    """What the numbers of the arms are, where it is not how many rooted."""
    kind = kind_of(analysis.settings.response)
    told = _("  {what}: {unit}", what=kind.heading, unit=kind.unit)
    return [] if kind.response is Response.ROOTED else [told]


def _arms(analysis: Analysis) -> list[str]:
    binary = kind_of(analysis.settings.response).yes_no
    words = [_arm_words(arm, binary, [one.added for one in analysis.arms]) for arm in analysis.arms]
    width, wide = max(len(arm.name) for arm in analysis.arms), max(40, *map(len, words))
    return [
        f"  {arm.name:<{width}}  {said:<{wide}} {signs(analysis.letters.get(arm.name, ''))}".rstrip()
        for arm, said in zip(analysis.arms, words, strict=True)
    ]


def _tests(analysis: Analysis) -> list[str]:
    lines = [_("  overall: {of_draw}; {of_model}", of_draw=_of_draw(analysis), of_model=_of_model(analysis))]
    for factor, t in analysis.trends.items():
        trend = _("  {factor} as a dose: trend {p}", factor=factor, p=p_value(t.test.p))
        if t.model.p is not None:
            trend = _(
                "{trend}; one slope in the {name} model: {p}", trend=trend, name=t.model.name, p=p_value(t.model.p)
            )
        lines.append(trend)
        lines += [f"    {line}" for line in dose_lines(analysis, factor)]
    return lines


def _terms(analysis: Analysis) -> list[str]:
    """Each factor and interaction, with the contrasts of its levels."""
    lines = []
    for t in analysis.terms:
        p = p_value(t.p) + ("" if t.p is None else f" ({_source(t, analysis)})")
        lines.append(f"  {_(' by ').join(t.factors)}: {p}")
        lines += [f"  {line}" for c in t.contrasts for line in _comparison(c, analysis)]
    return lines


def _pairs(analysis: Analysis) -> list[str]:
    """Each pair of arms; of very many below their factors those that are settled or have an answer of their own, and how many are not."""
    pairs = analysis.comparisons
    listed = [c for c in pairs if c.verdict is not Verdict.NOT_SETTLED or more_units_words(c, analysis)]
    if len(pairs) <= MOST_LISTED or not analysis.terms or analysis.settings.not_worse:
        listed = pairs
    lines = [line for c in listed for line in _comparison(c, analysis)]
    left = [c for c in pairs if c not in listed]
    if left:
        least = min((c.p_adjusted for c in left if c.p_adjusted is not None), default=None)
        told = _(
            "  {n:pair of arms is|pairs of arms are} not settled, adjusted {p} at least; --json gives each",
            n=len(left),
            p=p_value(least),
        )
        lines.append(told)
    none = dict.fromkeys(c.more_units_open for c in pairs if c.more_units_open in OF_NO_PAIR)
    return lines + [f"  {say(f'more_units/{code}')}" for code in none]


def _comparison(c: Comparison, analysis: Analysis) -> list[str]:
    """One comparison: effect with its interval, p, adjusted p, verdict and strength; what else was asked of it below."""
    how = {
        "name": c.a.label,
        "name2": c.b.label,
        "effect_words": _effect_words(c, kind_of(analysis.settings.response)),
        "p": p_value(c.p),
        "by": c.adjusted_by,
        "model_p": p_value(c.p_adjusted),
        "value": _(c.verdict.value),
        "strength": _(grade(c, analysis.cautions, False).strength.value),
    }
    untested = _("  {name} against {name2}: {effect_words}, {p}: {value}; {strength}", **how)
    tested = _("  {name} against {name2}: {effect_words}, {p}, {by} {model_p}: {value}; {strength}", **how)
    lines = [untested if c.p_adjusted is None else tested]
    if parted(c, analysis):
        where = say(f"adjusted/{c.adjusts_for or 'place'}")
        lines.append(f"    {where}: {values_words(c, kind_of(analysis.settings.response))}")
    lines += [f"    {text}" for text in (not_worse_words(c, analysis), more_units_words(c, analysis)) if text]
    return lines


def _of_draw(analysis: Analysis) -> str:
    p = p_value(analysis.test.p)
    if analysis.test.p is None:
        return p
    how = _("exact") if analysis.test.exact else _("{draws} draws", draws=analysis.test.draws)
    return f"{p} ({how})"


def _of_model(analysis: Analysis) -> str:
    named = f"{_(analysis.model.name)}: {p_value(analysis.model.p)}"
    return _("no model") if analysis.model.p is None else named


def _source(term: TermResult, analysis: Analysis) -> str:
    o = analysis.observations
    if term.test is None:
        return _("model")
    carried = {o.factors[f] for f in layout_of(o).carried}
    return _("permutation of whole waves") if set(term.factors) & carried else _("randomisation")


def _arm_words(arm: ArmResult, binary: bool, among: list[Added]) -> str:
    if not arm.stuck:
        return _("none of {unknown} known", unknown=arm.left_out)
    if binary:
        interval = _("no interval")
        if arm.interval:
            ends = span(arm.interval.low, arm.interval.high, True, n=arm.stuck)
            interval = _("{ends} % ({level} % interval)", ends=ends, level=f"{100 * arm.interval.level:g}")
        return f"{of(arm.rooted, arm.stuck):<18} {interval}"
    if isinstance(arm.added, Classed):
        return by_class(arm.added, among)
    estimate = _("no estimate") if arm.estimate is None else f"{arm.estimate:.3g}"
    interval = f" ({span(arm.interval.low, arm.interval.high, False)})" if arm.interval else ""
    return f"{estimate}{interval}, n {arm.stuck}{_of_the_rooted(arm)}"


def _of_the_rooted(arm: ArmResult) -> str:
    """How many of an arm rooted, and what these have: described beside a number that counts the others too; of days, by when half had."""
    if isinstance(arm.added, Curve):
        day = arm.added.median_day
        return _("; half by day {day:g}", day=day) if day is not None else _("; less than half by the end")
    among = arm.added.mean_per_rooted if isinstance(arm.added, Numbers) else None
    if among is None or arm.rooted == arm.stuck:
        return ""
    return _("; {of} rooted, {among} among these", of=of(arm.rooted, arm.stuck), among=size(among))


def _effect_words(c: Comparison, kind: Kind) -> str:
    d, binary = c.difference, kind.yes_no
    if d.estimate is None:
        return _("no estimate")
    if d.interval is None:
        ends = _("no interval")
    else:
        ends = f"{100 * d.interval.level:g} %: {span(d.interval.low, d.interval.high, binary, binary, apart_from=[kind.nothing])}"
    if binary:
        return _("{points} ({ends})", points=in_points(d.estimate, True), ends=ends)
    return f"{size(d.estimate)} ({ends})"
