"""The figures of a trial by name, each with its caption; for the page and to take away."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import partial
from itertools import combinations
from types import MappingProxyType

import numpy as np

from orderly_bench.core.compare.number_over_time import Described, NumberOverTime
from orderly_bench.core.judgement.analysis import marginal_arms
from orderly_bench.core.judgement.result import Analysis
from orderly_bench.core.messages.numbers import p_value
from orderly_bench.core.messages.translation import all_of, capital
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.responses.kind import Response
from orderly_bench.core.responses.registry import kind_of
from orderly_bench.core.score.entry import BEST_FOLIAGE
from orderly_bench.core.telling.working import interval_method
from orderly_bench.evidence import dose, texts
from orderly_bench.evidence.verdict import Evidence
from orderly_bench.figures import curves, interaction, strips, tops
from orderly_bench.figures import numbers as numbers_figure
from orderly_bench.figures.svg import Palette

MOST_INTERACTIONS = 3


@dataclass(frozen=True)
class Picture:
    """One figure: its name in addresses, what it is called, and how it is drawn and captioned."""

    name: str
    title: str
    draw: Callable[[Palette], str]
    caption: str


def _counted(found: Evidence) -> str:
    return _("{days} after sticking, {counted}", days=texts.days_of(found), counted=found.counted)


def pictures_of(
    found: Evidence,
    others: dict[Response, Analysis | str],
    numbers: NumberOverTime | None = None,
    described: Mapping[Response, Described] = MappingProxyType({}),
) -> list[Picture]:
    """Every figure that the trial's data allow; ``others`` are the other responses explored."""
    if found.analysis is None or found.reading is None:
        return []
    a, days = found.analysis, texts.days_of(found)
    p = texts.tested_words(a)
    share, heading = texts.is_share(a), kind_of(a.settings.response).heading
    others = {**others, a.settings.response: a}
    made = []
    if share:
        made.append(
            Picture(
                "rates",
                _("Rates by arm"),
                lambda palette: str(texts.rates_figure(found, palette)),
                _(
                    "{heading} of stuck by arm on {counted}; {interval_method} {level} % intervals; {p}.",
                    level=_level(a),
                    heading=heading,
                    counted=_counted(found),
                    interval_method=interval_method(a),
                    p=p,
                ),
            )
        )
    if share and found.reading.findings:
        method = found.reading.findings[0].comparison.difference.method.replace(", t interval", ", t")
        caption = _(
            "Differences in points with {level} % intervals ({method}) against the margin; {counted}; {p}.",
            level=_level(a),
            method=method,
            counted=_counted(found),
            p=p,
        )
        made.append(
            Picture(
                "differences",
                _("Differences against the margin"),
                lambda palette: str(texts.differences_figure(found, palette)),
                caption,
            )
        )
    made += [
        *_doses(a, days, found.counted),
        *_curves(found.record.arm_names, others.get(Response.DAYS, "not scored")),
        *_numbers(found.record.arm_names, numbers),
        *_described(found.record.arm_names, described),
        *_strips(found.record.arm_names, others),
        *(_interaction(a, days) if share else []),
        *_tops(found, days),
    ]
    return made


def _doses(a: Analysis, days: str, counted: str) -> list[Picture]:
    made = []
    for one in dose.doses(a):
        drawn = (
            _("the curve is {what} with its {alpha:g} % band", what=one.curve_is, alpha=100 * (1 - a.settings.alpha))
            if one.curve
            else _("means with their {alpha:g} % intervals", alpha=100 * (1 - a.settings.alpha))
        )
        caption = _(
            "{measured} by strength, {drawn}; {days} after sticking, {counted}. {names}",
            measured=_(one.measured),
            drawn=drawn,
            days=days,
            counted=counted,
            names=" ".join(one.lines),
        )
        made.append(Picture("dose", _("Strength of {factor}", factor=one.factor), one.draw, caption))
    return made


def _curves(names: dict[str, str], days: Analysis | str) -> list[Picture]:
    if isinstance(days, str):
        return []
    rows = texts.rooting_by_day(names, days)
    n = sum(arm.stuck for arm in days.arms)
    caption = _(
        "Cumulative proportion rooted by day (Aalen-Johansen, death competing), {n:cutting|cuttings}; steps at the checks; mean rooted-days: {tested_words}.",
        n=n,
        tested_words=texts.tested_words(days),
    )
    return [Picture("curves", _("Rooting over time"), lambda palette: curves.figure(rows, palette), caption)]


def _numbers(names: dict[str, str], found: NumberOverTime | None) -> list[Picture]:
    if found is None or not np.nansum(found.area):
        return []
    letters = list(names)
    areas = ", ".join(
        f"{letter} {area:.0f}" for letter, area in zip(letters, found.mean_area, strict=True) if area is not None
    )
    known = int((~np.isnan(found.area)).sum())
    p = p_value(found.test.p) if found.test.p is not None else _("no test of its own in this layout")
    caption = _(
        "Root number by check, a thin line for each of {size} cuttings, thick the mean where four fifths of an arm were counted; mean root-days to the last check by arm: {areas} ({known} with a count there); {p}. Exploratory.",
        size=found.arm.size,
        areas=areas,
        known=known,
        p=p,
    )
    return [Picture("numbers", _("Root number over time"), partial(numbers_figure.figure, letters, found), caption)]


#: What is drawn over time and described, with its title.
TITLES = {Response.LONGEST: N_("Longest root over time, mm"), Response.FOLIAGE: N_("Foliage over time, 0 to 5")}


def _described(names: dict[str, str], found: Mapping[Response, Described]) -> list[Picture]:
    made = []
    for response, one in found.items():
        title = _(TITLES[response])
        caption = _(
            "{title} at each check: a thin line for each of {size} cuttings, thick the mean where four fifths of an arm were judged. Described, not tested.",
            title=title,
            size=one.arm.size,
        )
        rises = response is Response.LONGEST
        least = 1.0 if rises else float(BEST_FOLIAGE)
        draw = partial(numbers_figure.figure, list(names), one, title=title, rises=rises, most=least)
        made.append(Picture(f"{response.name.lower()}-over-time", title, draw, caption))
    return made


def _strips(names: dict[str, str], others: dict[Response, Analysis | str]) -> list[Picture]:
    made = []
    for response, name, label in (
        (Response.ROOT_COUNT, "roots", _("roots per cutting stuck")),
        (Response.LONGEST, "lengths", _("longest root, mm (no root: 0)")),
        (Response.QUALITY, "quality", _("quality of the roots, grade 0 to 5")),
    ):
        analysis = others.get(response, "not scored")
        if isinstance(analysis, str):
            continue
        rows = texts.strips_of(names, analysis)
        bar = _("the bar is the mean, on its {level} % interval", level=_level(analysis))
        caption = _(
            "{what}, every one of {size:cutting|cuttings}; {bar}; {tested_words}.",
            what=capital(label),
            size=int(analysis.observations.responses.size),
            bar=bar if any(row.interval for row in rows) else _("the bar is the mean"),
            tested_words=texts.tested_words(analysis),
        )
        made.append(
            Picture(
                name,
                capital(label),
                partial(strips.figure, rows, label),
                caption,
            )
        )
    return made


def _level(analysis: Analysis) -> str:
    """What its intervals hold, in percent."""
    return f"{100 * (1 - analysis.settings.alpha):g}"


def _interaction(analysis: Analysis, days: str) -> list[Picture]:
    """One figure for every pair of factors, at most three; with more factors over the levels of the rest."""
    made = []
    names = list(analysis.observations.factors)
    for f, g in list(combinations(range(len(names)), 2))[:MOST_INTERACTIONS]:
        both = (names[f], names[g])
        term = next((t for t in analysis.terms if t.factors == both), None)
        p = f"{p_value(term.p)} ({term.model.name})" if term else "no model"
        over = (
            ""
            if len(names) == 2
            else _(", over the levels of {names}", names=all_of(n for n in names if n not in both))
        )
        caption = _(
            "Rates on {days} with {interval_method} {level} % intervals{over}; do {both} and {both2} depend on each other: {p}.",
            level=_level(analysis),
            days=days,
            interval_method=interval_method(analysis),
            over=over,
            both=both[0],
            both2=both[1],
            p=p,
        )
        arms = marginal_arms(analysis, (f, g))
        draw = partial(interaction.figure, arms, both)
        name = "interaction" if len(names) == 2 else f"interaction-{f + 1}-{g + 1}"
        made.append(Picture(name, _("{both} with {both2}", both=both[0], both2=both[1]), draw, caption))
    return made


def _tops(found: Evidence, days: str) -> list[Picture]:
    by_name = {t.arm: t for t in found.tops}
    rows = [
        (letter, by_name[full])
        for letter, full in found.record.arm_names.items()
        if full in by_name and by_name[full].lush
    ]
    if not rows:
        return []
    n = sum(t.lush for _, t in rows)
    caption = _(
        "Good-looking tops (fresh, growing, flower) on {days}, {n} in all: with roots filled, without roots open. Described, not tested.",
        days=days,
        n=n,
    )
    return [Picture("tops", _("Tops against roots"), lambda palette: tops.figure(rows, palette), caption)]
