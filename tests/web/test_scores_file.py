"""Scores from a CSV file: all rows or none, what stands changes nothing, what differs needs a reason."""

from __future__ import annotations

import csv
import io

import pytest
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from orderly_bench.core.errors import UnusableData
from orderly_bench.core.vocabulary import KnownBy, Roots, State
from orderly_bench.formats.scores_csv import read_scores
from orderly_bench.trial.models import CheckVisit, ScoreRecord, Trial
from tests.factories import create_person, create_stuck, open_endpoint, score_all
from tests.web.conftest import SignIn, flat


@pytest.fixture
def there(session: Session) -> tuple[Trial, CheckVisit]:
    lead = create_person(session)
    trial = create_stuck(session, lead)
    check = open_endpoint(session, trial, lead)
    session.commit()
    return trial, check


def send(sign_in: SignIn, check: CheckVisit, text: str | bytes, why: str = "", role: str = "scorer"):
    sent = text.encode() if isinstance(text, str) else text
    data = {"file": (io.BytesIO(sent), "scores.csv"), "file_why": why}
    return sign_in(role).post(f"/checks/{check.id}/file", data=data, content_type="multipart/form-data")


def standing(session: Session) -> int:
    return session.scalar(select(func.count()).select_from(ScoreRecord).where(ScoreRecord.current == 1)) or 0


def simple(trial: Trial, **of: str) -> str:
    """Two columns for every unit; ``of`` says other roots by code."""
    return "cutting;roots\n" + "".join(f"{unit.code};{of.get(unit.code, '3')}\n" for unit in trial.units)


def test_two_columns_suffice_and_the_rest_is_as_nobody_said(
    session: Session, sign_in: SignIn, there: tuple[Trial, CheckVisit]
) -> None:
    trial, check = there
    codes = [unit.code for unit in trial.units]
    text = simple(trial, **{codes[0]: "none", codes[1]: "0", codes[2]: "not looked", codes[3]: ""})
    answered = send(sign_in, check, text)
    assert answered.status_code == 303 and f"new={len(codes) - 1}&corrected=0&same=0" in answered.location
    assert f"{len(codes) - 1} scores kept, 0 corrected, 0 as they stood." in flat(sign_in().get(answered.location).text)
    kept = {s.cutting.unit.code: s for s in session.scalars(select(ScoreRecord))}
    assert codes[3] not in kept
    assert [kept[c].roots for c in codes[:3]] == ["none", "none", "not looked"]
    assert (kept[codes[4]].root_number, kept[codes[4]].state, kept[codes[4]].known_by) == (3, "alive", check.way)
    assert send(sign_in, check, text).location.endswith(f"new=0&corrected=0&same={len(codes) - 1}")


def test_a_sheet_is_taken_as_people_head_it(session: Session, sign_in: SignIn, there: tuple[Trial, CheckVisit]) -> None:
    trial, check = there
    codes = [unit.code for unit in trial.units]
    rows = [
        f"{codes[0]};5;12,5;Yes;alive",
        f"{codes[1]};0;;no;Looks dead",
        f"{codes[2]};2;1.2 cm;;Alive",
        f"{codes[3]};;;;",
    ]
    assert send(sign_in, check, "Code;No. of roots;Longest (mm);Callus;State\n" + "\n".join(rows)).status_code == 303
    kept = {s.cutting.unit.code: s for s in session.scalars(select(ScoreRecord))}
    assert set(kept) == set(codes[:3])
    assert [(kept[c].root_number, kept[c].longest_root_mm, kept[c].callus) for c in codes[:3]] == [
        (5, 12.5, True),
        (None, None, False),
        (2, 12.0, None),
    ]
    assert [kept[c].state for c in codes[:3]] == ["alive", "looks dead", "alive"]
    assert send(sign_in, check, f"label,rooted\n{codes[4]},yes\n{codes[5]},N\n").status_code == 303
    session.expire_all()
    kept = {s.cutting.unit.code: s for s in session.scalars(select(ScoreRecord))}
    assert [kept[c].roots for c in codes[4:6]] == ["seen, not counted", "none"]
    assert send(sign_in, check, f"label,roots,Longest root (cm)\n{codes[7]},3,2.5\n").status_code == 303
    in_cm = session.scalars(select(ScoreRecord).where(ScoreRecord.longest_root_mm == 25.0)).one()
    assert in_cm.cutting.unit.code == codes[7]
    wrong = send(sign_in, check, f"label,rooted\n{codes[6]},perhaps\n")
    assert wrong.status_code == 422 and "neither 1 nor 0" in flat(wrong.text)


def test_a_round_trip_changes_nothing(session: Session, sign_in: SignIn, there: tuple[Trial, CheckVisit]) -> None:
    trial, check = there
    score_all(session, trial, check, create_person(session, "scorer"), "AB")
    session.commit()
    before = [(s.id, s.revision) for s in session.scalars(select(ScoreRecord).order_by(ScoreRecord.id))]
    text = sign_in().get(f"/trials/{trial.id}/scores.csv").text
    book = sign_in().get(f"/trials/{trial.id}/scores.xlsx")
    assert book.mimetype.endswith("spreadsheetml.sheet") and book.data[:2] == b"PK"
    for file in (text, book.data):
        assert send(sign_in, check, file).location.endswith(f"new=0&corrected=0&same={len(before)}")
    session.expire_all()
    assert [(s.id, s.revision) for s in session.scalars(select(ScoreRecord).order_by(ScoreRecord.id))] == before


def test_what_differs_needs_a_reason_and_keeps_the_old(
    session: Session, sign_in: SignIn, there: tuple[Trial, CheckVisit]
) -> None:
    trial, check = there
    code = trial.units[0].code
    assert send(sign_in, check, simple(trial)).status_code == 303
    refused = send(sign_in, check, simple(trial, **{code: "7"}))
    assert (
        refused.status_code == 422
        and "1 score differ" in refused.text.replace("scores differ", "score differ")
        and code in refused.text
    )
    assert send(sign_in, check, simple(trial, **{code: "7"}), "read from the sheet again").status_code == 303
    session.expire_all()
    own = session.scalars(
        select(ScoreRecord)
        .where(ScoreRecord.cutting_id == trial.units[0].cuttings[0].id)
        .order_by(ScoreRecord.revision)
    ).all()
    assert [(s.root_number, s.current, s.reason) for s in own] == [(3, None, ""), (7, 1, "read from the sheet again")]


@pytest.mark.parametrize(
    ("change", "told"),
    [
        (lambda t, c: t.replace(c, "QQQQQ"), "QQQQQ is no cutting of this check"), (lambda t, c: t + f"{c};2\n", "comes twice"),
        (lambda t, c: t.replace(f"{c};3", f"{c};many"), "many is not known"), (lambda t, c: t.replace(f"{c};3", f"{c};600"), "row 2"),
        (lambda t, c: t.replace(f"{c};3", f"{c};{'9' * 5_000}"), "is not known"), (lambda t, c: t.replace(f"{c};3", f"{c};²"), "is not known"),
        (lambda t, c: t.replace("roots", "root"), "no column"), (lambda t, c: "", "is empty"), (lambda t, c: "cutting;roots\n", "no row scores"),
    ],
)  # fmt: skip
def test_one_wrong_row_and_nothing_is_kept(
    session: Session, sign_in: SignIn, there: tuple[Trial, CheckVisit], change, told: str
) -> None:
    trial, check = there
    refused = send(sign_in, check, change(simple(trial), trial.units[0].code), "kept as typed")
    assert refused.status_code == 422 and told in flat(refused.text) and "kept as typed" in refused.text
    assert standing(session) == 0


def test_no_file_a_closed_check_and_a_reader_are_refused(
    session: Session, sign_in: SignIn, there: tuple[Trial, CheckVisit]
) -> None:
    trial, check = there
    assert sign_in("scorer").post(f"/checks/{check.id}/file", data={}).status_code == 422
    assert send(sign_in, check, simple(trial), role="reader").status_code == 403
    check.closed_at = check.opened_at
    session.commit()
    assert send(sign_in, check, simple(trial)).status_code == 422 and standing(session) == 0


def test_what_a_device_kept_comes_in_after_the_close_by_a_researcher_with_a_reason(
    session: Session, sign_in: SignIn, there: tuple[Trial, CheckVisit]
) -> None:
    trial, check = there
    assert send(sign_in, check, simple(trial)).status_code == 303
    assert sign_in("researcher").post(f"/checks/{check.id}/close").status_code == 303
    code = trial.units[0].code
    late = simple(trial, **{code: "7"})
    assert send(sign_in, check, late, "it came back").status_code == 422, "a scorer brings nothing after the close"
    refused = send(sign_in, check, late, role="researcher")
    assert refused.status_code == 422 and "say why scores come in after it" in flat(refused.text)
    assert send(sign_in, check, late, "it came back", "researcher").status_code == 303
    session.expire_all()
    (kept,) = [
        s for s in session.scalars(select(ScoreRecord).where(ScoreRecord.current == 1)) if s.cutting.unit.code == code
    ]
    assert (kept.root_number, kept.reason) == (7, "it came back") and standing(session) == len(trial.units)
    again = send(sign_in, check, late, "it came back", "researcher")
    assert again.location.endswith(f"new=0&corrected=0&same={len(trial.units)}"), "twice is once"


def test_rows_are_read_with_their_place() -> None:
    """Cells of every column, guarded text freed, rows of other checks and carried ones passed over."""
    header = [
        "cutting",
        "check_planned_day",
        "carried_forward",
        "state",
        "roots",
        "root_number",
        "callus",
        "note",
        "longest_root_mm",
    ]
    rows = [
        ["AAAAA", "42", "0", "alive", "counted", "4", "1", "'=odd", "12,5"], ["AAAAA", "14", "0", "alive", "none", "", "", "", ""],
        ["BBBBB", "42", "1", "dead", "none", "", "", "", ""], ["CCCCC", "42", "0", "unaccounted", "", "", "", "", ""],
    ]  # fmt: skip
    out = io.StringIO()
    csv.writer(out).writerows([header, *rows])
    (only,) = read_scores(out.getvalue().encode(), 42, KnownBy.WALL)
    assert (only.code, only.score.note, only.score.longest_root_mm, only.score.callus) == ("AAAAA", "=odd", 12.5, True)
    assert (only.score.roots, only.score.state, only.score.known_by) == (Roots.COUNTED, State.ALIVE, KnownBy.WALL)
    nothing = [header, ["AAAAA", "42", "0", "alive", "", "", "", "", ""]]
    out = io.StringIO()
    csv.writer(out).writerows(nothing)
    with pytest.raises(UnusableData, match="a blank would be a guess"):
        read_scores(out.getvalue().encode(), 42, KnownBy.WALL)
    for column, cell in (("callus", "perhaps"), ("root_number", "four"), ("state", "fine"), ("roots", "many")):
        wrong = [header, [cell if name == column else value for name, value in zip(header, rows[0], strict=True)]]
        out = io.StringIO()
        csv.writer(out).writerows(wrong)
        with pytest.raises(UnusableData, match=f"row 2, column {column}|row 2"):
            read_scores(out.getvalue().encode(), 42, KnownBy.WALL)


@pytest.mark.parametrize("state", ["dead", "taken out: rot or death confirmed", "taken out: other", "missing"])
def test_what_is_dead_or_gone_needs_no_word_of_its_roots(state: str) -> None:
    (row,) = read_scores(f"cutting,state,root_count\nG4W4D,{state},\n".encode(), 42, KnownBy.LIFTED)
    assert (row.score.state.value, row.score.roots) == (state, Roots.NOT_LOOKED)
    with pytest.raises(UnusableData, match="a blank would be a guess"):
        read_scores(b"cutting,state,root_count\nG4W4D,looks dead,\n", 42, KnownBy.LIFTED)
