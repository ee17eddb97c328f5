"""The verdict table, the reading, and cautions that come up when they should and only then."""

from __future__ import annotations

import numpy as np
import pytest

from orderly_bench.core.errors import InvalidInput, UnusableData
from orderly_bench.core.judgement.analysis import analyse
from orderly_bench.core.judgement.more_units import with_more_units
from orderly_bench.core.judgement.result import Analysis
from orderly_bench.core.judgement.settings import Settings
from orderly_bench.core.judgement.verdict import Rule, Verdict, decide
from orderly_bench.core.layouts.arrange import arrange
from orderly_bench.core.methods.letters import compact_letters
from orderly_bench.core.methods.rates import Interval
from orderly_bench.core.observations.table import Row
from orderly_bench.core.telling.headline import read
from orderly_bench.core.telling.prediction import hold_prediction

RULE = Rule(0.05, 1, 0.0, -0.15, 0.15)


def always(low: float, high: float):
    return lambda _level: Interval(low, high, 0.95)


@pytest.mark.parametrize(
    ("p", "estimate", "low", "high", "verdict"),
    [
        (0.01, 0.3, -0.01, 0.6, Verdict.CLEAR_UNCERTAIN),
        (0.01, 0.4, 0.2, 0.6, Verdict.CLEAR_LARGE),
        (0.01, -0.4, -0.6, -0.2, Verdict.CLEAR_LARGE),
        (0.01, 0.3, 0.05, 0.6, Verdict.CLEAR_PROBABLY_LARGE),
        (0.01, 0.08, 0.02, 0.14, Verdict.CLEAR_SMALL),
        (0.01, 0.1, 0.02, 0.2, Verdict.CLEAR_UNCERTAIN),
        (0.05, 0.08, 0.02, 0.14, Verdict.SAME),
        (0.4, 0.01, -0.1, 0.12, Verdict.SAME),
        (0.4, 0.01, -0.2, 0.12, Verdict.NOT_SETTLED),
        (None, 0.9, 0.8, 1.0, Verdict.NOT_SETTLED),
    ],
)
def test_the_verdict_table_from_the_top(
    p: float | None, estimate: float, low: float, high: float, verdict: Verdict
) -> None:
    assert decide(p, estimate, always(low, high), RULE, 5) is verdict


def test_fewer_than_five_units_are_never_practically_the_same() -> None:
    assert decide(0.4, 0.01, always(-0.1, 0.12), RULE, 4) is Verdict.NOT_SETTLED


def test_practically_the_same_prints_the_interval_that_decided() -> None:
    alike = read(table({("a",): (150, 150, 0), ("b",): (150, 150, 0)}, margin=0.15)).findings[0]
    assert alike.comparison.verdict is Verdict.SAME and "90 % interval" in alike.grade
    everything = read(table({("a",): (60, 0, 0), ("b",): (60, 0, 0)}, margin=0.15)).findings[0]
    assert everything.sentence.startswith("All of a and b rooted: 60 of 60") and "tells nothing" in everything.sentence


def test_counts_that_point_the_other_way_are_adjusted_and_only_suggested() -> None:
    """Bark roots more in each block, and less in all: most of it stood in the poor block."""
    cells = [("bark", "b1", 9, 10), ("bark", "b2", 18, 60), ("sand", "b1", 45, 60), ("sand", "b2", 0, 10)]
    rows = [Row((m,), float(i < k), block) for m, block, k, n in cells for i in range(n)]
    found = analyse(arrange(("medium",), rows), Settings(margin=0.15))
    reading = read(found)
    caution = next(c for c in found.cautions if c.code == "raw_against_adjusted")
    assert caution.serious and "\u2212" in caution.text and reading.strength == "suggested"
    assert "adjusted for where they stood; as counted 27 of 70 (39 %) against 45 of 70 (64 %)" in reading.headline
    balanced = table({("a",): (20, 4, 0), ("b",): (3, 21, 0)}, 3, margin=0.15)
    assert "raw_against_adjusted" not in {c.code for c in balanced.cautions}


def test_without_a_margin_only_two_verdicts_can_be_said() -> None:
    rule = Rule(0.05, 1)
    assert decide(0.001, 0.9, always(0.8, 1.0), rule, 5) is Verdict.CLEAR_UNCERTAIN
    assert decide(0.9, 0.0, always(-0.01, 0.01), rule, 5) is Verdict.NOT_SETTLED


def test_what_nothing_was_drawn_for_is_not_settled_by_more() -> None:
    alone = table({("a",): (1, 0, 0), ("b",): (11, 9, 0)}, margin=0.15).comparisons[0]
    assert alone.p is None and alone.more_units is None


def table(
    counts: dict[tuple[str, ...], tuple[int, int, int]],
    blocks: int = 1,
    factors: tuple[str, ...] = ("medium",),
    **settings,
) -> Analysis:
    """Analyse arms given as (rooted, failed, left out), spread over blocks in turn."""
    rows = []
    for arm, (rooted, failed, out) in counts.items():
        values = [1.0] * rooted + [0.0] * failed + [None] * out
        rows += [
            Row(arm, v, f"block {i % blocks}" if blocks > 1 else None, "" if v is not None else "missing")
            for i, v in enumerate(values)
        ]
    return analyse(arrange(factors, rows), Settings(**settings))


def codes(analysis: Analysis) -> set[str]:
    return {caution.code for caution in analysis.cautions}


def test_all_or_none_raises_the_rule_of_three() -> None:
    at_the_end = table({("sand",): (0, 30, 0), ("pumice",): (15, 15, 0)})
    assert "none_or_all" in codes(at_the_end)
    assert "below 10 %" in at_the_end.cautions[0].text
    assert "none_or_all" not in codes(table({("sand",): (1, 29, 0), ("pumice",): (15, 15, 0)}))


def test_left_out_is_serious_above_five_percent() -> None:
    few, many = table({("a",): (10, 9, 1), ("b",): (10, 10, 0)}), table({("a",): (10, 8, 2), ("b",): (10, 10, 0)})
    assert [c.serious for c in few.cautions if c.code == "left_out"] == [False]
    doubt = next(c for c in many.cautions if c.code == "left_out")
    assert "That is 10 % of a" in doubt.text and not doubt.serious  # the range judges a yes or no
    assert "left_out" not in codes(table({("a",): (10, 10, 0), ("b",): (10, 10, 0)}))


def test_two_judges_on_either_side_of_alpha_are_named() -> None:
    assert "judges_disagree" in codes(table({("a",): (13, 7, 0), ("b",): (7, 13, 0)}, alpha=0.1))
    assert "judges_disagree" not in codes(table({("a",): (18, 2, 0), ("b",): (2, 18, 0)}))


def test_a_block_without_an_arm_is_named() -> None:
    rows = [
        Row((arm,), float(i % 2), block)
        for block in ("1", "2")
        for arm in ("a", "b")
        for i in range(4)
        if (block, arm) != ("2", "b")
    ]
    assert "block_lacks_arm" in codes(analyse(arrange(("medium",), rows), Settings()))


def test_nothing_rooted_says_that_it_tells_nothing() -> None:
    analysis = table({("a",): (0, 60, 0), ("b",): (0, 60, 0)}, margin=0.15)
    assert analysis.test.p == 1.0 and "nothing_varies" in codes(analysis)
    assert read(analysis).headline.startswith("None of a or b rooted: 0 of 60")


def test_no_caution_without_cause() -> None:
    assert codes(table({("a",): (16, 4, 0), ("b",): (5, 15, 0)})) == set()


@pytest.mark.parametrize("order", [(0, 1), (1, 0)])
def test_p_does_not_depend_on_names_or_order(order: tuple[int, int]) -> None:
    counts = [(14, 6, 0), (6, 14, 0)]
    first = table({("a",): counts[order[0]], ("b",): counts[order[1]]})
    assert first.test.p == pytest.approx(0.0256447769433213, abs=1e-12)


def test_the_headline_is_the_main_effect_when_no_interaction_is_needed() -> None:
    counts = {
        ("pumice", "IBA"): (22, 2, 0),
        ("pumice", "none"): (19, 5, 0),
        ("bark", "IBA"): (8, 16, 0),
        ("bark", "none"): (5, 19, 0),
    }
    reading = read(table(counts, 3, ("medium", "hormone"), margin=0.15))
    assert reading.by_factor
    assert reading.headline == "Pumice rooted more than bark: 41 of 48 (85 %) against 13 of 48 (27 %)."
    assert reading.strength == "shown" and reading.findings[1].about == "hormone"


def test_an_interaction_is_a_caution_and_no_switch() -> None:
    counts = {
        ("pumice", "IBA"): (24, 0, 0),
        ("pumice", "none"): (2, 22, 0),
        ("bark", "IBA"): (3, 21, 0),
        ("bark", "none"): (22, 2, 0),
    }
    found = table(counts, 1, ("medium", "hormone"), margin=0.15)
    assert read(found).by_factor and "interaction" in codes(found)
    assert not read(table(counts, 1, ("medium", "hormone"), margin=0.15, by_factor=False)).by_factor
    even = dict.fromkeys(counts, (12, 12, 0)) | {("pumice", "IBA"): (20, 4, 0), ("bark", "IBA"): (19, 5, 0)}
    assert "interaction" not in codes(table(even, 1, ("medium", "hormone"), margin=0.15))


def test_departures_and_serious_doubts_weaken_a_clear_verdict() -> None:
    clear = table({("a",): (20, 4, 0), ("b",): (3, 21, 0)}, margin=0.15)
    assert read(clear).strength == "shown"
    assert read(clear, ["amended 3 Mar: moved"]).strength == "suggested"
    assert read(table({("a",): (11, 9, 0), ("b",): (9, 11, 0)}, margin=0.15)).strength == "cannot tell"
    assert read(table({("a",): (300, 300, 0), ("b",): (300, 300, 0)}, margin=0.15)).strength == "shown alike"


def test_not_settled_is_never_worded_as_the_same() -> None:
    unsettled = with_more_units(table({("a",): (13, 7, 0), ("b",): (9, 11, 0)}, margin=0.15))
    finding = read(unsettled).findings[0]
    assert finding.sentence.startswith("Not settled")
    assert "If the rates really are these, 82 more units a side would find it 8 times in 10." in finding.grade
    assert finding.grade.endswith(
        "As it was scored, this layout finds a gap of 44 points from the lower rate 8 times in 10."
    )
    assert "same" not in finding.sentence + finding.grade


@pytest.mark.parametrize(
    ("ranking", "rates", "above", "late", "true", "said"),
    [
        ("xyz", (0.9, 0.5, 0.2), {"xy", "xz"}, False, True, "It came first. It came out clearly above every other"),
        ("xyz", (0.9, 0.5, 0.2), {"xz"}, False, False, "clearly above C (z); against the rest nothing is settled"),
        ("xyz", (0.9, 0.5, 0.2), set(), False, False, "came neither true nor false"),
        (
            "xyz",
            (0.2, 0.8, 0.5),
            {"yx"},
            False,
            False,
            "It came third. Clearly above it came B (y): the prediction did not",
        ),
        ("xyz", (0.8, 0.8, 0.5), set(), False, False, "It came joint first."),
        ("xyz", (0.9, 0.5, 0.2), {"xy", "xz"}, True, False, "made after sticking: it is kept, and is no prediction"),
    ],
)
def test_a_prediction_comes_true_only_on_a_verdict(
    ranking: str, rates: tuple, above: set[str], late: bool, true: bool, said: str
) -> None:
    short = {"x": "A (x)", "y": "B (y)", "z": "C (z)"}
    found = hold_prediction(list(ranking), dict(zip("xyz", rates, strict=True)), short, {tuple(p) for p in above}, late)
    assert found.came_true is true and said in found.sentence


def test_letters_are_shared_exactly_by_pairs_not_told_apart() -> None:
    rng = np.random.default_rng(8)
    arms = list("abcdef")
    for _ in range(200):
        different = {frozenset((x, y)) for i, x in enumerate(arms) for y in arms[i + 1 :] if rng.random() < 0.4}
        letters = compact_letters(arms, different)
        for i, x in enumerate(arms):
            for y in arms[i + 1 :]:
                assert bool(set(letters[x]) & set(letters[y])) == (frozenset((x, y)) not in different)


@pytest.mark.parametrize(
    ("settings", "message"),
    [
        ({"alpha": 0}, "alpha"),
        ({"margin": 1.5}, "margin"),
        ({"draws": 0}, "draws"),
        ({"seed": -1}, "seed"),
        ({"against_control": True}, "control"),
        ({"control": ("x",)}, "one of the arms"),
    ],
)
def test_bad_settings_are_refused_by_name(settings: dict, message: str) -> None:
    with pytest.raises(InvalidInput, match=message):
        table({("a",): (1, 1, 0), ("b",): (1, 1, 0)}, **settings)


def test_unusable_tables_say_why() -> None:
    with pytest.raises(UnusableData, match="no cuttings"):
        arrange(("medium",), [])
    with pytest.raises(UnusableData, match="one arm"):
        arrange(("medium",), [Row(("a",), 1.0)])
    with pytest.raises(UnusableData, match="no cutting with a known outcome"):
        arrange(("medium",), [Row(("a",), None), Row(("b",), None)])


@pytest.mark.parametrize(("best", "said"), [(0, "It came first."), (2, "It came third."), (20, "It came number 21.")])
def test_any_place_has_its_words(best: int, said: str) -> None:
    """The twenty-first was once called 21th."""
    names = [f"arm {n}" for n in range(25)]
    rates = {name: 1 - n / 100 for n, name in enumerate(names)}
    ranked = [names[best], *(n for n in names if n != names[best])]
    assert said in hold_prediction(ranked, rates, {n: n for n in names}, ()).sentence
