"""The power curve in the background: passes, the newest design only, kept with its digest."""

from __future__ import annotations

import threading
from collections.abc import Iterator

import pytest
from bs4 import BeautifulSoup
from flask import Flask
from sqlalchemy import select
from sqlalchemy.orm import Session

from orderly_bench.chapters.design import curves as module
from orderly_bench.chapters.design.curves import Curve, Curves
from orderly_bench.chapters.design.seen import LAST, Pass
from orderly_bench.chapters.design.views import freezes
from orderly_bench.core.rehearse.curve import Overtaken
from orderly_bench.core.responses.kind import Response
from orderly_bench.trial.models import CurveKept, Trial
from tests.core.test_plan import two_by_two
from tests.factories import create_drawn, create_person, create_trial
from tests.web.conftest import SignIn
from tests.web.test_pieces import form_of

PLAN = two_by_two()


class Held:
    """Work that waits to be let go, between two sizes, and says which it was."""

    def __init__(self) -> None:
        self.begun: list[tuple[str, int]] = []
        self.told = threading.Condition()
        self.let_go = threading.Semaphore(0)

    def worked(self, plan: str, step: int, go_on) -> Pass:
        with self.told:
            self.begun.append((plan, step))
            self.told.notify_all()
        go_on(0, 2)
        assert self.let_go.acquire(timeout=20)
        if not go_on(1, 2):
            raise Overtaken
        return Pass(step)

    def wait_for(self, *begun: tuple[str, int]) -> None:
        with self.told:
            assert self.told.wait_for(lambda: set(begun) <= set(self.begun), 20), self.begun


@pytest.fixture
def held(monkeypatch: pytest.MonkeyPatch) -> Held:
    made = Held()
    monkeypatch.setattr(module, "worked", made.worked)
    monkeypatch.setattr(module, "THREADS", 1)
    return made


@pytest.fixture
def curves(held: Held) -> Iterator[Curves]:
    """In the background; its thread has ended before the next test begins."""
    made = Curves(True)
    yield made
    made.close()
    held.let_go.release(50)
    for thread in made.threads:
        thread.join(20)
        assert not thread.is_alive()


def curve(digest: str, trial: int = 1, **more: object) -> Curve:
    return Curve(digest, trial, digest, **more)  # type: ignore[arg-type]


def test_passes_follow_one_another_and_the_last_is_kept(held: Held, curves: Curves) -> None:
    kept: list[Pass] = []
    done = threading.Event()
    one = curves.ask(1, curve("a", keep=lambda found: (kept.append(found), done.set())))
    held.wait_for(("a", 0))
    assert one.found is None and (one.done, one.of) == (0, 2)
    held.let_go.release(3)
    assert done.wait(20) and kept == [Pass(LAST)] and one.complete
    assert held.begun == [("a", step) for step in range(LAST + 1)]


def test_a_newer_design_of_the_same_person_drops_the_older_between_two_sizes(held: Held, curves: Curves) -> None:
    all_of_them = curves
    all_of_them.ask(1, curve("old"))
    held.wait_for(("old", 0))
    all_of_them.ask(1, curve("new"))
    assert all_of_them.of(1, "old") is None and all_of_them.of(1, "new") is not None
    assert all_of_them.of(2, "new") is None, "another trial's"
    held.let_go.release(2)
    held.wait_for(("new", 1))
    assert all_of_them.known[1, "old"].found is None, "what nobody waits for is not finished"
    again = all_of_them.ask(1, curve("old"))
    held.let_go.release(2)
    held.wait_for(("old", 1))
    assert again.found == Pass(0)


def test_first_points_of_another_come_before_later_passes(held: Held, curves: Curves) -> None:
    both = curves
    both.ask(1, curve("mine"))
    held.wait_for(("mine", 0))
    both.ask(2, curve("yours", trial=2))
    held.let_go.release(2)
    held.wait_for(("yours", 0), ("mine", 1))
    assert held.begun[:3] == [("mine", 0), ("yours", 0), ("mine", 1)]


def test_work_that_breaks_is_said_and_stops(monkeypatch: pytest.MonkeyPatch) -> None:
    def broken(*_more: object) -> Pass:
        raise ZeroDivisionError

    monkeypatch.setattr(module, "worked", broken)
    found = Curves(False).ask(1, curve("a"))
    assert found.complete and "the server's log" in found.found.problem


def test_earlier_designs_are_forgotten_one_by_one(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(module, "worked", lambda _plan, _step, _go_on: Pass(LAST))
    monkeypatch.setattr(module, "MOST", 2)
    few = Curves(False)
    for person, digest in enumerate("abc"):
        few.ask(person, curve(digest))
    assert [digest for _, digest in few.known] == ["b", "c"] and few.of(1, "a") is None and len(few.newest) == 2


@pytest.fixture
def trial(session: Session) -> Trial:
    return create_trial(session, create_person(session), control="bark + none")


def test_a_kept_design_has_its_curve_at_once_after_a_restart(
    app: Flask, session: Session, sign_in: SignIn, trial: Trial, monkeypatch: pytest.MonkeyPatch
) -> None:
    client, where = sign_in(), f"/trials/{trial.id}/design"
    form = form_of(trial, pieces="", guess_A="20", guess_B="80", guess_C="20", guess_D="80")
    assert client.post(where, data=form).status_code == 303
    for _ in range(LAST + 1):
        shown = client.get(f"{where}/curve")
    assert "For 80 of 100" in shown.text and "hx-get" not in shown.text
    session.expire_all()
    assert session.scalars(select(CurveKept.trial_id)).all() == [trial.id]
    app.extensions.pop("curves")
    monkeypatch.setattr(module, "worked", lambda *_more: pytest.fail("worked out again"))
    assert client.get(f"{where}/curve").text == shown.text
    assert client.post(f"{where}/curve", data=form).text == shown.text, "the form as it was kept is that design"
    monkeypatch.undo()
    other = client.post(f"{where}/curve", data=form | {"guess_A": "30"})
    assert "have=0" in other.text, "another design is not"


def test_what_planned_looks_leave_is_what_the_chances_are_at(session: Session, sign_in: SignIn) -> None:
    actor = create_person(session)
    trial = create_trial(session, actor, control="bark + none", check_days="14, 28", planned_looks="14, 28")
    client, where = sign_in(), f"/trials/{trial.id}/design"
    form = form_of(trial, pieces="", guess_A="20", guess_B="80", guess_C="20", guess_D="80")
    assert client.post(where, data=form).status_code == 303
    for _ in range(LAST + 1):
        shown = client.get(f"{where}/curve")
    assert (
        "Of alpha 0.05 the planned looks leave 0.0336 or more for the end: these chances are at 0.0336." in shown.text
    )
    session.expire_all()
    frozen = " ".join(freezes(trial.plan))
    assert "on day 42; arms compared before it on day 14, 28, out of the same alpha" in frozen


def test_a_curve_that_was_dropped_is_asked_for_again_at_a_click(app: Flask, sign_in: SignIn, trial: Trial) -> None:
    """Not by itself, or two pages of one person would drop each other's for ever; what another server was asked for is asked for here too."""
    client, all_of_them = sign_in(), Curves(True)
    app.extensions["curves"] = all_of_them
    never_heard_of = client.get(f"/trials/{trial.id}/design/curve/{'0' * 64}?have=0")
    assert (never_heard_of.status_code, never_heard_of.headers["HX-Trigger"]) == (204, "curve-again")
    all_of_them.known[trial.id, "0" * 64] = Curve("0" * 64, trial.id, trial.plan)
    told = client.get(f"/trials/{trial.id}/design/curve/{'0' * 64}?have=0")
    assert "No longer worked out" in told.text and "hx-trigger" not in told.text and "HX-Trigger" not in told.headers
    asked = client.get(BeautifulSoup(told.text, "html.parser").button["hx-get"])
    assert (asked.status_code, asked.headers["HX-Trigger"]) == (204, "curve-again")


def test_how_far_a_pass_is_stands_below_the_curve(app: Flask, sign_in: SignIn, trial: Trial) -> None:
    client, all_of_them = sign_in(), Curves(True)
    app.extensions["curves"] = all_of_them
    waiting = Curve("d" * 64, trial.id, trial.plan, done=4, of=11, found=Pass(0), taken=True)
    all_of_them.known[trial.id, waiting.digest] = all_of_them.newest[1, trial.id] = waiting
    told = client.get(f"/trials/{trial.id}/design/curve/{waiting.digest}?have=0").text
    assert "pass 2 of 3: 4 of 11 sizes; more trials come" in told and "have=0" in told


@pytest.mark.parametrize(("guesses", "doubted"), [(("45", "55"), True), (("2", "98"), False)])
def test_a_design_that_mostly_finds_nothing_is_doubted(
    sign_in: SignIn, trial: Trial, guesses: tuple[str, str], doubted: bool
) -> None:
    client, where = sign_in(), f"/trials/{trial.id}/design"
    low, high = guesses
    form = form_of(trial, pieces="", cuttings_per_arm="8", guess_A=low, guess_B=high, guess_C=low, guess_D=high)
    assert client.post(where, data=form).status_code == 303
    for _ in range(LAST + 1):
        shown = client.get(f"{where}/curve").text
    assert "For 80 of 100" in shown and ("in the others nothing is settled" in shown) is doubted


@pytest.mark.parametrize(
    ("response", "behind"),
    [(Response.ROOTED, "percent"), (Response.ROOT_COUNT, "roots a cutting, on average"), (Response.LONGEST, "mm, on average"), (Response.QUALITY, "of 5, on average"), (Response.DAYS, "days until half have rooted")],
)  # fmt: skip
def test_a_guess_says_what_its_number_is(session: Session, sign_in: SignIn, response: Response, behind: str) -> None:
    trial = create_drawn(session, create_person(session), response=response.value)
    session.commit()
    page = sign_in().get(f"/trials/{trial.id}/design").text
    assert f"guess of arm A, {behind}" in page and f"</label> {behind}</p>" in page
