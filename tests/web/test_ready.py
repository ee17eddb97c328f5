"""Prepare: the hormone sheet, the list that is ticked, what is to be had; Today says what waits."""

from __future__ import annotations

import csv
import io
from datetime import timedelta

import pytest
from pypdf import PdfReader
from sqlalchemy import select
from sqlalchemy.orm import Session

from orderly_bench.chapters.stick import operations as stick
from orderly_bench.core.messages.translation import all_of
from orderly_bench.core.plan.aspects import AspectKind
from orderly_bench.core.plan.treatments import Container
from orderly_bench.trial.models import AuditEntry, SeenTo, Trial
from orderly_bench.trial.readiness import waiting_to_be_stuck
from tests.factories import DAY_ZERO, FACTORS, NOW, TODAY, create_locked, create_person, stick_all
from tests.web.conftest import SignIn, flat

DIPPED = [FACTORS[0], ("hormone", "hormone", ["IBA 1000 ppm liquid, 5 s", "none"])]


@pytest.fixture
def trial(session: Session) -> Trial:
    made = create_locked(session, create_person(session), factors=DIPPED, waves=[(TODAY + timedelta(days=4), "")])
    session.commit()
    return made


def test_the_hormone_sheet_shows_dishes_and_refuses_a_bottle_that_cannot_be(sign_in: SignIn, trial: Trial) -> None:
    client, at = sign_in(), f"/trials/{trial.id}/hormones"
    page = client.get(at)
    assert page.status_code == 200 and "2 mL from the bottle of 10000 ppm" in flat(page.text)
    weaker = client.get(f"{at}?ppm=2000&each_ml=1&least_ml=5")
    assert "4 mL from the bottle of 2000 ppm" in flat(weaker.text) and 'value="2000"' in weaker.text
    wrong = client.get(f"{at}?alcohol=300")
    assert wrong.status_code == 422 and "must be between 0 and 100" in wrong.text and 'value="300"' in wrong.text
    assert "can&#39;t be made" in client.get(f"{at}?ppm=500").text
    assert f"/trials/{trial.id}/hormones" in client.get(f"/trials/{trial.id}/prepare").text


def test_the_water_sheet_shows_levels_and_feed_for_arms_in_water(
    session: Session, sign_in: SignIn, trial: Trial
) -> None:
    wet = create_locked(
        session, create_person(session), factors=[("medium", "medium", ["water", "pumice"]), ("other", "feed", ["half feed", "no feed"])],
        cuttings_per_arm=4, container=Container(rows=2, columns=4, volume_ml=250),
    )  # fmt: skip
    session.commit()
    client, at = sign_in(), f"/trials/{wet.id}/water"
    assert (
        at in client.get(f"/trials/{wet.id}/prepare").text
        and "/water" not in client.get(f"/trials/{trial.id}/prepare").text
    )
    page = flat(client.get(f"{at}?g_per_l=1.2").text)
    assert "of feed" in page and "no leaf below this line" in page and page.count('<section class="card">') == 2
    wrong = client.get(f"{at}?g_per_l=12")
    assert wrong.status_code == 422 and "is a point missing" in wrong.text and 'value="12"' in wrong.text
    assert "No arm says that it stands in water" in client.get(f"/trials/{trial.id}/water").text


def test_a_thing_is_ticked_with_a_name_once_and_taken_back(session: Session, sign_in: SignIn, trial: Trial) -> None:
    client, at = sign_in("scorer"), f"/trials/{trial.id}"
    for _ in range(2):
        assert client.post(f"{at}/seen-to", data={"item": "rights", "done": "yes"}).status_code == 303
    assert session.query(SeenTo).filter_by(trial_id=trial.id).count() == 1
    assert "Ready to stick? 1 of 7" in flat(client.get(f"{at}/prepare").text)
    assert client.post(f"{at}/seen-to", data={"item": "rights", "done": "no"}).status_code == 303
    assert session.query(SeenTo).filter_by(trial_id=trial.id).count() == 0
    acts = session.scalars(select(AuditEntry.action).where(AuditEntry.trial_id == trial.id)).all()
    assert acts.count("saw to it before sticking") == 1 and acts.count("took back that it was seen to") == 1
    assert client.post(f"{at}/seen-to", data={"item": "moon", "done": "yes"}).status_code == 422


def test_today_says_what_waits_until_all_is_seen_to(session: Session, sign_in: SignIn, trial: Trial) -> None:
    client = sign_in()
    page = flat(client.get("/today").text)
    assert "To be stuck" in page and "to be stuck in 4 days" in page and "7 of 7 to see to" in page
    for item in ("rights", "media", "containers", "labels", "hormone", "pieces", "blades"):
        client.post(f"/trials/{trial.id}/seen-to", data={"item": item, "done": "yes"})
    page = flat(client.get("/today").text)
    assert (
        "to see to" not in page
        and "to be stuck in 4 days" in page
        and f"/trials/{trial.id}/stick" in client.get("/today").text
    )
    assert waiting_to_be_stuck(session, [trial], TODAY - timedelta(days=30)) == []


def test_who_says_that_all_stands_ready_sees_what_is_not_ticked_and_it_stays_in_the_trail(
    session: Session, sign_in: SignIn, trial: Trial
) -> None:
    client, at = sign_in(), f"/trials/{trial.id}"
    for item in ("rights", "media", "containers", "labels", "hormone"):
        client.post(f"{at}/seen-to", data={"item": item, "done": "yes"})
    assert "Some are not ticked yet:" in flat(client.get(f"{at}/prepare").text)
    client.post(f"{at}/seen-to", data={"item": "blades", "done": "yes"})
    assert "One is not ticked yet:" in flat(client.get(f"{at}/prepare").text)
    assert client.post(f"{at}/prepared").status_code == 303
    entry = session.scalars(select(AuditEntry).where(AuditEntry.action == "marked as prepared")).one()
    assert len(entry.new["not ticked"]) == 1 and "not ticked yet" not in client.get(f"{at}/prepare").text


def test_what_is_stuck_waits_no_more(session: Session, sign_in: SignIn, trial: Trial) -> None:
    assert waiting_to_be_stuck(session, [trial], TODAY + timedelta(days=6))[0].when == "was to be stuck 2 days ago"
    stick_all(session, trial, create_person(session))
    session.commit()
    assert waiting_to_be_stuck(session, [trial], TODAY) == []
    assert sign_in().post(f"/trials/{trial.id}/seen-to", data={"item": "rights", "done": "yes"}).status_code == 422


def test_a_wave_that_was_begun_or_comes_next_stands_on_today_and_in_the_calendar(
    session: Session, sign_in: SignIn
) -> None:
    actor = create_person(session)
    trial = create_locked(session, actor, waves=[(DAY_ZERO, "spring"), (TODAY + timedelta(days=9), "summer")])
    lot = stick.add_lot(session, trial, actor, NOW, trial.waves[0], stick.LotValues(TODAY - timedelta(days=2)), TODAY)
    session.commit()
    begun, later = waiting_to_be_stuck(session, [trial], TODAY)
    assert (begun.when, begun.page, begun.words[:20]) == ("begun 2 days ago", "stick", "wave 1: not finished")
    assert (later.when, later.page, later.words) == ("to be stuck in 9 days", "stick", "wave 2")
    assert [one.words for one in waiting_to_be_stuck(session, [trial], TODAY - timedelta(days=6))][1:] == []
    client = sign_in()
    page = flat(client.get("/today").text)
    assert "begun 2 days ago" in page and "to be stuck in 9 days" in page
    file = client.get("/calendar.ics").text
    day = f"{TODAY + timedelta(days=9):%Y%m%d}"
    assert f"{trial.code} stick wave 2" in file and day in file and "stick wave 1" not in file
    for tray in [tray for tray in trial.trays if tray.wave_id == trial.waves[0].id]:
        stick.confirm_tray(session, trial, actor, NOW, tray.number, lot)
    stick.finish_sticking(session, trial, actor, NOW, trial.waves[0])
    session.commit()
    assert [one.words for one in waiting_to_be_stuck(session, [trial], TODAY)] == ["wave 2"]


def test_what_is_to_be_had_as_a_file(sign_in: SignIn, trial: Trial) -> None:
    rows = list(csv.DictReader(io.StringIO(sign_in().get(f"/trials/{trial.id}/shopping.csv").text)))
    found = {row["what"]: row for row in rows}
    assert found["IBA of 10000 ppm"]["unit"] == "mL" and float(found["labels"]["amount"]) == len(trial.units)


def test_what_is_to_be_had_as_a_sheet_says_the_same(sign_in: SignIn, trial: Trial) -> None:
    answer = sign_in().get(f"/trials/{trial.id}/shopping.pdf")
    text = " ".join("".join(page.extract_text() for page in PdfReader(io.BytesIO(answer.data)).pages).split())
    rows = list(csv.DictReader(io.StringIO(sign_in().get(f"/trials/{trial.id}/shopping.csv").text)))
    assert answer.mimetype == "application/pdf" and rows
    assert all(row["what"] in text and f"{float(row['amount']):.4g}" in text for row in rows)


def test_trays_are_told_what_goes_on_them_and_who_is_blind_is_not(session: Session, sign_in: SignIn) -> None:
    factors = [("medium", "medium", ["pumice", "bark"]), ("bottom heat", "bottom heat", ["18 °C", "24 °C"])]
    split = {"layout": "split-plot", "blocks": 8, "whole_aspect": "bottom heat", "cuttings_per_arm": 8}
    trial = create_locked(session, create_person(session), factors=factors, **split)
    session.commit()
    arm_of, heat = trial.plan.treatments.arm, trial.plan.treatments.of_kind(AspectKind.BOTTOM_HEAT)
    assert heat is not None
    level_in = {unit.place.tray.number: arm_of(unit.arm.letter).says[heat.id] for unit in trial.units}
    assert sorted(level_in) == [*range(1, 9)] and len(set(level_in.values())) == 2
    client, blind, at = sign_in(), sign_in("scorer"), f"/trials/{trial.id}"
    warm = all_of([str(tray) for tray, level in sorted(level_in.items()) if level == level_in[1]])
    name = heat.level(level_in[1]).name
    page = flat(client.get(f"{at}/prepare").text)
    assert f"Bottom heat: {name}</th><td>trays {warm}</td>" in page and "On its trays, as drawn: bottom heat" in page
    assert f"On this tray: <b>bottom heat: {name}</b>" in flat(client.get(f"{at}/stick?tray=1").text)
    sheets = [io.BytesIO(one.get(f"{at}/sticking-sheet.pdf").data) for one in (client, blind)]
    told, untold = (flat(" ".join(page.extract_text() for page in PdfReader(sheet).pages)) for sheet in sheets)
    assert f"Bottom heat: {name}: trays {warm}" in told and name not in untold
    stick_all(session, trial, create_person(session))
    session.commit()
    assert f"<b>Bottom heat: {name}</b>: trays {warm}" in flat(client.get(f"{at}/tend").text)
    for page in ("prepare", "stick?tray=1", "tend"):
        assert name not in flat(blind.get(f"{at}/{page}").text)
