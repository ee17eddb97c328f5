"""A delay before sticking is said at once, stays beside the outcome, and is none where it is the treatment."""

from __future__ import annotations

import pytest
from sqlalchemy import select
from sqlalchemy.orm import Session

from orderly_bench.chapters.score import operations as score
from orderly_bench.chapters.stick import operations as stick
from orderly_bench.trial.models import AuditEntry, Lot
from tests.factories import BARE, DAY_ZERO, NOW, ROOTED, TODAY, create_locked, create_person, open_endpoint, score_all
from tests.web.conftest import SignIn, flat
from tests.web.test_without_verdict import ended

SAID = "Held longer than 12 hours before sticking, not on purpose: 36 h."


def told(page: str) -> bool:
    return SAID in flat(page)


@pytest.mark.parametrize(
    ("typed", "delay"),
    [
        ({"held": "36 hours in a bag"}, True), ({"held": "in a bag", "held_hours": "36"}, True), ({"held": "12 hours in a bag"}, False),
        ({"held": "36 hours, dry", "on_purpose": "yes"}, False), ({"held": "in a bag for 1.5 days", "held_hours": "11"}, False),
    ],
)  # fmt: skip
def test_it_is_said_on_stick_and_stays_on_compare_and_in_the_report(
    session: Session, sign_in: SignIn, typed: dict[str, str], delay: bool
) -> None:
    actor = create_person(session, "researcher", "Ines Okoro")
    trial = create_locked(session, actor)
    client = sign_in("researcher")
    assert client.post(f"/trials/{trial.id}/lot", data={"day": str(DAY_ZERO)} | typed).status_code == 303
    assert told(client.get(f"/trials/{trial.id}/stick").text) is delay
    session.expire_all()
    lot = session.scalars(select(Lot)).one()
    for tray in trial.trays:
        stick.confirm_tray(session, trial, actor, NOW, tray.number, lot)
    stick.finish_sticking(session, trial, actor, NOW)
    check = open_endpoint(session, trial, actor)
    score_all(session, trial, check, actor)
    score.close_check(session, check, actor, NOW)
    session.commit()
    for page in ("compare", "report"):
        assert told(client.get(f"/trials/{trial.id}/{page}").text) is delay


@pytest.mark.parametrize("kind", ["test", "look", "rate"])
def test_it_stands_beside_looks_and_rates_too(session: Session, sign_in: SignIn, kind: str) -> None:
    found = {"A": ROOTED} if kind == "rate" else {"A": ROOTED, "B": BARE}
    trial = ended(session, found, kind=kind)
    actor, lot = create_person(session, "researcher", "Ines Okoro"), trial.lots[0]
    stick.correct_lot(session, lot, actor, NOW, stick.LotValues(DAY_ZERO, held="36 hours in a bag"), "", TODAY)
    session.commit()
    client = sign_in("researcher")
    for page in ("stick", "compare", "conclude", "report"):
        assert told(client.get(f"/trials/{trial.id}/{page}").text), page


def test_putting_it_right_is_on_record(session: Session) -> None:
    actor = create_person(session, "researcher", "Ines Okoro")
    trial = create_locked(session, actor)
    lot = stick.add_lot(session, trial, actor, NOW, trial.waves[0], stick.LotValues(DAY_ZERO, held="in a bag"), TODAY)
    for hours in (30.0, 30.0):
        stick.correct_lot(
            session, lot, actor, NOW, stick.LotValues(DAY_ZERO, held="in a bag", held_hours=hours), "", TODAY
        )
    entries = session.scalars(select(AuditEntry).where(AuditEntry.action == "set how a lot was held")).all()
    assert [(entry.old["hours"], entry.new["hours"]) for entry in entries] == [(None, 30.0)]
