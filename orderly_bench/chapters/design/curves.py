"""The power curves that people wait for: worked out in the background pass by pass, kept, and dropped when the design changes."""

from __future__ import annotations

import logging
import threading
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass, field

from flask import current_app
from sqlalchemy.orm import Session

from orderly_bench.chapters.design.seen import LAST, Pass, digest_of, worked
from orderly_bench.core.messages.say import say
from orderly_bench.core.messages.translation import Language, answer_in, language
from orderly_bench.core.plan.value import Plan
from orderly_bench.core.rehearse.curve import Overtaken
from orderly_bench.record.keep import curve_kept, keep_curve
from orderly_bench.trial.models import Trial
from orderly_bench.web.store import db

#: Curves of earlier designs that are remembered; threads that work on those asked for.
MOST, THREADS = 200, 2
log = logging.getLogger(__name__)


@dataclass
class Curve:
    """A curve that somebody asked for.

    Attributes
    ----------
    found : Pass or None
        The newest pass that is done.
    ends : (int, str) or None
        Where the first thing runs out, and what.
    keep : callable
        Keeps the last pass.
    done, of : int
        Sizes of the pass being worked on.
    taken : bool
        Whether a thread works on it.
    spoken : Language
        Of who asked for it.
    """

    digest: str
    trial: int
    plan: Plan
    ends: tuple[int, str] | None = None
    keep: Callable[[Pass], None] = lambda _found: None
    found: Pass | None = None
    done: int = 0
    of: int = 0
    taken: bool = False
    spoken: Language = field(default_factory=language)

    @property
    def next_step(self) -> int:
        """The pass to be worked out next; beyond the last when there is none."""
        if self.found is None:
            return 0
        return LAST + 1 if self.found.problem else self.found.step + 1

    @property
    def pass_number(self) -> int:
        """That pass, counted from 1."""
        return self.next_step + 1

    @property
    def complete(self) -> bool:
        """Whether every pass is done."""
        return self.next_step > LAST


class Curves:
    """What is asked for and what is done: of one person and trial only the newest design is worked on."""

    def __init__(self, in_background: bool) -> None:
        self.in_background = in_background
        self.change = threading.Condition()
        self.newest: dict[tuple[int, int], Curve] = {}
        self.known: OrderedDict[tuple[int, str], Curve] = OrderedDict()
        self.threads: list[threading.Thread] = []
        self.closed = False

    def ask(self, person: int, curve: Curve) -> Curve:
        """The curve of a design; another one of the same person and trial is dropped."""
        with self.change:
            found = self.known.setdefault((curve.trial, curve.digest), curve)
            self.known.move_to_end((curve.trial, curve.digest))
            self.newest[person, curve.trial] = found
            self._forget()
            self._hire()
            self.change.notify_all()
        return found if self.in_background else self._at_once(found)

    def of(self, trial: int, digest: str) -> Curve | None:
        """A curve that is done or being worked out; None when it was dropped."""
        with self.change:
            found = self.known.get((trial, digest))
        if found is None or not (found.complete or self._wanted(found)):
            return None
        return found if self.in_background else self._at_once(found)

    def dropped(self, trial: int, digest: str) -> bool:
        """Whether this server was asked for it, and for another since; of one it never heard of another server was asked."""
        with self.change:
            return (trial, digest) in self.known

    def close(self) -> None:
        """Drop everything, and end the threads between two sizes."""
        with self.change:
            self.closed = True
            self.newest.clear()
            self.change.notify_all()

    def _wanted(self, curve: Curve) -> bool:
        with self.change:
            return any(one is curve for one in self.newest.values())

    def _forget(self) -> None:
        while len(self.known) > MOST:
            _, old = self.known.popitem(last=False)
            self.newest = {key: one for key, one in self.newest.items() if one is not old}

    def _hire(self) -> None:
        while self.in_background and len(self.threads) < THREADS:
            self.threads.append(threading.Thread(target=self._run, daemon=True, name="curves"))
            self.threads[-1].start()

    def _at_once(self, curve: Curve) -> Curve:
        if not curve.complete:
            self._pass(curve)
        return curve

    def _take(self) -> Curve | None:
        """The wanted curve with the fewest passes done, so that everyone's first points come soon."""
        waiting = [one for one in self.newest.values() if not one.complete and not one.taken]
        return min(waiting, key=lambda one: one.next_step, default=None)

    def _run(self) -> None:
        while True:
            with self.change:
                while (curve := self._take()) is None:
                    if self.closed:
                        return
                    self.change.wait()
                curve.taken = True
            answer_in(curve.spoken)
            try:
                self._pass(curve)
            finally:
                with self.change:
                    curve.taken = False

    def _pass(self, curve: Curve) -> None:
        def go_on(done: int, of: int) -> bool:
            curve.done, curve.of = done, of
            return self._wanted(curve)

        try:
            curve.found = worked(curve.plan, curve.next_step, go_on)
            if curve.complete:
                curve.keep(curve.found)
        except Overtaken:
            return
        except Exception:
            log.exception("could not work out, or not keep, the power of trial %s", curve.trial)
            if not curve.complete:
                curve.found = Pass(LAST, problem=say("seen/failed"))


def curves() -> Curves:
    """Those of the application."""
    made: Curves = current_app.extensions.setdefault(
        "curves", Curves(current_app.config["WORK"] == "in the background")
    )
    return made


def curve_of(trial: Trial, plan: Plan, ends: tuple[int, str] | None) -> Curve:
    """The curve of a plan: with what was kept of it, and kept when it is the trial's own."""
    digest = digest_of(plan, ends)
    if plan != trial.plan:
        return Curve(digest, trial.id, plan, ends)
    number, own, engine, clock = (
        trial.id,
        digest_of(plan),
        current_app.extensions["engine"],
        current_app.config["CLOCK"],
    )

    def keep(found: Pass) -> None:
        with Session(engine, join_transaction_mode="create_savepoint") as session:
            keep_curve(session, number, own, found.as_data(), clock())
            session.commit()

    kept = curve_kept(db(), number, own)
    return Curve(digest, number, plan, ends, keep, Pass.of_data(kept) if kept else None)
