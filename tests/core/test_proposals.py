"""What the answers on Design propose can convince, and says what is there."""

from __future__ import annotations

from dataclasses import replace
from math import comb

import pytest

from orderly_bench.core.design.propose import propose
from orderly_bench.core.plan.aspects import AspectKind
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
