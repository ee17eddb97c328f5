"""Doubts about single comparisons: which way they point, whether they hold in every stratum, what they can't reach."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from orderly_bench.core.cautions import Caution
from orderly_bench.core.judgement.comparisons import LEAST_ROOTED, Comparison, turned
from orderly_bench.core.judgement.reach import smallest_adjusted
from orderly_bench.core.judgement.varies import Varies
from orderly_bench.core.layouts.from_rows import layout_of
from orderly_bench.core.messages.numbers import in_points, known_of, p_value, points, size
from orderly_bench.core.messages.say import caution, clause
from orderly_bench.core.messages.translation import all_of
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.methods.superiority import FEW_STRATA
from orderly_bench.core.observations.table import Observations, spoken_level
from orderly_bench.core.responses.kind import Kind, Scale

#: With fewer units of a side in a block the interval of a ratio is somewhat short.
FEW_IN_BLOCKS = 8
#: Groups named one by one; more are counted.
MOST_NAMED = 4


def doubts_of_pairs(
    observations: Observations,
    kind: Kind,
    alpha: float,
    comparisons: Sequence[Comparison],
    levels: Sequence[Comparison],
) -> list[Caution]:
    """All of them, those of factors first: each code once for the comparison it says most about."""
    everything = [turned(c) for c in (*levels, *comparisons)]
    return [
        *_not_joined(observations, comparisons),
        *[doubt for c in everything if c.direction_differs for doubt in [direction_doubt(c)]][:1],
        *_varying(everything, kind),
        *_hurdles(everything, kind),
        *_thin(everything, kind),
    ]


def doubts_of_its_own(c: Comparison, kind: Kind) -> list[Caution]:
    """Those that belong to one comparison; a list of all holds each code once, and so maybe another's."""
    direction = [direction_doubt(c)] if c.direction_differs else []
    return [*direction, *_varying([c], kind), *_hurdles([c], kind), *range_doubt(c)]


def direction_doubt(c: Comparison) -> Caution:
    """Which figure points where."""
    return caution("direction_differs", a=c.a.label, b=c.b.label, parts=which_points_where(c), serious=True)


def which_points_where(c: Comparison) -> str:
    """The test's statistic, the estimate and the values shown, each with the side it puts ahead."""
    found = []
    for key, value in (("statistic", c.test.direction), ("estimate", c.above), ("values", c.apart_as_adjusted)):
        if value:
            found.append(clause(f"points/{key}", name=c.a.label if value > 0 else c.b.label))
    return ", ".join(found)


def _not_joined(o: Observations, comparisons: Sequence[Comparison]) -> list[Caution]:
    apart = [c for c in comparisons if not c.joined]
    if not apart:
        return []
    pairs = [f"{c.a.label} / {c.b.label}" for c in apart[:MOST_NAMED]]
    more = [f"… ({len(apart)})"] if len(apart) > MOST_NAMED else []
    parts = layout_of(o).parts
    beside = [o.labels[part.arms[0]] for part in parts]
    return [caution("not_joined", pairs=", ".join([*pairs, *more]), arms=all_of(beside), serious=True)]


def each_stratum(one: Varies, kind: Kind) -> str:
    """The difference in each stratum, in words."""
    names = list(one.differences)
    kept = names if len(names) <= 2 * MOST_NAMED else sorted(names, key=lambda d: d[1])
    if len(names) > 2 * MOST_NAMED:
        kept = [*kept[:MOST_NAMED], *kept[-MOST_NAMED:]]
    unit = _("points") if kind.yes_no else ""
    parts = [f"{spoken_level(one.name, name)} {_signed(d, kind)}".rstrip() for name, d in kept]
    more = f" … ({len(names)})" if len(kept) < len(names) else ""
    return ", ".join(parts) + more + (f" {unit}" if unit else "")


def _signed(value: float, kind: Kind) -> str:
    if kind.yes_no:
        return points(value, True)
    return ("+" if value > 0 else "") + size(value).replace("-", "\u2212")


def sides_of(one: Varies) -> tuple[str, str]:
    """The strata in which the first side is ahead, and those in which the second is."""

    def names(sign: float) -> str:
        here = [spoken_level(one.name, name) for name, d in one.differences if d * sign > 0]
        more = [f"… ({len(here)})"] if len(here) > MOST_NAMED else []
        return all_of([*here[:MOST_NAMED], *more])

    return names(1.0), names(-1.0)


def range_doubt(c: Comparison) -> list[Caution]:
    """That a verdict hangs on unknown outcomes, if it does."""
    if c.range is None or c.range.holds or not (c.verdict.clear or c.verdict.alike):
        return []
    return [
        caution(
            "range_changes_verdict",
            c.range.parts_by,
            serious=True,
            a=c.a.label,
            b=c.b.label,
            out=c.range.unknown,
            low=c.range.verdict_low.value,
            high=c.range.verdict_high.value,
        )
    ]


def bare_p(p: float) -> str:
    """A p behind its own letter: ``0.026``, ``< 0.0001``."""
    return p_value(p).removeprefix("p ").removeprefix("= ")


def _varying(everything: Sequence[Comparison], kind: Kind) -> list[Caution]:
    found: list[Caution] = []
    for c in everything:
        for one in c.varies or ():
            up, down = sides_of(one)
            said: dict[str, Any] = {"a": c.a.label, "b": c.b.label, "what": one.name}
            if one.reverses and up and down:
                p = bare_p(one.reversal_p_adjusted or 0.0)
                found.append(
                    caution(
                        "reverses",
                        "fragile" if one.fragile else "",
                        up=up,
                        down=down,
                        p=p,
                        serious=not one.fragile,
                        **said,
                    )
                )
            if one.ends_the_same and not c.verdict.clear:
                p = bare_p(one.p_adjusted or 0.0)
                found.append(caution("varies_between_strata", each=each_stratum(one, kind), p=p, **said))
    kept: dict[str, Caution] = {}
    for doubt in sorted(found, key=lambda doubt: not doubt.serious):
        kept.setdefault(doubt.code, doubt)
    return list(kept.values())


def why_hurdled(c: Comparison, alpha: float) -> str:
    """What of rooting keeps the two from being called the same."""
    h = c.hurdle
    if h is None:
        return ""
    if min(h.a[0], h.b[0]) < LEAST_ROOTED:
        return clause("hurdle/few", n=LEAST_ROOTED)
    if h.p_adjusted is not None and h.p_adjusted < alpha:
        return clause("hurdle/clear", p=p_value(h.p_adjusted))
    return clause("hurdle/wide", gap=in_points(abs(h.estimate or 0.0)), margin=points(h.margin))


def _hurdles(everything: Sequence[Comparison], kind: Kind) -> list[Caution]:
    held = [c for c in everything if c.hurdle_held]
    if not held:
        return []
    c = held[0]
    if c.hurdle is None:
        return [caution("hurdle", "unknown", heading=kind.heading)]
    why = why_hurdled(c, c.alpha)
    rooted = [known_of(*side, 0) for side in (c.hurdle.a, c.hurdle.b)]
    return [
        caution(
            "hurdle",
            a=c.a.label,
            b=c.b.label,
            rooted_a=rooted[0],
            rooted_b=rooted[1],
            why=why[:1].upper() + why[1:],
        )
    ]


def _thin(everything: Sequence[Comparison], kind: Kind) -> list[Caution]:
    """Strata that hold too little of a side."""
    found = []
    few = [c for c in everything if c.difference.method == FEW_STRATA]
    if few:
        found.append(caution("few_strata", a=few[0].a.label, b=few[0].b.label, n=few[0].strata))
    if any("Pearson" in c.difference.method for c in everything):
        found.append(caution("pairs_dispersion"))
    elif kind.scale is Scale.NUMBER and any(c.strata > 1 and c.units < FEW_IN_BLOCKS * c.strata for c in everything):
        found.append(caution("ratio_in_blocks"))
    return found


def pairs_named(comparisons: Sequence[Comparison]) -> str:
    """Comparisons by their sides, the first few of many: ``a / b, a / c, … (6)``."""
    names = [f"{c.a.label} / {c.b.label}" for c in comparisons[:MOST_NAMED]]
    return ", ".join([*names, *([f"… ({len(comparisons)})"] if len(comparisons) > MOST_NAMED else [])])


def cannot_convince(observations: Observations, alpha: float, headline: Sequence[Comparison]) -> list[Caution]:
    """Which of the headline's comparisons could not have come out below alpha, whatever had been seen."""
    reached = smallest_adjusted(observations, headline)
    known = [(c, p) for c, p in zip(headline, reached, strict=True) if p is not None]
    short = [(c, p) for c, p in known if p >= alpha]
    if not short:
        return []
    least = min(p for _, p in short)
    whole = len(short) == len(known)
    return [
        caution(
            "cannot_convince",
            "family",
            names=pairs_named([c for c, _ in short]),
            p=f"{least:.2g}",
            alpha=f"{alpha:g}",
            serious=whole,
        )
    ]
