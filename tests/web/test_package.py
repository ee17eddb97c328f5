"""Everything of a trial in one zip: a data package that validates, with the same numbers in it."""

from __future__ import annotations

import csv
import hashlib
import io
import json
import zipfile
from datetime import UTC, datetime
from pathlib import Path

import pytest
from frictionless import Package
from sqlalchemy.orm import Session

from orderly_bench.cli.main import main
from orderly_bench.core.plan.text import from_text
from orderly_bench.formats.data_package import package, schema_of
from orderly_bench.trial.models import Trial
from tests.factories import FACTORS, create_finished, create_person, create_stuck, evidence, open_endpoint
from tests.web.conftest import SignIn
from tests.web.test_photos import jpeg, send


@pytest.fixture
def finished(session: Session) -> Trial:
    made = create_finished(
        session, create_person(session), create_person(session, "scorer"), factors=[FACTORS[0]], cuttings_per_arm=6
    )
    session.commit()
    return made


def unpacked(sign_in: SignIn, trial: Trial) -> zipfile.ZipFile:
    answered = sign_in("reader").get(f"/trials/{trial.id}/package.zip")
    assert answered.status_code == 200 and answered.mimetype == "application/zip"
    return zipfile.ZipFile(io.BytesIO(answered.data))


def test_it_validates_and_every_digest_holds(sign_in: SignIn, finished: Trial, tmp_path: Path) -> None:
    with unpacked(sign_in, finished) as archive:
        archive.extractall(tmp_path)
        names = set(archive.namelist())
    report = Package(str(tmp_path / "datapackage.json")).validate()
    assert report.valid, report.flatten(["type", "message"])
    described = json.loads((tmp_path / "datapackage.json").read_text())
    assert {one["path"] for one in described["resources"]} | {"datapackage.json"} == names
    for one in described["resources"]:
        data = (tmp_path / one["path"]).read_bytes()
        assert (one["bytes"], one["hash"]) == (len(data), f"sha256:{hashlib.sha256(data).hexdigest()}"), one["path"]
    kinds = {
        f["name"]: f["type"]
        for one in described["resources"]
        if one["path"].startswith("scores")
        for f in one["schema"]["fields"]
    }
    assert (kinds["root_number"], kinds["longest_root_mm"], kinds["medium"]) == ("integer", "number", "string")


def test_its_numbers_are_those_of_the_page(
    session: Session, sign_in: SignIn, finished: Trial, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    with unpacked(sign_in, finished) as archive:
        archive.extractall(tmp_path)
    assert from_text((tmp_path / "plan.yaml").read_text()) == finished.plan
    command = next(
        line for line in (tmp_path / "how.txt").read_text().splitlines() if line.startswith("./bench analyse")
    )
    arguments = command.replace(
        f"endpoint-{finished.code}.csv", str(tmp_path / f"endpoint-{finished.code}.csv")
    ).split()[1:]
    assert main([*arguments, "--json"]) == 0
    told = json.loads(capsys.readouterr().out)
    reading = evidence(session, finished).reading
    assert reading is not None and reading.headline.startswith(told["headline"].rstrip("."))
    rows = list(csv.DictReader(io.StringIO((tmp_path / f"scores-{finished.code}.csv").read_text())))
    assert len(rows) == 12 and (tmp_path / "report.pdf").read_bytes().startswith(b"%PDF")
    assert (tmp_path / "figures/rates.svg").read_text().startswith("<svg")


def test_photos_lie_in_it_with_their_day_and_code(
    session: Session, sign_in: SignIn, finished: Trial, tmp_path: Path
) -> None:
    code = finished.units[0].code
    assert send(sign_in, finished, jpeg(), photo_code=code).status_code == 303
    with unpacked(sign_in, finished) as archive:
        names = [name for name in archive.namelist() if name.startswith("photos/")]
        archive.extractall(tmp_path)
    assert len(names) == 1 and code in names[0] and (tmp_path / names[0]).read_bytes()[:2] == b"\xff\xd8"
    assert Package(str(tmp_path / "datapackage.json")).validate().valid


def test_it_is_not_made_before_the_end(session: Session, sign_in: SignIn) -> None:
    lead = create_person(session)
    trial = create_stuck(session, lead)
    open_endpoint(session, trial, lead)
    session.commit()
    assert sign_in().get(f"/trials/{trial.id}/package.zip").status_code == 422


def test_a_column_that_does_not_fit_its_type_is_text() -> None:
    kinds = {
        f["name"]: f["type"] for f in schema_of("row,quality,longest_root_mm,note\n1,3.5,12.5,=x\n2,,,\n")["fields"]
    }
    assert kinds == {"row": "integer", "quality": "string", "longest_root_mm": "number", "note": "string"}


def test_the_same_content_is_the_same_bytes() -> None:
    files: dict[str, bytes | str] = {"a.csv": "row\n1\n", "b.txt": "ä"}
    at = datetime(2026, 3, 1, tzinfo=UTC)
    first, again = io.BytesIO(), io.BytesIO()
    for out in (first, again):
        package(out, "x", "t", "d", at, files)
    assert first.getvalue() == again.getvalue()
