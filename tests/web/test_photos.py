"""Photos: cleaned, bounded, kept by day and unit, seen by those who may, side by side once arms may be seen."""

from __future__ import annotations

import io
from base64 import b64encode
from datetime import timedelta
from pathlib import Path

import pytest
from bs4 import BeautifulSoup
from flask import Flask
from PIL import Image
from sqlalchemy import select
from sqlalchemy.orm import Session
from werkzeug.datastructures import FileStorage

from orderly_bench.chapters.score import operations as score
from orderly_bench.core.errors import UnusableData
from orderly_bench.formats.photo import MOST_SIDE, SMALL_SIDE, read_photo
from orderly_bench.trial.models import AuditEntry, PhotoKept, Trial
from orderly_bench.web import fields
from orderly_bench.web.pdf import Forbidden, _fetcher, pdf_of
from tests.factories import DAY_ZERO, NOW, TODAY, create_person, create_stuck, open_endpoint, score_all
from tests.web.conftest import SignIn, flat

GPS, ORIENTATION, TURNED = 34853, 274, 6


def jpeg(width: int = 400, height: int = 300, colour: str = "green", form: str = "JPEG") -> bytes:
    image, out = Image.new("RGB", (width, height), colour), io.BytesIO()
    exif = Image.Exif()
    exif[ORIENTATION] = TURNED
    exif[271] = "a phone of Tarn Head"
    exif.get_ifd(GPS)[1] = "N"
    image.save(out, format=form, exif=exif)
    return out.getvalue()


@pytest.fixture
def trial(session: Session) -> Trial:
    made = create_stuck(session, create_person(session))
    session.commit()
    return made


def send(sign_in: SignIn, trial: Trial, data: bytes | None = None, role: str = "scorer", **more: str):
    form: dict[str, object] = {"shows": "tops", "photo_day": str(TODAY), **more}
    if data is not None:
        form["photo"] = (io.BytesIO(data), "IMG_1.jpg")
    return sign_in(role).post(f"/trials/{trial.id}/photos", data=form, content_type="multipart/form-data")


def test_a_photo_is_turned_upright_bounded_and_bare() -> None:
    sent = jpeg(6000, 3000)
    assert b"a phone of Tarn Head" in sent
    photo = read_photo(sent)
    assert (photo.width, photo.height) == (MOST_SIDE // 2, MOST_SIDE), "turned, then made smaller"
    with Image.open(io.BytesIO(photo.large)) as kept, Image.open(io.BytesIO(photo.small)) as small:
        assert kept.format == "JPEG" and not kept.getexif() and max(small.size) == SMALL_SIDE
    assert b"Tarn Head" not in photo.large + photo.small
    assert read_photo(sent).digest == photo.digest != read_photo(jpeg(colour="red")).digest
    assert read_photo(jpeg(form="PNG")).width == 300 and read_photo(jpeg(form="WEBP")).width == 300


def test_a_file_is_read_once_for_as_many_tries_as_it_takes() -> None:
    sent = {"photo": FileStorage(io.BytesIO(b"content"), "x.jpg")}
    assert fields.file(sent, "photo") == fields.file(sent, "photo") == ("x.jpg", b"content")
    assert sent["photo"].stream.closed and fields.file({}, "photo") == ("", None)


def test_what_is_no_photo_is_refused() -> None:
    bomb, out = Image.new("1", (9000, 9000)), io.BytesIO()
    bomb.save(out, format="PNG")
    for wrong in (
        b"",
        b"PK\x03\x04 a zip named .jpg",
        jpeg()[:300],
        b"<svg xmlns='http://www.w3.org/2000/svg'/>",
        b"GIF89a" + b"\0" * 50,
        out.getvalue(),
    ):
        with pytest.raises(UnusableData):
            read_photo(wrong)


def test_it_is_kept_once_and_shown_to_who_is_signed_in(
    session: Session, app: Flask, sign_in: SignIn, trial: Trial
) -> None:
    code = trial.units[0].code
    for _ in range(2):
        assert (
            send(
                sign_in, trial, jpeg(), photo_code=code, photo_note="good colour", photo_key="one", role="scorer"
            ).status_code
            == 303
        )
    scorer = create_person(session, "scorer")
    for _ in range(2):
        client = sign_in(person=scorer)
        form = {"shows": "roots", "photo_day": str(TODAY), "photo_key": "two", "photo": (io.BytesIO(jpeg()), "x.jpg")}
        assert (
            client.post(f"/trials/{trial.id}/photos", data=form, content_type="multipart/form-data").status_code == 303
        )
    kept = session.query(PhotoKept).order_by(PhotoKept.id).all()
    assert [p.request_key for p in kept].count("two") == 1
    assert len(list(Path(app.config["PHOTOS"]).iterdir())) == 2, (
        "a picture of one digest lies there once, with its small one"
    )
    reader = sign_in("reader")
    page = flat(reader.get(f"/trials/{trial.id}/photos").text)
    assert "good colour" in page and f"/photos/{kept[0].id}/small.jpg" in page
    large = reader.get(f"/photos/{kept[0].id}/large.jpg")
    assert (
        large.mimetype == "image/jpeg"
        and large.headers["Cache-Control"] == "no-store"
        and large.data[:2] == b"\xff\xd8"
    )
    assert app.test_client().get(f"/photos/{kept[0].id}/large.jpg").status_code == 302
    assert "good colour" in reader.get(f"/trials/{trial.id}/photos?code={code}").text


@pytest.mark.parametrize(
    "wrong",
    [
        {"photo_day": str(TODAY + timedelta(days=1))}, {"photo_day": str(DAY_ZERO - timedelta(days=1))}, {"shows": "moon"}, {"tray": "77"},
        {"photo_code": "QQQQQ"}, {"photo_note": "x" * 201},
    ],
)  # fmt: skip
def test_what_cannot_be_is_refused_with_what_was_typed(
    session: Session, app: Flask, sign_in: SignIn, trial: Trial, wrong: dict[str, str]
) -> None:
    refused = send(sign_in, trial, jpeg(), **{"photo_note": "second tray", **wrong})
    assert refused.status_code in (404, 422) and session.query(PhotoKept).count() == 0
    assert list(Path(app.config["PHOTOS"]).iterdir()) == []
    assert send(sign_in, trial).status_code == 422 and send(sign_in, trial, b"not one").status_code == 422
    assert send(sign_in, trial, jpeg(), role="reader").status_code == 403


def test_one_that_is_withdrawn_is_shown_no_more(session: Session, sign_in: SignIn, trial: Trial) -> None:
    send(sign_in, trial, jpeg())
    photo = session.query(PhotoKept).one()
    at, form = f"/trials/{trial.id}/photos/withdraw", {"photo_id": str(photo.id), "photo_why": ""}
    assert sign_in().post(at, data=form).status_code == 422
    assert sign_in().post(at, data=form | {"photo_why": "a face in it"}).status_code == 303
    assert sign_in().get(f"/photos/{photo.id}/large.jpg").status_code == 404
    assert f"/photos/{photo.id}/" not in sign_in().get(f"/trials/{trial.id}/photos").text
    assert session.query(AuditEntry).filter_by(action="withdrew a photo").one().why == "a face in it"


def test_arms_stand_side_by_side_only_once_they_may_be_seen(session: Session, sign_in: SignIn, trial: Trial) -> None:
    for letter in "AB":
        send(sign_in, trial, jpeg(), photo_code=next(u.code for u in trial.units if u.arm.letter == letter))
    for role in ("scorer", "researcher"):
        assert "Arms side by side" not in sign_in(role).get(f"/trials/{trial.id}/photos").text
    lead = create_person(session)
    check = open_endpoint(session, trial, lead)
    score_all(session, trial, check, create_person(session, "scorer"))
    score.close_check(session, check, lead, NOW)
    session.commit()
    page = flat(sign_in().get(f"/trials/{trial.id}/photos").text)
    assert "Arms side by side" in page and f"Day {(TODAY - DAY_ZERO).days}, tops" in page


def closed(session: Session, sign_in: SignIn, trial: Trial) -> None:
    """Two arms photographed on one day, tops and roots, and the trial's end closed."""
    for unit in (next(u for u in trial.units if u.arm.letter == letter) for letter in "AB"):
        for shows in ("tops", "roots"):
            assert send(sign_in, trial, jpeg(), shows=shows, photo_code=unit.code).status_code == 303
    check = open_endpoint(session, trial, create_person(session))
    score_all(session, trial, check, create_person(session, "scorer"))
    score.close_check(session, check, create_person(session), NOW)
    session.commit()


def test_compare_and_report_show_arms_side_by_side_tops_above_roots(
    session: Session, sign_in: SignIn, trial: Trial
) -> None:
    client = sign_in()
    closed(session, sign_in, trial)
    days = (TODAY - DAY_ZERO).days
    for page in ("compare/more", "report"):
        told = flat(client.get(f"/trials/{trial.id}/{page}").text)
        assert "Photos, arms side by side" in told, page
        assert 0 < told.index(f"Day {days}, tops") < told.index(f"Day {days}, roots"), page
        assert told.count("small.jpg") == 4, page


def test_the_printed_report_holds_the_pictures_itself(
    session: Session, sign_in: SignIn, trial: Trial, monkeypatch: pytest.MonkeyPatch
) -> None:
    closed(session, sign_in, trial)
    seen: list[str] = []
    monkeypatch.setattr("orderly_bench.chapters.conclude.routes.pdf_of", lambda html: seen.append(html) or b"%PDF")
    assert sign_in().get(f"/trials/{trial.id}/report.pdf").status_code == 200
    assert seen[0].count("data:image/jpeg;base64,") == 4 and "small.jpg" not in seen[0]
    assert b"/Image" in pdf_of(f'<img src="data:image/jpeg;base64,{b64encode(jpeg()).decode()}">')
    with pytest.raises(Forbidden):
        _fetcher().fetch("http://elsewhere.example/a.jpg")


def test_one_unit_from_day_to_day_stands_at_one_scale(session: Session, sign_in: SignIn, trial: Trial) -> None:
    unit = trial.units[0]
    for back, colour in ((0, "red"), (7, "blue"), (14, "green")):
        day = str(TODAY - timedelta(days=back))
        assert send(sign_in, trial, jpeg(colour=colour), shows="roots", photo_code=unit.code, photo_day=day).status_code == 303  # fmt: skip
    photos = session.scalars(select(PhotoKept).order_by(PhotoKept.day)).all()
    for photo, px in zip(photos[:2], (100, 200), strict=True):
        clicked = {
            "points": "[[10, 10], [10, 60]]",
            "scale": f"[[5, 5], [5, {5 + px}]]",
            "scale_mm": "20",
            "number": "1",
        }
        assert sign_in("scorer").post(f"/photos/{photo.id}/measure", data=clicked).status_code == 303
    page = sign_in("scorer").get(f"/trials/{trial.id}/photos?code={unit.code}").text
    widths = [int(one["width"]) for one in BeautifulSoup(page, "html.parser").select("figure.scaled img")]
    assert widths == [300, 150, 300], (
        "twice as many pixels to the millimetre, half as wide; one of unknown scale fills it"
    )
    assert flat(page).count("no scale on it") == 1
    assert "From day to day" not in sign_in("scorer").get(f"/trials/{trial.id}/photos").text
