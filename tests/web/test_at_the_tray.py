"""The card of steps, the sticking sheet, the tally by block, and the donor on a label."""

from __future__ import annotations

import pytest
from bs4 import BeautifulSoup
from sqlalchemy import select
from sqlalchemy.orm import Session

from orderly_bench.chapters.prepare.labels import labels_html, read_size
from orderly_bench.chapters.stick import operations as stick
from orderly_bench.chapters.stick import views
from orderly_bench.chapters.stick.at_the_tray import tick_step
from orderly_bench.core.layouts.kinds import LayoutKind
from orderly_bench.core.stick.came import Came, Origin
from orderly_bench.core.stock.kept import MethodCard
from orderly_bench.stock.operations import keep_card
from orderly_bench.trial.load import units_with_everything
from orderly_bench.trial.models import AuditEntry, Trial
from tests.factories import DAY_ZERO, NOW, TODAY, add_lot, create_finished, create_locked, create_person
from tests.web.conftest import SignIn, flat

BLOCKS = LayoutKind.COMPLETE_BLOCKS.value


@pytest.fixture
def trial(session: Session) -> Trial:
    actor = create_person(session)
    made = create_locked(session, actor, cuttings_per_arm=8, layout=BLOCKS, blocks=4)
    add_lot(session, made, actor)
    session.commit()
    return made


def test_a_step_is_ticked_with_a_name_once_and_taken_back(session: Session, sign_in: SignIn, trial: Trial) -> None:
    client, at = sign_in(person=create_person(session, "scorer", name="Tomas")), f"/trials/{trial.id}/stick"
    sent = {"step": "base recut", "done": "yes", "wave": "1", "lot": "1"}
    for _ in range(2):
        assert client.post(f"{at}/step", data=sent).status_code == 303
    page = BeautifulSoup(client.get(at).text, "html.parser")
    ticked = next(b for b in page.select("#margin button[name=step]") if b["value"] == "base recut")
    assert "Tomas" in ticked.text and ticked.select_one(".done-mark")
    assert client.post(f"{at}/step", data=sent | {"done": "no"}).status_code == 303
    session.expire_all()
    acts = session.scalars(select(AuditEntry.action).where(AuditEntry.trial_id == trial.id)).all()
    assert trial.lots[0].steps == {} and acts.count("ticked a step at the tray") == 2
    assert client.post(f"{at}/step", data=sent | {"step": "sung to"}).status_code == 422


def test_the_steps_are_those_of_the_plant_s_card_and_of_how_it_came(
    session: Session, sign_in: SignIn, trial: Trial
) -> None:
    keep_card(session, MethodCard(trial.plan.question.botanical_name, "tip", steps="bark slit; laid flat"))
    values = stick.LotValues(DAY_ZERO, came=Came(Origin.BOUGHT))
    stick.correct_lot(session, trial.lots[0], create_person(session), NOW, values, "", TODAY)
    session.commit()
    page = BeautifulSoup(sign_in().get(f"/trials/{trial.id}/stick").text, "html.parser")
    steps = [button["value"] for button in page.select("#margin button[name=step]")]
    assert steps == ["bark slit", "laid flat", "pieces washed", "gel rinsed off"]


def test_the_sheet_lists_every_cutting_and_no_arm_for_the_blind(
    session: Session, sign_in: SignIn, trial: Trial
) -> None:
    rows = views.sheet_rows(units_with_everything(session, trial))
    assert [row.code for row in rows] == [c.code for unit in trial.units for c in unit.cuttings]
    for role in ("researcher", "scorer"):
        answer = sign_in(role).get(f"/trials/{trial.id}/sticking-sheet.pdf")
        assert answer.status_code == 200 and answer.data[:5] == b"%PDF-"


def test_the_tally_stands_by_block(session: Session, sign_in: SignIn, trial: Trial) -> None:
    out = next(unit for unit in trial.units if any(g.name == "block 2" for g in unit.groupings)).cuttings[0]
    stick.set_cutting(session, trial, create_person(session), NOW, out, "broke")
    session.commit()
    found = dict(views.tally_by_block(units_with_everything(session, trial)))
    each = 2 * len(trial.arms)
    assert (found["block 2"].not_stuck, found["block 2"].waiting, found["block 1"].waiting) == (1, each - 1, each)
    assert "By block" in flat(sign_in().get(f"/trials/{trial.id}/stick").text)


def test_a_label_names_the_donor_of_its_piece(session: Session, app) -> None:
    actor = create_person(session)
    made = create_locked(session, actor, cuttings_per_arm=8, layout=BLOCKS, blocks=2, pieces="Q7, A, 20\nQ8, A, 20")
    with app.test_request_context():
        html = flat(labels_html(made, units_with_everything(session, made), read_size("46x18")))
    assert html.count("· Q7") + html.count("· Q8") == len(made.units) and html.count("· Q7") > 0


def test_ticked_steps_stand_in_the_report_with_who_ticked_them(session: Session, sign_in: SignIn) -> None:
    made = create_finished(session, create_person(session), create_person(session, "scorer", name="Hale"))
    lot, tomas = made.lots[0], create_person(session, "scorer", name="Tomas")
    assert "Steps ticked" not in sign_in().get(f"/trials/{made.id}/report").text
    for words in ("base recut", "buds up"):
        tick_step(session, lot, tomas, NOW, words, True)
    session.commit()
    report = flat(sign_in().get(f"/trials/{made.id}/report").text)
    assert f"Steps ticked</th><td>base recut ({tomas.name}), buds up ({tomas.name})" in report
