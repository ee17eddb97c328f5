"""Compare: the verdict, the picture, the working."""

from __future__ import annotations

from flask import Blueprint, request, url_for
from flask.typing import ResponseReturnValue
from markupsafe import Markup

from orderly_bench.chapters.compare import evidence as evidences
from orderly_bench.chapters.compare import readings, views
from orderly_bench.chapters.compare.pictures import pictures_of
from orderly_bench.chapters.score.models import CheckVisit
from orderly_bench.chapters.score.operations import checks_of, progress_of
from orderly_bench.core.compare.working import interval_method, show_working
from orderly_bench.core.errors import OrderlyError, Refused
from orderly_bench.core.score.endpoint import COLUMNS
from orderly_bench.figures import differences, rates
from orderly_bench.figures.export import FORMATS, MIME, export
from orderly_bench.figures.svg import PAGE, PAPER
from orderly_bench.trial.access import Act, arms_hidden, results_by_arm
from orderly_bench.trial.errors import NotFound
from orderly_bench.trial.models import Trial
from orderly_bench.web import fields
from orderly_bench.web.access import actor, route
from orderly_bench.web.answers import answer
from orderly_bench.web.pages import trial_page
from orderly_bench.web.pdf import download, pdf_of
from orderly_bench.web.store import db, now

chapter = Blueprint("compare", __name__, template_folder="templates")


def _page(trial: Trial, error: OrderlyError | None = None) -> str:
    check = next((c for c in checks_of(db(), trial) if c.is_endpoint), None)
    if check is None or (check.closed_at is None and not results_by_arm(db(), trial, actor())):
        return _waiting(trial, error)
    latest = check
    if check.closed_at is None:
        latest = max((c for c in checks_of(db(), trial) if c.opened_at), key=lambda c: c.planned_das, default=check)
    return evidence_page(trial, "compare.html", "Compare", latest, error)


def evidence_page(
    trial: Trial, template: str, chapter_name: str, check: CheckVisit, error: OrderlyError | None = None, **more: object
) -> str:
    """A page that shows the evidence at one check."""
    found = evidences.evidence_at(db(), trial, check)
    return trial_page(
        template,
        trial,
        chapter_name,
        error,
        check=check,
        found=found,
        rates=views.rates_figure(trial, found),
        rates_narrow=views.rates_figure(trial, found, frame=rates.NARROW),
        differences=views.differences_figure(found),
        differences_narrow=views.differences_figure(found, frame=differences.NARROW),
        trays=views.map_of(trial, found),
        columns=COLUMNS,
        rows=views.reconciled(trial, found),
        tops=views.misleading_tops(trial, found),
        cautions=views.all_cautions(found),
        pairs=views.pairs(found),
        working=show_working(found.analysis) if found.analysis else [],
        interval_method=interval_method(found.analysis) if found.analysis else "",
        second_opinion=views.second_opinion_words(found.analysis) if found.analysis else "",
        redraw=views.redraw_words(found.analysis) if found.analysis else "",
        command=views.command(trial, found),
        letters={arm.name: arm.letter for arm in trial.arms},
        **more,
    )


def _waiting(trial: Trial, error: OrderlyError | None) -> str:
    """Totals, not arms, until the endpoint check closes."""
    totals = [(c, progress_of(db(), c)) for c in checks_of(db(), trial) if c.opened_at]
    counts = [
        (c, p.tally, sum(1 for s in p.scores.values() if s.roots in ("counted", "seen, not counted")))
        for c, p in totals
    ]
    return trial_page("compare_waiting.html", trial, "Compare", error, totals=counts, typed=request.form)


@route(chapter, "/trials/<int:trial_id>/compare", Act.READ)
def compare_page(trial: Trial) -> ResponseReturnValue:
    """The verdict; before the endpoint closes, totals."""
    return _page(trial)


def _open_evidence(trial: Trial) -> evidences.Evidence:
    """The evidence at the endpoint, for people who may see results by arm."""
    check = evidences.endpoint_of(db(), trial)
    if not results_by_arm(db(), trial, actor()) or arms_hidden(db(), trial, actor()):
        raise Refused("The arms are compared when the endpoint check is closed. Until then Compare shows totals.")
    return evidences.evidence_at(db(), trial, check)


@route(chapter, "/trials/<int:trial_id>/compare/more", Act.READ)
def compare_more(trial: Trial) -> ResponseReturnValue:
    """Everything one step away: figures, would the answer change, other responses, other lenses."""
    found = _open_evidence(trial)
    others = readings.explore(db(), trial, found)
    return trial_page(
        "compare_more.html",
        trial,
        "Compare",
        found=found,
        pictures=[(picture, Markup(picture.draw(PAGE))) for picture in pictures_of(trial, found, others)],  # noqa: S704 - drawn by us, texts escaped
        formats=FORMATS,
        answers=readings.would_answers_change(db(), trial, found),
        explored=views.explored(trial, others) if found.analysis else [],
        lenses=views.lens_rows(found),
        letters={arm.name: arm.letter for arm in trial.arms},
    )


@route(chapter, "/trials/<int:trial_id>/figures/<name>.<wanted>", Act.READ)
def figure(trial: Trial, name: str, wanted: str) -> ResponseReturnValue:
    """A figure to take away."""
    found = _open_evidence(trial)
    picture = next((p for p in pictures_of(trial, found, readings.explore(db(), trial, found)) if p.name == name), None)
    if picture is None or wanted not in FORMATS:
        raise NotFound("There is no such figure. Compare lists those there are, as SVG, PDF and PNG.")
    content = export(picture.draw(PAPER), f"{trial.code} {trial.taxon}. {picture.caption}", wanted, pdf_of)
    return download(content, MIME[wanted], f"{trial.code}-{name}.{wanted}")


@route(chapter, "/trials/<int:trial_id>/look-early", Act.LOOK_EARLY, "POST")
def look_early(trial: Trial) -> ResponseReturnValue:
    """A recorded interim look."""

    def save() -> None:
        evidences.endpoint_of(db(), trial)
        evidences.record_interim_look(db(), trial, actor(), now(), fields.text(request.form, "reason"))

    return answer(save, url_for(".compare_page", trial_id=trial.id), lambda e: _page(trial, e))
