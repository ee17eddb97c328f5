"""What an answer speaks of, in one sentence."""

from __future__ import annotations

from dataclasses import replace

import pytest
from sqlalchemy.orm import Session

from orderly_bench.record.gather import gather
from orderly_bench.record.scope import scope_of
from orderly_bench.record.value import Origin
from tests.factories import create_finished, create_person
from tests.web.conftest import SignIn, flat


@pytest.mark.parametrize(
    ("donors", "told"), [(["T1"], ", of one donor, T1"), (["T1", "T2"], ", of 2 donors"), ([""], ""), (["T1", ""], "")]
)  # fmt: skip
def test_plant_source_days_and_donors_stand_in_it(session: Session, donors: list[str], told: str) -> None:
    record = gather(session, create_finished(session, create_person(session), create_person(session, "scorer")))
    cuttings = tuple(replace(c, origin=Origin(donors[i % len(donors)])) for i, c in enumerate(record.cuttings))
    said = scope_of(replace(record, cuttings=cuttings))
    assert (
        said
        == f"It speaks of Lavandula angustifolia, pieces from bed 2, stuck 8 Apr 2026{told}, on this bench; nothing wider."
    )


def test_it_stands_on_compare_conclude_and_in_the_report(session: Session, sign_in: SignIn) -> None:
    trial = create_finished(session, create_person(session), create_person(session, "scorer"))
    session.commit()
    client = sign_in("researcher")
    for page in ("compare", "conclude", "report"):
        assert scope_of(gather(session, trial)) in flat(client.get(f"/trials/{trial.id}/{page}").text), page
