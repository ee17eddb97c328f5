"""*The rest are*: all that have no score yet at a check, said once and kept as a score of each."""

from __future__ import annotations

from enum import StrEnum

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.vocabulary import INDIRECT_GRADES, Fit, KnownBy, Roots, Score, State

NOTE = N_("said of the rest together")


class Rest(StrEnum):
    """What the rest are."""

    NO_ROOTS = N_("alive, without roots")
    NOT_LOOKED = N_("alive, roots not looked for")
    DEAD = N_("dead")
    MISSING = N_("not found")


def score_of(rest: str, way: KnownBy) -> Score:
    """The score that each of the rest gets.

    Raises
    ------
    InvalidInput
        None of the words, or *without roots* where the way of looking shows none.

    Examples
    --------
    >>> score_of("dead", KnownBy.LIFTED).state.value
    'dead'
    """
    if rest not in list(Rest):
        raise InvalidInput("the rest are", _("choose one of: {names}", names=", ".join(Rest)), rest)
    if rest == Rest.NO_ROOTS and way in INDIRECT_GRADES:
        raise InvalidInput(
            "the rest are", _("can't be without roots: this check looks by {way}, which shows none", way=way), rest
        )
    state = {Rest.DEAD: State.DEAD, Rest.MISSING: State.MISSING}.get(Rest(rest), State.ALIVE)
    bare = rest == Rest.NO_ROOTS
    roots, fit = (Roots.NONE, Fit.NO) if bare else (Roots.NOT_LOOKED, Fit.NOT_JUDGED)
    return Score(state, roots, fit=fit, known_by=way, note=_(NOTE))
