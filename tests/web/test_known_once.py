"""What is typed on one page stands there still after every other page was saved."""

from __future__ import annotations

from collections.abc import Mapping

import pytest
from bs4 import BeautifulSoup
from flask.testing import FlaskClient
from sqlalchemy.orm import Session
from werkzeug.datastructures import MultiDict

from orderly_bench.core.plan.part import BOX
from orderly_bench.core.plan.treatments import Container, Shape
from orderly_bench.trial.models import Trial
from tests.factories import create_person, create_trial
from tests.web.conftest import SignIn
from tests.web.forms import form_on

#: Every field of the Design form and what is typed there; of what an arm may have of its own, those of arm B.
DESIGN = {
    "gradient_ways": "1", "pieces_by": "stem", "alike_at_most": "3", "trays_get": "hormone", "cuttings_per_unit": "2", "cuttings_per_arm": "8", "guess_A": "61",
    "guess_B": "22", "guess_C": "33", "guess_D": "44", "layout": "randomised complete blocks", "blocks": "2", "block_size": "", "blocks_are": "stock plants",
    "block_names": "T1\nT2", "whole_aspect": "medium", "headline": "each arm against the control", "assumed_icc": "0.15", "not_worse": "yes",
    "max_t": "yes", "shape": "pot", "rows": "1", "columns": "1", "volume_ml": "350", "across_cm": "8", "outline": "square", "wall": "dark",
    "drained": "yes", "settling_percent": "12", "waste_percent": "7", "under_lid": "4", "bench": "North", "gradient": "warm to cool", "waves": "1", "wave_1_planned_for": "2026-06-01",
    "pieces": "T1, A, 40\nT2, A, 40", "leftovers": "yes", "hours": "5", "pace_per_hour": "80",
    "own_B_shape": "jar", "own_B_volume_ml": "900", "own_B_wall": "clear", "own_B_drained": "no", "own_B_settling_percent": "0", "own_B_waste_percent": "3", "own_B_across_cm": "11", "own_B_outline": "round",
    "own_B_rows": "1", "own_B_columns": "1", "own_B_units": "6", "own_B_per_unit": "3", "own_B_under_lid": "2", "own_B_sites": "base, tip",
}  # fmt: skip
#: Kept only in the layout they belong to.
NOT_HERE = {"block_size", "whole_aspect", "one_vessel"}
#: Every field of the Question form beside its table.
QUESTION = {
    "botanical_name": "Olea europaea", "cultivar": "'Marin'", "source": "row 3", "sentence": "Which roots more?", "why": "for the hedge",
    "kind": "test", "response": "rooted", "blind": "yes", "endpoint_day": "56", "endpoint_either_side": "3", "check_days": "14, 28", "margin_points": "12",
    "stop_rule": "when half have died", "care_task": "Mist", "care_every_days": "3", "care_rules": "Change the water: every 7 days, arm B", "fit_least_roots": "4", "fit_least_mm": "15", "root_from_mm": "2", "held_most_hours": "24",
    "who_looks": "Ines", "planned_looks": "28", "dead_from_day": "21", "left_alone_until": "28", "second_look_days": "9", "root_classes": "1-3, 4-11, 12+", "wanted_plants": "70", "wanted_by": "2027-03-01", "weeks_in_pot": "6", "wanted_sure": "80", "known": "31/60 last year",
    "book": "40-60 a handbook", "other_alive": "yes", "other_alive_day": "28", "other_alive_margin": "15",
}  # fmt: skip


def opened(client: FlaskClient, trial: Trial, page: str) -> MultiDict[str, str]:
    response = client.get(f"/trials/{trial.id}/{page}")
    assert response.status_code == 200
    return form_on(response.text, {"design": "plan", "question": "ask"}[page])


def saved(client: FlaskClient, trial: Trial, page: str, changes: Mapping[str, str] | None = None) -> None:
    form = opened(client, trial, page)
    for key, value in (changes or {}).items():
        form.setlist(key, [value])
    response = client.post(f"/trials/{trial.id}/{page}", data=form)
    assert response.status_code == 303, BeautifulSoup(response.text, "html.parser").select(
        ".problem, .error, [role=alert]"
    )


def standing(form: MultiDict[str, str]) -> dict[str, list[str]]:
    return {key: values for key, values in form.lists() if key not in ("version", "csrf_token")}


@pytest.fixture
def designed(session: Session, sign_in: SignIn) -> tuple[FlaskClient, Trial]:
    person = create_person(session)
    trial = create_trial(session, person)
    client = sign_in(person=person)
    saved(client, trial, "question", {"control": "0"})
    saved(client, trial, "design", DESIGN)
    return client, trial


def test_no_field_of_design_is_left_out_here_and_each_is_kept(designed) -> None:
    client, trial = designed
    form = opened(client, trial, "design")
    others = {f"own_{arm}_" for arm in "ACD"}
    fields = {key for key in form if not key.startswith(tuple(others)) and not key.endswith(BOX)} - {
        "version",
        "csrf_token",
        "layer",
    }
    assert fields <= set(DESIGN), "a new field stands in the table above too"
    assert {key: form.get(key, "") for key in DESIGN if key not in NOT_HERE} == {
        key: value for key, value in DESIGN.items() if key not in NOT_HERE
    }


def test_saving_the_question_leaves_the_design_as_it_was(designed, session: Session) -> None:
    client, trial = designed
    before = standing(opened(client, trial, "design"))
    saved(client, trial, "question", QUESTION)
    assert standing(opened(client, trial, "design")) == before
    asked = opened(client, trial, "question")
    assert {key: asked.get(key, "") for key in QUESTION} == QUESTION
    table = ("kind_", "name_", "ask_", "all_", "value_", "group_", "fixed_", "other_")
    beside = {key for key in asked if not key.startswith(table) and not key.endswith(BOX)} - {
        "version",
        "csrf_token",
        "arms",
        "lines",
        "control",
        "margin_scale",
    }
    assert beside <= set(QUESTION), "a new field stands in the table above too"


def test_saving_the_design_leaves_the_question_as_it_was(designed) -> None:
    client, trial = designed
    saved(client, trial, "question", QUESTION)
    before = standing(opened(client, trial, "question"))
    saved(client, trial, "design", {"cuttings_per_arm": "16", "bench": "South"})
    assert standing(opened(client, trial, "question")) == before


def test_a_level_called_otherwise_keeps_what_its_arms_stand_in_and_their_numbers(designed, session: Session) -> None:
    client, trial = designed
    form = opened(client, trial, "question")
    changes = {key: value.replace("pumice", "fine pumice") for key, value in form.items()}
    saved(client, trial, "question", changes)
    session.expire_all()
    plan = trial.plan
    own = plan.treatments.arm("B")
    assert plan.treatments.level_names(own)[0] == "fine pumice"
    assert plan.container_of(own) == Container(Shape.JAR, 1, 1, 900.0, "clear", False, 11.0, "round", 0.0, 3.0)
    assert (own.units, own.per_unit, own.sites, own.guess) == (6, 3, ("base", "tip"), 0.22)
    assert plan.container_of(plan.treatments.arm("A")) == plan.design.container


def test_a_pot_of_ones_own_begins_with_the_common_wall(designed) -> None:
    client, trial = designed
    form = opened(client, trial, "design")
    assert (form["own_C_wall"], form["own_C_drained"]) == ("dark", "yes")
