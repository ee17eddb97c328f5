"""The trial as it really is: waves and lots, containers, unequal numbers, moves, sites, amendments, late plans."""

from __future__ import annotations

from dataclasses import replace
from datetime import timedelta
from math import comb

import numpy as np
import pytest
from sqlalchemy.orm import Session

from orderly_bench.chapters.design import locking
from orderly_bench.chapters.design import operations as design
from orderly_bench.chapters.prepare import operations as prepare
from orderly_bench.chapters.question import operations as question
from orderly_bench.chapters.score import operations as score
from orderly_bench.chapters.stick import operations as stick
from orderly_bench.core.errors import InvalidInput, Refused
from orderly_bench.core.judgement.verdict import Verdict
from orderly_bench.core.layouts.from_rows import layout_of
from orderly_bench.core.plan import amendments
from orderly_bench.core.plan.aspects import AspectKind
from orderly_bench.core.plan.table import Line
from orderly_bench.core.plan.treatments import Container, Shape
from orderly_bench.core.prepare.needs import media_of
from orderly_bench.core.vocabulary import KnownBy, LayoutKind, Roots, Score, State
from orderly_bench.record.gather import gather, version_records
from orderly_bench.trial import moves
from orderly_bench.trial.amending import amend
from orderly_bench.trial.blindness import endpoint_closed
from orderly_bench.trial.checks import checks_of, planned_checks_of
from orderly_bench.trial.models import CheckVisit, Person, Trial
from orderly_bench.trial.versions import plan_holds
from orderly_bench.web.due import due_lines
from tests.factories import (
    BARE,
    DAY_ZERO,
    LOCKED,
    NOW,
    ROOTED,
    TODAY,
    add_lot,
    create_drawn,
    create_locked,
    create_stuck,
    create_trial,
    crossed_table,
    design_form,
    evidence,
    question_form,
    save_design,
    stick_all,
)

#: Said where a test is locked that could not convince.
ANYWAY = "to see how it is kept"
CRD = LayoutKind.COMPLETELY_RANDOMISED.value
MEDIA = [("medium", "medium", ["pumice", "bark"])]


def designed(session: Session, actor: Person, factors: list, lock: bool = True, **changes: object) -> Trial:
    trial = create_trial(session, actor, factors=factors)
    values = design_form(trial, **{"layout": CRD, "blocks": 1, **changes})
    design.save_design(session, trial, actor, LOCKED, trial.version, values)
    design.draw(session, trial, actor, LOCKED, 3)
    if lock:
        locking.lock_plan(session, trial, actor, LOCKED, ANYWAY)
    return trial


def score_lot(session: Session, trial: Trial, check: CheckVisit, actor: Person, rooted: str = "A") -> None:
    day = check.lot.day_zero.middle + timedelta(days=check.planned_das)
    score.open_check(session, check, actor, NOW, score.Looking(day, KnownBy.LIFTED.value), TODAY + timedelta(days=400))
    for cutting in score.in_scope(session, check):
        found = ROOTED if cutting.unit.arm.letter in rooted else BARE
        for site in range(1, len(cutting.sites) + 1):
            score.keep_score(session, check, cutting, actor, NOW, found, score.Sent(site=site))
    score.close_check(session, check, actor, NOW)


def endpoints(session: Session, trial: Trial) -> list[CheckVisit]:
    return [check for check in checks_of(session, trial) if check.is_endpoint]


class TestTreatments:
    def test_arms_that_differ_in_two_things_are_told_so(self, session: Session, actor: Person) -> None:
        trial = designed(session, actor, MEDIA, lock=False)
        asked = crossed_table(MEDIA)
        described = (
            Line(AspectKind.LIGHT, "light", False, ("sun", "shade", "")), Line(AspectKind.COVER, "cover", False, ("lid", "lid", "")),
        )  # fmt: skip
        factor = replace(asked.lines[0], values=(*asked.lines[0].values, ""))
        table = replace(asked, lines=(factor, *described), groups=(("tub", "left over"),))
        question.save_question(session, trial, actor, NOW, trial.version, question_form(trial), table)
        found = trial.plan.treatments.separation()
        assert found is not None and not found.separable
        assert found.contrasts[0].travels_with == ("light",)
        assert trial.plan.treatments.held_same() == ["cover: lid", "container: 60 mL cells"]
        assert [g.name for g in trial.plan.treatments.side_groups] == ["tub"]
        assert len(trial.units) == 8, "describing the arms leaves the draw as it is"
        with pytest.raises(Refused, match=r"can't be told from light.*make it a look"):
            locking.lock_plan(session, trial, actor, NOW)
        locking.lock_plan(session, trial, actor, NOW, ANYWAY)
        stays = f"locked although medium can't be told from light: the arms differ in both; the reason given: {ANYWAY}"
        assert trial.plan.question.anyway == stays and stays in evidence(session, trial).departures
        with pytest.raises(Refused, match="locked"):
            question.save_question(session, trial, actor, NOW, trial.version, question_form(trial), table)

    def test_two_cultivars_in_one_pot_share_it(self, session: Session, actor: Person) -> None:
        factors = [*MEDIA, ("taxon or cultivar", "cultivar", ["Headland", "Tarn Blue"])]
        trial = designed(
            session, actor, factors, layout=LayoutKind.SPLIT_PLOT.value, blocks=6, whole_aspect="medium", one_vessel=True,
            cuttings_per_arm=6, cuttings_per_unit=2, container=Container(Shape.POT, 2, 3, 1000.0),
        )  # fmt: skip
        places = {}
        for unit in trial.units:
            places.setdefault((unit.place.tray_id, unit.place.row, unit.place.column), []).append(unit)
        assert len(places) == 6 and {len(units) for units in places.values()} == {2}
        for units in places.values():
            assert {u.arm.level_names[1] for u in units} == {"Headland", "Tarn Blue"}
            assert len({u.arm.level_names[0] for u in units}) == 1 and len({u.place.spot for u in units}) == 2
        assert [(m.need.medium, m.need.cells) for m in media_of(trial.plan)] == [("pumice", 3), ("bark", 3)]
        stick_all(session, trial, actor)
        score_lot(session, trial, endpoints(session, trial)[0], actor, "AB")
        found = evidence(session, trial)
        assert found.analysis is not None and found.analysis.design == "split-plot, several cuttings per unit"


class TestPlaces:
    def test_a_jar_beside_a_tray_is_one_replicate_and_never_clear(self, session: Session, actor: Person) -> None:
        own = {"B": {"container": Container(Shape.JAR, 1, 1, 1000.0), "units": 1, "per_unit": 20}}
        trial = designed(session, actor, MEDIA, cuttings_per_arm=20, own=own, container=Container(rows=4, columns=5))
        assert [(tray.shape, tray.rows, tray.columns) for tray in trial.trays] == [
            ("tray of cells", 4, 5),
            ("jar", 1, 1),
        ]
        jar = [unit for unit in trial.units if unit.arm.letter == "B"]
        assert len(jar) == 1 and len(jar[0].cuttings) == 20 and len(trial.units) == 21
        assert [(m.need.medium, m.need.cells, round(m.need.litres, 3)) for m in media_of(trial.plan)] == [
            ("pumice", 20, 1.467), ("bark", 1, 1.222)
        ]  # fmt: skip
        stick_all(session, trial, actor)
        score_lot(session, trial, endpoints(session, trial)[0], actor)
        found = evidence(session, trial)
        assert found.analysis is not None
        only = found.analysis.comparisons[0]
        assert only.p is None and not only.verdict.clear
        assert any(c.code == "one_unit" for c in found.analysis.cautions)

    def test_pots_of_unequal_numbers_are_drawn_and_compared_as_pots(self, session: Session, actor: Person) -> None:
        own = {"A": {"units": 8, "per_unit": 3}, "B": {"units": 5, "per_unit": 2}}
        trial = designed(
            session, actor, MEDIA, cuttings_per_arm=6, own=own, container=Container(Shape.POT, 4, 4, 500.0)
        )
        counts = {letter: [len(u.cuttings) for u in trial.units if u.arm.letter == letter] for letter in "AB"}
        assert counts == {"A": [3] * 8, "B": [2] * 5}
        stick_all(session, trial, actor)
        score_lot(session, trial, endpoints(session, trial)[0], actor)
        found = evidence(session, trial)
        assert found.analysis is not None
        assert [(arm.rooted, arm.stuck) for arm in found.analysis.arms] == [(0, 10), (24, 24)]
        assert found.analysis.comparisons[0].p == pytest.approx(1 / 1287)

    def test_two_pots_of_three_are_two_volumes_of_medium(self, session: Session, actor: Person) -> None:
        pots = Container(Shape.POT, 1, 4, 1000.0)
        trial = designed(session, actor, MEDIA, cuttings_per_arm=6, cuttings_per_unit=3, container=pots)
        assert [round(m.need.litres, 2) for m in media_of(trial.plan)] == [2.44, 2.44]

    def test_a_moved_unit_keeps_block_and_arm_and_is_a_departure(self, session: Session, actor: Person) -> None:
        trial = create_stuck(session, actor)
        one, other = trial.units[0], trial.units[9]
        before = (one.arm_id, one.group("block")), (one.place.row, one.place.column, one.place.tray_id)
        there = (other.place.row, other.place.column, other.place.tray_id)
        there_now = (other.place.tray.number, other.place.row, other.place.column)
        moves.move_units(session, trial, actor, NOW, {one: there_now}, "dripped on")
        assert (one.place.row, one.place.column, one.place.tray_id) == there
        assert (other.place.row, other.place.column, other.place.tray_id) == before[1]
        assert (one.arm_id, one.group("block")) == before[0]
        assert plan_holds(trial), "a move is an event, not a change of the plan"
        assert [move.reason for move in moves.moves_of(trial)] == ["dripped on"] * 2
        score_lot(session, trial, endpoints(session, trial)[0], actor)
        assert "2 units were moved on the bench" in evidence(session, trial).departures
        for row, why, says in (
            (1, "", "say why"),
            (99, "x", "has 2 rows"),
            (one.place.row, "x", "all stand there already"),
        ):
            with pytest.raises(InvalidInput, match=says):
                to = (one.place.tray.number, row, one.place.column)
                moves.move_units(session, trial, actor, NOW, {one: to}, why)

    def test_one_plant_with_two_sites_counts_once(self, session: Session, actor: Person) -> None:
        own = {"A": {"sites": ("base", "tip")}}
        trial = designed(session, actor, MEDIA, own=own)
        stick_all(session, trial, actor)
        check = endpoints(session, trial)[0]
        score.open_check(session, check, actor, NOW, score.Looking(TODAY, KnownBy.LIFTED.value), TODAY)
        for cutting in score.in_scope(session, check):
            if cutting.unit.arm.letter == "A":
                score.keep_score(session, check, cutting, actor, NOW, BARE, score.Sent(site=1))
                with pytest.raises(Refused, match="unaccounted"):
                    score.close_check(session, check, actor, NOW)
                score.keep_score(
                    session, check, cutting, actor, NOW, Score(State.ALIVE, Roots.COUNTED, 4, 11.0), score.Sent(site=2)
                )
            else:
                score.keep_score(session, check, cutting, actor, NOW, BARE)
                with pytest.raises(InvalidInput, match="rooting site"):
                    score.keep_score(session, check, cutting, actor, NOW, BARE, score.Sent(site=2))
        score.close_check(session, check, actor, NOW)
        found = evidence(session, trial)
        assert found.analysis is not None
        assert [(arm.rooted, arm.stuck) for arm in found.analysis.arms] == [(0, 4), (4, 4)]
        assert {r.score.root_number for r in found.results if r.cutting.unit.arm == "A" and r.score} == {4}


class TestWavesAndLots:
    seasons = [("season", "season", ["spring", "autumn"]), ("medium", "medium", ["pumice", "bark"])]

    def in_waves(self, session: Session, actor: Person) -> Trial:
        waves = [(None, "season-1"), (None, "season-2"), (None, "season-1"), (None, "season-2")]
        return designed(session, actor, self.seasons, waves=waves, cuttings_per_arm=8)

    def test_a_season_without_waves_can_not_be_locked_as_a_test(self, session: Session, actor: Person) -> None:
        trial = designed(session, actor, self.seasons, lock=False, cuttings_per_arm=8)
        with pytest.raises(Refused, match="no waves belong to its levels"):
            locking.lock_plan(session, trial, actor, NOW)
        look = create_trial(session, actor, factors=self.seasons, kind="look")
        save_design(session, look, actor, layout=CRD, blocks=1)
        design.draw(session, look, actor, NOW, 3)
        locking.lock_plan(session, look, actor, NOW)
        assert look.locked_at == NOW

    def test_units_belong_to_a_wave_and_seasons_are_compared_by_waves(self, session: Session, actor: Person) -> None:
        trial = self.in_waves(session, actor)
        for unit in trial.units:
            season = unit.arm.level_names[0]
            assert season == ("spring" if unit.wave.number in (1, 3) else "autumn")
        stick_all(session, trial, actor)
        for check in endpoints(session, trial):
            assert not endpoint_closed(session, trial)
            score_lot(session, trial, check, actor, "AC")
        assert endpoint_closed(session, trial)
        found = evidence(session, trial)
        assert found.analysis is not None and found.analysis.design == "waves"
        season, medium = found.analysis.terms[:2]
        assert season.test is not None and season.test.p == pytest.approx(1.0)
        assert medium.test is not None and medium.test.p is not None and medium.test.p < 0.0001
        assert any(c.code == "season_not_assigned" for c in found.analysis.cautions)

    def test_waves_of_a_season_may_be_drawn_in_blocks(self, session: Session, actor: Person) -> None:
        waves = [(None, "season-1"), (None, "season-2"), (None, "season-1"), (None, "season-2")]
        blocks = LayoutKind.COMPLETE_BLOCKS.value
        trial = designed(session, actor, self.seasons, waves=waves, cuttings_per_arm=8, layout=blocks, blocks=2)
        assert {unit.group("block") for unit in trial.units} == {
            f"wave {w} block {b}" for w in range(1, 5) for b in (1, 2)
        }
        stick_all(session, trial, actor)
        for check in endpoints(session, trial):
            score_lot(session, trial, check, actor, "AC")
        found = evidence(session, trial).analysis
        assert found is not None and found.design == "waves"
        season, medium = found.terms[:2]
        inside, whole = layout_of(found.observations).drawn_of(1), layout_of(found.observations).drawn_of(0)
        assert inside is not None and np.unique(inside.layout.block).size == 8, "medium changes places inside blocks"
        assert (
            whole is not None
            and len(whole.members) == 4
            and season.test is not None
            and season.test.p == pytest.approx(1.0)
        )
        assert medium.test is not None and medium.test.p is not None and medium.test.p < 1e-9
        assert not any(c.code in ("block_lacks_arm", "one_arm_block") for c in found.cautions)

    def test_waves_without_season_are_blocks(self, session: Session, actor: Person) -> None:
        trial = designed(session, actor, MEDIA, waves=[(None, ""), (None, "")])
        assert {unit.group("block") for unit in trial.units} == {"wave 1", "wave 2"}
        assert len(trial.units) == 16 and {tray.wave_id for tray in trial.trays} == {w.id for w in trial.waves}
        stick_all(session, trial, actor)
        for check in endpoints(session, trial):
            score_lot(session, trial, check, actor)
        found = evidence(session, trial).analysis
        assert found is not None and found.design == "randomised complete blocks"
        assert found.test.p == pytest.approx(2 / comb(8, 4) ** 2), "arms change places inside each wave"
        assert not {c.code for c in found.cautions} & {"season_not_assigned", "waves_not_replicated", "few_units"}

    def test_two_lots_of_a_wave_have_their_own_days_and_checks(self, session: Session, actor: Person) -> None:
        trial = create_locked(session, actor)
        first = add_lot(session, trial, actor)
        stick.confirm_tray(session, trial, actor, NOW, 1)
        second = add_lot(session, trial, actor, DAY_ZERO + timedelta(days=3), held="bag", held_hours=60.0)
        stick.confirm_tray(session, trial, actor, NOW, 2)
        assert [c.lot_id for u in trial.units for c in u.cuttings] == [first.id] * 8 + [second.id] * 8
        stick.finish_sticking(session, trial, actor, NOW)
        lines = [line for line in due_lines(session, trial, TODAY) if line.check]
        assert [(line.what, (line.due - DAY_ZERO).days) for line in lines] == [
            ("Check, day 14, wave 1, lot 1", 14), ("Check, day 14, wave 1, lot 2", 17),
            ("Endpoint check, day 42, wave 1, lot 1", 42), ("Endpoint check, day 42, wave 1, lot 2", 45),
        ]  # fmt: skip
        one, other = endpoints(session, trial)
        with pytest.raises(Refused, match="another lot"):
            score.open_check(session, one, actor, NOW, score.Looking(TODAY, KnownBy.LIFTED.value), TODAY)
            score.keep_score(session, one, trial.units[-1].cuttings[0], actor, NOW, BARE)
        for cutting in score.in_scope(session, one):
            score.keep_score(session, one, cutting, actor, NOW, BARE)
        score.close_check(session, one, actor, NOW)
        assert not endpoint_closed(session, trial)
        score_lot(session, trial, other, actor)
        assert endpoint_closed(session, trial)
        assert len(evidence(session, trial).results) == 16

    def test_a_day_zero_is_put_right_with_a_reason_and_moves_no_one(self, session: Session, actor: Person) -> None:
        trial = create_locked(session, actor)
        lot = add_lot(session, trial, actor)
        wrong = stick.LotValues(DAY_ZERO + timedelta(days=1))
        stick.correct_lot(session, lot, actor, NOW, wrong, "", TODAY)
        assert lot.corrections == [], "nothing was stuck in it yet"
        stick.confirm_tray(session, trial, actor, NOW, 1)
        with pytest.raises(InvalidInput, match="reason for another day 0"):
            stick.correct_lot(session, lot, actor, NOW, stick.LotValues(DAY_ZERO), "", TODAY)
        stick.correct_lot(session, lot, actor, NOW, stick.LotValues(DAY_ZERO), "read the wrong line", TODAY)
        assert [(c.old_first, c.reason) for c in lot.corrections] == [
            (DAY_ZERO + timedelta(days=1), "read the wrong line")
        ]
        later = add_lot(session, trial, actor, DAY_ZERO + timedelta(days=2))
        assert {c.lot_id for u in trial.units for c in u.cuttings if c.lot_id} == {lot.id}
        assert later.number == 2

    def test_cuttings_of_one_unit_share_a_day_zero(self, session: Session, actor: Person) -> None:
        pots = Container(Shape.POT, 2, 2, 500.0)
        trial = designed(session, actor, MEDIA, cuttings_per_arm=4, cuttings_per_unit=2, container=pots)
        add_lot(session, trial, actor)
        stick.set_cutting(session, trial, actor, NOW, trial.units[0].cuttings[0], "")
        add_lot(session, trial, actor, DAY_ZERO + timedelta(days=1))
        with pytest.raises(Refused, match="share a day 0"):
            stick.confirm_tray(session, trial, actor, NOW, 1)

    def test_a_replacement_has_its_own_day_and_no_score_of_the_other(self, session: Session, actor: Person) -> None:
        trial = create_stuck(session, actor)
        lost = trial.units[0].cuttings[0]
        with pytest.raises(InvalidInput, match="later one"):
            stick.replace_cutting(session, trial, actor, NOW, lost, lost.lot, "knocked out")
        lot = add_lot(session, trial, actor, DAY_ZERO + timedelta(days=5))
        new = stick.replace_cutting(session, trial, actor, NOW, lost, lot, "knocked out")
        with pytest.raises(Refused, match="replaced already"):
            stick.replace_cutting(session, trial, actor, NOW, lost, lot, "again")
        assert plan_holds(trial)
        first, own = endpoints(session, trial)
        assert new not in score.in_scope(session, first) and score.in_scope(session, own) == [new]
        score_lot(session, trial, first, actor, "ABCD")
        assert endpoint_closed(session, trial), "a replacement holds nothing up"
        found = evidence(session, trial)
        assert len(found.results) == 16 and [r.outcome.rooted for r in found.replacements] == [None]

    @pytest.mark.parametrize(
        ("changes", "says"),
        [
            ({"waves": [(None, "season-1")]}, "without one are"),
            ({"waves": [(TODAY, ""), (TODAY - timedelta(days=1), "")]}, "order of their dates"),
            ({"waves": [(None, "season-1"), (None, "season-2")], "layout": "pairs"}, "drawn inside each wave"),
            ({"waves": [(None, "")] * 2, "layout": "Latin square", "rows": 4}, "several waves"),
            ({"waves": [(None, "")] * 25}, "between 1 and 24"),
        ],
    )  # fmt: skip
    def test_waves_that_can_not_be_are_refused(self, session: Session, actor: Person, changes: dict, says: str) -> None:
        trial = create_trial(session, actor, factors=self.seasons)
        with pytest.raises(InvalidInput, match=says):
            design.save_design(
                session, trial, actor, NOW, trial.version, design_form(trial, **{"layout": CRD, **changes})
            )


class TestAmendments:
    def test_an_amendment_makes_the_next_version_and_says_the_difference(self, session: Session, actor: Person) -> None:
        trial = create_locked(session, actor)
        first = trial.digest
        amend(session, trial, actor, NOW, amendments.EndpointDay(49), "slow this year")
        amend(session, trial, actor, NOW, amendments.AddCheckDay(28), "to see when")
        versions = version_records(session, trial)
        assert [(v.number, v.changed, v.why) for v in versions] == [
            (1, (), ""), (2, ("endpoint day 42, now 49",), "slow this year"), (3, ("checks on day 28 added",), "to see when")
        ]  # fmt: skip
        assert trial.digest == first and plan_holds(trial)
        assert [(c.planned_das, c.window_days) for c in planned_checks_of(session, trial)] == [
            (14, 2),
            (28, 2),
            (49, 4),
        ]
        stick_all(session, trial, actor)
        assert [c.planned_das for c in checks_of(session, trial)] == [14, 28, 49]
        amend(session, trial, actor, NOW, amendments.DropCheckDay(28), "no time")
        amend(session, trial, actor, NOW, amendments.AddCheckDay(35), "rather later")
        assert [c.planned_das for c in checks_of(session, trial)] == [14, 35, 49]
        record = gather(session, trial)
        assert record.first_plan.question.endpoint_day == 42 and record.plan.question.endpoint_day == 49

    def test_what_was_looked_at_can_not_be_moved(self, session: Session, actor: Person) -> None:
        trial = create_stuck(session, actor)
        score_lot(session, trial, checks_of(session, trial)[0], actor)
        with pytest.raises(Refused, match="day 14 was opened"):
            amend(session, trial, actor, NOW, amendments.DropCheckDay(14), "never mind")
        with pytest.raises(InvalidInput, match="say why"):
            amend(session, trial, actor, NOW, amendments.Margin(10), " ")
        with pytest.raises(InvalidInput, match="changes nothing"):
            amend(session, trial, actor, NOW, amendments.Margin(15), "to be sure")
        with pytest.raises(Refused, match="not locked"):
            amend(session, create_drawn(session, actor), actor, NOW, amendments.Margin(10), "x")
        assert len(trial.versions) == 1

    def test_a_recipe_changed_after_the_lock_is_an_amendment(self, session: Session, actor: Person) -> None:
        trial = create_drawn(session, actor)
        prepare.save_media(session, trial, actor, NOW, {"medium-1": "3 pumice, 1 coir"})
        locking.lock_plan(session, trial, actor, NOW)
        prepare.save_media(session, trial, actor, NOW, {"medium-1": "3 pumice, 1 coir"})
        with pytest.raises(InvalidInput, match="reason for another recipe"):
            prepare.save_media(session, trial, actor, NOW, {"medium-1": "2 pumice, 1 coir"})
        prepare.save_media(session, trial, actor, NOW, {"medium-1": "2 pumice, 1 coir"}, "coir ran out")
        assert version_records(session, trial)[-1].changed == (
            "recipe, medium-1 3 pumice, 1 coir, now 2 pumice, 1 coir",
        )

    def test_a_plan_locked_after_sticking_is_retrospective_and_never_as_planned(
        self, session: Session, actor: Person
    ) -> None:
        trial = create_drawn(session, actor)
        locking.lock_plan(session, trial, actor, NOW)
        stick_all(session, trial, actor)
        for check in checks_of(session, trial):
            score_lot(session, trial, check, actor, "AB")
        found = evidence(session, trial)
        assert found.departures[0] == "retrospective: the plan was locked on 20 May 2026, 42 days after sticking"
        assert found.reading is not None and found.reading.findings[0].comparison.verdict is not Verdict.NOT_SETTLED
        assert found.reading.strength == "suggested"


def test_a_question_of_defaults_comes_from_the_lab(session: Session, actor: Person) -> None:
    from orderly_bench.trial.models import Lab

    lab = session.query(Lab).one()
    lab.alpha, lab.usual_margin, lab.fit_least_roots, lab.fit_least_mm = 0.01, 20.0, 5, 12.0
    session.flush()
    asked = question.create_trial(session, actor, NOW, "Daphne odora").plan.question
    assert (asked.alpha, asked.margin_points, asked.fit_least_roots, asked.fit_least_mm) == (0.01, 20.0, 5, 12.0)
