"""Readers who ask for many PDFs at once take no more than two threads; the others are told to ask again."""

from __future__ import annotations

import threading

import pytest
from sqlalchemy.orm import Session

from orderly_bench.trial.errors import Busy
from orderly_bench.web import pdf
from tests.factories import create_finished, create_person
from tests.web.conftest import SignIn


def test_one_is_made_one_waits_and_the_third_is_told(monkeypatch: pytest.MonkeyPatch) -> None:
    at_it, go_on = threading.Event(), threading.Event()
    made, together = [], []

    def render(html: str) -> bytes:
        together.append(html)
        at_it.set()
        assert go_on.wait(20)
        assert len(together) == 1, "one after the other"
        together.remove(html)
        return html.encode()

    monkeypatch.setattr(pdf, "_rendered", render)
    waiting = [threading.Thread(target=lambda n=n: made.append(pdf.pdf_of(f"<p>{n}"))) for n in range(2)]
    waiting[0].start()
    assert at_it.wait(20)
    waiting[1].start()
    while pdf.AT_ONCE._value:  # type: ignore[attr-defined]  # the second has taken its turn
        threading.Event().wait(0.01)
    with pytest.raises(Busy, match="again in a few seconds"):
        pdf.pdf_of("<p>third")
    go_on.set()
    for thread in waiting:
        thread.join(20)
    assert sorted(made) == [b"<p>0", b"<p>1"]
    assert pdf.pdf_of("<p>again") == b"<p>again", "the turn is given back"


def test_a_reader_is_answered_503_and_may_ask_again(session: Session, sign_in: SignIn) -> None:
    trial = create_finished(session, create_person(session), create_person(session, "scorer"))
    client = sign_in("reader")
    assert pdf.AT_ONCE.acquire(blocking=False) and pdf.AT_ONCE.acquire(blocking=False)
    try:
        busy = client.get(f"/trials/{trial.id}/report.pdf")
    finally:
        pdf.AT_ONCE.release(2)
    assert busy.status_code == 503 and "Two PDFs are being made" in busy.text
    assert client.get(f"/trials/{trial.id}/report.pdf").mimetype == "application/pdf"
