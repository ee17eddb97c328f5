"""Trials are found by the words of their code, plant and levels, by where they stand, by year."""

from __future__ import annotations

import re

import pytest
from sqlalchemy.orm import Session

from orderly_bench.chapters.question.search import Search, Stands, read_search
from orderly_bench.trial.models import Conclusion, Trial
from tests.factories import NOW, create_locked, create_person, create_trial, question
from tests.web.conftest import SignIn


@pytest.fixture
def three(session: Session) -> dict[str, Trial]:
    actor = create_person(session)
    open_one = question.create_trial(session, actor, NOW, "Olea europaea")
    under_way, ended = create_locked(session, actor), create_trial(session, actor)
    session.add(
        Conclusion(
            trial_id=ended.id,
            person_id=actor.id,
            at=NOW,
            decision="hold",
            text="x",
            strength="cannot tell",
            headline="h",
            digest="0" * 64,
        )
    )
    session.commit()
    return {"olive": open_one, "growing": under_way, "ended": ended}


@pytest.mark.parametrize(
    ("asked", "found"),
    [
        ("", {"olive", "growing", "ended"}), ("q=OLEA", {"olive"}), ("q=pumice", {"growing", "ended"}), ("q=pumice+lavandula", {"growing", "ended"}),
        ("q=pumice+olea", set()), ("stands=under+way", {"growing"}), ("stands=concluded", {"ended"}), ("stands=before+the+lock&q=olea", {"olive"}),
        (f"year={NOW.year}", {"olive", "growing", "ended"}), ("year=1999", set()), ("q=%25", set()), ("q=_", {"olive", "growing", "ended"}),
        ("stands=lost&year=soon", {"olive", "growing", "ended"}),
    ],
)  # fmt: skip
def test_what_is_found(sign_in: SignIn, three: dict[str, Trial], asked: str, found: set[str]) -> None:
    page = sign_in("reader").get(f"/trials?{asked}").text
    ids = {int(number) for number in re.findall(r"/trials/(\d+)/question", page)}
    assert ids == {three[name].id for name in found}
    assert ("No trial is found" in page) is (not found)


def test_a_search_keeps_in_its_address(session: Session, sign_in: SignIn) -> None:
    actor = create_person(session)
    for _ in range(51):
        question.create_trial(session, actor, NOW, "Olea europaea")
    session.commit()
    page = sign_in().get("/trials?q=olea&stands=before+the+lock").text
    assert "page=2&amp;q=olea&amp;stands=before+the+lock" in page and "51 trials" in page
    assert Search("a b", Stands.CONCLUDED, 2026).typed == {"q": "a b", "stands": "concluded", "year": "2026"}
    assert len(read_search({"q": "x" * 100}).words) == 80
