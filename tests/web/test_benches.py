"""Benches to scale: two trials on one, moves with a reason, and what a move does to the record."""

from __future__ import annotations

from dataclasses import replace

import pytest
from bs4 import BeautifulSoup
from sqlalchemy import select
from sqlalchemy.orm import Session

from orderly_bench.chapters.shelf import operations as shelf
from orderly_bench.core.errors import InvalidInput, Refused
from orderly_bench.core.plan.treatments import Container
from orderly_bench.core.stock.kept import BenchKept
from orderly_bench.record.departures import departures_of
from orderly_bench.record.gather import gather
from orderly_bench.trial.models import AuditEntry, TrayStanding
from tests.factories import NOW, create_finished, create_locked, create_person, evidence
from tests.web.conftest import SignIn

BENCH = BenchKept("Bench 1", 200.0, 60.0, "warm to cool")


def test_two_trials_stand_on_one_bench_and_neither_on_the_other(session: Session, sign_in: SignIn) -> None:
    lead = create_person(session, "lead")
    one, other = create_locked(session, lead), create_locked(session, lead)
    client = sign_in(person=lead)
    kept = client.post(
        "/benches", data={"name": "Bench 1", "length_cm": "200", "width_cm": "60", "gradient": "warm to cool"}
    )
    assert kept.status_code == 303
    page = client.get("/benches?named=bench 1", follow_redirects=True)
    soup = BeautifulSoup(page.text, "html.parser")
    assert [b.get_text() for b in soup.select("form b.mono")] == [one.code, other.code]
    bench = shelf.benches(session)[0]
    for trial in (one, other):
        assert client.post(f"/benches/{bench.id}/trays", data={"trial": trial.id}).status_code == 303
    there = shelf.standing_on(session, bench)
    assert len(there) == len(one.trays) + len(other.trays) == 4
    assert not any(a.at.overlaps(b.at) for a in there for b in there if a is not b)
    drawn = BeautifulSoup(client.get(f"/benches/{bench.id}").text, "html.parser")
    sizes = {(g.rect["width"], g.rect["height"]) for g in drawn.select("g.on-bench")}
    assert len(drawn.select("g.on-bench")) == 4 and len(sizes) == 1
    (width, height) = sizes.pop()
    assert float(width) == pytest.approx(4 * 60 ** (1 / 3), abs=0.05), "four cells of 60 mL along the bench"
    assert float(height) == pytest.approx(2 * 60 ** (1 / 3), abs=0.05)
    again = client.post(f"/benches/{bench.id}/trays", data={"trial": one.id})
    assert again.status_code == 422 and "stand on a bench already" in again.text


def test_a_move_needs_a_reason_and_becomes_a_departure(session: Session, sign_in: SignIn) -> None:
    lead = create_person(session, "lead")
    trial = create_locked(session, lead)
    bench = shelf.keep(session, lead, NOW, BENCH)
    shelf.stand_trays(session, trial, lead, NOW, bench)
    session.commit()
    assert departures_of(gather(session, trial)) == []
    tray = trial.trays[0]
    client = sign_in("scorer")
    path, move = f"/benches/{bench.id}/moves", {"tray": tray.id, "x_cm": "100", "y_cm": "10"}
    refused = client.post(path, data={**move, "why": " "})
    assert refused.status_code == 422 and "say why" in refused.text and 'value="100"' in refused.text
    taken = trial.trays[1].standing
    assert taken is not None
    onto = client.post(path, data={"tray": tray.id, "x_cm": str(taken.x_cm), "y_cm": "0", "why": "shade"})
    assert onto.status_code == 422 and f"tray 2 of {trial.code}" in onto.text
    assert client.post(path, data={**move, "why": "drip from the roof"}).status_code == 303
    session.expire_all()
    assert tray.standing is not None and (tray.standing.x_cm, tray.standing.y_cm) == (100, 10)
    assert [one.current for one in tray.standings] == [None, 1], "the earlier place is kept"
    assert departures_of(gather(session, trial)) == ["8 units were moved on the bench"]
    entry = session.scalars(select(AuditEntry).order_by(AuditEntry.id.desc())).first()
    assert entry is not None and entry.action == "moved a tray" and entry.why == "drip from the roof"
    assert "drip from the roof" in sign_in(person=lead).get(f"/benches/{bench.id}").text
    assert "drip from the roof" not in client.get(f"/benches/{bench.id}").text, "reasons are hidden from scorers"


def test_the_map_names_no_arm(session: Session, sign_in: SignIn) -> None:
    """A scorer may look at the bench while the checks run blind."""
    lead = create_person(session, "lead")
    trial = create_locked(session, lead)
    bench = shelf.keep(session, lead, NOW, BENCH)
    shelf.stand_trays(session, trial, lead, NOW, bench)
    session.commit()
    text = sign_in("scorer").get(f"/benches/{bench.id}").text
    assert trial.code in text
    assert not any(name in text for arm in trial.arms for name in (arm.name, *arm.level_names) if name)


def test_a_bench_can_not_shrink_under_its_trays_nor_hold_too_many(session: Session) -> None:
    lead = create_person(session, "lead")
    trial = create_locked(session, lead)
    small = shelf.keep(session, lead, NOW, BenchKept("Shelf", 16.0, 10.0))
    session.commit()
    with pytest.raises(InvalidInput, match="has no room"):
        shelf.stand_trays(session, trial, lead, NOW, small)
    assert session.scalars(select(TrayStanding)).all() == []
    bench = shelf.keep(session, lead, NOW, BENCH)
    shelf.stand_trays(session, trial, lead, NOW, bench)
    session.commit()
    with pytest.raises(InvalidInput, match="too small for what stands on it"):
        shelf.keep(session, lead, NOW, replace(BENCH, length_cm=20.0))
    with pytest.raises(Refused):
        shelf.stand_trays(session, trial, lead, NOW, small)
    assert bench.length_cm == 200.0


def test_a_measured_container_is_drawn_as_measured(session: Session) -> None:
    lead = create_person(session, "lead")
    trial = create_locked(session, lead, container=Container(rows=2, columns=4, across_cm=6.5))
    assert {tray.across_cm for tray in trial.trays} == {6.5}
    assert shelf.size_of(trial.trays[0]).length_cm == 26


def test_lids_are_drawn_with_the_bench_and_say_who_shares_them(session: Session, sign_in: SignIn) -> None:
    lead = create_person(session, "lead")
    trial = create_locked(session, lead, under_lid=4)
    lids = {unit.group("lid") for unit in trial.units}
    assert lids == {"lid 1.1", "lid 1.2", "lid 2.1", "lid 2.2"}
    page = sign_in(person=lead).get(f"/trials/{trial.id}/design").text
    assert "several arms: they share its air" in page


@pytest.mark.parametrize(("alone", "says"), [(True, True), (False, False)])
def test_a_lid_over_one_arm_alone_keeps_the_verdict_from_being_shown(session: Session, alone: bool, says: bool) -> None:
    lead, scorer = create_person(session, "lead"), create_person(session, "scorer")
    trial = create_finished(session, lead, scorer, under_lid=4)
    if alone:
        for unit in trial.units:
            for grouping in unit.groupings:
                if grouping.kind == "lid":
                    grouping.name = f"lid of {unit.arm.letter}"
    session.flush()
    found = evidence(session, trial)
    codes = [caution.code for caution in found.cautions]
    assert ("lid_travels" in codes) is says and found.reading is not None
    if says:
        assert "A under 1; B under 1" in next(c.text for c in found.cautions if c.code == "lid_travels")
        assert found.reading.strength in ("suggested", "cannot tell")
