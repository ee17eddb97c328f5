"""Photos: sent from phone or file, seen by day, by unit, and by arm once arms may be seen."""

from __future__ import annotations

from pathlib import Path

from flask import Blueprint, Response, current_app, request, url_for
from flask.typing import ResponseReturnValue

from orderly_bench.core.errors import InvalidInput, OrderlyError
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.trial import load, photo_lengths, photos
from orderly_bench.trial.access import Act
from orderly_bench.trial.blindness import arms_hidden, earlier_scores_hidden, results_by_arm
from orderly_bench.trial.errors import NotFound
from orderly_bench.trial.gallery import at_one_scale, by_arm, by_day
from orderly_bench.trial.models import PhotoKept, PhotoLength, Shows, Trial
from orderly_bench.web import fields
from orderly_bench.web.access import actor, route
from orderly_bench.web.answers import answer
from orderly_bench.web.pages import trial_page
from orderly_bench.web.store import db, now, today

chapter = Blueprint("photos", __name__, template_folder="templates")


def _folder() -> Path:
    return Path(current_app.config["PHOTOS"])


def _of(photo: PhotoKept) -> str:
    """What a photo shows, as its form says it: kind, code, tray."""
    return f"{photo.shows}|{photo.unit.code if photo.unit else ''}|{photo.tray or ''}"


def _page(trial: Trial, error: OrderlyError | None = None) -> str:
    kept = photos.photos_of(db(), trial)
    code = fields.text(request.args, "code")
    if code:
        unit = load.unit_by_code(db(), code, trial.id)
        kept = [one for one in kept if one.unit_id == unit.id]
    last = {
        _of(one): url_for(".picture", photo_id=one.id, wanted="large")
        for one in sorted(kept, key=lambda one: (one.day, one.id))
    }
    seen = results_by_arm(db(), trial, actor()) and not arms_hidden(db(), trial, actor())
    return trial_page(
        "photos.html", trial, "Tend", error, days=by_day(trial, kept), arms=by_arm(trial, kept) if seen and not code else [], scaled=at_one_scale(db(), kept) if code else [], typed=request.form or request.args,
        last=last, code=code, shows=[(one.value, one.value) for one in Shows], tray_choices=[(t.number, f"tray {t.number}") for t in trial.trays],
    )  # fmt: skip


@route(chapter, "/trials/<int:trial_id>/photos", Act.READ)
def page(trial: Trial) -> ResponseReturnValue:
    """Photos by day; of one unit with its code in the address."""
    return _page(trial)


@route(chapter, "/trials/<int:trial_id>/photos", Act.TEND, "POST")
def keep_photo(trial: Trial) -> ResponseReturnValue:
    """Keep a photo."""

    def save() -> None:
        form, (_name, data) = request.form, fields.file(request.files, "photo")
        if not data:
            raise InvalidInput("photo", _("choose or take one"))
        code = fields.text(form, "photo_code")
        unit = load.unit_by_code(db(), code, trial.id) if code else None
        if unit is not None:
            load.of_trial(trial, unit, "unit")
        sent = photos.PhotoSent(
            data, fields.day(form, "photo_day", "day of the photo"), fields.text(form, "shows"), unit,
            fields.optional_whole(form, "tray", "tray"), fields.text(form, "photo_note"), form.get("photo_key", "")[:40] or None,
        )  # fmt: skip
        photos.keep_photo(db(), trial, actor(), now(), today(), _folder(), sent)

    return answer(save, url_for(".page", trial_id=trial.id), lambda e: _page(trial, e))


@route(chapter, "/photos/<int:photo_id>/<wanted>.jpg", Act.READ)
def picture(photo_id: int, wanted: str) -> ResponseReturnValue:
    """A picture, large or small."""
    photo = load.by_id(db(), PhotoKept, photo_id, "photo")
    return Response(photos.picture_of(_folder(), photo, wanted == "small"), mimetype="image/jpeg")


@route(chapter, "/trials/<int:trial_id>/photos/withdraw", Act.TEND, "POST")
def withdraw(trial: Trial) -> ResponseReturnValue:
    """A photo is shown no more."""

    def save() -> None:
        photo = load.by_id(db(), PhotoKept, fields.sent_number(request.form.get("photo_id", "")) or 0, "photo")
        load.of_trial(trial, photo, "photo")
        photos.withdraw_photo(db(), trial, actor(), now(), photo, fields.text(request.form, "photo_why"))

    return answer(save, url_for(".page", trial_id=trial.id), lambda e: _page(trial, e))


def _measure_page(photo: PhotoKept, error: OrderlyError | None = None) -> str:
    trial = photo.trial
    hidden = earlier_scores_hidden(trial, actor())
    check = next((one for one in trial.checks if one.is_open), None)
    cuttings = sorted(photo.unit.cuttings, key=lambda one: one.number) if photo.unit else []
    return trial_page(
        "measure.html", trial, "Tend", error, photo=photo, typed=request.form, check=check,
        lengths=photo_lengths.lengths_on(db(), photo, actor() if hidden else None), cuttings={one.number: one.id for one in cuttings},
    )  # fmt: skip


def _photo_of_trial(photo_id: int) -> PhotoKept:
    photo = load.by_id(db(), PhotoKept, photo_id, "photo")
    if photo.withdrawn:
        raise NotFound(_("This photo was withdrawn: {why}", why=photo.withdrawn))
    return photo


@route(chapter, "/photos/<int:photo_id>/measure", Act.READ)
def measure(photo_id: int) -> ResponseReturnValue:
    """A photo to click lengths on."""
    return _measure_page(_photo_of_trial(photo_id))


@route(chapter, "/photos/<int:photo_id>/measure", Act.SCORE, "POST")
def keep_length(photo_id: int) -> ResponseReturnValue:
    """Keep a length with its points and scale."""
    photo = _photo_of_trial(photo_id)

    def save() -> None:
        form = request.form
        clicked = photo_lengths.Clicked(
            photo_lengths.read_points(form.get("points", "")), photo_lengths.read_points(form.get("scale", "")),
            fields.number(form, "scale_mm", _("scale, mm")), fields.optional_whole(form, "number", _("number in the unit")) or 1,
            form.get("length_key", "")[:40] or None,
        )  # fmt: skip
        photo_lengths.keep_length(db(), photo.trial, actor(), now(), photo, clicked)

    return answer(save, url_for(".measure", photo_id=photo.id), lambda e: _measure_page(photo, e))


@route(chapter, "/photos/<int:photo_id>/measure/withdraw", Act.SCORE, "POST")
def withdraw_length(photo_id: int) -> ResponseReturnValue:
    """A length no longer stands."""
    photo = _photo_of_trial(photo_id)

    def save() -> None:
        one = load.by_id(db(), PhotoLength, fields.sent_number(request.form.get("length_id", "")) or 0, _("length"))
        load.of_trial(photo.trial, one, _("length"))
        photo_lengths.withdraw_length(db(), photo.trial, actor(), now(), one, fields.text(request.form, "length_why"))

    return answer(save, url_for(".measure", photo_id=photo.id), lambda e: _measure_page(photo, e))
