"""What else is said of roots and shoots: blank is not judged, nothing is said of roots that nobody saw, uneven lifting is a doubt."""

from __future__ import annotations

from dataclasses import replace

import pytest

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.score.details import DETAILS, by_arm, doubts_about_lifting, in_order, read_details
from orderly_bench.core.score.entry import check_score
from orderly_bench.core.score.sites import of_plant
from orderly_bench.core.vocabulary import Fit, Roots, Score, State

ROOTED = Score(State.ALIVE, Roots.COUNTED, 4)


def said(**more: str) -> Score:
    return replace(ROOTED, details=read_details(more))


def test_every_field_is_read_in_its_order_and_kept_so() -> None:
    typed = {detail.name: detail.options[0] if detail.options else "62,5 %" for detail in reversed(DETAILS)}
    found = read_details(typed)
    assert [name for name, _ in found] == [detail.name for detail in DETAILS] and dict(found)["ball_percent"] == "62.5"
    assert in_order(dict(reversed(found))) == found and read_details({}) == () and read_details({"torn": " "}) == ()


@pytest.mark.parametrize(
    ("name", "typed"), [("thickness", "fat"), ("ball_percent", "120"), ("ball_percent", "half"), ("torn", "0")]
)
def test_what_is_none_of_the_options_is_refused(name: str, typed: str) -> None:
    with pytest.raises(InvalidInput):
        read_details({name: typed})


def test_of_roots_only_where_roots_were_seen_and_why_only_of_what_is_not_fit() -> None:
    assert check_score(said(thickness="fine"))
    for roots in (Roots.NONE, Roots.NOT_LOOKED):
        with pytest.raises(InvalidInput, match="none were seen"):
            check_score(Score(State.ALIVE, roots, details=read_details({"thickness": "fine"})))
    assert check_score(Score(State.ALIVE, Roots.NONE, details=read_details({"shoot_below": "yes"})))
    with pytest.raises(InvalidInput, match="not fit; choose"):
        check_score(said(not_fit_why="dead top"))
    assert check_score(replace(said(not_fit_why="dead top"), fit=Fit.NO))


def test_arms_are_counted_among_those_judged() -> None:
    scores = {
        "pumice": [said(colour="white", ball_percent="40"), said(colour="brown", ball_percent="80"), ROOTED],
        "bark": [ROOTED],
    }
    found = dict(by_arm(scores))
    assert found["colour of the roots"] == {"pumice": "white 1, brown 1 of 2 judged", "bark": ""}
    assert found["ball, % of the stem's round"]["pumice"] == "60 % on average of 2 judged"
    assert set(found) == {"colour of the roots", "ball, % of the stem's round"}


def test_arms_that_were_torn_or_washed_unevenly_are_doubted() -> None:
    torn, whole = [said(torn="some", washed="yes")] * 4, [said(torn="no", washed="yes")] * 5
    (doubt,) = doubts_about_lifting({"pumice": torn, "bark": whole})
    assert doubt.text.startswith("Roots were torn in lifting in 4 of 4 of pumice, but in 0 of 5 of bark")
    assert doubts_about_lifting({"pumice": torn, "bark": torn}) == []
    assert doubts_about_lifting({"pumice": torn, "bark": [ROOTED]}) == [], "not judged is not whole"


def test_a_plant_has_what_was_said_of_any_of_its_sites() -> None:
    found = of_plant([said(colour="white"), said(colour="brown", torn="some")])
    assert dict(found.details) == {"colour": "white", "torn": "some"}
