"""Measures of cuttings as they go in: of one, of all of a lot from here on, or of a tray in bench order."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from datetime import datetime

from sqlalchemy.orm import Session

from orderly_bench.chapters.stick.operations import refuse_unless_sticking
from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.stick.piece_measures import BY_NAME, PieceMeasure, read_in_order, read_measures
from orderly_bench.core.stick.tally import Status
from orderly_bench.trial.audit import Action, record
from orderly_bench.trial.load import units_with_everything
from orderly_bench.trial.models import Cutting, Lot, Person, Trial


def measure_of(name: str) -> PieceMeasure:
    """A measure by its name."""
    if name not in BY_NAME:
        raise InvalidInput("measure", _("choose one of the list"), name or "nothing")
    return BY_NAME[name]


def note(
    session: Session, trial: Trial, actor: Person, now: datetime, cutting: Cutting, typed: Mapping[str, str]
) -> None:
    """What was noted of one cutting; of those sent, a blank one is what its lot has."""
    refuse_unless_sticking(session, trial, cutting.unit.wave)
    made = read_measures(typed)
    kept = {name: value for name, value in cutting.own_measures.items() if name not in typed}
    _keep(
        cutting, {**kept, **{name: value for name, value in made.items() if cutting.usual_measures.get(name) != value}}
    )
    session.flush()
    record(session, actor, now, Action.NOTED_HOW_IT_WENT_IN, trial, new={"code": cutting.code, **cutting.own_measures})


def _keep(cutting: Cutting, values: dict[str, str]) -> None:
    if cutting.own_measures != values:
        cutting.own_measures = values


def note_usual(
    session: Session, trial: Trial, actor: Person, now: datetime, lot: Lot, typed: Mapping[str, str], first: str = ""
) -> int:
    """What holds of a lot unless noted otherwise: of all in it, or from the unit with the code ``first`` on in bench order.

    Returns how many cuttings that are stuck got it.
    """
    refuse_unless_sticking(session, trial, lot.wave)
    made = read_measures(typed)
    here = [c for c in in_bench_order(session, trial) if c.lot_id == lot.id and c.status == Status.STUCK]
    if first:
        codes = [c.unit.code for c in here]
        if first not in codes:
            raise InvalidInput(
                "from the unit", _("scan or type the code of one that is stuck in {lot}", lot=lot.name), first
            )
        here = here[codes.index(first) :]
    lot.usual = {**{name: value for name, value in lot.usual.items() if name not in typed}, **made}
    for cutting in here:
        cutting.usual_measures = dict(lot.usual)
    session.flush()
    new = {"lot": lot.name, "from": first or "all", **lot.usual}
    record(session, actor, now, Action.NOTED_HOW_A_LOT_WENT_IN, trial, new=new)
    return len(here)


def note_in_order(
    session: Session, trial: Trial, actor: Person, now: datetime, places: Iterable[Cutting], name: str, typed: str
) -> int:
    """One measure of several cuttings, in the order given; a place without a value keeps what it had. Returns how many were noted."""
    measure, cuttings = measure_of(name), list(places)
    for wave in {cutting.unit.wave for cutting in cuttings}:
        refuse_unless_sticking(session, trial, wave)
    values = read_in_order(measure, typed, len(cuttings))
    for cutting, value in zip(cuttings, values, strict=True):
        if value:
            _keep(cutting, {**cutting.own_measures, name: value})
    session.flush()
    noted = sum(1 for value in values if value)
    new: dict[str, object] = {"measure": name, "cuttings": noted, "from": cuttings[0].code if cuttings else ""}
    new["values"] = " ".join(value or "-" for value in values)
    record(session, actor, now, Action.NOTED_HOW_IT_WENT_IN, trial, new=new)
    return noted


def in_bench_order(session: Session, trial: Trial) -> list[Cutting]:
    """Every cutting but replacements, tray by tray, row by row."""
    units = units_with_everything(session, trial)
    units.sort(key=lambda u: (u.place.tray.number, u.place.row, u.place.column))
    return [c for unit in units for c in sorted(unit.cuttings, key=lambda c: c.number) if c.replaces_id is None]
