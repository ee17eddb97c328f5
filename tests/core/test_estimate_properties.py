"""What holds of any trial: estimate, statistic and sentence point one way, sides mirror each other, and names don't matter."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import replace

import numpy as np
import pytest

from orderly_bench.core.errors import OrderlyError
from orderly_bench.core.judgement.analysis import analyse
from orderly_bench.core.judgement.comparisons import Comparison, turned
from orderly_bench.core.judgement.result import Analysis
from orderly_bench.core.judgement.settings import Settings
from orderly_bench.core.judgement.strength import grade
from orderly_bench.core.layouts.arrange import arrange
from orderly_bench.core.observations.table import Observations, Row
from orderly_bench.core.responses.kind import Response, Scale
from orderly_bench.core.responses.registry import kind_of
from orderly_bench.core.telling.headline import read
from orderly_bench.core.vocabulary import Strength
from tests.core.random_trials import LAYOUTS, MARGINS, trial

RESPONSES = [r for r in Response if r is not Response.FIT]
TIMES = 6


def settings_of(response: Response) -> Settings:
    return Settings(response=response, margin=MARGINS.get(response, 0.15), draws=199)


def analysed(made: Observations, response: Response) -> Analysis | None:
    try:
        return analyse(made, settings_of(response))
    except OrderlyError:
        return None


def trials(layout: str, response: Response, times: int) -> Iterator[tuple[Observations, Analysis]]:
    rng = np.random.default_rng([LAYOUTS.index(layout), list(Response).index(response), times])
    for _ in range(times):
        made = trial(layout, response, rng)
        found = analysed(made, response) if made is not None else None
        if made is not None and found is not None:
            yield made, found


def place_of(name: str, said: str) -> int:
    """Where a name stands in a sentence."""
    found = re.search(rf"\b{re.escape(name.casefold())}\b", said)
    assert found is not None
    return found.start()


def compared(found: Analysis) -> list[Comparison]:
    return [*(c for term in found.terms for c in term.contrasts), *found.comparisons]


def finite(*values: float | None) -> bool:
    return all(value is None or np.isfinite(value) for value in values)


@pytest.mark.parametrize("layout", LAYOUTS)
@pytest.mark.parametrize("response", RESPONSES)
def test_statistic_estimate_and_sentence_point_one_way(layout: str, response: Response) -> None:
    for _, found in trials(layout, response, TIMES):
        check_directions(found)


def check_directions(found: Analysis) -> None:
    for c in compared(found):
        interval = c.difference.interval
        assert finite(c.p, c.p_adjusted, c.difference.estimate, *(c.adjusted or ()))
        assert interval is None or (finite(interval.low, interval.high) and interval.low <= interval.high)
        signs = {np.sign(v) for v in (c.test.direction, c.above, c.apart_as_adjusted) if v}
        if c.clear and len(signs) > 1:
            assert grade(c, found.cautions, False).strength is Strength.CANNOT_TELL
        if c.p_adjusted is not None and c.p_adjusted < 0.05 and interval and interval.low <= c.nothing <= interval.high:
            assert any(doubt.code == "interval_against_p" for doubt in found.cautions), c
        best = turned(c)
        assert not c.test.direction or best.test.direction > 0
    reading = read(found)
    if reading.findings and reading.strength in (Strength.SHOWN, Strength.SUGGESTED):
        head = reading.findings[0].comparison
        if head.verdict.clear:
            assert (head.test.direction or 0) >= 0 and (head.above or 0) >= 0
            said = reading.headline.casefold()
            assert place_of(head.a.label, said) < place_of(head.b.label, said)


@pytest.mark.parametrize("layout", LAYOUTS)
@pytest.mark.parametrize(
    "response", [Response.ROOTED, Response.ROOT_COUNT, Response.LONGEST, Response.QUALITY, Response.DAYS]
)
def test_swapping_the_names_of_the_arms_mirrors_everything(layout: str, response: Response) -> None:
    """The first level becomes the last: what was a minus b is b minus a, and p stays but for the draws."""
    for made, found in trials(layout, response, 3):
        names = {level: f"z{99 - i}" for i, level in enumerate(sorted({lv for arm in made.arms for lv in arm}))}
        renamed = arrange(made.factors, [replace(r, levels=tuple(names[lv] for lv in r.levels)) for r in made.rows])
        again = analysed(renamed, response)
        assert again is not None
        by_name = {frozenset((c.a.name, c.b.name)): c for c in again.comparisons}
        for c in found.comparisons:
            other = by_name[frozenset(" + ".join(names[lv] for lv in s.name.split(" + ")) for s in (c.a, c.b))]
            same_way = other.a.name == " + ".join(names[lv] for lv in c.a.name.split(" + "))
            mirrored = Mirrored(other, None if same_way else kind_of(response).scale)
            assert alike(mirrored.estimate, c.difference.estimate)
            assert alike(mirrored.adjusted, c.adjusted)
            if c.test.exact and other.test.exact:
                assert other.p == pytest.approx(c.p)
                assert other.verdict is c.verdict or not found.test.exact


def alike(one: float | tuple[float, float] | None, other: float | tuple[float, float] | None) -> bool:
    if one is None or other is None:
        return one is other
    return bool(np.allclose(one, other, rtol=1e-4, atol=1e-6))


class Mirrored:
    """A comparison's estimate and adjusted values, the sides turned round where a scale is given."""

    def __init__(self, c: Comparison, scale: Scale | None) -> None:
        e, both = c.difference.estimate, c.adjusted
        turned_round = {Scale.NUMBER: lambda v: 1 / v, Scale.GRADES: lambda v: 1 - v}.get(scale, lambda v: -v)
        self.estimate = e if scale is None or e is None else turned_round(e)
        self.adjusted = both if scale is None or both is None else (both[1], both[0])


@pytest.mark.parametrize("layout", ["blocks", "pots in blocks", "pairs", "incomplete", "square", "factorial in blocks"])
def test_a_constant_added_to_every_length_of_a_block_changes_no_shift(layout: str) -> None:
    rng = np.random.default_rng(len(layout))
    compared_at_all = 0
    for made, found in trials(layout, Response.LONGEST, 8):

        def place(row: Row) -> str:
            return row.pair or row.block or row.row or ""

        lift = {name: round(50 * rng.random(), 1) for name in sorted({place(row) for row in made.rows})}
        rows = [r if r.response is None else replace(r, response=r.response + lift[place(r)]) for r in made.rows]
        again = analysed(arrange(made.factors, rows), Response.LONGEST)
        assert again is not None
        for c, d in zip(found.comparisons, again.comparisons, strict=True):
            compared_at_all += c.difference.estimate is not None
            assert alike(d.difference.estimate, c.difference.estimate)
            assert (d.difference.interval is None) == (c.difference.interval is None)
            if c.difference.interval is not None and d.difference.interval is not None:
                assert d.difference.interval.low == pytest.approx(c.difference.interval.low, abs=1e-6)
            if c.test.exact and all(row.known for row in made.rows):
                assert d.p == pytest.approx(c.p)
    assert compared_at_all > 5


@pytest.mark.long
def test_twenty_thousand_trials_point_one_way() -> None:
    each = 20_000 // (len(LAYOUTS) * len(RESPONSES)) + 1
    for layout in LAYOUTS:
        for response in RESPONSES:
            for _, found in trials(layout, response, each):
                check_directions(found)
