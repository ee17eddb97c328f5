"""False alarms, false likeness, coverage and wrong directions of two arms, by simulation: what the methods page gives figures of."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from orderly_bench.core.judgement.family import compare_family
from orderly_bench.core.judgement.layout_tests import overall_tests
from orderly_bench.core.judgement.pairs import pair_evidence
from orderly_bench.core.judgement.settings import Settings
from orderly_bench.core.judgement.verdict import Verdict
from orderly_bench.core.layouts.arrange import arrange
from orderly_bench.core.observations.table import Observations, Row
from orderly_bench.core.responses.kind import Response
from orderly_bench.core.responses.outcomes_of import outcomes_of

CHECKS = (14.0, 21.0, 28.0, 35.0)
RATES = (0.1, 0.3, 0.5, 0.7, 0.9)
#: Layouts by name: blocks, units of each side in a block, cuttings of a unit.
LAYOUTS = {
    "single": (1, 8, 1),
    "pots": (1, 4, 5),
    "blocks": (5, 2, 1),
    "pots in blocks": (5, 2, 4),
    "pairs": (20, 1, 1),
    "many": (1, 60, 1),
    "many blocks": (6, 12, 1),
    "many pairs": (60, 1, 1),
}


@dataclass(frozen=True)
class Found:
    """Shares of the trials."""

    clear: float
    same: float
    covered: float
    wrong: float


def value(response: Response, rate: float, block: float, unit: float, rng: np.random.Generator) -> dict[str, object]:
    """An outcome whose level is given by a rate; block and unit shift it on its own scale."""
    share = float(1 / (1 + np.exp(-(np.log(rate / (1 - rate)) + block + unit))))
    if response is Response.DAYS:
        rooted = rng.random() < share
        at = int(rng.integers(0, 4))
        what = "rooted" if rooted else ("dead" if rng.random() < 0.3 else "censored")
        first = CHECKS[at] if what != "censored" else None
        last = CHECKS[-1] if what == "censored" else (CHECKS[at - 1] if at else 0.0)
        return {"response": None, "outcome": what, "last_without_day": last, "first_with_day": first}
    found = {
        Response.ROOT_COUNT: float(rng.negative_binomial(3, 3 / (3 + 8 * share))),
        Response.LONGEST: round(float(20 + 20 * share + 8 * rng.normal()), 2),
        Response.QUALITY: float(np.clip(round(5 * share + rng.normal()), 0, 5)),
    }.get(response, float(rng.random() < share))
    return {"response": found}


def trial(
    response: Response, layout: str, rates: tuple[float, float], spread: float, rng: np.random.Generator
) -> Observations:
    """Two arms; blocks and units vary by ``spread`` on the logit."""
    blocks, units, cuttings = LAYOUTS[layout]
    rows = []
    for b in range(blocks):
        block = rng.normal(0, spread) if blocks > 1 else 0.0
        for arm, rate in zip("ab", rates, strict=True):
            for u in range(units):
                unit = rng.normal(0, 0.5) if cuttings > 1 else 0.0
                group: dict[str, str] = (
                    {"pair": f"s{b}"} if "pairs" in layout else {"block": f"b{b}"} if blocks > 1 else {}
                )
                named = {"unit": f"{b}{arm}{u}"} if cuttings > 1 else {}
                rows += [
                    Row(
                        (arm,),
                        **group,
                        **named,
                        rooted=1.0 if response is Response.QUALITY else None,
                        **value(response, rate, block, unit, rng),
                    )
                    for _ in range(cuttings)
                ]
    return arrange(("m",), rows)


def shares(
    response: Response,
    layout: str,
    rates: tuple[float, float],
    margin: float | None,
    trials: int,
    true: float | None,
    seed: int,
    spread: float = 1.0,
) -> Found:
    """Over so many trials; ``true`` is the estimate's true value, None where coverage is not asked."""
    rng = np.random.default_rng([seed, len(layout), list(Response).index(response)])
    rule = Settings(response=response, margin=margin, draws=499).rule()
    counts = np.zeros(4)
    asked = 0
    for _ in range(trials):
        outcomes = outcomes_of(trial(response, layout, rates, spread, rng), response)
        test, redrawn = overall_tests(outcomes, rng, 499)
        (c,) = compare_family([pair_evidence(outcomes, 0, 1, test, bare=True)], rule)
        interval = c.difference.interval
        counts[0] += c.verdict.clear
        counts[1] += c.verdict is Verdict.SAME
        if interval is not None and true is not None:
            asked += 1
            counts[2] += interval.low - 1e-9 <= true <= interval.high + 1e-9
        counts[3] += c.verdict.clear and (c.test.direction or 0) > 0
    wrong = counts[3] / max(1.0, counts[0])
    return Found(counts[0] / trials, counts[1] / trials, counts[2] / max(1, asked), float(wrong))
