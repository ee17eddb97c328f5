"""Pieces and what the verdict speaks of: from the Design page's form to the pick list."""

from __future__ import annotations

import json
import shlex
from dataclasses import replace
from pathlib import Path

import pytest
from bs4 import BeautifulSoup
from sqlalchemy import select
from sqlalchemy.orm import Session

from orderly_bench.chapters.design import locking
from orderly_bench.chapters.design import operations as design
from orderly_bench.chapters.score import operations as score
from orderly_bench.cli.main import main
from orderly_bench.core.plan.treatments import Container
from orderly_bench.core.vocabulary import Roots, Score, State
from orderly_bench.record.doubts import log_cautions
from orderly_bench.record.gather import gather
from orderly_bench.trial.models import AuditEntry
from orderly_bench.trial.moves import moves_of
from tests.factories import (
    BARE,
    LOCKED,
    NOW,
    ROOTED,
    create_person,
    create_trial,
    design_form,
    evidence,
    open_endpoint,
    stick_all,
)
from tests.web.conftest import SignIn, flat


def form_of(trial, **changes: object) -> dict[str, object]:
    return {
        "version": str(trial.version), "cuttings_per_arm": "4", "cuttings_per_unit": "1",
        "layout": "completely randomised", "blocks": "1", "gradient": "", "bench": "B", "rows": "4", "columns": "4", "assumed_icc": "",
        "headline": "each arm against the control", "not_worse": "yes", "max_t": "yes",
        "pieces": "T1, A, 10\nT2, A, 8", **changes,
    }  # fmt: skip


def test_from_the_form_to_the_pick_list(session: Session, sign_in: SignIn) -> None:
    trial = create_trial(session, create_person(session), control="bark + none")
    client = sign_in()
    assert client.post(f"/trials/{trial.id}/design", data=form_of(trial)).status_code == 303
    session.refresh(trial)
    asked = trial.plan.question
    assert (asked.headline.value, asked.not_worse, asked.max_t) == ("each arm against the control", True, True)
    page = client.get(f"/trials/{trial.id}/design").text
    assert "T1, A, 10" in page and 'name="max_t" value="yes" checked' in page
    assert "Pick list" not in client.get(f"/trials/{trial.id}/prepare").text
    assert client.post(f"/trials/{trial.id}/draw").status_code == 303
    assert client.post(f"/trials/{trial.id}/lock").status_code == 303
    ready = client.get(f"/trials/{trial.id}/prepare").text
    assert "Pick list" in ready and "T1" in ready and "T2" in ready
    assert "the pick list" in client.get(f"/trials/{trial.id}/stick").text


@pytest.mark.parametrize(
    ("changes", "message"),
    [
        ({"pieces": "T1, A, 3"}, "at least the 16 cuttings"),
        ({"pieces": "T1; A; 30"}, "write donor, grade, how many"),
        ({"headline": "whatever wins"}, "choose one of"),
    ],
)
def test_what_can_t_be_kept_is_said_and_what_was_typed_stays(
    session: Session, sign_in: SignIn, changes: dict[str, str], message: str
) -> None:
    trial = create_trial(session, create_person(session), control="bark + none")
    answer = sign_in().post(f"/trials/{trial.id}/design", data=form_of(trial, **changes))
    assert answer.status_code == 422 and message in answer.text
    session.refresh(trial)
    assert trial.plan.design.pieces == () and (changes.get("pieces", "T2, A, 8").splitlines()[-1] in answer.text)


BLOCKS = {
    "layout": "randomised complete blocks", "blocks": "2", "blocks_are": "stock plants", "block_names": "T1\r\nT2",
    "pieces": "T1, A, 8\nT2, B, 8",
}  # fmt: skip


def test_blocks_are_plants_each_stuck_from_its_own(session: Session, sign_in: SignIn) -> None:
    trial = create_trial(session, create_person(session), control="bark + none")
    client = sign_in()
    unnamed = client.post(f"/trials/{trial.id}/design", data=form_of(trial, **BLOCKS | {"block_names": "T1"}))
    assert unnamed.status_code == 422 and "give each of the 2 a name" in unnamed.text
    assert client.post(f"/trials/{trial.id}/design", data=form_of(trial, **BLOCKS)).status_code == 303
    before = client.get(f"/trials/{trial.id}/design").text
    assert 'value="donor"' in before and 'class="on-donor"' in before, "the layer of donors before anything is drawn"
    client.post(f"/trials/{trial.id}/draw")
    drawn = client.get(f"/trials/{trial.id}/design").text
    assert "Even over the arms: block, donor, grade" in drawn and "from T2" in drawn
    assert client.post(f"/trials/{trial.id}/lock", data={"anyway": "two plants are all there is"}).status_code == 303
    session.expire_all()
    assert {(u.group("block"), c.donor.code) for u in trial.units for c in u.cuttings} == {("T1", "T1"), ("T2", "T2")}
    assert {g.name for u in trial.units for g in u.groupings if g.kind == "block"} == {"T1", "T2"}


def test_what_fell_unevenly_opens_by_itself(session: Session, sign_in: SignIn) -> None:
    """Sticking days that hold no whole set of arms: a wave is one, and its arms are as the draw made them."""
    trial = create_trial(session, create_person(session), control="bark + none")
    client = sign_in()
    client.post(f"/trials/{trial.id}/design", data=form_of(trial, pieces="", layout="incomplete blocks", blocks="8", block_size="2",
                blocks_are="people who stick", block_names="\n".join(f"Person {n}" for n in range(1, 9))))  # fmt: skip
    client.post(f"/trials/{trial.id}/draw")
    page = client.get(f"/trials/{trial.id}/design").text
    assert "Even over the arms: block, person" in page or "Not even over the arms" in page
    assert "Person 8" in page


def test_two_waves_have_their_own_pieces_and_pick_lists(session: Session, sign_in: SignIn) -> None:
    trial = create_trial(session, create_person(session), control="bark + none")
    client = sign_in()
    waves = {"waves": "2", "pieces": "wave 1: T1, A, 16\nwave 2: T2, A, 17"}
    short = client.post(f"/trials/{trial.id}/design", data=form_of(trial, **waves | {"pieces": "wave 1: T1, A, 16"}))
    assert short.status_code == 422 and "cuttings of wave 2" in short.text
    assert client.post(f"/trials/{trial.id}/design", data=form_of(trial, **waves)).status_code == 303
    client.post(f"/trials/{trial.id}/draw")
    assert client.post(f"/trials/{trial.id}/lock").status_code == 303
    session.expire_all()
    assert {(u.wave.number, c.donor.code) for u in trial.units for c in u.cuttings} == {(1, "T1"), (2, "T2")}
    ready = client.get(f"/trials/{trial.id}/prepare").text
    assert "<th>Wave</th>" in ready and ready.count("<td>T2</td>") == 1


def test_the_two_of_a_pair_come_from_one_stem(session: Session, sign_in: SignIn) -> None:
    trial = create_trial(session, create_person(session), factors=[("hormone", "hormone", ["IBA", "none"])])
    client = sign_in()
    stems = "\n".join(f"T1, A, 2, s{n}" for n in range(1, 6))
    form = form_of(trial, layout="pairs", pieces=stems, headline="pairs of arms", not_worse="", max_t="")
    kept = client.post(f"/trials/{trial.id}/design", data=form)
    assert kept.status_code == 303, kept.text
    client.post(f"/trials/{trial.id}/draw")
    locked = client.post(f"/trials/{trial.id}/lock", data={"anyway": "four pairs are all there is"})
    assert locked.status_code == 303, locked.text
    session.expire_all()
    stems_of: dict[str, set[str]] = {}
    for unit in trial.units:
        stems_of.setdefault(unit.group("pair") or "", set()).update(c.stem for c in unit.cuttings)
    assert len(stems_of) == 4 and all(len(s) == 1 and "" not in s for s in stems_of.values())


def test_what_is_over_stands_beside_the_trial_and_is_reported_apart(session: Session, sign_in: SignIn) -> None:
    trial = create_trial(session, create_person(session), control="bark + none")
    client = sign_in()
    client.post(f"/trials/{trial.id}/design", data=form_of(trial, leftovers="yes"))
    assert 'name="leftovers" value="yes" checked' in client.get(f"/trials/{trial.id}/design").text
    client.post(f"/trials/{trial.id}/draw")
    client.post(f"/trials/{trial.id}/lock")
    assert "Over: beside the trial" in client.get(f"/trials/{trial.id}/prepare").text
    session.expire_all()
    record = gather(session, trial)
    assert "not drawn, so in no comparison: 2 left-over pieces." in log_cautions(record, [])[-1].text
    alone = replace(record, plan=replace(record.plan, design=replace(record.plan.design, leftovers=False)))
    assert not any(c.code == "not_drawn" for c in log_cautions(alone, []))


def test_what_became_of_it_is_counted_and_put_right(session: Session, sign_in: SignIn) -> None:
    researcher = create_person(session)
    trial = create_trial(session, researcher, control="bark + none")
    client = sign_in()
    client.post(f"/trials/{trial.id}/design", data=form_of(trial, leftovers="yes"))
    client.post(f"/trials/{trial.id}/draw")
    client.post(f"/trials/{trial.id}/lock")
    found = {"group": "left-over pieces", "day": "2026-05-10", "stuck": "2", "rooted": "1", "bare": "1"}
    assert "Nothing is stuck yet" in client.post(f"/trials/{trial.id}/beside", data=found).text
    session.expire_all()
    stick_all(session, trial, researcher)
    page = client.get(f"/trials/{trial.id}/score").text
    assert "Left-over pieces, 2 of them" in page and "not counted yet" in page
    wrong = client.post(f"/trials/{trial.id}/beside", data=found | {"rooted": "2"})
    assert "no more than the 2 stuck" in wrong.text and 'name="rooted" value="2"' in wrong.text
    for roots in ("0", "1", "1"):
        assert client.post(f"/trials/{trial.id}/beside", data=found | {"rooted": roots}).status_code == 303
    assert (
        "Left-over pieces on 10 May 2026: 1 of 2 rooted, 1 without roots."
        in client.get(f"/trials/{trial.id}/score").text
    )
    session.expire_all()
    told = log_cautions(gather(session, trial), [])[-1]
    assert told.code == "not_drawn" and "1 of 2 rooted, 1 without roots" in told.text
    kept = session.scalars(select(AuditEntry).where(AuditEntry.action == "counted beside the trial")).all()
    assert len(kept) == 2 and kept[1].old == {
        "counted": "left-over pieces on 10 May 2026: 0 of 2 rooted, 1 without roots, 1 not known"
    }


def test_a_unit_is_moved_before_the_lock_with_a_reason_that_stays(session: Session, sign_in: SignIn) -> None:
    trial = create_trial(session, create_person(session), control="bark + none")
    client = sign_in()
    client.post(f"/trials/{trial.id}/design", data=form_of(trial, pieces=""))
    client.post(f"/trials/{trial.id}/draw")
    session.expire_all()
    one, other = trial.units[0], trial.units[5]
    place, there = (one.place.row, one.place.column), (other.place.row, other.place.column)
    page = f"/trials/{trial.id}/design"
    assert f'href="?moving={one.code}#move"' in client.get(page).text
    chosen = client.get(f"{page}?moving={one.code}").text
    to = f"1.{there[0]}.{there[1]}"
    assert "Choose its new place" in chosen and f"?moving={one.code}&amp;to={to}#move" in chosen
    assert "the two change places" in flat(client.get(f"{page}?moving={one.code}&to={to}").text)
    sent = {"moving": one.code, "to": to, "why": "a drip from the roof"}
    for broken, says in (
        ({"why": ""}, "say why"),
        ({"to": "9.1.1"}, "tray"),
        ({"to": "1.99.1"}, "rows of"),
        ({"moving": "XXXX"}, "choose a unit"),
    ):
        refused = client.post(f"{page}/move", data=sent | broken)
        assert refused.status_code == 422 and says in refused.text
    assert client.post(f"{page}/move", data=sent).status_code == 303
    session.expire_all()
    assert ((one.place.row, one.place.column), (other.place.row, other.place.column)) == (there, place)
    assert "a drip from the roof" in client.get(page).text
    client.post(f"/trials/{trial.id}/lock")
    session.expire_all()
    drawn = next(u for u in trial.plan.units if u.code == one.code)
    assert (drawn.row, drawn.column) == place, "the plan keeps the place that was drawn"
    late = client.post(f"{page}/move", data=sent | {"to": f"1.{place[0]}.{place[1]}"})
    assert late.status_code == 422 and "The plan was locked on" in late.text
    assert [m.reason for m in moves_of(trial)] == ["a drip from the roof"] * 2


def test_grades_that_fell_apart_reach_the_verdict_and_the_command(
    session: Session, sign_in: SignIn, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    """Places left empty take the balance away; the report's command reads donor and grade back and says the same."""
    lead, scorer = create_person(session), create_person(session, "scorer")
    factors = [("hormone", "hormone", ["IBA", "none"])]
    trial = create_trial(session, lead, factors=factors)
    values = design_form(trial, cuttings_per_arm=20, layout="completely randomised", blocks=1, pieces="T1, A, 20\nT1, B, 20", container=Container(rows=5, columns=8))  # fmt: skip
    design.save_design(session, trial, lead, LOCKED, trial.version, values)
    design.draw(session, trial, lead, LOCKED, 3)
    locking.lock_plan(session, trial, lead, LOCKED)
    stick_all(session, trial, lead)
    check = open_endpoint(session, trial, lead)
    for unit in trial.units:
        (cutting,) = unit.cuttings
        lost = cutting.grade == ("B" if unit.arm.letter == "A" else "A") and cutting.id % 3 > 0
        found = ROOTED if cutting.grade == "A" else BARE
        score.keep_score(
            session, check, cutting, scorer, NOW, Score(State.SAMPLED, Roots.NOT_LOOKED) if lost else found
        )
    score.close_check(session, check, lead, NOW)
    session.commit()
    page = BeautifulSoup(sign_in().get(f"/trials/{trial.id}/compare").text, "html.parser")
    text = flat(page.get_text(" ", strip=True))
    assert "Arms did not start alike (grade" in text and "Had all cuttings started alike (grade in the model)" in text
    command = shlex.split(page.select(".margin .calc")[-1].get_text())
    assert command[command.index("--start") + 1] == "donor,grade"
    file = tmp_path / "endpoint.csv"
    file.write_text(sign_in().get(f"/trials/{trial.id}/endpoint.csv").text)
    assert main(["analyse", str(file), *command[3:], "--json"]) == 0
    headless = json.loads(capsys.readouterr().out)["comparisons"][0]
    shown = evidence(session, trial).analysis.comparisons[0]
    assert headless["same_start"]["p"] == shown.same_start.p and headless["p"] == shown.p


def test_the_control_is_offered_its_share(session: Session, sign_in: SignIn) -> None:
    trial = create_trial(session, create_person(session), control="bark + none")
    client, page = sign_in(), f"/trials/{trial.id}/design/working"
    against = form_of(trial, pieces="", cuttings_per_arm="20")
    told = " ".join(BeautifulSoup(client.post(page, data=against).text, "html.parser").text.split())
    assert (
        "3 arms are held against one control: of the same 80 cuttings 29 of the control and 17 of each other arm tell most"
        in told
    )
    pairs = client.post(page, data=against | {"headline": "pairs of arms"}).text
    assert "held against one control" not in pairs
    enough = client.post(page, data=against | {"own": ["D"], "own_D_units": "32"}).text
    assert "The sum" in enough and "held against one control" not in enough
