"""Endpoints beside the primary one."""

from __future__ import annotations

from dataclasses import replace

import pytest

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.plan.difference import difference
from orderly_bench.core.plan.question import Exploratory
from orderly_bench.core.plan.text import from_text, to_text
from orderly_bench.core.plan.value import Plan
from orderly_bench.core.question.others import check_others, margin_of_other, other_words
from tests.core.test_plan import two_by_two


def with_others(*others: Exploratory) -> Plan:
    plan = two_by_two()
    asked = replace(plan.question, endpoint_day=56, others=others)
    return replace(plan, question=asked, schedule=replace(plan.schedule, check_days=(14, 28)))


def test_each_has_its_own_day_and_margin_and_stands_in_text_and_difference() -> None:
    plan = with_others(Exploratory("root_count", 28, 1.25), Exploratory("quality", None, 15.0), Exploratory("alive"))
    check_others(plan)
    assert from_text(to_text(plan)) == plan
    assert [margin_of_other(one) for one in plan.question.others] == [1.25, 0.15, None]
    assert [other_words(one) for one in plan.question.others] == [
        "Root number on day 28 by a factor of more than 1.25",
        "Quality of the roots so that the better wins by more than 15 of every 100 pairs over one half",
        "Alive",
    ]
    less = replace(plan, question=replace(plan.question, others=plan.question.others[1:]))
    assert difference(plan, less) == ["exploratory endpoint root count taken out"]
    later = replace(plan.question.others[0], day=56)
    moved = replace(plan, question=replace(plan.question, others=(later, *plan.question.others[1:])))
    assert difference(plan, moved) == ["exploratory endpoint root count, day 28, now 56"]


@pytest.mark.parametrize(
    ("others", "says"),
    [
        ([Exploratory("height")], "choose one of"),
        ([Exploratory("alive"), Exploratory("alive")], "choose one of"),
        ([Exploratory("rooted")], "is what is judged already"),
        ([Exploratory("alive", 20)], "a day that is looked at: 14, 28, 56"),
        ([Exploratory("root_count", None, 0.8)], "ratio of means here: above 1"),
        ([Exploratory("fit_to_pot_on", None, 150.0)], "above 0 and below 1"),
        ([Exploratory("longest_root_mm", None, -2.0)], "above 0, in mm"),
    ],
)
def test_what_can_not_be_is_refused(others: list[Exploratory], says: str) -> None:
    with pytest.raises(InvalidInput, match=says):
        check_others(with_others(*others))
