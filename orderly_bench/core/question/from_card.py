"""A trial begun from a method card: its cutting type in every arm, its weeks as days, its rate as what is known."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.plan.aspects import AspectKind
from orderly_bench.core.plan.care_lines import care_that_reads
from orderly_bench.core.plan.table import Line, Table
from orderly_bench.core.stock.kept import MethodCard
from orderly_bench.core.stock.ways import Way

DAYS_A_WEEK = 7


@dataclass(frozen=True)
class FromCard:
    """What a card says of a new trial.

    Attributes
    ----------
    table : Table
        The arms, all of the card's cutting type; where that is asked it is left as it is.
    endpoint_day, first_look : int or None
        Days after sticking: the most weeks to root, and the card's first look, else the least weeks where they come before it. None
        where the card says no weeks.
    known, book : str
        Lines of what was counted here and what was written elsewhere.
    care : str
        The card's care as far as it is written as care is: task, colon, how often.
    dead_from : int or None
        Day before which nothing is called dead, where the card names one within the trial.
    """

    table: Table
    endpoint_day: int | None
    first_look: int | None
    known: str
    book: str
    care: str = ""
    dead_from: int | None = None


def from_card(table: Table, card: MethodCard, ways: Sequence[Way] = ()) -> FromCard:
    """Begin from a card; of what was counted by way, single ways that nobody chose among others are batches too.

    Examples
    --------
    A card of tips, 31 of 50, six to eight weeks, gives day 56 with a look on day 42 and the line ``31/50 method card``.
    """
    least, most = card.weeks_least, card.weeks_most or card.weeks_least
    end = most * DAYS_A_WEEK if most else None
    look = card.first_look or (least * DAYS_A_WEEK if least else None)
    look = look if look and end and look < end else None
    dead = card.dead_from if card.dead_from and end and card.dead_from <= end else None
    own = [f"{card.rooted}/{card.stuck} method card"] if card.own else []
    known = "\n".join([*own, *(way.as_batch for way in ways if way.as_batch)])
    book = f"{100 * card.rate:g} method card" if not card.own and card.rate is not None else ""
    return FromCard(_of_type(table, card.cutting_type), end, look, known, book, care_that_reads(card.care), dead)


def _of_type(table: Table, cutting_type: str) -> Table:
    wide = table.arms + len(table.groups)
    line = next((line for line in table.lines if line.kind is AspectKind.CUTTING_TYPE), None)
    if line is not None and line.asked:
        return table
    made = Line(AspectKind.CUTTING_TYPE, AspectKind.CUTTING_TYPE.value, False, (cutting_type,) * wide)
    rest = tuple(one for one in table.lines if one is not line)
    asked = [one for one in rest if one.asked]
    return replace(table, lines=(*asked, made, *(one for one in rest if not one.asked)))


def in_words(card: MethodCard, ways: int = 0) -> str:
    """A card in a line: ``31 of 50 rooted here, in 6 to 8 weeks``; without a rate, in how many ways trials counted it here.

    Parameters
    ----------
    ways : int
        How many ways concluded trials rooted this kind of cutting in. They are not pooled: each is a way of its own.
    """
    rate = _("{rooted} of {stuck} rooted here", rooted=card.rooted, stuck=card.stuck) if card.own else ""
    if not rate and card.rate is not None:
        rate = _("{rate:g} % by the book", rate=100 * card.rate)
    if not rate and ways:
        rate = _("counted here in one way") if ways == 1 else _("counted here in {n} ways", n=str(ways))
    weeks = " to ".join(dict.fromkeys(str(w) for w in (card.weeks_least, card.weeks_most) if w is not None))
    return ", ".join(part for part in (rate, _("in {weeks} weeks", weeks=weeks) if weeks else "") if part) or _(
        "no rate and no weeks yet"
    )
