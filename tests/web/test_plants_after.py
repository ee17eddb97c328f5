"""Where the plants went: by group or code, rights before any leaves, room and trays."""

from __future__ import annotations

import csv
import io
from datetime import timedelta

import pytest
from sqlalchemy import select
from sqlalchemy.orm import Session

from orderly_bench.evidence.texts import all_cautions
from orderly_bench.trial.models import AuditEntry, CheckVisit, Incident, Person, PlantEnd, TreatmentChange, Trial
from tests.factories import DAY_ZERO, FACTORS, NOW, TODAY, create_finished, create_person, create_stuck, evidence
from tests.web.conftest import SignIn, flat


@pytest.fixture
def trial(session: Session) -> Trial:
    """Six pumice that rooted, six bark that did not, in one tray of each block."""
    made = create_finished(
        session, create_person(session), create_person(session, "scorer"), "A", factors=[FACTORS[0]], cuttings_per_arm=6
    )
    session.commit()
    return made


def sent(**more: str) -> dict[str, str]:
    return {"which": "all that rooted", "fate": "potted on", "day": str(TODAY), **more}


def fates(session: Session) -> list[tuple[str, str]]:
    session.expire_all()
    return sorted((end.cutting.unit.arm.letter, end.fate) for end in session.scalars(select(PlantEnd)))


def test_a_group_is_written_once_and_a_code_is_put_right(session: Session, sign_in: SignIn, trial: Trial) -> None:
    client, at = sign_in("scorer"), f"/trials/{trial.id}/plants"
    assert client.post(at, data=sent()).status_code == 303
    assert fates(session) == [("A", "potted on")] * 6
    again = client.post(at, data=sent(note="in the frame"))
    assert again.status_code == 422 and "Nobody is left" in again.text and "in the frame" in again.text
    assert client.post(at, data=sent(which="all alive without roots", fate="discarded", arm="B")).status_code == 303
    code = next(unit.code for unit in trial.units if unit.arm.letter == "A")
    assert client.post(at, data=sent(which="these codes", codes=code, fate="planted")).status_code == 303
    page = flat(client.get(at).text)
    assert "planted" in page and "no end yet" not in page
    act = session.scalars(select(AuditEntry).where(AuditEntry.action == "said where plants went")).all()
    assert [entry.new["plants"] for entry in act] == [6, 6, 1]


def test_none_is_sold_or_given_before_rights_are_answered(session: Session, sign_in: SignIn, trial: Trial) -> None:
    client, at = sign_in(), f"/trials/{trial.id}/plants"
    for fate in ("sold", "given"):
        refused = client.post(at, data=sent(fate=fate, note="to the school"))
        assert (
            refused.status_code == 422
            and "rights and movement rules" in refused.text.casefold()
            and "to the school" in refused.text
        )
    assert fates(session) == []
    assert client.post(at, data=sent(fate="given", rights="own selection, no quarantine here")).status_code == 303
    assert fates(session) == [("A", "given")] * 6


def test_a_price_is_kept_and_is_on_page_cost_report_and_file(session: Session, sign_in: SignIn, trial: Trial) -> None:
    client, at = sign_in(), f"/trials/{trial.id}"
    wrong = client.post(f"{at}/plants", data=sent(price="3,5", currency="EUR"))
    assert wrong.status_code == 422 and "only what was sold" in wrong.text and 'value="3,5"' in wrong.text
    codes = [unit.code for unit in trial.units if unit.arm.letter == "A"]
    rights = "own selection, none protected"
    two = sent(which="these codes", codes=", ".join(codes[:2]), fate="sold", rights=rights, price="3,5", currency="EUR")
    one = sent(which="these codes", codes=codes[2], fate="sold", rights=rights)
    for data in (two, one):
        assert client.post(f"{at}/plants", data=data).status_code == 303
    for page in ("plants", "cost", "report"):
        assert "A: 2 sold at 3.50 each, 7.00 EUR" in flat(client.get(f"{at}/{page}").text), page
    assert "A: 3 sold, 3 no end yet" in flat(client.get(f"{at}/report").text)
    header, *rows = csv.reader(io.StringIO(client.get(f"{at}/plants.csv").text))
    written = {row[1]: dict(zip(header, row, strict=True)) for row in rows}
    assert len(written) == 12 and written[codes[0]]["price"] == "3.5" and written[codes[0]]["rights"] == rights
    assert written[codes[2]]["went"] == "sold" and written[codes[2]]["price"] == "" and written[codes[3]]["went"] == ""


def test_trays_are_put_together_as_listed_and_what_befalls_plants_later_is_no_doubt(
    session: Session, sign_in: SignIn, trial: Trial
) -> None:
    for check in session.scalars(select(CheckVisit)):
        check.closed_at = check.closed_at and NOW - timedelta(hours=1)
    session.commit()
    client, at = sign_in("scorer"), f"/trials/{trial.id}"
    before = evidence(session, trial)
    assert "2 trays fit into 1" in flat(client.get(f"{at}/plants").text)
    assert client.post(f"{at}/together").status_code == 303
    again = client.post(f"{at}/together")
    assert again.status_code == 422 and "as few trays as can be" in again.text
    session.expire_all()
    stand = [(u.place.tray.number, u.place.row, u.place.column) for u in trial.units]
    assert len(set(stand)) == len(stand) == 12
    assert len({u.place.tray.number for u in trial.units if u.arm.letter == "A"}) == 1
    person, later = session.scalars(select(Person)).first(), TODAY + timedelta(days=3)
    assert person is not None
    changed = TreatmentChange(
        trial_id=trial.id,
        unit_id=trial.units[0].id,
        arm_id=trial.arms[1].id,
        day=later,
        reason="fed",
        at=NOW,
        person_id=person.id,
    )
    frost = Incident(
        trial_id=trial.id,
        kind="frost",
        first_day=later,
        last_day=later,
        note="",
        at=NOW,
        person_id=person.id,
        units=list(trial.units),
    )
    session.add_all([changed, frost])
    session.commit()
    session.expire_all()
    after = evidence(session, trial)
    assert len(after.record.moves) > 0 and len(after.record.incidents) == 1 and after.as_done == before.as_done == []
    assert after.departures == before.departures
    assert [c.code for c in all_cautions(after)] == [c.code for c in all_cautions(before)]
    assert "Frost" in flat(client.get(f"{at}/report").text), "the report tells it all the same"
    frost.first_day = TODAY
    session.commit()
    session.expire_all()
    assert any(c.code.startswith("incident") for c in all_cautions(evidence(session, trial)))


@pytest.mark.parametrize(
    "wrong",
    [
        {"day": str(TODAY + timedelta(days=1))}, {"day": str(DAY_ZERO - timedelta(days=1))}, {"fate": "eaten"}, {"which": "some"}, {"arm": "Q"},
        {"which": "these codes", "codes": ""}, {"which": "these codes", "codes": "QQQQQ"}, {"note": "x" * 201}, {"day": "soon"},
    ],
)  # fmt: skip
def test_what_cannot_be_is_refused_and_nothing_written(
    session: Session, sign_in: SignIn, trial: Trial, wrong: dict[str, str]
) -> None:
    assert sign_in().post(f"/trials/{trial.id}/plants", data=sent(**wrong)).status_code in (404, 422)
    assert fates(session) == []


def test_room_mix_and_trays(sign_in: SignIn, trial: Trial) -> None:
    at = f"/trials/{trial.id}/plants"
    page = flat(sign_in("reader").get(at).text)
    assert "6 rooted plants stand in cells" in page and "2 trays fit into 1" in page
    pots = flat(sign_in("reader").get(f"{at}?pot_mm=100&pot_ml=500").text)
    assert "6 x 100 x 100 mm = 0.06 m2" in pots and "6 x 500 mL" in pots
    assert "must be between 10" in sign_in("reader").get(f"{at}?pot_mm=1").text


def test_while_the_trial_goes_on_the_plants_are_the_trial(session: Session, sign_in: SignIn) -> None:
    going = create_stuck(session, create_person(session))
    session.commit()
    assert sign_in().get(f"/trials/{going.id}/plants").status_code == 422
    assert sign_in().post(f"/trials/{going.id}/plants", data=sent()).status_code == 422


def test_what_died_after_potting_counts_against_its_arm_beside_the_first_verdict(
    session: Session, sign_in: SignIn
) -> None:
    """Twelve of twelve against none; eleven of the twelve die in their pots, and nothing is clear any more."""
    trial = create_finished(session, create_person(session), create_person(session, "scorer"), "A", factors=[FACTORS[0]], cuttings_per_arm=12)  # fmt: skip
    session.commit()
    client, at = sign_in(), f"/trials/{trial.id}"
    before = evidence(session, trial)
    assert (
        before.analysis is not None
        and before.reading is not None
        and "died" not in flat(client.get(f"{at}/compare").text)
    )
    codes = [unit.code for unit in trial.units if unit.arm.letter == "A"]
    assert client.post(f"{at}/plants", data=sent()).status_code == 303
    dead = sent(which="these codes", codes="\n".join(codes[:11]), fate="dead")
    assert client.post(f"{at}/plants", data=dead).status_code == 303
    session.expire_all()
    after = evidence(session, trial)
    assert after.analysis is not None and after.analysis.test.p == before.analysis.test.p, "the first verdict stands"
    told = "Of what had rooted at the endpoint 11 died by"
    for page in ("compare", "report", "conclude"):
        shown = flat(client.get(f"{at}/{page}").text)
        assert told in shown and "A 11 of 12, B 0 of 0" in shown, page
        beside = shown[shown.index("Since then, as of") :][:160]
        assert "pumice 1 of 12" in beside and "not settled" in beside, "the later verdict stands beside the first"
    more = flat(client.get(f"{at}/compare/more").text)
    line = more[more.index("what died since counts as failed") :][:400]
    assert "pumice 1 of 12" in line and "yes" in line, line
    alive = sent(which="these codes", codes="\n".join(codes[:11]), fate="planted")
    assert client.post(f"{at}/plants", data=alive).status_code == 303
    again = flat(client.get(f"{at}/compare").text)
    assert told not in again and "Since then" not in again, "the newest end stands"


def test_who_scores_a_later_check_is_not_told_what_an_earlier_one_found(
    session: Session, sign_in: SignIn, trial: Trial
) -> None:
    check = next(one for one in session.scalars(select(CheckVisit)) if not one.is_endpoint)
    check.opened_at, check.day, check.way = NOW, TODAY, "at the hole"
    session.commit()
    for page in ("plants", "plants.csv"):
        refused = sign_in("scorer").get(f"/trials/{trial.id}/{page}")
        assert refused.status_code == 422 and "Earlier scores are hidden" in refused.text, page
        assert sign_in().get(f"/trials/{trial.id}/{page}").status_code == 200


def test_plants_of_a_trial_without_a_verdict_go_somewhere_too(session: Session, sign_in: SignIn) -> None:
    going = create_stuck(session, create_person(session), factors=[FACTORS[0]], cuttings_per_arm=6)
    session.commit()
    client, at = sign_in(), f"/trials/{going.id}"
    assert client.get(f"{at}/plants").status_code == 422
    assert client.post(f"{at}/conclude/without", data={"why": "the power cut", "decision": "repeat"}).status_code == 303
    assert "Where the plants went" in client.get(f"{at}/conclude").text
    for group, status in (("all that rooted", 422), ("all that still stand", 303), ("all that still stand", 422)):
        assert client.post(f"{at}/plants", data=sent(which=group, fate="discarded")).status_code == status
    assert fates(session) == [("A", "discarded")] * 6 + [("B", "discarded")] * 6
    assert sign_in("scorer").get(f"{at}/plants").status_code == 422, "who scored blind is not shown the arms"
    assert client.get(f"{at}/cost").status_code == 422
