"""Large logger files are read beside the page: how far it is can be seen, it can be stopped, and all of it is kept or nothing.

Who reads a file says so every few thousand rows; when nothing was heard for a while, whoever looks reads it again from its beginning.
"""

from __future__ import annotations

import logging
from collections.abc import Callable, Sequence
from dataclasses import asdict
from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

from sqlalchemy import or_, select, update
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session

from orderly_bench.core.errors import OrderlyError, Refused
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.tend.logger_columns import LoggerColumns
from orderly_bench.formats.log_csv import Tick
from orderly_bench.trial import turns
from orderly_bench.trial.conditions import LogSent, check_log, keep_log
from orderly_bench.trial.models import IntakeState, LogIntake, Person, Trial, Unit

#: Smaller files are read while the page waits.
BESIDE_FROM_BYTES = 200_000
#: Nothing heard for so long: who read it is gone.
SILENT = timedelta(seconds=30)
TRIES = 3
GOING = (IntakeState.WAITING.value, IntakeState.READING.value)
log = logging.getLogger(__name__)


class Stopped(Exception):
    """Somebody stopped the reading, or another reads it."""


def begin(
    session: Session, trial: Trial, actor: Person, now: datetime, sent: LogSent, units: Sequence[Unit]
) -> LogIntake:
    """Put a file down to be read.

    Raises
    ------
    InvalidInput, Refused
        See `check_log`.
    """
    made = LogIntake(
        trial_id=trial.id, name=sent.name[-120:], zone=check_log(trial, sent, units), low_c=sent.low, high_c=sent.high, clock=sent.clock.key,
        columns=asdict(sent.columns), units=[unit.id for unit in units], data=sent.data, at=now, person_id=actor.id,
    )  # fmt: skip
    session.add(made)
    session.flush()
    return made


def is_silent(intake: LogIntake, now: datetime) -> bool:
    """Whether it goes on and nobody reads it."""
    return intake.going and (intake.beat_at is None or intake.beat_at < now - SILENT)


def stop(session: Session, intake: LogIntake) -> None:
    """End the reading; nothing of the file is kept.

    Raises
    ------
    Refused
        It has an end already.
    """
    if not _turn(session, intake.id, IntakeState.STOPPED, GOING, data=b""):
        raise Refused(_("The file is read already. What was kept can be withdrawn on Tend."))
    session.refresh(intake)


def _turn(session: Session, number: int, state: IntakeState, before: Sequence[str], **more: object) -> bool:
    """Change its state where it is one of these before; whether it was."""
    wanted = (
        update(LogIntake).where(LogIntake.id == number, LogIntake.state.in_(before)).values(state=state.value, **more)
    )
    done: int = session.execute(wanted.execution_options(synchronize_session=False)).rowcount  # type: ignore[attr-defined]
    return done == 1


def _take(session: Session, number: int, now: datetime) -> bool:
    """Take it to be read, unless another reads it or it has an end."""
    free = or_(LogIntake.state == IntakeState.WAITING.value, LogIntake.beat_at < now - SILENT)
    wanted = update(LogIntake).where(LogIntake.id == number, LogIntake.state.in_(GOING), free)
    taken = session.execute(wanted.values(state=IntakeState.READING.value, beat_at=now))
    session.commit()
    return int(taken.rowcount) == 1  # type: ignore[attr-defined]


def read_in(open_session: Callable[[], Session], number: int, clock: Callable[[], datetime]) -> None:
    """Read a file to its end: kept whole, refused with the reason, or stopped."""
    with open_session() as session:
        if not _take(session, number, clock()):
            return

    def tick(done: int, of: int) -> None:
        with open_session() as own:
            heard = _turn(
                own,
                number,
                IntakeState.READING,
                [IntakeState.READING.value],
                rows_done=done,
                rows_all=of,
                beat_at=clock(),
            )
            own.commit()
        if not heard:
            raise Stopped

    try:
        _tried(open_session, number, clock, tick)
    except Stopped:
        return
    except OrderlyError as error:
        _refuse(open_session, number, str(error))
    except Exception:
        log.exception("could not read a logger's file")
        _refuse(open_session, number, _("Something went wrong while it was read; nothing was kept. Send it again."))


def _tried(open_session: Callable[[], Session], number: int, clock: Callable[[], datetime], tick: Tick) -> None:
    """Read and keep it; once more where it collided with another change."""
    for left in reversed(range(TRIES)):
        try:
            with open_session() as session:
                _keep(session, number, clock(), tick)
                session.commit()
            return
        except DBAPIError as error:
            if not left or not turns.worth_another_try(error):
                raise


def _refuse(open_session: Callable[[], Session], number: int, told: str) -> None:
    with open_session() as session:
        _turn(session, number, IntakeState.REFUSED, GOING, told=told[:600], data=b"")
        session.commit()


def _keep(session: Session, number: int, now: datetime, tick: Tick) -> None:
    intake = session.get_one(LogIntake, number)
    units = session.scalars(select(Unit).where(Unit.id.in_(intake.units))).all()
    columns, clock = LoggerColumns(**intake.columns), ZoneInfo(intake.clock)
    sent = LogSent(intake.data, intake.name, intake.zone, intake.low_c, intake.high_c, clock, columns)

    def then_its_turn(done: int, of: int) -> None:
        tick(done, of)
        if done == of:  # from here on it is written
            turns.take(session, trial_id=intake.trial_id)

    keep_log(session, session.get_one(Trial, intake.trial_id), intake.person, now, sent, units, then_its_turn)
    if not _turn(session, number, IntakeState.KEPT, [IntakeState.READING.value], data=b"", beat_at=now):
        raise Stopped
