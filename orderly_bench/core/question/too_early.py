"""Whether the endpoint, or the day on which a trial is stopped, lies before roots are to be expected."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass

from orderly_bench.core.cautions import Caution
from orderly_bench.core.messages.say import caution
from orderly_bench.core.messages.translation import gettext as _

WEEK = 7
#: Weeks as a book gives them, in what is typed of it: ``6 weeks``, ``6-8 weeks``, ``6 to 8 weeks``.
_WEEKS = re.compile(r"(\d{1,3})(?: ?(?:-|–|to) ?(\d{1,3}))? ?(?:weeks?|wk)\b", re.IGNORECASE)
_DAYS = re.compile(r"\bday (\d{1,4})\b|(\d{1,4}) days?\b", re.IGNORECASE)


@dataclass(frozen=True)
class Expected:
    """Weeks in which roots are expected, and who says so."""

    least: int
    most: int
    source: str

    @property
    def words(self) -> str:
        """``6 to 8 weeks``, ``6 weeks``."""
        if self.least == self.most:
            return _("{weeks:week|weeks}", weeks=self.most)
        return _("{least} to {most:week|weeks}", least=self.least, most=self.most)


def weeks_in(text: str, source: str) -> Expected | None:
    """Weeks said in a text; None where it says none.

    >>> weeks_in("Miller, 6 to 8 weeks", "the book").words
    '6 to 8 weeks'
    """
    found = _WEEKS.search(text)
    if found is None:
        return None
    least = int(found[1])
    return Expected(least, max(least, int(found[2] or found[1])), source)


def last_day_of(stop_rule: str) -> int | None:
    """The earliest day on which a stop rule ends the trial; None where it names none.

    >>> last_day_of("stop after 3 weeks, or on day 28"), last_day_of("when the frost comes")
    (21, None)
    """
    days = [int(a or b) for a, b in _DAYS.findall(stop_rule)]
    weeks = [WEEK * int(least) for least, _ in _WEEKS.findall(stop_rule)]
    return min([*days, *weeks], default=None)


def too_early(endpoint_day: int, stop_rule: str, expected: Sequence[Expected]) -> list[Caution]:
    """A doubt for an endpoint and for a stop that come before the last of the weeks expected, with the day late enough.

    Of several sources the slowest counts: nobody was harmed by looking later, and roots not there yet are no failure.
    """
    if not expected:
        return []
    slowest = max(expected, key=lambda one: one.most)
    late = WEEK * slowest.most
    found = []
    if endpoint_day < late:
        found.append(
            caution("endpoint_before_weeks", day=endpoint_day, weeks=slowest.words, source=slowest.source, late=late)
        )
    stop = last_day_of(stop_rule)
    if stop is not None and stop < min(late, endpoint_day):
        found.append(caution("stop_before_weeks", day=stop, weeks=slowest.words, source=slowest.source, late=late))
    return found
