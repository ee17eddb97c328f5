"""A trial as rows that another lab can take in: ids of their own, people by name, plants by code; and back.

Everything that belongs to the trial goes along, who did what when with it, but what is worked out again.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from datetime import date, datetime
from typing import Any

from sqlalchemy import JSON, Table, func, insert, or_, select
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session

from orderly_bench.core.errors import OrderlyError, Refused, UnusableData
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.database.base import Base
from orderly_bench.stock.models import Lesson, StockBench, StockPlant
from orderly_bench.trial.audit import Action, record
from orderly_bench.trial.models import Lab, Person, SideTrial, Trial, Unit
from orderly_bench.trial.turns import take_lab

FORM = "orderly-bench trial 1"
#: What stays: what is worked out again or being read, devices that have something along. Which trials stand beside it goes by labels.
STAYS = ("curve_kept", "worked_out", "log_intake", "taken_along", "side_trial")
#: What its rows point at beside each other, and how that is called here.
OUTSIDE = {"person": "people", "stock_plant": "plants", "stock_bench": "benches"}
#: JSON that holds ids, and of what; of a mapping to lists the first of each list.
IDS_INSIDE = {
    ("trial", "tended_by"): "person", ("hand_reading", "units"): "unit", ("check_visit", "lift_order"): "unit",
    ("check_visit", "second_of"): "cutting", ("lot", "steps"): "person",
}  # fmt: skip
#: JSON in which a person's id may stand under ``person``.
PERSON_INSIDE = {("audit_entry", "old"), ("audit_entry", "new")}
#: JSON that holds none.
PLAIN_INSIDE = {
    ("condition_log", "report"), ("condition_log", "days"), ("draw", "result"), ("prediction", "ranking"), ("prediction", "of_arms"),
    ("lot", "usual"), ("lot", "came"), ("cutting", "own_measures"), ("cutting", "usual_measures"), ("score", "details"),
    ("hardening_night", "nipped"), ("trial", "costs"), ("photo_length", "points"), ("photo_length", "scale"),
}  # fmt: skip
NO_SIGN_IN = "none"
Row = dict[str, Any]


def tables() -> list[Table]:
    """Tables of a trial, those that are pointed at first."""
    found: list[Table] = [Trial.__table__]  # type: ignore[list-item]
    for table in Base.metadata.sorted_tables:
        names = {one.name for one in found}
        points = {key.column.table.name for key in table.foreign_keys} - {table.name}
        if table.name not in STAYS and table.name != "trial" and points & names:
            found.append(table)
    return found


def _points(table: Table) -> dict[str, str]:
    """Columns that hold an id, each with the table of that id."""
    found = {key.parent.name: key.column.table.name for key in table.foreign_keys if key.column.name == "id"}
    return found | ({"trial_id": "trial"} if "trial_id" in table.c else {})


def _own_rows(session: Session, trial: Trial) -> dict[str, list[Row]]:
    """Rows as they lie in this database, in the order of their keys."""
    found: dict[str, list[Row]] = {}
    for table in tables():
        if table.name == "trial":
            mine = table.c.id == trial.id
        elif "trial_id" in table.c:
            mine = table.c.trial_id == trial.id
        else:
            column, of = next((c, of) for c, of in _points(table).items() if of in found)
            mine = table.c[column].in_([row["id"] for row in found[of]])
        rows = session.execute(select(table).where(mine).order_by(*table.primary_key.columns))
        found[table.name] = [dict(row._mapping) for row in rows]
    return found


def _with_ids(table: Table, row: Row, new: Callable[[str, int], int]) -> Row:
    """A row with other ids, its own left alone."""
    made = dict(row)
    for column, of in _points(table).items():
        if made[column] is not None:
            made[column] = new(of, made[column])
    for (name, column), of in IDS_INSIDE.items():
        if name == table.name and (held := made.get(column)):
            if isinstance(held, dict):
                made[column] = {key: [new(of, value[0]), *value[1:]] for key, value in held.items()}
            else:
                made[column] = [new(of, number) for number in held]
    for name, column in PERSON_INSIDE:
        held = made.get(column) if name == table.name else None
        if isinstance(held, dict) and isinstance(held.get("person"), int):
            made[column] = {**held, "person": new("person", held["person"])}
    return made


def written(session: Session, trial: Trial, revision: str) -> dict[str, Any]:
    """A trial as one JSON value; ids count from 1 in each table.

    Parameters
    ----------
    revision : str
        The migration that the tables stand at.
    """
    rows = _own_rows(session, trial)
    ranks = {
        name: {row["id"]: n for n, row in enumerate(of, start=1)} for name, of in rows.items() if of and "id" in of[0]
    }
    outside: dict[str, dict[int, int]] = {name: {} for name in OUTSIDE}

    def new(of: str, number: int) -> int:
        if of in outside:
            return outside[of].setdefault(number, len(outside[of]) + 1)
        return ranks[of][number]

    named = {
        table.name: [
            {column: _plain(value) for column, value in (_with_ids(table, row, new) | _own_id(ranks, table.name, row)).items()}
            for row in rows[table.name]
        ]
        for table in tables()
    }  # fmt: skip
    lessons = session.scalars(select(Lesson).where(Lesson.trial_code == trial.code).order_by(Lesson.id))
    kept = [
        {c.name: _plain(getattr(one, c.name)) for c in Lesson.__table__.columns if c.name != "id"} for one in lessons
    ]
    people = {n: session.get_one(Person, number).name for number, n in outside["person"].items()}
    plants = {n: _plant(session.get_one(StockPlant, number)) for number, n in outside["stock_plant"].items()}
    benches = {n: session.get_one(StockBench, number).name for number, n in outside["stock_bench"].items()}
    lab = session.scalars(select(Lab)).one().name
    return {
        "form": FORM, "revision": revision, "lab": lab, "code": trial.code, "people": people, "plants": plants, "benches": benches,
        "lessons": kept, "beside": _beside(session, trial), "tables": named,
    }  # fmt: skip


def _beside(session: Session, trial: Trial) -> list[dict[str, Any]]:
    """Its links to trials that stand beside each other, whichever of the two it is; the other is known by a label of its own."""
    query = select(SideTrial).where(or_(SideTrial.trial_id == trial.id, SideTrial.own_id == trial.id))
    found = []
    for link in session.scalars(query.order_by(SideTrial.id)):
        other = link.own if link.trial_id == trial.id else link.trial
        label = min((unit.code for unit in other.units), default="")
        found.append({"group": link.group, "is_the_group": link.own_id == trial.id, "label": label})
    return found


def _link(session: Session, trial: Trial, sent: Mapping[str, Any]) -> None:
    """The links of a trial that came in to those that are here already; the one that comes last makes them."""
    for link in sent["beside"]:
        labelled = select(Unit.trial_id).where(Unit.code == str(link["label"])).order_by(Unit.brought.desc())
        other = session.scalars(labelled).first()
        if other is not None:
            pair = (other, trial.id) if link["is_the_group"] else (trial.id, other)
            session.add(SideTrial(trial_id=pair[0], group=str(link["group"])[:60], own_id=pair[1]))
    session.flush()


def _own_id(ranks: Mapping[str, Mapping[int, int]], name: str, row: Row) -> Row:
    """Its id counted from 1; where a unit's label was printed is each lab's own."""
    return {"id": ranks[name][row["id"]]} | ({"brought": 0} if name == "unit" else {}) if "id" in row else {}


def _plant(plant: StockPlant) -> dict[str, str]:
    return {"code": plant.code, "taxon": plant.taxon}


def _plain(value: Any) -> Any:
    """As JSON holds it."""
    if isinstance(value, datetime):
        return {"at": value.isoformat()}
    return {"on": value.isoformat()} if isinstance(value, date) else value


def _back(value: Any) -> Any:
    if isinstance(value, dict) and len(value) == 1:
        ((kind, held),) = value.items()
        if kind == "at":
            return datetime.fromisoformat(held)
        if kind == "on":
            return date.fromisoformat(held)
    return value


def take_in(session: Session, actor: Person, now: datetime, sent: Mapping[str, Any], revision: str) -> Trial:
    """A trial of another lab, whole; its people come along as names without an account.

    Raises
    ------
    UnusableData
        Not what ``written`` wrote, of another version, or damaged.
    Refused
        Most of its labels are in this lab already.
    """
    _check(session, sent, revision)
    take_lab(session)
    code = _free_code(session, str(sent["code"]))
    whence = _("{lab}, there {code}", lab=sent["lab"], code=sent["code"])[:160]
    ids: dict[str, dict[int, int]] = {}
    try:
        with session.begin_nested():
            ids |= {
                "person": _people(session, sent, now),
                "stock_plant": _plants(session, sent),
                "stock_bench": _benches(session, sent),
            }
            for table in tables():
                ids[table.name] = _put(session, table, sent["tables"].get(table.name, []), ids, code, whence)
            for lesson in sent["lessons"]:
                session.add(Lesson(**{name: _back(value) for name, value in lesson.items()} | {"trial_code": code}))
            session.flush()
            _link(session, session.get_one(Trial, ids["trial"][1]), sent)
    except (KeyError, TypeError, ValueError, AttributeError, DBAPIError, OrderlyError) as error:
        raise UnusableData(
            _("its rows do not hold together ({why})", why=str(getattr(error, "orig", error))[:120]), _("Take the file anew from its lab")
        ) from error  # fmt: skip
    trial = session.get_one(Trial, ids["trial"][1])
    session.refresh(trial)
    record(session, actor, now, Action.TOOK_A_TRIAL_IN, trial, new={"from": sent["lab"], "as": sent["code"]})
    return trial


def _check(session: Session, sent: Mapping[str, Any], revision: str) -> None:
    wanted = {"form", "revision", "lab", "code", "people", "plants", "benches", "lessons", "beside", "tables"}
    if (
        not isinstance(sent, dict)
        or set(sent) != wanted
        or sent["form"] != FORM
        or not isinstance(sent["tables"], dict)
    ):
        raise UnusableData(
            _("this is no trial that a lab wrote"), _("Take the zip from Conclude, Everything in one zip")
        )
    if sent["revision"] != revision:
        raise UnusableData(
            _("the file is of another version than this lab"),
            _("Bring both labs to the same version, and take it anew"),
        )
    units = sent["tables"].get("unit", [])
    codes = [unit.get("code") for unit in units if isinstance(unit, dict)]
    there = set(session.scalars(select(Unit.code).where(Unit.code.in_(codes)))) if codes else set()
    # Two labs draw from the same codes, so a few may meet; most of a trial's do only where it is the same one.
    if 2 * len(there) > len(codes):
        some = ", ".join(sorted(there)[:3])
        raise Refused(_("Labels of it are in this lab already ({codes}). Was it taken in before?", codes=some))


def _free_code(session: Session, code: str) -> str:
    """The code it had, else with a number behind it."""
    number, free = 1, code[:16]
    while session.scalar(select(Trial.id).where(Trial.code == free)):
        number += 1
        free = f"{code[:16]}-{number}"
    return free


def _put(
    session: Session, table: Table, rows: list[Row], ids: Mapping[str, dict[int, int]], code: str, whence: str
) -> dict[int, int]:
    """Write rows, and give their new ids by those of the file."""
    own: dict[int, int] = {}
    known = {**ids, table.name: own}
    for row in rows:
        unknown = set(row) - set(table.c.keys())
        if unknown:
            raise ValueError(f"{table.name}: {', '.join(sorted(unknown))}")
        values = {
            name: value if isinstance(table.c[name].type, JSON) else _back(value)
            for name, value in row.items()
            if name != "id"
        }
        made = _with_ids(table, values, lambda of, number: known[of][number])
        if table.name == "audit_entry":
            made["action"] = Action(made["action"]).value
        if table.name == "trial":
            made |= {"code": code, "turn": 0, "brought_from": made["brought_from"] or whence}
        if table.name == "unit":
            made["brought"] = made["trial_id"]
        result = session.connection().execute(insert(table).values(made))
        if "id" in row:
            (own[row["id"]],) = result.inserted_primary_key or (0,)
    return own


def _people(session: Session, sent: Mapping[str, Any], now: datetime) -> dict[int, int]:
    """People of the other lab, by name and lab; without an account."""
    found = {}
    for number, name in sent["people"].items():
        called = f"{name} ({sent['lab']})"[:80]
        person = session.scalars(
            select(Person).where(Person.name == called, Person.password_hash == NO_SIGN_IN)
        ).first()
        if person is None:
            last = session.scalar(select(func.max(Person.id))) or 0
            person = Person(
                name=called,
                sign_in_name=f"from-elsewhere-{last + 1}",
                role="reader",
                password_hash=NO_SIGN_IN,
                active=False,
                created_at=now,
            )
            session.add(person)
            session.flush()
        found[int(number)] = person.id
    return found


def _plants(session: Session, sent: Mapping[str, Any]) -> dict[int, int]:
    """Stock plants by their code; one that is there under another taxon is another plant."""
    found = {}
    for number, plant in sent["plants"].items():
        here = session.scalars(select(StockPlant).where(StockPlant.code == plant["code"])).first()
        if here is not None and here.taxon != plant["taxon"]:
            called = f"{plant['code'][:28]} elsewhere"
            here, plant = (
                session.scalars(select(StockPlant).where(StockPlant.code == called)).first(),
                {**plant, "code": called},
            )
        if here is None:
            here = StockPlant(code=plant["code"], taxon=plant["taxon"], source=str(sent["lab"])[:120], gone=True)
            session.add(here)
            session.flush()
        found[int(number)] = here.id
    return found


def _benches(session: Session, sent: Mapping[str, Any]) -> dict[int, int]:
    found = {}
    for number, name in sent["benches"].items():
        here = session.scalars(select(StockBench).where(StockBench.name == name)).first()
        if here is None:
            here = StockBench(name=name)
            session.add(here)
            session.flush()
        found[int(number)] = here.id
    return found
