"""A group begun beside a locked trial: pieces of their own, scored like the rest and never compared."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.plan.aspects import AspectKind
from orderly_bench.core.plan.table import Line, Table
from orderly_bench.core.plan.value import Plan
from orderly_bench.core.question.at_once import MOST_PIECES, ORIGINS
from orderly_bench.core.score.on_table import has_roots
from orderly_bench.core.score.undrawn import UndrawnCount
from orderly_bench.core.typed import read_whole
from orderly_bench.core.vocabulary import Roots, Score, State

LONGEST_NAME, LONGEST_SOURCE, LONGEST_SAID = 60, 120, 120
SAYS = "says_"
DEAD = (State.DEAD, State.TAKEN_OUT_DEAD)


@dataclass(frozen=True)
class GroupBeside:
    """What is asked of such a group.

    Attributes
    ----------
    name : str
        How the trial calls it.
    pieces : int
        How many are stuck.
    says : mapping of aspect id to str
        What is known of it, by the aspects of the trial; one that is not said is left out.
    source : str
        From which plant, and why they came.
    """

    name: str
    pieces: int
    says: Mapping[str, str]
    source: str

    def table(self, plan: Plan) -> Table:
        """Its aspects as a trial of one way says them."""
        lines = [
            Line(one.kind, one.name, False, (self.says[one.id],))
            for one in plan.treatments.aspects
            if one.id in self.says
        ]
        return Table(1, tuple(lines))

    def note(self, plan: Plan) -> str:
        """Its aspects in one line: ``medium: pumice; hormone: none``."""
        said = [f"{one.name}: {self.says[one.id]}" for one in plan.treatments.aspects if one.id in self.says]
        return "; ".join(said)[:300]


@dataclass(frozen=True)
class SaidOf:
    """An aspect that such a group can say: its field, its name, and what all arms of the trial say alike (else blank)."""

    field: str
    name: str
    alike: str


def aspects_said(plan: Plan) -> list[SaidOf]:
    """What such a group can say; what it stands in is chosen, not said."""
    found = []
    for one in plan.treatments.aspects:
        levels = {arm.says.get(one.id) for arm in plan.treatments.arms}
        level = levels.pop() if len(levels) == 1 else None
        if one.kind is not AspectKind.CONTAINER:
            found.append(SaidOf(f"{SAYS}{one.id}", one.name, one.level(level).name if level else ""))
    return found


def read_group(typed: Mapping[str, str], plan: Plan) -> GroupBeside:
    """A group as typed.

    Raises
    ------
    InvalidInput
        No name, no pieces, an origin that is none, or a text that is too long.
    """
    name = " ".join(typed.get("name", "").split())
    if not 0 < len(name) <= LONGEST_NAME:
        raise InvalidInput("name of the group", _("type one, within {most} characters", most=LONGEST_NAME), name[:40])
    pieces = read_whole(typed.get("pieces", "").strip(), "pieces")
    if not 1 <= pieces <= MOST_PIECES:
        raise InvalidInput("pieces", _("must be between 1 and {most}", most=MOST_PIECES), pieces)
    origin = typed.get("origin", "") or ORIGINS[0]
    if origin not in ORIGINS:
        raise InvalidInput("origin", _("choose one of: {names}", names=", ".join(ORIGINS)), origin)
    source = " ".join(typed.get("source", "").split())
    if len(source) > LONGEST_SOURCE:
        raise InvalidInput("from which plant", _("keep it within {most} characters", most=LONGEST_SOURCE), source[:40])
    says = {}
    for one in aspects_said(plan):
        text = " ".join(typed.get(one.field, "").split())
        if len(text) > LONGEST_SAID:
            raise InvalidInput(one.name, _("keep it within {most} characters", most=LONGEST_SAID), text[:40])
        if text:
            says[one.field.removeprefix(SAYS)] = text
    beside = _("beside {code}, not drawn with it", code=plan.code)
    return GroupBeside(name, pieces, says, ", ".join(part for part in (beside, source, origin) if part))


def counted(group: str, day: date, stuck: int, pieces: Iterable[Sequence[Score]]) -> UndrawnCount:
    """What a check found of such a group, by the scores of each piece's rooting sites; what nobody could see is not known.

    >>> counted("late", date(2026, 7, 1), 3, [[Score(State.DEAD, Roots.NONE)]]).words
    'late on 1 Jul 2026: 0 of 3 rooted, 1 dead, 2 not known'
    """
    rooted = bare = dead = 0
    for scores in pieces:
        if any(has_roots(score) for score in scores):
            rooted += 1
        elif any(score.state in DEAD for score in scores):
            dead += 1
        elif scores and all(score.state is State.ALIVE and score.roots is Roots.NONE for score in scores):
            bare += 1
    return UndrawnCount(group, day, stuck, rooted, bare, dead)
