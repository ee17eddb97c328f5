"""What a researcher relies on, by simulation: seeded, bounded, with the error of the simulation allowed for."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from math import sqrt

import numpy as np
import pytest

from orderly_bench.core.judgement import work
from orderly_bench.core.judgement.analysis import analyse, judged
from orderly_bench.core.judgement.comparisons import Comparison
from orderly_bench.core.judgement.layout_tests import overall_tests
from orderly_bench.core.judgement.result import Analysis
from orderly_bench.core.judgement.settings import Settings
from orderly_bench.core.layouts.arrange import arrange
from orderly_bench.core.layouts.kinds import draw_layout
from orderly_bench.core.layouts.layout import NO_MODEL
from orderly_bench.core.methods.clusters import design_effects, rate_interval
from orderly_bench.core.methods.difference import mantel_haenszel, newcombe
from orderly_bench.core.methods.paired import newcombe_paired
from orderly_bench.core.methods.rates import wilson
from orderly_bench.core.methods.superiority import superiority
from orderly_bench.core.observations.table import Row
from orderly_bench.core.randomise.drawn_layout import Request
from orderly_bench.core.responses.kind import Response
from orderly_bench.core.responses.outcomes_of import outcomes_of
from orderly_bench.core.vocabulary import LayoutKind
from tests.core.effects import effect_of, superiority_of_pots

TRIALS = 300
#: Layouts as (arms, blocks, units per arm and block, cuttings per unit, pairs).
LAYOUTS = {
    "single cuttings, two arms": (2, 1, 16, 1, False),
    "single cuttings, three arms": (3, 1, 12, 1, False),
    "blocks": (3, 4, 3, 1, False),
    "pots": (2, 1, 6, 4, False),
    "pots in blocks": (2, 4, 2, 3, False),
    "pairs": (2, 16, 1, 1, True),
}


@pytest.fixture(autouse=True)
def without_second_opinions(monkeypatch: pytest.MonkeyPatch) -> None:
    """Models stand beside the tests and decide nothing; without them a simulation takes half the time."""
    monkeypatch.setattr(work, "term_model", lambda *_: NO_MODEL)
    monkeypatch.setattr(work, "model_test", lambda *_: NO_MODEL)


def null_trial(layout: tuple, rng: np.random.Generator) -> list[Row]:
    """A trial in which arms do nothing; blocks and pots differ."""
    arms, blocks, units, per, pairs = layout
    rows = []
    for b in range(blocks):
        block_rate = rng.beta(6, 4)
        for a in range(arms):
            for u in range(units):
                rate = rng.beta(8 * block_rate, 8 * (1 - block_rate)) if per > 1 else block_rate
                name = None if blocks == 1 else f"b{b}"
                group = {"pair": name} if pairs else {"block": name}
                rows += [
                    Row((f"arm {a}",), float(rng.random() < rate), unit=f"{b}-{a}-{u}" if per > 1 else None, **group)
                    for _ in range(per)
                ]
    return rows


@pytest.mark.parametrize("name", LAYOUTS)
def test_false_alarms_stay_below_alpha(name: str) -> None:
    rng = np.random.default_rng(11)
    rejected = clear = 0
    for _ in range(TRIALS):
        found = analyse(arrange(("medium",), null_trial(LAYOUTS[name], rng)), Settings(margin=0.15, draws=1_000))
        rejected += found.test.p is not None and found.test.p < 0.05
        clear += any(c.verdict.clear for c in found.comparisons)
    most = TRIALS * (0.05 + 3 * sqrt(0.05 * 0.95 / TRIALS))
    assert rejected <= most and clear <= most


def test_wilson_covers() -> None:
    rng = np.random.default_rng(12)
    covered = []
    for rate in np.linspace(0.1, 0.9, 9):
        for n in (12, 24, 48):
            hits = [wilson(int(k), n) for k in rng.binomial(n, rate, 2_000)]
            covered.append(np.mean([h.low <= rate <= h.high for h in hits]))
    assert np.mean(covered) >= 0.95 - 3 * sqrt(0.05 * 0.95 / (2_000 * len(covered))) and min(covered) >= 0.90


@pytest.mark.parametrize("blocked", [False, True])
def test_intervals_of_differences_cover(blocked: bool) -> None:
    rng = np.random.default_rng(13)
    covered, trials = [], 800
    for p in (0.1, 0.3, 0.5, 0.9):
        for q in (0.2, 0.6, 0.8):
            hits = 0
            for _ in range(trials):
                if blocked:
                    rooted = rng.binomial(8, [p, q], size=(3, 2))
                    interval = mantel_haenszel(rooted, np.full((3, 2), 8)).interval
                else:
                    interval = newcombe(int(rng.binomial(24, p)), 24, int(rng.binomial(24, q)), 24).interval
                hits += interval.low <= p - q <= interval.high
            covered.append(hits / trials)
    error = sqrt(0.05 * 0.95 / (trials * len(covered)))
    assert min(covered) >= 0.90
    assert np.mean(covered) >= 0.95 - 3 * error


@pytest.mark.parametrize("name", ["blocks", "pots"])
def test_p_does_not_depend_on_row_order_or_names(name: str) -> None:
    rng = np.random.default_rng(14)
    rows = null_trial(LAYOUTS[name], rng)
    first = analyse(arrange(("medium",), rows), Settings())
    mixed = [rows[i] for i in rng.permutation(len(rows))]
    renamed = [Row(("zyx"[int(r.levels[0][-1])],), r.response, r.block, unit=r.unit) for r in mixed]
    second = analyse(arrange(("medium",), renamed), Settings())
    tolerance = 1e-9 if first.test.exact else 5 * (first.test.monte_carlo_error or 0) * sqrt(2)
    assert first.test.p == pytest.approx(second.test.p, abs=tolerance)
    assert sorted(c.p for c in first.comparisons) == pytest.approx(sorted(c.p for c in second.comparisons))


#: Layouts drawn by the layout object, each as (request, cuttings per unit).
DRAWN = {
    "Latin square": (Request(LayoutKind.LATIN_SQUARE, 5, 5), 4),
    "incomplete blocks": (Request(LayoutKind.INCOMPLETE_BLOCKS, 4, 6, blocks=12, block_size=2), 1),
    "incomplete blocks of pots": (Request(LayoutKind.INCOMPLETE_BLOCKS, 4, 6, blocks=8, block_size=3), 4),
    "split-plot": (Request(LayoutKind.SPLIT_PLOT, 4, 8, blocks=8, whole=((0, 1), (2, 3))), 3),
    "pairs": (Request(LayoutKind.PAIRS, 2, 20), 1),
}
ATTRIBUTE = {"whole plot": "whole_plot"}


def drawn_null(request: Request, per: int, rng: np.random.Generator) -> list[Row]:
    """A drawn trial in which arms do nothing, while rows, columns, blocks, whole plots and units differ."""
    layout = draw_layout(request, rng)
    groups = layout.groups()
    lean = sum(rng.normal(0, 0.8, group.max() + 1)[group] for group in groups.values())
    rate = 1 / (1 + np.exp(-(lean + rng.normal(0, 0.5, layout.arm.size))))
    rows = []
    for i, arm in enumerate(layout.arm.tolist()):
        named = {ATTRIBUTE.get(kind, kind): f"{kind} {group[i]}" for kind, group in groups.items()}
        levels = (f"w{arm // 2}", f"s{arm % 2}") if request.whole else (f"arm {arm}",)
        rows += [
            Row(levels, float(rng.random() < rate[i]), unit=f"u{i}" if per > 1 else None, **named) for _ in range(per)
        ]
    return rows


@pytest.mark.parametrize("name", DRAWN)
def test_false_alarms_of_drawn_layouts_stay_below_alpha(name: str) -> None:
    request, per = DRAWN[name]
    rng = np.random.default_rng(21)
    factors = ("heat", "medium") if request.whole else ("medium",)
    trials = 120
    alarms = np.zeros(4)
    for _ in range(trials):
        found = analyse(arrange(factors, drawn_null(request, per, rng)), Settings(margin=0.15, draws=500))
        tests = [found.test.p, *(t.p for t in found.terms if t.test)]
        alarms[: len(tests)] += [p is not None and p < 0.05 for p in tests]
        alarms[3] += any(c.verdict.clear for c in found.comparisons)
    assert (alarms <= trials * (0.05 + 3 * sqrt(0.05 * 0.95 / trials))).all()
    assert alarms.sum() > 0 or name == "pairs"


def split_plots_in_blocks(rng: np.random.Generator) -> list[Row]:
    """Heated and unheated trays side by side in each of six blocks, two media in each tray; blocks and trays differ."""
    rows = []
    for block in range(6):
        lean = rng.normal(0, 1)
        for tray, heat in enumerate(rng.permuted(["heated", "unheated"]).tolist()):
            rate = 1 / (1 + np.exp(-(lean + rng.normal(0, 0.5))))
            place = {"block": f"b{block}", "whole_plot": f"t{block}{tray}"}
            rows += [
                Row((heat, medium), float(rng.random() < rate), unit=f"{place['whole_plot']}{medium}", **place)
                for medium in ("bark", "sand")
                for _ in range(5)
            ]
    return rows


def half_factorial_in_blocks(rng: np.random.Generator) -> list[Row]:
    """Four of the eight combinations, a pot of each in five blocks; blocks and pots differ."""
    half = [("bark", "IBA", "lid"), ("bark", "none", "open"), ("sand", "IBA", "open"), ("sand", "none", "lid")]
    rows = []
    for block in range(5):
        lean = rng.normal(0, 1)
        for levels in half:
            rate = 1 / (1 + np.exp(-(lean + rng.normal(0, 0.5))))
            rows += [Row(levels, float(rng.random() < rate), f"b{block}", unit=f"{block}{levels}") for _ in range(5)]
    return rows


@pytest.mark.parametrize("null", [split_plots_in_blocks, half_factorial_in_blocks])
def test_false_alarms_of_factors_in_blocks_stay_below_alpha(null: Callable) -> None:
    rng = np.random.default_rng(24)
    factors = ("heat", "medium") if null is split_plots_in_blocks else ("medium", "hormone", "cover")
    trials, alarms = 120, np.zeros(4)
    for _ in range(trials):
        found = analyse(arrange(factors, null(rng)), Settings(margin=0.15, draws=500))
        mains = [t for t in found.terms if t.test]
        assert all(t.p is not None and t.contrasts[0].p == t.p for t in mains)
        alarms[: len(mains)] += [t.p < 0.05 for t in mains]
        alarms[3] += any(t.contrasts[0].verdict.clear for t in mains)
    assert (alarms <= trials * (0.05 + 3 * sqrt(0.05 * 0.95 / trials))).all() and alarms.sum() > 0


def test_waves_that_differ_do_not_pass_for_seasons() -> None:
    rng = np.random.default_rng(22)
    alarms, trials = np.zeros(3), 120
    for _ in range(trials):
        rows = [
            Row((season, medium), float(rng.random() < rate), wave=f"{season}{w}")
            for season in ("autumn", "spring")
            for w in range(4)
            for rate in [rng.beta(3, 3)]
            for medium in ("bark", "sand")
            for _ in range(6)
        ]
        found = analyse(arrange(("season", "medium"), rows), Settings(margin=0.15, draws=500))
        season, medium = found.terms[0].p, found.terms[1].p
        alarms += [season < 0.05, medium < 0.05, any(c.verdict.clear for c in found.comparisons)]
    assert (alarms <= trials * (0.05 + 3 * sqrt(0.05 * 0.95 / trials))).all()


@pytest.mark.parametrize("name", ["single cuttings, two arms", "single cuttings, three arms", "blocks", "pairs"])
def test_exact_p_is_uniform_or_conservative(name: str) -> None:
    rng = np.random.default_rng(23)
    trials = 400
    found = [
        overall_tests(outcomes_of(arrange(("medium",), null_trial(LAYOUTS[name], rng)), Response.ROOTED), rng, 500)[0]
        for _ in range(trials)
    ]
    p = np.array([t.p for t in found])
    assert name == "blocks" or all(t.exact for t in found)
    for level in (0.05, 0.1, 0.2, 0.35, 0.5, 0.75):
        assert (p <= level + 1e-12).mean() <= level + 3 * sqrt(level * (1 - level) / trials)


def _swapped(rows: list[Row]) -> list[Row]:
    """Arms with their names turned round, so that first becomes last."""
    names = sorted({row.levels for row in rows})
    other = dict(zip(names, reversed(names), strict=True))
    return [replace(row, levels=other[row.levels]) for row in rows]


@pytest.mark.parametrize("name", [n for n in DRAWN if n != "split-plot"])
def test_swapped_arms_keep_p_and_turn_the_difference(name: str) -> None:
    request, per = DRAWN[name]
    rows = drawn_null(request, per, np.random.default_rng(24))
    first, second = (analyse(arrange(("medium",), r), Settings(draws=4_000)) for r in (rows, _swapped(rows)))
    error = 5 * sqrt(2) * max(first.test.monte_carlo_error or 0, second.test.monte_carlo_error or 0)
    assert first.test.p == pytest.approx(second.test.p, abs=max(1e-9, error))
    turned = {(c.b.name, c.a.name): c for c in _renamed(second, rows)}
    for c in first.comparisons:
        other = turned.get((c.a.name, c.b.name))
        assert other is not None
        assert c.difference.estimate == pytest.approx(-other.difference.estimate)
        assert c.difference.interval.low == pytest.approx(-other.difference.interval.high)


def _renamed(found: Analysis, rows: list[Row]) -> list[Comparison]:
    """Comparisons of swapped rows under the names the arms had before."""
    names = sorted({" + ".join(row.levels) for row in rows})
    was = dict(zip(names, reversed(names), strict=True))
    return [
        replace(c, a=replace(c.a, name=was[c.a.name]), b=replace(c.b, name=was[c.b.name])) for c in found.comparisons
    ]


@pytest.mark.parametrize("response", [Response.ROOT_COUNT, Response.LONGEST, Response.QUALITY, Response.DAYS])
def test_swapped_arms_keep_p_of_the_other_responses(response: Response) -> None:
    rng = np.random.default_rng(25)
    rows = [other_response(response, arm, rng) for arm in ("a", "b") for _ in range(9)]
    first, second = (
        analyse(arrange(("medium",), r), Settings(response=response, draws=4_000)) for r in (rows, _swapped(rows))
    )
    assert first.test.p == pytest.approx(second.test.p, abs=5 * sqrt(2) * (first.test.monte_carlo_error or 1e-10))
    one, two = first.comparisons[0].difference, second.comparisons[0].difference
    turned = {Response.ROOT_COUNT: 1 / two.estimate, Response.QUALITY: 1 - two.estimate}.get(response, -two.estimate)
    assert one.estimate == pytest.approx(turned, abs=1e-6)


def other_response(response: Response, arm: str, rng: np.random.Generator) -> Row:
    """A random cutting; the arms are alike."""
    if response is Response.DAYS:
        first = int(rng.choice([14, 21, 28]))
        outcome = str(rng.choice(["rooted", "rooted", "dead", "censored"]))
        return Row(
            (arm,),
            None,
            last_without_day=float(first - 7),
            first_with_day=None if outcome == "censored" else float(first),
            outcome=outcome,
        )
    value = {Response.ROOT_COUNT: rng.negative_binomial(2, 0.3), Response.QUALITY: rng.integers(6)}.get(
        response, 40 * rng.random()
    )
    return Row((arm,), float(value))


@pytest.mark.parametrize("icc", [0.1, 0.4])
def test_intervals_of_arms_and_differences_cover_with_pots(icc: float) -> None:
    rng = np.random.default_rng(26)
    trials, rates, differences = 250, [], []
    for p, q in ((0.15, 0.4), (0.5, 0.5), (0.7, 0.9), (0.3, 0.8)):
        own = both = 0
        for _ in range(trials):
            rows = [
                Row((arm,), float(rng.random() < rate), unit=f"{arm}{u}")
                for arm, true in (("a", p), ("b", q))
                for u in range(8)
                for rate in [rng.beta(true * (1 - icc) / icc, (1 - true) * (1 - icc) / icc)]
                for _ in range(5)
            ]
            made = arrange(("medium",), rows)
            interval = effect_of(made, Response.ROOTED)(0.95).interval
            both += interval.low <= p - q <= interval.high
            arm = rate_interval(made.units, 0, design_effects(made.units, 2), 0.95)
            own += arm.low <= p <= arm.high
        rates.append(own / trials)
        differences.append(both / trials)
    for covered in (rates, differences):
        assert min(covered) >= 0.90
        assert np.mean(covered) >= 0.95 - 3 * sqrt(0.05 * 0.95 / (trials * 4))


def test_paired_intervals_cover() -> None:
    rng = np.random.default_rng(27)
    trials, covered = 600, []
    for p, q in ((0.2, 0.5), (0.5, 0.5), (0.8, 0.6)):
        hits = 0
        for _ in range(trials):
            stem = rng.normal(0, 1, 30)
            lean = {x: np.log(x / (1 - x)) for x in (p, q)}
            chance = [1 / (1 + np.exp(-(lean[x] + stem))) for x in (p, q)]
            a, b = (rng.random(30) < c for c in chance)
            interval = newcombe_paired(
                int((a & b).sum()), int((a & ~b).sum()), int((~a & b).sum()), int((~a & ~b).sum()), 0.95
            ).interval
            true = float(np.mean(_marginal(lean[p]) - _marginal(lean[q])))
            hits += interval.low <= true <= interval.high
        covered.append(hits / trials)
    assert min(covered) >= 0.90 and np.mean(covered) >= 0.95 - 3 * sqrt(0.05 * 0.95 / (trials * 3))


def _marginal(lean: float) -> float:
    """Rate over stems of standard deviation 1 on the log-odds scale, by quadrature."""
    nodes, weights = np.polynomial.hermite_e.hermegauss(40)
    return float((weights / (1 + np.exp(-(lean + nodes)))).sum() / weights.sum())


@pytest.mark.parametrize("response", [Response.ROOT_COUNT, Response.LONGEST, Response.QUALITY])
def test_intervals_of_the_other_responses_cover(response: Response) -> None:
    rng = np.random.default_rng(28)
    true = {Response.ROOT_COUNT: 1.0, Response.LONGEST: 0.0, Response.QUALITY: 0.5}[response]
    trials, hits = 250, 0
    for _ in range(trials):
        rows = [other_response(response, arm, rng) for arm in ("a", "b") for _ in range(20)]
        interval = effect_of(arrange(("medium",), rows), response)(0.95).interval
        hits += interval.low <= true <= interval.high
    assert hits / trials >= 0.95 - 3 * sqrt(0.05 * 0.95 / trials)


def test_superiority_with_shared_pots_covers_where_single_cuttings_would_not() -> None:
    rng = np.random.default_rng(29)
    trials, hits, naive = 300, 0, 0
    for _ in range(trials):
        pots = [[rng.normal(lean, 1, 5).round() for lean in rng.normal(0, 1, 8)] for _ in range(2)]
        interval = superiority_of_pots(*pots).interval
        hits += interval.low <= 0.5 <= interval.high
        plain = superiority(*(np.concatenate(p) for p in pots)).interval
        naive += plain.low <= 0.5 <= plain.high
    assert hits / trials >= 0.95 - 3 * sqrt(0.05 * 0.95 / trials) > naive / trials


@pytest.mark.parametrize("per_unit", [1, 5])
def test_loss_that_hangs_on_the_outcome_makes_no_false_alarms(per_unit: int) -> None:
    """Arms alike; in one the failures are lost, in the other the successes. The known alone mislead, the rule of the range does not."""
    rng, trials = np.random.default_rng(61 + per_unit), 150 if per_unit == 1 else 100
    said, known_alone = 0, 0
    for _ in range(trials):
        rows = []
        for arm, lost_when in (("a", 0.0), ("b", 1.0)):
            for u in range(30 // per_unit * (1 if per_unit == 1 else 2)):
                rate = 0.5 if per_unit == 1 else rng.beta(4, 4)
                for _ in range(per_unit):
                    value = float(rng.random() < rate)
                    lost = value == lost_when and rng.random() < 0.5
                    unit = f"{arm}{u}" if per_unit > 1 else None
                    rows.append(Row((arm,), None if lost else value, unit=unit, state="missing" if lost else ""))
        (c,) = judged(arrange(("medium",), rows), Settings(draws=400))
        known_alone += c.verdict.clear
        said += c.verdict.clear and c.range is not None and c.range.holds
    assert known_alone / trials > 0.3, "the loss must be able to mislead, or this shows nothing"
    assert said / trials <= 0.05 + 3 * sqrt(0.05 * 0.95 / trials)
