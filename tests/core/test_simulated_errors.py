"""False alarms, false likeness, coverage and direction of two arms: a little here, whole with ``--long``; figures in docs/methods."""

from __future__ import annotations

from math import sqrt

import numpy as np
import pytest

from orderly_bench.core.responses.kind import Response
from tests.core.simulated import RATES, shares

NULL = {
    Response.ROOTED: 0.0,
    Response.ROOT_COUNT: 1.0,
    Response.LONGEST: 0.0,
    Response.QUALITY: 0.5,
    Response.DAYS: 0.0,
}
LAYOUTS = ("single", "pots", "blocks", "pots in blocks", "pairs")
#: Where the interval is known to be short, the doubt that says so, and what it holds at least.
SHORT = {(Response.ROOT_COUNT, "blocks"): 0.88, (Response.ROOT_COUNT, "pots in blocks"): 0.89}


def nothing_between(response: Response, layout: str, trials: int) -> None:
    found = [shares(response, layout, (rate, rate), None, trials, NULL[response], 1) for rate in RATES]
    error = sqrt(0.05 * 0.95 / (trials * len(RATES)))
    assert np.mean([f.clear for f in found]) <= 0.05 + 3 * error
    assert np.mean([f.covered for f in found]) >= SHORT.get((response, layout), 0.93) - 3 * error


@pytest.mark.parametrize("layout", LAYOUTS)
def test_false_alarms_and_coverage_of_rates(layout: str) -> None:
    nothing_between(Response.ROOTED, layout, 60)


@pytest.mark.long
@pytest.mark.parametrize("layout", LAYOUTS)
@pytest.mark.parametrize("response", NULL)
def test_false_alarms_and_coverage_of_everything(response: Response, layout: str) -> None:
    nothing_between(response, layout, 300)


@pytest.mark.parametrize(("layout", "margin"), [("many", 0.2), ("many pairs", 0.2), ("pairs", 0.3)])
def test_a_true_difference_of_the_margin_is_seldom_called_the_same(layout: str, margin: float) -> None:
    false = [
        shares(Response.ROOTED, layout, (p, p + margin), margin, 60, None, 2, 0.0).same for p in (0.1, 0.3, 0.5, 0.6)
    ]
    assert np.mean(false) <= 0.055 + 3 * sqrt(0.055 * 0.945 / 240)


@pytest.mark.long
@pytest.mark.parametrize(
    ("layout", "margin"),
    [
        ("single", 0.35),
        ("many", 0.2),
        ("many blocks", 0.2),
        ("many pairs", 0.2),
        ("pots", 0.3),
        ("pots in blocks", 0.25),
        ("blocks", 0.35),
        ("pairs", 0.3),
    ],
)
def test_false_likeness_in_every_layout(layout: str, margin: float) -> None:
    rates = [p / 10 for p in range(1, 10) if p / 10 + margin <= 0.97]
    false = [shares(Response.ROOTED, layout, (p, p + margin), margin, 1_000, None, 2, 0.0).same for p in rates]
    assert np.mean(false) <= 0.055 + 3 * sqrt(0.055 * 0.945 / (1_000 * len(rates)))
    assert max(false) <= 0.08 + 3 * sqrt(0.08 * 0.92 / 1_000)


@pytest.mark.parametrize("response", [Response.ROOTED, Response.LONGEST])
def test_under_strong_blocks_a_clear_difference_points_the_right_way(response: Response) -> None:
    found = shares(response, "pots in blocks", (0.2, 0.7), None, 60, None, 3, 2.0)
    assert found.clear > 0.5 and found.wrong == 0.0


@pytest.mark.long
@pytest.mark.parametrize("layout", ["blocks", "pots in blocks", "pairs", "many blocks"])
@pytest.mark.parametrize("response", NULL)
def test_wrong_directions_in_every_layout(response: Response, layout: str) -> None:
    for rates in ((0.2, 0.7), (0.4, 0.9)):
        assert shares(response, layout, rates, None, 300, None, 3, 2.0).wrong <= 0.01
