"""The Rehearse pages, the power curve of the Design page, and its buttons."""

from __future__ import annotations

import re
from dataclasses import replace

import pytest
from bs4 import BeautifulSoup
from sqlalchemy.orm import Session

from orderly_bench.chapters.design import operations as design
from orderly_bench.chapters.design import views as design_views
from orderly_bench.chapters.rehearse import views
from orderly_bench.core.plan.treatments import Container, Shape
from orderly_bench.core.question.starts import TO_A_CONTAINER
from orderly_bench.core.rehearse.blank_trial import of_two_arms
from orderly_bench.core.rehearse.verdicts import rehearse, settings_for
from orderly_bench.core.stock.kept import StockPlant
from orderly_bench.core.vocabulary import LayoutKind
from orderly_bench.stock.operations import keep_plant
from orderly_bench.trial.models import Trial
from tests.core.test_plan import two_arms
from tests.factories import NOW, create_person, create_trial, design_form
from tests.web.conftest import SignIn, flat

MEDIA = [("medium", "medium", ["pumice", "bark"])]


@pytest.fixture
def trial(session: Session) -> Trial:
    actor = create_person(session)
    made = create_trial(session, actor, factors=MEDIA)
    values = design_form(made, cuttings_per_arm=20, layout=LayoutKind.COMPLETELY_RANDOMISED.value, blocks=1, columns=8)
    design.save_design(session, made, actor, NOW, made.version, values)
    return made


def form_of(trial: Trial, **changes: str) -> dict[str, str]:
    return {**design.as_typed(trial.plan), "version": str(trial.version), **changes}


def words(text: str) -> str:
    return flat(BeautifulSoup(text, "html.parser").get_text(" ", strip=True))


def test_three_a_side_never_tell_and_thirty_sometimes(sign_in: SignIn) -> None:
    client = sign_in("reader")
    page = BeautifulSoup(client.get("/rehearse?a=40&b=70").text, "html.parser")
    panels = [panel["hx-get"] for panel in page.select(".panel")]
    assert len(panels) == 6
    three = client.get(panels[0] + "&step=2").text
    assert "not settled 100 of 100" in words(three) and len(BeautifulSoup(three, "html.parser").select(".mini")) == 10
    thirty = words(client.get(panels[2] + "&step=2").text)
    said = re.search(r"A difference was found in (\d+) of 100", thirty)
    exact = rehearse(of_two_arms(30, None, None, 1), (0.4, 0.7), 0.0, settings_for(0.05, 0.15, 9), 1_000)
    assert said is not None and abs(int(said[1]) / 100 - exact.found) < 0.1
    none = words(client.get(panels[5]).text)
    assert "In truth both root 40 %" in none and "more trials come" in none


@pytest.mark.parametrize("query", ["a=140", "b=x", "margin=0", "again=-1"])
def test_what_can_not_be_rehearsed_is_said(sign_in: SignIn, query: str) -> None:
    refused = sign_in().get(f"/rehearse?{query}")
    assert refused.status_code == 422 and "problem" in refused.text
    assert sign_in().get(f"/rehearse/side?size=5000&{query.replace('=140', '=40')}").status_code == 422


def test_a_plan_is_rehearsed_at_its_guesses_and_where_nothing_differs(
    session: Session, sign_in: SignIn, trial: Trial
) -> None:
    client, where = sign_in(), f"/trials/{trial.id}"
    assert "Type what you would expect" in words(client.get(f"{where}/rehearse/panel").text)
    form = form_of(trial, guess_A="20", guess_B="80")
    assert client.post(f"{where}/design", data=form).status_code == 303
    assert client.get(f"{where}/rehearse").status_code == 200
    guessed = words(client.get(f"{where}/rehearse/panel?step=1").text)
    assert "In truth A 20 %, B 80 %; judged:" in guessed and "A difference was found in" in guessed
    nothing = words(client.get(f"{where}/rehearse/panel?nothing=yes&step=1").text)
    assert "every arm comes to 50 %" in nothing and "false alarm" in nothing.casefold()


def test_the_chance_to_see_it_comes_in_passes_and_says_what_is_needed(
    session: Session, sign_in: SignIn, trial: Trial
) -> None:
    client, where = sign_in(), f"/trials/{trial.id}/design"
    assert "Type what you would expect" in client.get(f"{where}/curve").text
    form = form_of(trial, guess_A="40", guess_B="70")
    first = client.post(f"{where}/curve", data=form).text
    assert "<svg" in first and "have=0" in first
    next_one = BeautifulSoup(first, "html.parser").select_one("[hx-get]")["hx-get"]
    second = client.get(next_one)
    assert "have=1" in second.text and second.headers["HX-Retarget"] == "#curve"
    last = words(client.get(next_one.replace("have=0", "have=1")).text)
    assert "is found in 35 of 100 trials" in last and "For 80 of 100 about" in last
    assert (
        "no difference to find" in client.post(f"{where}/curve", data=form_of(trial, guess_A="50", guess_B="50")).text
    )
    assert "between 0 and 100 %" in client.post(f"{where}/curve", data=form_of(trial, guess_A="140", guess_B="50")).text


def test_the_answers_propose_a_layout_and_its_button_takes_it(session: Session, sign_in: SignIn, trial: Trial) -> None:
    client, where = sign_in(), f"/trials/{trial.id}/design"
    margin = client.post(f"{where}/working", data=form_of(trial, gradient_ways="1")).text
    assert "These answers ask for" in margin and "4 blocks are laid along it" in words(margin)
    assert client.post(where, data=form_of(trial, gradient_ways="1", act="propose")).status_code == 303
    session.expire_all()
    assert (trial.plan.design.layout, trial.plan.design.blocks, trial.plan.design.gradient_ways) == (
        LayoutKind.COMPLETE_BLOCKS,
        4,
        1,
    )
    assert "Why so" in client.get(where).text


def test_the_bench_is_drawn_before_the_draw_and_kept_by_it(session: Session, sign_in: SignIn, trial: Trial) -> None:
    client, where = sign_in(), f"/trials/{trial.id}/design"
    page = BeautifulSoup(client.get(where).text, "html.parser")
    assert len(page.select("#as-typed .on-arm")) == 40 and not trial.units
    assert client.post(where, data=form_of(trial, act="draw")).status_code == 303
    session.expire_all()
    assert len(trial.units) == 40 and len(trial.draws) == 1
    after = BeautifulSoup(client.get(where).text, "html.parser")
    assert len(after.select("#bench .on-code")) == 40 and not after.select("#as-typed .on-arm")


def test_short_of_pieces_another_way_is_one_click(session: Session, sign_in: SignIn, trial: Trial) -> None:
    keep_plant(session, StockPlant("T1", trial.plan.question.botanical_name, most_to_take=24))
    session.commit()
    client, where = sign_in(), f"/trials/{trial.id}/design"
    page = BeautifulSoup(client.get(where).text, "html.parser")
    assert "Short." in page.select_one("#fits").text
    ways = [button["value"] for button in page.select('#margin button[value^="way:"]')]
    assert ways == ["way:fewer", "way:pairs", "way:waves"]
    assert client.post(where, data=form_of(trial, act="way:pairs")).status_code == 303
    session.expire_all()
    assert trial.plan.design.layout is LayoutKind.PAIRS and trial.plan.cuttings == 24
    gone = client.post(where, data=form_of(trial, act="way:arms"))
    assert gone.status_code == 422 and "not open any more" in gone.text


def test_a_test_that_can_not_convince_is_offered_what_can(session: Session, sign_in: SignIn, trial: Trial) -> None:
    client, where = sign_in(), f"/trials/{trial.id}/design"
    assert client.post(where, data=form_of(trial, cuttings_per_arm="3")).status_code == 303
    page = BeautifulSoup(client.get(where).text, "html.parser")
    offered = page.select_one('#margin button[value="way:units"]')
    assert offered is not None and offered.text == "4 per arm, 4 units of each"
    session.expire_all()
    assert client.post(where, data=form_of(trial, act="way:units")).status_code == 303
    session.expire_all()
    assert trial.plan.design.cuttings_per_arm == 4
    assert "could come out clear" not in client.get(where).text


def test_a_test_that_can_not_convince_is_locked_only_with_a_reason_that_stays(
    session: Session, sign_in: SignIn, trial: Trial
) -> None:
    client, where = sign_in(), f"/trials/{trial.id}"
    assert client.post(f"{where}/design", data=form_of(trial, cuttings_per_arm="3", act="draw")).status_code == 303
    assert "no outcome could convince" in words(client.get(f"{where}/design").text).casefold()
    refused = client.post(f"{where}/lock")
    assert refused.status_code == 422 and "make it a look" in refused.text
    assert client.post(f"{where}/lock", data={"anyway": "all there is"}).status_code == 303
    session.expire_all()
    assert trial.plan.question.anyway.endswith("the reason given: all there is")


def test_the_calendar_says_the_season_of_a_wave_and_that_a_day_is_past(session: Session, sign_in: SignIn) -> None:
    trial = create_trial(session, create_person(session), factors=[("season", "season", ["spring", "late summer"])])
    client, where = sign_in(), f"/trials/{trial.id}/design"
    sent = form_of(
        trial, waves="2", wave_1_planned_for="2026-03-10", wave_1_season="season-1", wave_2_planned_for="2027-08-20", wave_2_season="season-2",
    )  # fmt: skip
    assert client.post(where, data=sent).status_code == 303
    page = BeautifulSoup(client.get(where).text, "html.parser")
    text = page.get_text(" ", strip=True)
    assert "spring here; this day is past" in text and "summer here" in text and text.count("this day is past") == 1
    months = {month.small.text: [wave.text for wave in month.select("b")] for month in page.select(".month")}
    assert months["Mar"] == ["1"] and months["Aug"] == ["2"] and months["Jan"] == []
    assert "4 of each season are the least" in text


def test_the_small_benches_stand_in_the_order_they_are_judged_in() -> None:
    """The first row is the side that the first count is of."""
    plan = two_arms()
    arms = tuple(replace(arm, guess=guess) for arm, guess in zip(plan.treatments.arms, (0.9, 0.1), strict=True))
    design = replace(plan.design, cuttings_per_arm=12)
    panel = views.of_plan(replace(plan, design=design, treatments=replace(plan.treatments, arms=arms)), False, 0)
    assert (
        "judged: IBA (A) against hormone none (B)" in panel.truth
        or "judged: hormone none (B) against IBA (A)" in panel.truth
    )
    for mini in panel.minis:
        counts = " v ".join(str(sum(cuttings)) for _, cuttings in mini.arms) + " of 12"
        assert mini.counts == counts, mini.arms


def test_heat_on_whole_trays_is_laid_out_with_trays_as_units(session: Session, sign_in: SignIn) -> None:
    trial = create_trial(session, create_person(session), factors=[("bottom heat", "bottom heat", ["mat", "none"])])
    client, where = sign_in(), f"/trials/{trial.id}/design"
    asked = trial.plan.treatments.asked[0].id
    assert "every cell counts as given it by itself" in client.get(where).text
    sent = form_of(trial, cuttings_per_arm="24", trays_get=asked, act="propose")
    assert client.post(where, data=sent).status_code == 303
    session.expire_all()
    made = trial.plan.design
    assert (made.container.shape, made.cuttings_per_unit, made.cuttings_per_arm) == (Shape.WHOLE_TRAY, 6, 24)
    assert made.container.volume_ml == 6 * 60.0
    page = BeautifulSoup(client.get(where).text, "html.parser").get_text(" ", strip=True)
    assert "4 trays of 6 for each arm" in page and "Lay it out so" not in page and "given it by itself" not in page
    assert "2 / C(8, 4)" in page
    assert client.post(where, data=form_of(trial, act="draw")).status_code == 303
    session.expire_all()
    assert len(trial.units) == 8 and {tray.shape for tray in trial.trays} == {"whole tray"}


def test_a_season_alone_has_no_p_of_single_cuttings(session: Session, sign_in: SignIn) -> None:
    trial = create_trial(session, create_person(session), factors=[("season", "season", ["spring", "late summer"])])
    page = BeautifulSoup(sign_in().get(f"/trials/{trial.id}/design").text, "html.parser").get_text(" ", strip=True)
    assert "A season without a wave shows nothing" in page and "That is assumed, not drawn." in flat(page)
    assert "Smallest p any outcome can reach" not in page and "The draw itself, repeated" not in page


def test_several_to_a_container_asks_for_the_numbers_of_the_arms(session: Session, sign_in: SignIn) -> None:
    actor = create_person(session)
    several = create_trial(session, actor, factors=[("other", TO_A_CONTAINER, ["one", "several"])])
    media = create_trial(session, actor, factors=MEDIA)
    client = sign_in()
    assert "every container holds 1 in each arm" in client.get(f"/trials/{several.id}/design").text
    assert "every container holds" not in client.get(f"/trials/{media.id}/design").text


def test_the_design_in_a_few_words() -> None:
    plan = two_arms()
    alone = replace(plan, design=replace(plan.design, cuttings_per_arm=24))
    shared = replace(alone, design=replace(alone.design, cuttings_per_unit=6))
    tray = replace(shared, design=replace(shared.design, container=Container(Shape.WHOLE_TRAY, 1, 1)))
    said = [design_views.title_of(one) for one in (alone, shared, tray)]
    assert "to a" not in said[0] and said[0].startswith("24 a side")
    assert said[1].startswith("24 a side, 6 to a cell, ") and said[2].startswith("24 a side, 6 to a whole tray, ")


@pytest.mark.parametrize(
    ("shape", "per_arm", "asked"),
    [("bed", "29", "2 of 58 do not fit 56 places in bed of 2 x 28"), ("bed", "28", ""), ("tray of cells", "29", "2 of 58"), ("tray of cells", "40", "")],
)  # fmt: skip
def test_what_does_not_fit_is_asked_about_and_not_given_a_bed_of_its_own_in_silence(
    session: Session, sign_in: SignIn, shape: str, per_arm: str, asked: str
) -> None:
    trial = create_trial(session, create_person(session), factors=MEDIA)
    form = form_of(trial, shape=shape, rows="2", columns="28", cuttings_per_arm=per_arm)
    text = words(sign_in().post(f"/trials/{trial.id}/design/working", data=form).text)
    assert ("another is laid out for them" in text) is bool(asked) and asked in text
