"""A dated line written while the trial grows: kept as it was written, and asked whether it tells which arm roots before the end."""

from __future__ import annotations

import re
from collections.abc import Collection, Iterable
from dataclasses import dataclass
from datetime import date

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import dated
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.plan.letters import lettered

LONGEST = 500
_OF = re.compile(r"tray +(?P<tray>\d{1,4})|arm +(?P<arm>[a-z])", re.IGNORECASE)
ROOTS = re.compile(r"\b(?:un)?root(?:s|ed|ing|less)?\b|\bstruck\b|\bstrike\b", re.IGNORECASE)


def check_note(text: str, day: date, stuck: date, today: date) -> str:
    """The note with its ends trimmed.

    Raises
    ------
    InvalidInput
        None, too long, before sticking or in the future.
    """
    kept = text.strip()
    if not kept:
        raise InvalidInput("note", _("write what was seen or done"))
    if len(kept) > LONGEST:
        raise InvalidInput(
            "note", _("keep it within {most} characters", most=LONGEST), _("{n} characters", n=len(kept))
        )
    if not stuck <= day <= today:
        raise InvalidInput("day of the note", _("must lie between sticking and today"), dated(day, "%d %b %Y"))
    return kept


@dataclass(frozen=True)
class Of:
    """What a note is of: a tray, an arm's letter, the code of a unit, or the whole trial where none is said."""

    tray: int | None = None
    arm: str = ""
    code: str = ""

    @property
    def words(self) -> str:
        """``tray 2``, ``arm B`` or the code; blank of the trial."""
        if self.tray is not None:
            return _("tray {number}", number=self.tray)
        return _("arm {letter}", letter=self.arm) if self.arm else self.code


def read_of(typed: str, trays: Collection[int], letters: Collection[str]) -> Of:
    """What a note is of, as typed; what names no tray and no arm is a code.

    Raises
    ------
    InvalidInput
        A tray or an arm that the trial does not have.

    >>> read_of("Tray 2", [1, 2], "AB").tray, read_of("arm b", [], "AB").arm, read_of("K73 M4", [], "").code
    (2, 'B', 'K73 M4')
    """
    hit = _OF.fullmatch(typed.strip())
    if hit is None:
        return Of(code=typed.strip())
    if hit["tray"]:
        if int(hit["tray"]) not in trays:
            raise InvalidInput(
                _("what the note is of"),
                _("this trial has trays {names}", names=", ".join(map(str, sorted(trays)))),
                typed,
            )
        return Of(tray=int(hit["tray"]))
    letter = hit["arm"].upper()
    if letter not in letters:
        raise InvalidInput(_("what the note is of"), _("this trial has arms {names}", names=", ".join(letters)), typed)
    return Of(arm=letter)


def tells_arms_apart(text: str, names: Iterable[str], letters: Collection[str] = ()) -> bool:
    """Whether a note speaks of roots by arm: by the name of one, of a level, or by its letter.

    >>> tells_arms_apart("Pumice is rooting already", ["pumice", "bark"]), tells_arms_apart("roots at the wall of K73M4", ["pumice"])
    (True, False)
    >>> tells_arms_apart("B roots better than A", [], "AB"), tells_arms_apart("A few roots at the wall", [], "AB")
    (True, False)
    """
    if ROOTS.search(text) is None:
        return False
    named = "|".join(re.escape(name) for name in names if name)
    by_name = re.search(rf"(?<!\w)(?:{named})(?!\w)", text, re.IGNORECASE) is not None if named else False
    return by_name or any(True for letter in letters for _ in lettered(text, letter))
