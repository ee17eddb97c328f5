"""Rehearsed trials: their outcomes, the p of many at once against the analysis one by one, how often something is found."""

from __future__ import annotations

import json
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from orderly_bench.cli.main import main
from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.judgement.analysis import analyse, judged
from orderly_bench.core.judgement.settings import Settings
from orderly_bench.core.judgement.verdict import Verdict
from orderly_bench.core.layouts.arrange import arrange
from orderly_bench.core.layouts.from_rows import layout_of
from orderly_bench.core.layouts.kinds import draw_layout
from orderly_bench.core.methods.holm import holm
from orderly_bench.core.methods.many import holm_many
from orderly_bench.core.observations.table import Row
from orderly_bench.core.plan.value import BlocksAre, Design, Plan
from orderly_bench.core.randomise.drawn_layout import Request
from orderly_bench.core.rehearse.blank_trial import BlankTrial, of_plan, of_two_arms
from orderly_bench.core.rehearse.chance import chances
from orderly_bench.core.rehearse.curve import Overtaken, curve, detectable, guess_of, point, sized
from orderly_bench.core.rehearse.family import family_of
from orderly_bench.core.rehearse.outcomes import Guess, simulated
from orderly_bench.core.rehearse.verdicts import rehearse, run, settings_for, summed
from orderly_bench.core.responses.kind import Response
from orderly_bench.core.vocabulary import LayoutKind
from tests.core.test_plan import two_by_two

ANSWERS = json.loads((Path(__file__).parent.parent / "reference" / "design_answers.json").read_text())
NAMES = {"whole plot": "whole_plot"}


def blank_trial(request: Request, levels: list[tuple[str, ...]], per_unit: int = 1) -> BlankTrial:
    """A drawn layout as a blank."""
    layout = draw_layout(request, np.random.default_rng(21))
    groups = layout.groups()
    rows, arm, unit = [], [], []
    for i, a in enumerate(layout.arm.tolist()):
        named = {NAMES.get(kind, kind): f"{kind} {int(of[i])}" for kind, of in groups.items()}
        rows += [Row(levels[a], 0.0, unit=f"u{i}" if per_unit > 1 else None, **named)] * per_unit
        arm += [a] * per_unit
        unit += [i] * per_unit
    factors = ["medium", "hormone", "cover"][: len(levels[0])]
    return BlankTrial(arrange(factors, rows), np.array(arm), np.array(unit), tuple("ABCDEF"[: len(levels)]))


ONE = [("a",), ("b",), ("c",), ("d",)]
TWO = [(m, h) for m in ("cold", "warm") for h in ("x", "y", "z")]
#: Of two levels each, the third set by the other two.
HALF = [("cold", "x", "wet"), ("cold", "y", "dry"), ("warm", "x", "dry"), ("warm", "y", "wet")]
STAGES = {
    "two arms": blank_trial(Request(LayoutKind.COMPLETELY_RANDOMISED, 2, 9), ONE[:2]),
    "three arms in blocks": blank_trial(Request(LayoutKind.COMPLETE_BLOCKS, 3, 8, 4), ONE[:3]),
    "pots": blank_trial(Request(LayoutKind.COMPLETELY_RANDOMISED, 3, 6), ONE[:3], 4),
    "pots in blocks": blank_trial(Request(LayoutKind.COMPLETE_BLOCKS, 2, 8, 4), ONE[:2], 3),
    "pairs": blank_trial(Request(LayoutKind.PAIRS, 2, 14), ONE[:2]),
    "square": blank_trial(Request(LayoutKind.LATIN_SQUARE, 4, 4), ONE, 5),
    "incomplete blocks": blank_trial(Request(LayoutKind.INCOMPLETE_BLOCKS, 4, 3, 6, 2), ONE, 4),
    "factorial in blocks": blank_trial(Request(LayoutKind.COMPLETE_BLOCKS, 6, 4, 4), TWO, 2),
    "split-plot": blank_trial(Request(LayoutKind.SPLIT_PLOT, 6, 6, 6, whole=((0, 1, 2), (3, 4, 5))), TWO, 3),
    "half factorial in blocks": blank_trial(Request(LayoutKind.COMPLETE_BLOCKS, 4, 5, 5), HALF, 2),
    "half factorial of single cuttings": blank_trial(Request(LayoutKind.COMPLETE_BLOCKS, 4, 6, 3), HALF),
}


@pytest.mark.parametrize("name", STAGES)
@pytest.mark.parametrize("response", [Response.ROOTED, Response.QUALITY, Response.LONGEST])
def test_many_trials_at_once_are_judged_as_each_alone(name: str, response: Response) -> None:
    blank = STAGES[name]
    yes_no = response is Response.ROOTED
    means = [0.25, 0.7, 0.4, 0.5, 0.6, 0.3] if yes_no else [1.5, 3.5, 2.0, 2.5, 3.0, 2.0]
    guess = Guess(tuple(means[: len(blank.order)]), response, icc=0.2)
    values = simulated(guess, blank.arm, blank.unit, 5, np.random.default_rng(22))
    family = family_of(blank.observations, True, None)
    fast = family.p_values(values, response, np.random.default_rng(23), 4_999)
    for trial, found in zip(values, fast, strict=True):
        slow = judged(blank.with_outcomes(trial), Settings(draws=4_999, seed=24, response=response))
        assert [(c.a.name, c.b.name) for c in slow] == [(one.a, one.b) for one in family.compared]
        for p, comparison in zip(found.tolist(), slow, strict=True):
            if comparison.p_adjusted is None:
                assert p == 1.0
                continue
            # Both by redraws: a p after Holm is a raw one times the comparisons at most.
            raw = max(comparison.p or 0.0, 1e-4)
            error = len(slow) * np.sqrt(2 * raw * (1 - min(raw, 1 - 1e-4)) / 4_999)
            assert p == pytest.approx(comparison.p_adjusted, abs=4 * error + 2e-3)


def test_holm_of_many_rows_is_holm_of_each() -> None:
    p = np.random.default_rng(3).random((40, 5)) ** 3
    assert holm_many(p) == pytest.approx(np.array([holm(row) for row in p.tolist()], dtype=float))


LARGER = {
    "square": blank_trial(Request(LayoutKind.LATIN_SQUARE, 5, 5), [*ONE, ("e",)], 4),
    "incomplete blocks": blank_trial(Request(LayoutKind.INCOMPLETE_BLOCKS, 4, 6, 12, 2), ONE, 4),
    "split-plot": blank_trial(Request(LayoutKind.SPLIT_PLOT, 6, 5, 10, whole=((0, 1, 2), (3, 4, 5))), TWO, 4),
}


@pytest.mark.parametrize("name", LARGER)
def test_the_share_found_against_a_slow_second_simulation(name: str) -> None:
    blank, trials = LARGER[name], 120
    guess = Guess((0.05, 0.95, 0.1, 0.9, 0.5, 0.9)[: len(blank.order)], icc=0.1)
    family = family_of(blank.observations, True, None)
    fast = chances(blank, family, guess, 0.05, 600, np.random.default_rng(30))
    rng = np.random.default_rng(31)
    hits = np.zeros(len(family.compared))
    a, b = np.array(guess.values), 1 - np.array(guess.values)
    for _ in range(trials):
        share = rng.beta(a[blank.arm] * 9, b[blank.arm] * 9)
        share = share[np.unique(blank.unit, return_index=True)[1]][blank.unit]
        outcome = blank.with_outcomes((rng.random(share.size) < share).astype(float))
        hits += [c.p_adjusted is not None and c.p_adjusted < 0.05 for c in judged(outcome, Settings(draws=400))]
    for one, hit in zip(fast, (hits / trials).tolist(), strict=True):
        error = np.sqrt(one.mc_error**2 + max(hit * (1 - hit), 0.02) / trials)
        assert one.share == pytest.approx(hit, abs=4 * error)
    assert max(one.share for one in fast) > 0.3


def powers() -> list[dict]:
    return [a for a in ANSWERS if a["kind"] == "power" and a["what"] == "power"]


@pytest.mark.parametrize("answer", powers(), ids=[a["case"] for a in powers()])
def test_the_chance_of_two_arms_equals_the_reference(answer: dict) -> None:
    args = dict(zip(answer["args"][::2], answer["args"][1::2], strict=True))
    icc = float(args["--icc"]) if "--icc" in args else None
    per_unit = int(args["--per-unit"]) if "--per-unit" in args else None
    blank = of_two_arms(int(args["--per-arm"]), per_unit, icc, int(args.get("--blocks", 1)))
    a, b = (float(rate) for rate in args["--arms"].split(","))
    found = chances(
        blank, family_of(blank.observations, True, None), Guess((a, b), icc=icc or 0.0), 0.05, 3_000, np.random.default_rng(5)
    )[0]  # fmt: skip
    assert found.share == pytest.approx(answer["value"], abs=4 * found.mc_error + answer["tolerance"])


@pytest.mark.parametrize("icc", [0.0, 0.3])
@pytest.mark.parametrize(
    ("response", "value", "sd"),
    [
        (Response.ROOTED, 0.4, np.sqrt(0.24)),
        (Response.ROOT_COUNT, 3.0, np.sqrt(3.0 + 9.0)),
        (Response.LONGEST, 20.0, 12.0),
        (Response.QUALITY, 3.5, np.sqrt(5 * 0.7 * 0.3)),
    ],
)
def test_outcomes_have_the_mean_the_spread_and_the_likeness_asked(
    response: Response, value: float, sd: float, icc: float
) -> None:
    unit = np.repeat(np.arange(10), 4)
    found = simulated(
        Guess((value,), response, icc=icc), np.zeros(40, dtype=int), unit, 3_000, np.random.default_rng(6)
    )
    assert found.mean() == pytest.approx(value, rel=0.03)
    assert found.std() == pytest.approx(sd, rel=0.05)
    inside = np.mean([np.corrcoef(found[:, 4 * u], found[:, 4 * u + 1])[0, 1] for u in range(10)])
    apart = np.mean([np.corrcoef(found[:, 4 * u], found[:, 4 * u + 4])[0, 1] for u in range(9)])
    assert inside == pytest.approx(icc, abs=0.06) and apart == pytest.approx(0.0, abs=0.03)


def test_days_to_root_count_inside_the_horizon() -> None:
    guess = Guess((28.0, 80.0), Response.DAYS, horizon=56)
    found = simulated(guess, np.array([0, 1]), np.array([0, 1]), 4_000, np.random.default_rng(7))
    assert np.median(found[:, 0]) == pytest.approx(28, abs=0.7) and np.median(found[:, 1]) == 0
    assert (found <= 56).all() and (found[:, 1] > 0).mean() == pytest.approx(0.117, abs=0.02)


@pytest.mark.parametrize(
    "guess",
    [
        {"values": (1.2,)},
        {"values": (-0.1,)},
        {"values": (6.0,), "response": Response.QUALITY},
        {"values": (0.0,), "response": Response.DAYS},
        {"values": (0.5,), "icc": 1.0},
    ],
)
def test_guesses_that_can_not_be_are_refused(guess: dict) -> None:
    with pytest.raises(InvalidInput, match="must"):
        Guess(**guess)


class TestVerdicts:
    def test_shares_are_those_of_whole_analyses(self) -> None:
        blank = of_two_arms(12, None, None, 1)
        found = rehearse(blank, (0.3, 0.8), 0.0, settings_for(0.05, 0.15, 2), 300)
        rng = np.random.default_rng(8)
        seen = {verdict: 0 for verdict in Verdict}
        for _ in range(300):
            outcome = (rng.random(24) < np.repeat([0.3, 0.8], 12)).astype(float)
            seen[analyse(blank.with_outcomes(outcome), Settings(margin=0.15)).comparisons[0].verdict] += 1
        assert sum(found.verdicts.values()) == pytest.approx(1.0)
        for verdict, share in found.verdicts.items():
            assert share == pytest.approx(seen[verdict] / 300, abs=4 * np.sqrt(2 * 0.25 / 300))
        assert found.found == pytest.approx(
            chances(blank, family_of(blank.observations, True, None), Guess((0.3, 0.8)), 0.05, 100, rng)[0].share,
            abs=0.12,
        )

    def test_three_a_side_never_tells_and_equal_arms_have_no_wrong_way(self) -> None:
        found = rehearse(of_two_arms(3, None, None, 1), (0.1, 0.9), 0.0, settings_for(0.05, 0.15, 1), 200)
        assert found.verdicts[Verdict.NOT_SETTLED] == 1.0 and found.wrong_way == 0.0
        equal = rehearse(of_two_arms(30, None, None, 1), (0.5, 0.5), 0.0, settings_for(0.05, 0.15, 1), 400)
        assert equal.wrong_way is None and equal.found <= 0.05 + 4 * np.sqrt(0.05 * 0.95 / 400)

    def test_a_small_difference_is_at_times_clear_the_wrong_way(self) -> None:
        found = rehearse(of_two_arms(20, None, None, 1), (0.5, 0.52), 0.0, settings_for(0.05, 0.15, 1), 2_000)
        assert found.wrong_way is not None and 0 < found.wrong_way < 0.03 and found.wrong_way <= found.found

    def test_headless(self, capsys: pytest.CaptureFixture[str]) -> None:
        command = [
            "rehearse",
            "--arms",
            "0.4,0.7",
            "--per-arm",
            "20",
            "--per-unit",
            "4",
            "--icc",
            "0.2",
            "--trials",
            "200",
        ]
        assert main([*command, "--margin", "0.15", "--json"]) == 0
        found = json.loads(capsys.readouterr().out)
        assert list(found) == ["verdicts", "mc_error", "wrong_way", "layout"]
        assert set(found["verdicts"]) == set(Verdict) and sum(found["verdicts"].values()) == pytest.approx(1)
        share = max(found["verdicts"].values())
        assert found["mc_error"] == pytest.approx(np.sqrt(share * (1 - share) / 200))
        assert found["layout"] == "completely randomised, several cuttings per unit"
        assert main(command) == 0 and "not settled" in capsys.readouterr().out

    @pytest.mark.parametrize(
        ("change", "says"),
        [
            ({"--arms": "0.4"}, "two rates"),
            ({"--arms": "0.4,0.5,0.6"}, "two rates"),
            ({"--arms": "0.4,1.5"}, "between 0 and 1"),
            ({"--icc": "0.2"}, "--per-unit"),
            ({"--blocks": "3"}, "multiple"),
            ({"--trials": "5"}, "trials"),
            ({"--margin": "2"}, "margin"),
            ({"--per-arm": "0"}, "per arm"),
        ],
    )
    def test_headless_refuses_in_words(self, capsys: pytest.CaptureFixture[str], change: dict, says: str) -> None:
        flags = {"--arms": "0.4,0.7", "--per-arm": "20", **change}
        assert main(["rehearse", *[part for flag in flags.items() for part in flag], "--json"]) == 2
        said = capsys.readouterr()
        assert says in said.err and not said.out


class TestOfAPlan:
    def test_the_plans_own_layout_is_on_the_stage(self) -> None:
        plan = replace(two_by_two(), design=Design(LayoutKind.COMPLETE_BLOCKS, 12, 3, blocks=2))
        blank = of_plan(plan, np.random.default_rng(9))
        assert blank.order == ("A", "B", "C", "D") and blank.arm.size == 48 and int(blank.unit.max()) == 15
        assert layout_of(blank.observations).title == "randomised complete blocks, several cuttings per unit"
        names = blank.observations.names
        for arm in plan.treatments.arms:
            here = blank.observations.arm_of_known[blank.arm == blank.order.index(arm.id)]
            assert {names[i] for i in here.tolist()} == {plan.treatments.name(arm)}

    def test_a_plan_without_arms_is_refused(self) -> None:
        with pytest.raises(InvalidInput, match="at least two"):
            of_plan(Plan("26-01"), np.random.default_rng(1))


def test_days_are_found_at_the_looks_that_the_plan_has() -> None:
    blank = of_two_arms(3, None, None, 1)
    seen = blank.with_lives(np.array([46.0, 42.0, 0.0, 41.9, 1.0, 56.0]), 56.0, (14.0, 28.0, 90.0))
    lived = [(row.outcome, row.last_without_day, row.first_with_day) for row in seen.rows]
    assert lived == [
        ("rooted", None, 14.0), ("rooted", None, 14.0), ("censored", 56.0, None),
        ("rooted", 14.0, 28.0), ("rooted", 28.0, 56.0), ("rooted", None, 14.0),
    ]  # fmt: skip
    assert blank.with_lives(np.zeros(6), 56.0, ()).rows[0].last_without_day == 56.0


def test_days_to_root_are_rehearsed_by_the_verdicts_they_would_get() -> None:
    """Far apart is found nearly always; alike is called clear no more often than alpha lets."""
    blank, looks = of_two_arms(15, None, None, 1), (14.0, 21.0, 28.0, 35.0, 42.0)
    settings = Settings(margin=5.0, seed=3, response=Response.DAYS, draws=199)
    apart = summed(run(blank, Guess((18.0, 45.0), Response.DAYS, horizon=49, looks=looks), settings, 60), 1, blank)
    assert apart.found > 0.9 and apart.wrong_way == 0.0
    alike = summed(run(blank, Guess((30.0, 30.0), Response.DAYS, horizon=49, looks=looks), settings, 120), 0, blank)
    assert alike.found <= 0.05 + 3 * (0.05 * 0.95 / 120) ** 0.5 and alike.wrong_way is None


def test_blocks_with_names_can_be_thought_larger() -> None:
    """Names are those of the blocks planned; a size that has other blocks needs none."""
    design = Design(
        layout=LayoutKind.INCOMPLETE_BLOCKS, blocks=8, block_size=2, cuttings_per_arm=4, blocks_are=BlocksAre.PEOPLE,
        block_names=tuple(f"Helper {n}" for n in range(8)),
    )  # fmt: skip
    plan = replace(two_by_two(), design=design)
    sizes = [one.design.cuttings_per_arm for one in sized(plan)]
    assert 4 in sizes and max(sizes) > 4
    arms = tuple(
        replace(arm, guess=guess) for arm, guess in zip(plan.treatments.arms, (0.1, 0.9, 0.2, 0.8), strict=True)
    )
    guessed = replace(plan, treatments=replace(plan.treatments, arms=arms))
    assert len(curve(guessed, guess_of(guessed), 0)) >= 2


def test_what_planned_looks_spend_is_not_there_to_find_anything_with() -> None:
    arms = tuple(
        replace(arm, guess=guess) for arm, guess in zip(two_by_two().treatments.arms, (0.3, 0.6, 0.3, 0.6), strict=True)
    )
    once = replace(two_by_two(), treatments=replace(two_by_two().treatments, arms=arms))
    looked = replace(once, question=replace(once.question, planned_looks=(7, 14, 21)))
    assert once.question.alpha_left == once.question.alpha == 0.05 and looked.question.alpha_left == 0.0263
    chances = [point(plan, guess_of(plan), 400).great.share for plan in (once, looked)]
    assert 0.02 < chances[0] - chances[1] < 0.2, "the same trials, held to less"
    assert detectable(looked, guess_of(looked)) > detectable(once, guess_of(once))


def test_a_curve_that_nobody_waits_for_stops_between_two_sizes() -> None:
    arms = tuple(
        replace(arm, guess=guess) for arm, guess in zip(two_by_two().treatments.arms, (0.1, 0.9, 0.2, 0.8), strict=True)
    )
    plan = replace(two_by_two(), treatments=replace(two_by_two().treatments, arms=arms))
    asked = []

    def twice(done: int, of: int) -> bool:
        asked.append((done, of))
        return len(asked) < 3

    with pytest.raises(Overtaken):
        curve(plan, guess_of(plan), 0, twice)
    assert asked == [(0, 3), (1, 3), (2, 3)] and len(curve(plan, guess_of(plan), 0)) == 3
