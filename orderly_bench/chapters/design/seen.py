"""Would it be seen? A pass of the power curve: worked out, drawn, and in words."""

from __future__ import annotations

import hashlib
from collections.abc import Callable
from dataclasses import asdict, dataclass
from typing import Any

from orderly_bench.core.cautions import Caution
from orderly_bench.core.design.fits import Fit
from orderly_bench.core.errors import OrderlyError
from orderly_bench.core.messages.numbers import in_points
from orderly_bench.core.messages.say import clause, say
from orderly_bench.core.plan.value import Plan
from orderly_bench.core.question.purpose import ceiling_words
from orderly_bench.core.rehearse.chance import Chance
from orderly_bench.core.rehearse.curve import (
    ENOUGH,
    MORE,
    MOST_COUNTED,
    PASSES,
    Point,
    curve,
    detectable,
    guess_of,
    needed,
)
from orderly_bench.core.rehearse.outcomes import Guess
from orderly_bench.core.rehearse.planned_power import doubt_of, pair_in_words
from orderly_bench.core.responses.registry import kind_of
from orderly_bench.figures import power
from orderly_bench.figures.power import Found
from orderly_bench.record.code import code_digest

LAST = len(PASSES) - 1


@dataclass(frozen=True)
class Pass:
    """One pass over the sizes; ``gap`` is the smallest difference found, known at the last; ``problem`` says why there is none."""

    step: int
    points: tuple[Point, ...] = ()
    gap: float | None = None
    problem: str = ""

    def as_data(self) -> dict[str, Any]:
        """For keeping."""
        return asdict(self)

    @classmethod
    def of_data(cls, data: dict[str, Any]) -> Pass:
        """Kept before."""
        points = (Point(p["per_arm"], Chance(**p["great"]), Chance(**p["least"])) for p in data["points"])
        return cls(data["step"], tuple(points), data["gap"], data["problem"])


@dataclass(frozen=True)
class Seen:
    """A pass drawn, with what it says; or why there is none."""

    svg: str
    words: list[str]
    problem: str = ""
    more: bool = False
    doubts: tuple[Caution, ...] = ()


def digest_of(plan: Plan, *beside: object) -> str:
    """What a curve rests on, and what else is drawn with it."""
    return hashlib.sha256(repr((code_digest(), plan, *beside)).encode()).hexdigest()


def worked(plan: Plan, step: int, go_on: Callable[[int, int], bool]) -> Pass:
    """The chance to find what is guessed, in passes from coarse to fine.

    Raises
    ------
    Overtaken
        When ``go_on`` says no.
    """
    try:
        guess = guess_of(plan)
        if guess is None:
            return Pass(LAST, problem=say("seen/no_guess"))
        points = curve(plan, guess, step, go_on)
        gap = detectable(plan, guess) if step >= LAST else None
    except OrderlyError as error:
        return Pass(LAST, problem=str(error))
    if not any(p.per_arm == plan.design.cuttings_per_arm for p in points):
        return Pass(LAST, problem=say("seen/not_simulated"))
    return Pass(step, tuple(points), gap)


def drawn(plan: Plan, found: Pass, runs_out: tuple[int, str] | None) -> Seen:
    """A pass as it is shown; ``runs_out`` is where the first thing runs out, and what."""
    guess = guess_of(plan)
    if found.problem or guess is None:
        return Seen("", [], found.problem)
    points = found.points
    here = next(p for p in points if p.per_arm == plan.design.cuttings_per_arm)
    great = [Found(p.per_arm, p.great.share, p.great.mc_error) for p in points]
    apart = any((p.great.a, p.great.b) != (p.least.a, p.least.b) for p in points)
    least = [Found(p.per_arm, p.least.share, p.least.mc_error) for p in points] if apart else []
    words = [say("seen/great", per_arm=here.per_arm, pair=pair_in_words(here.great), share=_of_100(here.great))]
    words += [say("seen/least", pair=pair_in_words(here.least), share=_of_100(here.least))] if least else []
    if found.step >= LAST:
        eighty, ninety = (needed(points, aim, guess, plan.question.alpha_left) for aim in (ENOUGH, MORE))
        most = MOST_COUNTED if here.great.trials == 0 else points[-1].per_arm
        words.append(say("seen/needed", eighty=_about(eighty, most), ninety=_about(ninety, most)))
        words.append(_gap_words(guess, found.gap))
    if plan.question.planned_looks:
        words.append(say("seen/looks", alpha=plan.question.alpha, left=plan.question.alpha_left))
    ceiling = ceiling_words(list(guess.values)) if kind_of(guess.response).yes_no else ""
    words += [ceiling] if ceiling else []
    drawing = power.figure(great, least, here.per_arm, runs_out)
    return Seen(drawing, words, "", found.step < LAST, doubt_of(here.great) if found.step >= LAST else ())


def _about(number: int | None, most: int) -> str:
    return clause("seen/over", n=most) if number is None else clause("seen/about", n=number)


def _of_100(chance: Chance) -> str:
    error = f" ± {100 * chance.mc_error:.0f}" if chance.trials else ""
    return clause("seen/of_100", share=f"{100 * chance.share:.0f}{error}")


def _gap_words(guess: Guess, gap: float | None) -> str:
    if gap is None:
        return say("seen/no_gap")
    return (
        say("seen/gap_points", gap=in_points(gap))
        if kind_of(guess.response).yes_no
        else say("seen/gap", gap=f"{gap:.2g}")
    )


def runs_out(fits_found: list[Fit]) -> tuple[int, str] | None:
    """Where the first thing runs out, for the shaded stretch of the curve."""
    ends = [
        (fit.most_per_arm, clause("seen/short_of", what=f"{fit.name[:1].lower()}{fit.name[1:]}"))
        for fit in fits_found
        if fit.most_per_arm is not None
    ]
    return min(ends, default=None)
