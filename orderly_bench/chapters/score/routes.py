"""Score: open a check, score every cutting, close it."""

from __future__ import annotations

import secrets
from collections.abc import Mapping
from datetime import date
from typing import Any

from flask import Blueprint, make_response, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from orderly_bench.chapters.score import along, correcting, holding, operations, several, undrawn, views
from orderly_bench.chapters.score.forms import read_score
from orderly_bench.chapters.score.from_file import Brought, bring_scores
from orderly_bench.chapters.score.on_the_day import dead_from, outside_window
from orderly_bench.chapters.score.sampling import Sample, said_of_sample
from orderly_bench.core.errors import InvalidInput, OrderlyError
from orderly_bench.core.measures import Measure
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.score.details import BY_NAME
from orderly_bench.core.score.entry import suggest_fit
from orderly_bench.core.score.on_table import Counted
from orderly_bench.core.score.progress import next_unscored
from orderly_bench.core.score.sample import FIELD
from orderly_bench.core.score.the_rest import Rest
from orderly_bench.core.score.tipped_out import TippedOut
from orderly_bench.core.score.undrawn import UndrawnCount, undrawn_groups
from orderly_bench.core.vocabulary import QUALITY_ANCHORS, KnownBy, Roots
from orderly_bench.record.gather import undrawn_counts
from orderly_bench.trial import load
from orderly_bench.trial import reveal as reveals
from orderly_bench.trial.access import Act, Role, may
from orderly_bench.trial.blindness import blind_phase, has_seen_arms, scores_blind
from orderly_bench.trial.checks import checks_of, refuse_unless_stuck
from orderly_bench.trial.models import CheckVisit, Cutting, Trial
from orderly_bench.trial.progress import CheckProgress, Site, progress_around, progress_of
from orderly_bench.web import fields
from orderly_bench.web.access import actor, route
from orderly_bench.web.answers import answer, is_htmx, safe_next, status_of
from orderly_bench.web.due import checks_due, passed_by
from orderly_bench.web.pages import trial_page
from orderly_bench.web.pdf import download, pdf_of
from orderly_bench.web.store import commit, day_of, db, now, today

MOST_SEED = 2**31
chapter = Blueprint("score", __name__, template_folder="templates")


def _number(name: str) -> int | None:
    return fields.sent_number(request.values.get(name, ""))


def _check_wanted(trial: Trial) -> CheckVisit | None:
    """The check asked for, else the open one; none where all are to be listed."""
    if request.args.get("all"):
        return None
    asked = _number("check")
    if asked is not None:
        check = load.by_id(db(), CheckVisit, asked, "check")
        load.of_trial(trial, check, "check")
        return check
    return next((check for check in checks_of(db(), trial) if check.is_open), None)


def bench_of(
    trial: Trial,
    progress: CheckProgress,
    wanted: Site | None,
    typed: Mapping[str, str] | None = None,
) -> dict[str, Any]:
    """Everything the scoring bench shows; without a site wanted, the next unaccounted one comes up."""
    check = progress.check
    pad = views.pad_for(progress, wanted, typed)
    numbers = {spot.tray for spot in progress.spots} or {tray.number for tray in trial.trays}
    asked = _number("tray") if wanted is None else None
    number = asked if asked in numbers else (pad.spot.tray if pad else min(numbers))
    tray = next(t for t in trial.trays if t.number == number)
    return {
        "trial": trial,
        "check": check,
        "progress": progress,
        "sample": said_of_sample(db(), check),
        "pad": pad,
        "container": views.container_of(progress, pad),
        "trays": [t for t in trial.trays if t.number in numbers],
        "tray": views.map_of(progress, tray, load.parted_groups(db(), trial)),
        "passed": views.passed_by(progress),
        "newest": views.newest(progress),
        "signs": views.signs_so_far(progress),
        "still": views.still_of(progress),
        "buttons": views.buttons(trial.plan.question.root_classes),
        "ways": [(way.value, way.value) for way in KnownBy],
        "dead_from": dead_from(check),
        "new_alone": views.had_roots(trial),
        "root_from": trial.plan.question.root_from_mm,
        "rests": [(rest.value, rest.value) for rest in Rest],
        "blind": scores_blind(trial, actor()),
        "htmx": is_htmx(),
        "typed": typed or {},
    }


def _page(trial: Trial, error: OrderlyError | None = None, typed: Mapping[str, str] | None = None) -> str:
    check = _check_wanted(trial)
    bench: dict[str, Any] = {}
    if check is not None and check.opened_at:
        progress = progress_of(db(), check)
        bench = bench_of(trial, progress, views.wanted_site(progress, _number("cutting"), _number("site")), typed)
    bench.pop("trial", None)
    groups = undrawn_groups(trial.plan) if trial.lots else {}
    own = undrawn.trials_of_undrawn(db(), trial) if groups else {}
    lines, gone_by = checks_due(trial, today()), [check.id for check in trial.checks if passed_by(check)]
    return trial_page(
        "score.html",
        trial,
        "Score",
        error,
        checks=checks_of(db(), trial),
        planned=trial.planned_checks if not trial.checks else trial.checks,
        lines=lines,
        gone_by=gone_by,
        at_hand=views.at_hand(trial, lines, gone_by),
        outside=outside_window,
        sampled={c.id: said_of_sample(db(), c) for c in trial.checks if c.sample_of_each},
        scoring=bool(bench),
        form=request.form,
        brought=_brought(),
        revealed=actor().role == Role.SCORER and has_seen_arms(trial, actor()),
        blind_now=blind_phase(db(), trial),
        quality_anchors=QUALITY_ANCHORS,
        beside=groups,
        beside_choices=[(name, name) for name in groups if name not in own],
        own_trials=own,
        counted=undrawn_counts(db(), trial),
        out=along.out_with(db(), check) if check is not None and check.is_open else [],
        releases=may(actor(), Act.RUN_CHECK),
        liftings=BY_NAME["lifting"].choices,
        **({"ways": [(way.value, way.value) for way in KnownBy], "check": None} | bench),
    )


@route(chapter, "/trials/<int:trial_id>/score", Act.READ)
def score_page(trial: Trial) -> ResponseReturnValue:
    """The checks, and the scoring bench of the open one; a length measured on a photo stands in its field."""
    longest = fields.text(request.args, "longest_root_mm")[:20]
    return _page(trial, None, views.values_of(None) | {"longest_root_mm": longest} if longest else None)


@route(chapter, "/checks/<int:check_id>/open", Act.RUN_CHECK, "POST")
def open_check(check_id: int) -> ResponseReturnValue:
    """Open a check on its day."""
    check = load.by_id(db(), CheckVisit, check_id, "check")
    trial = check.trial

    def save() -> None:
        day = fields.day(request.form, "day", "date of the check")
        seed = secrets.randbelow(MOST_SEED) if request.form.get("scrambled") == "yes" else None
        why, about = fields.text(request.form, "why_then"), request.form.get("about") == "yes"
        of_each = fields.optional_whole(request.form, "of_each", FIELD)
        sample = None if of_each is None else Sample(of_each, secrets.randbelow(MOST_SEED))
        looking = operations.Looking(
            day, request.form.get("way", ""), why, seed, about, sample, fields.text(request.form, "lifting")
        )
        operations.open_check(db(), check, actor(), now(), looking, today())

    return answer(save, url_for(".score_page", trial_id=trial.id, check=check.id), lambda e: _page(trial, e))


@route(chapter, "/checks/<int:check_id>/sheet.pdf", Act.READ)
def sheet(check_id: int) -> ResponseReturnValue:
    """A sheet for a wet bench: codes in the order they come up, a line each; no arm."""
    check = load.by_id(db(), CheckVisit, check_id, "check")
    refuse_unless_stuck(check.trial)
    progress = progress_of(db(), check)
    spots = [progress.spot(site) for site in progress.order if site not in progress.carried]
    html = render_template("sheet_pdf.html", trial=check.trial, check=check, spots=spots)
    return download(pdf_of(html), "application/pdf", f"score-sheet-{check.trial.code}-day-{check.planned_das}.pdf")


@route(chapter, "/checks/<int:check_id>/file", Act.SCORE, "POST")
def bring(check_id: int) -> ResponseReturnValue:
    """Scores of an open check from a CSV file, all or none."""
    check = load.by_id(db(), CheckVisit, check_id, "check")
    trial = check.trial
    _name, data = fields.file(request.files, "file")
    try:
        if data is None:
            raise InvalidInput("file", _("choose the CSV file with the scores"))
        brought = bring_scores(db(), check, actor(), now(), data, fields.text(request.form, "file_why"))
    except OrderlyError as error:
        db().rollback()
        return _page(trial, error, request.form), status_of(error)
    told = url_for(
        ".score_page",
        trial_id=trial.id,
        check=check.id,
        new=brought.new,
        corrected=brought.corrected,
        same=brought.same,
    )
    return redirect(told, 303)


def _brought() -> str:
    """What a file brought, as the address says after it was taken; blank else."""
    counts = [fields.sent_number(request.args.get(name, "")) for name in ("new", "corrected", "same")]
    return Brought(*[n for n in counts if n is not None]).words if None not in counts else ""


def _of_a_score(check_id: int) -> object:
    """What a score is of; read before others have to wait for it."""
    number = fields.sent_number(request.form.get("cutting", ""))
    return holding.with_trial(db(), check_id), load.cutting_with_unit(db(), number) if number is not None else None


@route(chapter, "/checks/<int:check_id>/scores", Act.SCORE, "POST", _of_a_score)
def keep_score(check_id: int) -> ResponseReturnValue:
    """Keep one score; the next unscored cutting comes up."""
    check = load.by_id(db(), CheckVisit, check_id, "check")
    cutting = load.by_id(db(), Cutting, fields.whole(request.form, "cutting", "cutting"), "cutting")
    trial = check.trial
    try:
        operations.keep_score(
            db(), check, cutting, actor(), now(), read_score(request.form, check.way),
            operations.Sent(
                _number("site") or 1, _number("revision") or 0, fields.text(request.form, "reason"),
                request.form.get("request_key", "")[:40] or None, _looked_on(check),
            ),
        )  # fmt: skip
    except OrderlyError as error:
        if is_htmx():
            raise
        db().rollback()
        return _page(trial, error, request.form), status_of(error)
    # What comes next is read after the turn of the trial is given back: others wait for it to keep theirs.
    commit()
    if not is_htmx():
        return redirect(url_for(".score_page", trial_id=trial.id, check=check.id), 303)
    return _kept(trial, check, cutting)


def _looked_on(check: CheckVisit) -> date | None:
    """The day of a score that is sent: its own, of a check that was opened on its day; of one typed in later the check's."""
    goes_on = check.opened_at is not None and day_of(check.opened_at) == check.day
    return fields.noted_on(request.form, day_of(now())) if goes_on else None


def _kept(trial: Trial, check: CheckVisit, cutting: Cutting) -> ResponseReturnValue:
    """What changes on the bench after a score: one cell, the tally, and which cutting is next; the rest stays as it is.

    A new tray, and the last cutting of a check, bring the whole bench.
    """
    site = (cutting.id, _number("site") or 1)
    progress = progress_around(db(), check, site)
    next_site = next_unscored(progress.order, progress.accounted, site)
    pad = views.pad_for(progress, next_site, None) if next_site else None
    if pad is None or pad.spot.tray != _number("tray_shown") or request.form.get("reason"):
        response = make_response(render_template("_bench.html", **bench_of(trial, progress_of(db(), check), next_site)))
        response.headers["HX-Retarget"], response.headers["HX-Reswap"] = "#bench", "outerHTML"
        response.headers["HX-Trigger"] = "kept"
        return response
    units = dict.fromkeys((progress.spot(site).unit, pad.spot.unit))
    cells = [views.cell_of(progress, [spot for spot in progress.spots if spot.unit == unit]) for unit in units]
    response = make_response(
        render_template(
            "_kept.html", check=check, progress=progress, pad=pad, container=views.container_of(progress, pad), cells=cells, typed={}, passed=views.passed_by(progress),
            newest=views.newest(progress), blind=scores_blind(trial, actor()),
        )
    )  # fmt: skip
    response.headers["HX-Trigger"] = "kept"
    return response


@route(chapter, "/checks/<int:check_id>/count", Act.SCORE, "POST")
def count_container(check_id: int) -> ResponseReturnValue:
    """Keep what was counted of a container tipped out."""
    check = holding.lock(db(), check_id, read=True)
    trial, form = check.trial, request.form

    def save() -> None:
        rooted, bare, dead, missing = (
            fields.optional_whole(form, name, label) or 0
            for name, label in (
                ("rooted", "with roots"),
                ("bare", "without roots"),
                ("dead", "dead"),
                ("missing", "not found"),
            )
        )
        unit, key = fields.whole(form, "unit", "container"), form.get("request_key", "")
        count = TippedOut(rooted, bare, dead, missing)
        several.keep_count(db(), check, unit, actor(), now(), count, key, _looked_on(check))

    return answer(save, url_for(".score_page", trial_id=trial.id, check=check.id), lambda e: _page(trial, e, form))


@route(chapter, "/checks/<int:check_id>/again", Act.SCORE, "POST")
def keep_again(check_id: int) -> ResponseReturnValue:
    """Say of the next that they are as the last one scored here by the same person."""
    check = holding.lock(db(), check_id, read=True)
    trial, form = check.trial, request.form

    def save() -> None:
        many = fields.whole(form, "many", _("how many are the same"))
        several.keep_again(db(), check, actor(), now(), many, form.get("again_key", ""), _looked_on(check))

    return answer(save, url_for(".score_page", trial_id=trial.id, check=check.id), lambda e: _page(trial, e, form))


@route(chapter, "/checks/<int:check_id>/rest", Act.SCORE, "POST")
def keep_rest(check_id: int) -> ResponseReturnValue:
    """Say once what all are that have no score yet."""
    check = load.by_id(db(), CheckVisit, check_id, "check")
    trial, form = check.trial, request.form

    def save() -> None:
        counted = fields.whole(form, "left", "cuttings left")
        several.keep_rest(db(), check, actor(), now(), form.get("rest", ""), counted, _looked_on(check))

    return answer(save, url_for(".score_page", trial_id=trial.id, check=check.id), lambda e: _page(trial, e, form))


@route(chapter, "/checks/<int:check_id>/take-back", Act.SCORE, "POST")
def take_back(check_id: int) -> ResponseReturnValue:
    """Take this person's newest score back."""
    check = load.by_id(db(), CheckVisit, check_id, "check")
    cutting = operations.take_back(db(), check, actor(), now())
    if not is_htmx():
        return redirect(url_for(".score_page", trial_id=check.trial_id, check=check.id), 303)
    progress = progress_of(db(), check)
    wanted = views.wanted_site(progress, cutting.id, None) if cutting else None
    return render_template("_bench.html", **bench_of(check.trial, progress, wanted))


@route(chapter, "/checks/<int:check_id>/suggest", Act.SCORE, "POST")
def suggest(check_id: int) -> ResponseReturnValue:
    """Suggest fit to pot on from the lab's rule, as it is typed."""
    check = load.by_id(db(), CheckVisit, check_id, "check")
    trial = check.trial
    words = ""
    try:
        roots = Roots(request.form.get("roots", ""))
        number = fields.optional_whole(request.form, "root_number", "number of roots")
        longest = fields.optional_quantity(request.form, "longest_root_mm", "longest root", Measure.MM)
        words = suggest_fit(
            roots, number, longest, trial.plan.question.fit_least_roots, trial.plan.question.fit_least_mm
        ).value
    except (OrderlyError, ValueError):
        words = "not judged"
    return render_template("_suggestion.html", trial=trial, suggestion=words)


@route(chapter, "/checks/<int:check_id>/way", Act.RUN_CHECK, "POST")
def correct_way(check_id: int) -> ResponseReturnValue:
    """Put right how a whole check was looked at."""
    check = load.by_id(db(), CheckVisit, check_id, "check")
    trial, form = check.trial, request.form

    def save() -> None:
        correcting.correct_way(db(), check, actor(), now(), form.get("way", ""), fields.text(form, "way_why"))

    return answer(save, url_for(".score_page", trial_id=trial.id), lambda e: _page(trial, e))


@route(chapter, "/checks/<int:check_id>/close", Act.RUN_CHECK, "POST")
def close_check(check_id: int) -> ResponseReturnValue:
    """Close a check once every cutting is accounted for."""
    check = load.by_id(db(), CheckVisit, check_id, "check")
    trial, is_endpoint = check.trial, check.is_endpoint
    then = url_for("compare.compare_page" if is_endpoint else ".score_page", trial_id=trial.id)

    def close() -> None:
        form = request.form
        rooted = fields.optional_whole(form, "table_rooted", _("with roots on the table"))
        bare = fields.optional_whole(form, "table_bare", _("in the bin"))
        table = Counted(rooted, bare, fields.text(form, "table_why"))
        operations.close_check(db(), check, actor(), now(), table)

    return answer(close, then, lambda e: _page(trial, e))


@route(chapter, "/trials/<int:trial_id>/beside", Act.SCORE, "POST")
def count_beside(trial: Trial) -> ResponseReturnValue:
    """Keep what was found of a group beside the trial."""

    def save() -> None:
        form = request.form
        stuck, rooted, bare, dead = (
            fields.optional_whole(form, name, label) or 0
            for name, label in (("stuck", "stuck"), ("rooted", "rooted"), ("bare", "without roots"), ("dead", "dead"))
        )
        count = UndrawnCount(
            fields.text(form, "group"), fields.day(form, "day", "day of the count"), stuck, rooted, bare, dead
        )
        undrawn.keep_count(db(), trial, actor(), now(), count, today())

    return answer(save, url_for(".score_page", trial_id=trial.id) + "#beside", lambda e: _page(trial, e))


@route(chapter, "/trials/<int:trial_id>/reveal", Act.TEND, "POST")
def reveal(trial: Trial) -> ResponseReturnValue:
    """A recorded reveal of the arms."""
    return answer(
        lambda: reveals.reveal(db(), trial, actor(), now(), fields.text(request.form, "reason")),
        safe_next(request.form["back"])
        if request.form.get("back")
        else url_for("design.design_page", trial_id=trial.id),
        lambda e: _page(trial, e),
    )
