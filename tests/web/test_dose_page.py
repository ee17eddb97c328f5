"""Strength as a dose, from the Question's levels to the curve on Compare and the command that repeats it."""

from __future__ import annotations

from dataclasses import replace

from bs4 import BeautifulSoup
from sqlalchemy.orm import Session

from orderly_bench.chapters.design import locking
from orderly_bench.chapters.design import operations as design
from orderly_bench.chapters.score import operations as score
from orderly_bench.core.vocabulary import LayoutKind
from orderly_bench.trial.models import Trial
from tests.factories import BARE, NOW, create_person, create_trial, design_form, open_endpoint, stick_all
from tests.factories import ROOTED as IN_ROOT
from tests.web.conftest import SignIn, flat

STRENGTHS = [("hormone", "hormone", ["none", "IBA 300 ppm", "IBA 1000 ppm", "IBA 3000 ppm", "IBA 10000 ppm"])]
ROOTED = dict(zip(STRENGTHS[0][2], (3, 8, 15, 9, 2), strict=True))


#: Roots of what rooted, by strength.
NUMBERS = dict(zip(STRENGTHS[0][2], (1, 5, 5, 8, 9), strict=True))


def scored(session: Session, factors: list, **asked: object) -> Trial:
    lead = create_person(session, "lead")
    trial = create_trial(session, lead, factors=factors, **asked)
    values = design_form(trial, layout=LayoutKind.COMPLETELY_RANDOMISED.value, blocks=1, cuttings_per_arm=16)
    design.save_design(session, trial, lead, NOW, trial.version, values)
    design.draw(session, trial, lead, NOW, 7)
    locking.lock_plan(session, trial, lead, NOW)
    stick_all(session, trial, lead)
    check = open_endpoint(session, trial, lead)
    seen: dict[str, int] = {}
    for unit in trial.units:
        name = unit.arm.level_names[0]
        seen[name] = seen.get(name, 0) + 1
        rooted = seen[name] <= ROOTED.get(name, 8)
        score.keep_score(
            session,
            check,
            unit.cuttings[0],
            lead,
            NOW,
            replace(IN_ROOT, root_number=NUMBERS.get(name, 5)) if rooted else BARE,
        )
    score.close_check(session, check, lead, NOW)
    return trial


def test_compare_draws_the_curve_names_the_best_and_the_command_repeats_it(session: Session, sign_in: SignIn) -> None:
    trial = scored(session, STRENGTHS)
    page = BeautifulSoup(sign_in("reader").get(f"/trials/{trial.id}/compare").text, "html.parser")
    (figure,) = [f for f in page.select("figure") if f.h2 and "Strength of hormone" in f.h2.get_text()]
    words = figure.get_text(" ")
    assert "does not simply rise or fall" in words and "The rate falls" not in words
    assert "the curve is highest at" in words and "more is not better beyond" in words and "ppm" in words
    assert figure.svg["aria-label"].startswith("Rooted by strength of hormone. none: 3 of 16; IBA 300 ppm: 8 of 16")
    command = page.select(".margin .calc")[-1].get_text().split()
    assert command[command.index("--dose") + 1] == "hormone"
    more = sign_in("reader").get(f"/trials/{trial.id}/figures/dose.svg")
    assert more.status_code == 200 and b"log scale" in more.data
    report = flat(sign_in("reader").get(f"/trials/{trial.id}/report").text)
    assert "does not simply rise or fall" in report and "by strength; the curve is a quadratic on the logit" in report


def test_numbers_of_roots_have_a_curve_over_the_strength_too(session: Session, sign_in: SignIn) -> None:
    trial = scored(session, STRENGTHS, response="root_count", margin_own="1.5")
    page = BeautifulSoup(sign_in("reader").get(f"/trials/{trial.id}/compare").text, "html.parser")
    (figure,) = [f for f in page.select("figure") if f.h2 and "Strength of hormone" in f.h2.get_text()]
    words = " ".join(figure.get_text(" ").split())
    line = figure.p.get_text()
    assert line.startswith("Root number does not simply rise or fall with the strength of hormone: its curve bends")
    assert "the curve is highest at" in words
    drawn = "Root number by strength; the curve is a quadratic through the means of what was drawn with its 95 % band"
    assert drawn in words
    told = figure.svg["aria-label"]
    assert told.startswith("Root number by strength of hormone. none: 0.188, n 16; IBA 300 ppm: 2.5, n 16"), told
    assert "IBA 3000 ppm: 4.5, n 16" in told
    command = page.select(".margin .calc")[-1].get_text().split()
    assert command[command.index("--dose") + 1] == "hormone"
    report = flat(sign_in("reader").get(f"/trials/{trial.id}/report").text)
    assert line.split(" (p")[0] in report and drawn in report


def test_levels_that_are_no_strengths_have_no_curve(session: Session, sign_in: SignIn) -> None:
    trial = scored(session, [("medium", "medium", ["pumice", "bark", "sand"])])
    text = sign_in("reader").get(f"/trials/{trial.id}/compare").text
    assert "Strength of medium" not in text and "--dose" not in text
