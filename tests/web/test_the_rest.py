"""*The rest are*: said once, a score of its own for each, asked again where others were scored meanwhile."""

from __future__ import annotations

import pytest
from bs4 import BeautifulSoup
from sqlalchemy import select
from sqlalchemy.orm import Session

from orderly_bench.chapters.score import operations as score
from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.score.the_rest import Rest, score_of
from orderly_bench.core.vocabulary import KnownBy, Roots, State
from orderly_bench.trial.models import CheckVisit, ScoreRecord, Trial
from tests.factories import NOW, ROOTED, create_person, create_stuck, open_endpoint
from tests.web.conftest import SignIn


@pytest.fixture
def bench(session: Session) -> tuple[Trial, CheckVisit]:
    actor = create_person(session)
    trial = create_stuck(session, actor)
    check = open_endpoint(session, trial, actor)
    score.keep_score(session, check, trial.units[0].cuttings[0], actor, NOW, ROOTED)
    session.commit()
    return trial, check


@pytest.mark.parametrize(
    ("rest", "state", "roots"),
    [
        (Rest.NO_ROOTS, State.ALIVE, Roots.NONE),
        (Rest.NOT_LOOKED, State.ALIVE, Roots.NOT_LOOKED),
        (Rest.DEAD, State.DEAD, Roots.NOT_LOOKED),
        (Rest.MISSING, State.MISSING, Roots.NOT_LOOKED),
    ],
)
def test_each_word_is_a_score_of_its_own(rest: Rest, state: State, roots: Roots) -> None:
    made = score_of(rest, KnownBy.LIFTED)
    assert (made.state, made.roots, made.note) == (state, roots, "said of the rest together")


def test_what_a_check_can_not_show_is_not_said_of_the_rest() -> None:
    with pytest.raises(InvalidInput, match="which shows none"):
        score_of(Rest.NO_ROOTS, KnownBy.TUG)
    with pytest.raises(InvalidInput, match="choose one of"):
        score_of("fine", KnownBy.LIFTED)


def test_said_once_all_that_are_left_are_scored_and_the_check_can_be_closed(
    session: Session, sign_in: SignIn, bench: tuple[Trial, CheckVisit]
) -> None:
    trial, check = bench
    client = sign_in("researcher")
    page = BeautifulSoup(client.get(f"/trials/{trial.id}/score?check={check.id}").text, "html.parser")
    left = page.select_one("#rest-left")["value"]
    assert left == str(len(trial.units) - 1)
    form = {"left": left, "rest": Rest.NO_ROOTS.value}
    kept = client.post(
        f"/checks/{check.id}/scores",
        data={
            "cutting": trial.units[1].cuttings[0].id,
            "state": "alive",
            "roots": "none",
            "known_by": "lifted and counted",
            "tray_shown": "1",
        },
        headers={"HX-Request": "true"},
    )
    assert kept.status_code == 200
    assert BeautifulSoup(kept.text, "html.parser").select_one("#rest-left")["value"] == str(len(trial.units) - 2)
    form["left"] = str(len(trial.units) - 2)
    for _ in range(2):
        assert client.post(f"/checks/{check.id}/rest", data=form).status_code == 303
    standing = session.scalars(select(ScoreRecord).where(ScoreRecord.check_id == check.id)).all()
    assert len(standing) == len(trial.units), "sent twice is once"
    assert sorted(s.roots for s in standing) == ["counted", *["none"] * (len(trial.units) - 1)]
    assert client.post(f"/checks/{check.id}/close").status_code == 303


def test_where_others_were_scored_meanwhile_it_is_asked_again_and_nothing_kept(
    session: Session, sign_in: SignIn, bench: tuple[Trial, CheckVisit]
) -> None:
    trial, check = bench
    form = {"left": str(len(trial.units)), "rest": Rest.DEAD.value}
    refused = sign_in("researcher").post(f"/checks/{check.id}/rest", data=form)
    assert refused.status_code == 409 and "Meanwhile others were scored" in refused.text
    assert len(session.scalars(select(ScoreRecord)).all()) == 1


def kept(session: Session, check: CheckVisit) -> list[tuple[int, str, int | None]]:
    found = session.scalars(select(ScoreRecord).where(ScoreRecord.check_id == check.id, ScoreRecord.current == 1))
    return sorted((one.cutting.unit.bench_order, one.roots, one.root_number) for one in found)


def test_the_next_are_as_my_last_one(session: Session, sign_in: SignIn, bench: tuple[Trial, CheckVisit]) -> None:
    trial, check = bench
    client, where = sign_in("scorer"), f"/checks/{check.id}/again"
    first = client.post(where, data={"many": "1"})
    assert first.status_code == 422 and "You have kept no score of this check yet" in first.text, (
        "another's is not mine"
    )
    own = {"cutting": str(trial.units[1].cuttings[0].id), "state": "alive", "roots": "counted", "root_number": "7", "note": "thick", "revision": "0", "fit": "not judged"}  # fmt: skip
    assert client.post(f"/checks/{check.id}/scores", data=own).status_code == 303
    for _ in range(2):
        assert client.post(where, data={"many": "3", "again_key": "a1"}).status_code == 303
    session.expire_all()
    assert kept(session, check)[1:] == [(n, "counted", 7) for n in (2, 3, 4, 5)], "sent twice, kept once"
    notes = session.scalars(select(ScoreRecord.note).where(ScoreRecord.check_id == check.id, ScoreRecord.note != ""))
    assert notes.all() == ["thick"], "a note is of its own cutting"
    for many in ("0", str(len(trial.units)), "all"):
        assert client.post(where, data={"many": many, "again_key": "a2"}).status_code == 422
    session.expire_all()
    assert len(kept(session, check)) == 5
    assert client.post(f"/checks/{check.id}/take-back").status_code == 303
    session.expire_all()
    assert len(kept(session, check)) == 4, "each can be taken back"
