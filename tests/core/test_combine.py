"""One question over several trials, against an independent package on published counts, and what must hold whatever the counts."""

from __future__ import annotations

import csv
import json
from pathlib import Path

import numpy as np
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st

from orderly_bench.core.errors import UnusableData
from orderly_bench.core.methods.combine import ArmOfTrial, combine
from orderly_bench.core.methods.difference import newcombe

SETS = Path(__file__).parent.parent / "reference" / "combine"
ANSWERS = json.loads((SETS / "answers.json").read_text())

Trials = list[tuple[str, ArmOfTrial, ArmOfTrial]]


def read(name: str) -> Trials:
    trials: dict[str, dict[str, ArmOfTrial]] = {}
    for row in csv.DictReader((SETS / f"{name}.csv").read_text().splitlines()):
        trials.setdefault(row["trial"], {})[row["arm"]] = ArmOfTrial(int(row["k"]), int(row["n"]))
    return [(trial, has["first"], has["second"]) for trial, has in trials.items()]


@pytest.mark.parametrize("name", ANSWERS)
def test_published_counts_give_what_an_independent_package_gives(name: str) -> None:
    found = combine(read(name))
    for key, answer in ANSWERS[name].items():
        assert getattr(found, key) == pytest.approx(answer, rel=1e-6, abs=1e-7), key
    assert sum(one.weight for one in found.trials) == pytest.approx(1)


def arms() -> st.SearchStrategy[ArmOfTrial]:
    return st.integers(2, 60).flatmap(lambda n: st.integers(0, n).map(lambda k: ArmOfTrial(k, n)))


def several(least: int) -> st.SearchStrategy[Trials]:
    return st.lists(st.tuples(arms(), arms()), min_size=least, max_size=8).map(
        lambda pairs: [(f"t{n}", a, b) for n, (a, b) in enumerate(pairs)]
    )


@settings(max_examples=60, deadline=None)
@given(trials=several(2))
@example([("t0", ArmOfTrial(1, 3), ArmOfTrial(8, 8)), ("t1", ArmOfTrial(11, 11), ArmOfTrial(0, 54))])
def test_whatever_the_counts(trials: Trials) -> None:
    found = combine(trials)
    assert (
        found.tau2 is not None
        and found.i2 is not None
        and found.prediction_low is not None
        and found.prediction_high is not None
    )
    assert (
        found.tau2 >= 0
        and 0 <= found.i2 < 100
        and 0 <= found.q_p <= 1
        and found.factor is not None
        and found.factor >= 1
    )
    assert found.prediction_low <= found.ci_low < found.estimate < found.ci_high <= found.prediction_high
    differences = [one.difference for one in found.trials]
    assert min(differences) - 1e-9 <= found.estimate <= max(differences) + 1e-9
    again = combine(trials[::-1])
    assert (again.estimate, again.ci_low, again.tau2) == pytest.approx(
        (found.estimate, found.ci_low, found.tau2), abs=1e-7
    )
    turned = combine([(name, b, a) for name, a, b in trials])
    assert (turned.estimate, turned.ci_low) == pytest.approx((-found.estimate, -found.ci_high), abs=1e-7)


@settings(max_examples=40, deadline=None)
@given(first=arms(), second=arms())
def test_one_trial_gives_itself_and_the_same_again_varies_by_nothing(first: ArmOfTrial, second: ArmOfTrial) -> None:
    one = combine([("a", first, second)])
    alone = newcombe(first.k, first.n, second.k, second.n)
    assert alone.interval is not None and (one.estimate, one.ci_low, one.ci_high) == pytest.approx(
        (alone.estimate, alone.interval.low, alone.interval.high)
    )
    assert (one.tau2, one.i2, one.prediction_low, one.prediction_high) == (None,) * 4
    same = combine([(name, first, second) for name in "abc"])
    assert (same.tau2, same.i2, same.q) == (0.0, 0.0, pytest.approx(0, abs=1e-20)) and not same.disagree
    assert [trial.weight for trial in same.trials] == pytest.approx([1 / 3] * 3)


def test_the_variance_between_is_where_the_restricted_likelihood_is_highest() -> None:
    found = combine(read("bcg"))
    y = np.array([one.difference for one in found.trials])
    v = np.array([one.variance for one in found.trials])

    def likelihood(tau2: float) -> float:
        w = 1 / (v + tau2)
        return float(0.5 * (np.log(w).sum() - np.log(w.sum()) - w @ (y - w @ y / w.sum()) ** 2))

    assert found.tau2 is not None
    assert max(likelihood(step) for step in np.linspace(0, 0.02, 20_001)) <= likelihood(found.tau2) + 1e-9


def test_units_that_are_worth_less_widen_it_and_nothing_else_moves() -> None:
    counts = [("a", (30, 40), (20, 40)), ("b", (28, 40), (21, 40)), ("c", (33, 40), (18, 40))]
    wide, narrow = (
        combine([(name, ArmOfTrial(*a, worth), ArmOfTrial(*b, worth)) for name, a, b in counts])
        for worth in (20.0, 40.0)
    )
    plain = combine([(name, ArmOfTrial(*a), ArmOfTrial(*b)) for name, a, b in counts])
    assert (narrow.estimate, narrow.ci_low) == pytest.approx((plain.estimate, plain.ci_low))
    assert wide.estimate == pytest.approx(plain.estimate, abs=0.01) and wide.ci_low < plain.ci_low
    assert any("n_effective" in words for words in plain.cautions) and not any(
        "n_effective" in w for w in wide.cautions
    )


def test_what_is_to_be_minded_comes_before_the_mean() -> None:
    apart = [("a", ArmOfTrial(30, 40), ArmOfTrial(10, 40)), ("b", ArmOfTrial(10, 40), ArmOfTrial(30, 40)), ("c", ArmOfTrial(0, 9), ArmOfTrial(4, 9))]  # fmt: skip
    said = combine(apart).cautions
    assert said[0].startswith("The trials disagree") and any("3 trials" in words for words in said)
    assert any("1/2 was added" in words for words in said)
    assert combine(apart[:1]).cautions[0].startswith("One trial")


@pytest.mark.parametrize("names", [[], ["a", "b", "a"]])
def test_no_trial_and_a_trial_twice_are_refused(names: list[str]) -> None:
    with pytest.raises(UnusableData, match=r"there is no trial|trial a comes twice"):
        combine([(name, ArmOfTrial(1, 4), ArmOfTrial(2, 4)) for name in names])
