"""Classes of root numbers of the lab's own: on the pad, for what was counted, in the file."""

from __future__ import annotations

import csv
import io

from bs4 import BeautifulSoup
from sqlalchemy.orm import Session

from orderly_bench.chapters.score import operations as score
from orderly_bench.core.responses.kind import Response
from orderly_bench.core.vocabulary import KnownBy, Roots, Score, State, Top
from orderly_bench.evidence.rows import value_of
from tests.factories import FACTORS, NOW, create_person, create_stuck, evidence, open_endpoint
from tests.web.conftest import SignIn

ASKED = {"factors": [FACTORS[0]], "cuttings_per_arm": 6, "root_classes": "1-3, 4-11, 12+"}


def test_the_pad_offers_them_and_a_counted_number_falls_into_them(session: Session, sign_in: SignIn) -> None:
    lead, scorer = create_person(session), create_person(session, "scorer")
    trial = create_stuck(session, lead, **ASKED)
    check = open_endpoint(session, trial, lead)
    session.commit()
    page = BeautifulSoup(sign_in(person=scorer).get(f"/trials/{trial.id}/score?check={check.id}").text, "html.parser")
    assert [one["value"] for one in page.select("[name=root_class]")] == ["1-3", "4-11", "12+", ""]
    for n, unit in enumerate(trial.units):
        made = (
            Score(State.ALIVE, Roots.COUNTED, None, None, top=Top.GROWING, root_class="4-11")
            if n % 2
            else Score(State.ALIVE, Roots.COUNTED, n + 5, None, top=Top.GROWING)
        )
        score.keep_score(session, check, unit.cuttings[0], scorer, NOW, made)
    score.close_check(session, check, lead, NOW)
    session.commit()
    found = evidence(session, trial)
    assert [value_of(Response.ROOT_CLASS, r) for r in found.results] == [
        4.0,
        4.0,
        4.0,
        4.0,
        4.0,
        4.0,
        4.0,
        4.0,
        12.0,
        4.0,
        12.0,
        4.0,
    ]
    rows = list(csv.DictReader(io.StringIO(sign_in().get(f"/trials/{trial.id}/endpoint.csv").text)))
    assert [row["root_class"] for row in rows[:2]] == ["4-11", "4-11"] and rows[8]["root_class"] == "12+"
    assert rows[0]["root_count"] == "5" and all(
        one.known_by == KnownBy.LIFTED for one in [r.score for r in found.results]
    )
    raw = list(csv.DictReader(io.StringIO(sign_in().get(f"/trials/{trial.id}/scores.csv").text)))
    assert (raw[0]["root_number"], raw[0]["root_class"]) == ("5", ""), "the score itself stays as it was typed"
