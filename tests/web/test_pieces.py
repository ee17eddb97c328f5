"""Pieces and what the verdict speaks of: from the Design page's form to the pick list."""

from __future__ import annotations

import pytest
from sqlalchemy.orm import Session

from orderly_bench.chapters.design import operations as design
from tests.factories import create_person, create_trial
from tests.web.conftest import SignIn


def form_of(trial, **changes: object) -> dict[str, object]:
    arms = list(design.possible_arms(trial.plan.treatments))
    return {
        "version": str(trial.version), "arms": arms, "control": arms[-1], "cuttings_per_arm": "4", "cuttings_per_unit": "1",
        "layout": "completely randomised", "blocks": "1", "gradient": "", "bench": "B", "tray_rows": "4", "tray_columns": "4", "rate_a": "",
        "rate_b": "", "icc": "", "headline": "each arm against the control", "not_worse": "yes", "max_t": "yes",
        "pieces": "T1, A, 10\nT2, A, 8", **changes,
    }  # fmt: skip


def test_from_the_form_to_the_pick_list(session: Session, sign_in: SignIn) -> None:
    trial = create_trial(session, create_person(session))
    client = sign_in()
    assert client.post(f"/trials/{trial.id}/design", data=form_of(trial)).status_code == 303
    session.refresh(trial)
    asked = trial.plan.question
    assert (asked.headline.value, asked.not_worse, asked.max_t) == ("each arm against the control", True, True)
    page = client.get(f"/trials/{trial.id}/design").text
    assert "T1, A, 10" in page and 'name="max_t" value="yes" checked' in page
    assert "Pick list" not in client.get(f"/trials/{trial.id}/prepare").text
    assert client.post(f"/trials/{trial.id}/draw").status_code == 303
    assert client.post(f"/trials/{trial.id}/lock").status_code == 303
    ready = client.get(f"/trials/{trial.id}/prepare").text
    assert "Pick list" in ready and "T1" in ready and "T2" in ready
    assert "the pick list" in client.get(f"/trials/{trial.id}/stick").text


@pytest.mark.parametrize(
    ("changes", "message"),
    [
        ({"pieces": "T1, A, 3"}, "at least the 16 cuttings"),
        ({"pieces": "T1; A; 30"}, "write donor, grade, how many"),
        ({"headline": "whatever wins"}, "choose one of"),
        ({"control": ""}, "name the control"),
    ],
)
def test_what_can_t_be_kept_is_said_and_what_was_typed_stays(
    session: Session, sign_in: SignIn, changes: dict[str, str], message: str
) -> None:
    trial = create_trial(session, create_person(session))
    answer = sign_in().post(f"/trials/{trial.id}/design", data=form_of(trial, **changes))
    assert answer.status_code == 422 and message in answer.text
    session.refresh(trial)
    assert trial.plan.design.pieces == () and (changes.get("pieces", "T2, A, 8").splitlines()[-1] in answer.text)
