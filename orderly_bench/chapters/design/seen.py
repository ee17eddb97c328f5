"""Would it be seen? One pass of the power curve, drawn and in words."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from orderly_bench.core.design.fits import Fit
from orderly_bench.core.errors import OrderlyError
from orderly_bench.core.plan.value import Plan
from orderly_bench.core.question.purpose import ceiling_words
from orderly_bench.core.rehearse.chance import Chance
from orderly_bench.core.rehearse.curve import (
    ENOUGH,
    MORE,
    MOST_COUNTED,
    PASSES,
    curve,
    detectable,
    guess_of,
    needed,
)
from orderly_bench.core.rehearse.outcomes import Guess
from orderly_bench.core.responses.registry import kind_of
from orderly_bench.figures import power
from orderly_bench.figures.power import Found


@dataclass(frozen=True)
class Seen:
    """One pass of the power curve, drawn, with what it says; or why there is none."""

    svg: str
    words: list[str]
    problem: str = ""
    more: bool = False


def seen(plan: Plan, runs_out: tuple[int, str] | None, step: int, go_on: Callable[[], bool]) -> Seen:
    """The chance to find what is guessed, in passes from coarse to fine; ``go_on`` says whether anyone still waits."""
    try:
        guess = guess_of(plan)
        if guess is None:
            return Seen("", [], "Type what you would expect of each arm, and the chance to see it appears here.")
        points = curve(plan, guess, step, go_on)
    except OrderlyError as error:
        return Seen("", [], str(error))
    here = next((p for p in points if p.per_arm == plan.design.cuttings_per_arm), None)
    if here is None:
        return Seen("", [], "This design can't be simulated as it stands.")
    great = [Found(p.per_arm, p.great.share, p.great.mc_error) for p in points]
    apart = any((p.great.a, p.great.b) != (p.least.a, p.least.b) for p in points)
    least = [Found(p.per_arm, p.least.share, p.least.mc_error) for p in points] if apart else []
    pairs = f"{here.great.a} v {here.great.b}", f"{here.least.a} v {here.least.b}"
    words = [f"At {here.per_arm} per arm {pairs[0]} is found in {_of_100(here.great)} trials."]
    if least:
        words.append(f"{pairs[1]} in {_of_100(here.least)}.")
    last = step >= len(PASSES) - 1
    if last:
        eighty, ninety = (needed(points, aim, guess, plan.question.alpha) for aim in (ENOUGH, MORE))
        most = MOST_COUNTED if here.great.trials == 0 else points[-1].per_arm
        words.append(f"For 80 of 100 {_about(eighty, most)} per arm, for 90 {_about(ninety, most)}.")
        gap = detectable(plan, guess)
        words.append(_gap_words(guess, gap))
    ceiling = ceiling_words(list(guess.values)) if kind_of(guess.response).yes_no else ""
    return Seen(
        power.figure(great, least, here.per_arm, runs_out),
        [*words, *([ceiling] if ceiling else [])],
        "",
        not last,
    )


def _about(number: int | None, most: int) -> str:
    return f"more than {most}" if number is None else f"about {number}"


def _of_100(chance: Chance) -> str:
    error = f" ± {100 * chance.mc_error:.0f}" if chance.trials else ""
    return f"{100 * chance.share:.0f}{error} of 100"


def _gap_words(guess: Guess, gap: float | None) -> str:
    if gap is None:
        return "No difference that is possible is found 8 times in 10."
    size = f"{100 * gap:.0f} points" if kind_of(guess.response).yes_no else f"{gap:.2g}"
    return f"The smallest difference found 8 times in 10: {size} above the lowest."


def runs_out(fits_found: list[Fit]) -> tuple[int, str] | None:
    """Where the first thing runs out, for the shaded stretch of the curve."""
    ends = [
        (fit.most_per_arm, f"short of {fit.name[:1].lower()}{fit.name[1:]}")
        for fit in fits_found
        if fit.most_per_arm is not None
    ]
    return min(ends, default=None)
