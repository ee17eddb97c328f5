"""Intervals and power against the design answers of the independent package."""

from __future__ import annotations

import json

import numpy as np
import pytest

from orderly_bench.core.compare.difference import newcombe
from orderly_bench.core.compare.quadratic_form import permutation_test
from orderly_bench.core.compare.rates import clopper_pearson, wilson
from orderly_bench.core.design.power import (
    exact_power,
    smallest_adjusted_pair_p,
    smallest_overall_p,
    smallest_pair_p,
)
from tests.core.test_reference import REFERENCE

ANSWERS = json.loads((REFERENCE / "design_answers.json").read_text())


@pytest.mark.parametrize(
    "answer",
    [a for a in ANSWERS if a["kind"] == "table" and a["what"].startswith("arms")],
    ids=lambda a: a["case"] + a["what"],
)
def test_rate_intervals(answer: dict) -> None:
    arm, end = answer["what"][5:].split("].ci_")
    rooted, stuck = answer["table"]["arms"][arm]
    interval = clopper_pearson if "clopper-pearson" in answer["args"] else wilson
    assert getattr(interval(rooted, stuck), end) == pytest.approx(answer["value"], abs=answer["tolerance"])


@pytest.mark.parametrize(
    "answer",
    [a for a in ANSWERS if a["kind"] == "table" and a["what"].startswith("comp")],
    ids=lambda a: a["case"] + a["what"],
)
def test_difference_intervals(answer: dict) -> None:
    names, end = answer["what"][12:].split("].ci_")
    a, b = (answer["table"]["arms"][name] for name in names.split(" - "))
    assert getattr(newcombe(*a, *b).interval, end) == pytest.approx(answer["value"], abs=answer["tolerance"])


def _flag(args: list[str], name: str) -> str | None:
    return args[args.index(name) + 1] if name in args else None


@pytest.mark.parametrize(
    "answer",
    [a for a in ANSWERS if a["kind"] == "power" and "--icc" not in a["args"] and "--per-unit" not in a["args"]],
    ids=lambda a: a["case"] + a["what"],
)
def test_power_and_smallest_p(answer: dict) -> None:
    args = answer["args"]
    rates = [float(r) for r in _flag(args, "--arms").split(",")]
    per_arm, blocks = int(_flag(args, "--per-arm")), int(_flag(args, "--blocks") or 1)
    if answer["what"] == "smallest_p":
        assert smallest_overall_p(len(rates), per_arm, blocks) == pytest.approx(
            answer["value"], abs=answer["tolerance"]
        )
    elif len(rates) == 2 and blocks == 1:
        assert exact_power(*rates, per_arm).power == pytest.approx(answer["value"], abs=answer["tolerance"])


@pytest.mark.parametrize(("arms", "per_arm", "blocks"), [(3, 2, 1), (3, 4, 2), (4, 3, 1)])
def test_smallest_overall_p_is_the_least_the_test_can_give(arms: int, per_arm: int, blocks: int) -> None:
    u = per_arm // blocks
    stuck = np.full((blocks, arms), u)
    rng = np.random.default_rng(3)
    reached = [permutation_test(np.tile([u] * g + [0] * (arms - g), (blocks, 1)), stuck, rng).p for g in range(1, arms)]
    assert smallest_overall_p(arms, per_arm, blocks) == pytest.approx(min(reached), abs=1e-9)


def test_four_arms_of_four_can_never_tell_a_pair_apart() -> None:
    assert smallest_adjusted_pair_p(4, 4) == pytest.approx(6 * 2 / 70)


def test_three_against_three_cannot_convince() -> None:
    assert smallest_pair_p(3) == pytest.approx(0.10)
