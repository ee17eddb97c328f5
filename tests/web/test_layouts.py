"""Every layout from the Design page to the verdict, and its files give the same numbers headless."""

from __future__ import annotations

import json
from pathlib import Path

import pytest
from bs4 import BeautifulSoup
from sqlalchemy.orm import Session

from orderly_bench.chapters.design import locking
from orderly_bench.chapters.design import operations as design
from orderly_bench.chapters.score import operations as score
from orderly_bench.chapters.stick import operations as stick
from orderly_bench.cli.main import main
from orderly_bench.core.errors import UnusableData
from orderly_bench.core.layouts.from_rows import layout_of
from orderly_bench.core.plan.aspects import AspectKind
from orderly_bench.core.vocabulary import LayoutKind, Roots, Score, State
from orderly_bench.evidence.rows import primary_rows
from orderly_bench.trial.models import Trial
from orderly_bench.trial.versions import plan_holds
from tests.factories import (
    BARE,
    DAY_ZERO,
    NOW,
    add_lot,
    create_person,
    create_stuck,
    create_trial,
    evidence,
    open_endpoint,
    save_design,
)
from tests.web.conftest import SignIn, flat
from tests.web.forms import line, question_form

TWO = [("medium", "medium", ["pumice", "bark"])]
#: Layouts as (factors, design).
LAYOUTS: dict[str, tuple[list | None, dict]] = {
    "pots": (None, {"layout": LayoutKind.COMPLETELY_RANDOMISED.value, "cuttings_per_arm": 12, "cuttings_per_unit": 3}),
    "pots in blocks": (None, {"cuttings_per_arm": 12, "cuttings_per_unit": 3, "blocks": 2}),
    "pairs": (TWO, {"layout": LayoutKind.PAIRS.value, "cuttings_per_arm": 8}),
    "Latin square": (None, {"layout": LayoutKind.LATIN_SQUARE.value, "cuttings_per_arm": 4, "rows": 4}),
    "Latin square of pots": (
        None,
        {"layout": LayoutKind.LATIN_SQUARE.value, "cuttings_per_arm": 8, "cuttings_per_unit": 2, "rows": 4},
    ),
    "incomplete blocks": (
        None,
        {"layout": LayoutKind.INCOMPLETE_BLOCKS.value, "cuttings_per_arm": 6, "blocks": 8, "block_size": 3},
    ),
    "split-plot": (
        None,
        {
            "layout": LayoutKind.SPLIT_PLOT.value,
            "cuttings_per_arm": 8,
            "cuttings_per_unit": 2,
            "blocks": 4,
            "whole_aspect": "hormone",
        },
    ),
    "three factors": (
        [
            ("medium", "medium", ["pumice", "bark"]),
            ("hormone", "hormone", ["IBA", "none"]),
            ("other", "cover", ["open", "closed"]),
        ],
        {"cuttings_per_arm": 4, "blocks": 2},
    ),
}


def stuck_as(session: Session, name: str) -> Trial:
    """A trial of a layout, stuck."""
    factors, values = LAYOUTS[name]
    researcher = create_person(session)
    trial = create_trial(session, researcher, **({"factors": factors} if factors else {}))
    save_design(session, trial, researcher, **values)
    design.draw(session, trial, researcher, NOW, 7)
    locking.lock_plan(session, trial, researcher, NOW, "to see it read back")
    add_lot(session, trial, researcher, DAY_ZERO)
    return trial


def scored(session: Session, trial: Trial) -> None:
    """Stick what is left, open the endpoint check, score every cutting, close it."""
    researcher, scorer = create_person(session), create_person(session, "scorer")
    for tray in trial.trays:
        stick.confirm_tray(session, trial, researcher, NOW, tray.number)
    stick.finish_sticking(session, trial, researcher, NOW)
    check = open_endpoint(session, trial, researcher)
    for unit in trial.units:
        for cutting in unit.cuttings:
            rooted = (unit.bench_order * 7 + cutting.number * 3) % 10 < (8 if unit.arm.letter in "AC" else 4)
            found = Score(State.ALIVE, Roots.COUNTED, 1 + unit.bench_order % 5, 12.0, quality=3) if rooted else BARE
            if cutting.status == "stuck":
                score.keep_score(session, check, cutting, scorer, NOW, found)
    score.close_check(session, check, researcher, NOW)


@pytest.mark.parametrize("name", LAYOUTS)
def test_a_trial_in_every_layout_gives_the_same_numbers_on_the_page_and_headless(
    session: Session, sign_in: SignIn, tmp_path: Path, capsys: pytest.CaptureFixture[str], name: str
) -> None:
    trial = stuck_as(session, name)
    scored(session, trial)
    client = sign_in()
    for chapter in ("design", "prepare", "stick", "tend", "score", "compare", "compare/more", "conclude", "report"):
        assert client.get(f"/trials/{trial.id}/{chapter}").status_code == 200, chapter
    page = BeautifulSoup(client.get(f"/trials/{trial.id}/compare").text, "html.parser")
    command = page.select(".margin .calc")[-1].get_text().split()
    file = tmp_path / command[2]
    file.write_text(client.get(f"/trials/{trial.id}/endpoint.csv").text)
    assert main(["analyse", str(file), *command[3:], "--json"]) == 0
    headless = json.loads(capsys.readouterr().out)
    analysis = evidence(session, trial).analysis
    assert analysis is not None and headless["design"] == analysis.design
    assert headless["n_cuttings"] == sum(len(u.cuttings) for u in trial.units)
    assert headless["overall"]["p"] == analysis.test.p
    assert [t["p"] for t in headless["terms"]] == [t.p for t in analysis.terms]
    assert [c["p_adjusted"] for c in headless["comparisons"]] == [c.p_adjusted for c in analysis.comparisons]
    assert [c["ci_low"] for c in headless["comparisons"]] == [
        c.difference.interval and c.difference.interval.low for c in analysis.comparisons
    ]


DESIGN_WORDS = {
    "pots": "completely randomised, several cuttings per unit",
    "pairs": "pairs",
    "Latin square": "Latin square",
    "incomplete blocks": "incomplete blocks",
    "split-plot": "split-plot, several cuttings per unit",
}


@pytest.mark.parametrize("name", DESIGN_WORDS)
def test_the_drawn_groups_reach_the_analysis(session: Session, name: str) -> None:
    trial = stuck_as(session, name)
    scored(session, trial)
    analysis = evidence(session, trial).analysis
    assert analysis is not None and analysis.design == DESIGN_WORDS[name]
    units = {unit.code: unit for unit in trial.units}
    assert layout_of(analysis.observations).unit_count == len(units)


def test_an_empty_place_of_a_pair_or_square_keeps_the_layout_whole(session: Session) -> None:
    for name in ("pairs", "Latin square"):
        trial = stuck_as(session, name)
        researcher = create_person(session)
        stick.set_cutting(session, trial, researcher, NOW, trial.units[0].cuttings[0], "broke")
        scored(session, trial)
        found = evidence(session, trial)
        assert found.unusable == "" and found.analysis is not None
        stuck = sum(arm.stuck for arm in found.analysis.arms)
        assert stuck == len(trial.units) - 1 and found.analysis.observations.left_out.sum() == 0
        assert len(primary_rows(found.record, found.results)) == len(trial.units)


def test_the_design_page_offers_and_keeps_every_layout(session: Session, sign_in: SignIn) -> None:
    trial = create_trial(session, create_person(session))
    client = sign_in()
    page = BeautifulSoup(client.get(f"/trials/{trial.id}/design").text, "html.parser")
    offered = [option["value"] for option in page.select('select[name="layout"] option')]
    assert offered == [kind.value for kind in LayoutKind]
    form = {
        "version": str(trial.version), "cuttings_per_arm": "8", "cuttings_per_unit": "2", "layout": "split-plot", "blocks": "4",
        "whole_aspect": "hormone", "gradient": "", "bench": "B", "rows": "2", "columns": "2", "assumed_icc": "",
    }  # fmt: skip
    assert client.post(f"/trials/{trial.id}/design", data=form).status_code == 303
    assert client.post(f"/trials/{trial.id}/draw").status_code == 303
    session.refresh(trial)
    assert (
        trial.plan.design.layout,
        trial.plan.design.blocks,
        trial.plan.design.whole_aspect,
        trial.plan.design.cuttings_per_unit,
    ) == ("split-plot", 4, "hormone", 2)
    assert {u.group("whole plot") for u in trial.units} == {f"whole plot {i}" for i in (1, 2, 3, 4)}
    shown = client.get(f"/trials/{trial.id}/design").text
    assert "whole plot 1" in shown and "the factor on whole plots" in shown


@pytest.mark.parametrize(
    ("changes", "message"),
    [
        ({"layout": "pairs"}, "choose two, or take blocks"),
        ({"layout": "Latin square", "cuttings_per_arm": "5"}, "is 4 in a Latin square of 4 arms"),
        ({"layout": "Latin square", "cuttings_per_arm": "4"}, "at least 4 rows by 4 columns"),
        ({"layout": "incomplete blocks", "blocks": "5", "block_size": "3"}, "multiple of 4"),
        ({"layout": "split-plot", "blocks": "3", "whole_aspect": "hormone"}, "multiple of the 2 levels"),
        ({"layout": "split-plot", "blocks": "4", "whole_aspect": "weather"}, "choose one of: medium, hormone"),
        ({"layout": "spiral"}, "choose one of: completely randomised"),
        ({"cuttings_per_unit": "3", "cuttings_per_arm": "8"}, "multiple of the 3 in one unit"),
        ({"cuttings_per_unit": "0"}, "must be between 1 and 60"),
        ({"assumed_icc": "1.5"}, "must be between 0 and 0.999"),
    ],
)
def test_designs_that_cannot_be_drawn_say_what_can(
    session: Session, sign_in: SignIn, changes: dict[str, str], message: str
) -> None:
    trial = create_trial(session, create_person(session))
    form = {
        "version": str(trial.version), "cuttings_per_arm": "6", "cuttings_per_unit": "1", "layout": "completely randomised",
        "blocks": "1", "rows": "2", "columns": "4", **changes,
    }  # fmt: skip
    answer = sign_in().post(f"/trials/{trial.id}/design", data=form)
    assert answer.status_code == 422 and message in BeautifulSoup(answer.text, "html.parser").get_text()


def test_the_lock_notices_a_group_that_was_changed(session: Session) -> None:
    trial = create_stuck(session, create_person(session))
    assert plan_holds(trial)
    pots = stuck_as(session, "split-plot")
    pots.units[0].groupings[0].name = "whole plot 9"
    assert not plan_holds(pots)


def test_several_cuttings_of_a_unit_are_stuck_and_scored_one_by_one(session: Session, sign_in: SignIn) -> None:
    trial = stuck_as(session, "pots")
    unit = trial.units[0]
    client = sign_in("scorer")
    second = unit.cuttings[1]
    page = client.get(f"/trials/{trial.id}/stick?tray=1&cutting={second.id}").text
    assert f"{unit.code[:3]} {unit.code[3:]}-2" in page
    client.post(f"/trials/{trial.id}/stick/cutting", data={"cutting": second.id, "reason": "broke", "tray": "1"})
    session.refresh(second)
    assert second.status == "not stuck" and unit.cuttings[0].status == "planned"
    scored(session, trial)
    assert "2 of 3 stuck, 1 not" in client.get(f"/trials/{trial.id}/stick?tray=1").text
    found = evidence(session, trial)
    assert len([r for r in found.results if r.cutting.unit.id == unit.id]) == 2


def test_the_score_page_shows_how_far_a_pot_is(session: Session, sign_in: SignIn) -> None:
    trial = stuck_as(session, "pots")
    researcher = create_person(session)
    for tray in trial.trays:
        stick.confirm_tray(session, trial, researcher, NOW, tray.number)
    stick.finish_sticking(session, trial, researcher, NOW)
    check = open_endpoint(session, trial, researcher)
    score.keep_score(session, check, trial.units[0].cuttings[0], researcher, NOW, BARE)
    page = sign_in("scorer").get(f"/trials/{trial.id}/score?check={check.id}").text
    assert ">1/3</text>" in flat(page).replace(" >", ">"), "the map says how many of a pot are scored"
    assert "1 of 3 scored" in page and f"{trial.units[0].code[:3]} {trial.units[0].code[3:]}-2" in page


def test_an_unknown_layout_in_the_database_is_refused_not_drawn(session: Session) -> None:
    researcher = create_person(session)
    trial = create_trial(session, researcher)
    save_design(session, trial, researcher)
    trial.plan_text = trial.plan_text.replace("layout: randomised complete blocks", "layout: spiral")
    with pytest.raises(UnusableData, match="is no plan"):
        design.draw(session, trial, researcher, NOW, 1)
    assert trial.units == []


def test_four_things_asked_are_kept_in_order_and_a_fifth_is_refused(session: Session, sign_in: SignIn) -> None:
    trial = create_trial(session, create_person(session))
    asked = [
        line(AspectKind.MEDIUM, ["pumice", "bark"], True), line(AspectKind.HORMONE, ["IBA", "none"], True),
        line(AspectKind.CUTTING_TYPE, ["tip", "base"], True, "piece"), line(AspectKind.OTHER, ["open", "closed"], True, "lid"),
        line(AspectKind.OTHER, ["a", "b"], True, "fifth"),
    ]  # fmt: skip
    client, where = sign_in(), f"/trials/{trial.id}/question"
    assert "1 to 4 things" in client.post(where, data=question_form(trial, *asked)).text
    assert client.post(where, data=question_form(trial, *asked[:4], act="combine")).status_code == 303
    session.refresh(trial)
    assert [f.name for f in trial.factors] == ["medium", "hormone", "piece", "lid"] and len(trial.arms) == 16
    page = BeautifulSoup(client.get(where).text, "html.parser")
    assert [page.select_one(f'[name="name_{i}"]')["value"] for i in (3, 4)] == ["piece", "lid"]
    assert all(page.select_one(f'[name="ask_{i}"]').has_attr("checked") for i in (1, 2, 3, 4))


@pytest.mark.parametrize(
    ("changes", "words"),
    [
        ({}, ["over the whole bench", "4 arms x 8 units = 32 units"]),
        (
            {"cuttings_per_unit": "4"},
            ["over the whole bench, units whole", "2 replicates, not 8", "x 4 in each = 32 cuttings"],
        ),
        ({"layout": "randomised complete blocks", "blocks": "4"}, ["within its blocks", "2 / C(4, 2)^4"]),
        (
            {"layout": "Latin square", "cuttings_per_arm": "4", "rows": "4"},
            ["any Latin square of the order", "every square"],
        ),
        (
            {"layout": "incomplete blocks", "cuttings_per_arm": "6", "blocks": "12", "block_size": "2"},
            ["labels, order of the blocks, places in them", "4000 redraws"],
        ),
        (
            {"layout": "split-plot", "blocks": "4", "whole_aspect": "hormone"},
            ["the factor on whole plots", "2 whole plots a level", "inside them for the rest"],
        ),
    ],
)
def test_the_margin_says_what_each_layout_can_show(
    session: Session, sign_in: SignIn, changes: dict[str, str], words: list[str]
) -> None:
    trial = create_trial(session, create_person(session))
    form = {
        "cuttings_per_arm": "8", "cuttings_per_unit": "1",
        "layout": "completely randomised", "blocks": "1", "rows": "2", "columns": "4", **changes,
    }  # fmt: skip
    answer = sign_in().post(f"/trials/{trial.id}/design/working", data=form)
    text = " ".join(BeautifulSoup(answer.text, "html.parser").get_text(" ").split())
    assert answer.status_code == 200 and [w for w in words if w not in text] == [], text


def test_three_factors_have_a_figure_for_every_pair_of_them(session: Session, sign_in: SignIn) -> None:
    trial = stuck_as(session, "three factors")
    scored(session, trial)
    client = sign_in()
    page = BeautifulSoup(client.get(f"/trials/{trial.id}/compare/more").text, "html.parser")
    names = [figure["id"] for figure in page.select("figure[id^=interaction]")]
    assert names == ["interaction-1-2", "interaction-1-3", "interaction-2-3"]
    assert "over the levels of cover" in page.select_one("#interaction-1-2 figcaption").get_text()
    for name in names:
        answer = client.get(f"/trials/{trial.id}/figures/{name}.svg")
        assert answer.status_code == 200 and answer.mimetype == "image/svg+xml"


def test_every_number_of_the_verdict_is_worked_out_on_the_page(session: Session, sign_in: SignIn) -> None:
    trial = stuck_as(session, "pots in blocks")
    scored(session, trial)
    page = BeautifulSoup(sign_in().get(f"/trials/{trial.id}/compare").text, "html.parser")
    titles = [summary.get_text() for summary in page.select(".card > details > summary")]
    assert titles[0] == "All arms alike?" and "Bark \u2212 pumice" in titles and "IBA \u2212 none" in titles
    assert len(titles) == 1 + 4 + 2 + 6
    lines = " ".join(p.get_text() for p in page.select(".card > details .calc"))
    assert (
        "ICC" in lines and "Holm over 2" in lines and "Holm over 6" in lines and "linear model on unit means" in lines
    )


@pytest.mark.parametrize("typed", ["9" * 5_000, "²", "-3", "a dozen"])
def test_a_number_of_waves_that_is_none_is_refused_with_the_form(session: Session, sign_in: SignIn, typed: str) -> None:
    trial = create_trial(session, create_person(session))
    session.commit()
    form = {"version": str(trial.version), "waves": typed, "cuttings_per_arm": "8", "layout": "completely randomised"}
    refused = sign_in("researcher").post(f"/trials/{trial.id}/design", data=form)
    assert refused.status_code == 422 and 'id="plan"' in refused.text
