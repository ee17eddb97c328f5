"""What each layout says of itself, from the same forty rows with other groups filled in."""

from __future__ import annotations

import re
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from orderly_bench import core
from orderly_bench.core.errors import UnusableData
from orderly_bench.core.judgement.analysis import analyse, judged
from orderly_bench.core.judgement.more_units import Grown, with_more_units
from orderly_bench.core.judgement.settings import Settings
from orderly_bench.core.layouts.arrange import arrange
from orderly_bench.core.layouts.from_rows import layout_of
from orderly_bench.core.layouts.layout import Layout
from orderly_bench.core.methods.randomisation import RandomisationTest
from orderly_bench.core.methods.two_arms import pair_power
from orderly_bench.core.observations.table import Observations, Row
from orderly_bench.core.responses.kind import Response, Scale
from orderly_bench.core.responses.outcomes_of import OUTCOMES
from orderly_bench.core.responses.registry import kind_of


def rows(per_arm: int = 8, arms: str = "ab") -> list[Row]:
    return [Row((arm,), float(i % 3 > 0)) for arm in arms for i in range(per_arm)]


def of(**groups: object) -> Layout:
    """The layout of sixteen rows whose groups are given by a function of arm and number."""
    made = []
    for i, row in enumerate(rows()):
        arm, number = divmod(i, 8)
        made.append(replace(row, **{name: str(make(arm, number)) for name, make in groups.items()}))  # type: ignore[operator]
    return layout_of(arrange(("medium",), made))


def latin() -> Layout:
    square = [[(r + c) % 3 for c in range(3)] for r in range(3)]
    made = [Row(("abc"[square[r][c]],), float(r == c), row=str(r), column=str(c)) for r in range(3) for c in range(3)]
    return layout_of(arrange(("medium",), made))


def incomplete() -> Layout:
    pairs = [("a", "b"), ("a", "c"), ("b", "c")] * 2
    made = [Row((arm,), float(i % 2), block=str(i)) for i, both in enumerate(pairs) for arm in both for _ in range(2)]
    return layout_of(arrange(("medium",), made))


LAYOUTS = {
    "completely randomised": lambda: of(),
    "completely randomised, several cuttings per unit": lambda: of(unit=lambda arm, i: f"{arm}{i // 2}"),
    "randomised complete blocks": lambda: of(block=lambda _, i: i // 2),
    "pairs": lambda: of(pair=lambda _, i: i),
    "split-plot, several cuttings per unit": lambda: of(
        whole_plot=lambda arm, i: f"{arm}{i // 4}", unit=lambda arm, i: f"{arm}{i // 2}"
    ),
    "waves": lambda: of(wave=lambda arm, i: f"{arm}{i // 4}"),
    "Latin square": latin,
    "incomplete blocks": incomplete,
}


@pytest.mark.parametrize("name", LAYOUTS)
def test_a_layout_tells_itself_from_its_groups(name: str) -> None:
    layout = LAYOUTS[name]()
    assert layout.title == name
    assert layout.redrawn and not layout.redrawn.endswith(".")
    assert layout.unit_count == {
        "completely randomised, several cuttings per unit": 8,
        "split-plot, several cuttings per unit": 8,
        "waves": 4,
        "Latin square": 9,
        "incomplete blocks": 24,
    }.get(name, 16)


@pytest.mark.parametrize("name", LAYOUTS)
def test_every_redraw_is_one_the_draw_could_have_given(name: str) -> None:
    """What is redrawn keeps how often each label stands in each group of the draw."""
    drawn = LAYOUTS[name]().drawn()
    assert drawn is not None
    again = drawn.layout.redraw(np.random.default_rng(1), 40)
    assert len(drawn.members) == again.shape[1] and len({tuple(a) for a in again.tolist()}) > 1
    for groups in drawn.layout.groups().values():
        for g in np.unique(groups):
            sizes = np.bincount(drawn.layout.arm[groups == g]).sum()
            assert all(a[groups == g].size == sizes for a in again)
    assert (np.sort(again, axis=1) == np.sort(again[0])).all() or name == "incomplete blocks"


@pytest.mark.parametrize(
    ("name", "grows", "by_level", "textbook"),
    [
        ("completely randomised", True, True, {"pearson", "fisher"}),
        ("completely randomised, several cuttings per unit", True, True, set()),
        ("randomised complete blocks", True, True, {"cmh"}),
        ("pairs", True, False, {"mcnemar"}),
        ("split-plot, several cuttings per unit", False, True, set()),
        ("waves", False, True, set()),
        ("Latin square", False, False, set()),
        ("incomplete blocks", False, True, {"cmh"}),
    ],
)
def test_what_a_layout_can_carry(name: str, grows: bool, by_level: bool, textbook: set[str]) -> None:
    layout = LAYOUTS[name]()
    assert (layout.grows, layout.by_level) == (grows, by_level)
    assert set(layout.textbook(RandomisationTest(0.5, True, None, None))) == textbook


def test_waves_say_that_nobody_assigned_them_and_plots_do_not() -> None:
    waves = LAYOUTS["waves"]()
    assert [c.code for c in waves.doubts()] == ["season_not_assigned"] and waves.carried == (0,)
    assert LAYOUTS["split-plot, several cuttings per unit"]().doubts() == []
    alone = of(wave=lambda arm, i: arm)
    assert [c.code for c in alone.doubts()] == ["season_not_assigned", "waves_not_replicated"]
    assert alone.drawn() is None


def test_a_pair_with_one_lost_lacks_nothing_and_a_block_does() -> None:
    def one_lost(group: str) -> Observations:
        made = [replace(row, **{group: str(i % 8)}) for i, row in enumerate(rows())]
        made[0] = replace(made[0], response=None, state="missing")
        return arrange(("medium",), made)

    assert layout_of(one_lost("pair")).lacking() == []
    assert layout_of(one_lost("block")).lacking() == [(0, 0)]


def test_three_cuttings_are_no_pair_and_a_broken_square_is_none() -> None:
    with pytest.raises(UnusableData, match=r"pair 0 has 4 cuttings in 2 arms"):
        of(pair=lambda _, i: i // 2)
    with pytest.raises(UnusableData, match="do not make a Latin square of order 2"):
        of(row=lambda arm, i: arm, column=lambda _, i: i)


#: The rooms that read a trial without knowing its layout or its response by name.
ABOVE = ("judgement", "telling", "compare")


def lines_of(*rooms: str) -> list[tuple[str, str]]:
    folder = Path(core.__file__).parent
    return [
        (f"{room}/{file.name}", line.strip())
        for room in rooms
        for file in sorted((folder / room).glob("*.py"))
        for line in file.read_text().splitlines()
    ]


def test_only_the_layouts_know_their_names() -> None:
    """What analyses a trial asks its layout; a name of one outside would be a question asked twice."""
    named = re.compile(r"\b(LatinSquare|SplitPlot|CompleteBlocks|IncompleteBlocks|CompletelyRandomised|Waves|Pairs)\(")
    asked = re.compile(r"(?<!re)\.(latin|split|waved|paired|incomplete|grouped)\b")
    found = [
        f"{file}: {line}"
        for file, line in lines_of(*ABOVE, "responses")
        if (named.search(line) or asked.search(line)) and " import " not in line
    ]
    assert found == []


def test_only_the_responses_know_their_names() -> None:
    """The same of the response: its test, effect, model and words are asked of it."""
    found = [f"{file}: {line}" for file, line in lines_of(*ABOVE, "layouts") if re.search(r"Response\.[A-Z]", line)]
    assert found == ["judgement/settings.py: response: Response = Response.ROOTED"]
    assert set(OUTCOMES) == set(Response)


def test_in_a_family_gap_and_margin_stand_beside_the_other_pairs_as_seen() -> None:
    """No other pair is near: Holm then asks a third of alpha of this one, which can be counted out."""
    made = [Row((arm,), float(i < k)) for arm, k in (("a", 9), ("b", 12), ("c", 10)) for i in range(24)]
    analysis = analyse(arrange(("medium",), made), Settings(margin=0.3, draws=400))
    grown = Grown(analysis)
    pair = next(i for i, c in enumerate(analysis.comparisons) if {c.a.name, c.b.name} == {"a", "b"})
    for gap, more in ((0.3, 0), (0.45, 0), (0.3, 30)):
        exact = pair_power(9 / 24, 24 + more, 9 / 24 + gap, 24 + more, 0.05 / 3)
        assert grown.alone(pair, 9 / 24, gap, more) == pytest.approx(
            exact, abs=4 * (exact * (1 - exact) / 1_000) ** 0.5
        )
    found = with_more_units(analysis).comparisons[pair]
    least = next(m for m in range(400) if pair_power(9 / 24, 24 + m, 9 / 24 + 0.3, 24 + m, 0.05 / 3) >= 0.8)
    assert found.more_units_margin is not None and abs(found.more_units_margin - least) <= 3
    assert found.smallest_gap is not None
    power = pair_power(9 / 24, 24, 9 / 24 + found.smallest_gap, 24, 0.05 / 3)
    assert power == pytest.approx(0.8, abs=0.06)


def test_pots_and_blocks_have_a_smallest_gap_as_well() -> None:
    """Held against simulating the same pots once more, by hand, with another stream."""
    rng = np.random.default_rng(4)
    made = [
        Row((arm,), float(rng.random() < 0.45), unit=f"{arm}{u}", block=str(u % 2))
        for arm in "ab"
        for u in range(8)
        for _ in range(5)
    ]
    analysis = analyse(arrange(("medium",), made), Settings(margin=0.2, draws=400))
    found = with_more_units(analysis).comparisons[0]
    assert found.smallest_gap is not None and found.more_units_margin is not None and found.more_units_margin % 2 == 0
    low = min(found.a.rooted / found.a.stuck, found.b.rooted / found.b.stuck)
    icc, hits, trials = max(0.0, analysis.cluster.icc or 0.0), 0, 120
    for _ in range(trials):
        rows = []
        for arm, rate in (("a", low), ("b", min(1.0, low + found.smallest_gap))):
            for u in range(8):
                own = (
                    rate
                    if icc == 0 or not 0 < rate < 1
                    else rng.beta(rate * (1 - icc) / icc, (1 - rate) * (1 - icc) / icc)
                )
                rows += [Row((arm,), float(rng.random() < own), unit=f"{arm}{u}", block=str(u % 2)) for _ in range(5)]
        p = judged(arrange(("medium",), rows), Settings(draws=400))[0].p
        hits += p is not None and p < 0.05
    assert hits / trials == pytest.approx(0.8, abs=0.13)


@pytest.mark.parametrize("response", list(Response))
def test_what_a_difference_is_called_goes_with_its_scale(response: Response) -> None:
    """Grades of the foliage were once called points."""
    kind = kind_of(response)
    allowed = {Scale.YES_NO: {"points"}, Scale.GRADES: {"P(better)", "P(more)"}, Scale.NUMBER: {"ratio"}}
    assert kind.effect in allowed.get(kind.scale, {"shift mm", "days"})


@pytest.mark.parametrize(("low", "high"), [(10, 14), (14, 10), (12, 13), (0, 2)])
def test_how_many_more_would_find_the_margin_itself(low: int, high: int) -> None:
    """One by one with the exact chance, from the lower rate seen; of pairs it is not said."""
    made = [Row((arm,), float(i < k)) for arm, k in (("a", low), ("b", high)) for i in range(20)]
    found = with_more_units(analyse(arrange(("medium",), made), Settings(margin=0.25))).comparisons[0]
    start = min(low / 20, high / 20, 0.75)
    least = next(m for m in range(400) if pair_power(start, 20 + m, start + 0.25, 20 + m, 0.05) >= 0.8)
    assert found.more_units_margin == least
    assert with_more_units(analyse(arrange(("medium",), made), Settings())).comparisons[0].more_units_margin is None
    pairs = [replace(row, pair=str(i % 20)) for i, row in enumerate(made)]
    assert (
        with_more_units(analyse(arrange(("medium",), pairs), Settings(margin=0.25))).comparisons[0].more_units_margin
        is None
    )
