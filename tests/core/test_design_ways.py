"""Before the draw: what the four answers propose, what fits, other ways, waves of a season, why a test can't convince, the curve."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from orderly_bench.core.design import fits
from orderly_bench.core.design.convincing import smallest_factor_p, why_not
from orderly_bench.core.design.from_plan import draw_plan
from orderly_bench.core.design.propose import holds, in_water, on_trays_by_nature, propose
from orderly_bench.core.design.season_waves import least_waves, smallest_p
from orderly_bench.core.design.standing import Footprint
from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.judgement.analysis import analyse
from orderly_bench.core.judgement.settings import Settings
from orderly_bench.core.layouts.arrange import arrange
from orderly_bench.core.methods import permutation
from orderly_bench.core.methods.two_arms import pair_power
from orderly_bench.core.observations.table import Row
from orderly_bench.core.plan import edit
from orderly_bench.core.plan.aspects import AspectKind
from orderly_bench.core.plan.question import Headline, TrialKind
from orderly_bench.core.plan.treatments import Container, Shape, Treatments
from orderly_bench.core.plan.value import BlocksAre, Design, Pieces, Plan, PlannedWave, Schedule
from orderly_bench.core.randomise.shuffled import ShuffledWithin
from orderly_bench.core.rehearse.curve import curve, detectable, effective, guess_of, needed, point, sized
from orderly_bench.core.rehearse.other_ways import other_ways, season_way
from orderly_bench.core.responses.kind import Response
from orderly_bench.core.stock.kept import BenchKept, StockPlant
from orderly_bench.core.vocabulary import LayoutKind
from tests.core.test_plan import two_by_two

CRD, BLOCKS = LayoutKind.COMPLETELY_RANDOMISED, LayoutKind.COMPLETE_BLOCKS


def of_levels(*levels: str, kind: AspectKind = AspectKind.MEDIUM, **design: object) -> Plan:
    treatments = edit.with_factors(Treatments(), [(kind, kind.value, list(levels))])
    arms = [(level.id,) for level in treatments.asked[0].levels]
    return replace(Plan("26-01"), treatments=edit.with_arms(treatments, arms, None), design=replace(Design(), **design))  # type: ignore[arg-type]


TWO = of_levels("sand", "bark", cuttings_per_arm=20)


class TestPropose:
    @pytest.mark.parametrize(
        ("levels", "layout"),
        [
            (("tip", "lower, of the same stem"), LayoutKind.PAIRS),
            (("tip of one shoot", "base"), LayoutKind.PAIRS),
            (("tip", "lower"), CRD),
            (("tip", "lower, of the same stem", "heel"), CRD),
        ],
    )
    def test_pieces_that_say_they_are_of_one_stem_are_paired(self, levels: tuple[str, ...], layout: LayoutKind) -> None:
        plan = of_levels(*levels, kind=AspectKind.CUTTING_TYPE, cuttings_per_arm=20)
        assert propose(plan).layout is layout

    @pytest.mark.parametrize(
        ("plan", "answers", "layout", "reason"),
        [
            (TWO, dict(), CRD, "shuffled over the whole"),
            (TWO, dict(gradient_ways=1), BLOCKS, "4 blocks are laid along it"),
            (TWO, dict(pieces_by="stem"), LayoutKind.PAIRS, "two pieces of one stem"),
            (
                of_levels("tip", "lower piece", kind=AspectKind.CUTTING_TYPE, cuttings_per_arm=20),
                dict(pieces_by="stem"),
                LayoutKind.PAIRS,
                "one piece of each kind",
            ),
            (two_by_two(), dict(pieces_by="stem"), BLOCKS, "each stem is a block"),
            (two_by_two(), dict(gradient_ways=2), LayoutKind.LATIN_SQUARE, "once in every row and every column"),
            (TWO, dict(gradient_ways=2), BLOCKS, "make no square"),
            (two_by_two(), dict(trays_get="medium"), LayoutKind.SPLIT_PLOT, "10 whole plots, 5 of each level"),
            (TWO, dict(trays_get="medium", cuttings_per_unit=5), CRD, "a tray is one unit however many it holds"),
            (
                two_by_two(),
                dict(gradient_ways=1, alike_at_most=3),
                LayoutKind.INCOMPLETE_BLOCKS,
                "an even stretch holds 3 of the 4 arms",
            ),
            (
                two_by_two(),
                dict(pieces_by="stem", alike_at_most=2),
                LayoutKind.INCOMPLETE_BLOCKS,
                "a stem gives 2 pieces for 4 arms",
            ),
            (two_by_two(), dict(gradient_ways=1, alike_at_most=4), BLOCKS, "blocks are laid along it"),
            (two_by_two(), dict(alike_at_most=2), CRD, "shuffled over the whole"),
        ],
    )
    def test_the_answers_ask_for_a_layout_that_can_be_drawn(
        self, plan: Plan, answers: dict, layout: LayoutKind, reason: str
    ) -> None:
        plan = replace(plan, design=replace(plan.design, **answers))
        found = propose(plan)
        assert found.layout is layout and reason in found.reason
        whole = plan.treatments.asked[0].id if layout is LayoutKind.SPLIT_PLOT else ""
        made = replace(
            plan.design, layout=layout, blocks=found.blocks, cuttings_per_arm=found.cuttings_per_arm, cuttings_per_unit=found.per_unit or plan.design.cuttings_per_unit,
            whole_aspect=whole, block_size=found.block_size,
        )  # fmt: skip
        assert holds(replace(plan, design=made))

    @pytest.mark.parametrize(
        ("per_arm", "cells", "ways", "trays", "each"),
        [(24, 32, 0, 4, 6), (100, 20, 0, 5, 20), (3, 32, 0, 4, 1), (24, 32, 1, 6, 4)],
    )
    def test_what_goes_on_whole_trays_makes_trays_the_units(
        self, per_arm: int, cells: int, ways: int, trays: int, each: int
    ) -> None:
        heat = of_levels(
            "mat",
            "none",
            kind=AspectKind.BOTTOM_HEAT,
            cuttings_per_arm=per_arm,
            container=Container(columns=cells // 4),
        )
        heat = replace(heat, design=replace(heat.design, trays_get=heat.treatments.asked[0].id, gradient_ways=ways))
        found = propose(heat)
        assert (found.shape, found.per_unit, found.cuttings_per_arm) == (Shape.WHOLE_TRAY, each, trays * each)
        assert found.layout is (BLOCKS if ways else CRD) and f"{trays} trays of {each}" in found.reason
        assert not found.holds_for(heat)
        made = replace(
            heat.design, layout=found.layout, blocks=found.blocks, cuttings_per_arm=found.cuttings_per_arm, cuttings_per_unit=each,
            container=replace(heat.design.container, shape=Shape.WHOLE_TRAY, rows=1, columns=1),
        )  # fmt: skip
        (drawn,) = draw_plan(replace(heat, design=made), np.random.default_rng(1))
        assert len(drawn.units) == 2 * trays and {unit.cuttings for unit in drawn.units} == {each}
        assert len(drawn.stands) == 2 * trays and found.holds_for(replace(heat, design=made))
        assert propose(replace(heat, design=made)) == found

    def test_what_mostly_goes_on_trays_is_minded_where_cells_count(self) -> None:
        heat = of_levels("mat", "none", kind=AspectKind.BOTTOM_HEAT, cuttings_per_arm=24)
        assert on_trays_by_nature(heat) == "bottom heat" and on_trays_by_nature(TWO) == ""
        tray = replace(heat.design, container=Container(Shape.WHOLE_TRAY, 1, 1), cuttings_per_unit=6)
        assert on_trays_by_nature(replace(heat, design=tray)) == ""
        split = replace(heat.design, layout=LayoutKind.SPLIT_PLOT, whole_aspect=heat.treatments.asked[0].id)
        assert on_trays_by_nature(replace(heat, design=split)) == ""

    def test_water_is_no_filling_for_cells(self) -> None:
        plan = of_levels("rain water", "watered sand")
        assert [in_water(plan, arm) for arm in plan.treatments.arms] == [True, False]
        jars = replace(plan.design, container=Container(Shape.JAR, 1, 1), cuttings_per_unit=3)
        assert not any(in_water(replace(plan, design=jars), arm) for arm in plan.treatments.arms)

    def test_what_can_not_be_answered_is_refused(self) -> None:
        for wrong in ({"gradient_ways": 3}, {"pieces_by": "bed"}, {"alike_at_most": 1}, {"alike_at_most": 99}):
            with pytest.raises(InvalidInput):
                Design(**wrong)  # type: ignore[arg-type]
        with pytest.raises(InvalidInput, match="that are asked"):
            propose(replace(TWO, design=replace(TWO.design, trays_get="cover")))


class TestFits:
    def test_pieces_ready_stand_before_what_the_plants_give(self) -> None:
        plants = [
            StockPlant("T1", "Olea europaea", most_to_take=12),
            StockPlant("T2", "Olea europaea"),
            StockPlant("T3", "Olea europaea", most_to_take=16),
        ]
        found = fits.pieces(TWO, plants)
        assert (found.needed, found.there, found.short, found.most_per_arm) == (40, 28, True, 14)
        ready = replace(TWO, design=replace(TWO.design, pieces=(Pieces(1, "T1", "A", 44),)))
        assert fits.pieces(ready, plants).there == 44 and not fits.pieces(ready, plants).short
        assert fits.pieces(TWO, plants[:1]).note == "1 plant, T1 12" and found.note.startswith("2 plants, T1 12")
        assert fits.pieces(TWO, []).there is None and not fits.pieces(TWO, []).short

    def test_room_is_area(self) -> None:
        bench = BenchKept("Bench 1", 100.0, 50.0)
        found = fits.places(TWO, [Footprint(60.0, 40.0)] * 3, bench)
        assert found.needed == pytest.approx(0.72) and found.there == pytest.approx(0.5) and found.short
        assert fits.places(TWO, [Footprint(60.0, 40.0)], None).there is None

    def test_hours_are_those_of_one_wave(self) -> None:
        plan = replace(TWO, design=replace(TWO.design, hours=0.5, pace_per_hour=40.0))
        assert fits.hours(plan).needed == 1.0 and fits.hours(plan).short
        media = fits.media(TWO, [("Pumice", 3.0), ("bark", 2.0)], {"pumice": 4.0}, {"pumice": 1.5})
        assert [(m.name, m.needed, m.there, m.short) for m in media] == [
            ("Medium: Pumice", 3.0, 2.5, True), ("Medium", 2.0, None, False),
        ]  # fmt: skip
        assert fits.media(TWO, [("bark", 2.0)], {"bark": 1.0}, {"bark": 9.0})[0].there == 0.0, "never less than nothing"
        waves = replace(plan, schedule=Schedule(waves=(PlannedWave(1), PlannedWave(2))))
        assert fits.hours(waves).needed == 1.0  # numbers are those of each wave


class TestOtherWays:
    def test_each_can_be_drawn_and_takes_no_more_than_there_is(self) -> None:
        plan = replace(TWO, design=replace(TWO.design, layout=BLOCKS, blocks=4))
        short = fits.pieces(plan, [StockPlant("T1", "Olea europaea", most_to_take=25)])
        ways = other_ways(plan, [short])
        assert [way.key for way in ways] == ["fewer", "pairs", "waves"]
        assert ways[0].plan.cuttings == 24 and ways[1].plan.cuttings == 24
        assert ways[2].plan.cuttings // len(ways[2].plan.schedule.waves) <= 25
        assert all(holds(way.plan) for way in ways)

    @pytest.mark.parametrize("there", [25, 31, 39])
    def test_a_way_that_is_taken_fits(self, there: int) -> None:
        plants = [StockPlant("T1", "Olea europaea", most_to_take=there)]
        plan = replace(TWO, design=replace(TWO.design, cuttings_per_arm=50))
        ways = other_ways(plan, [fits.pieces(plan, plants)])
        assert {"fewer", "waves"} <= {way.key for way in ways}
        assert not any(fits.pieces(way.plan, plants).short for way in ways)

    def test_what_does_not_come_again_is_not_mended_by_waves(self) -> None:
        (short,) = fits.media(TWO, [("pumice", 3.0)], {"pumice": 2.0}, {})
        assert short.short and "waves" not in {way.key for way in other_ways(TWO, [short])}

    def test_blocks_that_have_names_leave_them_behind_where_blocks_go(self) -> None:
        named = replace(TWO.design, layout=BLOCKS, blocks=2, blocks_are=BlocksAre.PEOPLE, block_names=("Ann", "Bo"))
        short = fits.pieces(TWO, [StockPlant("T1", "Olea europaea", most_to_take=25)])
        for way in other_ways(replace(TWO, design=named), [short]):
            draw_plan(way.plan, np.random.default_rng(1))

    def test_fewer_arms_keep_the_control(self) -> None:
        plan = two_by_two()  # control is B
        short = fits.pieces(plan, [StockPlant("T1", "Olea europaea", most_to_take=50)])
        arms = next(way for way in other_ways(plan, [short]) if way.key == "arms")
        assert [arm.id for arm in arms.plan.treatments.arms] == ["A", "B"] and "2 arms only (A, B)" in arms.words

    def test_nothing_is_offered_where_all_fits(self) -> None:
        assert other_ways(TWO, [fits.pieces(TWO, [])]) == []


class TestSeasonWaves:
    @pytest.mark.parametrize("waves", [(2, 2), (3, 3), (4, 4), (2, 3), (2, 2, 2)])
    def test_the_smallest_p_is_that_of_permuted_waves(self, waves: tuple[int, ...]) -> None:
        season = np.repeat(np.arange(len(waves)), waves)
        # As far apart as can be, each season at its own height; nothing less symmetric gives less.
        values = season.astype(float) ** 2
        found = permutation.test(
            values, ShuffledWithin(season, np.zeros(season.size, dtype=int)), np.random.default_rng(1), 9
        )
        assert found.exact and found.p is not None
        assert smallest_p(waves) <= found.p + 1e-12
        if len(waves) == 2:
            assert smallest_p(waves) == pytest.approx(found.p)

    def test_how_many_are_the_least(self) -> None:
        assert least_waves(2, 0.05) == 4 and smallest_p((3, 3)) == pytest.approx(0.1)
        with pytest.raises(InvalidInput, match="at least one wave"):
            smallest_p((2, 0))


class TestConvincing:
    def test_each_reason_is_raised_and_not(self) -> None:
        three = replace(TWO, design=replace(TWO.design, cuttings_per_arm=3))
        assert why_not(three) == ["no outcome could convince: even all against none gives p = 0.1, not below 0.05"]
        assert why_not(TWO) == []
        assert why_not(replace(three, question=replace(three.question, kind=TrialKind.LOOK))) == []
        rows = [edit.Row(AspectKind.LIGHT, "light", {"A": "sun", "B": "shade"})]
        mixed = replace(TWO, treatments=edit.with_description(TWO.treatments, rows))
        assert why_not(mixed) == ["medium can't be told from light: the arms differ in both"]

    @pytest.mark.parametrize(
        ("headline", "per_arm", "says"),
        [
            (Headline.PAIRS, 4, ["of the 6 pairs of arms that the verdict speaks of none", "0.17"]),
            (Headline.PAIRS, 6, []),
            (Headline.CONTROL, 4, ["of the 3 pairs of arms", "0.086"]),
            (Headline.FACTORS, 4, []),
        ],
    )
    def test_the_declared_headline_has_to_be_able_to_convince(
        self, headline: Headline, per_arm: int, says: list[str]
    ) -> None:
        plan = two_by_two()
        design = replace(plan.design, cuttings_per_arm=per_arm)
        found = why_not(replace(plan, design=design, question=replace(plan.question, headline=headline)))
        assert bool(found) is bool(says) and all(part in found[0] for part in says), found

    def test_one_factor_alone_has_no_others_to_be_taken_over(self) -> None:
        treatments = edit.with_factors(Treatments(), [(AspectKind.MEDIUM, "medium", ["sand", "bark"])])
        alone = replace(Plan("26-01"), treatments=treatments)
        for headline, says in ((Headline.FACTORS, Headline.PAIRS), (Headline.CONTROL, Headline.CONTROL)):
            assert replace(alone, question=replace(alone.question, headline=headline)).speaks_of is says
        assert two_by_two().speaks_of is Headline.FACTORS

    def test_each_factor_has_to_be_able_to_convince(self) -> None:
        factors = [
            (AspectKind.MEDIUM, "medium", ["sand", "bark", "pumice"]),
            (AspectKind.HORMONE, "hormone", ["IBA", "none"]),
        ]
        treatments = edit.with_factors(Treatments(), factors)
        every = [(m.id, h.id) for m in treatments.asked[0].levels for h in treatments.asked[1].levels]
        plan = replace(
            Plan("26-01"), treatments=edit.with_arms(treatments, every, None), design=Design(cuttings_per_arm=2)
        )
        assert why_not(plan) == [
            "medium could not come out clear, whatever is seen: its smallest p over the others is 0.17"
        ]
        assert why_not(replace(plan, design=Design(cuttings_per_arm=4))) == []

    def test_a_factor_s_smallest_p_is_what_its_test_gives(self) -> None:
        """All of one medium rooted and none of the other, 2 a side, held over hormone."""
        plan = two_by_two()
        plan = replace(plan, design=replace(plan.design, cuttings_per_arm=2))
        rows = [
            Row((m, h), float(m == "pumice")) for m in ("pumice", "bark") for h in ("IBA", "none") for _ in range(2)
        ]
        found = analyse(arrange(("medium", "hormone"), rows), Settings())
        term = next(t for t in found.terms if t.name == "medium")
        assert term.test is not None and term.test.exact
        assert smallest_factor_p(plan, plan.treatments.asked[0]) == pytest.approx(term.test.p)

    def test_a_season_of_one_wave_each_is_asked_about_beside_another_factor_too(self) -> None:
        treatments = edit.with_factors(
            Treatments(),
            [(AspectKind.SEASON, "season", ["spring", "autumn"]), (AspectKind.MEDIUM, "medium", ["sand", "bark"])],
        )
        every = [(s.id, m.id) for s in treatments.asked[0].levels for m in treatments.asked[1].levels]
        plan = replace(
            Plan("26-01"), treatments=edit.with_arms(treatments, every, None), design=Design(cuttings_per_arm=12)
        )
        waves = tuple(PlannedWave(n + 1, None, level.id) for n, level in enumerate(treatments.asked[0].levels))
        found = why_not(replace(plan, schedule=Schedule(waves=waves)))
        assert len(found) == 1 and "so few waves a season" in found[0]

    def test_several_waves_convince_together(self) -> None:
        """3 against 3 reach 0.1 in a wave and 2 / C(6, 3)^2 = 0.005 over two, which are blocks."""
        three = replace(TWO, design=replace(TWO.design, cuttings_per_arm=3))
        twice = replace(three, schedule=Schedule(waves=(PlannedWave(1), PlannedWave(2))))
        assert len(why_not(three)) == 1 and why_not(twice) == []
        one_each = replace(twice, design=replace(TWO.design, cuttings_per_arm=1))
        assert "0.5" in why_not(one_each)[0]

    @pytest.mark.parametrize(("each", "says"), [(0, "no waves belong"), (2, "smallest p is 0.33; 4 waves"), (4, "")])
    def test_a_season_needs_waves(self, each: int, says: str) -> None:
        plan = of_levels("spring", "autumn", kind=AspectKind.SEASON, cuttings_per_arm=12)
        seasons = [level.id for level in plan.treatments.asked[0].levels]
        waves = tuple(PlannedWave(n + 1, None, seasons[n % 2]) for n in range(2 * each)) or (PlannedWave(1),)
        found = why_not(replace(plan, schedule=Schedule(waves=waves)))
        assert [says in line for line in found] == ([True] if says else [])

    def test_waves_of_each_season_are_laid_with_one_touch(self) -> None:
        plan = of_levels("spring", "autumn", kind=AspectKind.SEASON, cuttings_per_arm=24)
        laid = season_way(plan, 4)
        assert laid is not None and "4 waves of each season" in laid.words and "6 of an arm" in laid.words
        seasons = [wave.season for wave in laid.plan.schedule.waves]
        assert len(seasons) == 8 and len(set(seasons)) == 2 and all(seasons.count(one) == 4 for one in seasons)
        assert seasons[0] != seasons[1], "by turns"
        assert laid.plan.design.cuttings_per_arm == 6 and why_not(laid.plan) == []
        assert season_way(laid.plan, 4) is None and season_way(TWO, 4) is None
        assert season_way(plan, 40) is None, "more than a trial holds"


class TestCurve:
    def test_two_arms_of_single_cuttings_are_counted_out(self) -> None:
        plan = replace(TWO, design=replace(TWO.design, assumed_rates=(0.4, 0.75)))
        guess = guess_of(plan)
        assert guess is not None and guess.values == (0.4, 0.75)
        for one in curve(plan, guess, 1):
            assert one.great.mc_error == 0 and one.great.share == pytest.approx(
                pair_power(0.4, one.per_arm, 0.75, one.per_arm, 0.05)
            )
        assert [one.per_arm for one in curve(plan, guess, 0)] == [10, 20, 40]

    @pytest.mark.parametrize(
        "design",
        [
            Design(BLOCKS, 24, blocks=4),
            Design(CRD, 24, 4, assumed_icc=0.2),
            Design(LayoutKind.LATIN_SQUARE, 16, 4, assumed_icc=0.1),
            Design(LayoutKind.INCOMPLETE_BLOCKS, 12, 4, 6, 2, assumed_icc=0.1),
            Design(LayoutKind.SPLIT_PLOT, 12, 1, 4, whole_aspect="medium"),
        ],
        ids=lambda design: design.layout.value,
    )
    def test_every_layout_has_sizes_that_can_be_drawn_and_more_find_more(self, design: Design) -> None:
        plan = replace(two_by_two(), design=replace(design, assumed_rates=(0.2, 0.85)))
        sizes = sized(plan)
        assert len(sizes) >= 3 and plan.design.cuttings_per_arm in [one.design.cuttings_per_arm for one in sizes]
        assert all(holds(one) for one in sizes)
        guess = guess_of(plan)
        assert guess is not None
        shares = [one.great.share for one in curve(plan, guess, 1)]
        assert shares[-1] >= shares[0] and all(0 <= share <= 1 for share in shares)

    @pytest.mark.parametrize(
        ("response", "values"),
        [
            (Response.ROOT_COUNT, (2.0, 6.0)),
            (Response.LONGEST, (20.0, 40.0)),
            (Response.QUALITY, (2.0, 4.0)),
            (Response.DAYS, (28.0, 45.0)),
        ],
    )
    def test_every_endpoint_can_be_simulated(self, response: Response, values: tuple[float, float]) -> None:
        arms = tuple(replace(arm, guess=value) for arm, value in zip(TWO.treatments.arms, values, strict=True))
        plan = replace(
            TWO, question=replace(TWO.question, response=response), treatments=replace(TWO.treatments, arms=arms)
        )
        guess = guess_of(plan)
        assert guess is not None
        assert point(plan, guess, 200).great.share > 0.5
        gap = detectable(plan, guess, 150)
        assert gap is not None and 0 < gap < 3 * max(values)

    def test_equal_guesses_have_nothing_to_find(self) -> None:
        plan = replace(TWO, design=replace(TWO.design, assumed_rates=(0.5, 0.5)))
        guess = guess_of(plan)
        assert guess is not None and guess_of(TWO) is None
        with pytest.raises(InvalidInput, match="no difference to find"):
            curve(plan, guess, 0)

    def test_needed_and_worth(self) -> None:
        plan = replace(TWO, design=replace(TWO.design, assumed_rates=(0.4, 0.75)))
        guess = guess_of(plan)
        assert guess is not None
        points = curve(plan, guess, 1)
        eighty = needed(points, 0.8, guess, 0.05)
        assert eighty is not None
        assert pair_power(0.4, eighty, 0.75, eighty, 0.05) >= 0.8 > pair_power(0.4, eighty - 2, 0.75, eighty - 2, 0.05)
        pots = replace(plan, design=replace(plan.design, cuttings_per_unit=2, assumed_icc=0.1))
        simulated = curve(pots, guess, 1)
        between = needed(simulated, 0.8, guess, 0.05)
        shares = {one.per_arm: one.great.share for one in simulated}
        assert between is not None and min(n for n, share in shares.items() if share >= 0.8) >= between > max(
            n for n, share in shares.items() if share < 0.8
        )
        assert needed(simulated[:2], 0.999, guess, 0.05) is None
        gap = detectable(plan, guess)
        assert gap is not None and pair_power(0.4, 20, 0.4 + gap, 20, 0.05) == pytest.approx(0.8, abs=0.03)
        assert effective(40, 5, 0.25) == 20
