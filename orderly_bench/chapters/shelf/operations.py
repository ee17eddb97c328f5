"""Benches: what stands on one, of every trial; standing trays on it, and moving them there."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session, joinedload, selectinload

from orderly_bench.chapters.shelf.history import as_it_stands, put_down, values_of
from orderly_bench.core.design.standing import (
    BENCH_CM,
    GUESSED_CM,
    Footprint,
    Standing,
    check_standing,
    find_room,
    footprint,
)
from orderly_bench.core.errors import InvalidInput, Refused
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.stock.genera import GenusNote
from orderly_bench.core.stock.kept import BenchKept
from orderly_bench.stock.models import GenusNote as GenusNoteRow
from orderly_bench.stock.models import StockBench
from orderly_bench.stock.operations import bench_named, keep_bench, keep_note
from orderly_bench.trial import turns
from orderly_bench.trial.audit import Action, record
from orderly_bench.trial.models import Person, Tray, TrayStanding, Trial


@dataclass(frozen=True)
class OnBench:
    """A tray that stands on a bench, with its trial."""

    tray: Tray
    trial: Trial
    at: Standing

    @property
    def name(self) -> str:
        """How it is called beside others."""
        return _("tray {number} of {code}", number=self.tray.number, code=self.trial.code)


def room_of(bench: StockBench) -> Footprint:
    """The bench's room, cm; the usual one where nobody measured."""
    return Footprint(bench.length_cm or BENCH_CM[0], bench.width_cm or BENCH_CM[1])


def size_of(tray: Tray) -> Footprint:
    """Room a tray takes, cm."""
    return footprint(tray.rows, tray.columns, tray.across_cm or GUESSED_CM)


def benches(session: Session) -> list[StockBench]:
    """All benches, by name."""
    return list(session.scalars(select(StockBench).order_by(StockBench.name)))


def standing_on(session: Session, bench: StockBench) -> list[OnBench]:
    """What stands on a bench now, of every trial, in the order it was put there."""
    query = (
        select(TrayStanding, Trial)
        .join(Trial, TrayStanding.trial_id == Trial.id)
        .where(TrayStanding.bench_id == bench.id, TrayStanding.current.is_not(None))
        .options(joinedload(TrayStanding.tray))
        .order_by(TrayStanding.id)
    )
    return [
        OnBench(one.tray, trial, Standing(one.x_cm, one.y_cm, size_of(one.tray)))
        for one, trial in session.execute(query)
    ]


def waiting_for(session: Session, bench: StockBench) -> list[tuple[Trial, list[Tray]]]:
    """Trials whose plan names this bench and that have trays standing nowhere."""
    query = select(Trial).join(Tray, Tray.trial_id == Trial.id).distinct().order_by(Trial.id)
    found = []
    for trial in session.scalars(query.options(selectinload(Trial.trays).selectinload(Tray.standings))):
        nowhere = [tray for tray in trial.trays if tray.standing is None]
        if nowhere and trial.plan.design.bench.casefold() == bench.name.casefold():
            found.append((trial, nowhere))
    return found


def keep(session: Session, actor: Person, now: datetime, bench: BenchKept) -> StockBench:
    """Keep a bench; one that has become too small for what stands on it is refused."""
    there = bench_named(session, bench.name)
    before = values_of(there) if there is not None else {}
    if there is not None:
        length, width = bench.length_cm or BENCH_CM[0], bench.width_cm or BENCH_CM[1]
        over = [one.name for one in standing_on(session, there) if one.at.right > length or one.at.far > width]
        if over:
            session.rollback()
            raise InvalidInput(
                "size of the bench", _("is too small for what stands on it: {names}", names=", ".join(over[:4]))
            )
    made = keep_bench(session, bench)
    put_down(session, actor, now, (Action.KEPT_A_BENCH, made.name), before, made)
    return made


def stand_trays(session: Session, trial: Trial, actor: Person, now: datetime, bench: StockBench) -> list[TrayStanding]:
    """Put a trial's trays that stand nowhere on a bench, each in the first free room, in the order they are walked."""
    _one_at_a_time(session, trial)
    nowhere = [tray for tray in trial.trays if tray.standing is None]
    if not nowhere:
        raise Refused(_("All trays of this trial stand on a bench already."))
    there = [one.at for one in standing_on(session, bench)]
    places = find_room(room_of(bench), there, [size_of(tray) for tray in nowhere])
    made = [_stand(trial, tray, actor, now, bench, at, "") for tray, at in zip(nowhere, places, strict=True)]
    session.flush()
    new = {"bench": bench.name, "trays": [tray.number for tray in nowhere]}
    record(session, actor, now, Action.STOOD_TRAYS_ON_A_BENCH, trial, new=new)
    return made


def move_tray(
    session: Session,
    tray: Tray,
    trial: Trial,
    actor: Person,
    now: datetime,
    bench: StockBench,
    to: tuple[float, float],
    reason: str,
) -> TrayStanding:
    """Move a tray with all that stands in it, from now on. Blocks and arms stay.

    Parameters
    ----------
    to : tuple of float
        Its near left corner, cm along and across the bench.

    Raises
    ------
    InvalidInput
        Over the edge, onto another, where it stands already, or without a reason.
    """
    if not reason.strip() or len(reason) > 300:
        raise InvalidInput("reason for the move", _("say why, within 300 characters"))
    _one_at_a_time(session, trial)
    before = tray.standing
    at = Standing(round(to[0], 1), round(to[1], 1), size_of(tray))
    if before is not None and (before.bench_id, before.x_cm, before.y_cm) == (bench.id, at.x_cm, at.y_cm):
        raise InvalidInput(
            "place", _("tray {number} stands there already", number=tray.number), f"{at.x_cm:g}, {at.y_cm:g} cm"
        )
    others = [(one.name, one.at) for one in standing_on(session, bench) if one.tray.id != tray.id]
    check_standing(room_of(bench), others, at)
    if before is not None:
        before.current = None
        session.flush()
    made = _stand(trial, tray, actor, now, bench, at, reason.strip())
    session.flush()
    old = {"x_cm": before.x_cm, "y_cm": before.y_cm} if before else None
    new = {"tray": tray.number, "bench": bench.name, "x_cm": at.x_cm, "y_cm": at.y_cm}
    record(session, actor, now, Action.MOVED_A_TRAY, trial, old=old, new=new, why=reason)
    return made


def _one_at_a_time(session: Session, trial: Trial) -> None:
    """Room on a bench is taken by one at a time, of whatever trial."""
    turns.take(session, trial_id=trial.id)
    turns.take_lab(session)
    session.expire(trial, ["trays"])
    for tray in trial.trays:
        session.expire(tray, ["standings"])


def _stand(
    trial: Trial, tray: Tray, actor: Person, now: datetime, bench: StockBench, at: Standing, reason: str
) -> TrayStanding:
    made = TrayStanding(
        trial_id=trial.id, bench_id=bench.id, x_cm=at.x_cm, y_cm=at.y_cm, from_at=now, reason=reason, person_id=actor.id
    )
    tray.standings.append(made)
    return made


def moves_on(session: Session, bench: StockBench) -> Sequence[TrayStanding]:
    """Places on a bench that were taken by a move, newest first."""
    query = select(TrayStanding).where(TrayStanding.bench_id == bench.id, TrayStanding.reason != "")
    return session.scalars(
        query.options(joinedload(TrayStanding.tray), joinedload(TrayStanding.person)).order_by(TrayStanding.id.desc())
    ).all()


def keep_genus(session: Session, actor: Person, now: datetime, note: GenusNote) -> GenusNote:
    """Keep the lab's own note on a genus, in place of the shipped one."""
    before = as_it_stands(session, GenusNoteRow, GenusNoteRow.genus == note.genus.strip())
    made = keep_note(session, note)
    put_down(session, actor, now, (Action.NOTED_A_GENUS, made.genus), before, made)
    return made.value
