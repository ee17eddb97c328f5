"""Compare: the verdict, the picture, the working."""

from __future__ import annotations

from flask import Blueprint, render_template, request, url_for
from flask.typing import ResponseReturnValue
from markupsafe import Markup

from orderly_bench.chapters.compare import operations, views
from orderly_bench.core.errors import OrderlyError, Refused
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.telling.working import arm_intervals, show_working
from orderly_bench.core.vocabulary import Roots
from orderly_bench.evidence import headless, other_responses, texts
from orderly_bench.evidence.cost import costs_kept
from orderly_bench.evidence.dose import drawn_doses
from orderly_bench.evidence.pictures import pictures_of
from orderly_bench.evidence.results import Results
from orderly_bench.evidence.ways import beside_the_book
from orderly_bench.figures import differences, rates
from orderly_bench.figures.export import FORMATS, MIME, export
from orderly_bench.figures.svg import PAGE, PAPER
from orderly_bench.record.doubts import doubts_so_far
from orderly_bench.record.gather import gather
from orderly_bench.stock.operations import cards_of
from orderly_bench.trial.access import Act
from orderly_bench.trial.blindness import arms_hidden, endpoint_closed, results_by_arm
from orderly_bench.trial.checks import checks_of, refuse_unless_stuck
from orderly_bench.trial.errors import NotFound
from orderly_bench.trial.gallery import side_by_side
from orderly_bench.trial.models import Trial
from orderly_bench.trial.progress import progress_of
from orderly_bench.web import fields
from orderly_bench.web.access import actor, route
from orderly_bench.web.answers import answer, is_htmx
from orderly_bench.web.pages import being_worked_out, comes_when_worked_out, trial_page
from orderly_bench.web.pdf import download, pdf_of
from orderly_bench.web.store import db, now
from orderly_bench.web.work import results_of

#: Doubts that a page shows itself: Tend beside what was read, Design before the lock.
SHOWN_ON = {"tend": ("lived_apart", "conditions_unknown", "care_gap"), "design": ("mixed_up",)}
chapter = Blueprint("compare", __name__, template_folder="templates")


def _page(trial: Trial, error: OrderlyError | None = None) -> str:
    closed = endpoint_closed(db(), trial)
    if arms_hidden(db(), trial, actor()) or not (closed or results_by_arm(db(), trial, actor())):
        return _waiting(trial, error)
    day = 0
    if not closed:
        opened = [check.planned_das for check in checks_of(db(), trial) if check.opened_at]
        if not opened:
            return _waiting(trial, error)
        day = max(opened)
    results = results_of(trial, day)
    return _evidence_page(trial, results, error) if results else being_worked_out(trial)


def _evidence_page(trial: Trial, results: Results, error: OrderlyError | None = None) -> str:
    """The page that shows the evidence."""
    found = results.found
    return trial_page(
        "compare.html",
        trial,
        "Compare",
        error,
        check=found.check,
        found=found,
        costs=costs_kept(found, trial.costs) if found.closed else None,
        rates=texts.rates_figure(found),
        rates_narrow=texts.rates_figure(found, frame=rates.NARROW),
        differences=texts.differences_figure(found),
        differences_narrow=texts.differences_figure(found, frame=differences.NARROW),
        over_time=texts.rooting_over_time(found, results.others),
        over_time_narrow=texts.rooting_over_time(found, results.others, narrow=True),
        doses=drawn_doses(found.analysis),
        trays=views.map_of(found),
        counted=texts.reconciled(found),
        tops=views.misleading_tops(found),
        cautions=texts.all_cautions(found),
        pairs=texts.pairs(found),
        pair_rows=texts.pair_rows(found),
        factor_rows=texts.factor_rows(found),
        permuted=texts.permuted_factors(found),
        size_heading=texts.size_heading(found.analysis) if found.analysis else "",
        picture_of=texts.picture_of(found),
        by_day=texts.by_day(found),
        is_share=found.analysis is not None and texts.is_share(found.analysis),
        working=show_working(found.analysis) if found.analysis else [],
        arm_intervals=arm_intervals(found.analysis) if found.analysis else "",
        second_opinion=texts.second_opinion_words(found.analysis) if found.analysis else "",
        redraw=texts.redraw_words(found.analysis) if found.analysis else "",
        command=headless.command(found),
        to_stick=texts.to_stick(found),
        since=texts.since(results.answers),
        looked=texts.looked(found),
        books=beside_the_book(found, cards_of(db(), trial.plan.question.botanical_name)),
        days=texts.days_of(found),
        tops_seen=texts.tops_by_arm(found),
        signs=texts.signs(found),
        agreement=texts.agreement(found),
        not_looked=texts.not_looked(found),
        changes=texts.changes(found),
        letters={name: letter for letter, name in found.record.arm_names.items()},
    )


def _waiting(trial: Trial, error: OrderlyError | None) -> str:
    """Totals, not arms, until the endpoint check closes."""
    totals = [(c, progress_of(db(), c)) for c in checks_of(db(), trial) if c.opened_at]
    counts = [
        (c, p.tally, sum(1 for s in p.spots if s.kept and s.kept.score.roots in (Roots.COUNTED, Roots.SEEN)))
        for c, p in totals
    ]
    return trial_page(
        "compare_waiting.html",
        trial,
        "Compare",
        error,
        totals=counts,
        typed=request.form,
        planned=operations.planned_look(db(), trial),
    )


@route(chapter, "/trials/<int:trial_id>/compare", Act.READ)
def compare_page(trial: Trial) -> ResponseReturnValue:
    """The verdict; before the endpoint closes, totals."""
    return _page(trial)


@route(chapter, "/trials/<int:trial_id>/compare/doubts", Act.READ)
def doubts(trial: Trial) -> ResponseReturnValue:
    """What is doubted so far, of the plan and of the log, for who may see the arms; a part of a page where one asks for it."""
    hidden = arms_hidden(db(), trial, actor())
    found = [] if hidden or not trial.arms else doubts_so_far(gather(db(), trial))
    if is_htmx():
        shown = SHOWN_ON.get(request.args.get("on", ""), ())
        found = [one for one in found if one.code not in shown]
        return render_template("_doubts_so_far.html", doubts=found, hidden=hidden)
    return trial_page("doubts.html", trial, "Compare", doubts=found)


def _open_results(trial: Trial) -> Results | None:
    """The results at the endpoint, for people who may see results by arm; None while they are being worked out."""
    if not results_by_arm(db(), trial, actor()) or arms_hidden(db(), trial, actor()):
        raise Refused(_("The arms are compared when the endpoint check is closed. Until then Compare shows totals."))
    refuse_unless_stuck(trial)
    return results_of(trial)


@route(chapter, "/trials/<int:trial_id>/compare/more", Act.READ)
def compare_more(trial: Trial) -> ResponseReturnValue:
    """Everything one step away: figures, would the answer change, other responses, other lenses."""
    results = _open_results(trial)
    if results is None:
        return being_worked_out(trial)
    found = results.found
    pictures = pictures_of(found, results.others, results.numbers, results.described)
    return trial_page(
        "compare_more.html",
        trial,
        "Compare",
        found=found,
        pictures=[(picture, Markup(picture.draw(PAGE))) for picture in pictures],  # noqa: S704 - drawn by us, texts escaped
        formats=FORMATS,
        answers=results.answers,
        explored=other_responses.explored(found.record.arm_names, results.others, trial.plan.question.others)
        if found.analysis
        else [],
        lenses=results.lenses,
        details=texts.details(found),
        sides=side_by_side(db(), trial),
        source=lambda photo: url_for("photos.picture", photo_id=photo.id, wanted="small"),
        letters={name: letter for letter, name in found.record.arm_names.items()},
    )


@route(chapter, "/trials/<int:trial_id>/figures/<name>.<wanted>", Act.READ)
def figure(trial: Trial, name: str, wanted: str) -> ResponseReturnValue:
    """A figure to take away."""
    results = _open_results(trial)
    if results is None:
        return comes_when_worked_out(trial)
    picture = next(
        (p for p in pictures_of(results.found, results.others, results.numbers, results.described) if p.name == name),
        None,
    )
    if picture is None or wanted not in FORMATS:
        raise NotFound(_("There is no such figure. Compare lists those there are, as SVG, PDF and PNG."))
    content = export(picture.draw(PAPER), f"{trial.code} {trial.taxon}. {picture.caption}", wanted, pdf_of)
    return download(content, MIME[wanted], f"{trial.code}-{name}.{wanted}")


@route(chapter, "/trials/<int:trial_id>/look-early", Act.LOOK_EARLY, "POST")
def look_early(trial: Trial) -> ResponseReturnValue:
    """A recorded interim look."""

    def save() -> None:
        refuse_unless_stuck(trial)
        operations.record_interim_look(db(), trial, actor(), now(), fields.text(request.form, "reason"))

    return answer(save, url_for(".compare_page", trial_id=trial.id), lambda e: _page(trial, e))
