"""How a lot came to the bench: why it was taken, in what condition and weather, from whom, and who stuck it."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date
from enum import StrEnum

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import dated
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.stock.kept import Stage
from orderly_bench.core.typed import NUMBER_WORDS, Asked, day, lines, named, one_of, read_those_typed, text, whole

LONGEST = 120
BEST, MOST_PIECES = 5, 10_000


class Origin(StrEnum):
    """Why the pieces were there to be stuck."""

    NOT_SAID = "not said"
    PLANNED = "taken for the trial"
    PRUNING = "pruning"
    STORM = "storm damage"
    RESCUE = "rescue"
    GIFT = "gift"
    BOUGHT = "bought or sent in"


#: Pieces that nobody chose for a trial: the answer speaks of such pieces.
NOT_CHOSEN = (Origin.PRUNING, Origin.STORM, Origin.RESCUE, Origin.GIFT, Origin.BOUGHT)


@dataclass(frozen=True)
class Came:
    """What is known of how a lot came.

    Attributes
    ----------
    condition : int or None
        0 as good as dead to 5 fresh and turgid, on arrival; None where nobody looked.
    taken : str
        When in the day and in what weather.
    from_whom : str
        Supplier, and the number they gave it.
    arrived : date or None
        The day it came.
    how_many, dead_on_arrival : int or None
        Pieces that came, and of them dead.
    discarded : tuple of (str, int)
        Thrown away before sticking: reasons with how many.
    stuck_by : str
        Who stuck it.
    wood : str
        How ripe these shoots were, where that is not as their plant stands on the shelf; blank where nobody said.
    exposed : str
        What could have carried disease into it; blank where nothing is known to have.
    """

    origin: Origin = Origin.NOT_SAID
    condition: int | None = None
    taken: str = ""
    from_whom: str = ""
    stuck_by: str = ""
    exposed: str = ""
    wood: str = ""
    arrived: date | None = None
    how_many: int | None = None
    dead_on_arrival: int | None = None
    discarded: tuple[tuple[str, int], ...] = ()

    @property
    def words(self) -> str:
        """In one line; blank where nothing is said."""
        parts = [_(self.origin)] if self.origin is not Origin.NOT_SAID else []
        parts += (
            [_("condition {n} of {best}", n=str(self.condition), best=str(BEST))] if self.condition is not None else []
        )
        parts += [_("from {whom}", whom=self.from_whom)] if self.from_whom else []
        parts += [_("came on {day}", day=dated(self.arrived))] if self.arrived else []
        parts += self._counted()
        parts += [_("taken {when}", when=self.taken)] if self.taken else []
        parts += [_("stuck by {who}", who=self.stuck_by)] if self.stuck_by else []
        parts += [_("{wood} shoots", wood=_(self.wood))] if self.wood else []
        parts += [_("exposed: {why}", why=self.exposed)] if self.exposed else []
        return ", ".join(parts)

    def _counted(self) -> list[str]:
        parts = [_("{n:piece|pieces} came", n=self.how_many)] if self.how_many is not None else []
        parts += [_("{n} dead on arrival", n=str(self.dead_on_arrival))] if self.dead_on_arrival is not None else []
        if self.discarded:
            total = str(sum(n for _, n in self.discarded))
            parts.append(_("{total} thrown away: {reasons}", total=total, reasons=write_discarded(self.discarded)))
        return parts

    @property
    def measures(self) -> dict[str, str]:
        """What holds of every piece of the lot, by name of the measure."""
        return {"condition": str(self.condition)} if self.condition is not None else {}

    @property
    def in_scope(self) -> str:
        """What the answer's scope says of such pieces; blank where they were taken for the trial, or nobody said."""
        return _(self.origin) if self.origin in NOT_CHOSEN else ""


UNSAID = Came()
_DISCARDED = re.compile(r"(?P<n>\d{1,4})(?: x)? +(?P<why>.{1,40})")
_BEHIND = re.compile(r"(?P<why>[^\d]{1,38}[^\d :])[ :]+(?P<n>\d{1,4})")
_NUMBER_WORD = re.compile(rf"^(?:{'|'.join(NUMBER_WORDS)})\b", re.IGNORECASE)


def read_discarded(typed: str) -> tuple[tuple[str, int], ...]:
    """How many were thrown away, by reason.

    Raises
    ------
    InvalidInput
        A part that is no number with a reason behind it.

    >>> read_discarded("3 broken, 2 soft; 1 broken")
    (('broken', 4), ('soft', 2))
    """
    found: dict[str, int] = {}
    for part in re.split(r"[,;\n]", typed):
        if not part.strip():
            continue
        words = _NUMBER_WORD.sub(lambda found: str(NUMBER_WORDS[found[0].lower()]), " ".join(part.split()))
        hit = _DISCARDED.fullmatch(words) or _BEHIND.fullmatch(words)
        if hit is None:
            raise InvalidInput(
                "thrown away before sticking",
                _("write a number and why, such as: 3 broken, 2 soft"),
                part.strip()[:40],
            )
        found[hit["why"]] = found.get(hit["why"], 0) + int(hit["n"])
    return tuple(found.items())


def write_discarded(kept: tuple[tuple[str, int], ...]) -> str:
    """As it would be typed."""
    return ", ".join(f"{n} {why}" for why, n in kept)


#: How ripe the shoots of a lot can be.
WOOD = (("", N_("as its plant")), *((stage.value, stage.value) for stage in Stage if stage is not Stage.NOT_SAID))
#: What could carry disease into a lot.
EXPOSED = (
    ("", N_("nothing known")), ("a donor that was not well", N_("a donor that was not well")), ("one dish for all", N_("one dish for all")),
    ("pots used before", N_("pots used before")), ("one water for all", N_("one water for all")),
)  # fmt: skip
ASKED = (
    Asked("origin", N_("Why it was taken"), one_of(Origin)),
    Asked("condition", N_("Condition on arrival, 0 to 5"), whole(0, BEST, None)),
    Asked("taken", N_("Taken when, in what weather"), text(LONGEST)),
    Asked("from_whom", N_("From whom, and their number"), text(LONGEST)),
    Asked("arrived", N_("Came on"), day()),
    Asked("how_many", N_("How many came"), whole(0, MOST_PIECES, None)),
    Asked("dead_on_arrival", N_("Dead on arrival"), whole(0, MOST_PIECES, None)),
    Asked(
        "discarded",
        N_("Thrown away before sticking, such as: 3 broken, 2 soft"),
        lines(read_discarded, write_discarded),
    ),
    Asked("stuck_by", N_("Stuck by"), text(LONGEST)),
    Asked("wood", N_("Wood of these shoots"), named(*WOOD)),
    Asked("exposed", N_("Exposed to disease by"), named(*EXPOSED)),
)


def read_came(typed: Mapping[str, str]) -> Came:
    """As typed, by name of the field; blank is not said.

    Raises
    ------
    InvalidInput
        Names the field and the rule; more dead than came.
    """
    made = Came(**read_those_typed(ASKED, typed))
    if made.dead_on_arrival is not None and made.how_many is not None and made.dead_on_arrival > made.how_many:
        raise InvalidInput(
            "dead on arrival", _("can't be more than the {n} that came", n=made.how_many), made.dead_on_arrival
        )
    return made


def as_typed(came: Came) -> dict[str, str]:
    """The fields as they would be typed, those left blank not among them."""
    return {
        one.name: said
        for one in ASKED
        if (value := getattr(came, one.name)) not in (None, "", (), Origin.NOT_SAID)
        and (said := one.kind.text_of(value))
    }
