"""A prediction held against the verdict: an order of the counts alone never makes it come true."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass

from orderly_bench.core.messages.say import clause, say
from orderly_bench.core.messages.translation import all_of

NAMED_PLACES = 3


@dataclass(frozen=True)
class PredictionResult:
    """A prediction held against the outcome.

    Attributes
    ----------
    predicted, observed : list of str
        Arms, best first, as expected and as counted.
    place_of_first : int
        Place of the expected best in the counts; ties take the best place they share.
    came_true : bool
        Whether the expected best came out clearly above every other arm, and was expected before anything was stuck.
    sentence : str
    """

    predicted: list[str]
    observed: list[str]
    place_of_first: int
    came_true: bool
    sentence: str


def hold_prediction(
    predicted: list[str],
    rates: dict[str, float],
    short: dict[str, str],
    above: Collection[tuple[str, str]],
    late: bool = False,
) -> PredictionResult:
    """Where the predicted best came in, and what the verdict says of it.

    Parameters
    ----------
    predicted : list of str
        Arm names, best first.
    rates : dict of str to float
    short : dict of str to str
        How to call each arm in the sentence.
    above : collection of (str, str)
        Pairs of arms of which the first came out clearly above the second, with a strength that is not *cannot tell*.
    late : bool
        Made after sticking: it is no prediction.
    """
    first, others = predicted[0], predicted[1:]
    place = 1 + sum(1 for rate in rates.values() if rate > rates[first] + 1e-12)
    came = clause(f"place/{place}") if place <= NAMED_PLACES else clause("place", n=str(place))
    tied = sum(1 for rate in rates.values() if abs(rate - rates[first]) <= 1e-12) > 1
    over = [other for other in others if (first, other) in above]
    under = [other for other in others if (other, first) in above]
    came_true = bool(others) and len(over) == len(others) and not late
    if late:
        verdict = say("predicted/late")
    elif came_true:
        verdict = say("predicted/true")
    elif under:
        verdict = say("predicted/false", arms=all_of(short[name] for name in under))
    elif over:
        verdict = say("predicted/part", arms=all_of(short[name] for name in over))
    else:
        verdict = say("predicted/open")
    sentence = say("predicted/joint" if tied else "predicted", arm=short[first], place=came)
    observed = sorted(rates, key=lambda name: -rates[name])
    return PredictionResult(predicted, observed, place, came_true, f"{sentence} {verdict}")
