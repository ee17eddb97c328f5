"""Slow results: worked out in the background, kept, and never on a reader's time.

A thread of the application works through a queue of trials. Closing an endpoint check puts its trial in; so does a reader
who finds nothing kept, and the start of the application for every trial that lost its results. Of several servers one works at a trial;
the others look again until its results are kept, and take over where it is gone.
"""

from __future__ import annotations

import logging
import queue
import threading
import time

from flask import Flask, current_app
from sqlalchemy import select
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session

from orderly_bench.core.messages.translation import answer_in, language
from orderly_bench.database.leases import Leases
from orderly_bench.evidence.memory import remembered
from orderly_bench.evidence.results import Results, work_out
from orderly_bench.record.gather import gather
from orderly_bench.record.keep import keep, kept, languages_kept, stamp_of
from orderly_bench.trial.blindness import endpoint_closed
from orderly_bench.trial.models import Trial
from orderly_bench.web import languages
from orderly_bench.web.sent_again import node_lost
from orderly_bench.web.store import db, now

#: A trial, the day, and in which language: results hold sentences.
Task = tuple[int, int, str]
#: After this long a task that another server is at is looked at again.
LOOK_AGAIN_SECONDS = 0.5
log = logging.getLogger(__name__)


class Worker:
    """One thread that works tasks out, each once however often it is asked for."""

    def __init__(self, app: Flask) -> None:
        self.app = app
        self.tasks: queue.Queue[Task] = queue.Queue()
        self.waiting: set[Task] = set()
        self.guard = threading.Lock()
        self.leases = Leases(app.extensions["engine"])

    def start(self) -> None:
        """Run until the process ends; begin with what a restart may have lost."""
        threading.Thread(target=self._run, daemon=True, name="worker").start()

    def ask(self, task: Task) -> None:
        """Put a task in, unless it waits already."""
        with self.guard:
            if task in self.waiting:
                return
            self.waiting.add(task)
        self.tasks.put(task)

    def _run(self) -> None:
        try:
            self._look_for_lost()
        except Exception:
            log.exception("could not look for results that were lost")
        while True:
            task = self.tasks.get()
            done = True
            try:
                done = self._work(task)
            except DBAPIError as error:
                done = not node_lost(error)
                log.exception("the database failed while trial %s, day %s was worked out (%s)", *task)
            except Exception:
                log.exception("could not work out trial %s, day %s (%s)", *task)
            if done:
                with self.guard:
                    self.waiting.discard(task)
            else:
                self.tasks.put(task)
                time.sleep(LOOK_AGAIN_SECONDS)

    def _look_for_lost(self) -> None:
        with Session(self.app.extensions["engine"]) as session:
            for trial in session.scalars(select(Trial).where(Trial.locked_at.is_not(None))):
                if endpoint_closed(session, trial):
                    for spoken in languages_kept(session, trial) or [language().code]:
                        self.ask((trial.id, 0, spoken))

    def _work(self, task: Task) -> bool:
        """Whether it is done: not while another server is at it."""
        number, day, spoken = task
        answer_in(languages.offered(self.app).get(spoken))
        with self.app.app_context(), Session(self.app.extensions["engine"], expire_on_commit=False) as session:
            trial = session.get(Trial, number)
            if trial is None or read(session, trial, day) is not None:
                return True
            session.rollback()
            with self.leases.held(f"results {number} {day} {spoken}") as ours:
                if ours:
                    write(session, session.get_one(Trial, number), day)
                    session.commit()
            return ours


def _secret() -> str:
    return str(current_app.config["SECRET_KEY"])


def read(session: Session, trial: Trial, day: int) -> Results | None:
    """What is kept of a trial as it stands now."""
    stamp = stamp_of(session, trial)
    found = kept(session, trial, day, stamp, _secret())
    return found if isinstance(found, Results) else None


def write(session: Session, trial: Trial, day: int) -> Results:
    """Work a trial out as it stands now, and keep it."""
    stamp = stamp_of(session, trial)
    results = work_out(gather(session, trial), day or None)
    keep(session, trial, day, stamp, results, _secret(), now(), _likeness(results) if day == 0 else None)
    return results


def _likeness(results: Results) -> tuple[float, int] | None:
    """How alike cuttings of one unit were, with units less arms; None where units hold one cutting."""
    analysis = results.found.analysis
    if analysis is None or analysis.cluster.icc is None:
        return None
    units = analysis.observations.units
    return analysis.cluster.icc, int(units.arm.size) - len(analysis.observations.arms)


def results_of(trial: Trial, day: int = 0) -> Results | None:
    """Results at the endpoint (day 0) or another day's checks; None while they are being worked out."""
    stamp = stamp_of(db(), trial)
    try:
        return remembered(f"results {day} {stamp}", lambda: _found(trial, day))
    except _Waiting:
        return None


class _Waiting(Exception):
    """Nothing is kept yet; the worker was asked."""


def _found(trial: Trial, day: int) -> Results:
    found = read(db(), trial, day)
    if found is not None:
        return found
    if current_app.config["WORK"] == "at once":
        return write(db(), trial, day)
    ask(trial, day)
    raise _Waiting


def ask(trial: Trial, day: int = 0) -> None:
    """Have a trial worked out in the background; where there is no worker, when it is read."""
    worker = current_app.extensions.get("worker")
    if worker is not None:
        worker.ask((trial.id, day, language().code))
