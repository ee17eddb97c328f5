"""A destructive look: some units of each arm drawn, lifted for good, and out of every later count."""

from __future__ import annotations

from collections import Counter

from sqlalchemy import select
from sqlalchemy.orm import Session

from orderly_bench.chapters.score import operations as score
from orderly_bench.chapters.score.sampling import Sample
from orderly_bench.core.layouts.kinds import LayoutKind
from orderly_bench.core.vocabulary import KnownBy
from orderly_bench.trial.checks import checks_of
from orderly_bench.trial.models import AuditEntry, CheckVisit, Trial, Unit
from orderly_bench.trial.progress import progress_around, progress_of
from tests.factories import BARE, NOW, ROOTED, TODAY, create_person, create_stuck, evidence
from tests.web.conftest import SignIn

ASKED = {"day": str(TODAY), "way": "lifted and counted", "of_each": "2", "scrambled": "yes"}


def stuck(session: Session, **changes: object) -> tuple[Trial, CheckVisit, CheckVisit]:
    """A trial with its first check and its endpoint check, eight units an arm."""
    trial = create_stuck(session, create_person(session), cuttings_per_arm=8, columns=8, rows=4, **changes)
    session.commit()
    checks = checks_of(session, trial)
    return trial, checks[0], checks[-1]


def taken(trial: Trial, check: CheckVisit) -> list[Unit]:
    return [unit for unit in trial.units if unit.sampled_id == check.id]


def sampled(session: Session, sign_in: SignIn) -> tuple[Trial, CheckVisit, CheckVisit]:
    """The same after its first check took two of each arm, all of them rooted, and was closed."""
    trial, first, last = stuck(session)
    assert sign_in().post(f"/checks/{first.id}/open", data=ASKED).status_code == 303
    session.expire_all()
    scorer = create_person(session, "scorer")
    for unit in taken(trial, first):
        score.keep_score(session, first, unit.cuttings[0], scorer, NOW, ROOTED)
    score.close_check(session, first, create_person(session), NOW)
    session.commit()
    return trial, first, last


def test_as_many_of_each_arm_are_drawn_and_the_draw_is_kept(session: Session, sign_in: SignIn) -> None:
    trial, first, _ = stuck(session)
    page = sign_in().get(f"/trials/{trial.id}/score").text
    assert page.count('name="of_each"') == len(checks_of(session, trial)) - 1, "the endpoint looks at all that are left"
    assert sign_in().post(f"/checks/{first.id}/open", data=ASKED).status_code == 303
    session.expire_all()
    arms = Counter(unit.arm.letter for unit in taken(trial, first))
    assert set(arms.values()) == {2} and len(arms) == len({unit.arm_id for unit in trial.units})
    act = session.scalars(select(AuditEntry).where(AuditEntry.action == "opened a check")).one()
    assert act.new["units of each arm lifted for good"] == 2 and isinstance(act.new["drawn from"], int)
    assert sorted(first.lift_order) == sorted(unit.id for unit in taken(trial, first))
    shown = sign_in("scorer").get(f"/trials/{trial.id}/score?check={first.id}").text
    assert "are lifted for good and are in no later count; 6 of each arm stay" in " ".join(shown.split())


def test_the_check_looks_at_its_sample_alone(session: Session, sign_in: SignIn) -> None:
    trial, first, _ = stuck(session)
    sign_in().post(f"/checks/{first.id}/open", data=ASKED)
    session.expire_all()
    own = {unit.id for unit in taken(trial, first)}
    found = progress_of(session, first)
    assert {spot.unit for spot in found.spots} == own and found.tally.unaccounted == len(own)
    assert found.order == progress_around(session, first, found.order[0]).order
    other = next(unit for unit in trial.units if unit.id not in own)
    sent = {
        "cutting": str(other.cuttings[0].id),
        "state": "alive",
        "roots": "none",
        "revision": "0",
        "fit": "not judged",
    }
    refused = sign_in("scorer").post(f"/checks/{first.id}/scores", data=sent)
    assert refused.status_code == 422 and "not in the sample drawn for this check" in refused.text


def test_later_checks_know_them_as_sampled(session: Session, sign_in: SignIn) -> None:
    trial, first, last = sampled(session, sign_in)
    researcher, scorer = create_person(session), create_person(session, "scorer")
    score.open_check(session, last, researcher, NOW, score.Looking(TODAY, KnownBy.LIFTED.value, "late"), TODAY)
    gone = {unit.cuttings[0].id for unit in taken(trial, first)}
    found = progress_of(session, last)
    assert (
        {cutting for cutting, _ in found.carried}
        == gone
        == {cutting for cutting, _ in progress_around(session, last, found.order[0]).carried}
    )
    assert {spot.carried.state for spot in found.spots if spot.carried} == {"sampled"}
    for unit in trial.units:
        if unit.sampled_id is None:
            score.keep_score(session, last, unit.cuttings[0], scorer, NOW, ROOTED if unit.arm.letter == "A" else BARE)
    session.commit()
    lifted = str(taken(trial, first)[0].cuttings[0].id)
    again = {"cutting": lifted, "state": "alive", "roots": "none", "revision": "0", "fit": "not judged"}
    refused = sign_in("scorer").post(f"/checks/{last.id}/scores", data=again)
    assert refused.status_code == 422 and "was lifted for good at an earlier check" in refused.text
    score.close_check(session, last, researcher, NOW)
    session.commit()
    found_then = evidence(session, trial)
    assert {r.outcome.state for r in found_then.results if r.cutting.id in gone} == {"sampled"}
    counts = found_then.analysis.arms
    assert {(arm.stuck, arm.left_out) for arm in counts} == {(6, 0)}, (
        "two of eight were sampled by design, and are no missing ones"
    )
    assert len(progress_of(session, first).carried) == 0, "the earlier check stays as it was"
    for page in ("compare", "conclude", "report", "score"):
        answered = sign_in().get(f"/trials/{trial.id}/{page}")
        assert answered.status_code == 200, page
    assert "were drawn and lifted for good at the check of day" in " ".join(
        sign_in().get(f"/trials/{trial.id}/report").text.split()
    )
    rows = sign_in().get(f"/trials/{trial.id}/scores.csv").text.splitlines()
    assert sum(",sampled," in row for row in rows) == len(gone)


def test_what_stays_in_blocks_is_alike(session: Session, sign_in: SignIn) -> None:
    trial, first, _ = stuck(session, layout=LayoutKind.COMPLETE_BLOCKS)
    score.open_check(
        session,
        first,
        create_person(session),
        NOW,
        score.Looking(TODAY, KnownBy.LIFTED.value, sample=Sample(2, 5)),
        TODAY,
    )
    of_block = Counter(unit.group("block") for unit in trial.units)
    blocks = Counter(unit.group("block") for unit in taken(trial, first))
    assert len(set(blocks.values())) == 1 and len(of_block) > 1
    assert len(blocks) == len(of_block) or all(blocks[name] == of_block[name] for name in blocks)


def test_an_arm_keeps_one_and_the_endpoint_all(session: Session, sign_in: SignIn) -> None:
    trial, first, last = stuck(session)
    refused = sign_in().post(f"/checks/{first.id}/open", data=ASKED | {"of_each": "8"})
    assert refused.status_code == 422 and "one at least has to stay of each" in refused.text
    refused = sign_in().post(f"/checks/{last.id}/open", data=ASKED | {"why_then": "now"})
    assert refused.status_code == 422 and "looks at all that are left" in refused.text
    session.expire_all()
    assert not first.is_open and not last.is_open and not any(unit.sampled_id for unit in trial.units)
