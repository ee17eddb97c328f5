"""Power by simulating the actual layout and running the same primary test.

Units are beta-binomial (Griffiths 1973, Biometrics 29:637): a = p(1 - icc)/icc, b = (1 - p)(1 - icc)/icc. Blocks without an ICC have
the same rate throughout. Trials with the same counts share one test.
"""

from __future__ import annotations

from functools import cache
from math import sqrt

import numpy as np

from orderly_bench.core.design.power import Power, exact_power
from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.methods import permutation
from orderly_bench.core.methods.hypergeometric import two_sided_p
from orderly_bench.core.methods.quadratic_form import permutation_test
from orderly_bench.core.methods.smallest_p import check_per_arm, smallest_overall_p
from orderly_bench.core.randomise.shuffled import ShuffledWithin

TRIALS = 4_000
DRAWS = 2_000


def check_units(per_arm: int, per_unit: int | None, icc: float | None, blocks: int) -> int:
    """Units per arm and block; refuses what does not divide, and an ICC without units."""
    if icc is not None and per_unit is None:
        raise InvalidInput("icc", _("is the likeness of cuttings in one unit; give --per-unit with it"), icc)
    if icc is not None and not 0 <= icc < 1:
        raise InvalidInput("icc", _("must be 0 or more and below 1"), icc)
    each = 1 if per_unit is None else per_unit
    if each < 1:
        raise InvalidInput("cuttings per unit", _("must be 1 or more"), each)
    check_per_arm(per_arm, blocks)
    if per_arm % (each * blocks):
        raise InvalidInput(
            "cuttings per arm",
            _("must be a multiple of {each} per unit x {blocks} blocks", each=each, blocks=blocks),
            per_arm,
        )
    return per_arm // each // blocks


def smallest_p(
    arms: int, per_arm: int, per_unit: int | None = None, icc: float | None = None, blocks: int = 1
) -> float:
    """Smallest reachable overall p with whole units."""
    units = check_units(per_arm, per_unit, icc, blocks)
    return smallest_overall_p(arms, units * blocks, blocks)


def power_of(
    rates: list[float],
    per_arm: int,
    *,
    per_unit: int | None = None,
    icc: float | None = None,
    blocks: int = 1,
    alpha: float = 0.05,
    trials: int = TRIALS,
    rng: np.random.Generator,
) -> Power:
    """Power of the overall test; exact for two arms of single cuttings without blocks, else simulated.

    Parameters
    ----------
    rates : list of float
        True rate of each arm, at least two.
    per_arm : int
        Cuttings over all blocks.
    """
    units = check_units(per_arm, per_unit, icc, blocks)
    if len(rates) < 2:
        raise InvalidInput("arms", _("give at least two rates"), len(rates))
    for rate in rates:
        if not 0 <= rate <= 1:
            raise InvalidInput("arms", _("rates must lie between 0 and 1"), rate)
    if not 100 <= trials <= 1_000_000:
        raise InvalidInput("trials", _("must be between 100 and 1000000"), trials)
    each = per_unit or 1
    if len(rates) == 2 and blocks == 1 and each == 1:
        return exact_power(rates[0], rates[1], per_arm, alpha)
    hits = 0
    if each == 1:
        hits = _single(rates, units, blocks, alpha, trials, rng)
    else:
        hits = _clustered(rates, units, each, icc or 0.0, blocks, alpha, trials, rng)
    share = hits / trials
    return Power(share, sqrt(share * (1 - share) / trials), _("{trials} simulated trials", trials=trials))


def _single(
    rates: list[float], per_block: int, blocks: int, alpha: float, trials: int, rng: np.random.Generator
) -> int:
    stuck = np.full((blocks, len(rates)), per_block)
    rooted = rng.binomial(per_block, rates, size=(trials, blocks, len(rates)))

    @cache
    def clear(key: bytes) -> bool:
        counts = np.frombuffer(key, dtype=rooted.dtype).reshape(blocks, len(rates))
        if len(rates) == 2:
            return two_sided_p(counts, stuck) < alpha
        p = permutation_test(counts, stuck, rng, DRAWS).p
        return p is not None and p < alpha

    return sum(clear(trial.tobytes()) for trial in rooted)


def _clustered(
    rates: list[float],
    units: int,
    each: int,
    icc: float,
    blocks: int,
    alpha: float,
    trials: int,
    rng: np.random.Generator,
) -> int:
    arms = len(rates)
    p = np.array(rates)[None, :, None]
    shape = (trials, arms, units * blocks)
    true = np.broadcast_to(p, shape)
    if icc > 0:
        inside = np.clip(p, 1e-12, 1 - 1e-12)
        drawn = rng.beta(inside * (1 - icc) / icc, (1 - inside) * (1 - icc) / icc, size=shape)
        true = np.where((p > 0) & (p < 1), drawn, p)
    rooted = rng.binomial(each, true)
    layout = ShuffledWithin(
        np.repeat(np.arange(arms), units * blocks), np.tile(np.repeat(np.arange(blocks), units), arms)
    )

    @cache
    def clear(key: tuple[tuple[int, ...], ...]) -> bool:
        found = permutation.test(np.array(key).ravel() / each, layout, rng, DRAWS).p
        return found is not None and found < alpha

    hits = 0
    for trial in rooted:
        # Order inside an arm and block does not matter; sorting lets equal trials share their test.
        sorted_units = np.sort(trial.reshape(arms, blocks, units), axis=2).reshape(arms, -1)
        hits += clear(tuple(map(tuple, sorted_units.tolist())))
    return hits


def needed_per_arm(rate_a: float, rate_b: float, power: float, alpha: float = 0.05, most: int = 1_000) -> int | None:
    """Least cuttings per arm at which two arms of single cuttings reach a power and stay there for the next; None beyond ``most``.

    Exact power is not monotone in n, so the next number must reach it too.
    """
    if rate_a == rate_b:
        return None

    def enough(n: int) -> bool:
        return exact_power(rate_a, rate_b, n, alpha).power >= power

    low, high = 2, 4
    while high <= most and not (enough(high) and enough(high + 1)):
        low, high = high, high * 2
    if high > most:
        return None
    while low + 1 < high:
        middle = (low + high) // 2
        low, high = (low, middle) if enough(middle) and enough(middle + 1) else (middle, high)
    return high
