"""Measures and exceptions of cuttings as they go in: kept, told at once, and held against the arms afterwards."""

from __future__ import annotations

import csv
import io

import pytest
from flask.testing import FlaskClient
from sqlalchemy import select
from sqlalchemy.orm import Session

from orderly_bench.chapters.score import operations as score
from orderly_bench.chapters.stick import operations as stick
from orderly_bench.chapters.stick.measuring import in_bench_order
from orderly_bench.record.doubts import log_cautions
from orderly_bench.record.gather import gather
from orderly_bench.trial.models import AuditEntry, Cutting, Lot, Person, Trial
from tests.factories import BARE, DAY_ZERO, NOW, ROOTED, create_locked, create_person, open_endpoint, score_all
from tests.web.conftest import SignIn, flat
from tests.web.test_without_verdict import ended


@pytest.fixture
def actor(session: Session) -> Person:
    return create_person(session, "researcher", "Ines Okoro")


@pytest.fixture
def trial(session: Session, actor: Person) -> Trial:
    found = create_locked(session, actor)
    stick.add_lot(session, found, actor, NOW, found.waves[0], stick.LotValues(DAY_ZERO), DAY_ZERO)
    session.commit()
    return found


def sent(client: FlaskClient, trial: Trial, where: str, **data: object) -> int:
    return client.post(f"/trials/{trial.id}/stick/{where}", data=data).status_code


def confirm(session: Session, trial: Trial, actor: Person) -> list[Cutting]:
    for tray in trial.trays:
        stick.confirm_tray(session, trial, actor, NOW, tray.number, trial.lots[0])
    session.commit()
    return in_bench_order(session, trial)


def test_a_lots_own_goes_to_what_is_stuck_and_an_exception_stays(
    session: Session, sign_in: SignIn, trial: Trial, actor: Person
) -> None:
    client = sign_in("researcher")
    assert sent(client, trial, "measures", lot=1, wave=1, first="", leaves="halved", depth_mm="30") == 303
    session.expire_all()
    cuttings = confirm(session, trial, actor)
    assert {c.measures["leaves"] for c in cuttings} == {"halved"}
    one = cuttings[3]
    assert (
        sent(client, trial, "measures", cutting=one.id, tray=1, leaves="whole", depth_mm="30", way_up="upside down")
        == 303
    )
    session.expire_all()
    assert one.own_measures == {"leaves": "whole", "way_up": "upside down"} and one.measures["depth_mm"] == "30"
    # changed half-way: those before keep what they had
    half = cuttings[len(cuttings) // 2]
    assert (
        sent(client, trial, "measures", lot=1, wave=1, first=half.unit.code.lower(), leaves="none left", depth_mm="30")
        == 303
    )
    session.expire_all()
    assert [c.measures["leaves"] for c in (cuttings[0], one, half, cuttings[-1])] == [
        "halved",
        "whole",
        "none left",
        "none left",
    ]
    assert "way up: upside down" in flat(client.get(f"/trials/{trial.id}/stick").text)
    assert {"noted how a lot went in", "noted how a cutting went in"} <= set(session.scalars(select(AuditEntry.action)))


def test_a_tray_is_typed_in_bench_order_and_nothing_is_kept_of_a_wrong_row(
    session: Session, sign_in: SignIn, trial: Trial, actor: Person
) -> None:
    client, cuttings = sign_in("researcher"), confirm(session, trial, actor)
    here = [c for c in cuttings if c.unit.place.tray.number == 1 and c.unit.place.row == 1]
    values = " ".join(str(70 + i) for i, _ in enumerate(here))
    answered = client.post(
        f"/trials/{trial.id}/stick/in-order",
        data={"tray": 1, "only_row": 1, "measure": "length_mm", "values": values + " 99"},
    )
    assert answered.status_code == 422 and f"type {len(here)} values" in flat(answered.text) and "99" in answered.text
    session.expire_all()
    assert not any(c.own_measures for c in cuttings)
    assert sent(client, trial, "in-order", tray=1, only_row=1, measure="length_mm", values=values) == 303
    session.expire_all()
    assert [c.measures["length_mm"] for c in here] == values.split()


@pytest.mark.parametrize(
    "bad", [{"length_mm": "-1"}, {"leaves": "many"}, {"first": "PXNF4"}, {"nodes_in": "1.5"}, {"length_mm": "1e400"}]
)  # fmt: skip
def test_what_can_not_be_is_refused_and_stands_in_its_field(
    session: Session, sign_in: SignIn, trial: Trial, bad: dict[str, str]
) -> None:
    answered = sign_in("researcher").post(
        f"/trials/{trial.id}/stick/measures", data={"lot": "1", "wave": "1", "first": ""} | bad
    )
    assert answered.status_code == 422
    session.expire_all()
    assert session.scalars(select(Lot)).one().usual == {}


def test_uneven_pieces_are_told_at_once_and_travel_to_the_verdict_and_the_files(
    session: Session, sign_in: SignIn, trial: Trial, actor: Person
) -> None:
    client, cuttings = sign_in("researcher"), confirm(session, trial, actor)
    letters = {arm.id: arm.letter for arm in trial.arms}
    for i, cutting in enumerate(cuttings):
        cutting.own_measures = {"length_mm": str((90 if letters[cutting.unit.arm_id] == "A" else 60) + i % 5)}
    cuttings[0].own_measures = {**cuttings[0].own_measures, "donor": "T9"}
    session.commit()
    page = flat(client.get(f"/trials/{trial.id}/stick").text)
    assert (
        "Length, mm on average 9" in page
        and " in A" in page
        and "Longer pieces hold more reserves and lose more water." in page
    )
    stick.finish_sticking(session, trial, actor, NOW)
    check = open_endpoint(session, trial, actor)
    score_all(session, trial, check, actor)
    score.close_check(session, check, actor, NOW)
    session.commit()
    for where in ("compare", "conclude", "report"):
        assert "Arms did not start alike (" in flat(client.get(f"/trials/{trial.id}/{where}").text), where
    report = flat(client.get(f"/trials/{trial.id}/report").text)
    assert "As they went in</th><td>Length, mm: A 9" in report, report[report.index("As they went") :][:200]
    rows = list(csv.DictReader(io.StringIO(client.get(f"/trials/{trial.id}/endpoint.csv").text)))
    assert {row["length_mm"] for row in rows} == {c.measures["length_mm"] for c in cuttings} and rows[0][
        "donor"
    ] == "T9"
    assert gather(session, trial).cuttings[0].origin.donor == "T9"


def test_after_the_first_check_is_opened_it_stands(
    session: Session, sign_in: SignIn, trial: Trial, actor: Person
) -> None:
    cuttings = confirm(session, trial, actor)
    stick.finish_sticking(session, trial, actor, NOW)
    open_endpoint(session, trial, actor)
    session.commit()
    client = sign_in("researcher")
    assert sent(client, trial, "measures", cutting=cuttings[0].id, tray=1, leaves="whole") == 422
    assert sent(client, trial, "in-order", tray=1, measure="length_mm", values="80") == 422


def test_a_blind_scorer_is_shown_and_may_note_only_what_tells_no_arm(
    session: Session, sign_in: SignIn, trial: Trial, actor: Person
) -> None:
    cuttings = confirm(session, trial, actor)
    aspect = trial.plan.treatments.asked[0]
    scorer = sign_in("scorer")
    page = scorer.get(f"/trials/{trial.id}/stick?cutting={cuttings[0].id}").text
    assert 'name="length_mm"' in page and "As they went in" not in page, aspect.kind
    assert sent(scorer, trial, "measures", cutting=cuttings[0].id, tray=1, length_mm="80") == 303


@pytest.mark.parametrize(("kind", "told"), [("cutting type", True), ("wounding", False)])
def test_what_is_part_of_the_asked_is_told_and_never_adjusted_for(
    session: Session, actor: Person, kind: str, told: bool
) -> None:
    trial = create_locked(session, actor, factors=[(kind, "asked", ["one", "two"])], cuttings_per_arm="8")
    stick.add_lot(session, trial, actor, NOW, trial.waves[0], stick.LotValues(DAY_ZERO), DAY_ZERO)
    letters = {arm.id: arm.letter for arm in trial.arms}
    for cutting in confirm(session, trial, actor):
        first = letters[cutting.unit.arm_id] == "A"
        cutting.own_measures = (
            {"length_mm": "90" if first else "60"} if told else {"wound": "one side" if first else "none"}
        )
    session.commit()
    record = gather(session, trial)
    assert record.starts == []
    found = [c.text for c in log_cautions(record, []) if c.code == "start_differs"]
    assert found == (
        [
            "Arms did not start alike (length, mm on average 90 in A and 60 in B); that is part of what they differ in, so nothing is adjusted for it."
        ]
        if told
        else []
    )


@pytest.mark.parametrize("kind", ["test", "look"])
def test_an_uneven_start_stands_beside_looks_as_beside_tests(session: Session, sign_in: SignIn, kind: str) -> None:
    trial = ended(session, {"A": ROOTED, "B": BARE}, kind=kind)
    for unit in trial.units:
        unit.cuttings[0].own_measures = {
            "length_mm": str((90 if unit.arm.letter == "A" else 60) + unit.bench_order % 5)
        }
    session.commit()
    client = sign_in("researcher")
    for page in ("compare", "conclude", "report"):
        assert "Arms did not start alike (length, mm" in flat(client.get(f"/trials/{trial.id}/{page}").text), page


def test_a_rate_has_what_went_in_and_nothing_to_hold_it_against(session: Session, sign_in: SignIn) -> None:
    trial = ended(session, {"A": ROOTED}, kind="rate")
    for unit in trial.units:
        unit.cuttings[0].own_measures = {
            "length_mm": str(80 + unit.bench_order % 5),
            "grade": "ab"[unit.bench_order % 2],
        }
    session.commit()
    client = sign_in("researcher")
    for page in ("compare", "conclude", "report"):
        shown = flat(client.get(f"/trials/{trial.id}/{page}").text)
        assert "did not start alike" not in shown, page
    assert "Length, mm: A 8" in flat(client.get(f"/trials/{trial.id}/report").text)
