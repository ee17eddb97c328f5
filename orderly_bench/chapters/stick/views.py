"""What the Stick page prints."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass

from flask import url_for

from orderly_bench.core.cautions import Caution
from orderly_bench.core.design.codes import spaced
from orderly_bench.core.messages.say import caution
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.stick.half_way import Lacking, ToStick, propose
from orderly_bench.core.stick.held import Held, too_long
from orderly_bench.core.stick.piece_measures import MEASURES, Noted, OverArms, PieceMeasure, over_arms
from orderly_bench.core.stick.tally import Status, StickTally, tally
from orderly_bench.figures.glyphs import Look
from orderly_bench.trial import load
from orderly_bench.trial.load import PARTED
from orderly_bench.trial.models import Arm, Cutting, Trial, Unit
from orderly_bench.web.bench_map import Cell, TrayView, tray_views

STUCK = Look("fresh", "not looked")


@dataclass(frozen=True)
class HalfWay:
    """What is proposed where something runs out: its words, and the cuttings that would be left out, with the reason they get."""

    words: str
    leave: list[str]
    reason: str


@dataclass(frozen=True)
class TallyRow:
    """One line of the tally; ``arm`` None for the total."""

    arm: Arm | None
    counts: StickTally


def tally_rows(trial: Trial, units: list[Unit], hidden: bool) -> list[TallyRow]:
    """Tally by arm, then for all."""
    pairs = [(unit.arm_id, c.status, c.not_stuck_reason) for unit in units for c in unit.cuttings]
    rows = [] if hidden else [TallyRow(arm, tally((s, r) for a, s, r in pairs if a == arm.id)) for arm in trial.arms]
    return [*rows, TallyRow(None, tally((s, r) for _, s, r in pairs))]


@dataclass(frozen=True)
class SheetRow:
    """A line of the sticking sheet: a cutting, its unit, and the piece that goes in (blank: any)."""

    code: str
    unit: Unit
    piece: str


def sheet_rows(units: list[Unit]) -> list[SheetRow]:
    """Every cutting that was planned, in bench order, with its piece where pieces were allotted."""
    return [
        SheetRow(c.code, unit, c.donor.code if c.donor else "")
        for unit in units
        for c in unit.cuttings
        if c.replaces_id is None
    ]


def tally_by_block(units: list[Unit]) -> list[tuple[str, StickTally]]:
    """The tally of each block or pair; none where there are none, or each holds one unit."""
    of: dict[str, list[tuple[str, str | None]]] = {}
    held: Counter[str] = Counter()
    for unit in units:
        name = _parted(unit)
        held[name] += 1
        of.setdefault(name, []).extend((c.status, c.not_stuck_reason) for c in unit.cuttings)
    return [(name, tally(pairs)) for name, pairs in of.items()] if len(of) > 1 and max(held.values()) > 2 else []


def _parted(unit: Unit) -> str:
    """The block, pair or whole plot of a unit; blank where there is none."""
    return next((g.name for kind in PARTED for g in unit.groupings if g.kind == kind), "")


def half_way(units: list[Unit], hidden: bool, lacking: Lacking, enough: int) -> HalfWay:
    """Which of the units that nobody decided to stick with what there is; whole blocks first."""
    stuck: Counter[str] = Counter()
    begun, left, waiting = set(), [], {}
    for unit in units:
        group = _parted(unit)
        planned = [c.code for c in unit.cuttings if c.status == Status.PLANNED]
        if planned:
            left.append(ToStick(unit.code, unit.arm.letter, group, len(planned)))
            waiting[unit.code] = planned
        elif any(c.status == Status.STUCK for c in unit.cuttings):
            begun.add(group)
            stuck[unit.arm.letter] += 1
    found = propose(left, stuck, begun, lacking, enough)
    return HalfWay(found.words(hidden), [code for unit in found.leave for code in waiting[unit]], lacking.reason)


def delays(trial: Trial) -> list[Caution]:
    """Lots held for longer than the plan allows, as the doubt they will be."""
    most = trial.plan.question.held_most_hours
    told = too_long([Held(lot.name, lot.held_hours, lot.held_on_purpose) for lot in trial.lots], most)
    return [caution("held_long", told=told, most=most)] if told else []


def measures_shown(trial: Trial, hidden: bool) -> list[PieceMeasure]:
    """What can be noted here, choices before sizes; while arms are hidden not what they may be told by."""
    differ = trial.plan.treatments.kinds_that_differ if hidden else set()
    return sorted((one for one in MEASURES if one.of not in differ), key=lambda one: not one.kind.options)


def exceptions(cuttings: list[Cutting], measures: list[PieceMeasure]) -> list[tuple[Cutting, str]]:
    """Cuttings of which anything was noted alone that is no size, with its words."""
    found = []
    for cutting in cuttings:
        own = cutting.own_measures
        noted = [f"{_(one.words)}: {_(own[one.name])}" for one in measures if one.name in own and not one.kind.limits]
        found += [(cutting, ", ".join(noted))] if noted else []
    return found


def measured_words(cuttings: list[Cutting], measures: list[PieceMeasure]) -> str:
    """What was measured so far: each measure with how many it is known of."""
    known = [(one, sum(1 for c in cuttings if one.name in c.measures)) for one in measures]
    told = [f"{_(one.words)} ({n})" for one, n in known if n]
    return ", ".join(told) or _("nothing yet")


def over_the_arms(trial: Trial, cuttings: list[Cutting]) -> list[OverArms]:
    """What was noted of what is stuck so far, over the arms, the most uneven first."""
    letters = {arm.id: arm.letter for arm in trial.arms}
    stuck = [c for c in cuttings if c.status == Status.STUCK]
    noted = [Noted(letters[c.unit.arm_id], c.measures) for c in stuck]
    return over_arms(noted, list(letters.values()), trial.plan.treatments.kinds_that_differ)


def map_of(trial: Trial, units: list[Unit], hidden: bool, tray_number: int) -> TrayView:
    """One tray as it is stuck."""

    def cell(unit: Unit) -> Cell:
        cutting = next((c for c in unit.cuttings if c.status == "planned"), unit.cuttings[0])
        arm = "" if hidden else _(", arm {letter}: {name}", letter=unit.arm.letter, name=unit.arm.name)
        status = _status(unit)
        label = _(
            "{spaced}, row {row} column {column}{arm}: {status}",
            spaced=spaced(unit.code),
            row=unit.place.row,
            column=unit.place.column,
            arm=arm,
            status=status,
        )
        href = url_for("stick.stick_page", trial_id=trial.id, tray=tray_number, cutting=cutting.id) + "#exception"
        look = STUCK if all(c.status == "stuck" for c in unit.cuttings) else None
        return Cell(
            unit.place.row,
            unit.place.column,
            cutting.id,
            label,
            href,
            "" if hidden else unit.arm.letter,
            look,
            any(c.status == "not stuck" for c in unit.cuttings),
        )

    trays = [tray for tray in trial.trays if tray.number == tray_number]
    here = [unit for unit in units if unit.place.tray.number == tray_number]
    return tray_views(trays, here, cell, cell_px=58)[0]


def _status(unit: Unit) -> str:
    """What became of a unit's cuttings so far, in words."""
    if len(unit.cuttings) > 1:
        counts = tally((c.status, c.not_stuck_reason) for c in unit.cuttings)
        return _("{stuck} of {planned} stuck", stuck=counts.stuck, planned=counts.planned) + (
            _(", {not_stuck} not", not_stuck=counts.not_stuck) if counts.not_stuck else ""
        )
    cutting = unit.cuttings[0]
    return (
        _("not stuck: {not_stuck_reason}", not_stuck_reason=cutting.not_stuck_reason)
        if cutting.not_stuck_reason
        else cutting.status
    )


def gets(trial: Trial, units: list[Unit], tray_number: int) -> str:
    """What goes on the whole of a tray, in words; blank where nothing does."""
    return ", ".join(one.words for one in load.whole_trays(trial, units) if tray_number in one.trays)


def what_goes_in(trial: Trial, units: list[Unit], tray_number: int) -> list[tuple[int, list[tuple[str, Arm]]]]:
    """Row by row, the codes and arms of a tray in the order they are stuck, so that labels can be written by hand."""
    here = sorted((u for u in units if u.place.tray.number == tray_number), key=lambda u: u.place.column)
    rows = sorted({unit.place.row for unit in here})
    return [(row, [(u.code, u.arm) for u in here if u.place.row == row]) for row in rows]
