"""How many to stick so that enough are fit to pot on.

Least m with P(at least N of m) >= assurance: binomial for a known rate; beta-binomial from earlier batches (Gelman et al. 2013,
ch. 2), one batch by its Jeffreys posterior, several by a beta fitted to them by maximum likelihood.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from orderly_bench.core.cautions import Caution
from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.say import caution
from orderly_bench.core.messages.translation import gettext as _

MOST = 1_000_000
FEW_BATCHES = 8
#: a + b beyond this: batches vary no more than chance would have it.
BINOMIAL_SIZE = 1e5


@dataclass(frozen=True)
class StickFor:
    """``stick`` cuttings; ``beta`` the distribution of the rate used, None for a known one."""

    stick: int
    beta: tuple[float, float] | None
    cautions: list[Caution]


def check_want(want: int, assurance: float) -> None:
    """Refuse what can't be asked."""
    if not 1 <= want <= 100_000:
        raise InvalidInput("want", _("must be between 1 and 100000 plants"), want)
    if not 0 < assurance < 1:
        raise InvalidInput("assurance", _("must lie above 0 and below 1, such as 0.95"), assurance)


def for_rate(want: int, rate: float, assurance: float) -> StickFor:
    """Stick for a known rate."""
    from scipy.special import bdtrc

    check_want(want, assurance)
    if not 0 < rate <= 1:
        raise InvalidInput("rate", _("must lie above 0 and at most 1"), rate)
    return StickFor(_least(want, assurance, lambda m: float(bdtrc(want - 1, m, rate))), None, [])


def for_batches(want: int, batches: Sequence[tuple[float, float]], assurance: float) -> StickFor:
    """Stick from earlier batches, each (fit, stuck); effective counts where cuttings shared units."""
    check_want(want, assurance)
    if not batches:
        raise InvalidInput("from", _("give at least one batch as fit/stuck: 31/50"))
    for k, n in batches:
        if not 0 <= k <= n or n <= 0:
            raise InvalidInput("from", _("a batch is fit/stuck, with fit at most stuck: 31/50"), f"{k}/{n}")
    cautions = []
    fitted = _fit(batches) if len(batches) > 1 else None
    if fitted is None:
        k, n = (sum(part) for part in zip(*batches, strict=True))
        fitted = (k + 0.5, n - k + 0.5)
    if len(batches) == 1:
        cautions.append(caution("one_batch"))
    elif len(batches) < FEW_BATCHES:
        cautions.append(caution("few_batches", n=len(batches)))
    a, b = fitted
    return StickFor(_least(want, assurance, lambda m: beta_binomial_tail(want, m, a, b)), fitted, cautions)


def beta_binomial_tail(want: int, stuck: int, a: float, b: float) -> float:
    """P(at least ``want`` of ``stuck``) when the rate is Beta(a, b)."""
    from scipy.special import betaln, gammaln

    if want > stuck:
        return 0.0
    k = np.arange(want, stuck + 1)
    logs = gammaln(stuck + 1) - gammaln(k + 1) - gammaln(stuck - k + 1) + betaln(k + a, stuck - k + b) - betaln(a, b)
    return float(min(1.0, np.exp(logs).sum()))


def _fit(batches: Sequence[tuple[float, float]]) -> tuple[float, float] | None:
    """Beta by maximum likelihood; None when batches vary no more than binomial."""
    from scipy.optimize import minimize
    from scipy.special import betaln, expit

    k, n = (np.array(part, dtype=float) for part in zip(*batches, strict=True))
    if k.sum() in (0, n.sum()):
        return None

    def minus(x: np.ndarray) -> float:
        size = np.exp(x[1])
        a, b = expit(x[0]) * size, (1 - expit(x[0])) * size
        return -float((betaln(k + a, n - k + b) - betaln(a, b)).sum())

    rate = k.sum() / n.sum()
    options = {"xatol": 1e-10, "fatol": 1e-13, "maxiter": 20_000, "maxfev": 20_000}
    starts = [np.array([np.log(rate / (1 - rate)), s]) for s in (1.0, 3.0, 6.0)]
    found = min(
        (minimize(minus, start, method="Nelder-Mead", options=options) for start in starts), key=lambda f: f.fun
    )
    size = float(np.exp(found.x[1]))
    if size > BINOMIAL_SIZE:
        return None
    mean = float(expit(found.x[0]))
    return mean * size, (1 - mean) * size


def _least(want: int, assurance: float, chance: Callable[[int], float]) -> int:
    """Least m that reaches the assurance, by doubling and halving; the chance grows with m."""
    low, high = want - 1, max(2, want)
    while chance(high) < assurance:
        low, high = high, high * 2
        if high > MOST:
            raise InvalidInput(
                "want", _("would need more than {most} cuttings; take a better method first", most=MOST), want
            )
    while low + 1 < high:
        middle = (low + high) // 2
        low, high = (low, middle) if chance(middle) >= assurance else (middle, high)
    return high
