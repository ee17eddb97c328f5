"""The demo lab: what the guide promises, the same every time but for its dates."""

from __future__ import annotations

from datetime import UTC, datetime

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from orderly_bench.chapters.conclude.operations import conclusions_of
from orderly_bench.chapters.tend.operations import incidents_of
from orderly_bench.core.tend.schedule import DueState
from orderly_bench.demo.tarn_head import load_demo
from orderly_bench.evidence.other_responses import explored
from orderly_bench.evidence.readings import explore
from orderly_bench.trial.models import Lab, Person, Trial
from orderly_bench.trial.walk import TrialState, facts
from orderly_bench.web.due import due_lines
from tests.factories import evidence

NOW = datetime(2027, 2, 10, 12, tzinfo=UTC)


def test_the_demo_lab_is_whole(session: Session) -> None:
    session.execute(delete(Lab))
    load_demo(session, NOW)
    today = NOW.date()
    assert sorted(p.role for p in session.scalars(select(Person))) == ["lead", "reader", "researcher", "scorer"]
    lavender, olive, daphne, buckthorn = session.scalars(select(Trial).order_by(Trial.id))
    assert [facts(session, t, today).state for t in (lavender, olive, daphne, buckthorn)] == [
        TrialState.CONCLUDED,
        TrialState.GROWING,
        TrialState.DESIGNING,
        TrialState.ENDPOINT_CLOSED,
    ]
    plots = evidence(session, buckthorn)
    assert plots.analysis is not None and plots.analysis.design == "split-plot, several cuttings per unit"
    assert plots.departures == ["1 unit was given another treatment"] and [row.done_known for row in plots.as_done] == [
        32,
        32,
        36,
        28,
    ]

    found = evidence(session, lavender)
    counts = found.reconciliation
    assert {letter: (c["rooted"], c["left out"]) for letter, c in counts.items()} == {
        "A": (22, 0),
        "B": (17, 1),
        "C": (14, 0),
        "D": (5, 1),
    }
    assert all(sum(c.values()) == 24 for c in counts.values())
    lush = {t.arm: (t.lush_without_roots, t.lush) for t in found.tops}
    assert lush["bark fines + none"] == (12, 17)
    assert found.reading is not None and found.reading.strength == "shown" and found.departures == []
    days = next(r for r in explored(found.record.arm_names, explore(found)) if r.name == "Days to root")
    assert [("half by day" in words, "half not reached" in words) for _, words in days.estimates] == [
        (True, False), (True, False), (True, False), (False, True),
    ]  # fmt: skip
    assert found.prediction is not None and found.prediction.place_of_first == 3
    assert len(incidents_of(session, lavender)) == 1 and len(conclusions_of(session, lavender)) == 1

    due = {line.what for line in due_lines(session, olive, today) if line.state is DueState.DUE}
    assert due == {"Check, day 21", "Mist and look over, day 21"}
    assert daphne.draws == [] and len(daphne.arms) == 2
