"""A design taken away as CSV and one made elsewhere: the same again, or refused by row and with nothing changed."""

from __future__ import annotations

import io

import pytest
from sqlalchemy.orm import Session

from orderly_bench.chapters.design import locking
from orderly_bench.core.design.made_elsewhere import plan_and_draw
from orderly_bench.core.errors import Refused, UnusableData
from orderly_bench.core.plan.text import from_text
from orderly_bench.core.vocabulary import LayoutKind
from orderly_bench.formats.design_csv import read_design
from orderly_bench.trial.models import Trial
from tests.factories import NOW, create_drawn, create_person
from tests.web.conftest import SignIn

HEAD = "unit,tray,row,column,arm,block,cutting\n"


@pytest.fixture
def trial(session: Session) -> Trial:
    return create_drawn(session, create_person(session))


def sent(text: str, reason: str = "drawn by dice, Hale") -> dict:
    return {"file": (io.BytesIO(text.encode()), "design.csv"), "reason": reason}


def standing(trial: Trial) -> list[tuple]:
    return [
        (
            u.place.tray.number,
            u.place.row,
            u.place.column,
            u.arm.letter,
            tuple(sorted((g.kind, g.name) for g in u.groupings)),
        )
        for u in trial.units
    ]


def test_what_is_taken_away_comes_back_the_same(session: Session, sign_in: SignIn, trial: Trial) -> None:
    client, where = sign_in(), f"/trials/{trial.id}"
    before = standing(trial)
    text = client.get(f"{where}/design.csv").text
    assert text.splitlines()[0].startswith("unit,wave,tray,row,column,spot,arm,block") and text.count("\n") == 17
    assert client.post(f"{where}/design/import", data=sent(text)).status_code == 303
    session.expire_all()
    assert standing(trial) == before and trial.plan.design.layout is LayoutKind.COMPLETE_BLOCKS
    assert trial.draws[-1].reason == "made elsewhere: drawn by dice, Hale" and len(trial.draws) == 2
    assert client.get(f"{where}/design").status_code == 200
    locking.lock_plan(session, trial, create_person(session), NOW)
    session.commit()
    assert from_text(client.get(f"{where}/plan.yaml").text) == trial.plan


def test_pots_of_a_design_made_elsewhere_hold_their_cuttings(session: Session, sign_in: SignIn, trial: Trial) -> None:
    rows = [f"p{n},1,{n // 8 + 1},{n % 8 + 1},{'ABCD'[n % 4]},,{cutting}" for n in range(16) for cutting in range(1, 4)]
    text = HEAD + "\n".join(rows)
    assert sign_in().post(f"/trials/{trial.id}/design/import", data=sent(text)).status_code == 303
    session.expire_all()
    design = trial.plan.design
    assert (design.layout, design.cuttings_per_arm, design.cuttings_per_unit) == (
        LayoutKind.COMPLETELY_RANDOMISED,
        12,
        3,
    )
    assert trial.plan.cuttings == 48 and len(trial.units) == 16


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("", "file is empty"),
        ("unit,arm\na,A\n", "no column"),
        (HEAD + "a,1,1,1,Z,,1\n", "no arm"),
        (HEAD + "a,1,1,1,A,,1\nb,1,1,1,B,,1\n", "stands where a stands already"),
        (HEAD + "a,1,1,1,A,,1\na,1,1,2,A,,1\n", "two places or arms"),
        (HEAD + "a,1,1,1,A,,1\n", "arm B, C, D has no unit"),
        (HEAD + "a,1,one,1,A,,1\n", "no number of a row"),
        (HEAD + "a,1,99,1,A,,1\n", "at most 60 rows"),
        (HEAD + ",1,1,1,A,,1\n", "unit is blank"),
        (HEAD + "a,1,1,1,A,x,1\nb,1,1,2,B,,1\nc,1,1,3,C,x,1\nd,1,1,4,D,x,1\n", "for some units only"),
        (
            HEAD + "a,1,1,1,A,,1\na,1,1,1,A,,2\nb,1,1,2,B,,1\nc,1,1,3,C,,1\nd,1,1,4,D,,1\ne,1,2,4,A,,1\n",
            "hold 1 to 2 cuttings",
        ),
    ],
)
def test_what_can_not_be_taken_says_where_and_changes_nothing(
    session: Session, sign_in: SignIn, trial: Trial, text: str, says: str
) -> None:
    before = standing(trial)
    refused = sign_in().post(f"/trials/{trial.id}/design/import", data=sent(text))
    assert refused.status_code == 422 and says in refused.text
    session.expire_all()
    assert standing(trial) == before


def test_it_needs_a_reason_a_file_and_an_open_plan(session: Session, sign_in: SignIn, trial: Trial) -> None:
    client, where = sign_in(), f"/trials/{trial.id}/design/import"
    text = client.get(f"/trials/{trial.id}/design.csv").text
    assert "who drew it and how" in client.post(where, data=sent(text, " ")).text
    assert "choose the CSV file" in client.post(where, data={"reason": "x"}).text
    locking.lock_plan(session, trial, create_person(session), NOW)
    session.commit()
    assert "Record an amendment" in client.post(where, data=sent(text)).text


def test_the_groups_say_the_layout(trial: Trial) -> None:
    def kind(*rows: str, head: str = "unit,row,column,arm,block\n") -> LayoutKind:
        return plan_and_draw(trial.plan, read_design((head + "\n".join(rows)).encode()))[0].design.layout

    assert kind("a,1,1,A,x", "b,1,2,B,x", "c,1,3,C,y", "d,1,4,D,y") is LayoutKind.INCOMPLETE_BLOCKS
    square = "unit,row,column,arm,square_row,square_column\n"
    assert kind("a,1,1,A,1,1", "b,1,2,B,1,2", "c,2,1,C,2,1", "d,2,2,D,2,2", head=square) is LayoutKind.LATIN_SQUARE
    with pytest.raises(UnusableData, match="no aspect stands on them"):
        kind("a,1,1,A,p", "b,1,2,B,p", "c,1,3,C,q", "d,1,4,D,q", head="unit,row,column,arm,whole_plot\n")


def test_arms_that_never_stand_side_by_side_are_not_locked_as_a_test(
    session: Session, sign_in: SignIn, trial: Trial
) -> None:
    """A reason typed does not suffice here: there would be nothing to say. Four blocks of two, joined, are locked."""

    def drawn(blocks: list[str]) -> str:
        arms = [(arm, name) for name, arm in zip(blocks, ("AB", "AB", "CD", "CD"), strict=True)]
        cells = [(arm, name) for both, name in arms for arm in both]
        return HEAD + "\n".join(f"u{i},1,1,{i + 1},{arm},{name},1" for i, (arm, name) in enumerate(cells))

    client = sign_in()
    assert client.post(f"/trials/{trial.id}/design/import", data=sent(drawn(list("wxyz")))).status_code == 303
    session.expire_all()
    with pytest.raises(Refused, match=r"Arms A, B and C, D never stand in one block.*Put A and C side by side"):
        locking.lock_plan(session, trial, create_person(session), NOW, "we want it all the same")
    assert trial.locked_at is None
    assert client.post(f"/trials/{trial.id}/design/import", data=sent(drawn(list("wxwx")))).status_code == 303
    session.expire_all()
    locking.lock_plan(session, trial, create_person(session), NOW, "we want it all the same")
    assert trial.locked_at is not None
