"""A trial judged by another endpoint than rooting: the verdict, the page, the report and the headless command speak of it."""

from __future__ import annotations

import json
import re
import shlex
from collections import Counter
from datetime import timedelta
from pathlib import Path

import numpy as np
import pytest
from bs4 import BeautifulSoup
from sqlalchemy.orm import Session

from orderly_bench.chapters.design import locking
from orderly_bench.chapters.design import operations as design
from orderly_bench.chapters.question import operations as question
from orderly_bench.chapters.score import operations as score
from orderly_bench.cli.main import main
from orderly_bench.core.methods.stick_for import for_batches
from orderly_bench.core.plan.aspects import AspectKind
from orderly_bench.core.plan.question import Headline
from orderly_bench.core.plan.treatments import Container
from orderly_bench.core.responses.kind import Response
from orderly_bench.core.score.endpoint import COLUMNS
from orderly_bench.core.vocabulary import Fit, KnownBy, LayoutKind, Roots, Score, State
from orderly_bench.trial.checks import checks_of
from orderly_bench.trial.models import CheckVisit, Person, Trial
from tests.factories import (
    DAY_ZERO,
    LOCKED,
    NOW,
    TODAY,
    create_person,
    create_trial,
    design_form,
    evidence,
    stick_all,
)
from tests.web.conftest import SignIn, flat
from tests.web.forms import form_on, line, question_form

MEDIA = [("medium", "medium", ["bark", "pumice"])]
#: What stands first in the headline where pumice did better.
SAYS = {
    Response.FIT: "More of pumice was fit to pot on than of bark",
    Response.ALIVE: "More of pumice was alive than of bark",
    Response.ROOT_COUNT: "Pumice made more roots than bark",
    Response.LONGEST: "Pumice made longer roots than bark",
    Response.QUALITY: "The roots of pumice were graded better than those of bark",
    Response.FOLIAGE: "The foliage of pumice was graded better than that of bark",
    Response.ROOT_CLASS: "The root numbers of pumice fell into higher classes than those of bark",
    Response.DAYS: "Pumice rooted more or sooner than bark",
}
#: Columns of its counts before those not known.
COUNTED = {
    Response.FIT: ["fit to pot on", "not fit"], Response.ALIVE: ["alive", "dead"], Response.ROOT_COUNT: ["with roots", "none"],
    Response.LONGEST: ["with roots", "none"], Response.QUALITY: list("012345"),
    Response.FOLIAGE: list("012345"), Response.ROOT_CLASS: ["none", "from 1", "from 5", "from 10"],
}  # fmt: skip
MARGINS = {
    Response.ROOT_COUNT: 1.2,
    Response.LONGEST: 4.0,
    Response.QUALITY: 10.0,
    Response.FOLIAGE: 10.0,
    Response.ROOT_CLASS: 10.0,
    Response.DAYS: 2.0,
}


def scores(better: bool, n: int) -> Score:
    if not better and n % 3 == 0:
        return Score(State.DEAD, Roots.NOT_LOOKED)
    return Score(
        State.ALIVE, Roots.COUNTED, 3 + n % 3 + 6 * better, 10.0 + n % 4 + 20 * better, quality=2 + 2 * better + n % 2, fit=Fit.YES if better else Fit.NO,
        foliage=1 + 3 * better + n % 2,
    )  # fmt: skip


def score_whole(session: Session, check: CheckVisit, trial: Trial, who: Person, early: bool) -> None:
    score.open_check(
        session,
        check,
        who,
        NOW,
        score.Looking(TODAY if not early else DAY_ZERO + timedelta(days=check.planned_das), KnownBy.LIFTED.value),
        TODAY,
    )
    seen = Counter[str]()
    for unit in trial.units:
        seen[unit.arm.letter] += 1
        found = scores("pumice" in unit.arm.name, seen[unit.arm.letter])
        if early and (unit.arm.letter == "A" or found.state is State.DEAD):
            found = Score(State.ALIVE, Roots.NONE)
        if not early and check.is_endpoint and found.state is State.DEAD:
            found = Score(State.DEAD, Roots.NOT_LOOKED)
        score.keep_score(session, check, unit.cuttings[0], who, NOW, found)
    score.close_check(session, check, who, NOW)


def finished(session: Session, response: Response, factors: list = MEDIA) -> Trial:
    actor = create_person(session)
    own = {"margin_own": MARGINS[response]} if response in MARGINS else {}
    trial = create_trial(session, actor, factors=factors, response=response.value, sentence="", **own)
    numbers = design_form(
        trial, cuttings_per_arm=16, layout=LayoutKind.COMPLETELY_RANDOMISED.value, blocks=1, container=Container()
    )
    design.save_design(session, trial, actor, LOCKED, trial.version, numbers)
    design.draw(session, trial, actor, LOCKED, 3)
    locking.lock_plan(session, trial, actor, LOCKED)
    stick_all(session, trial, actor)
    checks = checks_of(session, trial)
    for check in checks:
        score_whole(session, check, trial, actor, early=not check.is_endpoint)
    return trial


@pytest.mark.parametrize("response", SAYS)
def test_the_verdict_speaks_of_the_endpoint_asked_and_the_command_gives_the_same(
    session: Session, sign_in: SignIn, tmp_path: Path, capsys: pytest.CaptureFixture[str], response: Response
) -> None:
    trial = finished(session, response)
    client, where = sign_in(), f"/trials/{trial.id}"
    found = evidence(session, trial)
    assert found.analysis is not None and found.reading is not None
    assert found.analysis.settings.response is response
    assert found.reading.headline.startswith(SAYS[response])
    page = BeautifulSoup(client.get(f"{where}/compare").text, "html.parser")
    assert page.h1.get_text(strip=True) == found.reading.headline
    for chapter in ("question", "design", "compare/more", "conclude", "report"):
        assert client.get(f"{where}/{chapter}").status_code == 200, chapter
    report = BeautifulSoup(client.get(f"{where}/report").text, "html.parser")
    assert SAYS[response] in report.get_text()
    for counted in (
        report.find("h2", string="Counts").find_next("table"),
        page.find("h2", string="What was counted").find_next("table"),
    ):
        columns, *arms = [[cell.get_text(strip=True) for cell in row.select("th, td")] for row in counted.select("tr")]
        expected = list(COLUMNS) if response is Response.DAYS else COUNTED[response] + ["not known"]
        assert columns[1:-1] == expected and columns[-1] == "= stuck"
        assert all(sum(map(int, row[1:-1])) == int(row[-1]) == 16 for row in arms)
        assert all(int(row[-2]) < 16 for row in arms), arms
        assert ("Half had roots at the look: A on day" in counted.parent.get_text(" ")) is (response is Response.DAYS)
    command = shlex.split(page.select(".margin .calc")[-1].get_text())
    file = tmp_path / command[2]
    file.write_text(client.get(f"{where}/endpoint.csv").text)
    assert main(["analyse", str(file), *command[3:], "--json"]) == 0
    headless = json.loads(capsys.readouterr().out)
    assert headless["response"] == response.value and headless["headline"] == found.reading.findings[0].sentence
    own = found.analysis.comparisons[0]
    assert headless["comparisons"][0]["p"] == own.p
    assert np.isclose(headless["comparisons"][0]["estimate"], own.difference.estimate)


@pytest.mark.parametrize("response", [Response.ROOT_COUNT, Response.LONGEST, Response.QUALITY, Response.DAYS])
def test_factors_lead_of_whatever_is_counted(session: Session, sign_in: SignIn, response: Response) -> None:
    trial = finished(session, response, [*MEDIA, ("hormone", "hormone", ["none", "IBA"])])
    found = evidence(session, trial)
    assert trial.plan.question.headline is Headline.FACTORS and found.reading is not None
    assert found.reading.by_factor and found.reading.headline.startswith(SAYS[response])
    page = BeautifulSoup(sign_in().get(f"/trials/{trial.id}/compare").text, "html.parser")
    assert page.h1.get_text(strip=True) == found.reading.headline
    assert "--headline factors" in page.select(".margin .calc")[-1].get_text()


def test_rooting_stays_among_the_others_and_the_endpoint_is_not_explored_twice(
    session: Session, sign_in: SignIn
) -> None:
    trial = finished(session, Response.QUALITY)
    text = BeautifulSoup(sign_in().get(f"/trials/{trial.id}/compare/more").text, "html.parser").get_text(
        " ", strip=True
    )
    others = text.split("Other responses, exploratory", 1)[1]
    assert "Rooted" in others and "Quality" not in others.split("Figures", 1)[0]


def test_a_rate_is_one_arm_from_question_to_report(
    session: Session, sign_in: SignIn, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    actor = create_person(session)
    trial = question.create_trial(session, actor, NOW, "Olea europaea")
    session.commit()
    client, where = sign_in(person=actor), f"/trials/{trial.id}"
    one = line(AspectKind.CUTTING_TYPE, ["semi-hard tip"])
    two = line(AspectKind.CUTTING_TYPE, ["tip", "base"], True)
    assert client.post(f"{where}/question", data=question_form(trial, two, kind="rate", blind="yes")).status_code == 303
    session.expire_all()
    only = trial.plan.treatments.arms[0]
    assert len(trial.arms) == 1 and not only.control, "the second arm goes by itself"
    assert [trial.plan.treatments.value(only, a).name for a in trial.plan.treatments.aspects[:1]] == ["tip"]
    assert not trial.plan.treatments.asked and not trial.plan.question.scored_blind
    page = client.get(f"{where}/question").text
    for word in ("scored blind", "Add an arm", "no control", "Why a margin", "What do you expect", "ask about"):
        assert word not in page, word
    assert "What a rate says" in page
    assert (
        client.post(
            f"{where}/question", data=question_form(trial, one, kind="rate", wanted_plants="30", wanted_sure="80")
        ).status_code
        == 303
    )
    session.expire_all()
    assert trial.plan.question.sentence == "In Olea europaea, how many root by day 42?" and len(trial.arms) == 1
    form = form_on(client.get(f"{where}/design").text, "plan")
    for key, typed in {"cuttings_per_arm": "20", "guess_A": "60", "act": "draw"}.items():
        form.setlist(key, [typed])
    assert client.post(f"{where}/design", data=form).status_code == 303
    page = client.get(f"{where}/design").text
    assert "If 60 % do, so many would say 39 to 78 % (95 % interval of 20 cuttings standing alone)." in page
    for word in ("verdict", "Would it be seen", "Rehearse it", "Where p will come from", "per arm"):
        assert word not in page, word
    session.expire_all()
    locking.lock_plan(session, trial, actor, NOW - timedelta(days=43))
    session.commit()
    page = client.get(f"{where}/design").text
    assert "Verdict" not in page and "alpha" not in page
    locked = client.get(f"{where}/question").text
    assert (
        "on day 42 after sticking</td>" in flat(locked)
        and "margin" not in BeautifulSoup(locked, "html.parser").main.get_text()
    )
    assert "not blind" not in locked
    assert "The rate is read when the endpoint check is closed" in client.get(f"{where}/compare").text
    stick_all(session, trial, actor)
    check = next(c for c in checks_of(session, trial) if c.is_endpoint)
    score.open_check(session, check, actor, NOW, score.Looking(TODAY, KnownBy.LIFTED.value), TODAY)
    for n, unit in enumerate(trial.units):
        found = Score(State.ALIVE, Roots.COUNTED, 4) if n % 2 else Score(State.ALIVE, Roots.NONE)
        score.keep_score(session, check, unit.cuttings[0], actor, NOW, found)
    score.close_check(session, check, actor, NOW)
    session.commit()
    page = BeautifulSoup(client.get(f"{where}/compare").text, "html.parser")
    assert "10 of 20" in page.h1.text and "interval" in page.h1.text
    advice = re.search(r"Stick (\d+) for 30, 80 times in 100", page.get_text())
    assert advice is not None and int(advice[1]) == for_batches(30, [(10, 20)], 0.8).stick
    assert advice[0] in client.get(f"{where}/report").text
    for chapter in ("question", "prepare", "stick", "tend", "score", "compare/more", "conclude", "report", "rehearse"):
        answered = client.get(f"{where}/{chapter}")
        assert answered.status_code == 200 and "Cannot tell" not in answered.text, chapter
    command = shlex.split(page.select(".calc")[-1].get_text())
    file = tmp_path / command[2]
    file.write_text(client.get(f"{where}/endpoint.csv").text)
    assert main(["analyse", str(file), *command[3:]]) == 0
    printed = capsys.readouterr().out
    assert "10 of 20" in printed and advice[0] in printed
