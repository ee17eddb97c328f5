"""A finished trial brought in whole: question, design, lock, sticking, its checks and their scores, or nothing of it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from datetime import date, datetime, timedelta

from sqlalchemy.orm import Session

from orderly_bench.at_once.old_looks import Visit, visits_of
from orderly_bench.chapters.design import locking
from orderly_bench.chapters.design import operations as design
from orderly_bench.chapters.question import operations as question
from orderly_bench.chapters.score import operations as score
from orderly_bench.chapters.stick import operations as stick
from orderly_bench.core.design.convincing import why_not
from orderly_bench.core.design.made_elsewhere import MadeUnit
from orderly_bench.core.errors import InvalidInput, UnusableData
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.plan.aspects import AspectKind
from orderly_bench.core.plan.edit import container_not_said
from orderly_bench.core.plan.question import TrialKind
from orderly_bench.core.plan.table import Line, Table
from orderly_bench.core.plan.value import CameToArms
from orderly_bench.core.question.not_counted import counted_alone
from orderly_bench.core.question.old_trial import OldTrial
from orderly_bench.core.responses.kind import Response
from orderly_bench.core.responses.registry import kind_of
from orderly_bench.core.vocabulary import Roots
from orderly_bench.formats.old_trial_csv import OldRow
from orderly_bench.trial.checks import checks_of
from orderly_bench.trial.models import CheckVisit, Cutting, Person, Trial, Unit
from orderly_bench.trial.progress import progress_of

MOST_ARMS = 12
#: Why a place that a smaller unit lacks was not stuck.
LACKED = "short of material"


def bring_in(
    session: Session, actor: Person, now: datetime, today: date, told: OldTrial, rows: Sequence[OldRow]
) -> Trial:
    """The trial with every score, its checks closed; it is retrospective, for its plan is locked after its end.

    Raises
    ------
    UnusableData
        Too many arms, a unit in two arms or blocks, or a design that no layout holds.
    InvalidInput
        Looks that don't fit what is told, or one alone where days to root are asked.
    """
    arms = list(dict.fromkeys(row.levels for row in rows))
    if len(arms) > MOST_ARMS:
        raise UnusableData(_("{n} arms", n=len(arms)), _("At most {most}; name fewer columns", most=MOST_ARMS))
    units, visits = _units(rows, arms), visits_of(told, rows)
    if told.endpoint is Response.DAYS and len(visits) < 2:
        raise InvalidInput(_("What was asked"), _("days to root need several looks, each with its day"))
    if told.stuck:
        counted_alone(
            {", ".join(levels): sum(_has_roots(row) for row in rows if row.levels == levels) for levels in arms},
            told.stuck,
        )
    trial = question.create_trial(session, actor, now, told.plant)
    kind = TrialKind.RATE if len(arms) == 1 else TrialKind.TEST
    *looks, end = [str(visit.das) for visit in visits]
    asked = {"endpoint_day": end, "check_days": ", ".join(looks), "response": told.endpoint.value}
    if told.margin is not None:
        asked["margin_points" if kind_of(told.endpoint).yes_no else "margin_own"] = f"{told.margin:g}"
    table = _table(told, arms)
    _ask(session, trial, actor, now, asked, TrialKind.LOOK if told.came is CameToArms.BEST_TO_ONE else kind, table)
    made = _placed(trial, units)
    reason = _("brought in from a file; {told}", told=told.told)[:300]
    design.import_design(session, trial, actor, now, made, reason, told.came)
    trial.keep_plan(replace(trial.plan, design=replace(trial.plan.design, stuck=told.stuck)))
    if why_not(trial.plan) and kind is TrialKind.TEST:
        _ask(session, trial, actor, now, asked, TrialKind.LOOK, table)
    trial.keep_plan(container_not_said(trial.plan))
    locking.lock_plan(session, trial, actor, now)
    lot = stick.add_lot(session, trial, actor, now, trial.waves[0], stick.LotValues(told.stuck_on), today)
    own = dict(zip(_in_order(trial), units, strict=True))
    for unit, there in own.items():
        for cutting in unit.cuttings[len(there) :]:
            stick.set_cutting(session, trial, actor, now, cutting, LACKED, lot)
    for tray in trial.trays:
        stick.confirm_tray(session, trial, actor, now, tray.number, lot)
    stick.finish_sticking(session, trial, actor, now)
    place = {id(row): i for i, row in enumerate(rows)}
    of_row = [
        (cutting, place[id(row)])
        for unit, there in own.items()
        for cutting, row in zip(unit.cuttings, there, strict=False)
    ]
    of_day = {check.planned_das: check for check in checks_of(session, trial)}
    for visit in visits:
        _keep(session, of_day[visit.das], actor, now, told, visit, of_row, today)
    return trial


def _keep(
    session: Session, check: CheckVisit, actor: Person, now: datetime, told: OldTrial, visit: Visit, of_row: Sequence[tuple[Cutting, int]], today: date
) -> None:  # fmt: skip
    """A check with what was seen at it; what ended before is carried forward."""
    score.open_check(
        session, check, actor, now, score.Looking(told.stuck_on + timedelta(visit.das), told.way.value), today
    )
    gone = {spot.cutting for spot in progress_of(session, check).spots if spot.carried is not None}
    for cutting, i in of_row:
        das, seen = visit.seen[i]
        if cutting.id not in gone:
            sent = score.Sent(noted_on=told.stuck_on + timedelta(das))
            score.keep_score(session, check, cutting, actor, now, seen, sent)
    score.close_check(session, check, actor, now)


def _has_roots(row: OldRow) -> bool:
    return row.score.roots in (Roots.COUNTED, Roots.SEEN)


def _units(rows: Sequence[OldRow], arms: Sequence[tuple[str, ...]]) -> list[list[OldRow]]:
    """Rows by unit, in the file's order."""
    found: dict[str, list[OldRow]] = {}
    for row in rows:
        own = found.setdefault(row.unit, [])
        if own and (own[0].levels, own[0].block) != (row.levels, row.block):
            raise UnusableData(
                _("{unit} holds two arms or blocks", unit=row.unit[:40]), _("One unit has one of each; where names begin anew, name both columns, comma between: block,pot"), row=row.line
            )  # fmt: skip
        own.append(row)
    return sorted(found.values(), key=lambda own: (own[0].block, arms.index(own[0].levels)))


def _ask(
    session: Session, trial: Trial, actor: Person, now: datetime, asked: dict[str, str], kind: TrialKind, table: Table
) -> None:
    """The question, of the kind that the file can answer."""
    form = question.as_typed(trial.plan) | asked | {"kind": kind.value, "care": ""}
    question.save_question(session, trial, actor, now, trial.version, form, table)


def _table(told: OldTrial, arms: Sequence[tuple[str, ...]]) -> Table:
    """The arms side by side, a row a column of the file."""
    lines = []
    for i, name in enumerate(told.columns):
        known = name.casefold() in list(AspectKind) and name.casefold() != AspectKind.OTHER
        aspect = AspectKind(name.casefold()) if known else AspectKind.OTHER
        lines.append(Line(aspect, name, len({arm[i] for arm in arms}) > 1, tuple(arm[i] for arm in arms)))
    return Table(len(arms), tuple(lines))


def _placed(trial: Trial, units: Sequence[list[OldRow]]) -> list[MadeUnit]:
    """The units in trays of the plan's container, one after the other: where they stood nobody wrote down."""
    container = trial.plan.design.container
    most: dict[tuple[str, ...], int] = {}
    letters = {levels: arm.letter for levels, arm in zip(_levels(units), trial.arms, strict=True)}
    for own in units:
        most[own[0].levels] = max(len(own), most.get(own[0].levels, 0))
    made = []
    for i, own in enumerate(units):
        tray, place = divmod(i, container.rows * container.columns)
        row, column = divmod(place, container.columns)
        groups = {"block": own[0].block} if own[0].block else {}
        levels = own[0].levels
        made.append(MadeUnit(own[0].unit, letters[levels], 1, tray + 1, row + 1, column + 1, 1, groups, most[levels], own[0].line))  # fmt: skip
    return made


def _levels(units: Sequence[list[OldRow]]) -> list[tuple[str, ...]]:
    """The arms' levels in the order in which the file names them."""
    first = {own[0].levels: min(row.line for other in units for row in other if row.levels == own[0].levels) for own in units}  # fmt: skip
    return sorted(first, key=lambda levels: first[levels])


def _in_order(trial: Trial) -> list[Unit]:
    """Units as they stand, which is as they came."""
    return sorted(trial.units, key=lambda unit: unit.bench_order)
