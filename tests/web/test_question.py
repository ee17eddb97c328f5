"""The Question page: the arms are changed where they are seen, and a doubt is mended by its button."""

from __future__ import annotations

import io
import re

import pytest
from bs4 import BeautifulSoup
from sqlalchemy.orm import Session

from orderly_bench.chapters.design import locking
from orderly_bench.chapters.design import operations as design
from orderly_bench.chapters.score import operations as score
from orderly_bench.core.plan.aspects import AspectKind
from orderly_bench.core.plan.question import Exploratory
from orderly_bench.core.plan.value import CheckWindow
from orderly_bench.trial.models import PlannedCheck, Trial
from tests.factories import (
    LOCKED,
    NOW,
    create_drawn,
    create_person,
    create_trial,
    open_endpoint,
    save_design,
    score_all,
    stick_all,
)
from tests.web.conftest import SignIn, flat
from tests.web.forms import line, question_form

HORMONE, OTHER = AspectKind.HORMONE, AspectKind.OTHER
ARMS = line(HORMONE, ["none", "IBA"], True)
POTS = line(OTHER, ["square", "round"], name="pot shape")


@pytest.fixture
def trial(session: Session) -> Trial:
    return create_trial(session, create_person(session))


def page_of(text: str) -> BeautifulSoup:
    return BeautifulSoup(text, "html.parser")


def test_a_travelling_difference_is_seen_in_the_margin_and_mended_by_its_button(
    session: Session, sign_in: SignIn, trial: Trial
) -> None:
    client, where = sign_in(), f"/trials/{trial.id}/question"
    assert client.post(where, data=question_form(trial, ARMS, POTS)).status_code == 303
    page = page_of(client.get(where).text)
    assert "can't be told from pot shape" in page.select_one("#margin").text
    button = page.select_one('#margin button[value="mend:0"]')
    assert button.text == "Make pot shape the same in every arm" and button["form"] == "ask"
    session.refresh(trial)
    assert client.post(where, data=question_form(trial, act="mend:0")).status_code == 303
    session.expire_all()
    assert "pot shape: square" in trial.plan.treatments.held_same()
    assert "can't be told" not in page_of(client.get(where).text).select_one("#margin").text


def test_arms_that_differ_in_something_else_are_offered_that_question(
    sign_in: SignIn, trial: Trial, session: Session
) -> None:
    client, where = sign_in(), f"/trials/{trial.id}/question"
    alike = line(HORMONE, ["IBA", "IBA"], True)
    margin = client.post(f"{where}/working", data=question_form(trial, alike, POTS)).text
    assert "They differ in pot shape" in flat(margin) and 'value="ask:pot shape"' in margin
    refused = client.post(where, data=question_form(trial, alike, POTS))
    assert refused.status_code == 422 and "square" in refused.text
    assert client.post(where, data=question_form(trial, alike, POTS, act="ask:pot shape")).status_code == 303
    session.expire_all()
    assert [f.name for f in trial.factors] == ["pot shape"] and "hormone: IBA" in trial.plan.treatments.held_same()


def test_an_arm_and_a_line_are_added_before_anything_is_saved(sign_in: SignIn, trial: Trial, session: Session) -> None:
    client, where = sign_in(), f"/trials/{trial.id}/question"
    version = trial.version
    wider = client.post(where, data=question_form(trial, ARMS, POTS, act="arm"))
    page = page_of(wider.text)
    assert wider.status_code == 200 and "not saved yet" in wider.text
    assert page.select_one('[name="arms"]')["value"] == "3" and page.select_one('[name="value_1_3"]')["value"] == ""
    assert page.select_one('[name="value_2_3"]')["value"] == "round"
    longer = page_of(client.post(where, data=question_form(trial, ARMS, act="line")).text)
    assert longer.select_one('select[name="kind_2"]') and longer.select_one('input[name="name_2"]')
    three = line(HORMONE, ["none", "IBA", "NAA"], True)
    narrower = page_of(client.post(where, data=question_form(trial, three, act="drop:1")).text)
    assert [cell["value"] for cell in narrower.select('[name^="value_1_"]')] == ["none", "NAA"]
    session.refresh(trial)
    assert trial.version == version


def test_a_ready_question_is_one_click(sign_in: SignIn, trial: Trial, session: Session) -> None:
    client, where = sign_in(), f"/trials/{trial.id}/question"
    assert client.post(where, data=question_form(trial, act="start:heat", sentence="")).status_code == 303
    session.expire_all()
    assert [arm.name for arm in trial.arms] == ["20 °C mat", "none"]
    assert "does bottom heat change how many root" in trial.plan.question.sentence


@pytest.mark.parametrize("act", ["mend:9", "start:nothing", "drop:x", "dance"])
def test_a_button_that_is_not_there_is_refused_and_nothing_lost(sign_in: SignIn, trial: Trial, act: str) -> None:
    refused = sign_in().post(f"/trials/{trial.id}/question", data=question_form(trial, ARMS, act=act, why="a reason"))
    assert refused.status_code == 422 and "not on this page any more" in refused.text and "a reason" in refused.text


def test_windows_death_and_purpose_are_kept_and_carried_into_the_checks(sign_in: SignIn, session: Session) -> None:
    trial = create_drawn(session, create_person(session))
    form = question_form(
        trial, check_days="14, 28 ± 3", endpoint_either_side="6", who_looks="Tomas", dead_from_day="21", wanted_plants="40",
        known="31/60 trial 25-04", book="60-70 an old card",
    )  # fmt: skip
    client, where = sign_in(), f"/trials/{trial.id}/question"
    assert client.post(where, data=form).status_code == 303
    session.expire_all()
    assert trial.plan.schedule.windows == (CheckWindow(28, 3), CheckWindow(42, 6)) and trial.units
    page = page_of(client.get(where).text)
    assert "40 plants wanted" in page.text and "31 of 60 counted here" in page.select_one("#margin").text
    assert page.select_one('[name="check_days"]')["value"] == "14, 28 ± 3"
    locking.lock_plan(session, trial, create_person(session), NOW)
    planned = {p.planned_das: p.window_days for p in session.query(PlannedCheck).filter_by(trial_id=trial.id)}
    assert planned == {14: 2, 28: 3, 42: 6}
    locked = client.get(where).text
    assert "nothing called dead before day 21" in locked and "an old card: 60 to 70 %" in locked


def test_no_opinion_is_a_prediction_too(sign_in: SignIn, trial: Trial) -> None:
    client = sign_in()
    client.post(f"/trials/{trial.id}/prediction", data={"opinion": "none", "rank_1": "A"})
    assert "no opinion" in client.get(f"/trials/{trial.id}/question").text


def test_arms_come_from_an_earlier_trial_or_a_csv_and_are_not_saved_yet(
    session: Session, sign_in: SignIn, trial: Trial
) -> None:
    client = sign_in()
    new = create_trial(session, create_person(session), factors=[("other", "lid", ["open", "shut"])])
    session.commit()
    where = f"/trials/{new.id}/question/bring"
    page = page_of(client.post(where, data={"from_trial": str(trial.id)}).text)
    assert [cell["value"] for cell in page.select('[name^="value_1_"]')] == ["pumice", "pumice", "bark", "bark"]
    assert "not saved yet" in page.text
    text = "arm,medium,pot\nA,sand,round\nB,bark,square\nC,sand,square\n"
    page = page_of(client.post(where, data={"file": (io.BytesIO(text.encode()), "arms.csv")}).text)
    assert page.select_one('[name="ask_1"]').has_attr("checked") and not page.select_one('[name="ask_2"]').has_attr(
        "checked"
    )
    assert [cell["value"] for cell in page.select('[name^="value_2_"]')] == ["round", "square", "square"]
    session.refresh(new)
    assert [f.name for f in new.factors] == ["lid"]
    assert "choose an earlier trial" in client.post(where).text
    assert client.post(where, data={"from_trial": "99999"}).status_code == 404
    bad = client.post(where, data={"file": (io.BytesIO(b"x,y\n1,2\n"), "arms.csv")})
    assert bad.status_code == 422 and "arm" in bad.text


def test_endpoints_beside_the_primary_one_are_named_with_day_and_margin(session: Session, sign_in: SignIn) -> None:
    researcher, scorer = create_person(session), create_person(session, "scorer")
    trial = create_trial(session, researcher)
    client, page = sign_in(person=researcher), f"/trials/{trial.id}/question"
    assert "No other endpoint is named beforehand" in client.get(page).text
    named = {
        "other_root_count": "yes",
        "other_root_count_margin": "1.5",
        "other_alive": "yes",
        "other_alive_day": "14",
        "other_quality_day": "14",
    }
    wrong = client.post(page, data=question_form(trial, **named | {"other_alive_day": "15"}))
    assert (
        "must be a day that is looked at: 14, 42" in wrong.text
        and 'name="other_root_count_margin" value="1.5"' in wrong.text
    )
    assert client.post(page, data=question_form(trial, **named)).status_code == 303
    session.expire_all()
    assert trial.plan.question.others == (Exploratory("alive", 14), Exploratory("root_count", None, 1.5))
    again = client.get(page).text
    assert "Beside it, exploratory: Alive, Root number" in again and 'name="other_alive" value="yes" checked' in again
    save_design(session, trial, researcher)
    design.draw(session, trial, researcher, NOW, 5)
    locking.lock_plan(session, trial, researcher, LOCKED)
    assert "Alive on day 14; Root number by a factor of more than 1.5" in " ".join(client.get(page).text.split())
    stick_all(session, trial, researcher)
    check = open_endpoint(session, trial, researcher)
    score_all(session, trial, check, scorer)
    score.close_check(session, check, researcher, NOW)
    session.commit()
    more = " ".join(BeautifulSoup(client.get(f"/trials/{trial.id}/compare/more").text, "html.parser").text.split())
    assert "named beforehand: Root number by a factor of more than 1.5" in more
    assert "named beforehand: Alive on day 14" in more and "day 14 was not looked at" in more


def test_the_margin_is_asked_on_the_scale_of_the_endpoint_as_soon_as_it_is_chosen(
    session: Session, sign_in: SignIn
) -> None:
    """What was typed as points is no factor, and the usual number that is used stands where it is."""
    trial = create_trial(session, create_person(session))
    client = sign_in()
    page = flat(client.get(f"/trials/{trial.id}/question").text)
    scale = re.search(r'name="margin_scale" value="([^"]+)"', page)
    assert scale and re.search(r'by more than <input name="margin_points" value="15"[^>]*> of every 100', page)
    form = question_form(trial, response="root_count", margin_points="2", margin_scale=scale[1])
    asked = flat(client.post(f"/trials/{trial.id}/question/working", data=form).text)
    assert re.search(r'hx-swap-oob="true">by a factor of more than <input name="margin_own" value="1.25"', asked)
    own = re.search(r'name="margin_scale" value="([^"]+)"', asked)
    assert own and own[1] != scale[1]
    again = question_form(trial, response="root_count", margin_own="2", margin_scale=own[1])
    assert "margin-gap" not in client.post(f"/trials/{trial.id}/question/working", data=again).text
    client.post(f"/trials/{trial.id}/question", data=again)
    session.expire_all()
    assert trial.plan.question.margin_own == 2.0
