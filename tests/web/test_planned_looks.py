"""Arms compared before the end, as the plan says: each look spends its share of alpha, and the end is held to what is left."""

from __future__ import annotations

import json
import re
import shlex
from datetime import timedelta
from pathlib import Path

import pytest
from bs4 import BeautifulSoup
from sqlalchemy import select
from sqlalchemy.orm import Session

from orderly_bench.chapters.score import operations as score
from orderly_bench.cli.main import main
from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.methods.looks import spent
from orderly_bench.core.vocabulary import KnownBy
from orderly_bench.trial.checks import checks_of
from orderly_bench.trial.models import InterimLook, Person, Trial
from tests.factories import (
    DAY_ZERO,
    NOW,
    TODAY,
    create_person,
    create_stuck,
    create_trial,
    evidence,
    save_question,
    score_all,
)
from tests.web.conftest import SignIn, flat


def seen(session: Session, trial: Trial, actor: Person, which: int, rooted: str = "AB") -> None:
    """One of the checks scored on its day and closed; A and B root."""
    check = checks_of(session, trial)[which]
    day = TODAY if check.is_endpoint else DAY_ZERO + timedelta(days=check.planned_das)
    score.open_check(session, check, actor, NOW, score.Looking(day, KnownBy.LIFTED.value), TODAY)
    score_all(session, trial, check, actor, rooted)
    score.close_check(session, check, actor, NOW)
    session.commit()


def test_a_planned_look_spends_its_share_and_the_end_has_what_is_left(
    session: Session, sign_in: SignIn, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    actor = create_person(session)
    trial = create_stuck(session, actor, check_days="14", planned_looks="14")
    client, where = sign_in(person=actor), f"/trials/{trial.id}"
    assert "arms compared on day 14" in flat(client.get(f"{where}/question").text)
    assert "The plan names a comparison" not in client.get(f"{where}/compare").text, "no check was closed yet"
    seen(session, trial, actor, 0, "A")
    assert "The plan names a comparison on day 14" in client.get(f"{where}/compare").text
    assert client.post(f"{where}/look-early", data={"reason": "as planned"}).status_code == 303
    assert session.scalars(select(InterimLook)).one().of_day == 14
    early = evidence(session, trial, 14)
    assert early.shared is not None and 0 < early.shared.alpha <= spent(0.05, 1, 2) < 0.006
    early_page = flat(client.get(f"{where}/compare").text)
    assert flat(early.shared.words) in early_page
    assert re.search(r"99\.\d+ % intervals", early_page) and "95 % intervals" not in early_page
    seen(session, trial, actor, 1)
    found = evidence(session, trial)
    assert found.shared is not None and found.shared.before == (14,) and 0.04 < found.shared.alpha <= 0.05
    assert found.analysis is not None and found.analysis.settings.alpha == found.shared.alpha
    assert found.reading is not None and found.reading.strength == "shown"
    assert "looked_early" not in {c.code for c in found.cautions} and not found.departures
    page = BeautifulSoup(client.get(f"{where}/compare").text, "html.parser")
    assert found.shared.words in flat(page.get_text())
    assert found.shared.words in flat(client.get(f"{where}/report").text)
    command = shlex.split(page.select(".margin .calc")[-1].get_text())
    file = tmp_path / command[2]
    file.write_text(client.get(f"{where}/endpoint.csv").text)
    assert main(["analyse", str(file), *command[3:], "--json"]) == 0
    headless = json.loads(capsys.readouterr().out)
    assert headless["comparisons"][0]["p"] == found.analysis.comparisons[0].p
    assert headless["strength"] == "shown"


@pytest.mark.parametrize("days, planned", [("14", ""), ("14, 28", "14")])
def test_any_other_look_is_suggested_at_most(session: Session, sign_in: SignIn, days: str, planned: str) -> None:
    """One that the plan does not name; and one after which a check came that it does not name, at which arms could be seen too."""
    actor = create_person(session)
    trial = create_stuck(session, actor, check_days=days, planned_looks=planned)
    seen(session, trial, actor, 0)
    assert sign_in(person=actor).post(f"/trials/{trial.id}/look-early", data={"reason": "curious"}).status_code == 303
    for which in range(1, len(checks_of(session, trial))):
        seen(session, trial, actor, which)
    found = evidence(session, trial)
    assert found.shared is None and found.reading is not None and found.reading.strength == "suggested"
    assert "looked_early" in {c.code for c in found.cautions}
    assert found.analysis is not None and found.analysis.settings.alpha == 0.05


def test_a_look_that_nobody_took_spends_nothing(session: Session) -> None:
    actor = create_person(session)
    trial = create_stuck(session, actor, check_days="14", planned_looks="14")
    seen(session, trial, actor, 0)
    seen(session, trial, actor, 1)
    found = evidence(session, trial)
    assert found.shared is None and found.analysis is not None and found.analysis.settings.alpha == 0.05


def test_arms_are_compared_on_days_on_which_they_are_looked_at(session: Session) -> None:
    actor = create_person(session)
    trial = create_trial(session, actor, check_days="14, 28", planned_looks="28, 14")
    assert trial.plan.question.planned_looks == (14, 28)
    for typed in ("15", "14, 42", "soon"):
        with pytest.raises(InvalidInput, match="arms compared before the end"):
            save_question(session, trial, actor, planned_looks=typed)
