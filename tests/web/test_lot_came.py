"""How a lot came: kept with it, in the scope of the answer and the report, and a doubt where it holds the arms unalike."""

from __future__ import annotations

from sqlalchemy import select
from sqlalchemy.orm import Session

from orderly_bench.chapters.stick import operations as stick
from orderly_bench.core.stick.came import Came, Origin
from orderly_bench.core.stick.tally import NOT_STUCK_REASONS
from orderly_bench.record.doubts import log_cautions
from orderly_bench.record.gather import gather
from orderly_bench.record.scope import scope_of
from orderly_bench.trial.models import AuditEntry, Lot
from tests.factories import DAY_ZERO, FACTORS, NOW, TODAY, create_finished, create_locked, create_person, create_stuck
from tests.web.conftest import SignIn, flat

STORM = {"came_origin": "storm damage", "came_condition": "3", "came_stuck_by": "Maren"}


def test_it_is_typed_with_the_lot_and_put_right_on_record(session: Session, sign_in: SignIn) -> None:
    trial = create_locked(session, create_person(session))
    session.commit()
    client, at = sign_in("scorer"), f"/trials/{trial.id}/lot"
    refused = client.post(at, data={"day": str(DAY_ZERO), **STORM, "came_condition": "9"})
    assert refused.status_code == 422 and 'value="9"' in refused.text and "Maren" in refused.text
    assert client.post(at, data={"day": str(DAY_ZERO), **STORM}).status_code == 303
    assert "storm damage, condition 3 of 5, stuck by Maren" in flat(client.get(f"/trials/{trial.id}/stick").text)
    assert client.post(at, data={"day": str(DAY_ZERO), "lot": "1", **STORM, "came_condition": "2"}).status_code == 303
    session.expire_all()
    assert session.scalars(select(Lot)).one().came == {"origin": "storm damage", "condition": "2", "stuck_by": "Maren"}
    last = session.scalars(select(AuditEntry).where(AuditEntry.action == "set how a lot was held")).one()
    assert (last.old["condition"], last.new["condition"]) == ("3", "2")


def test_it_stands_in_the_scope_and_in_the_report(session: Session, sign_in: SignIn) -> None:
    actor = create_person(session)
    trial = create_finished(session, actor, create_person(session, "scorer"))
    values = stick.LotValues(DAY_ZERO, came=Came(Origin.STORM, 3))
    stick.correct_lot(session, trial.lots[0], actor, NOW, values, "", TODAY)
    session.commit()
    assert "pieces as storm damage gives them" in scope_of(gather(session, trial))
    assert "storm damage, condition 3 of 5" in flat(sign_in().get(f"/trials/{trial.id}/report").text)


def test_condition_and_hands_that_part_the_arms_are_doubts(session: Session) -> None:
    actor = create_person(session)
    trial = create_stuck(session, actor)
    first = trial.lots[0]
    other = stick.add_lot(
        session,
        trial,
        actor,
        NOW,
        trial.waves[0],
        stick.LotValues(DAY_ZERO, came=Came(condition=1, stuck_by="Bo")),
        TODAY,
    )
    first.came = {"condition": "5", "stuck_by": "Ada"}
    session.flush()
    assert not {one.code for one in log_cautions(gather(session, trial), [])} & {"start_differs"}
    for unit in trial.units:
        if unit.arm.letter == "B":
            unit.cuttings[0].lot_id = other.id
    session.flush()
    session.expire_all()
    told = [one.text for one in log_cautions(gather(session, trial), []) if one.code == "start_differs"]
    assert any("A 5, B 1" in text for text in told) and any("A Ada, B Bo" in text for text in told)


def test_who_stuck_what_is_kept_and_parts_the_arms_only_where_it_does(session: Session) -> None:
    """Two people, each a tray that holds all arms, part nothing; one arm by one person does."""
    ines, tomas = create_person(session, name="Ines"), create_person(session, name="Tomas")
    trial = create_locked(session, ines, factors=[FACTORS[0]], cuttings_per_arm=6)
    lot = stick.add_lot(session, trial, ines, NOW, trial.waves[0], stick.LotValues(DAY_ZERO), TODAY)
    for tray in trial.trays:
        stick.confirm_tray(session, trial, ines if tray.number == 1 else tomas, NOW, tray.number, lot)
    cuttings = [unit.cuttings[0] for unit in trial.units]
    assert {c.stuck_by_id for c in cuttings} <= {ines.id, tomas.id} and all(c.stuck_at == NOW for c in cuttings)

    def told() -> list[str]:
        session.flush()
        session.expire_all()
        return [one.text for one in log_cautions(gather(session, trial), []) if "different hands" in one.text]

    for unit in trial.units:
        unit.cuttings[0].stuck_by_id = ines.id if unit.groupings[0].name.endswith("1") else tomas.id
    assert told() == []
    for unit in trial.units:
        unit.cuttings[0].stuck_by_id = ines.id if unit.arm.letter == "A" else tomas.id
    assert told() == ["Arms were stuck by different hands: A Ines, B Tomas."]
    stick.set_cutting(session, trial, ines, NOW, trial.units[0].cuttings[0], NOT_STUCK_REASONS[0])
    assert trial.units[0].cuttings[0].stuck_by_id is None


def test_an_exposed_lot_and_an_unproven_brew_stay_beside_the_outcome(session: Session, sign_in: SignIn) -> None:
    actor = create_person(session)
    brew = [("hormone", "hormone", ["tea of young bark", "none"])]
    trial = create_finished(session, actor, create_person(session, "scorer"), "A", factors=brew, cuttings_per_arm=6)
    values = stick.LotValues(DAY_ZERO, came=Came(exposed="one dish for all"))
    stick.correct_lot(session, trial.lots[0], actor, NOW, values, "", TODAY)
    session.commit()
    for page in ("compare", "conclude", "report"):
        text = flat(sign_in().get(f"/trials/{trial.id}/{page}").text)
        assert "Exposed to disease: wave 1, lot 1, one dish for all." in text, page
        assert "Tea of young bark is unproven, the strength unknown" in text, page
    assert "unproven, the strength unknown" in flat(sign_in().get(f"/trials/{trial.id}/question").text)


def test_the_condition_on_arrival_falls_over_the_arms_as_a_measure_and_follows_its_correction(
    session: Session, sign_in: SignIn
) -> None:
    """Two batches of one wave: what one arm got more of is told, worst first."""
    actor = create_person(session)
    trial = create_locked(session, actor, cuttings_per_arm=8)
    session.commit()
    client, at = sign_in(), f"/trials/{trial.id}"
    sent = {"day": DAY_ZERO.isoformat(), "wave": "1", "came_from_whom": "a nursery", "came_condition": "2"}
    assert client.post(f"{at}/lot", data=sent).status_code == 303
    late = client.post(f"{at}/lot", data=sent | {"came_arrived": TODAY.isoformat()})
    assert late.status_code == 422 and "after the sticking day" in flat(late.text)
    session.expire_all()
    stick.confirm_tray(session, trial, actor, NOW, 1)
    session.commit()
    noted = [c for unit in trial.units for c in unit.cuttings if c.status == "stuck"]
    assert {c.usual_measures["condition"] for c in noted} == {"2"}
    assert "Condition on arrival, 0 to 5" in flat(client.get(f"{at}/stick").text)
    assert client.post(f"{at}/lot", data=sent | {"lot": "1", "came_condition": "4"}).status_code == 303
    session.expire_all()
    assert {c.usual_measures["condition"] for c in noted} == {"4"} and trial.lots[0].usual == {"condition": "4"}
    assert client.post(f"{at}/lot", data=sent | {"lot": "1", "came_condition": ""}).status_code == 303
    session.expire_all()
    assert trial.lots[0].usual == {} and all("condition" not in c.usual_measures for c in noted)
