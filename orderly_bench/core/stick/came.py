"""How a lot came to the bench: why it was taken, in what condition and weather, from whom, and who stuck it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum

from orderly_bench.core.messages.words import shown, tell, word
from orderly_bench.core.stock.kept import Stage
from orderly_bench.core.typed import Asked, named, one_of, read_those_typed, text, whole

LONGEST = 120
BEST = 5


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
        Supplier, number, how many, how many dead on arrival.
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

    @property
    def words(self) -> str:
        """In one line; blank where nothing is said."""
        parts = [shown(self.origin)] if self.origin is not Origin.NOT_SAID else []
        parts += (
            [tell("condition {n} of {best}", n=str(self.condition), best=str(BEST))]
            if self.condition is not None
            else []
        )
        parts += [tell("from {whom}", whom=self.from_whom)] if self.from_whom else []
        parts += [tell("taken {when}", when=self.taken)] if self.taken else []
        parts += [tell("stuck by {who}", who=self.stuck_by)] if self.stuck_by else []
        parts += [tell("{wood} shoots", wood=shown(self.wood))] if self.wood else []
        parts += [tell("exposed: {why}", why=self.exposed)] if self.exposed else []
        return ", ".join(parts)

    @property
    def in_scope(self) -> str:
        """What the answer's scope says of such pieces; blank where they were taken for the trial, or nobody said."""
        return shown(self.origin) if self.origin in NOT_CHOSEN else ""


UNSAID = Came()
#: How ripe the shoots of a lot can be.
WOOD = (("", word("as its plant")), *((stage.value, stage.value) for stage in Stage if stage is not Stage.NOT_SAID))
#: What could carry disease into a lot.
EXPOSED = (
    ("", word("nothing known")), ("a donor that was not well", word("a donor that was not well")), ("one dish for all", word("one dish for all")),
    ("pots used before", word("pots used before")), ("one water for all", word("one water for all")),
)  # fmt: skip
ASKED = (
    Asked("origin", word("Why it was taken"), one_of(Origin)),
    Asked("condition", word("Condition on arrival, 0 to 5"), whole(0, BEST, None)),
    Asked("taken", word("Taken when, in what weather"), text(LONGEST)),
    Asked("from_whom", word("From whom, how many, dead on arrival"), text(LONGEST)),
    Asked("stuck_by", word("Stuck by"), text(LONGEST)),
    Asked("wood", word("Wood of these shoots"), named(*WOOD)),
    Asked("exposed", word("Exposed to disease by"), named(*EXPOSED)),
)


def read_came(typed: Mapping[str, str]) -> Came:
    """As typed, by name of the field; blank is not said.

    Raises
    ------
    InvalidInput
        Names the field and the rule.
    """
    return Came(**read_those_typed(ASKED, typed))


def as_typed(came: Came) -> dict[str, str]:
    """The fields as they would be typed, those left blank not among them."""
    return {
        one.name: said
        for one in ASKED
        if (value := getattr(came, one.name)) not in (None, "", Origin.NOT_SAID) and (said := one.kind.text_of(value))
    }
