"""Changes that meet, through the real routes on connections of their own; each is seen to go wrong without its turn."""

from __future__ import annotations

import threading
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor

import pytest
from flask import Flask
from flask.testing import FlaskClient
from sqlalchemy import Engine, func, select
from sqlalchemy.orm import Session

from orderly_bench.chapters.design import operations as design
from orderly_bench.chapters.people import operations as accounts
from orderly_bench.chapters.question import operations as question
from orderly_bench.chapters.score import operations as score
from orderly_bench.chapters.score import routes
from orderly_bench.chapters.shelf import operations as shelf
from orderly_bench.core.stock.kept import BenchKept
from orderly_bench.database.engine import make_engine
from orderly_bench.database.migrate import migrate
from orderly_bench.stock.models import StockBench
from orderly_bench.trial import turns
from orderly_bench.trial.checks import checks_of
from orderly_bench.trial.models import AuditEntry, CheckVisit, Lab, Person, PlanVersion, ScoreRecord, Trial, Unit
from tests.conftest import database_url, emptied
from tests.factories import NOW, ROOTED, TODAY, create_drawn, create_person, create_stuck, open_endpoint
from tests.meeting import Meeting, until, waiting
from tests.web.conftest import client_of, make_app

PASSWORD = "long enough to keep"


@pytest.fixture(scope="module")
def engine() -> Iterator[Engine]:
    made = emptied(make_engine(database_url("orderly_races")))
    migrate(made)
    with Session(made) as session:
        session.add(Lab(name="Races", time_zone="UTC"))
        session.commit()
    yield made
    made.dispose()


@pytest.fixture
def app(engine: Engine) -> Flask:
    return make_app(engine)


def clients(app: Flask, engine: Engine, role: str, number: int) -> list[FlaskClient]:
    with Session(engine, expire_on_commit=False) as session:
        people = [create_person(session, role) for _ in range(number)]
        session.commit()
        return [client_of(app, person) for person in people]


def together(*acts: Callable[[], int], meeting: Meeting | None = None) -> list[int]:
    """All at once; what each answered."""
    gate = threading.Barrier(len(acts))
    acts = tuple(meeting.among(act) for act in acts) if meeting else acts

    def run(act: Callable[[], int]) -> int:
        gate.wait(20)
        return act()

    with ThreadPoolExecutor(len(acts)) as pool:
        return list(pool.map(run, acts))


def without_turns(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(turns, "take", lambda *_args, **_named: None)


def collisions(monkeypatch: pytest.MonkeyPatch) -> list[Exception]:
    """What the database refused because two changes met, as it comes."""
    met: list[Exception] = []
    real = turns.worth_another_try
    monkeypatch.setattr(turns, "worth_another_try", lambda error: (met.append(error), real(error))[1])
    return met


@pytest.fixture
def meeting(engine: Engine) -> Meeting:
    return Meeting(engine)


def meet(monkeypatch: pytest.MonkeyPatch, meeting: Meeting, module: object, name: str = "record") -> None:
    """Who comes to the module's function waits there for another."""
    monkeypatch.setattr(module, name, meeting.at(getattr(module, name)))


@pytest.mark.parametrize("locked", [True, False])
def test_twelve_new_trials_at_once_have_twelve_codes(
    app: Flask, engine: Engine, monkeypatch: pytest.MonkeyPatch, meeting: Meeting, locked: bool
) -> None:
    """Without its turn some find their code taken."""
    people = clients(app, engine, "researcher", 12)
    if not locked:
        monkeypatch.setattr(question, "take_lab", lambda *_args: None)
        meet(monkeypatch, meeting, question)
    answers = together(
        *(lambda c=c: c.post("/trials", data={"botanical_name": "Olea europaea"}).status_code for c in people),
        meeting=meeting,
    )
    assert (answers == [303] * 12) is locked
    if not locked:
        return
    with Session(engine) as session:
        codes = session.scalars(select(Trial.code)).all()
        assert len(set(codes)) == len(codes) >= 12


@pytest.mark.parametrize("locked", [True, False])
def test_one_person_added_eight_times_is_there_once_and_nobody_sees_a_fault(
    app: Flask, engine: Engine, monkeypatch: pytest.MonkeyPatch, meeting: Meeting, locked: bool
) -> None:
    """Without the lab's turn the unique name alone holds it, by collisions that are tried again."""
    name = "bo" if locked else "bea"
    with Session(engine, expire_on_commit=False) as session:
        leads = [
            accounts.add_person(session, None, NOW, f"Lead {i}", f"lead-{name}-{i}", "lead", PASSWORD) for i in range(8)
        ]
        session.commit()
        signed = [client_of(app, lead) for lead in leads]
    met = collisions(monkeypatch)
    if not locked:
        monkeypatch.setattr(accounts, "take_lab", lambda *_args: None)
        meet(monkeypatch, meeting, accounts)
    form = {"name": "Bo", "sign_in_name": name, "role": "scorer", "password": PASSWORD, "own_password": PASSWORD}
    answers = together(*(lambda c=c: c.post("/people", data=form).status_code for c in signed), meeting=meeting)
    assert sorted(answers) == [303] + [422] * 7
    assert (not met) is locked
    with Session(engine) as session:
        assert session.scalar(select(func.count(Person.id)).where(Person.sign_in_name == name)) == 1


def opened(engine: Engine) -> tuple[int, int]:
    with Session(engine) as session:
        trial = create_stuck(session, create_person(session))
        check = open_endpoint(session, trial, create_person(session))
        session.commit()
        return trial.id, check.id


def unaccounted(engine: Engine, check_id: int) -> int:
    with Session(engine) as session:
        check = session.get_one(CheckVisit, check_id)
        scored = select(func.count(ScoreRecord.id)).where(ScoreRecord.check_id == check_id, ScoreRecord.current == 1)
        return len(score.in_scope(session, check)) - (session.scalar(scored) or 0) if check.closed_at else 0


@pytest.mark.parametrize("locked", [True, False])
def test_a_check_never_closes_over_a_score_taken_back(
    app: Flask, engine: Engine, monkeypatch: pytest.MonkeyPatch, meeting: Meeting, locked: bool
) -> None:
    """With turns one of the two waits; without any lock, the check closes with a cutting missing."""
    _, check_id = opened(engine)
    with Session(engine, expire_on_commit=False) as session:
        check, scorer = session.get_one(CheckVisit, check_id), create_person(session, "scorer")
        for cutting in score.in_scope(session, check):
            score.keep_score(session, check, cutting, scorer, NOW, ROOTED)
        session.commit()
        taker = client_of(app, scorer)
    (closer,) = clients(app, engine, "researcher", 1)
    if not locked:
        without_turns(monkeypatch)
        monkeypatch.setattr(score, "lock", lambda s, number, read=False: s.get_one(CheckVisit, number))
        meet(monkeypatch, meeting, score)
    together(
        lambda: taker.post(f"/checks/{check_id}/take-back").status_code,
        lambda: closer.post(f"/checks/{check_id}/close").status_code,
        meeting=meeting,
    )
    assert (unaccounted(engine, check_id) == 0) is locked


@pytest.mark.parametrize("locked", [True, False])
def test_a_draw_never_stands_beside_another_design(
    app: Flask, engine: Engine, monkeypatch: pytest.MonkeyPatch, locked: bool
) -> None:
    """A draw that takes its time while the design is saved: with turns the save puts the draw away, without them it fails or leaves the draw of another design."""
    with Session(engine) as session:
        trial = create_drawn(session, create_person(session))
        session.commit()
        trial_id, version = trial.id, trial.version
        form = form_of(trial)
    drawer, saver = clients(app, engine, "researcher", 2)
    if not locked:
        without_turns(monkeypatch)
    drawing, saved_it = threading.Event(), threading.Event()
    real = design.draw_plan

    def slow(plan, rng):
        if threading.current_thread().name == "drawing":
            drawing.set()
            until(lambda: saved_it.is_set() or waiting(engine))
        return real(plan, rng)

    monkeypatch.setattr(design, "draw_plan", slow)

    def draw() -> None:
        threading.current_thread().name = "drawing"
        drawer.post(f"/trials/{trial_id}/draw", data={"reason": "another"})

    thread = threading.Thread(target=draw)
    thread.start()
    assert drawing.wait(10)
    saved = saver.post(f"/trials/{trial_id}/design", data={**form, "version": version, "cuttings_per_arm": "8"})
    saved_it.set()
    thread.join(20)
    with Session(engine) as session:
        trial = session.get_one(Trial, trial_id)
        units = session.scalar(select(func.count(Unit.id)).where(Unit.trial_id == trial_id)) or 0
        fits = units in (0, sum(trial.plan.units_of(arm) for arm in trial.plan.treatments.arms))
    assert (fits and saved.status_code == 303) is locked


def form_of(trial: Trial) -> dict[str, object]:
    """The design's form as it stands."""
    from orderly_bench.chapters.design.operations import as_typed

    return {**as_typed(trial.plan)}


@pytest.mark.parametrize("locked", [True, False])
def test_a_plan_is_locked_once_however_many_lock_it(
    app: Flask, engine: Engine, monkeypatch: pytest.MonkeyPatch, meeting: Meeting, locked: bool
) -> None:
    """Who comes second is told that it is locked; without turns they collide, and the row's version holds it."""
    met = collisions(monkeypatch)
    if not locked:
        without_turns(monkeypatch)
        meet(monkeypatch, meeting, design)
    with Session(engine) as session:
        trial_id = create_drawn(session, create_person(session)).id
        session.commit()
    researchers = clients(app, engine, "researcher", 4)
    answers = together(
        *(lambda c=c: c.post(f"/trials/{trial_id}/lock").status_code for c in researchers), meeting=meeting
    )
    assert (not met) is locked
    assert answers.count(303) == 1 and set(answers) <= {303, 409, 422}
    with Session(engine) as session:
        assert session.scalar(select(func.count(PlanVersion.id)).where(PlanVersion.trial_id == trial_id)) == 1


@pytest.mark.parametrize("locked", [True, False])
def test_a_check_is_opened_once(
    app: Flask, engine: Engine, monkeypatch: pytest.MonkeyPatch, meeting: Meeting, locked: bool
) -> None:
    """Without its turn it is told as opened several times."""
    if not locked:
        without_turns(monkeypatch)
        monkeypatch.setattr(score, "lock", lambda s, number, read=False: s.get_one(CheckVisit, number))
        meet(monkeypatch, meeting, score)
    with Session(engine) as session:
        trial = create_stuck(session, create_person(session))
        trial_id, check_id = trial.id, checks_of(session, trial)[-1].id
        session.commit()
    people = clients(app, engine, "researcher", 4)
    form = {"day": TODAY.isoformat(), "way": "lifted and counted"}
    answers = together(
        *(lambda c=c: c.post(f"/checks/{check_id}/open", data=form).status_code for c in people), meeting=meeting
    )
    assert set(answers) <= {303, 409, 422} and 303 in answers
    with Session(engine) as session:
        told = select(func.count(AuditEntry.id)).where(
            AuditEntry.action == "opened a check", AuditEntry.trial_id == trial_id
        )
        assert (session.scalar(told) == 1) is locked


def test_a_collision_is_tried_again_and_not_shown(app: Flask, engine: Engine, monkeypatch: pytest.MonkeyPatch) -> None:
    """Three deadlocks in a row are lived through, a fourth is told as a busy database."""
    from sqlalchemy.exc import OperationalError

    (client,) = clients(app, engine, "researcher", 1)
    with Session(engine) as session:
        trial_id = create_drawn(session, create_person(session)).id
        session.commit()
    left, real = [3], turns.take

    def collide(session: Session, **named: int) -> None:
        if left[0]:
            left[0] -= 1
            raise OperationalError("UPDATE trial", {}, Exception(1213, "Deadlock found"))
        real(session, **named)

    monkeypatch.setattr(turns, "take", collide)
    assert client.post(f"/trials/{trial_id}/draw", data={"reason": "again"}).status_code == 303 and left == [0]
    left[0] = 9
    busy = client.post(f"/trials/{trial_id}/draw", data={"reason": "again"})
    assert busy.status_code == 503 and "does not answer" in busy.text


class TestRequestKeys:
    def form(self, cutting: int, **more: object) -> dict[str, object]:
        return {
            "cutting": cutting,
            "revision": 0,
            "state": "alive",
            "roots": "counted",
            "root_number": "5",
            "request_key": "k" * 15,
            **more,
        }

    def test_the_same_sent_again_is_one_score_and_another_under_its_key_is_told(
        self, app: Flask, engine: Engine
    ) -> None:
        trial_id, check_id = opened(engine)
        with Session(engine) as session:
            first, second = (c.id for c in score.in_scope(session, session.get_one(CheckVisit, check_id))[:2])
        one, other = clients(app, engine, "scorer", 2)
        path = f"/checks/{check_id}/scores"
        assert [one.post(path, data=self.form(first)).status_code for _ in range(3)] == [303] * 3
        for client, form in (
            (one, self.form(first, root_number="7")),
            (one, self.form(second)),
            (other, self.form(first)),
        ):
            answer = client.post(path, data=form)
            assert answer.status_code == 409 and "Nothing of yours was written" in answer.text
        with Session(engine) as session:
            kept = session.scalars(select(ScoreRecord).where(ScoreRecord.check_id == check_id)).all()
            assert [(s.cutting_id, s.root_number) for s in kept] == [(first, 5)]

    def test_who_reads_what_comes_next_keeps_nobody_waiting(
        self, app: Flask, engine: Engine, monkeypatch: pytest.MonkeyPatch
    ) -> None:
        """The turn of the trial is given back once the score is kept, before the answer is made."""
        _, check_id = opened(engine)
        with Session(engine) as session:
            first, second = (c.id for c in score.in_scope(session, session.get_one(CheckVisit, check_id))[:2])
        slow, quick = clients(app, engine, "scorer", 2)
        reading, go_on, real = threading.Event(), threading.Event(), routes.progress_around

        def held(*asked: object) -> object:
            reading.set()
            assert go_on.wait(20)
            return real(*asked)

        monkeypatch.setattr(routes, "progress_around", held)
        path, by_script = f"/checks/{check_id}/scores", {"HX-Request": "true"}
        with ThreadPoolExecutor(1) as pool:
            waiting = pool.submit(
                lambda: slow.post(path, data=self.form(first, request_key="i" * 15), headers=by_script).status_code
            )
            assert reading.wait(20)
            answered = quick.post(path, data=self.form(second, request_key="j" * 15)).status_code
            go_on.set()
            assert (answered, waiting.result(20)) == (303, 200)


@pytest.mark.parametrize("locked", [True, False])
def test_two_trials_stood_on_a_bench_at_once_never_share_a_place(
    app: Flask, engine: Engine, monkeypatch: pytest.MonkeyPatch, meeting: Meeting, locked: bool
) -> None:
    with Session(engine) as session:
        lead = create_person(session, "lead")
        bench = shelf.keep(session, lead, NOW, BenchKept(f"Bench of {'turns' if locked else 'none'}", 300.0, 100.0))
        trials = [create_drawn(session, lead).id for _ in range(3)]
        bench_id = bench.id
        session.commit()
    if not locked:
        without_turns(monkeypatch)
        monkeypatch.setattr(turns, "take_lab", lambda *_: None)
        meet(monkeypatch, meeting, shelf, "find_room")
    people = clients(app, engine, "researcher", 3)
    path = f"/benches/{bench_id}/trays"
    answers = together(
        *(lambda c=c, t=t: c.post(path, data={"trial": t}).status_code for c, t in zip(people, trials, strict=True)),
        meeting=meeting,
    )
    assert answers == [303] * 3
    with Session(engine) as session:
        there = [one.at for one in shelf.standing_on(session, session.get_one(StockBench, bench_id))]
    assert any(a.overlaps(b) for i, a in enumerate(there) for b in there[:i]) is not locked
