"""A finished trial that comes in whole: what is asked about it beside its file, and how its pieces came to their arms."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.plan.value import CameToArms
from orderly_bench.core.question.not_counted import read_stuck
from orderly_bench.core.responses.kind import Response
from orderly_bench.core.responses.registry import kind_of
from orderly_bench.core.typed import Asked, Kind, day, in_own_unit, named, one_of, read_those_typed, text
from orderly_bench.core.vocabulary import KnownBy

LONGEST_TRIAL = 730
#: Endpoints that a file of outcomes can carry; days to root where it has several looks.
ENDPOINTS = (Response.ROOTED, Response.ROOT_COUNT, Response.LONGEST, Response.DAYS)
#: What a row of a tally is, where no column names the unit.
TALLIED = named(("unit", "one tray or pot: one unit"), ("alone", "pieces that each stood alone"))
LOOKED_ON = N_("Looked at on")


@dataclass(frozen=True)
class OldTrial:
    """What is said of it.

    Attributes
    ----------
    factors : str
        Columns in which the arms differ, commas between.
    unit, block : str
        Columns, blank where there is none.
    came : CameToArms
        How the pieces came to their arms.
    told : str
        Who kept it, and where it is written.
    stuck : str
        How many an arm were stuck where the file has only some: a range, or not known; blank: it has all.
    tallied : str
        Of a row that counts several, where no column names the unit: *unit* or *alone*.
    margin : float or None
        The difference that would change what is done, in the endpoint's own unit; None: the lab's usual one.
    day : str
        Column of the day where each row is one of several looks at a cutting; blank: each row is a cutting.
    """

    plant: str
    factors: str
    stuck_on: date
    looked_on: date
    told: str
    came: CameToArms = CameToArms.NOT_KNOWN
    unit: str = ""
    block: str = ""
    endpoint: Response = Response.ROOTED
    way: KnownBy = KnownBy.LIFTED
    stuck: str = ""
    tallied: str = "unit"
    margin: float | None = None
    day: str = ""

    @property
    def columns(self) -> list[str]:
        """The factors' columns."""
        return [name.strip() for name in self.factors.split(",") if name.strip()]

    @property
    def days(self) -> int:
        """Days after sticking on which it was looked at."""
        return (self.looked_on - self.stuck_on).days


ASKED = (
    Asked("plant", N_("Botanical name of the plant"), text(120)), Asked("factors", N_("Columns in which the arms differ"), text(120)),
    Asked("unit", N_("Column of the pot or tray that cuttings shared"), text(60)), Asked("block", N_("Column of the blocks"), text(60)),
    Asked("tallied", N_("A row that counts several is"), TALLIED), Asked("day", N_("Column of the day of each look"), text(60)), Asked("stuck_on", N_("Stuck on"), day()), Asked("looked_on", LOOKED_ON, day()), Asked("way", N_("Roots known by"), one_of(KnownBy)),
    Asked("endpoint", N_("What was asked"), named(*((one, kind_of(one).heading.casefold()) for one in ENDPOINTS))),
    Asked("margin", N_("Difference that would change what you do"), in_own_unit()),
    Asked("stuck", N_("Stuck in each arm, where the file has not all"), Kind(lambda typed, _: read_stuck(typed), str, blank="", html={"maxlength": "40"})),
    Asked("came", N_("How the pieces came to their arms"), one_of(CameToArms)), Asked("told", N_("Who kept it, and where it is written"), text(200)),
)  # fmt: skip


def read_old(typed: Mapping[str, str], today: date) -> OldTrial:
    """What was typed.

    Raises
    ------
    InvalidInput
        Names the field and the rule.
    """
    found = OldTrial(**read_those_typed(ASKED, typed, ("plant", "factors", "stuck_on", "looked_on", "told")))
    if found.looked_on > today:
        raise InvalidInput(LOOKED_ON, _("lies in the future; a trial that runs is planned, not brought in"))
    if not 1 <= found.days <= LONGEST_TRIAL:
        rule = _("must lie 1 to {most} days after sticking", most=LONGEST_TRIAL)
        raise InvalidInput(LOOKED_ON, rule, _("{n} days", n=found.days))
    return found
