"""Labels in number: 600 in one PDF while a person waits."""

from __future__ import annotations

import io
import time

import pypdfium2
import pytest
import zxingcpp
from pypdf import PdfReader
from sqlalchemy.orm import Session

from orderly_bench.chapters.prepare.labels import SIZES, read_size
from orderly_bench.core.design.codes import spaced
from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.plan.treatments import Container
from orderly_bench.core.vocabulary import LayoutKind
from tests.factories import DAY_ZERO, create_locked, create_person, stick_all
from tests.web.conftest import SignIn

SECONDS = 5.0
#: Seconds that the work below takes on a quiet machine.
USUAL = 0.06


def slowness() -> float:
    """How many times slower than usual the machine is just now, by work on words as the labels are; at least 1."""
    began, seen = time.process_time(), {}
    for word in sorted(f"{i % 977}:{i}" for i in range(120_000)):
        seen.setdefault(word[:3], []).append(word)
    return max(1.0, (time.process_time() - began) / USUAL) if seen else 1.0


def test_600_labels_come_in_one_pdf_in_five_seconds_of_work(session: Session, sign_in: SignIn) -> None:
    trial = create_locked(
        session, create_person(session), cuttings_per_arm=150, layout=LayoutKind.COMPLETELY_RANDOMISED.value, blocks=1,
        container=Container(rows=6, columns=10),
    )  # fmt: skip
    client = sign_in()
    took = []
    for _ in range(2):  # the first reads the fonts, as a server does once
        before, began = slowness(), time.process_time()
        answer = client.get(f"/trials/{trial.id}/labels.pdf")
        work = time.process_time() - began
        took.append(work / max(before, slowness()))  # on both sides: the machine may be slowed down in between
    assert answer.mimetype == "application/pdf"
    pages = PdfReader(io.BytesIO(answer.data)).pages
    text = "".join(page.extract_text() for page in pages)
    assert all(spaced(unit.code) in text for unit in trial.units)
    assert 10 <= len(pages) <= 16
    assert min(took) < SECONDS, f"{took[0]:.1f} and {took[1]:.1f} s"


@pytest.mark.parametrize("size", SIZES)
def test_every_square_reads_as_the_code_beside_it(session: Session, sign_in: SignIn, size: str) -> None:
    trial = create_locked(session, create_person(session))
    answer = sign_in().get(f"/trials/{trial.id}/labels.pdf?mm={size}")
    page = pypdfium2.PdfDocument(answer.data)[0].render(scale=3).to_pil()
    assert sorted(found.text for found in zxingcpp.read_barcodes(page)) == sorted(unit.code for unit in trial.units)


@pytest.mark.parametrize("size", SIZES)
def test_labels_fill_a_sheet_and_never_more(size: str) -> None:
    found = read_size(size)
    assert found.across * found.width <= 190 < (found.across + 1) * found.width
    assert found.square_mm <= found.height - 2.6 and found.text_mm + 20 <= found.width, (
        "the code stands beside its square"
    )


@pytest.mark.parametrize("wrong", ["", "46", "29x18", "106x18", "46x11", "46x61", "4.6x18", "axb", "46x18x2"])
def test_a_size_that_cannot_be_is_refused(session: Session, sign_in: SignIn, wrong: str) -> None:
    with pytest.raises(InvalidInput):
        read_size(wrong)
    trial = create_locked(session, create_person(session))
    if wrong:
        assert sign_in().get(f"/trials/{trial.id}/labels.pdf?mm={wrong}").status_code == 422


def test_one_label_again_with_its_plant_and_day(session: Session, sign_in: SignIn) -> None:
    trial = create_locked(session, create_person(session))
    code = trial.units[3].code

    def text(path: str) -> str:
        return "".join(page.extract_text() for page in PdfReader(io.BytesIO(sign_in().get(path).data)).pages)

    before = text(f"/trials/{trial.id}/labels.pdf?code={code.lower()}")
    assert spaced(code) in before and "stuck ____" in before and "Lavandula angustifolia" in before
    assert not any(spaced(unit.code) in before for unit in trial.units if unit.code != code)
    stick_all(session, trial, create_person(session))
    session.commit()
    assert f"stuck {DAY_ZERO:%-d %b %Y}" in text(f"/trials/{trial.id}/labels.pdf?code={code}")
    assert sign_in().get(f"/trials/{trial.id}/labels.pdf?code=QQQQQ").status_code == 404
