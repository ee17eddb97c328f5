"""Outcomes of simulated trials, by the scale of the response.

Yes or no: the share of a unit is beta with mean p and intraclass correlation ICC, its cuttings binomial (Griffiths 1973, Biometrics
29:637). The others draw each cutting's value from one distribution by the arm's mean; cuttings of one unit share part of a normal
score (a Gaussian copula; Nelsen 2006, *An Introduction to Copulas*, ch. 2), so that the ICC is that of the scores.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.responses.kind import Response, Scale
from orderly_bench.core.responses.registry import kind_of

#: Size of the negative binomial: variance = mean + mean^2 / size.
SIZE = 1.0
#: Standard deviation over mean of the longest root, and of the days to root on the log scale.
SPREAD_OF_LENGTH = 0.6
SPREAD_OF_DAYS = 0.3
MOST_GRADE = 5
#: What the guess of an arm is, behind its number.
GUESSED = {
    Scale.YES_NO: N_("percent"), Scale.NUMBER: N_("roots a cutting, on average"), Scale.LENGTH: N_("mm, on average"), Scale.GRADES: N_("of 5, on average"),
    Scale.DAYS: N_("days until half have rooted"),
}  # fmt: skip
MOST_MEAN = 1_000.0


@dataclass(frozen=True)
class Guess:
    """What is assumed before anything is known.

    Attributes
    ----------
    values : tuple of float
        Of each arm: share (0 to 1) of a yes or no, mean number, mean mm, mean grade 0 to 5, or median days to root.
    response : Response
    icc : float
        How alike cuttings of one unit are, 0 to below 1.
    horizon : float
        Day after sticking up to which days to root are counted.
    looks : tuple of float
        Days on which it is looked whether they have rooted; the horizon is one of them.
    """

    values: tuple[float, ...]
    response: Response = Response.ROOTED
    icc: float = 0.0
    horizon: float = 56.0
    looks: tuple[float, ...] = ()

    def __post_init__(self) -> None:
        scale = kind_of(self.response).scale
        most = {Scale.YES_NO: 1.0, Scale.GRADES: float(MOST_GRADE)}.get(scale, MOST_MEAN)
        for value in self.values:
            if not 0 <= value <= most or (scale is Scale.DAYS and value == 0):
                shown = (
                    "0 and 100 %"
                    if scale is Scale.YES_NO
                    else _(N_("above 0 and {most:g}") if scale is Scale.DAYS else N_("0 and {most:g}"), most=most)
                )
                raise InvalidInput(
                    "guess",
                    _("must lie between {shown}", shown=shown),
                    100 * value if scale is Scale.YES_NO else value,
                )
        if not 0 <= self.icc < 1:
            raise InvalidInput("ICC", _("must be 0 or more and below 1"), self.icc)


def simulated(guess: Guess, arm: np.ndarray, unit: np.ndarray, trials: int, rng: np.random.Generator) -> np.ndarray:
    """Values of every cutting in so many trials; of days to root the rooted-days inside the horizon.

    Parameters
    ----------
    guess : Guess
    arm, unit : ndarray of int, shape (cuttings,)
        Arm of each cutting as an index into the guess, and its unit, numbered from 0.

    Returns
    -------
    ndarray of float, shape (trials, cuttings)
    """
    wanted = np.array(guess.values, dtype=float)[arm]
    if kind_of(guess.response).yes_no:
        return _yes_no(wanted, unit, guess.icc, trials, rng)
    from scipy.special import ndtr

    units = int(unit.max()) + 1
    score = np.sqrt(1 - guess.icc) * rng.standard_normal((trials, arm.size))
    if guess.icc > 0:
        score += np.sqrt(guess.icc) * rng.standard_normal((trials, units))[:, unit]
    return _of_scale(kind_of(guess.response).scale, wanted, score, np.asarray(ndtr(score)), guess.horizon)


def _yes_no(p: np.ndarray, unit: np.ndarray, icc: float, trials: int, rng: np.random.Generator) -> np.ndarray:
    share = np.broadcast_to(p, (trials, p.size))
    varies = (p > 0) & (p < 1)
    if icc > 0 and varies.any():
        first = np.unique(unit, return_index=True)[1]
        inside = np.clip(p[first], 1e-9, 1 - 1e-9)
        a, b = inside * (1 - icc) / icc, (1 - inside) * (1 - icc) / icc
        drawn = rng.beta(a, b, size=(trials, first.size))[:, unit]
        share = np.where(varies, drawn, p)
    return (rng.random((trials, p.size)) < share).astype(float)


def _of_scale(scale: Scale, mean: np.ndarray, score: np.ndarray, chance: np.ndarray, horizon: float) -> np.ndarray:
    if scale is Scale.DAYS:
        return np.asarray(np.maximum(0.0, horizon - mean * np.exp(SPREAD_OF_DAYS * score)))
    found = np.zeros(chance.shape)
    for value in np.unique(mean[mean > 0]):
        here = mean == value
        if scale is Scale.LENGTH:
            from scipy.special import gammaincinv

            shape = SPREAD_OF_LENGTH**-2
            found[:, here] = gammaincinv(shape, np.clip(chance[:, here], 1e-12, 1 - 1e-12)) * value / shape
        else:
            found[:, here] = np.searchsorted(_cumulative(scale, float(value)), chance[:, here])
    return found


def _cumulative(scale: Scale, mean: float) -> np.ndarray:
    """P(X <= k) for k = 0, 1 ... up to where hardly anything is left."""
    from scipy.stats import binom, nbinom

    if scale is Scale.GRADES:
        return np.asarray(binom.cdf(np.arange(MOST_GRADE), MOST_GRADE, mean / MOST_GRADE))
    most = int(nbinom.ppf(1 - 1e-9, SIZE, SIZE / (SIZE + mean)))
    return np.asarray(nbinom.cdf(np.arange(most + 1), SIZE, SIZE / (SIZE + mean)))
