"""Strength as a dose: reading strengths, the curve and its band, and when a best strength may be named."""

from __future__ import annotations

import numpy as np
import pytest
import statsmodels.api as sm
from scipy.optimize import minimize

from orderly_bench.core.judgement.analysis import analyse
from orderly_bench.core.judgement.dose_curve import DoseCurve, dose_curve, dose_factor, has_curve, strengths_of
from orderly_bench.core.judgement.dose_fits import OfMeans, OfRates
from orderly_bench.core.judgement.settings import Settings
from orderly_bench.core.layouts.arrange import arrange
from orderly_bench.core.observations.table import Observations, Row
from orderly_bench.core.responses.kind import Response
from orderly_bench.core.telling.dose import dose_lines

STRENGTHS = {
    "none": 0.0,
    "IBA 300 ppm": 300.0,
    "IBA 1000 ppm": 1000.0,
    "IBA 3000 ppm": 3000.0,
    "IBA 10000 ppm": 10000.0,
}
HUMP = (6, 11, 17, 12, 5)
RISE = (3, 7, 11, 15, 18)
FLAT = (10, 11, 9, 10, 11)


def trial(
    rooted: tuple[int, ...], n: int = 20, blocks: int = 1, names: tuple[str, ...] = tuple(STRENGTHS)
) -> Observations:
    rows = [
        Row((name,), float(i < k), block=f"b{i % blocks}" if blocks > 1 else None)
        for name, k in zip(names, rooted, strict=True)
        for i in range(n)
    ]
    return arrange(("hormone",), rows)


def curve_of(observations: Observations, seed: int = 1) -> DoseCurve:
    levels = observations.level_names[0]
    strengths = np.array(strengths_of(levels))
    return dose_curve(OfRates(observations, 0, strengths), strengths, 0.05, np.random.default_rng(seed))


@pytest.mark.parametrize(
    ("levels", "found"),
    [
        (["none", "IBA 1000 ppm", "IBA 3000 ppm"], [0, 1000, 3000]),
        (["0", "0.5", "2"], [0, 0.5, 2]),
        (["No hormone", "K-IBA 1000 mg/L", "K-IBA 500 mg/L"], [0, 1000, 500]),
        (["none", "IBA 1000 ppm", "NAA 1000 ppm"], None),
        (["none", "IBA 1000 ppm", "IBA 0.3 %"], None),
        (["none", "IBA 1000 ppm talc", "IBA 3000 ppm gel"], None),
        (["sand", "pumice", "bark"], None),
        (["none", "without", "IBA 300 ppm"], None),
        (["water dip", "IBA 500 ppm", "IBA 1000 ppm"], [0, 500, 1000]),
        (["untreated", "K-IBA 1,000 ppm", "K-IBA 3,000 ppm"], [0, 1000, 3000]),
        (["none", "1000", "3000"], None),
        (["none", "IBA 500 ppm", "IBA 1,000 ppm", "IBA 10,000 ppm"], [0, 500, 1000, 10_000]),
        (["none", "IBA 500 mg/L", "IBA 1.500 mg/L", "IBA 3 000 mg/L"], [0, 500, 1500, 3000]),
        (["none", "IBA 0,125 %", "IBA 0,500 %"], [0, 0.125, 0.5]),
        (["none", "IBA 1 g/L", "IBA 3 g/L"], [0, 1, 3]),
    ],
)
def test_strengths_are_read_from_levels_of_one_thing_in_one_unit(levels: list[str], found: list[float] | None) -> None:
    assert strengths_of(levels) == found


def test_a_factor_is_a_dose_from_three_levels_on() -> None:
    assert dose_factor({"medium": ["sand", "bark"], "hormone": ["none", "IBA 1 %", "IBA 3 %"]}) == "hormone"
    assert dose_factor({"hormone": ["none", "IBA 3000 ppm"]}) is None


def test_the_curve_is_the_penalised_fit_and_stays_between_none_and_all() -> None:
    """Against a slow one: Jeffreys' penalised likelihood maximised without derivatives."""
    observations = trial(HUMP)
    curve = curve_of(observations)
    k = np.array([HUMP[list(STRENGTHS).index(name)] for name in observations.level_names[0]], dtype=float)
    x = np.log1p(np.array(strengths_of(observations.level_names[0])) / 300)
    design = np.column_stack([np.ones(5), x, x**2])

    def minus(beta: np.ndarray) -> float:
        p = 1 / (1 + np.exp(-design @ beta))
        information = design.T @ (design * (20 * p * (1 - p))[:, None])
        return float(-(k * np.log(p) + (20 - k) * np.log1p(-p)).sum() - 0.5 * np.linalg.slogdet(information)[1])

    slow = minimize(
        minus, np.zeros(3), method="Nelder-Mead", options={"xatol": 1e-9, "fatol": 1e-12, "maxiter": 9000}
    ).x
    at = np.log1p(curve.strength / 300)
    expected = 1 / (1 + np.exp(-(slow[0] + slow[1] * at + slow[2] * at**2)))
    assert curve.height == pytest.approx(expected, abs=1e-4)
    assert ((0 < curve.low) & (curve.low < curve.height) & (curve.height < curve.high) & (curve.high < 1)).all()
    assert curve.strength[0] == 0 and curve.strength[-1] == pytest.approx(10_000)


def test_a_hump_names_a_best_strength_inside_those_tried() -> None:
    curve = curve_of(trial(HUMP))
    assert curve.best is not None and curve.best_low is not None and curve.best_high is not None
    assert 300 <= curve.best_low < curve.best < curve.best_high <= 10_000
    assert curve.strength[int(curve.height.argmax())] == pytest.approx(curve.best, rel=0.1)


@pytest.mark.parametrize("rooted", [RISE, FLAT, (20, 20, 20, 20, 20), (0, 0, 0, 0, 0)])
def test_what_only_rises_or_lies_flat_names_none(rooted: tuple[int, ...]) -> None:
    curve = curve_of(trial(rooted))
    assert curve.best is None and curve.best_low is None and curve.best_high is None
    assert np.isfinite(curve.height).all() and np.isfinite(curve.low).all()


def test_three_strengths_are_saturated_and_say_so() -> None:
    observations = trial((6, 17, 5), names=("none", "IBA 1000 ppm", "IBA 3000 ppm"))
    found = analyse(observations, Settings(dose="hormone", draws=400))
    curve = found.trends["hormone"].curve
    assert curve is not None and curve.saturated and curve.best is None
    assert "dose_saturated" in [c.code for c in found.cautions]
    four = analyse(trial(HUMP), Settings(dose="hormone", draws=400))
    assert "dose_saturated" not in [c.code for c in four.cautions]


def test_two_strengths_have_no_curve_and_the_same_seed_the_same_interval() -> None:
    assert not has_curve(np.array([1000.0, 0.0])) and not has_curve(np.array([0.0, -1.0, 3.0]))
    once, again = curve_of(trial(HUMP), 7), curve_of(trial(HUMP), 7)
    assert (once.best_low, once.best_high) == (again.best_low, again.best_high)


def test_blocks_stand_beside_the_curve_and_pots_widen_its_band() -> None:
    plain, blocked = curve_of(trial(HUMP)), curve_of(trial(HUMP, blocks=4))
    assert blocked.height == pytest.approx(plain.height, abs=0.05) and not np.array_equal(blocked.height, plain.height)
    names = tuple(STRENGTHS)
    pots = [
        Row((name,), float(cutting < 5 * (pot < k / 5)), unit=f"{name}{pot}")
        for name, k in zip(names, HUMP, strict=True)
        for pot in range(4)
        for cutting in range(5)
    ]
    shared = curve_of(arrange(("hormone",), pots))
    single = curve_of(arrange(("hormone",), [Row(row.levels, row.response) for row in pots]))
    assert (shared.high - shared.low).mean() > 1.3 * (single.high - single.low).mean()


def test_the_band_covers_and_a_flat_truth_rarely_bends() -> None:
    """120 seeded trials of a true quadratic: the band covers nine in ten points and more; a flat truth bends in 5 % and three errors."""
    rng = np.random.default_rng(5)
    x = np.log1p(np.array(list(STRENGTHS.values())) / 300)
    truth = 1 / (1 + np.exp(-(-1 + 1.8 * x - 0.45 * x**2)))
    covered, bent = [], 0
    for i in range(120):
        hump = curve_of(trial(tuple(rng.binomial(20, truth).tolist())), i) if i < 30 else None
        if hump is not None:
            at = np.log1p(hump.strength / 300)
            here = 1 / (1 + np.exp(-(-1 + 1.8 * at - 0.45 * at**2)))
            covered.append(((hump.low <= here) & (here <= hump.high)).mean())
        flat = curve_of(trial(tuple(rng.binomial(20, 0.5, 5).tolist())), i)
        bent += flat.bend.p is not None and flat.bend.p < 0.05
    assert np.mean(covered) > 0.9
    assert bent / 120 <= 0.05 + 3 * np.sqrt(0.05 * 0.95 / 120)


def one_tray_in_each_block(response: Response | None, blocks: int = 6, seed: int = 3) -> Observations:
    """A hump with its top between the second and the fourth strength, one tray of ten of each strength in each block."""
    rng = np.random.default_rng(seed)
    rows = []
    for block in range(blocks):
        for name, share in zip(STRENGTHS, (0.31, 0.73, 0.88, 0.85, 0.32), strict=True):
            here = float(np.clip(share + rng.normal(0, 0.1), 0.02, 0.98))
            found = rng.binomial(1, here, 10) if response is None else rng.poisson(12 * here, 10)
            rows += [Row((name,), float(one), block=f"b{block}", unit=f"{name}{block}") for one in found]
    return arrange(("hormone",), rows)


@pytest.mark.parametrize("response", [None, Response.ROOT_COUNT])
def test_one_tray_of_each_strength_in_a_block_leaves_the_best_one_unsure(response: Response | None) -> None:
    """Drawing such trays again gives the same trays: the interval was a point."""
    settings = Settings(response=response or Response.ROOTED, dose="hormone", draws=400)
    found = analyse(one_tray_in_each_block(response), settings)
    curve = found.trends["hormone"].curve
    assert curve is not None and curve.best is not None and curve.best_low is not None and curve.best_high is not None
    assert 500 < curve.best_low < 0.9 * curve.best < 0.8 * curve.best_high < 4000


def test_means_have_the_quadratic_of_least_squares_and_a_band_for_unequal_spread() -> None:
    """Against statsmodels' own HC3."""
    rng = np.random.default_rng(9)
    strength, block = np.tile(list(STRENGTHS.values()), 8), np.repeat(np.arange(8), 5)
    x = np.log1p(strength / 300)
    values = 2 + 3 * x - 0.8 * x**2 + block / 4 + rng.normal(0, 0.3 + strength / 5000)
    fitted = OfMeans(values, strength, block)
    columns = np.column_stack([np.ones(40), block[:, None] == np.arange(1, 8), x, x**2]).astype(float)
    reference = sm.OLS(values, columns).fit(cov_type="HC3", use_t=True)
    assert fitted.coefficients == pytest.approx(reference.params)
    assert fitted.covariance == pytest.approx(reference.cov_params())
    assert fitted.bend.p == pytest.approx(reference.pvalues[-1])
    levels = np.column_stack([columns, (x / x.max()) ** 3, (x / x.max()) ** 4])
    wald = sm.OLS(values, levels).fit(cov_type="HC3", use_t=True).f_test(np.eye(12)[-2:])
    assert (fitted.misfit.p, fitted.misfit.f) == (pytest.approx(float(wald.pvalue)), pytest.approx(float(wald.fvalue)))
    height, low, high = fitted.at(np.log1p(np.array([0.0, 10.0])), 0.95)
    middle = np.r_[columns[:, :-2].mean(axis=0), 0, 0][None]
    there = reference.get_prediction(np.r_[middle[0, :-2], np.log(11), np.log(11) ** 2]).conf_int()
    assert height[0] == pytest.approx((middle @ reference.params)[0])
    assert (low[1], high[1]) == pytest.approx(tuple(there[0]))


@pytest.mark.parametrize(
    ("response", "means", "told"),
    [
        (Response.ROOT_COUNT, (1, 2, 4, 6, 9), "Root number rises with the strength of hormone (trend p"),
        (Response.LONGEST, (90, 70, 50, 30, 10), "Longest root falls with the strength of hormone (trend p"),
        (Response.QUALITY, (3, 3, 3, 3, 3), "No trend with the strength of hormone was found"),
        (Response.ROOT_COUNT, (1, 1, 2, 4, 12), "Over the logarithm of the strength of hormone the curve bends"),
        (Response.ROOT_COUNT, (2, 6, 9, 8, 2), "Root number does not simply rise or fall with the strength of hormone"),
        (
            Response.LONGEST,
            (60, 38, 30, 32, 58),
            "Longest root does not simply rise or fall with the strength of hormone",
        ),
    ],
)
def test_what_is_no_share_has_its_trend_bend_and_curve(response: Response, means: tuple[int, ...], told: str) -> None:
    step = max(1, max(means) // 9)
    rows = [
        Row((name,), float(mean + step * (i % 3)))
        for name, mean in zip(STRENGTHS, means, strict=True)
        for i in range(9)
    ]
    found = analyse(arrange(("hormone",), rows), Settings(response=response, dose="hormone", draws=400))
    lines, curve = dose_lines(found, "hormone"), found.trends["hormone"].curve
    assert any(line.startswith(told) for line in lines) and curve is not None and not curve.of_rates
    assert ("the curve is highest at" in lines[-1]) == (curve.best is not None) == (means == (2, 6, 9, 8, 2))


@pytest.mark.parametrize("response", [Response.ROOTED, Response.ROOT_COUNT])
def test_no_best_strength_where_the_values_do_not_follow_the_curve(response: Response) -> None:
    """A peak so steep that the top of a quadratic would lie beside it."""
    rng = np.random.default_rng(4)
    shares = (0.05, 0.1, 0.95, 0.4, 0.3)
    rows = [
        Row((name,), float(rng.binomial(1, share) if response is Response.ROOTED else rng.poisson(20 * share)))
        for name, share in zip(STRENGTHS, shares, strict=True)
        for _ in range(40)
    ]
    found = analyse(arrange(("hormone",), rows), Settings(response=response, dose="hormone", draws=400))
    curve = found.trends["hormone"].curve
    assert curve is not None and curve.bend.p is not None and curve.bend.p < 0.001 and curve.best is None
    assert "does not follow so simple a curve (p < 0.0001)" in dose_lines(found, "hormone")[-1]


def test_a_turn_is_not_said_where_nothing_tells_whether_the_values_follow_the_curve() -> None:
    """All alike inside each strength: the fitted curve dips before it rises, the values don't."""
    rows = [
        Row((name,), float(value)) for name, value in zip(STRENGTHS, (0, 0, 0, 0, 4), strict=True) for _ in range(6)
    ]
    found = analyse(arrange(("hormone",), rows), Settings(response=Response.QUALITY, dose="hormone", draws=400))
    curve, lines = found.trends["hormone"].curve, " ".join(dose_lines(found, "hormone"))
    assert curve is not None and curve.misfit.p is None and not curve.turns and curve.best is None
    assert "simply rise or fall" not in lines and "does not follow so simple a curve" in lines


def test_a_strength_that_stood_once_has_no_curve() -> None:
    """Nobody knows how far another tray of it would lie."""
    rows = [
        Row((name,), float(i % 4), unit=f"{name}{tray}")
        for name in STRENGTHS
        for tray in range(1 if name == "none" else 3)
        for i in range(4)
    ]
    found = analyse(arrange(("hormone",), rows), Settings(response=Response.ROOT_COUNT, dose="hormone", draws=400))
    assert found.trends["hormone"].curve is None
