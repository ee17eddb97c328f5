"""What is begun beside a locked trial: read once, counted by its own check."""

from __future__ import annotations

from dataclasses import replace
from datetime import date

import pytest

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.plan.amendments import AddSideGroup
from orderly_bench.core.plan.aspects import AspectKind
from orderly_bench.core.plan.edit import Row, with_description
from orderly_bench.core.question.undrawn_group import aspects_said, counted, read_group
from orderly_bench.core.vocabulary import Roots, Score, State
from tests.core.test_plan import two_arms

DAY = date(2026, 7, 1)
BARE, SEEN = Score(State.ALIVE, Roots.NONE), Score(State.ALIVE, Roots.SEEN)
UNSEEN, DEAD = Score(State.ALIVE, Roots.NOT_LOOKED), Score(State.DEAD, Roots.NOT_LOOKED)


def test_what_is_said_of_it_goes_by_the_trials_aspects() -> None:
    plan = two_arms()
    (one,) = aspects_said(plan)
    assert (one.name, one.alike) == ("hormone", ""), "the arms differ in it"
    found = read_group(
        {"name": " late  ones ", "pieces": "7", one.field: "turf", "origin": "storm", "source": "by the gate"}, plan
    )
    assert (found.name, found.pieces, found.note(plan)) == ("late ones", 7, "hormone: turf")
    assert found.source == f"beside {plan.code}, not drawn with it, by the gate, storm"
    (line,) = found.table(plan).lines
    assert (line.name, line.asked, line.values) == ("hormone", False, ("turf",))


def test_what_all_arms_say_alike_is_offered_and_what_it_stands_in_is_not_said() -> None:
    rows = [
        Row(AspectKind.LIGHT, "light", {"A": "lamp", "B": "lamp"}),
        Row(AspectKind.CONTAINER, "container", {"A": "pot", "B": "pot"}),
    ]
    plan = two_arms()
    plan = replace(plan, treatments=with_description(plan.treatments, rows))
    assert [(one.name, one.alike) for one in aspects_said(plan)] == [("hormone", ""), ("light", "lamp")]


@pytest.mark.parametrize(
    ("typed", "about"),
    [
        ({"name": ""}, "name of the group"), ({"name": "x" * 61}, "name of the group"), ({"pieces": "0"}, "pieces"),
        ({"pieces": "401"}, "pieces"), ({"pieces": "some"}, "pieces"), ({"origin": "the moon"}, "origin"), ({"source": "x" * 121}, "from which plant"),
    ],
)  # fmt: skip
def test_what_cannot_be_is_refused(typed: dict[str, str], about: str) -> None:
    with pytest.raises(InvalidInput, match=about):
        read_group({"name": "late", "pieces": "3"} | typed, two_arms())


def test_it_comes_in_by_amendment_under_a_name_of_its_own() -> None:
    plan = AddSideGroup("late", "medium: turf").apply(two_arms())
    assert [(one.name, one.note) for one in plan.treatments.side_groups] == [("late", "medium: turf")]
    for taken in ("Late", plan.treatments.arms[0].id):
        with pytest.raises(InvalidInput, match="name of its own"):
            AddSideGroup(taken, "").apply(plan)


@pytest.mark.parametrize(
    ("sites", "found"),
    [
        ([SEEN], (1, 0, 0)), ([BARE], (0, 1, 0)), ([DEAD], (0, 0, 1)), ([UNSEEN], (0, 0, 0)), ([], (0, 0, 0)),
        ([BARE, SEEN], (1, 0, 0)), ([BARE, UNSEEN], (0, 0, 0)), ([replace(BARE, state=State.MISSING)], (0, 0, 0)),
        ([replace(DEAD, state=State.TAKEN_OUT_DEAD)], (0, 0, 1)),
    ],
)  # fmt: skip
def test_a_piece_counts_for_what_was_seen_of_it(sites: list[Score], found: tuple[int, int, int]) -> None:
    count = counted("late", DAY, 2, [sites])
    assert (count.rooted, count.bare, count.dead) == found and count.not_known == 2 - sum(found)
