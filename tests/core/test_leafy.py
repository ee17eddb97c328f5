"""Leafless beside leafy pieces are flagged from the plan on, and at every job that wets them."""

from __future__ import annotations

from dataclasses import replace

import pytest

from orderly_bench.core.plan.aspects import AspectKind
from orderly_bench.core.question.leafy import leafy_doubt, on_watering, together
from tests.core.test_care_offered import plan_of

LEAFY = plan_of(AspectKind.CUTTING_TYPE, "tip with two leaves", "no leaves")


@pytest.mark.parametrize(
    ("levels", "found"),
    [
        (("tip with two leaves", "no leaves"), (["A"], ["B"])), (("dormant hardwood", "leafy tip"), (["B"], ["A"])),
        (("leaves taken off", "leaf halved", "heel"), (["B"], ["A"])), (("two leaves", "one leaf"), ([], [])), (("tip", "heel"), ([], [])),
        (("leafless", "dormant"), ([], [])), (("cleaved", "no leaves"), ([], [])),
    ],
)  # fmt: skip
def test_an_arm_is_with_leaves_without_or_neither(levels: tuple[str, ...], found: tuple[list[str], list[str]]) -> None:
    assert together(plan_of(AspectKind.CUTTING_TYPE, *levels)) == found


def test_in_trays_of_their_own_they_do_not_meet() -> None:
    (aspect,) = LEAFY.treatments.aspects
    assert together(replace(LEAFY, design=replace(LEAFY.design, trays_get=aspect.id))) == ([], [])


def test_it_is_a_doubt_with_what_to_do() -> None:
    (doubt,) = leafy_doubt(LEAFY)
    assert doubt.code == "leafless_beside_leafy" and "A" in doubt.text and "B" in doubt.text and doubt.remedy
    assert leafy_doubt(plan_of(AspectKind.MEDIUM, "two leaves of mould", "no leaves")) == [], "that is the medium's"


@pytest.mark.parametrize(
    ("title", "told"), [("Water", True), ("Mist (Cool end)", True), ("Feed", False), ("Cover off", False)]
)
def test_at_a_job_that_wets_them_it_is_told_without_an_arm(title: str, told: bool) -> None:
    words = on_watering(LEAFY, title)
    assert bool(words) is told and " A" not in words and "arm" not in words
    assert on_watering(plan_of(AspectKind.CUTTING_TYPE, "tip", "heel"), title) == ""
