"""What is offered to mend a mixed-up question could stand on a bench, the nearest first."""

from __future__ import annotations

import pytest

from orderly_bench.core.plan.aspects import AspectKind as Kind
from orderly_bench.core.plan.plausible import is_water, plausible
from orderly_bench.core.plan.separable import Described, separate
from orderly_bench.core.plan.table import Line, Table


@pytest.mark.parametrize(
    ("says", "could"),
    [
        ({Kind.MEDIUM: "compost", Kind.HORMONE: "IBA 20 ppm in the water"}, False),
        ({Kind.MEDIUM: "tap water", Kind.HORMONE: "IBA 20 ppm in the water"}, True),
        ({Kind.MEDIUM: "compost", Kind.HORMONE: "IBA 3000 ppm talc, dipped"}, True),
        ({Kind.MEDIUM: "rain water", Kind.CONTAINER: "60 mL cells"}, False),
        ({Kind.MEDIUM: "rain water", Kind.CONTAINER: "a clear jar"}, True),
        ({Kind.HORMONE: "IBA in the water"}, True),
        ({Kind.MEDIUM: "rain water"}, True),
    ],
)
def test_what_could_stand(says: dict[Kind, str], could: bool) -> None:
    assert plausible(says) is could


def test_crystals_are_no_water() -> None:
    assert is_water("Tap water") and not is_water("water crystals and sand")


def test_water_with_hormone_against_compost_without_is_mended_by_a_tank_without() -> None:
    """Both are asked and mixed up: of the two missing arms only the tank without hormone can be."""
    lines = (
        Line(Kind.MEDIUM, "medium", True, ("water", "compost")),
        Line(Kind.HORMONE, "hormone", True, ("IBA in the water", "none")),
    )
    found = Table(2, lines).separation()
    assert found is not None and not found.separable
    offered = [dict(arm) for mend in found.mends for arm in mend.add_arms]
    assert offered[0] == {"0": "water", "1": "none"}
    assert {"0": "compost", "1": "IBA in the water"} not in offered


def test_of_arms_as_many_the_one_nearest_to_a_standing_arm_comes_first() -> None:
    arms = [
        Described("1", {"medium": "bark", "hormone": "IBA", "pot": "clear", "cover": "mist"}),
        Described("2", {"medium": "grit", "hormone": "none", "pot": "dark", "cover": "lid"}),
    ]
    mends = [mend for mend in separate(arms, ["medium", "hormone", "pot", "cover"]).mends if mend.add_arms]
    least = min(mend.added for mend in mends)
    far = [
        sum(min(sum(arm.says(a) != made.get(a, "") for a in arm.values) for arm in arms) for made in mend.add_arms)
        for mend in mends
        if mend.added == least
    ]
    assert far == sorted(far)
    assert far[0] == least, "each differs from a standing arm in a single aspect"
