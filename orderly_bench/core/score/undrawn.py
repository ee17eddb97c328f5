"""What stands beside the trial and was not drawn: left-over pieces, a tub beside the bench. Counted whole, reported apart, never tested."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.say import clause
from orderly_bench.core.messages.translation import dated
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.plan.pieces import left_over
from orderly_bench.core.plan.value import Plan

MOST = 2_000
LEFT_OVER = "left-over pieces"


@dataclass(frozen=True)
class UndrawnCount:
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
        return clause("beside_counted", group=self.group, day=dated(self.day), parts=", ".join(self._parts()))

    def _parts(self) -> list[str]:
        others = (("beside_bare", self.bare), ("beside_dead", self.dead), ("beside_not_known", self.not_known))
        return [
            clause("beside_rooted", rooted=self.rooted, stuck=self.stuck),
            *(clause(key, n=n) for key, n in others if n),
        ]


def undrawn_groups(plan: Plan) -> dict[str, int | None]:
    """Names of the groups beside the trial, each with how many pieces it has where the plan says so."""
    named: dict[str, int | None] = {group.name: None for group in plan.treatments.side_groups}
    over = left_over(plan) if plan.design.leftovers else 0
    return named | ({LEFT_OVER: over} if over else {})


def check_undrawn(plan: Plan, count: UndrawnCount, stuck_from: date, today: date) -> None:
    """A count that can be.

    Raises
    ------
    InvalidInput
        A group that the plan does not know, counts that do not add up, a day before sticking or to come.
    """
    groups = undrawn_groups(plan)
    if count.group not in groups:
        raise InvalidInput("group beside the trial", _("choose one of: {names}", names=", ".join(groups)), count.group)
    for name, n in (
        ("stuck", count.stuck),
        ("rooted", count.rooted),
        ("without roots", count.bare),
        ("dead", count.dead),
    ):
        if not 0 <= n <= MOST:
            raise InvalidInput(name, _("must be 0 to {most}", most=MOST), n)
    over = groups[count.group]
    if count.stuck < 1 or (over is not None and count.stuck > over):
        rule = _("must be 1 or more") if over is None else _("must be 1 to the {over} pieces that are over", over=over)
        raise InvalidInput("stuck", rule, count.stuck)
    if count.not_known < 0:
        found = _(
            "{rooted} rooted + {bare} without roots + {dead} dead = {stuck}",
            rooted=count.rooted,
            bare=count.bare,
            dead=count.dead,
            stuck=count.stuck - count.not_known,
        )
        raise InvalidInput("counts", _("must come to no more than the {stuck} stuck", stuck=count.stuck), found)
    if count.not_known == count.stuck:
        raise InvalidInput("counts", _("say of at least one whether it rooted, lives without roots or is dead"))
    if not stuck_from <= count.day <= today:
        raise InvalidInput(
            "day of the count",
            _("must lie between {stuck_from:%-d %b %Y} and today", stuck_from=stuck_from),
            dated(count.day),
        )


def group_words(plan: Plan, counts: tuple[UndrawnCount, ...]) -> list[str]:
    """Each group with its newest count, in the order of the plan; one that left the plan is told after them."""
    newest = {count.group: count for count in sorted(counts, key=lambda one: one.day)}
    found = []
    for group, over in undrawn_groups(plan).items():
        bare = clause("left_over_pieces", n=over) if over is not None else group
        found.append(newest.pop(group).words if group in newest else bare)
    return found + [count.words for count in newest.values()]
