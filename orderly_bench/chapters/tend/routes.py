"""Tend: what is due, incidents."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from datetime import datetime
from typing import TypeVar
from zoneinfo import ZoneInfo

from flask import Blueprint, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue
from sqlalchemy.orm import Session

from orderly_bench.chapters.tend import operations, views
from orderly_bench.core.conclude.time_spent import Work
from orderly_bench.core.errors import InvalidInput, OrderlyError, Refused
from orderly_bench.core.messages.translation import dated
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.messages.translation import gettext as shown_word
from orderly_bench.core.plan.amendments import AddCheckDay, Care
from orderly_bench.core.plan.aspects import AspectKind
from orderly_bench.core.plan.care_lines import write_care
from orderly_bench.core.tend.by_hand import Kind
from orderly_bench.core.tend.incidents import IncidentKind
from orderly_bench.core.tend.logger_columns import ASKED as LOGGER_COLUMNS
from orderly_bench.core.tend.logger_columns import read_columns
from orderly_bench.core.tend.notes import read_of
from orderly_bench.core.tend.rearranged import Place, Way, changed, following, turned
from orderly_bench.core.tend.schedule import DueState
from orderly_bench.stock.operations import all_zones, card_for
from orderly_bench.trial import by_hand, conditions, intake, load, notes, tending, time_spent
from orderly_bench.trial.access import Act
from orderly_bench.trial.amending import amend
from orderly_bench.trial.blindness import arms_hidden
from orderly_bench.trial.care import care_in
from orderly_bench.trial.conditions import LogSent, logs_of
from orderly_bench.trial.load import PARTED
from orderly_bench.trial.models import ConditionLog, HandReading, Job, LogIntake, Person, Trial, Unit
from orderly_bench.trial.moves import move_units, moves_of, sizes_of, standing_of
from orderly_bench.web import due, fields, log_reader
from orderly_bench.web.access import actor, route
from orderly_bench.web.answers import answer, is_htmx
from orderly_bench.web.pages import trial_page
from orderly_bench.web.store import db, lab, now, today

Form = Mapping[str, str]
T = TypeVar("T", ConditionLog, HandReading)
Withdraw = Callable[[Session, Trial, Person, datetime, T, str], None]
chapter = Blueprint("tend", __name__, template_folder="templates")
#: Air that most cuttings want, °C, where neither zone nor card says another.
USUAL_BAND = (18.0, 24.0)


def page_of(trial: Trial, error: OrderlyError | None = None) -> str:
    """The page of Tend, with what was refused."""
    hidden = arms_hidden(db(), trial, actor())
    lines = due.due_lines(db(), trial, today(), hidden)
    units = load.units_with_everything(db(), trial)
    incidents, logs = operations.incidents_of(db(), trial), logs_of(db(), trial)
    read = by_hand.readings_of(db(), trial)
    shown = notes.shown_to(notes.notes_of(db(), trial), actor(), hidden)
    stands = None
    if lines:
        life = views.life_today(
            trial,
            units,
            logs,
            [one.as_read() for one in read if not one.withdrawn],
            care_in([line.job for line in lines if line.job], trial, hidden),
            today(),
        )
        stands = views.tended(life, lines, [*incidents, *shown], logs, hidden)
    return trial_page(
        "tend.html",
        trial,
        "Tend",
        error,
        lines=lines,
        now_due=[
            line for line in lines if line.state is DueState.DUE or (line.check and line.state is DueState.OVERDUE)
        ],
        incidents=incidents,
        notes=shown,
        seen=None if hidden else notes.seen_since(trial, shown, today()),
        stands=stands,
        logs=logs,
        read=read,
        spent=time_spent.spent_on(db(), trial),
        works=[(work.value, shown_word(work.value)) for work in Work],
        reading_kinds=[(kind.value, shown_word(kind.value)) for kind in Kind],
        band=views.band_of(logs),
        logger_columns=LOGGER_COLUMNS,
        tended_by=tending.names_of(db(), trial),
        on_trays=[] if hidden else load.whole_trays(trial, units),
        zones=[zone.name for zone in all_zones(db())],
        hows=operations.HOWS,
        care_lines=write_care(trial.plan.schedule.care_rules),
        kinds=list(IncidentKind),
        blocks=list(dict.fromkeys(g.name for unit in units for g in unit.groupings if g.kind in PARTED)),
        arm_choices=[(arm.letter, f"{arm.letter}: {arm.name}") for arm in trial.arms],
        treatments=operations.treatment_changes_of(db(), trial),
        typed=request.form,
        chosen=request.form.getlist("where"),
        stood=request.form.getlist("stood"),
        day_words=due.day_words(trial, today()),
        moves=moves_of(trial),
        ways=Way,
    )


@route(chapter, "/trials/<int:trial_id>/tend", Act.READ)
def tend_page(trial: Trial) -> ResponseReturnValue:
    """Due, overdue, done; incidents."""
    return page_of(trial)


@route(chapter, "/trials/<int:trial_id>/tended-by", Act.TEND, "POST")
def take_on(trial: Trial) -> ResponseReturnValue:
    """Take its care on, or let it go."""
    mine = request.form.get("mine") == "yes"
    return answer(
        lambda: tending.take_on(db(), trial, actor(), now(), mine),
        url_for(".tend_page", trial_id=trial.id),
        lambda e: page_of(trial, e),
    )


@route(chapter, "/jobs/<int:job_id>", Act.TEND, "POST")
def set_job(job_id: int) -> ResponseReturnValue:
    """Done with one key, or taken back."""
    job = load.by_id(db(), Job, job_id, "job")
    on = fields.noted_on(request.form, today())
    operations.set_done(db(), job, actor(), now(), request.form.get("done") != "no", on)
    if not is_htmx():
        return redirect(url_for("today.today_page"), 303)
    hidden = arms_hidden(db(), job.trial, actor())
    line = next(line for line in due.due_lines(db(), job.trial, today(), hidden) if line.job is job)
    return render_template("_due_line.html", line=line, can_tend=True)


def _touched(units: list[Unit], where: list[str], typed_codes: str) -> list[str]:
    """Codes of the units in the trays, blocks and typed codes chosen."""
    codes = [
        u.code
        for u in units
        if _("tray {number}", number=u.place.tray.number) in where
        or any(g.name in where for g in u.groupings)
        or "all" in where
    ]
    return codes + [
        load.unit_by_code(db(), code, _trial_of(units)).code for code in _codes_in(typed_codes.replace(",", " "))
    ]


def _trial_of(units: Sequence[Unit]) -> int | None:
    return units[0].trial_id if units else None


def _codes_in(text: str) -> list[str]:
    """Codes typed with or without the blank inside: ``K73 M4 A9C D6`` or ``K73M4``."""
    squeezed = "".join(text.split())
    return [squeezed[i : i + 5] for i in range(0, len(squeezed), 5)]


@route(chapter, "/trials/<int:trial_id>/incidents", Act.TEND, "POST")
def record_incident(trial: Trial) -> ResponseReturnValue:
    """Keep an incident."""

    def save() -> None:
        form = request.form
        codes = _touched(load.units_with_everything(db(), trial), form.getlist("where"), fields.text(form, "codes"))
        happened = operations.Happened(
            form.get("kind", ""),
            fields.day(form, "first_day", "first day"),
            fields.day(form, "last_day", "last day"),
            codes,
            fields.text(form, "note"),
        )
        key = form.get("request_key", "")[:40] or None
        operations.record_incident(db(), trial, actor(), now(), happened, today(), key)

    return answer(save, url_for(".tend_page", trial_id=trial.id) + "#incidents", lambda e: page_of(trial, e))


@route(chapter, "/trials/<int:trial_id>/notes", Act.TEND, "POST")
def write_note(trial: Trial) -> ResponseReturnValue:
    """Keep a dated line."""

    def save() -> None:
        form, letters = request.form, [arm.letter for arm in trial.arms]
        of = read_of(fields.text(form, "note_code"), [tray.number for tray in trial.trays], letters)
        if of.arm and arms_hidden(db(), trial, actor()):
            raise Refused(
                _("You score blind, so a note of an arm is not yours to write. Write it of a code or a tray.")
            )
        unit = load.unit_by_code(db(), of.code, trial.id) if of.code else None
        if unit is not None:
            load.of_trial(trial, unit, "unit")
        day, seen = fields.day(form, "note_day", "day of the note"), form.get("note_root") == "yes"
        told = notes.Written(day, fields.text(form, "note_text"), unit, seen, of.tray, of.arm)
        notes.write_note(db(), trial, actor(), now(), told, today(), form.get("note_key", "")[:40] or None)

    return answer(save, url_for(".tend_page", trial_id=trial.id) + "#notes", lambda e: page_of(trial, e))


@route(chapter, "/trials/<int:trial_id>/extra-check", Act.PLAN, "POST")
def extra_check(trial: Trial) -> ResponseReturnValue:
    """A check of all arms today, because a root was seen between checks: an amendment with that reason."""

    def save() -> None:
        found = notes.seen_since(trial, notes.notes_of(db(), trial), today())
        if found is None:
            raise Refused(_("No root was seen since the last check, or one is planned in these days anyway."))
        seen, das = found
        why = _("a root was seen in {code} on {day}", code=seen.unit.code if seen.unit else "", day=dated(seen.day))
        amend(db(), trial, actor(), now(), AddCheckDay(das), why)

    return answer(save, url_for("score.score_page", trial_id=trial.id), lambda e: page_of(trial, e))


@route(chapter, "/trials/<int:trial_id>/missed", Act.TEND, "POST")
def decide_missed(trial: Trial) -> ResponseReturnValue:
    """Several missed jobs of one kind at once."""
    form = request.form
    told = operations.Together(fields.text(form, "title"), form.get("how", ""), fields.text(form, "left_out_why"))
    return answer(
        lambda: operations.decide_missed(db(), trial, actor(), now(), told, today()),
        url_for(".tend_page", trial_id=trial.id),
        lambda e: page_of(trial, e),
    )


@route(chapter, "/trials/<int:trial_id>/enough", Act.TEND, "POST")
def enough(trial: Trial) -> ResponseReturnValue:
    """What a kind of care goes on until was seen."""
    form = request.form
    return answer(
        lambda: operations.enough(
            db(), trial, actor(), now(), fields.text(form, "enough_of"), fields.day(form, "enough_on", "day"), today()
        ),
        url_for(".tend_page", trial_id=trial.id),
        lambda e: page_of(trial, e),
    )


@route(chapter, "/trials/<int:trial_id>/care", Act.PLAN, "POST")
def change_care(trial: Trial) -> ResponseReturnValue:
    """Other care from now on, as an amendment."""
    change = Care(fields.text(request.form, "care_rules"))
    return answer(
        lambda: amend(db(), trial, actor(), now(), change, fields.text(request.form, "care_why")),
        url_for(".tend_page", trial_id=trial.id),
        lambda e: page_of(trial, e),
    )


@route(chapter, "/trials/<int:trial_id>/logs", Act.TEND, "POST")
def keep_log(trial: Trial) -> ResponseReturnValue:
    """Keep what a logger read, from a file or from rows that were pasted; a large file is read beside the page."""
    beside: list[int] = []

    def save() -> None:
        form, (name, data) = request.form, fields.file(request.files, "log")
        data = fields.text(form, "rows").encode() if data is None else data
        if not data.strip():
            raise InvalidInput("file", _("choose the logger's CSV file, or paste its rows with their first line"))
        everywhere = load.units_with_everything(db(), trial)
        codes = set(_touched(everywhere, form.getlist("stood") or ["all"], ""))
        units = [unit for unit in everywhere if unit.code in codes]
        low, high = _band(trial, form)
        clock = ZoneInfo(lab().time_zone)
        columns = read_columns({one.name: fields.text(form, f"col_{one.name}") for one in LOGGER_COLUMNS})
        sent = LogSent(data, name, fields.text(form, "zone"), low, high, clock, columns)
        if len(data) < intake.BESIDE_FROM_BYTES:
            conditions.keep_log(db(), trial, actor(), now(), sent, units)
        else:
            beside.append(intake.begin(db(), trial, actor(), now(), sent, units).id)

    answered = answer(save, url_for(".tend_page", trial_id=trial.id) + "#conditions", lambda e: page_of(trial, e))
    return redirect(url_for(".intake_page", trial_id=trial.id, intake_id=beside[-1]), 303) if beside else answered


def _intake(trial: Trial, number: int) -> LogIntake:
    sent = load.by_id(db(), LogIntake, number, "logger's file")
    load.of_trial(trial, sent, "logger's file")
    return sent


@route(chapter, "/trials/<int:trial_id>/logs/<int:intake_id>", Act.READ)
def intake_page(trial: Trial, intake_id: int) -> ResponseReturnValue:
    """How far the reading of a large file is, and what came of it; one that nobody reads any more is read again."""
    sent = _intake(trial, intake_id)
    if intake.is_silent(sent, now()):
        log_reader.start(sent.id)
        db().refresh(sent)
    return trial_page("logger_file.html", trial, "Tend", sent=sent)


@route(chapter, "/trials/<int:trial_id>/logs/<int:intake_id>/stop", Act.TEND, "POST")
def stop_intake(trial: Trial, intake_id: int) -> ResponseReturnValue:
    """Stop reading it; nothing of it is kept."""
    sent = _intake(trial, intake_id)
    return answer(
        lambda: intake.stop(db(), sent),
        url_for(".intake_page", trial_id=trial.id, intake_id=intake_id),
        lambda e: trial_page("logger_file.html", trial, "Tend", e, sent=sent),
    )


def _band(trial: Trial, form: Form) -> tuple[float, float]:
    """The band of the air as typed; left blank, that of the zone on the shelf, else of the plant's method card, else a usual one."""
    if not fields.text(form, "low") and not fields.text(form, "high"):
        zone = next((z for z in all_zones(db()) if z.name.casefold() == fields.text(form, "zone").casefold()), None)
        aspect = trial.plan.treatments.of_kind(AspectKind.CUTTING_TYPE)
        kinds = {level.name for level in aspect.levels} if aspect else set()
        card = card_for(db(), trial.plan.question.botanical_name, kinds.pop() if len(kinds) == 1 else "")
        for low, high in ((one.low_c, one.high_c) for one in (zone, card) if one is not None):
            if low is not None and high is not None:
                return low, high
        return USUAL_BAND
    label = _("band of the air, °C")
    return fields.number(form, "low", label), fields.number(form, "high", label)


@route(chapter, "/trials/<int:trial_id>/readings", Act.TEND, "POST")
def keep_reading(trial: Trial) -> ResponseReturnValue:
    """Keep what was read by hand."""

    def save() -> None:
        form, units = request.form, load.units_with_everything(db(), trial)
        where = form.getlist("read_at") or ["all"]
        arms = set() if arms_hidden(db(), trial, actor()) else set(where)
        codes = {*_touched(units, where, ""), *(unit.code for unit in units if f"arm {unit.arm.letter}" in arms)}
        day, place = fields.day(form, "read_on", "day"), fields.text(form, "read_where")
        told = by_hand.Read(
            form.get("read", ""), fields.text(form, "value"), day, place, form.get("reading_key", "")[:40] or None
        )
        by_hand.keep_reading(db(), trial, actor(), now(), told, [unit for unit in units if unit.code in codes], today())

    return answer(save, url_for(".tend_page", trial_id=trial.id) + "#by-hand", lambda e: page_of(trial, e))


@route(chapter, "/trials/<int:trial_id>/readings/withdraw", Act.TEND, "POST")
def withdraw_reading(trial: Trial) -> ResponseReturnValue:
    """A reading no longer counts."""
    return _withdrawn(
        trial, HandReading, ("reading_id", _("reading")), "unread_why", by_hand.withdraw_reading, "by-hand"
    )


def _withdrawn(
    trial: Trial, kind: type[T], asked: tuple[str, str], why: str, withdraw: Withdraw[T], section: str
) -> ResponseReturnValue:
    """Something kept of this trial no longer counts, for the reason in the field ``why``; ``asked`` is the field of its id and its name."""
    field, name = asked

    def save() -> None:
        one = load.by_id(db(), kind, fields.sent_number(request.form.get(field, "")) or 0, name)
        load.of_trial(trial, one, name)
        withdraw(db(), trial, actor(), now(), one, fields.text(request.form, why))

    return answer(save, f"{url_for('.tend_page', trial_id=trial.id)}#{section}", lambda e: page_of(trial, e))


@route(chapter, "/trials/<int:trial_id>/logs/withdraw", Act.TEND, "POST")
def withdraw_log(trial: Trial) -> ResponseReturnValue:
    """A log no longer counts."""
    return _withdrawn(trial, ConditionLog, ("log_id", _("log")), "withdrawn_why", conditions.withdraw_log, "conditions")


@route(chapter, "/trials/<int:trial_id>/treatments", Act.PLAN, "POST")
def record_treatment(trial: Trial) -> ResponseReturnValue:
    """Keep that a unit got another arm's treatment."""

    def save() -> None:
        form = request.form
        unit = load.unit_by_code(db(), fields.text(form, "code"), trial.id)
        load.of_trial(trial, unit, "unit")
        day = fields.day(form, "treated_on", "day of the change")
        given = operations.Given(unit, form.get("letter", ""), day, fields.text(form, "treated_why"))
        operations.record_treatment_change(db(), trial, actor(), now(), given, today())

    return answer(save, url_for(".tend_page", trial_id=trial.id) + "#treatments", lambda e: page_of(trial, e))


@route(chapter, "/trials/<int:trial_id>/moves", Act.TEND, "POST")
def move(trial: Trial) -> ResponseReturnValue:
    """Keep that units stand elsewhere from now on: some, a tray turned round, two trays changed."""

    def save() -> None:
        form = request.form
        units = load.units_with_everything(db(), trial)
        move_units(db(), trial, actor(), now(), _wanted(trial, units, form), fields.text(form, "moved_why"))

    return answer(save, url_for(".tend_page", trial_id=trial.id) + "#moves", lambda e: page_of(trial, e))


def _wanted(trial: Trial, units: Sequence[Unit], form: Form) -> dict[Unit, Place]:
    standing, sizes = standing_of(trial), sizes_of(trial)
    tray = fields.whole(form, "to_tray", "tray")
    way = form.get("way", Way.FROM_HERE)
    if way == Way.TURNED:
        return turned(tray, standing, sizes)
    if way == Way.CHANGED:
        return changed(tray, fields.whole(form, "other_tray", "tray"), standing, sizes)
    codes = _codes_in(fields.text(form, "moved_code").replace(",", " "))
    by_code = {unit.code: unit for unit in units}
    movers = [by_code.get(load.unit_by_code(db(), code, _trial_of(units)).code) for code in codes]
    first = tray, fields.whole(form, "to_row", "row"), fields.whole(form, "to_column", "place in the row")
    chosen = list(dict.fromkeys(unit for unit in movers if unit is not None))
    if not chosen or None in movers:
        raise InvalidInput("units", _("type codes of this trial's units, as their labels say"), " ".join(codes))
    return dict(zip(chosen, following(first, len(chosen), sizes), strict=True))
