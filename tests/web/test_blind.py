"""A scorer finds no arm while blind: by address, CSV, label, report or page source."""

from __future__ import annotations

import io
import re
from collections.abc import Callable

import pytest
from bs4 import BeautifulSoup
from flask import Flask
from pypdf import PdfReader
from sqlalchemy.orm import Session

from orderly_bench.chapters.score import operations as score
from orderly_bench.formats.xlsx import as_csv
from orderly_bench.trial import moves
from orderly_bench.trial.amending import amend
from orderly_bench.trial.blindness import has_seen_arms
from orderly_bench.trial.models import Trial
from tests.factories import (
    NOW,
    ROOTED,
    create_drawn,
    create_locked,
    create_person,
    create_stuck,
    open_endpoint,
    score_all,
)
from tests.web.conftest import SignIn, flat
from tests.web.test_access import path_of, rules


@pytest.fixture
def blind(session: Session, sign_in: SignIn):
    researcher, scorer = create_person(session), create_person(session, "scorer")
    trial = create_stuck(session, researcher)
    check = open_endpoint(session, trial, researcher)
    score.keep_score(session, check, trial.units[0].cuttings[0], scorer, NOW, ROOTED)
    return trial, check, sign_in(person=scorer), researcher, scorer


def tells_an_arm(text: str, code: str, arm) -> bool:
    """Whether a code stands in one element, row or attribute with its arm."""
    soup = BeautifulSoup(text, "html.parser")
    shown = f"{code[:3]} {code[3:]}"
    for element in soup.find_all(["tr", "li", "a", "g", "p", "title"]):
        whole = element.get_text(" ") + " " + " ".join(f"{k} {v}" for k, v in element.attrs.items())
        if (code in whole or shown in whole) and (
            arm.name in whole or f"arm {arm.letter}" in whole or re.search(rf">{arm.letter}</text>", str(element))
        ):
            return True
    return False


def test_no_page_ties_a_code_to_its_arm(app: Flask, session: Session, blind) -> None:
    trial, _, client, _, _ = blind
    units = trial.units[:6]
    looked = 0
    for rule in rules(app, "GET"):
        response = client.get(path_of(rule, trial, session))
        if response.mimetype == "text/html" and response.status_code < 400:
            looked += 1
            for unit in units:
                assert not tells_an_arm(response.text, unit.code, unit.arm), rule.rule
    assert looked >= 12


@pytest.mark.parametrize("make", [create_drawn, create_locked, create_stuck])
def test_from_the_first_draw_on_no_page_or_file_ties_a_code_to_its_arm(
    app: Flask, session: Session, sign_in: SignIn, make: Callable[..., Trial]
) -> None:
    """Planned blind: arms, seed, design file and plan text are hidden before the lock as after it."""
    trial = make(session, create_person(session))
    scorer = create_person(session, "scorer")
    client, units = sign_in(person=scorer), trial.units[:6]
    own = [rule for rule in rules(app, "GET") if rule.arguments == {"trial_id"}]
    assert len(own) > 15
    for rule in own:
        response = client.get(rule.rule.replace("<int:trial_id>", str(trial.id)))
        if response.status_code < 400 and not response.mimetype.startswith(("image", "font")):
            if response.mimetype == "application/pdf":
                pages = " ".join(page.extract_text() for page in PdfReader(io.BytesIO(response.data)).pages)
                assert not any(arm.name in pages for arm in trial.arms), rule.rule
                continue
            text = as_csv(response.data).decode()
            assert not any(tells_an_arm(text, unit.code, unit.arm) for unit in units), rule.rule
            assert "seed " not in flat(text) or rule.rule.endswith("words"), rule.rule
    for file in ("design.csv", "plan.yaml"):
        assert client.get(f"/trials/{trial.id}/{file}").status_code == 422
    assert not has_seen_arms(trial, scorer)


def test_who_saw_a_bench_that_is_planned_blind_later_is_on_record(session: Session, sign_in: SignIn) -> None:
    trial = create_drawn(session, create_person(session), blind=False)
    scorer, other = create_person(session, "scorer"), create_person(session, "scorer")
    page = sign_in(person=scorer).get(f"/trials/{trial.id}/design").text
    assert all(tells_an_arm(page, unit.code, unit.arm) for unit in trial.units[:6])
    session.expire_all()
    assert has_seen_arms(trial, scorer) and not has_seen_arms(trial, other)
    sign_in(person=other).get(f"/trials/{trial.id}/question")
    assert sign_in(person=other).get(f"/trials/{trial.id}/design.csv").status_code == 200
    session.expire_all()
    assert has_seen_arms(trial, other), "a file counts as the page does"


def test_the_endpoint_file_is_shut_while_a_check_is_open(session: Session, blind) -> None:
    trial, check, client, researcher, _ = blind
    for file in ("scores.csv", "scores.xlsx", "endpoint.csv"):
        answered = client.get(f"/trials/{trial.id}/{file}")
        assert answered.status_code == 422 and "hidden from scorers while a check is open" in flat(answered.text), file
    for unit in trial.units[1:]:
        score.keep_score(session, check, unit.cuttings[0], researcher, NOW, ROOTED)
    score.close_check(session, check, researcher, NOW)
    session.commit()
    assert client.get(f"/trials/{trial.id}/endpoint.csv").status_code == 200


def test_the_same_search_finds_arms_for_a_researcher(session: Session, sign_in: SignIn, blind) -> None:
    trial, _, _, researcher, _ = blind
    page = sign_in(person=researcher).get(f"/trials/{trial.id}/design").text
    assert all(tells_an_arm(page, unit.code, unit.arm) for unit in trial.units[:6])


def test_the_seed_of_the_draw_is_not_told_while_blind(blind) -> None:
    trial, _, client, _, _ = blind
    assert f"seed {trial.draws[0].seed}" not in client.get(f"/trials/{trial.id}/design").text


def test_files_hold_no_arm_while_blind(session: Session, sign_in: SignIn, blind) -> None:
    trial, _, client, researcher, _ = blind
    while_open = client.get(f"/trials/{trial.id}/scores.csv")
    assert while_open.status_code == 422 and "hidden from scorers while a check is open" in while_open.text
    for who, names in ((client, ["endpoint.csv"]), (sign_in(person=researcher), ["scores.csv", "endpoint.csv"])):
        for name in names:
            content = who.get(f"/trials/{trial.id}/{name}").text
            assert "pumice" not in content and "medium" not in content.splitlines()[0]
        assert who.get(f"/trials/{trial.id}/report").status_code == 422
    labels = PdfReader(io.BytesIO(client.get(f"/trials/{trial.id}/labels.pdf").data))
    text = "".join(page.extract_text() for page in labels.pages)
    assert f"{trial.units[0].code[:3]} {trial.units[0].code[3:]}" in text
    assert "pumice" not in text and "IBA" not in text


def test_compare_shows_totals_until_the_endpoint_closes(session: Session, sign_in: SignIn, blind) -> None:
    trial, check, client, researcher, scorer = blind
    for who in (client, sign_in(person=researcher)):
        text = who.get(f"/trials/{trial.id}/compare").text
        assert (
            "totals" in text
            and "1 of 16" in text
            and "pumice" not in BeautifulSoup(text, "html.parser").find("main").get_text()
        )


def test_an_early_look_is_recorded_and_named(session: Session, sign_in: SignIn, blind) -> None:
    trial, check, scorer_client, researcher, scorer = blind
    client = sign_in(person=researcher)
    assert client.post(f"/trials/{trial.id}/look-early", data={"reason": " "}).status_code == 422
    assert client.post(f"/trials/{trial.id}/look-early", data={"reason": "visitors"}).status_code == 303
    assert "interim look" in client.get(f"/trials/{trial.id}/compare").text
    assert "totals" in scorer_client.get(f"/trials/{trial.id}/compare").text
    for unit in trial.units[1:]:
        score.keep_score(session, check, unit.cuttings[0], scorer, NOW, ROOTED)
    score.close_check(session, check, researcher, NOW)
    session.commit()
    assert "Arms were compared early" in client.get(f"/trials/{trial.id}/compare").text


def test_after_the_endpoint_everything_is_open(session: Session, blind) -> None:
    trial, check, client, researcher, scorer = blind
    for unit in trial.units[1:]:
        score.keep_score(session, check, unit.cuttings[0], scorer, NOW, ROOTED)
    score.close_check(session, check, researcher, NOW)
    session.commit()
    assert client.get(f"/trials/{trial.id}/endpoint.csv").text.startswith("medium,hormone,cutting")


def test_a_trial_that_is_not_blind_hides_nothing(session: Session, sign_in: SignIn) -> None:
    from orderly_bench.trial.blindness import arms_hidden
    from tests.factories import create_trial, save_design

    researcher, scorer = create_person(session), create_person(session, "scorer")
    trial = create_trial(session, researcher, blind=False)
    save_design(session, trial, researcher)
    assert not arms_hidden(session, trial, scorer)
    stuck = create_stuck(session, researcher)
    check = open_endpoint(session, stuck, researcher)
    assert arms_hidden(session, stuck, scorer)
    score_all(session, stuck, check, scorer)


def test_the_digest_and_what_was_written_are_hidden_with_the_arms(session: Session, sign_in: SignIn, blind) -> None:
    from orderly_bench.core.plan.amendments import Departure

    trial, _, client, researcher, _ = blind
    amend(session, trial, researcher, NOW, Departure("arm A got another gel"), "gel of arm A ran out")
    tray = trial.trays[0]
    moves.move_units(session, trial, researcher, NOW, {trial.units[0]: (tray.number, 2, 3)}, "arm A stood in the drip")
    session.commit()
    for page, told in (("design", "gel"), ("tend", "stood in the drip"), ("design", trial.digest[:12])):
        assert told not in client.get(f"/trials/{trial.id}/{page}").text
        assert told in sign_in(person=researcher).get(f"/trials/{trial.id}/{page}").text


def test_sticking_by_code_keeps_a_scorer_blind_and_by_arm_ends_it(session: Session, sign_in: SignIn) -> None:
    from orderly_bench.trial.blindness import scores_blind
    from tests.factories import add_lot, create_locked

    researcher, by_code, by_arm = (create_person(session, role) for role in ("researcher", "scorer", "scorer"))
    trial = create_locked(session, researcher)
    add_lot(session, trial, researcher)
    first, second = sign_in(person=by_code), sign_in(person=by_arm)
    path = f"/trials/{trial.id}/stick"
    for client in (first, second):
        page = client.get(path).text
        assert "Stick by arm" in page and not any(tells_an_arm(page, u.code, u.arm) for u in trial.units)
    shown = second.post(f"/trials/{trial.id}/reveal", data={"reason": "sticking by arm", "back": path})
    assert shown.status_code == 303 and shown.headers["Location"] == path
    assert "What goes in" in second.get(path).text
    assert first.post(path + "/tray", data={"tray": "1"}).status_code == 303
    session.expire_all()
    assert scores_blind(trial, by_code) and not scores_blind(trial, by_arm)


@pytest.mark.parametrize("role", ["researcher", "lead", "reader"])
def test_who_saw_the_arms_in_an_earlier_role_is_not_blind_as_a_scorer(session: Session, role: str) -> None:
    from orderly_bench.chapters.people.operations import change_person
    from orderly_bench.trial.blindness import arms_hidden, scores_blind

    lead, person = create_person(session, "lead"), create_person(session, role)
    trial = create_stuck(session, lead)
    check = open_endpoint(session, trial, lead)
    change_person(session, lead, NOW, person, "scorer", True)
    assert not scores_blind(trial, person) and not arms_hidden(session, trial, person)
    kept = score.keep_score(session, check, trial.units[0].cuttings[0], person, NOW, ROOTED)
    assert not kept.blind, "the score says so for good"
    fresh = create_person(session, "scorer")
    assert scores_blind(trial, fresh) and arms_hidden(session, trial, fresh)


def test_an_interim_look_is_on_record_as_seeing(session: Session, sign_in: SignIn, blind) -> None:
    from orderly_bench.trial.blindness import has_seen_arms

    trial, _, _, researcher, scorer = blind
    assert not has_seen_arms(trial, researcher)
    sign_in(person=researcher).post(f"/trials/{trial.id}/look-early", data={"reason": "visitors"})
    session.expire_all()
    assert has_seen_arms(trial, researcher) and not has_seen_arms(trial, scorer)


def test_codes_can_not_be_worked_out_from_the_seed(session: Session) -> None:
    """Two draws of one seed give the same arms and other codes."""
    from orderly_bench.chapters.design import operations as design
    from tests.factories import create_drawn

    researcher = create_person(session)
    trial = create_drawn(session, researcher)
    seed = trial.draws[0].seed
    arms, codes = [u.arm.letter for u in trial.units], {u.code for u in trial.units}
    design.draw(session, trial, researcher, NOW, seed, "to see")
    assert [u.arm.letter for u in trial.units] == arms
    # of 16 and 16 of a quarter of a million one may be the same by chance
    assert len(codes & {u.code for u in trial.units}) <= 1
