"""Nothing of a printed report lies beyond the page, however many arms there are."""

from __future__ import annotations

from random import Random

import pytest
from sqlalchemy import select
from sqlalchemy.orm import Session
from weasyprint import HTML

from orderly_bench.trial.models import Trial
from tests.web.conftest import SignIn
from tests.web.test_old_trial import bring

MEDIA, STRENGTHS = ("pumice", "bark fines", "pumice and bark fines"), (0, 1_000, 2_000, 3_000)


def measured(arms: int) -> str:
    """A file of cuttings with numbers, lengths and deaths, some of them unknown: the longest words a report has of an arm."""
    luck, rows = Random(2), ["media,strength,rooted,roots,longest,state"]
    for medium, strength in [(m, s) for m in MEDIA for s in STRENGTHS][:arms]:
        for i in range(14):
            did = luck.random() < 0.6
            number = luck.randint(10, 60) if did and i % 5 else "" if did else 0
            mm = luck.randint(30, 120) if did and i % 4 else ""
            rows.append(f"{medium},{strength},{int(did)},{number},{mm},{'dead' if not did and i % 3 == 0 else ''}")
    return "\n".join([*rows, ""])


@pytest.mark.parametrize("arms", [6, 12])
def test_every_word_of_a_report_is_on_its_page(
    session: Session, sign_in: SignIn, monkeypatch: pytest.MonkeyPatch, arms: int
) -> None:
    client, made = sign_in(), []
    made_pdf = HTML.write_pdf

    def kept(self: HTML, *args: object, **more: object) -> object:
        made.append(self.render())
        return made_pdf(self, *args, **more)

    monkeypatch.setattr(HTML, "write_pdf", kept)
    answer = bring(client, measured(arms), factors="media, strength" if arms > len(STRENGTHS) else "strength")
    assert answer.status_code == 303, answer.text[:2_000]
    trial = session.scalars(select(Trial.id)).one()
    assert client.get(f"/trials/{trial}/report.pdf").content_type == "application/pdf"
    beyond = []
    for number, page in enumerate(made[-1].pages, 1):
        sheet = page._page_box
        words = [box for box in sheet.descendants() if hasattr(box, "text")]
        edge = sheet.content_box_x() + sheet.width + 0.5
        beyond += [(number, box.text) for box in words if box.position_x + box.width > edge]
        assert words
    assert beyond == []
