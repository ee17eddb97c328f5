"""What stands beside the trial and was not drawn: left-over pieces, a tub beside the bench. Counted whole, reported apart, never tested."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.say import phrase
from orderly_bench.core.messages.words import dated, tell
from orderly_bench.core.plan.pieces import left_over
from orderly_bench.core.plan.value import Plan

MOST = 2_000
LEFT_OVER = "left-over pieces"


@dataclass(frozen=True)
class BesideCount:
    """A group as it was found on a day.

    Attributes
    ----------
    stuck, rooted, bare, dead : int
        How many were stuck, and of them how many had roots, lived without roots, or were dead. The rest is not known.
    """

    group: str
    day: date
    stuck: int
    rooted: int
    bare: int
    dead: int

    @property
    def not_known(self) -> int:
        """Stuck, and neither seen with roots, nor without, nor dead."""
        return self.stuck - self.rooted - self.bare - self.dead

    @property
    def words(self) -> str:
        """The group with its counts."""
        return phrase("beside_counted", group=self.group, day=dated(self.day), parts=", ".join(self._parts()))

    def _parts(self) -> list[str]:
        others = (("beside_bare", self.bare), ("beside_dead", self.dead), ("beside_not_known", self.not_known))
        return [
            phrase("beside_rooted", rooted=self.rooted, stuck=self.stuck),
            *(phrase(key, n=n) for key, n in others if n),
        ]


def groups_beside(plan: Plan) -> dict[str, int | None]:
    """Names of the groups beside the trial, each with how many pieces it has where the plan says so."""
    named: dict[str, int | None] = {group.name: None for group in plan.treatments.side_groups}
    over = left_over(plan) if plan.design.leftovers else 0
    return named | ({LEFT_OVER: over} if over else {})


def check_beside(plan: Plan, count: BesideCount, stuck_from: date, today: date) -> None:
    """A count that can be.

    Raises
    ------
    InvalidInput
        A group that the plan does not know, counts that do not add up, a day before sticking or to come.
    """
    groups = groups_beside(plan)
    if count.group not in groups:
        raise InvalidInput(
            "group beside the trial", tell("choose one of: {names}", names=", ".join(groups)), count.group
        )
    for name, n in (
        ("stuck", count.stuck),
        ("rooted", count.rooted),
        ("without roots", count.bare),
        ("dead", count.dead),
    ):
        if not 0 <= n <= MOST:
            raise InvalidInput(name, tell("must be 0 to {most}", most=MOST), n)
    over = groups[count.group]
    if count.stuck < 1 or (over is not None and count.stuck > over):
        rule = (
            tell("must be 1 or more")
            if over is None
            else tell("must be 1 to the {over} pieces that are over", over=over)
        )
        raise InvalidInput("stuck", rule, count.stuck)
    if count.not_known < 0:
        found = tell(
            "{rooted} rooted + {bare} without roots + {dead} dead = {stuck}",
            rooted=count.rooted,
            bare=count.bare,
            dead=count.dead,
            stuck=count.stuck - count.not_known,
        )
        raise InvalidInput("counts", tell("must come to no more than the {stuck} stuck", stuck=count.stuck), found)
    if count.not_known == count.stuck:
        raise InvalidInput("counts", tell("say of at least one whether it rooted, lives without roots or is dead"))
    if not stuck_from <= count.day <= today:
        raise InvalidInput(
            "day of the count",
            tell("must lie between {stuck_from:%-d %b %Y} and today", stuck_from=stuck_from),
            dated(count.day),
        )


def told(plan: Plan, counts: tuple[BesideCount, ...]) -> list[str]:
    """Each group with its newest count, in the order of the plan; one that left the plan is told after them."""
    newest = {count.group: count for count in sorted(counts, key=lambda one: one.day)}
    found = []
    for group, over in groups_beside(plan).items():
        bare = phrase("left_over_pieces", n=over) if over is not None else group
        found.append(newest.pop(group).words if group in newest else bare)
    return found + [count.words for count in newest.values()]
