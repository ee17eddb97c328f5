"""The stock in the database, and pieces from donors through the lock to the endpoint's file."""

from __future__ import annotations

import pytest
from sqlalchemy.exc import OperationalError
from sqlalchemy.orm import Session

from orderly_bench.chapters.design import operations as design
from orderly_bench.chapters.prepare.views import picks_of
from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.plan.treatments import Container, Shape
from orderly_bench.core.stock import kept
from orderly_bench.core.stock.containers import ContainerKept
from orderly_bench.record.gather import gather
from orderly_bench.stock import operations as stock
from orderly_bench.trial.models import Trial
from orderly_bench.trial.versions import plan_holds
from tests.factories import create_drawn, create_finished, create_locked, create_person, design_form, save_design


def test_things_are_kept_once_and_put_right_by_their_name(session: Session) -> None:
    plant = stock.keep_plant(
        session, kept.StockPlant("T1", "Olea europaea", "hedge", 4, "good", kept.Stage.SEMI_HARD, 12)
    )
    assert plant.value == kept.StockPlant("T1", "Olea europaea", "hedge", 4, "good", kept.Stage.SEMI_HARD, 12)
    with pytest.raises(InvalidInput, match="stands already"):
        stock.keep_plant(session, kept.StockPlant("T1", "Olea europaea"))
    first = stock.keep_bench(session, kept.BenchKept("North", 300, 90, "warm end west"))
    assert stock.keep_bench(session, kept.BenchKept("North", 320, 90)).id == first.id and first.value.length_cm == 320
    jar = Container(Shape.JAR, 1, 1, 500.0, "clear", False)
    assert stock.keep_container(session, ContainerKept("half litre jar", jar)).value == jar
    stock.keep_recipe(session, kept.RecipeKept("house mix", "2 pumice, 1 bark fines"))
    assert stock.keep_recipe(session, kept.RecipeKept("house mix", "1 sand")).text == "1 sand"


def test_a_method_card_is_found_by_taxon_and_type(session: Session) -> None:
    stock.keep_card(session, kept.MethodCard("Olea europaea", "tip", 0.4, weeks_least=6, weeks_most=10, care="mist"))
    stock.keep_card(session, kept.MethodCard("Olea europaea", "heel", rooted=31, stuck=50))
    assert stock.card_for(session, "Olea europaea", "tip").value.weeks_most == 10
    assert stock.card_for(session, "Olea europaea").cutting_type == "heel"
    assert stock.card_for(session, "Buxus sempervirens") is None


def test_the_database_refuses_what_can_t_be(session: Session) -> None:
    plant = stock.keep_plant(session, kept.StockPlant("T1", "Olea europaea"))
    plant.stage = "old"
    with pytest.raises(OperationalError, match="stage_known"):
        session.flush()


@pytest.fixture
def trial(session: Session) -> Trial:
    stock.keep_plant(session, kept.StockPlant("T1", "Lavandula angustifolia", most_to_take=6))
    return create_locked(session, create_person(session), pieces="T1, A, 8\nT2, A, 6\nT2, B, 4, s1, tip")


def test_the_lock_gives_every_place_its_piece_inside_donor_and_grade(session: Session, trial: Trial) -> None:
    cuttings = [cutting for unit in trial.units for cutting in unit.cuttings]
    assert all(c.donor is not None and c.grade for c in cuttings) and len(cuttings) == 16
    letters = {arm.id: arm.letter for arm in trial.arms}
    for donor in ("T1", "T2"):
        by_arm = [sum(1 for c in cuttings if c.donor.code == donor and letters[c.unit.arm_id] == arm) for arm in "ABCD"]
        assert max(by_arm) - min(by_arm) <= 2
    assert plan_holds(trial) and all(unit.pieces for unit in trial.plan.units)
    assert {c.stem_place for c in cuttings if c.grade == "B"} <= {"tip"}


def test_a_donor_nobody_described_is_kept_with_the_taxon(session: Session, trial: Trial) -> None:
    assert stock.plants_by_code(session, ["T2"])["t2"].taxon == "Lavandula angustifolia"


def test_the_pick_list_says_how_many_for_which_places_and_who_gives_too_much(session: Session, trial: Trial) -> None:
    found = picks_of(session, trial)
    assert sum(len(pick.codes) for pick in found.picks) == 16 and sum(pick.left for pick in found.picks) == 2
    taken = next(len(p.codes) for p in found.picks if p.pieces.donor == "T1")
    assert taken > 6 and [c.code for c in found.cautions] == ["over_taken"]
    assert found.cautions[0].text == f"T1: {taken} pieces are to be taken, 6 at most should be."
    assert picks_of(session, create_drawn(session, create_person(session))) is None


def test_too_few_pieces_are_refused_with_the_design(session: Session) -> None:
    drawn = create_drawn(session, create_person(session))
    with pytest.raises(InvalidInput, match="at least the 16 cuttings"):
        design.designed(drawn.plan, design_form(drawn, pieces="T1, A, 15"))


def test_changed_pieces_leave_the_draw_as_it_was(session: Session) -> None:
    person = create_person(session)
    drawn = create_drawn(session, person)
    save_design(session, drawn, person, pieces="T1, A, 16")
    assert len(drawn.units) == 16 and drawn.plan.design.pieces[0].how_many == 16


def test_the_record_knows_where_a_cutting_comes_from(session: Session) -> None:
    finished = create_finished(session, create_person(session), create_person(session, "scorer"), pieces="T9, A, 16")
    record = gather(session, finished)
    assert {c.origin.donor for c in record.cuttings} == {"T9"} and {c.origin.grade for c in record.cuttings} == {"A"}
