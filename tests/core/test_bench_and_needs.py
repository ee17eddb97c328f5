"""Where units stand, what is drawn in each wave, containers to fill, one plant of several sites."""

from __future__ import annotations

from collections import Counter
from dataclasses import replace

import numpy as np
import pytest

from orderly_bench.core.design.bench import stand
from orderly_bench.core.design.from_plan import draw_plan, request_for
from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.lab import LabSettings, check_settings
from orderly_bench.core.layouts.kinds import draw_layout, reach_of
from orderly_bench.core.plan import edit
from orderly_bench.core.plan.aspects import AspectKind
from orderly_bench.core.plan.question import TrialKind
from orderly_bench.core.plan.treatments import Container, Shape, Treatments
from orderly_bench.core.plan.value import Plan, PlannedWave
from orderly_bench.core.prepare.needs import media_of
from orderly_bench.core.randomise import shuffled
from orderly_bench.core.score.sites import of_plant
from orderly_bench.core.vocabulary import Fit, KnownBy, LayoutKind, Roots, Score, State

CELLS, POT, JAR = Container(rows=2, columns=4), Container(Shape.POT, 1, 3, 500.0), Container(Shape.JAR, 1, 1, 1000.0)


def plan_of(arms: int, **design: object) -> Plan:
    treatments = edit.with_factors(Treatments(), [(AspectKind.MEDIUM, "medium", [f"m{i}" for i in range(arms)])])
    treatments = edit.with_arms(treatments, [(f"medium-{i + 1}",) for i in range(arms)], None)
    plan = Plan("x", treatments=treatments)
    return replace(plan, design=replace(plan.design, **{"cuttings_per_arm": 8, "container": CELLS, **design}))


def test_each_kind_of_container_stands_by_itself() -> None:
    layout = shuffled.completely_randomised([6, 4, 2], np.random.default_rng(1))
    kinds = [CELLS, POT, JAR]
    positions, stands = stand(layout, [kinds[a] for a in layout.arm], first_tray=3)
    assert [(s.number, s.container.shape) for s in stands] == [
        (3 + i, shape) for i, shape in enumerate(s.container.shape for s in stands)
    ]
    assert Counter(s.container.shape for s in stands) == {Shape.CELLS: 1, Shape.POT: 2, Shape.JAR: 2}
    shape_of = {s.number: s.container.shape for s in stands}
    for unit, position in enumerate(positions):
        assert shape_of[position.tray] is kinds[layout.arm[unit]].shape
    assert len({(p.tray, p.row, p.column) for p in positions}) == 12


def test_a_square_keeps_its_rows_and_columns_and_one_kind() -> None:
    plan = plan_of(4, layout=LayoutKind.LATIN_SQUARE, cuttings_per_arm=4, container=Container(rows=4, columns=4))
    drawn = draw_plan(plan, np.random.default_rng(2))[0]
    assert all(
        u.groups == {"row": f"row {u.position.row}", "column": f"column {u.position.column}"} for u in drawn.units
    )
    with pytest.raises(InvalidInput, match="alike in a Latin square"):
        draw_plan(edit.with_containers(plan, plan.design.container, {"B": POT}), np.random.default_rng(2))


def test_whole_plots_that_are_vessels_have_a_spot_for_each_unit() -> None:
    factors = [(AspectKind.MEDIUM, "medium", ["a", "b"]), (AspectKind.TAXON, "cultivar", ["x", "y", "z"])]
    treatments = edit.with_factors(Treatments(), factors)
    every = [(f"medium-{m}", f"cultivar-{c}") for m in (1, 2) for c in (1, 2, 3)]
    plan = replace(Plan("x"), treatments=edit.with_arms(treatments, every, None))
    design = replace(
        plan.design, layout=LayoutKind.SPLIT_PLOT, blocks=4, whole_aspect="medium", one_vessel=True, cuttings_per_arm=2, container=POT
    )  # fmt: skip
    plan = replace(plan, design=design)
    drawn = draw_plan(plan, np.random.default_rng(3))[0]
    held = Counter((u.position.tray, u.position.row, u.position.column) for u in drawn.units)
    assert len(held) == 4 and set(held.values()) == {3}
    assert len({(u.position.tray, u.position.row, u.position.column, u.position.spot) for u in drawn.units}) == 12
    assert [(m.need.cells, m.need.working[:10]) for m in media_of(plan)] == [(2, "2 x 500 mL")] * 2
    with pytest.raises(InvalidInput, match="one kind of pot"):
        draw_plan(replace(plan, design=replace(design, container=CELLS)), np.random.default_rng(3))


@pytest.mark.parametrize(("blocks", "layout"), [(1, LayoutKind.COMPLETELY_RANDOMISED), (3, LayoutKind.COMPLETE_BLOCKS)])
def test_arms_that_share_a_vessel_are_one_unit_and_can_only_be_a_look(blocks: int, layout: LayoutKind) -> None:
    plan = plan_of(2, layout=layout, blocks=blocks, cuttings_per_arm=6, one_vessel=True, container=POT)
    with pytest.raises(InvalidInput, match="hold one medium"):
        draw_plan(plan, np.random.default_rng(1))
    treatments = edit.with_factors(Treatments(), [(AspectKind.TAXON, "cultivar", ["x", "y"])])
    plan = replace(plan, treatments=edit.with_arms(treatments, [("cultivar-1",), ("cultivar-2",)], None))
    with pytest.raises(InvalidInput, match="one unit for them all: make the trial a look"):
        draw_plan(plan, np.random.default_rng(1))
    look = replace(plan, question=replace(plan.question, kind=TrialKind.LOOK))
    held = Counter(
        (u.position.tray, u.position.row, u.position.column) for u in draw_plan(look, np.random.default_rng(1))[0].units
    )
    assert list(held.values()) == [12 // blocks] * blocks
    assert [m.need.cells for m in media_of(look)] == [blocks], "each vessel is filled once"


def test_arms_of_unequal_numbers_are_drawn_and_reach_is_their_own() -> None:
    plan = plan_of(2, layout=LayoutKind.COMPLETE_BLOCKS, blocks=2)
    arms = (replace(plan.treatments.arms[0], units=6), replace(plan.treatments.arms[1], units=4))
    plan = replace(plan, treatments=replace(plan.treatments, arms=arms))
    request = request_for(plan, plan.schedule.waves[0])
    assert request.units == (6, 4)
    drawn = draw_plan(plan, np.random.default_rng(4))[0]
    assert Counter((u.arm, u.groups["block"]) for u in drawn.units) == {
        ("A", "block 1"): 3, ("A", "block 2"): 3, ("B", "block 1"): 2, ("B", "block 2"): 2
    }  # fmt: skip
    assert reach_of(request).pair == pytest.approx(1 / 10**2), "the other end is not as far out when numbers differ"
    for kind in (LayoutKind.PAIRS, LayoutKind.INCOMPLETE_BLOCKS):
        with pytest.raises(InvalidInput, match="the same in every arm"):
            request_ = replace(request, kind=kind)
            draw_layout(request_, np.random.default_rng(0))


def test_waves_are_drawn_each_within_itself() -> None:
    plan = plan_of(2)
    plan = replace(plan, schedule=replace(plan.schedule, waves=(PlannedWave(1), PlannedWave(2))))
    first, second = draw_plan(plan, np.random.default_rng(5))
    assert first.result != second.result and len(first.units) == len(second.units) == 16
    assert {s.number for s in first.stands} & {s.number for s in second.stands} == set()
    alone = draw_plan(replace(plan, schedule=replace(plan.schedule, waves=(PlannedWave(1),))), np.random.default_rng(5))
    assert alone[0].result == first.result, "a later wave leaves the draw of an earlier one as it is"


@pytest.mark.parametrize(
    ("changes", "says"),
    [
        ({"cuttings_per_unit": 61, "cuttings_per_arm": 61}, "between 1 and 60"),
        ({"container": {"volume_ml": 0.5}}, "volume of one"),
        ({"container": {"rows": 61}}, "rows"),
        ({"layout": LayoutKind.COMPLETE_BLOCKS, "blocks": 1}, "2 or more"),
        ({"layout": LayoutKind.SPLIT_PLOT, "blocks": 4, "whole_aspect": "weather"}, "choose one of: medium"),
    ],
)
def test_what_can_not_be_drawn_is_refused(changes: dict, says: str) -> None:
    with pytest.raises(InvalidInput, match=says):
        if "container" in changes:
            changes = {"container": replace(CELLS, **changes["container"])}
        draw_plan(plan_of(2, **changes), np.random.default_rng(0))


def score(roots: Roots, number: int | None = None, **more: object) -> Score:
    return Score(State.ALIVE, roots, number, **more)


@pytest.mark.parametrize(
    ("sites", "roots", "number"),
    [
        ([score(Roots.COUNTED, 3), score(Roots.COUNTED, 4)], Roots.COUNTED, 7),
        ([score(Roots.NONE), score(Roots.COUNTED, 4)], Roots.COUNTED, 4),
        ([score(Roots.NOT_LOOKED), score(Roots.COUNTED, 4)], Roots.SEEN, None),
        ([score(Roots.SEEN), score(Roots.COUNTED, 4)], Roots.SEEN, None),
        ([score(Roots.COUNTED, root_class="5-9"), score(Roots.COUNTED, 4)], Roots.SEEN, None),
        ([score(Roots.NONE), score(Roots.NOT_LOOKED)], Roots.NOT_LOOKED, None),
        ([score(Roots.NONE), score(Roots.NONE)], Roots.NONE, None),
    ],
)
def test_a_plant_of_several_sites_counts_once(sites: list[Score], roots: Roots, number: int | None) -> None:
    found = of_plant(sites)
    assert (found.roots, found.root_number) == (roots, number)


def test_the_best_of_the_sites_is_the_plants() -> None:
    dead = Score(State.DEAD, Roots.NONE, known_by=KnownBy.HOLE, fit=Fit.NO)
    lives = Score(State.ALIVE, Roots.COUNTED, 2, 14.0, True, fit=Fit.YES, known_by=KnownBy.WALL, quality=3, note="tip")
    found = of_plant([dead, lives])
    assert (found.state, found.longest_root_mm, found.fit, found.known_by, found.quality) == (
        State.ALIVE,
        14.0,
        Fit.YES,
        KnownBy.WALL,
        3,
    )
    assert of_plant([dead]) is dead
    with pytest.raises(ValueError, match="without a score"):
        of_plant([])


@pytest.mark.parametrize(
    ("changes", "says"),
    [
        ({"name": " "}, "name of the lab"), ({"time_zone": "Mars/Base"}, "time zone"), ({"alpha": 0.5}, "alpha"),
        ({"usual_margin": 0}, "margin"), ({"fit_least_roots": 0}, "fit to pot on"),
    ],
)  # fmt: skip
def test_settings_of_a_lab_that_can_not_be_are_named(changes: dict, says: str) -> None:
    usual = LabSettings("Tarn  Head", "Europe/London")
    assert check_settings(usual).name == "Tarn Head"
    with pytest.raises(InvalidInput, match=says):
        check_settings(replace(usual, **changes))
