"""What stands beside the trial, counted and told apart."""

from __future__ import annotations

from dataclasses import replace
from datetime import date

import pytest

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.plan import edit
from orderly_bench.core.plan.piece_lines import read_pieces
from orderly_bench.core.plan.value import Plan
from orderly_bench.core.score.undrawn import LEFT_OVER, UndrawnCount, check_undrawn, group_words, undrawn_groups
from tests.core.test_plan import two_by_two

DAY = date(2026, 5, 4)


def with_both() -> Plan:
    plan = two_by_two()
    design = replace(plan.design, pieces=read_pieces(f"T1, A, {plan.cuttings + 6}"), leftovers=True)
    groups = edit.with_side_groups(plan.treatments, [("tub", "beside the bench")])
    return replace(plan, design=design, treatments=groups)


def test_groups_are_those_of_the_plan_and_what_is_over() -> None:
    plan = with_both()
    assert undrawn_groups(plan) == {"tub": None, LEFT_OVER: 6}
    assert undrawn_groups(replace(plan, design=replace(plan.design, leftovers=False))) == {"tub": None}


def test_what_is_not_known_stays_so_and_is_told() -> None:
    count = UndrawnCount(LEFT_OVER, DAY, 6, 3, 1, 1)
    assert count.not_known == 1
    assert count.words == "left-over pieces on 4 May 2026: 3 of 6 rooted, 1 without roots, 1 dead, 1 not known"
    assert replace(count, bare=0, dead=0, rooted=6).words == "left-over pieces on 4 May 2026: 6 of 6 rooted"


def test_each_group_is_told_with_its_newest_count() -> None:
    plan, early, late = (
        with_both(),
        UndrawnCount(LEFT_OVER, DAY, 6, 1, 5, 0),
        UndrawnCount(LEFT_OVER, date(2026, 6, 1), 6, 4, 2, 0),
    )
    assert group_words(plan, ()) == ["tub", "6 left-over pieces"]
    assert group_words(plan, (late, early)) == ["tub", late.words]
    gone = UndrawnCount("old tub", DAY, 2, 1, 1, 0)
    assert group_words(plan, (gone, late)) == ["tub", late.words, gone.words]


@pytest.mark.parametrize(
    ("changes", "says"),
    [
        ({"group": "bucket"}, "choose one of: tub, left-over pieces"),
        ({"stuck": 7}, "1 to the 6 pieces that are over"),
        ({"stuck": 0, "rooted": 0, "bare": 0, "dead": 0}, "1 to the 6"),
        ({"group": "tub", "stuck": 0, "rooted": 0, "bare": 0, "dead": 0}, "1 or more"),
        ({"rooted": 5}, "no more than the 6 stuck"),
        ({"dead": -1}, "0 to 2000"),
        ({"rooted": 0, "bare": 0, "dead": 0}, "say of at least one"),
        ({"day": date(2026, 3, 1)}, "between 1 Apr 2026 and today"),
        ({"day": date(2026, 7, 2)}, "between 1 Apr 2026 and today"),
    ],
)
def test_a_count_that_cannot_be_is_refused(changes: dict[str, object], says: str) -> None:
    good = UndrawnCount(LEFT_OVER, DAY, 6, 3, 1, 1)
    check_undrawn(with_both(), good, date(2026, 4, 1), date(2026, 7, 1))
    with pytest.raises(InvalidInput, match=says):
        check_undrawn(with_both(), replace(good, **changes), date(2026, 4, 1), date(2026, 7, 1))
