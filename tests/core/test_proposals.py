"""What the answers on Design propose can convince, and says what is there."""

from __future__ import annotations

from dataclasses import replace
from math import comb

import pytest

from orderly_bench.core.design.convincing import why_not
from orderly_bench.core.design.propose import propose
from orderly_bench.core.judgement.analysis import analyse
from orderly_bench.core.judgement.settings import Settings
from orderly_bench.core.layouts.arrange import arrange
from orderly_bench.core.observations.table import Row
from orderly_bench.core.plan.aspects import AspectKind
from orderly_bench.core.plan.question import Headline, TrialKind
from orderly_bench.core.rehearse.other_ways import convincing_ways
from orderly_bench.core.vocabulary import LayoutKind
from tests.core.test_design_ways import BLOCKS, of_levels
from tests.core.test_plan import two_by_two


def test_as_many_whole_plots_and_trays_are_proposed_as_can_convince() -> None:
    """Two factors are compared: four trays of each level reach 0.029, and the first of two needs 0.025."""
    split = replace(two_by_two(), design=replace(two_by_two().design, trays_get="medium"))
    found = propose(split)
    assert found.blocks == 10 and 2 / comb(10, 5) < 0.025 < 2 / comb(8, 4)
    three = of_levels("mat", "none", "cable", kind=AspectKind.BOTTOM_HEAT, cuttings_per_arm=20)
    three = replace(three, design=replace(three.design, trays_get=three.treatments.asked[0].id))
    assert "5 trays of 4" in propose(three).reason and 2 / comb(10, 5) < 0.05 / 3 < 2 / comb(8, 4)
    along = replace(three, design=replace(three.design, gradient_ways=1))
    assert "7 trays of 3" in propose(along).reason and 2 / 2**7 < 0.05 / 3 < 2 / 2**6


@pytest.mark.parametrize(
    ("answers", "layout", "blocks"),
    [(dict(trays_get="medium"), LayoutKind.SPLIT_PLOT, 6), (dict(gradient_ways=1), BLOCKS, 3), (dict(gradient_ways=1, alike_at_most=3), LayoutKind.INCOMPLETE_BLOCKS, 12)],
)  # fmt: skip
def test_why_it_is_so_speaks_of_the_blocks_that_are_there(answers: dict, layout: LayoutKind, blocks: int) -> None:
    plan = two_by_two()
    asked = replace(plan, design=replace(plan.design, **answers))
    assert propose(asked).blocks != blocks
    per_arm = propose(asked).cuttings_per_arm // 12 * 12 or 12
    own = replace(
        asked, design=replace(asked.design, layout=layout, blocks=blocks, cuttings_per_arm=per_arm, block_size=propose(asked).block_size, whole_aspect="medium")
    )  # fmt: skip
    assert propose(own).blocks == blocks and str(blocks) in propose(own).reason


STRENGTHS = of_levels("none", "1000", "2000", "4000", "8000", cuttings_per_arm=30, cuttings_per_unit=6)


def test_blocks_are_proposed_in_which_a_pair_can_come_out_clear() -> None:
    """Five arms of five pots in five blocks: 2 / 2^5, ten times, is 0.62 whatever is seen; eight in four blocks reach 0.015."""
    along = replace(STRENGTHS, design=replace(STRENGTHS.design, gradient_ways=1))
    found = propose(along)
    assert (found.cuttings_per_arm, found.blocks) == (48, 4) and 10 * 2 / 6**4 < 0.05 < 10 * 2 / 2**5
    assert "8 of each stand so, for with fewer no comparison could come out clear" in found.reason
    laid = replace(along.design, layout=BLOCKS, blocks=found.blocks, cuttings_per_arm=found.cuttings_per_arm)
    assert why_not(replace(along, design=laid)) == []
    single = replace(along, design=replace(along.design, cuttings_per_unit=1))
    assert (propose(single).cuttings_per_arm, propose(single).blocks) == (30, 3) and "fewer" not in propose(
        single
    ).reason
    against = replace(along, question=replace(along.question, headline=Headline.CONTROL))
    assert propose(against).cuttings_per_arm == 36 and 4 * 2 / 6**3 < 0.05
    look = replace(along, question=replace(along.question, kind=TrialKind.LOOK))
    assert (propose(look).cuttings_per_arm, propose(look).blocks) == (30, 5)


def test_arms_with_units_of_their_own_are_laid_in_blocks_that_hold_them() -> None:
    """12 and 18 have no four blocks, but three; 12 and 7 none, and the usual ones are named, which says what is wrong."""
    three = of_levels("none", "1000", "2000", cuttings_per_arm=12, gradient_ways=1)
    first, *others = three.treatments.arms
    for own, blocks in ((18, 3), (7, 4)):
        arms = replace(three.treatments, arms=(replace(first, units=own), *others))
        assert propose(replace(three, treatments=arms)).blocks == blocks


def test_over_the_whole_bench_as_many_units_as_can_convince() -> None:
    """Ten pairs need 2 / C(2u, u) below 0.005: six units."""
    elsewhere = replace(STRENGTHS, design=replace(STRENGTHS.design, layout=BLOCKS, blocks=5))
    assert propose(elsewhere).cuttings_per_arm == 36 and 20 / comb(12, 6) < 0.05 < 20 / comb(10, 5)


def test_a_test_that_can_not_convince_is_offered_what_can() -> None:
    laid = replace(STRENGTHS, design=replace(STRENGTHS.design, layout=BLOCKS, blocks=5))
    (more,) = convincing_ways(laid)
    assert (more.key, more.words) == ("units", "48 per arm, 8 units of each in 4 blocks")
    assert why_not(laid) and not why_not(more.plan) and convincing_ways(more.plan) == []
    first, *others = laid.treatments.arms
    control = replace(laid.treatments, arms=(replace(first, control=True), *others))
    six = replace(laid, treatments=control, design=replace(laid.design, blocks=8, cuttings_per_arm=48))
    against, more = convincing_ways(six)
    assert against.plan.question.headline is Headline.CONTROL and not why_not(against.plan)
    assert against.words == f"each arm against the control, {first.id}, alone" and more.plan.design.blocks == 4
    sixes = replace(six, design=replace(six.design, blocks=6, cuttings_per_arm=36))
    joint, _more = convincing_ways(sixes)
    assert joint.key == "joint" and joint.plan.question.max_t and 2 / 2**6 < 0.05 < 4 * 2 / 2**6


def test_a_p_of_exactly_alpha_is_not_below_it() -> None:
    """Six of each in two blocks: 2 / C(6, 3)^2 is 0.005, ten times is 0.05, and the arithmetic said 0.0499999999999999."""
    rows = [
        Row((name,), float(i == 4), block=f"b{block}")
        for block in range(2)
        for i, name in enumerate(("a", "b", "c", "d", "e"))
        for _ in range(3)
    ]
    found = analyse(arrange(("strength",), rows), Settings(margin=0.15))
    told = [c.p_adjusted for c in found.comparisons if c.p is not None and c.p < 0.01]
    assert told == [0.05] * 4 and not any(c.verdict.clear for c in found.comparisons)
