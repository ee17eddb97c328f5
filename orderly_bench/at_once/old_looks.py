"""The looks at a finished trial as its checks: each at what was seen of every cutting, the last at how it counts."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from orderly_bench.core.errors import InvalidInput, UnusableData
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.observations.over_time import checks
from orderly_bench.core.question.old_trial import LOOKED_ON, OldTrial
from orderly_bench.core.vocabulary import Roots, Score, State
from orderly_bench.formats.old_trial_csv import OldRow

#: Scores that come in at once: what one request may take.
MOST_SCORES = 4_000


@dataclass(frozen=True)
class Visit:
    """A check.

    Attributes
    ----------
    das : int
        Days after sticking on which it began.
    seen : list of (int, Score)
        Of each row: the days after sticking on which it was looked at, and its score; *not looked* where nobody did.
    """

    das: int
    seen: list[tuple[int, Score]]


def visits_of(told: OldTrial, rows: Sequence[OldRow]) -> list[Visit]:
    """The checks in order of their days; one, where the file has no day of a look.

    Raises
    ------
    InvalidInput
        A look before sticking, or on none of the last of which the form speaks.
    UnusableData
        More scores than come in at once.
    """
    if not any(row.looks for row in rows):
        return [Visit(told.days, [(told.days, row.score) for row in rows])]
    days = [{_after_sticking(look.day, look.dated, told.stuck_on): look.score for look in row.looks} for row in rows]
    gone_over = checks((day, i) for i, of_row in enumerate(days) for day in of_row)
    if gone_over[0][0] < 1:
        raise InvalidInput(LOOKED_ON, _("looks come after sticking"), _("day {n}", n=gone_over[0][0]))
    if not gone_over[-1][0] <= told.days <= gone_over[-1][-1]:
        rule = _("is day {n}, and the last look of the file is on day {last}", n=told.days, last=int(gone_over[-1][-1]))
        raise InvalidInput(LOOKED_ON, rule)
    if len(rows) * len(gone_over) > MOST_SCORES:
        raise UnusableData(
            _("{n} looks at {pieces} cuttings", n=len(gone_over), pieces=len(rows)),
            _("At most {most} scores come in at once; leave out looks in between", most=MOST_SCORES),
        )
    found = [
        Visit(int(span[0]), [_seen(row, of_row, span) for row, of_row in zip(rows, days, strict=True)])
        for span in gone_over
    ]
    last = [(day, row.score) for row, (day, _score) in zip(rows, found[-1].seen, strict=True)]
    return [*found[:-1], Visit(found[-1].das, last)]


def _seen(row: OldRow, looks: dict[int, Score], span: Sequence[float]) -> tuple[int, Score]:
    """What was seen of a row at a check: the dead stay dead, and what nobody looked at is *not looked*."""
    day = next((day for day in looks if day in span), None)
    if day is not None:
        return day, looks[day]
    dead = next((score for day, score in looks.items() if day < span[0] and score.state is State.DEAD), None)
    return int(span[0]), dead or Score(State.ALIVE, Roots.NOT_LOOKED, known_by=row.score.known_by)


def _after_sticking(day: float, dated: bool, stuck_on: date) -> int:
    return int(day) - stuck_on.toordinal() if dated else int(day)
