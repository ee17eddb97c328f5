"""What was measured at several checks is drawn over time, by arm once the end is closed: each cutting's line and the arms' means."""

from __future__ import annotations

import re
from dataclasses import replace

import numpy as np
import pytest
from sqlalchemy.orm import Session

from orderly_bench.chapters.score import operations as score
from orderly_bench.core.compare.number_over_time import described
from orderly_bench.core.vocabulary import KnownBy, Roots, State
from orderly_bench.trial.checks import checks_of
from orderly_bench.trial.models import Trial
from tests.factories import DAY_ZERO, NOW, ROOTED, TODAY, create_person, create_stuck
from tests.web.conftest import SignIn, flat


def test_a_mean_needs_four_fifths_of_its_arm() -> None:
    values = np.array([[1.0, 5.0], [3.0, np.nan], [np.nan, 4.0], [2.0, 4.0], [2.0, 4.0]])
    found = described(values, np.array([14.0, 42.0]), np.array([0, 0, 1, 1, 1]), 2)
    assert found.mean[0].tolist()[0] == 2.0 and np.isnan(found.mean[0][1]), "one of two is no mean of the arm"
    assert np.isnan(found.mean[1][0]) and found.mean[1][1] == 4.0


DEAD = replace(ROOTED, state=State.DEAD, roots=Roots.NONE, root_number=None, longest_root_mm=None, top=None)


def looked_twice(session: Session, lengths: bool) -> Trial:
    trial = create_stuck(session, create_person(session), factors=[("medium", "medium", ["grit", "pumice"])], cuttings_per_arm="6")  # fmt: skip
    lead = create_person(session)
    for n, check in enumerate((checks_of(session, trial)[0], checks_of(session, trial)[-1])):
        day = min(TODAY, DAY_ZERO + (TODAY - DAY_ZERO) * (n + 1) / 2)
        score.open_check(session, check, lead, NOW, score.Looking(day, KnownBy.LIFTED.value, "as it was"), TODAY)
        for unit in trial.units:
            seen = replace(
                ROOTED, longest_root_mm=10.0 * (n + 1) if lengths else None, foliage=5 - n if lengths else None
            )
            gone = unit is trial.units[0] and n == 0
            if n == 0 or unit is not trial.units[0]:
                score.keep_score(session, check, unit.cuttings[0], lead, NOW, DEAD if gone else seen)
        score.close_check(session, check, lead, NOW)
    session.commit()
    return trial


@pytest.mark.parametrize("lengths", [True, False])
def test_longest_and_foliage_stand_over_time_where_they_were_judged_twice(
    session: Session, sign_in: SignIn, lengths: bool
) -> None:
    trial = looked_twice(session, lengths)
    page = flat(sign_in().get(f"/trials/{trial.id}/compare/more").text)
    assert "Root number over time" in page
    for name in ("Longest root over time, mm", "Foliage over time, 0 to 5"):
        assert (f"{name} at each check: a thin line for each of 12 cuttings" in page) is lengths
    if lengths:
        drawn = sign_in().get(re.search(r'href="([^"]*foliage-over-time[^"]*svg[^"]*)"', page)[1])
        assert drawn.status_code == 200 and drawn.text.count("<path") >= 14, "twelve lines and two means"
