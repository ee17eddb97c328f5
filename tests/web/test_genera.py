"""What to mind by genus: shipped with its source, put right by the lab, said when the plant is named."""

from __future__ import annotations

import pytest
from bs4 import BeautifulSoup
from sqlalchemy.orm import Session

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.stock.genera import SHIPPED, GenusNote, check_note, genus_of
from orderly_bench.trial.models import AuditEntry
from tests.factories import create_person, create_trial
from tests.web.conftest import SignIn, flat
from tests.web.forms import question_form


def test_every_shipped_note_says_something_and_who_says_so() -> None:
    assert len({note.genus for note in SHIPPED}) == len(SHIPPED)
    for note in SHIPPED:
        assert check_note(note) == note and note.flags and note.words.startswith(f"{note.genus}: ")
    assert genus_of("× Hippophae x rhamnoides") == "Hippophae" and genus_of("") == ""
    for wrong in (
        GenusNote("two words", source="x"),
        GenusNote("Daphne"),
        GenusNote("Daphne", note="x" * 301, source="y"),
    ):
        with pytest.raises(InvalidInput):
            check_note(wrong)


def test_it_speaks_when_the_plant_is_named_and_the_labs_own_stands_before(session: Session, sign_in: SignIn) -> None:
    trial = create_trial(session, create_person(session))
    client, where = sign_in(), f"/trials/{trial.id}/question"
    assert "Lavandula: under plant health rules" in client.get(where).text
    typed = client.post(f"{where}/working", data=question_form(trial, botanical_name="Daphne odora")).text
    assert "irritates skin or eyes" in typed and "Wagstaff 2008" in typed
    own = {"genus": "daphne", "source": "our own rash", "note": "Long gloves", "irritant": "yes"}
    assert client.post("/genera", data=own).status_code == 303
    typed = client.post(f"{where}/working", data=question_form(trial, botanical_name="Daphne odora")).text
    assert (
        "Daphne: irritates skin or eyes. Long gloves." in typed and "our own rash" in typed and "poisonous" not in typed
    )
    assert session.query(AuditEntry).filter_by(action="noted a genus").count() == 1
    refused = client.post("/genera", data={**own, "source": ""})
    assert refused.status_code == 422 and "say who says so" in refused.text and "Long gloves" in refused.text
    assert sign_in("reader").post("/genera", data=own).status_code == 403
    assert "our own rash" in sign_in("reader").get("/genera").text


def test_a_genus_of_which_nothing_is_noted_is_not_said_to_be_safe(session: Session, sign_in: SignIn) -> None:
    actor = create_person(session)
    client = sign_in()
    for name, said in (("Hippophae rhamnoides", "Nothing is noted of"), ("Daphne odora", "Daphne: ")):
        trial = create_trial(session, actor, botanical_name=name)
        session.commit()
        for page in ("question", "prepare"):
            shown = flat(BeautifulSoup(client.get(f"/trials/{trial.id}/{page}").text, "html.parser").get_text(" "))
            assert said in shown, page
            assert ("which does not make it safe" in shown) is (name == "Hippophae rhamnoides"), page
