"""A trial carried to another lab in its package: whole, or not at all."""

from __future__ import annotations

import io
import json
import zipfile
from collections.abc import Callable
from datetime import timedelta
from pathlib import Path

import pytest
from bs4 import BeautifulSoup
from flask.testing import FlaskClient
from sqlalchemy import JSON, select, update
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session
from werkzeug.datastructures import FileStorage

from orderly_bench.chapters.tend import operations as tend
from orderly_bench.core.errors import Refused, UnusableData
from orderly_bench.database.base import Base
from orderly_bench.formats.data_package import Content, Package, package, read_package
from orderly_bench.trial import carried, load, notes
from orderly_bench.trial.audit import Action, record
from orderly_bench.trial.models import AuditEntry, Note, Person, PhotoKept, SideTrial, Trial, Unit
from tests.factories import DAY_ZERO, FACTORS, NOW, TODAY, create_finished, create_person, evidence
from tests.web.conftest import SignIn, flat
from tests.web.test_photos import jpeg, send


def whole(session: Session) -> Trial:
    """A trial with something in most of its tables."""
    actor, scorer = create_person(session, name="Ada"), create_person(session, "scorer", name="Bo")
    made = create_finished(
        session, actor, scorer, factors=[FACTORS[0]], cuttings_per_arm=6, pieces="Q1, A, 10\nQ2, A, 10"
    )
    unit = made.units[0]
    happened = tend.Happened("frost", DAY_ZERO, DAY_ZERO + timedelta(days=1), [unit.code, made.units[1].code], "cold")
    tend.record_incident(session, made, actor, NOW, happened, TODAY)
    notes.write_note(session, made, actor, NOW, notes.Written(DAY_ZERO, "as a note", unit, False), TODAY, "k1")
    made.tended_by = [actor.id]
    record(session, actor, NOW, Action.HANDED_A_TRIAL_OVER, made, old={"person": actor.id}, new={"person": scorer.id})
    made.lots[0].steps = {"base recut": [scorer.id, NOW.isoformat()]}
    session.flush()
    return made


@pytest.fixture
def lived(session: Session) -> Trial:
    return whole(session)


def sent(session: Session, trial: Trial) -> dict:
    """As it comes out of a file."""
    session.expire_all()
    return json.loads(json.dumps(carried.written(session, trial, "now")))


def taken_in_where_it_never_was(session: Session, made: Callable[[Session], Trial]) -> tuple[dict, Trial]:
    """The file of a trial, and the trial taken in from it where the first never was."""
    before = session.begin_nested()
    file = sent(session, made(session))
    before.rollback()
    session.expire_all()
    return file, carried.take_in(session, create_person(session), NOW, file, "now")


def test_a_round_trip_changes_nothing_but_where_it_is(session: Session) -> None:
    file, here = taken_in_where_it_never_was(session, whole)
    again = sent(session, here)
    took = again["tables"]["audit_entry"].pop()
    assert took["action"] == "took a trial in" and again["people"].pop(str(took["person_id"]))
    assert here.brought_from == f"{file['lab']}, there {file['code']}" and file["code"] == here.code
    assert set(again["people"].values()) == {f"{name} ({file['lab']})" for name in file["people"].values()}
    for one in (file, again):
        del one["people"]
        one["tables"]["trial"][0].pop("brought_from")
    assert again == file
    filled = [name for name, rows in file["tables"].items() if rows]
    assert {
        "audit_entry",
        "unit",
        "score",
        "incident_unit",
        "note",
        "plan_version",
        "placement",
        "cutting",
        "draw",
    } <= set(filled)


def test_its_verdict_is_the_same_there(session: Session) -> None:
    found: list[str] = []

    def first(session: Session) -> Trial:
        made = whole(session)
        found.append(str(evidence(session, made).reading.headline))
        return made

    _, here = taken_in_where_it_never_was(session, first)
    assert str(evidence(session, here).reading.headline) == found[0]


def test_who_did_what_there_stands_here(session: Session, sign_in: SignIn) -> None:
    file, here = taken_in_where_it_never_was(session, whole)
    of_it = [one for one in session.scalars(select(AuditEntry).where(AuditEntry.trial_id == here.id))]
    assert len(of_it) == len(file["tables"]["audit_entry"]) + 1
    handed = next(one for one in of_it if one.action == Action.HANDED_A_TRIAL_OVER)
    assert session.get_one(Person, handed.new["person"]).name == f"Bo ({file['lab']})"
    session.commit()
    shown = sign_in("lead").get(f"/audit?trial={here.id}").text
    assert f"Ada ({file['lab']})" in shown and "locked the plan" in shown
    file["tables"]["audit_entry"][0]["action"] = "robbed a bank"
    with pytest.raises(UnusableData):
        carried.take_in(session, create_person(session), NOW, renamed(file), "now")


def renamed(file: dict) -> dict:
    """The same file with other labels, so that it could come in a second time."""
    for number, unit in enumerate(file["tables"]["unit"]):
        unit["code"] = f"Z{number:04}"  # Z is in no code that is drawn
    return file


def test_its_people_come_as_names_that_can_not_sign_in(session: Session) -> None:
    file, _ = taken_in_where_it_never_was(session, whole)
    brought = session.scalars(select(Person).where(Person.name.like(f"% ({file['lab']})"))).all()
    assert (
        len(brought) == 2
        and not any(one.active for one in brought)
        and {one.password_hash for one in brought} == {"none"}
    )


def test_it_is_taken_in_once(session: Session, lived: Trial) -> None:
    with pytest.raises(Refused, match="in this lab already"):
        carried.take_in(session, create_person(session), NOW, sent(session, lived), "now")


def test_two_labs_that_drew_the_same_code_keep_both_labels_and_a_scan_asks_which(
    session: Session, sign_in: SignIn
) -> None:
    before = session.begin_nested()
    file = renamed(sent(session, whole(session)))
    before.rollback()
    session.expire_all()
    own = create_finished(session, create_person(session), create_person(session, "scorer"), cuttings_per_arm=6)
    met = own.units[0].code
    file["tables"]["unit"][3]["code"] = met
    here = carried.take_in(session, create_person(session), NOW, file, "now")
    theirs = next(unit for unit in here.units if unit.code == met)
    assert load.units_by_code(session, met) == [own.units[0], theirs], "what was drawn here comes first"
    assert [load.unit_by_code(session, met, one.id) for one in (own, here)] == [own.units[0], theirs]
    assert load.unit_by_code(session, met) is own.units[0]
    session.commit()
    client = sign_in()
    asked = client.get(f"/find?code={met}")
    links = [link["href"] for link in BeautifulSoup(asked.text, "html.parser").select("main .acts a")]
    assert asked.status_code == 200 and own.code in asked.text and f"from {here.brought_from}" in flat(asked.text)
    assert [client.get(link).headers["Location"].split("?")[0] for link in links] == [
        f"/trials/{one.id}/score" for one in (own, here)
    ]
    with pytest.raises(IntegrityError), session.begin_nested():
        session.execute(update(Unit).where(Unit.id == own.units[1].id).values(code=met))


@pytest.mark.parametrize("wrong", ["form", "revision", "unit", "column", "person", "nothing"])
def test_what_does_not_hold_together_is_refused_and_nothing_is_kept(session: Session, wrong: str) -> None:
    before = session.begin_nested()
    file = sent(session, whole(session))
    before.rollback()
    session.expire_all()
    if wrong == "form":
        file["form"] = "another"
    elif wrong == "revision":
        file["revision"] = "20200101_0000_old"
    elif wrong == "unit":
        file["tables"]["cutting"][0]["unit_id"] = 9999
    elif wrong == "column":
        file["tables"]["unit"][0]["colour"] = "red"
    elif wrong == "person":
        file["people"].popitem()
    else:
        file["tables"] = []
    people = len(session.scalars(select(Person.id)).all())
    with pytest.raises(UnusableData):
        carried.take_in(session, create_person(session), NOW, file, "now")
    assert session.scalars(select(Trial.id)).all() == []
    assert len(session.scalars(select(Person.id)).all()) == people + 1, "the one who tried"


def test_every_json_column_says_whether_it_holds_ids() -> None:
    there = {(table.name, c.name) for table in carried.tables() for c in table.columns if isinstance(c.type, JSON)}
    assert (
        there == set(carried.IDS_INSIDE) | carried.PLAIN_INSIDE | carried.PERSON_INSIDE
        and not set(carried.IDS_INSIDE) & carried.PLAIN_INSIDE
    )


def test_every_table_of_a_trial_goes_along_or_is_named_as_staying() -> None:
    going = {table.name for table in carried.tables()} | set(carried.STAYS)
    assert {table.name for table in Base.metadata.sorted_tables if "trial_id" in table.c} <= going


def post(client: FlaskClient, data: bytes) -> object:
    return client.post(
        "/trial-from-a-lab",
        data={"package": FileStorage(io.BytesIO(data), "t.zip")},
        content_type="multipart/form-data",
    )


def packed(files: dict[str, Content]) -> bytes:
    out = io.BytesIO()
    package(out, "t", "t", "d", NOW, files)
    return out.getvalue()


def unpacked(data: bytes) -> Package:
    return read_package(io.BytesIO(data))


def as_in_another_lab(session: Session) -> None:
    """What is there has other labels and keys, as if it never was here."""
    for unit in session.scalars(select(Unit)):
        unit.code = f"0{unit.code[1:]}"
    session.execute(update(Note).values(request_key=None))
    session.commit()


def test_the_package_holds_it_for_those_who_plan_and_another_lab_takes_it_in_with_its_photos(
    session: Session, sign_in: SignIn, app, lived: Trial
) -> None:
    session.commit()
    assert send(sign_in, lived, jpeg()).status_code == 303
    where = f"/trials/{lived.id}/package.zip"
    taken, read = (sign_in(role).get(where).data for role in ("researcher", "reader"))
    assert "trial.json" in unpacked(taken) and "trial.json" not in unpacked(read)
    assert "trial.json" in unpacked(sign_in().get(f"{where}?photos=no").data)
    as_in_another_lab(session)
    folder = Path(app.config["PHOTOS"])
    for one in folder.glob("*.jpg"):
        one.unlink()
    client = sign_in("researcher")
    answered = post(client, taken)
    assert answered.status_code == 303, flat(answered.text)
    here = session.scalars(select(Trial).order_by(Trial.id.desc())).first()
    assert here.id != lived.id and here.code == f"{lived.code}-2"
    assert f"there {lived.code}" in flat(client.get(f"/trials/{here.id}/question").text)
    assert f"(from {here.brought_from})" in flat(client.get(f"/trials/{here.id}/report").text)
    photo = session.scalars(select(PhotoKept).where(PhotoKept.trial_id == here.id)).one()
    assert (folder / f"{photo.digest}.jpg").is_file() and (folder / f"{photo.digest}.small.jpg").is_file()
    for page in ("design", "prepare", "stick", "tend", "score", "compare", "conclude", "report", "photos"):
        assert client.get(f"/trials/{here.id}/{page}").status_code == 200, page
    assert "took a trial in" in session.scalars(select(AuditEntry.action)).all()
    twice = post(client, taken)
    assert twice.status_code in (409, 422) and "in this lab already" in flat(twice.text)
    assert sign_in("scorer").post("/trial-from-a-lab").status_code == 403


def test_a_package_may_be_larger_than_other_files_for_those_who_take_trials_in(
    session: Session, sign_in: SignIn, lived: Trial, monkeypatch: pytest.MonkeyPatch
) -> None:
    session.commit()
    taken = sign_in().get(f"/trials/{lived.id}/package.zip").data
    as_in_another_lab(session)
    monkeypatch.setattr("orderly_bench.app.MOST_UPLOAD_BYTES", len(taken) // 2)
    for role, status in (("scorer", 413), ("researcher", 303)):
        assert post(sign_in(role), taken).status_code == status, role
    other = {"file": (io.BytesIO(taken), "scores.csv")}
    assert sign_in().post("/old-trial", data=other, content_type="multipart/form-data").status_code == 413


def test_photos_are_held_one_at_a_time() -> None:
    """Each is asked for when it is written, and read when it is its turn."""
    asked: list[str] = []

    def photo(name: str) -> Callable[[], bytes]:
        return lambda: asked.append(name) or name.encode()

    made = packed({"a.jpg": photo("a"), "b.txt": "between", "c.jpg": photo("c")})
    assert (
        asked == ["a", "c"] and unpacked(made)["c.jpg"] == b"c" and list(unpacked(made)) == ["a.jpg", "b.txt", "c.jpg"]
    )


@pytest.mark.parametrize("data", [b"", b"no zip", packed({"plan.yaml": "x"})])
def test_what_is_no_trial_is_refused_with_what_to_do(sign_in: SignIn, data: bytes) -> None:
    answered = post(sign_in(), data)
    assert answered.status_code == 422 and ("zip" in flat(answered.text) or "package" in flat(answered.text))


def test_a_package_that_was_changed_is_noticed() -> None:
    made = packed({"a.txt": "as it was"})
    assert dict(unpacked(made)) == {"a.txt": b"as it was"}
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(made)) as old, zipfile.ZipFile(out, "w") as new:
        for entry in old.infolist():
            new.writestr(entry, old.read(entry).replace(b"as it was", b"as it is!"))
    with pytest.raises(UnusableData, match=r"a\.txt is not as its package describes it"):
        unpacked(out.getvalue())


@pytest.mark.parametrize("group_first", [False, True])
def test_a_group_beside_a_trial_finds_it_again_whichever_comes_first(session: Session, group_first: bool) -> None:
    before = session.begin_nested()
    actor, scorer = create_person(session), create_person(session, "scorer")
    trial, own = (create_finished(session, actor, scorer, cuttings_per_arm=6) for _ in range(2))
    session.add(SideTrial(trial_id=trial.id, group="late ones", own_id=own.id))
    session.flush()
    files = [sent(session, one) for one in (trial, own)]
    before.rollback()
    session.expire_all()
    taken = {}
    for n in (1, 0) if group_first else (0, 1):
        assert not session.scalars(select(SideTrial)).all(), "nothing to link to yet"
        taken[n] = carried.take_in(session, create_person(session), NOW, files[n], "now")
    (link,) = session.scalars(select(SideTrial)).all()
    assert (link.trial_id, link.group, link.own_id) == (taken[0].id, "late ones", taken[1].id)
    assert sent(session, taken[0])["beside"] == files[0]["beside"]
