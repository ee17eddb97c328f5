"""The plants after the end: where each went, what they take up, which trays can be put together."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from datetime import date, datetime
from enum import StrEnum

from sqlalchemy import select
from sqlalchemy.orm import Session

from orderly_bench.core.conclude.plants import (
    Fate,
    NotFit,
    Place,
    Sold,
    Tray,
    check_again,
    check_fate,
    check_price,
    columns_of,
    fates_by_arm,
    put_together,
)
from orderly_bench.core.errors import InvalidInput, Refused
from orderly_bench.core.messages.translation import dated
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.plan.treatments import Shape
from orderly_bench.core.score.endpoint import Outcome
from orderly_bench.core.vocabulary import Fit, State
from orderly_bench.record.facts import CuttingResult
from orderly_bench.trial.audit import Action, record
from orderly_bench.trial.load import cuttings_by_codes
from orderly_bench.trial.models import Person, PlantEnd, Trial, Unit
from orderly_bench.trial.moves import move_units

LONGEST_NOTE, LONGEST_RIGHTS, LONGEST_CURRENCY = 200, 300, 8
#: States at the endpoint in which nothing stands any more.
GONE = (
    State.DEAD,
    State.TAKEN_OUT_DEAD,
    State.TAKEN_OUT_OTHER,
    State.MISSING,
    State.SAMPLED,
    State.POTTED_OUT,
    State.GIVEN_AWAY,
)


class Which(StrEnum):
    """Which plants are meant, of those that have no end yet."""

    ROOTED = "all that rooted"
    BARE = "all alive without roots"
    STANDING = "all that still stand"
    CODES = "these codes"


@dataclass(frozen=True)
class Ended:
    """A cutting at the end, and where it went; None while nobody said."""

    result: CuttingResult
    end: PlantEnd | None

    @property
    def outcome(self) -> Outcome:
        """What it counted as."""
        return self.result.outcome

    @property
    def dead(self) -> bool:
        """Whether nothing of it stood at the endpoint."""
        score = self.result.score
        return score is not None and score.state in GONE

    @property
    def fate(self) -> Fate | None:
        """Where it went; what was dead at the endpoint is dead."""
        if self.end is not None:
            return Fate(self.end.fate)
        return Fate.DEAD if self.result.score is not None and self.result.score.state in GONE[:2] else None

    @property
    def stands(self) -> bool:
        """Whether it still stands in its cell."""
        return not self.dead and (self.end is None or self.end.fate == Fate.KEPT)


@dataclass(frozen=True)
class Typed:
    """An end as typed; ``arm`` narrows to one arm, blank for all."""

    which: str
    fate: str
    day: date
    arm: str = ""
    codes: str = ""
    note: str = ""
    rights: str = ""
    price: float | None = None
    currency: str = ""


def ends_of(session: Session, trial: Trial, results: Sequence[CuttingResult]) -> list[Ended]:
    """Every counted cutting with where it went."""
    found: dict[int, PlantEnd] = {}
    for end in session.scalars(select(PlantEnd).where(PlantEnd.trial_id == trial.id).order_by(PlantEnd.id)):
        found[end.cutting_id] = end
    return [Ended(result, found.get(result.cutting.id)) for result in results]


def sold(ended: Sequence[Ended]) -> list[Sold]:
    """Those that were sold, with what each brought."""
    return [
        Sold(one.result.cutting.unit.arm, one.end.price, one.end.currency)
        for one in ended
        if one.end is not None and one.end.fate == Fate.SOLD
    ]


def rows_of(ended: Sequence[Ended]) -> Iterator[list[object]]:
    """Every cutting as the file of plants has it."""
    for one in ended:
        rooted, end = one.outcome.rooted, one.end
        left = [end.day, end.price, end.currency, end.rights, end.note, end.person.name] if end else [None] * 6
        came = [one.result.cutting.unit.arm, one.result.cutting.code, None if rooted is None else int(rooted)]
        yield [*came, one.fate.value if one.fate else None, *left]


def told_by_arm(names: Iterable[str], ended: Sequence[Ended]) -> list[str]:
    """Where the plants of each arm went, in a line each; none while nobody said of any."""
    if all(one.end is None for one in ended):
        return []
    table = fates_by_arm(list(names), [(one.result.cutting.unit.arm, one.fate) for one in ended])
    columns = columns_of(table)
    return [
        _("{letter}: {what}", letter=letter, what=", ".join(f"{row[name]} {word}" for name, word in columns if name in row))
        for letter, row in table.items()
    ]  # fmt: skip


def there(ended: Sequence[Ended]) -> dict[str, int]:
    """How many of each arm are still in the lab: in their cells, in pots or planted out."""
    found: dict[str, int] = {}
    for one in ended:
        alive = not one.dead and (one.end is None or Fate(one.end.fate) in (Fate.KEPT, Fate.POTTED, Fate.PLANTED))
        letter = one.result.cutting.unit.arm
        found[letter] = found.get(letter, 0) + alive
    return dict(sorted(found.items()))


def record_ends(
    session: Session, trial: Trial, actor: Person, now: datetime, today: date, ended: Sequence[Ended], typed: Typed
) -> int:
    """Write where plants went; how many. By code an end that was written is put right; a group takes those without one.

    Raises
    ------
    InvalidInput
        No such fate or group, a day that can't be, a code that is no plant of the trial, rights not answered.
    Refused
        Nobody is left in the group.
    """
    fate = check_fate(typed.fate, typed.rights)
    check_price(fate, typed.price)
    for what, text, longest in (
        ("note", typed.note, LONGEST_NOTE),
        ("rights and movement rules", typed.rights, LONGEST_RIGHTS),
        ("currency", typed.currency, LONGEST_CURRENCY),
    ):
        if len(text) > longest:
            raise InvalidInput(what, _("keep it within {n} characters", n=str(longest)), f"{len(text)} characters")
    first = trial.day_zero
    if typed.day > today or (first is not None and typed.day < first.first):
        raise InvalidInput("day", _("must lie between sticking and today"), dated(typed.day))
    chosen = _chosen(session, trial, ended, typed)
    if not chosen:
        raise Refused(_("Nobody is left in this group: each has its end, or none is of it."))
    for cutting_id in chosen:
        session.add(
            PlantEnd(
                trial_id=trial.id, cutting_id=cutting_id, fate=fate.value, day=typed.day, note=typed.note.strip(), rights=typed.rights.strip(),
                price=typed.price, currency=typed.currency.strip() if typed.price is not None else "", at=now, person_id=actor.id,
            )
        )  # fmt: skip
    session.flush()
    new = {"plants": len(chosen), "fate": fate.value, "day": str(typed.day)} | ({"arm": typed.arm} if typed.arm else {})
    new |= {"price": f"{typed.price:.2f} {typed.currency}".strip()} if typed.price is not None else {}
    record(session, actor, now, Action.SAID_WHERE_PLANTS_WENT, trial, new=new, why=typed.rights.strip())
    return len(chosen)


def _chosen(session: Session, trial: Trial, ended: Sequence[Ended], typed: Typed) -> list[int]:
    if typed.which not in list(Which):
        raise InvalidInput("which plants", _("choose one of: {names}", names=", ".join(Which)), typed.which)
    if typed.which == Which.CODES:
        return _by_code(session, trial, ended, typed.codes)
    letters = [arm.letter for arm in trial.arms]
    if typed.arm and typed.arm not in letters:
        raise InvalidInput("arm", _("choose one of: {names}", names=", ".join(letters)), typed.arm)
    of = {Which.ROOTED: (True,), Which.BARE: (False,), Which.STANDING: (True, False, None)}[Which(typed.which)]
    return [
        one.result.cutting.id
        for one in ended
        if one.end is None
        and not one.dead
        and one.outcome.rooted in of
        and typed.arm in ("", one.result.cutting.unit.arm)
    ]


def _by_code(session: Session, trial: Trial, ended: Sequence[Ended], codes: str) -> list[int]:
    counted = {one.result.cutting.id for one in ended}
    found = cuttings_by_codes(session, trial, codes)
    out = next((cutting for cutting in found if cutting.id not in counted), None)
    if out is not None:
        raise InvalidInput("codes", _("is no plant of this trial"), out.code)
    return [cutting.id for cutting in found]


def standing(trial: Trial, ended: Sequence[Ended]) -> tuple[list[Place], list[Tray]]:
    """Rooted plants that still stand in cells, one to a cell, and the trays of cells."""
    cells = trial.plan.design.container
    across = cells.across_cm or cells.volume_ml ** (1 / 3)
    trays = [Tray(t.number, t.rows, t.columns, across) for t in trial.trays] if cells.shape is Shape.CELLS else []
    places = [
        Place(one.result.cutting.code, unit.tray, unit.row, unit.column)
        for one in ended
        if one.stands and one.outcome.rooted and (unit := one.result.cutting.unit).planned == 1
    ]
    return (places, trays) if trays else ([], [])


def trays_together(
    session: Session, trial: Trial, actor: Person, now: datetime, ended: Sequence[Ended], units: Sequence[Unit]
) -> None:
    """Write the moves that bring what rooted into the fewest trays; what is dead there changes places with it.

    Raises
    ------
    Refused
        They stand in as few as can be.
    """
    moves = put_together(*standing(trial, ended))
    if not moves:
        raise Refused(_("The rooted plants stand in as few trays as can be; nothing is to be moved."))
    of_code = {cutting.code: unit for unit in units for cutting in unit.cuttings}
    wanted = {of_code[to.code]: (to.tray, to.row, to.column) for _, to in moves}
    move_units(session, trial, actor, now, wanted, _("trays put together"))


def not_fit(ended: Sequence[Ended]) -> NotFit:
    """What stands in its cell and can't be potted on yet."""
    here = [one for one in ended if one.stands and one.result.score is not None]
    unfit = [one for one in here if one.outcome.rooted and one.result.score and one.result.score.fit is Fit.NO]
    bare = [
        one
        for one in here
        if one.outcome.rooted is False and one.result.score and one.result.score.state is State.ALIVE
    ]
    return NotFit(*(tuple(one.result.cutting.code for one in group) for group in (unfit, bare)))


def set_day(
    session: Session, trial: Trial, actor: Person, now: datetime, today: date, day: date | None, left: NotFit
) -> None:
    """When plants that are not fit are looked at again; none takes the day away, for they were looked at.

    Raises
    ------
    InvalidInput
        A day that is over.
    Refused
        No plant is left that is not fit.
    """
    if day is not None and not left.words:
        raise Refused(_("No plant stands that is not fit to pot on."))
    if day is not None:
        check_again(day, today)
    if day == trial.plants_again:
        return
    old, trial.plants_again = trial.plants_again, day
    action = Action.SET_A_DAY_FOR_PLANTS if day else Action.LOOKED_AT_PLANTS_AGAIN
    record(
        session,
        actor,
        now,
        action,
        trial,
        old={"day": str(old)} if old else None,
        new={"day": str(day)} if day else None,
    )
