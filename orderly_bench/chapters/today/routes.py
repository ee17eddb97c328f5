"""Today: due and overdue across all trials."""

from __future__ import annotations

from datetime import timedelta

from flask import Blueprint, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from orderly_bench.core.messages.specialists import WORDS
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.tend.forecast import warned
from orderly_bench.core.tend.schedule import DueState
from orderly_bench.formats.calendar_ics import Event, calendar
from orderly_bench.trial import load
from orderly_bench.trial.access import Act, Role, may
from orderly_bench.trial.calendar import person_of
from orderly_bench.trial.models import Person
from orderly_bench.trial.readiness import name_of_wave, planned_sticking, waiting_to_be_stuck
from orderly_bench.trial.second_looks import after_checks, plants_again
from orderly_bench.trial.tending import whose
from orderly_bench.trial.walk import trials_with_facts, under_way_or_plants_again
from orderly_bench.trial.weather import nights_from
from orderly_bench.web.access import actor, route
from orderly_bench.web.due import along_the_benches, due_of_many
from orderly_bench.web.pdf import download
from orderly_bench.web.store import db, lab, now, today

chapter = Blueprint("today", __name__, template_folder="templates")
SOON_DAYS = 7
#: Trials whose page of care goes along with Today.
MOST_ALONG = 12


@route(chapter, "/", Act.READ)
def home() -> ResponseReturnValue:
    """Straight to Today."""
    return redirect(url_for(".today_page"))


@route(chapter, "/today", Act.READ)
def today_page() -> ResponseReturnValue:
    """What needs a hand today, and soon."""
    found = trials_with_facts(db(), under_way_or_plants_again(), today())
    growing = [(trial, known) for trial, known in found if not known.concluded]
    # A scorer may be blind in any of them; which arm a care job is of is told on the trial's own page.
    blind = [trial.id for trial, _ in growing] if actor().role == Role.SCORER else []
    lines = due_of_many(db(), [trial for trial, _ in growing], today(), blind)
    falls = whose(db(), actor(), [trial for trial, _ in growing], today())
    everybody_s = request.args.get("whose") == "all" or all(one.mine for one in falls.values())
    theirs = sum(line.state is not DueState.LATER for line in lines if not falls[line.trial.id].mine)
    lines = [line for line in lines if everybody_s or falls[line.trial.id].mine]
    due = along_the_benches([line for line in lines if line.state in (DueState.OVERDUE, DueState.DUE)])
    soon = [line for line in lines if line.state is DueState.LATER and (line.due - today()).days <= SOON_DAYS]
    return render_template(
        "today.html",
        benches=due,
        soon=soon,
        falls=falls,
        whose="all" if everybody_s else "mine",
        theirs=theirs,
        growing=growing,
        nights=warned(nights_from(lab(), today()), today())
        if any(known.das is not None for _, known in growing)
        else [],
        after=after_checks(db(), [trial for trial, _ in growing], today()),
        plants=plants_again([trial for trial, _ in found], today()),
        waiting=waiting_to_be_stuck(db(), [trial for trial, _ in growing], today()),
        today=today(),
        can_tend=may(actor(), Act.TEND),
        along=[
            url_for(".today_page"),
            *(
                url_for("tend.tend_page", trial_id=trial.id)
                for trial, known in growing[:MOST_ALONG]
                if known.das is not None
            ),
        ],
    )


def _calendar(person: Person) -> ResponseReturnValue:
    """What is still to be done in trials under way, as this person may see it: no arm for a scorer."""
    found = trials_with_facts(db(), under_way_or_plants_again(), today())
    growing = [trial for trial, known in found if not known.concluded]
    blind = [trial.id for trial in growing] if person.role == Role.SCORER else []
    events = []
    for line in due_of_many(db(), growing, today(), blind):
        of = f"job-{line.job.id}" if line.job else f"check-{line.check.id if line.check else 0}"
        words = f"{line.trial.code} {line.what}"
        events.append(Event(f"{of}@orderly-bench", line.due, words, line.trial.plan.question.botanical_name))
    for trial in (trial for trial in growing if trial.locked_at is not None):
        for wave, days in planned_sticking(trial, today()):
            words = _("{code} stick {wave}", code=trial.code, wave=name_of_wave(trial, wave)).rstrip()
            day = today() + timedelta(days=days)
            events.append(Event(f"wave-{wave.id}@orderly-bench", day, words, trial.plan.question.botanical_name))
    for trial, _known in found:
        if trial.plants_again is not None:
            words = _("{code} look at plants again", code=trial.code)
            events.append(
                Event(f"plants-{trial.id}@orderly-bench", trial.plants_again, words, trial.plan.question.botanical_name)
            )
    content = calendar(lab().name, events, now())
    return download(content, "text/calendar; charset=utf-8", "orderly-bench.ics")


@route(chapter, "/calendar.ics", Act.READ)
def own_calendar() -> ResponseReturnValue:
    """One's own calendar, as a file."""
    return _calendar(actor())


@route(chapter, "/calendar/<key>.ics", Act.ANYONE)
def calendar_feed(key: str) -> ResponseReturnValue:
    """The same by its secret address, for a calendar that asks by itself."""
    return _calendar(person_of(db(), key))


@route(chapter, "/find", Act.READ)
def find() -> ResponseReturnValue:
    """From the code on a label to its cutting: on the bench where it is still stuck, else where it is scored."""
    code, chosen = request.args.get("code", ""), request.args.get("trial", type=int)
    units = load.units_by_code(db(), code)
    if len(units) > 1 and chosen is None:
        return render_template("which_label.html", code=code, units=units)
    unit, cutting = load.cutting_by_code(db(), code, chosen)
    wave = unit.wave
    if cutting is not None and wave.sticking_done_at is None:
        at = url_for("stick.stick_page", trial_id=unit.trial_id, tray=unit.place.tray.number, cutting=cutting.id)
        return redirect(f"{at}#exception")
    return redirect(url_for("score.score_page", trial_id=unit.trial_id, cutting=cutting.id if cutting else None))


@route(chapter, "/words", Act.READ)
def words_page() -> ResponseReturnValue:
    """The specialists' words in plain ones."""
    return render_template("words.html", words=WORDS)
