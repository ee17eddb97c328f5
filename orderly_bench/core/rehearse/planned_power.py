"""Whether a design would mostly miss what is guessed: said while it is planned, and again beside what came of it.

What such a design does find tends to be overstated (Gelman & Carlin 2014, Perspect Psychol Sci 9:641).
"""

from __future__ import annotations

from orderly_bench.core.cautions import Caution
from orderly_bench.core.errors import OrderlyError
from orderly_bench.core.messages.say import caution, clause
from orderly_bench.core.plan.question import TrialKind
from orderly_bench.core.plan.value import Plan
from orderly_bench.core.rehearse.chance import Chance
from orderly_bench.core.rehearse.curve import guess_of, point

#: Below this chance a design mostly finds nothing.
LEAST_POWER = 0.3
TRIALS = 400


def pair_in_words(chance: Chance) -> str:
    """The comparison a chance is of."""
    return clause("seen/pair", a=chance.a, b=chance.b)


def doubt_of(chance: Chance, variant: str = "") -> tuple[Caution, ...]:
    """A doubt where the chance is low; a share that is simulated is given its error's benefit."""
    if chance.share + chance.mc_error >= LEAST_POWER:
        return ()
    return (caution("low_power", variant, pair=pair_in_words(chance), found=f"{100 * chance.share:.0f}"),)


def planned_too_small(plan: Plan) -> tuple[Caution, ...]:
    """The doubt of a test that is over, by what was guessed of its arms; nothing where nobody guessed, or it can't be told."""
    if plan.question.kind is not TrialKind.TEST:
        return ()
    guess = guess_of(plan)
    if guess is None:
        return ()
    try:
        return doubt_of(point(plan, guess, TRIALS).great, "ended")
    except OrderlyError:
        return ()
