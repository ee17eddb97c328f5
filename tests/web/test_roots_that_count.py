"""What a check asks, from which length a root counts, how they were got out, and who scored what: each said where it matters."""

from __future__ import annotations

from dataclasses import replace

import pytest
from sqlalchemy.orm import Session

from orderly_bench.chapters.score import operations as score
from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.score.details import doubts_about_lifting, lifted_by
from orderly_bench.core.score.entry import check_long_enough
from orderly_bench.core.vocabulary import KnownBy, Roots, Score, State
from orderly_bench.trial.checks import checks_of
from orderly_bench.trial.models import CheckVisit, Trial
from tests.factories import BARE, NOW, ROOTED, TODAY, create_person, create_stuck, evidence, score_all
from tests.web.conftest import SignIn, flat

TWO = {"factors": [("medium", "medium", ["grit", "pumice"])], "cuttings_per_arm": "8"}


def stuck(session: Session, **more: object) -> tuple[Trial, CheckVisit]:
    trial = create_stuck(session, create_person(session), **TWO, **more)
    session.commit()
    return trial, checks_of(session, trial)[-1]


def opened(session: Session, trial: Trial, check: CheckVisit, way: KnownBy = KnownBy.LIFTED, lifting: str = "") -> None:
    score.open_check(
        session, check, create_person(session), NOW, score.Looking(TODAY, way.value, lifting=lifting), TODAY
    )
    session.commit()


@pytest.mark.parametrize("least", [None, 2.0, 20.0])
def test_a_root_counts_from_the_trials_own_length(least: float | None) -> None:
    check_long_enough(replace(ROOTED, longest_root_mm=None), least)
    check_long_enough(ROOTED, least)
    if least is not None:
        with pytest.raises(InvalidInput, match=f"from {least:g} mm: say 'none'"):
            check_long_enough(replace(ROOTED, longest_root_mm=least - 0.5), least)


def test_it_stands_on_pad_compare_and_report_and_a_shorter_one_is_refused(session: Session, sign_in: SignIn) -> None:
    trial, check = stuck(session, root_from_mm="2")
    opened(session, trial, check)
    page = flat(sign_in("scorer").get(f"/trials/{trial.id}/score").text)
    assert "Roots, counted from 2 mm" in page.replace("\u00a0", " ")
    sent = {"cutting": str(trial.units[0].cuttings[0].id), "state": "alive", "roots": "counted", "root_number": "1", "longest_root_mm": "1.5", "revision": "0", "fit": "not judged"}  # fmt: skip
    refused = sign_in("scorer").post(f"/checks/{check.id}/scores", data=sent)
    assert refused.status_code == 422 and "counts in this trial from 2 mm" in flat(refused.text)
    score_all(session, trial, check, create_person(session, "scorer"), "A")
    score.close_check(session, check, create_person(session), NOW)
    session.commit()
    assert "roots seen or counted, from 2 mm" in flat(sign_in().get(f"/trials/{trial.id}/report").text)


@pytest.mark.parametrize(("way", "on_top"), [(KnownBy.LIFTED, True), (KnownBy.SCRAPED, True), (KnownBy.WALL, False), (KnownBy.HOLE, False)])  # fmt: skip
def test_what_a_look_through_the_wall_cannot_measure_is_folded_away(
    session: Session, sign_in: SignIn, way: KnownBy, on_top: bool
) -> None:
    trial, check = stuck(session)
    opened(session, trial, check, way)
    page = sign_in("scorer").get(f"/trials/{trial.id}/score").text
    fold = page.index("note, foliage, more of the roots")
    for name in ("longest_root_mm", "quality", "callus"):
        assert page.count(f'name="{name}"') >= 1 and (page.index(f'name="{name}"') < fold) is on_top, name


def test_how_they_were_got_out_is_kept_with_each_score(session: Session, sign_in: SignIn) -> None:
    trial, check = stuck(session)
    form = {"day": str(TODAY), "way": "lifted and counted", "lifting": "rinsing"}
    assert sign_in().post(f"/checks/{check.id}/open", data=form | {"lifting": "by hand"}).status_code == 422
    assert sign_in().post(f"/checks/{check.id}/open", data=form).status_code == 303
    session.expire_all()
    scorer = create_person(session, "scorer")
    own = replace(ROOTED, details=(("lifting", "teasing"),))
    first, second, third = (trial.units[n].cuttings[0] for n in range(3))
    kept = [score.keep_score(session, check, c, scorer, NOW, s).as_score() for c, s in ((first, ROOTED), (second, own), (third, replace(ROOTED, known_by=KnownBy.WALL)))]  # fmt: skip
    assert [dict(one.details).get("lifting") for one in kept] == ["rinsing", "teasing", None]
    again = score.keep_score(session, check, trial.units[3].cuttings[0], scorer, NOW, BARE, score.Sent(request_key="k"))
    assert (
        score.keep_score(session, check, trial.units[3].cuttings[0], scorer, NOW, BARE, score.Sent(request_key="k"))
        is again
    )


def test_arms_that_were_got_out_in_other_ways_are_a_doubt() -> None:
    seen = Score(State.ALIVE, Roots.SEEN)
    rinsed, teased = lifted_by(seen, "rinsing"), lifted_by(seen, "teasing")
    (found,) = doubts_about_lifting({"grit": [rinsed] * 8, "pumice": [teased] * 8})
    assert "got out by rinsing in 8 of 8 of grit, but in 0 of 8 of pumice" in found.text
    assert doubts_about_lifting({"grit": [rinsed] * 8, "pumice": [rinsed] * 7 + [teased]}) == []
    assert doubts_about_lifting({"grit": [rinsed] * 8, "pumice": [seen] * 8}) == [], "nobody said how: no doubt of it"


@pytest.mark.parametrize("alike", [True, False])
def test_scorers_who_did_not_see_the_arms_alike_are_a_doubt(session: Session, alike: bool) -> None:
    trial, check = stuck(session)
    opened(session, trial, check)
    hands = [create_person(session, "scorer", name) for name in ("Ada Reed", "Bo Lund")]
    for number, unit in enumerate(trial.units):
        who = hands[number % 2] if alike else hands[unit.arm.letter == "B"]
        score.keep_score(session, check, unit.cuttings[0], who, NOW, ROOTED)
    score.close_check(session, check, create_person(session), NOW)
    told = [one.text for one in evidence(session, trial).cautions if "falls over the arms" in one.text]
    assert len(told) == (0 if alike else 1)
    if not alike:
        assert "A Ada Reed 8; B Bo Lund 8" in told[0]


@pytest.mark.parametrize("had", [True, False])
def test_where_some_had_roots_new_ones_alone_are_asked_for(session: Session, sign_in: SignIn, had: bool) -> None:
    trial, check = stuck(session)
    opened(session, trial, check)
    trial.lots[0].usual = {"earlier_roots": "trimmed off"} if had else {"earlier_roots": "none"}
    session.commit()
    page = flat(sign_in("scorer").get(f"/trials/{trial.id}/score").text)
    assert ("Roots, new ones alone" in page) is had
    assert f"/trials/{trial.id}/photos?tray=1" in page
