"""Conclude: decide, report, data out."""

from __future__ import annotations

import json
from base64 import b64encode
from collections.abc import Sequence
from dataclasses import replace
from functools import partial
from pathlib import Path
from tempfile import SpooledTemporaryFile

from flask import Blueprint, current_app, render_template, request, send_file, url_for
from flask.typing import ResponseReturnValue

from orderly_bench.chapters.conclude import operations, plants, views
from orderly_bench.core.conclude.decision import Decision
from orderly_bench.core.conclude.facts import Cost, Facts, facts_of
from orderly_bench.core.conclude.marks import judge
from orderly_bench.core.conclude.offered import offered
from orderly_bench.core.conclude.plants import sold_by_arm
from orderly_bench.core.conclude.written_before import Written
from orderly_bench.core.errors import OrderlyError, Refused
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.question.again import missing_words
from orderly_bench.core.responses.registry import kind_of
from orderly_bench.core.stock.kept import LessonKind
from orderly_bench.core.telling.working import arm_intervals
from orderly_bench.core.tend.schedule import days_after_sticking
from orderly_bench.database.archive import revision_of
from orderly_bench.evidence import headless, other_responses, texts
from orderly_bench.evidence.cost import costs_kept
from orderly_bench.evidence.dose import drawn_doses
from orderly_bench.evidence.in_r import redone
from orderly_bench.evidence.pictures import pictures_of
from orderly_bench.evidence.verdict import Evidence
from orderly_bench.evidence.ways import beside_the_book, ways_of
from orderly_bench.figures.svg import PAPER
from orderly_bench.formats import trial_tables
from orderly_bench.formats.analysis_r import r_script
from orderly_bench.formats.data_package import Content, package, schema_of
from orderly_bench.formats.xlsx import workbook
from orderly_bench.record.doubts import doubts_so_far
from orderly_bench.record.gather import gather, version_records
from orderly_bench.stock.operations import cards_of, lessons_for
from orderly_bench.trial.access import Act, may
from orderly_bench.trial.blindness import arms_hidden, endpoint_closed, refuse_earlier, results_by_arm
from orderly_bench.trial.carried import written
from orderly_bench.trial.checks import refuse_unless_stuck
from orderly_bench.trial.gallery import side_by_side
from orderly_bench.trial.models import Conclusion, PhotoKept, Trial
from orderly_bench.trial.photos import photos_of, picture_of
from orderly_bench.trial.steps_ticked import ticked
from orderly_bench.web import fields
from orderly_bench.web.access import actor, route
from orderly_bench.web.answers import answer
from orderly_bench.web.pages import being_worked_out, comes_when_worked_out, trial_page
from orderly_bench.web.pdf import download, pdf_of
from orderly_bench.web.store import db, lab, now
from orderly_bench.web.work import results_of

#: Photos in one package; more are left in the lab.
#: A package up to so many bytes is held in memory, a larger one on the disk.
HELD_BYTES = 8_000_000
chapter = Blueprint("conclude", __name__, template_folder="templates")


def _closed(trial: Trial) -> bool:
    return trial.locked_at is not None and endpoint_closed(db(), trial)


def _waits(trial: Trial) -> bool:
    """Whether its end is closed and still being worked out."""
    return _closed(trial) and results_of(trial) is None


def _evidence(trial: Trial) -> Evidence | None:
    """The evidence once the endpoint check is closed and worked out."""
    results = results_of(trial) if _closed(trial) else None
    return results.found if results else None


def _facts(trial: Trial, found: Evidence | None) -> Facts | None:
    """What conclusions are held against; None where nothing was analysed."""
    if found is None or found.analysis is None or found.reading is None:
        return None
    record = found.record
    looked = [(check.day, record.lot(check.lot).day_zero) for check in record.checks if check.opened and check.day]
    days = [days_after_sticking(day, zero) for day, zero in looked]
    facts = facts_of(found.analysis, found.reading, found.cautions, days, record.arm_names)
    kept = costs_kept(found, trial.costs)
    costs = [(record.arm_names[one.letter], one.plant) for one in kept.arms] if kept else []
    return replace(facts, costs=tuple(Cost(name, *plant) for name, plant in costs if plant is not None))


def _written(found: Evidence | None, kept: Sequence[Conclusion], until: Conclusion | None = None) -> list[Written]:
    """What was written of a trial before a conclusion, or before now: notes, the conclusions before it, the prediction."""
    if found is None:
        return []
    before = [one for one in kept if until is None or one.id < until.id]
    notes = [Written(note.day, N_("a note"), note.text) for note in found.record.notes]
    earlier = [Written(one.at.date(), N_("the conclusion"), one.text) for one in before]
    expected = found.record.prediction
    if expected is None or not expected.ranking:
        return [*notes, *earlier]
    names = tuple(found.record.arm_names[letter] for letter in expected.ranking)
    told = _("{names}, best first", names=", ".join(names))
    return [*notes, *earlier, Written(expected.at.date(), N_("the prediction"), told, names)]


def _page(trial: Trial, error: OrderlyError | None = None) -> str:
    results = results_of(trial) if _closed(trial) else None
    if results is None and _closed(trial):
        return being_worked_out(trial)
    found = results.found if results else None
    kept = operations.conclusions_of(db(), trial)
    kept_text = kept[0].text if kept else ""
    text = request.form.get("text", kept_text)
    decision = request.form.get("decision", kept[0].decision if kept else "")
    facts = _facts(trial, found)
    return trial_page(
        "conclude.html", trial, "Conclude", error, found=found, kept=kept, decisions=list(Decision), text=text, decision=decision, judged=judge(text, decision, facts, _written(found, kept if text != kept_text else kept[1:])), cautions=texts.all_cautions(found) if found else [],
        earlier=[(c, judge(c.text, c.decision, facts, _written(found, kept, c))) for c in kept],
        since=texts.since(results.answers) if results else [],
        ways=ways_of(found) if found else [],
        lessons=_lessons(trial, bool(kept)),
        adopted=request.form.get("adopted", ""),
        offered=offered(facts, trial.plan.question.response),
        open_data=results_by_arm(db(), trial, actor()),
        more_units=_more_units(found),
        missing=missing_words(trial.plan) if trial.plan.treatments.mixed_up() else "",
    )  # fmt: skip


def _lessons(trial: Trial, concluded: bool) -> list[tuple[LessonKind, str]]:
    """What stands in the fields of the lessons: as typed, else what the trial's last conclusion taught."""
    known = lessons_for(db(), trial.plan.question.botanical_name) if concluded else []
    taught = {one.what: one.text for one in known if one.trial_code == trial.code}
    return [(what, request.form.get(f"lesson_{what.value}", taught.get(what.value, ""))) for what in LessonKind]


def _more_units(found: Evidence | None) -> tuple[int, bool]:
    """Units more a side with which the headline's comparison, or a difference of the margin where there is none to go by, would be found; 0 where that was not asked."""
    lead = found.reading.findings[:1] if found is not None and found.reading is not None else []
    of = [(one.comparison.more_units, one.comparison.more_units_margin) for one in lead]
    return next(((seen or margin or 0, not seen and bool(margin)) for seen, margin in of), (0, False))


@route(chapter, "/trials/<int:trial_id>/conclude", Act.READ)
def conclude_page(trial: Trial) -> ResponseReturnValue:
    """Decision, conclusion, report, data."""
    return _page(trial)


@route(chapter, "/trials/<int:trial_id>/conclude", Act.CONCLUDE, "POST")
def conclude(trial: Trial) -> ResponseReturnValue:
    """Keep a conclusion."""

    def save() -> None:
        found = _evidence(trial)
        if found is None:
            raise Refused(_("The endpoint check is not closed yet. Close it on the Score page; then conclude."))
        form = request.form
        lessons = {what: fields.text(form, f"lesson_{what.value}") for what in LessonKind}
        after = operations.After(fields.text(form, "adopted"), lessons)
        operations.conclude(
            db(), trial, actor(), now(), found, form.get("decision", ""), fields.text(form, "text"), after
        )

    return answer(save, url_for(".conclude_page", trial_id=trial.id), lambda e: _page(trial, e))


@route(chapter, "/trials/<int:trial_id>/conclude/without", Act.CONCLUDE, "POST")
def close_without_verdict(trial: Trial) -> ResponseReturnValue:
    """Close a trial that can't be judged any more; its lessons stay."""
    form = request.form

    def save() -> None:
        lessons = {what: fields.text(form, f"lesson_{what.value}") for what in LessonKind}
        operations.close_without_verdict(
            db(), trial, actor(), now(), form.get("decision", ""), fields.text(form, "why"), lessons
        )

    return answer(save, url_for(".conclude_page", trial_id=trial.id), lambda e: _page(trial, e))


@route(chapter, "/trials/<int:trial_id>/conclude/working", Act.CONCLUDE, "POST")
def conclude_working(trial: Trial) -> ResponseReturnValue:
    """The typed conclusion read against the data. Writes nothing."""
    found = _evidence(trial)
    written = _written(found, operations.conclusions_of(db(), trial))
    judged = judge(request.form.get("text", ""), request.form.get("decision", ""), _facts(trial, found), written)
    return render_template("_judged.html", judged=judged)


def _report(trial: Trial, for_pdf: bool) -> str:
    results = results_of(trial) if _closed(trial) else None
    if results is None and operations.conclusions_of(db(), trial):
        return _report_without(trial, for_pdf)
    if results is None:
        raise Refused(_("The report is written when the endpoint check is closed. Until then Compare shows totals."))
    found, kept = results.found, operations.conclusions_of(db(), trial)
    ended = plants.ends_of(db(), trial, found.results)
    return render_template(
        "report.html",
        trial=trial,
        found=found,
        check=found.check,
        costs=costs_kept(found, trial.costs),
        for_pdf=for_pdf,
        kept=[(c, judge(c.text, c.decision, _facts(trial, found), _written(found, kept, c))) for c in kept],
        rates=texts.rates_figure(found, PAPER),
        picture_of=texts.picture_of(found),
        by_day=texts.by_day(found),
        differences=texts.differences_figure(found, PAPER),
        over_time=texts.rooting_over_time(found, results.others, PAPER),
        doses=drawn_doses(found.analysis, PAPER),
        arm_intervals=arm_intervals(found.analysis) if found.analysis else "",
        tested=texts.tested_words(found.analysis) if found.analysis else "",
        second_opinion=texts.second_opinion_words(found.analysis) if found.analysis else "",
        counted=texts.reconciled(found),
        cautions=texts.all_cautions(found),
        pair_rows=texts.pair_rows(found),
        factor_rows=texts.factor_rows(found),
        size_heading=texts.size_heading(found.analysis) if found.analysis else "",
        is_share=found.analysis is not None and texts.is_share(found.analysis),
        endpoint_heading=kind_of(trial.plan.question.response).heading,
        letters={name: letter for letter, name in found.record.arm_names.items()},
        versions=version_records(db(), trial),
        recipes=views.recipes_of(trial),
        steps=ticked(db(), trial),
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
        rooted_means=texts.rooted_means(found),
        went=[*plants.told_by_arm(found.record.arm_names, ended), *sold_by_arm(plants.sold(ended))],
        explored=other_responses.explored(found.record.arm_names, results.others, trial.plan.question.others)
        if found.analysis
        else [],
        changes=texts.changes(found),
        sides=side_by_side(db(), trial),
        source=_in_document if for_pdf else lambda photo: url_for("photos.picture", photo_id=photo.id, wanted="small"),
    )


def _in_document(photo: PhotoKept) -> str:
    """A photo's small picture, as it stands in a document that loads nothing."""
    picture = picture_of(Path(current_app.config["PHOTOS"]), photo, True)
    return f"data:image/jpeg;base64,{b64encode(picture).decode()}"


def _report_without(trial: Trial, for_pdf: bool) -> str:
    """Of a trial that was closed without a verdict: what was planned, what was seen, what ended it."""
    known = gather(db(), trial)
    return render_template(
        "report_without.html",
        trial=trial,
        for_pdf=for_pdf,
        hidden=arms_hidden(db(), trial, actor()),
        kept=operations.conclusions_of(db(), trial),
        record=known,
        seen=[*views.seen_in_totals(known), *(f"{line}." for line in texts.lifted_for_good(known))],
        steps=ticked(db(), trial),
        doubts=doubts_so_far(known),
        lessons=[one for one in lessons_for(db(), trial.plan.question.botanical_name) if one.trial_code == trial.code],
    )


@route(chapter, "/trials/<int:trial_id>/report", Act.READ)
def report(trial: Trial) -> ResponseReturnValue:
    """The report, ready to print."""
    if _waits(trial):
        return comes_when_worked_out(trial)
    return _report(trial, False)


@route(chapter, "/trials/<int:trial_id>/report.pdf", Act.READ)
def report_pdf(trial: Trial) -> ResponseReturnValue:
    """The report as PDF."""
    if _waits(trial):
        return comes_when_worked_out(trial)
    return download(pdf_of(_report(trial, True)), "application/pdf", f"report-{trial.code}.pdf")


@route(chapter, "/trials/<int:trial_id>/package.zip", Act.READ)
def package_zip(trial: Trial) -> ResponseReturnValue:
    """Everything of a trial in one file, described as a data package; once its end is closed."""
    if _waits(trial) and _with_arms(trial):
        return comes_when_worked_out(trial)
    results = results_of(trial) if _closed(trial) else None
    if results is None or not _with_arms(trial):
        raise Refused(_("The package is made when the endpoint check is closed. Until then take the scores as CSV."))
    refuse_earlier(trial, actor())
    known, found = results.found.record, results.found
    factors = [factor.name for factor in trial.factors]
    endpoint = trial_tables.endpoint_csv(factors, views.endpoint_rows(known, True), views.measures_in(known, True))
    pictures = pictures_of(found, results.others, results.numbers, results.described)
    files: dict[str, Content] = {
        "plan.yaml": trial.plan_text,
        f"endpoint-{trial.code}.csv": endpoint,
        f"plants-{trial.code}.csv": trial_tables.plants_csv(plants.rows_of(plants.ends_of(db(), trial, found.results))),
        f"scores-{trial.code}.csv": trial_tables.scores_csv(factors, views.score_rows(known, True)),
        "report.pdf": pdf_of(_report(trial, True)),
        **{f"figures/{picture.name}.svg": picture.draw(PAPER) for picture in pictures},
        "how.txt": "\n".join(views.how_to_redo(found)) + "\n",
    }
    if may(actor(), Act.PLAN):
        files["trial.json"] = json.dumps(written(db(), trial, revision_of(db().connection()) or ""), ensure_ascii=False)
    again = redone(found)
    files |= {"analysis.R": r_script(again)} if again else {}
    wanted = [] if request.args.get("photos") == "no" else photos_of(db(), trial)
    for photo in wanted:
        of = photo.unit.code if photo.unit else f"tray-{photo.tray}" if photo.tray else "trial"
        picture = partial(picture_of, Path(current_app.config["PHOTOS"]), photo, False)
        files[f"photos/{photo.day}-{of}-{photo.digest}.jpg"] = picture
    title = f"{trial.code}: {trial.plan.question.sentence or trial.taxon}"
    said = found.reading.headline if found.reading else found.unusable
    out = SpooledTemporaryFile(HELD_BYTES)  # noqa: SIM115 - closed with the answer
    package(out, f"trial-{trial.code}".lower(), title, said, now(), files, [lab().name])
    out.seek(0)
    return send_file(out, "application/zip", as_attachment=True, download_name=f"trial-{trial.code}.zip")


def _with_arms(trial: Trial) -> bool:
    """Whether a file may name arms beside results."""
    return results_by_arm(db(), trial, actor()) and not arms_hidden(db(), trial, actor())


def _scores(trial: Trial) -> str:
    """One row per cutting per check; arms beside them for those who may see both."""
    refuse_earlier(trial, actor())
    with_arms = _with_arms(trial)
    factors = [factor.name for factor in trial.factors] if with_arms else []
    return trial_tables.scores_csv(factors, views.score_rows(gather(db(), trial), with_arms))


@route(chapter, "/trials/<int:trial_id>/scores.csv", Act.READ)
def scores_csv(trial: Trial) -> ResponseReturnValue:
    """One row per cutting per check; not for a scorer while a check is open."""
    return download(_scores(trial), "text/csv; charset=utf-8", f"scores-{trial.code}.csv")


@route(chapter, "/trials/<int:trial_id>/scores.xlsx", Act.READ)
def scores_xlsx(trial: Trial) -> ResponseReturnValue:
    """The same as a workbook, which Score takes in again."""
    content = _scores(trial)
    fields_of = schema_of(content)["fields"]
    numbers = [one["name"] for one in fields_of if one["type"] != "string"]
    kind = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
    return download(workbook(content, numbers, f"scores {trial.code}"), kind, f"scores-{trial.code}.xlsx")


@route(chapter, "/trials/<int:trial_id>/endpoint.csv", Act.READ)
def endpoint_csv(trial: Trial) -> ResponseReturnValue:
    """One row per cutting at the endpoint; ``analyse`` reads it back to the same numbers. Not for a scorer while a check is open."""
    refuse_unless_stuck(trial)
    refuse_earlier(trial, actor())
    with_arms = _with_arms(trial)
    factors = [factor.name for factor in trial.factors] if with_arms else []
    known = gather(db(), trial)
    rows, measures = views.endpoint_rows(known, with_arms), views.measures_in(known, with_arms)
    content = trial_tables.endpoint_csv(factors, rows, measures)
    return download(content, "text/csv; charset=utf-8", f"endpoint-{trial.code}.csv")
