"""Where two ways of judging one trial part: the overall test and the pairs, an interval and its p, the draw and the model."""

from __future__ import annotations

from orderly_bench.core.cautions import Caution
from orderly_bench.core.judgement.comparisons import Comparison
from orderly_bench.core.judgement.doubts_of_pairs import bare_p
from orderly_bench.core.judgement.reach import smallest_of
from orderly_bench.core.judgement.result import TermResult
from orderly_bench.core.messages.numbers import p_value, plain
from orderly_bench.core.messages.say import caution, clause
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.methods.logistic import ModelTest
from orderly_bench.core.methods.randomisation import RandomisationTest
from orderly_bench.core.observations.table import Observations

#: Where the smallest p that can be had is more than this share of alpha, p moves in steps that matter.
COARSE = 0.1
#: A p below it is said to be below it.
SMALLEST = 0.0001


def overall_and_pairs(alpha: float, test: RandomisationTest, comparisons: list[Comparison]) -> list[Caution]:
    """The overall test and the pairs answer different questions; where they differ, why."""
    judged = [c for c in comparisons if c.p_adjusted is not None and c.factor is None]
    if test.p is None or len(judged) < 2:
        return []
    clear = any(c.p_adjusted is not None and c.p_adjusted < alpha for c in judged)
    if clear == (test.p < alpha):
        return []
    overall, variant = p_value(test.p), "reverse" if clear else ""
    return [caution("overall_without_pair", variant, overall=overall, n=len(judged))]


def interval_and_p(
    alpha: float, observations: Observations, headline: list[Comparison], everything: list[Comparison]
) -> list[Caution]:
    """The interval shown holds no difference and p is clear, of any comparison, or the reverse of the headline's: once, with the reason."""
    held = [c for c in (*headline, *everything) if c.p_adjusted is not None and c.p_adjusted < alpha]
    for c in (*held, *headline):
        interval = c.difference.interval
        if interval is None or c.p_adjusted is None or c.p is None:
            continue
        outside = not interval.low <= c.nothing <= interval.high
        if outside == (c.p_adjusted < alpha):
            continue
        if outside and c.p < alpha:
            why = clause("why/family", n=len(headline))
        elif (c.yes_no and c.units == (c.a.stuck + c.b.stuck) / 2) or smallest_of(observations, c) > COARSE * alpha:
            why = clause("why/discrete")
        else:
            why = clause("why/scale")
        return [caution("interval_against_p", a=c.a.label, b=c.b.label, why=why)]
    return []


def judges(alpha: float, test: RandomisationTest, model: ModelTest) -> list[Caution]:
    """The draw and the model, over all arms."""
    if test.p is None or model.p is None or (test.p < alpha) == (model.p < alpha):
        return []
    p, model_p = _apart(test.p, model.p)
    return [caution("judges_disagree", p=p, model=model_named(model.name), model_p=model_p, alpha=f"{alpha:g}")]


def judges_of_terms(alpha: float, terms: list[TermResult]) -> list[Caution]:
    """The same of a main effect: the first over which its two judges part."""
    for term in terms:
        p, q = term.test.p if term.test is not None else None, term.model.p
        if p is None or q is None or (p < alpha) == (q < alpha):
            continue
        said = _apart(p, q)
        return [
            caution(
                "judges_disagree",
                "term",
                factor=term.name,
                p=said[0],
                model=model_named(term.model.name),
                model_p=said[1],
                alpha=f"{alpha:g}",
            )
        ]
    return []


def model_named(model: str) -> str:
    """``logistic model``; a name that says it is one stays."""
    return _(model) if "model" in model else _("{name} model", name=model)


def _apart(p: float, q: float) -> tuple[str, str]:
    """Both with as many figures as it takes to see that they differ, two at least."""
    ways = [
        tuple(bare_p(v) if v < SMALLEST else plain(float(f"{v:.{digits}g}")) for v in (p, q)) for digits in range(2, 7)
    ]
    first, second = next((both for both in ways if both[0] != both[1]), ways[-1])
    return first, second
