"""A second scorer sees a drawn share without the first score; how far the two agree stands on Compare and in the report."""

from __future__ import annotations

import pytest
from sqlalchemy.orm import Session

from orderly_bench.chapters.score import operations as score
from orderly_bench.chapters.score import second
from orderly_bench.core.errors import InvalidInput, OrderlyError, Refused
from orderly_bench.trial.models import CheckVisit, Cutting, Person, SecondScore, Trial
from tests.factories import NOW, create_person, create_stuck, open_endpoint, score_all
from tests.web.conftest import SignIn, flat


@pytest.fixture
def there(session: Session) -> tuple[Trial, CheckVisit, Person, Person]:
    lead, other = create_person(session), create_person(session, "scorer")
    trial = create_stuck(session, lead, cuttings_per_arm=6)
    check = open_endpoint(session, trial, lead)
    score_all(session, trial, check, lead)
    session.commit()
    return trial, check, lead, other


def seen(cutting: Cutting) -> tuple[str, int | None]:
    """What a second scorer sees who counts one more than the first."""
    return ("counted", 6) if cutting.unit.arm.letter in "AB" else ("none", None)


def test_from_the_draw_to_the_report(
    session: Session, sign_in: SignIn, there: tuple[Trial, CheckVisit, Person, Person]
) -> None:
    trial, check, lead, _ = there
    client, at = sign_in(), f"/checks/{check.id}/second"
    assert client.post(f"{at}/draw", data={"percent": "0"}).status_code == 422
    assert client.post(f"{at}/draw", data={"percent": "100"}).status_code == 303
    assert client.post(f"{at}/draw", data={"percent": "50"}).status_code == 422, "drawn once"
    session.expire_all()
    assert len(check.second_of) == 24
    scorer = sign_in("scorer")
    for cutting in second.drawn(session, check).cuttings:
        roots, number = seen(cutting)
        page = scorer.get(at).text
        assert f"{cutting.unit.code[:3]} {cutting.unit.code[3:]}" in page and "5 roots" not in page
        sent = {"cutting": str(cutting.id), "roots": roots, "root_number": str(number or "")}
        for _ in range(2):
            assert scorer.post(at, data=sent).status_code == 303
    assert session.query(SecondScore).count() == 24
    session.expire_all()
    score.close_check(session, check, lead, NOW)
    session.commit()
    told = "24 of 24 judged alike, kappa 1.00, the second counted +1.0 roots in the mean over 12"
    for page in ("compare", "report"):
        text = flat(sign_in().get(f"/trials/{trial.id}/{page}").text)
        assert told in text and "the second counted +1.0 roots in the mean" in text, page
    for page in ("compare", "conclude", "report"):
        assert "Of two scorers of the same" in flat(sign_in().get(f"/trials/{trial.id}/{page}").text), page


def test_who_scored_first_is_no_second_scorer(
    session: Session, there: tuple[Trial, CheckVisit, Person, Person]
) -> None:
    _, check, lead, other = there
    second.draw_second(session, check, lead, NOW, 50, seed=1)
    cutting = second.drawn(session, check).cuttings[0]
    left_out = next(c for c in score.in_scope(session, check) if c.id not in check.second_of)
    with pytest.raises(Refused, match="yourself"):
        second.keep_second(session, check, cutting, lead, NOW, "none", None)
    with pytest.raises(Refused, match="not drawn"):
        second.keep_second(session, check, left_out, other, NOW, "none", None)
    wrong: list[tuple[str, int | None, type[OrderlyError]]] = [
        ("many", None, InvalidInput), ("counted", None, InvalidInput), ("none", 3, InvalidInput), ("counted", 501, InvalidInput),
    ]  # fmt: skip
    for roots, number, error in wrong:
        with pytest.raises(error):
            second.keep_second(session, check, cutting, other, NOW, roots, number)
    second.keep_second(session, check, cutting, other, NOW, "none", None)
    with pytest.raises(Refused, match="already"):
        second.keep_second(session, check, cutting, create_person(session, "scorer"), NOW, "none", None)
    score.close_check(session, check, lead, NOW)
    with pytest.raises(Refused, match="closed"):
        second.keep_second(session, check, second.drawn(session, check).waiting[0], other, NOW, "none", None)


def test_it_changes_no_count(
    session: Session, sign_in: SignIn, there: tuple[Trial, CheckVisit, Person, Person]
) -> None:
    trial, check, lead, other = there
    second.draw_second(session, check, lead, NOW, 100, seed=1)
    for cutting in second.drawn(session, check).cuttings:
        second.keep_second(session, check, cutting, other, NOW, "none", None)
    session.commit()
    assert "All drawn are scored again" in flat(sign_in("scorer").get(f"/checks/{check.id}/second").text)
    score.close_check(session, check, lead, NOW)
    session.commit()
    text = flat(sign_in().get(f"/trials/{trial.id}/compare").text)
    assert "kappa 0.00" in text and "agree little on what is rooted" in text
    assert "12 of 24 judged alike" in text and "6 of 6" in text
