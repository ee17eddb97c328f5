"""A finished trial comes in from a spreadsheet in one path, or nothing of it does; how pieces came to their arms is said."""

from __future__ import annotations

import io
import re
from collections import Counter
from datetime import date
from html import unescape
from math import comb

import pytest
from bs4 import BeautifulSoup, Tag
from flask.testing import FlaskClient
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.plan.question import TrialKind
from orderly_bench.core.plan.value import CameToArms
from orderly_bench.core.question.old_trial import read_old
from orderly_bench.core.responses.kind import Response
from orderly_bench.core.vocabulary import Roots, State, Strength
from orderly_bench.evidence.ways import ways_of
from orderly_bench.trial.checks import checks_of
from orderly_bench.trial.models import ScoreRecord, Trial
from tests.factories import TODAY, create_drawn, create_person, evidence
from tests.web.conftest import SignIn, flat

TOLD = {
    "plant": "Buxus sempervirens", "factors": "medium", "stuck_on": "2025-03-01", "looked_on": "2025-05-10", "way": "lifted and counted",
    "endpoint": "rooted", "came": "drawn by lot", "told": "notebook of 2025, page 14",
}  # fmt: skip


#: Forty-two days after sticking.
DAY_42 = "2025-04-12"


def lines(header: str, *cells: tuple[str, int, int]) -> str:
    """So many rooted of so many, by the cells before."""
    return "\n".join([header, *(f"{start},{int(i < k)}" for start, k, n in cells for i in range(n))]) + "\n"


CLEAR = lines("medium,rooted", ("grit", 18, 20), ("bark", 4, 20))


def bring(client: FlaskClient, text: str, **more: str):
    data = TOLD | more | {"file": (io.BytesIO(text.encode()), "old.csv")}
    return client.post("/old-trial", data=data, content_type="multipart/form-data")


LOOKS = "Cutting,medium,Day,Rooted\n" + "".join(
    f"{i},{medium},{day},{'yes' if day >= since else 'no'}\n"
    for medium, k in (("grit", 6), ("bark", 2))
    for i in range(1, 9)
    for since in [28 if i <= k else 99]
    for day in (14, 28, 42)
)


def test_rows_that_are_looks_count_each_cutting_once_as_it_was_last_seen(session: Session, sign_in: SignIn) -> None:
    client = sign_in()
    refused = bring(client, LOOKS)
    assert refused.status_code == 422 and "cuttings stand twice" in refused.text
    assert "name the column of the day" in refused.text and session.scalars(select(Trial)).all() == []
    wrong_day = bring(client, LOOKS, day="day")
    assert wrong_day.status_code == 422 and "the last look of the file is on day 42" in flat(wrong_day.text)
    alive_once = LOOKS + "9,bark,14,no\n10,bark,28,dead\n"
    assert bring(client, alive_once, day="day", looked_on=DAY_42).status_code == 303
    trial = session.scalars(select(Trial)).one()
    found = evidence(session, trial)
    assert found.analysis is not None
    assert sorted((arm.name, arm.rooted, arm.stuck) for arm in found.analysis.arms) == [("bark", 2, 9), ("grit", 6, 8)]
    assert len([r for r in found.results if r.score is not None and r.score.state is State.DEAD]) == 1
    seen = [
        Counter(
            (s.state, s.roots) for s in session.scalars(select(ScoreRecord).where(ScoreRecord.check_id == check.id))
        )
        for check in checks_of(session, trial)
    ]
    assert [check.planned_das for check in checks_of(session, trial)] == [14, 28, 42]
    alive = State.ALIVE.value
    assert seen == [
        {(alive, Roots.NONE.value): 17, (alive, Roots.NOT_LOOKED.value): 1},
        {(alive, Roots.NONE.value): 8, (alive, Roots.SEEN.value): 8, (alive, Roots.NOT_LOOKED.value): 1, ("dead", Roots.NONE.value): 1},
        {(alive, Roots.NONE.value): 8, (alive, Roots.SEEN.value): 8, (alive, Roots.NOT_LOOKED.value): 1},
    ], "as it was seen at each; the dead one is carried, nobody looked at the other again"  # fmt: skip


@pytest.mark.parametrize("several", [True, False], ids=["three looks", "one look"])
def test_roots_over_time_stand_beside_an_end_of_one_day(session: Session, sign_in: SignIn, several: bool) -> None:
    client = sign_in()
    brought = bring(client, LOOKS, day="day", looked_on=DAY_42) if several else bring(client, CLEAR)
    assert brought.status_code == 303
    trial = session.scalars(select(Trial)).one()
    for page in ("compare", "report"):
        shown = flat(client.get(f"/trials/{trial.id}/{page}").text)
        assert ("Cumulative proportion rooted by day and arm" in shown) is several, page
        assert ("what is said above is of day 42 alone" in shown) is several, page


def test_where_nobody_drew_p_is_not_said_to_come_from_a_draw(session: Session, sign_in: SignIn) -> None:
    client = sign_in()
    answer = bring(client, CLEAR, came="not known")
    assert answer.status_code == 303
    page = flat(client.get(answer.headers["Location"]).text)
    assert "as if drawn by lot, redone" in page and "the draw made elsewhere" not in page


def test_days_to_root_are_asked_of_a_file_with_looks(session: Session, sign_in: SignIn) -> None:
    client = sign_in()
    lone = bring(client, CLEAR, endpoint="days_to_root")
    assert lone.status_code == 422 and "days to root need several looks" in lone.text
    sheet = "medium,W2,W4,W6\n" + "".join(
        f"{medium},0,{int(i < k)},{int(i < k + 1)}\n" for medium, k in (("grit", 7), ("bark", 1)) for i in range(10)
    )
    assert bring(client, sheet, endpoint="days_to_root", looked_on=DAY_42).status_code == 303
    trial = session.scalars(select(Trial)).one()
    found = evidence(session, trial)
    assert found.analysis is not None and found.analysis.settings.response is Response.DAYS
    assert [(arm.name, arm.rooted) for arm in found.analysis.arms] == [("bark", 2), ("grit", 8)]
    assert [check.planned_das for check in checks_of(session, trial)] == [14, 28, 42]
    assert "Rooting over time" in client.get(f"/trials/{trial.id}/compare/more").text
    for page in ("compare", "report"):
        said, _lines = picture(client, trial, page)
        assert said.startswith("Days to root: the share rooted by day and arm") and "interval" not in said, page


#: From somewhere to another place of the same height.
LEVEL = re.compile(r"M[\d.]+ ([\d.]+)L[\d.]+ \1")


def picture(client: FlaskClient, trial: Trial, page: str) -> tuple[str, list[Tag]]:
    """What is said below the first picture of a page, and its thick level lines."""
    caption = BeautifulSoup(client.get(f"/trials/{trial.id}/{page}").text, "html.parser").find("figcaption")
    assert caption is not None
    return flat(caption.text).strip(), caption.find_previous("svg").find_all("path", {"d": LEVEL, "stroke-width": "3"})


def test_a_picture_of_single_cuttings_has_the_intervals_it_speaks_of(session: Session, sign_in: SignIn) -> None:
    client = sign_in()
    numbers = "medium,roots\n" + "".join(f"{m},{n + i % 3}\n" for m, n in (("grit", 5), ("bark", 1)) for i in range(9))
    assert bring(client, numbers, endpoint="root_count").status_code == 303
    trial = session.scalars(select(Trial)).one()
    for page in ("compare", "report"):
        said, lines = picture(client, trial, page)
        assert said.startswith("Root number by arm") and "95 % t intervals over unit means" in said, page
        assert len(lines) == 2, "one for each arm"


@pytest.mark.parametrize(
    ("sheet", "says"),
    [
        ("medium,2025-02-20,2025-04-12\na,0,1\nb,0,0\n", "looks come after sticking"),
        ("medium," + ",".join(f"d{i}" for i in range(33, 43)) + "\n" + f"a,{'1,' * 9}1\n" * 500 + f"b,{'0,' * 9}0\n" * 500, "At most 4000 scores"),
    ],
)  # fmt: skip
def test_looks_that_cannot_come_in_are_refused(session: Session, sign_in: SignIn, sheet: str, says: str) -> None:
    answered = bring(sign_in(), sheet, looked_on=DAY_42)
    assert answered.status_code == 422 and says in flat(answered.text)
    assert session.scalars(select(Trial)).first() is None


def test_a_check_that_goes_on_for_days_keeps_each(session: Session, sign_in: SignIn) -> None:
    rows = [(1, "grit", 14, 0), (2, "bark", 15, 0), (1, "grit", 41, 1), (2, "bark", 42, 0)]
    text = "cutting,medium,day,rooted\n" + "".join(f"{i},{m},{day},{r}\n" for i, m, day, r in rows)
    assert bring(sign_in(), text, day="day", looked_on=DAY_42, came="best to one").status_code == 303
    trial = session.scalars(select(Trial)).one()
    days = [
        sorted((s.scored_on - date(2025, 3, 1)).days for s in session.scalars(select(ScoreRecord).where(ScoreRecord.check_id == c.id)))
        for c in checks_of(session, trial)
    ]  # fmt: skip
    assert days == [[14, 15], [41, 42]] and [c.planned_das for c in checks_of(session, trial)] == [14, 41]


def test_roots_that_vanish_between_looks_are_put_right_first(session: Session, sign_in: SignIn) -> None:
    gone = LOOKS.replace("1,grit,42,yes", "1,grit,42,no")
    refused = bring(sign_in(), gone, day="Day")
    assert refused.status_code == 422 and "1 had roots, then none" in refused.text
    assert session.scalars(select(Trial)).all() == []


COUNTS = "tray,medium,Day,Rooted,Stuck\n" + "".join(
    f"{medium}{n},{medium},{day},{rooted + n},20\n"
    for medium, counted in (("grit", (4, 16)), ("bark", (1, 3)))
    for day, rooted in zip((14, 42), counted, strict=True)
    for n in (1, 2)
)


def test_counts_of_trays_at_several_looks_count_once(session: Session, sign_in: SignIn) -> None:
    client = sign_in()
    refused = bring(client, COUNTS, unit="tray")
    assert refused.status_code == 422 and "differ in nothing but Day" in refused.text
    assert "day of each look" in refused.text and session.scalars(select(Trial)).all() == []
    fewer = bring(client, COUNTS.replace("grit1,grit,42,17", "grit1,grit,42,2"), unit="tray", day="day")
    assert fewer.status_code == 422 and "3 had roots, then none" in fewer.text
    assert bring(client, COUNTS, unit="tray", day="day", looked_on=DAY_42).status_code == 303
    found = evidence(session, session.scalars(select(Trial)).one())
    early = checks_of(session, session.scalars(select(Trial)).one())[0]
    scores = session.scalars(select(ScoreRecord.roots).where(ScoreRecord.check_id == early.id)).all()
    assert Counter(scores) == {Roots.SEEN.value: 16, Roots.NONE.value: 64}
    assert found.analysis is not None
    assert sorted((a.name, a.rooted, a.stuck) for a in found.analysis.arms) == [("bark", 9, 40), ("grit", 35, 40)]


@pytest.mark.parametrize(
    "tally",
    [
        "medium,stuck,rooted\ngrit,20,18\nbark,20,4\n", "Medium;Rooted;of\ngrit;18;20\nbark;4;20\n", "medium,rooted\ngrit,18/20\nbark,4 of 20\n",
        "medium,rooted,stuck,dead\ngrit,10,10,\ngrit,8,10,2\nbark,4,20,6\n",
    ],
)  # fmt: skip
def test_a_tally_is_a_row_a_cutting(session: Session, sign_in: SignIn, tally: str) -> None:
    assert bring(sign_in(), tally, tallied="alone").status_code == 303
    found = evidence(session, session.scalars(select(Trial)).one())
    assert found.analysis is not None and found.analysis.cluster.icc is None, "each stood alone"
    assert sorted((arm.name, arm.rooted, arm.stuck) for arm in found.analysis.arms) == [
        ("bark", 4, 20),
        ("grit", 18, 20),
    ]
    dead = [r for r in found.results if r.score is not None and r.score.state is State.DEAD]
    assert len(dead) == (8 if "dead" in tally else 0)


TRAYS = "medium,stuck,rooted\n" + "".join(
    f"{medium},{n},{k}\n" for medium, counts in (("grit", (9, 8, 10, 7)), ("bark", (3, 1, 2, 4))) for n, k in zip((10, 10, 10, 8), counts, strict=True)
)  # fmt: skip


def test_a_row_of_a_tally_is_one_unit_unless_its_pieces_stood_alone(session: Session, sign_in: SignIn) -> None:
    """Eight trays say less than seventy-six cuttings drawn one by one."""
    client = sign_in()
    assert bring(client, TRAYS).status_code == 303
    assert bring(client, TRAYS, tallied="alone").status_code == 303
    trays, alone = (evidence(session, trial).analysis for trial in session.scalars(select(Trial).order_by(Trial.id)))
    assert trays is not None and alone is not None
    assert (
        [(a.rooted, a.stuck) for a in trays.arms] == [(a.rooted, a.stuck) for a in alone.arms] == [(10, 38), (34, 38)]
    )
    assert len({row.unit for row in trays.observations.rows}) == 8
    assert trays.test.p == pytest.approx(2 / comb(8, 4)) and alone.test.p < 1e-4
    sides = "rep,grit,bark\n1,9/10,3/10\n2,8/10,1/10\n3,10/10,2/10\n4,7/8,4/8\n"
    assert bring(client, sides).status_code == 303
    across = evidence(session, session.scalars(select(Trial).order_by(Trial.id.desc())).first()).analysis
    assert across is not None and across.test.p == trays.test.p
    assert len({row.unit for row in across.observations.rows}) == 8


def test_an_arm_of_one_unit_comes_in_as_a_look(session: Session, sign_in: SignIn) -> None:
    assert bring(sign_in(), "medium,stuck,rooted\ngrit,20,18\nbark,20,4\n").status_code == 303
    assert session.scalars(select(Trial)).one().plan.question.kind is TrialKind.LOOK


@pytest.mark.parametrize(
    ("tally", "says"),
    [
        ("medium,stuck,rooted\ngrit,20,21\nbark,20,4\n", "21 rooted and 0 dead are more than 20 stuck"),
        ("medium,stuck,rooted,roots\ngrit,20,18,5\nbark,20,4,2\n", "column roots: one value for several cuttings"),
        ("medium,stuck,rooted\ngrit,2000,18\nbark,20,4\n", "1 to 1000 cuttings"),
        ("medium,stuck,rooted\ngrit,20,many\nbark,20,4\n", "the others say how many of how many, this row does not"),
    ],
)  # fmt: skip
def test_a_tally_that_cannot_be_is_refused(session: Session, sign_in: SignIn, tally: str, says: str) -> None:
    answered = bring(sign_in(), tally)
    assert answered.status_code == 422 and says in flat(answered.text)
    assert session.scalars(select(Trial)).first() is None


def test_a_finished_trial_is_judged_and_marked_retrospective(session: Session, sign_in: SignIn) -> None:
    client = sign_in()
    answer = bring(client, CLEAR)
    assert answer.status_code == 303
    trial = session.scalars(select(Trial)).one()
    found = evidence(session, trial)
    assert found.closed and found.analysis is not None
    assert sorted((arm.name, arm.rooted, arm.stuck) for arm in found.analysis.arms) == [
        ("bark", 4, 20),
        ("grit", 18, 20),
    ]
    assert found.analysis.test.p is not None and found.analysis.test.p < 0.001
    page = flat(client.get(answer.headers["Location"]).text)
    assert "18 of 20" in page and "4 of 20" in page and "etrospective" in page
    assert "nobody says whether who looked knew the arms" in page and "scored knowing" not in page
    assert "the draw made elsewhere, redone" in page and "the draw of" not in page, "its day is that of its coming"
    report = flat(client.get(f"/trials/{trial.id}/report").text)
    assert "made elsewhere: brought in from a file; notebook of 2025" in report and "seed 0" not in report
    assert "seed 0" not in client.get(f"/trials/{trial.id}/design").text
    assert trial.plan.question.endpoint_day == 70 and "notebook of 2025, page 14" in trial.plan_text
    for chapter in ("question", "design", "prepare", "stick", "tend", "score", "conclude", "report"):
        assert client.get(f"/trials/{trial.id}/{chapter}").status_code == 200, chapter


def test_a_notebook_s_own_words_are_read(session: Session, sign_in: SignIn) -> None:
    rows = ["Cutting;Medium;Status;Rooted;No. of roots;Longest (mm);Remarks"]
    rows += [
        f"{i};Grit;old wood;{'Yes' if i < 18 else 'dead'};{4 if i < 18 else ''};{'22,5' if i < 18 else ''};"
        for i in range(20)
    ]
    rows += [f"{i};Bark;old wood;{'y' if i < 24 else 'No'};;;soft" for i in range(20, 40)]
    answer = bring(sign_in(), "\n".join(rows))
    assert answer.status_code == 422 and "is no state" in answer.text, "a column of that name is asked about"
    told = "\n".join(rows).replace("Status", "Wood")
    assert bring(sign_in(), told).status_code == 303
    trial = session.scalars(select(Trial)).one()
    found = evidence(session, trial)
    assert found.analysis is not None and found.record is not None
    assert sorted((arm.name, arm.rooted, arm.stuck) for arm in found.analysis.arms) == [
        ("Bark", 4, 20),
        ("Grit", 18, 20),
    ]
    scores = [score for check in trial.checks for score in check.scores]
    assert sum(score.state == "dead" for score in scores) == 2 and {score.longest_root_mm for score in scores} == {
        None,
        22.5,
    }
    assert {score.note for score in scores} == {"", "soft"}


def test_pots_blocks_unequal_and_two_factors_come_in_as_they_were(session: Session, sign_in: SignIn) -> None:
    rows = ["pot,block,medium,hormone,root_count,longest_root_mm,state,note"]
    for block in ("north", "south"):
        for i, (medium, hormone) in enumerate([("grit", "none"), ("grit", "IBA"), ("bark", "none"), ("bark", "IBA")]):
            for n in range(3 if i else 2):
                rows.append(
                    f"{block}{i},{block},{medium},{hormone},{n + i},{5 if n + i else ''},{'dead' if (i, n) == (2, 5) else ''},"
                )
    rows.append("south3,south,bark,IBA,,,missing,torn label")
    answer = bring(
        sign_in(), "\n".join(rows), factors="medium, hormone", unit="pot", block="block", endpoint="root_count"
    )
    assert answer.status_code == 303, flat(answer.get_data(as_text=True))[:900]
    trial = session.scalars(select(Trial)).one()
    found = evidence(session, trial)
    assert len(trial.units) == 8 and {unit.group("block") for unit in trial.units} == {"north", "south"}
    assert sum(c.status == "stuck" for unit in trial.units for c in unit.cuttings) == len(rows) - 1
    assert found.analysis is not None and found.analysis.observations.factors == ("medium", "hormone")
    notes = [r.kept.score.note for r in found.results if r.kept and r.kept.score.note]
    assert notes == ["torn label"]


@pytest.mark.parametrize("came", ["as they came", "by side", "left over", "not known"])
def test_what_no_lot_gave_to_its_arm_is_suggested_at_most(session: Session, sign_in: SignIn, came: str) -> None:
    answer = bring(sign_in(), CLEAR, came=came)
    trial = session.scalars(select(Trial)).one()
    found = evidence(session, trial)
    assert found.reading is not None and found.reading.strength is Strength.SUGGESTED
    page = flat(sign_in().get(answer.headers["Location"]).text)
    assert f"came to their arms {came}, not by lot: the p is a permutation" in page


def test_the_best_to_one_arm_has_no_verdict(session: Session, sign_in: SignIn) -> None:
    answer = bring(sign_in(), CLEAR, came="best to one")
    trial = session.scalars(select(Trial)).one()
    assert trial.plan.question.kind is TrialKind.LOOK
    page = flat(sign_in().get(answer.headers["Location"]).text)
    assert "The best pieces went to one arm" in page and "clear and large" not in page


def test_nothing_is_taken_for_drawn_that_nobody_said_was(sign_in: SignIn) -> None:
    page = BeautifulSoup(sign_in().get("/old-trial").text, "html.parser")
    assert page.select_one("[name=came] [selected]").text == "not known"


FOUND = lines("medium,rooted", ("grit", 18, 18), ("bark", 4, 4))


@pytest.mark.parametrize(("stuck", "said"), [("not known", "grit 18, bark 4."), ("about 20 to 30", "grit 18 (60 to 90 % of 20 to 30), bark 4 (13 to 20 % of 20 to 30).")])  # fmt: skip
def test_what_nobody_counted_makes_no_rate_no_p_and_no_card(
    session: Session, sign_in: SignIn, stuck: str, said: str
) -> None:
    client = sign_in()
    assert bring(client, FOUND, stuck=stuck).status_code == 303
    trial = session.scalars(select(Trial)).one()
    found = evidence(session, trial)
    assert found.analysis is None and found.reading is None and ways_of(found) == []
    for page in ("compare", "conclude", "report"):
        text = flat(client.get(f"/trials/{trial.id}/{page}").text)
        assert said in text and "no rate is made and nothing is compared" in text, page
        assert ("18 of 18" not in text and "100 %" not in text and "in the file" in text) or page != "compare", page
    assert client.get(f"/trials/{trial.id}/cost").status_code in (409, 422)
    assert client.get(f"/trials/{trial.id}/scores.csv").status_code == 200


def test_more_with_roots_than_were_stuck_is_noticed_before_it_is_kept(session: Session, sign_in: SignIn) -> None:
    answer = bring(sign_in(), FOUND, stuck="5 to 10")
    assert answer.status_code == 422 and "more than were stuck" in flat(answer.text)
    assert session.scalar(select(func.count(Trial.id))) == 0


def test_one_way_is_a_rate(session: Session, sign_in: SignIn) -> None:
    answer = bring(sign_in(), lines("medium,rooted", ("grit", 18, 20)))
    trial = session.scalars(select(Trial)).one()
    assert answer.status_code == 303 and trial.plan.question.kind is TrialKind.RATE
    assert evidence(session, trial).rate is not None


@pytest.mark.parametrize(
    ("text", "more", "says"),
    [
        ("medium,rooted\ngrit,1\nbark,maybe\n", {}, "row 3"), ("medium,rooted\ngrit,1\n,0\n", {}, "the cell is blank"),
        ("medium,colour\ngrit,1\n", {}, "no column 'rooted'"), (CLEAR, {"factors": "soil"}, "no column 'soil'"),
        (CLEAR, {"looked_on": "2025-02-01"}, "must lie 1 to 730 days"), (CLEAR, {"looked_on": str(TODAY.replace(year=TODAY.year + 1))}, "lies in the future"),
        ("medium,rooted,root_count\ngrit,0,4\nbark,0,0\n", {}, "roots are counted and rooted says no"),
        ("medium,rooted,state\ngrit,1,frozen\nbark,0,\n", {}, "is no state"), (CLEAR, {"told": ""}, "must be given"),
        ("pot,medium,rooted\na,grit,1\na,bark,0\n", {"unit": "pot"}, "holds two arms or blocks"),
        ("medium,rooted\n" + "\n".join(f"m{i},1" for i in range(13)), {}, "13 arms"),
    ],
)  # fmt: skip
def test_what_can_not_be_is_said_with_its_place_and_nothing_is_there(
    session: Session, sign_in: SignIn, text: str, more: dict[str, str], says: str
) -> None:
    answer = bring(sign_in(), text, **more)
    assert answer.status_code == 422 and says in unescape(flat(answer.text)), flat(answer.text)[:800]
    assert session.scalar(select(func.count(Trial.id))) == 0
    assert 'value="Buxus sempervirens"' in answer.text, "what was typed stays"


def test_a_design_from_a_file_says_it_too_and_a_draw_takes_it_back(session: Session, sign_in: SignIn) -> None:
    trial = create_drawn(
        session, create_person(session), factors=[("medium", "medium", ["grit", "pumice"])], cuttings_per_arm="8"
    )
    session.commit()
    client, where = sign_in(), f"/trials/{trial.id}/design"
    text = client.get(f"/trials/{trial.id}/design.csv").text
    form = {"reason": "as the trays came", "came_to_arms": "by side"}
    sent = {"file": (io.BytesIO(text.encode()), "design.csv")}
    assert client.post(f"{where}/import", data=form | sent, content_type="multipart/form-data").status_code == 303
    session.expire_all()
    assert trial.plan.design.came_to_arms is CameToArms.BY_SIDE
    sent = {"file": (io.BytesIO(text.encode()), "design.csv")}
    best = client.post(
        f"{where}/import", data=form | sent | {"came_to_arms": "best to one"}, content_type="multipart/form-data"
    )
    assert best.status_code == 422 and "has no verdict, whatever comes of it" in flat(best.text)
    assert client.post(f"/trials/{trial.id}/draw", data={"reason": "drawn after all"}).status_code == 303
    session.expire_all()
    assert trial.plan.design.came_to_arms is CameToArms.DRAWN


def test_what_is_said_of_it_is_read() -> None:
    told = read_old(TOLD | {"factors": " medium , hormone,"}, TODAY)
    assert told.columns == ["medium", "hormone"] and told.days == 70 and told.came is CameToArms.DRAWN
    with pytest.raises(InvalidInput, match="choose one of"):
        read_old(TOLD | {"came": "somehow"}, TODAY)
