"""What every response says of itself: its scale, what no difference is, how it is read, and its name."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from enum import StrEnum

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.vocabulary import Score, State

DEAD = (State.DEAD, State.TAKEN_OUT_DEAD)


class Response(StrEnum):
    """What was scored."""

    ROOTED = "rooted"
    FIT = "fit_to_pot_on"
    ALIVE = "alive"
    ROOT_COUNT = "root_count"
    LONGEST = "longest_root_mm"
    QUALITY = "quality"
    FOLIAGE = "foliage"
    ROOT_CLASS = "root_class"
    DAYS = "days_to_root"


class Scale(StrEnum):
    """How two arms are compared."""

    YES_NO = "difference of rates"
    NUMBER = "ratio of means"
    LENGTH = "shift in mm"
    GRADES = "probability of superiority"
    DAYS = "difference of rooted-days"


#: What means no difference on each scale.
NOTHING = {Scale.YES_NO: 0.0, Scale.NUMBER: 1.0, Scale.LENGTH: 0.0, Scale.GRADES: 0.5, Scale.DAYS: 0.0}

#: From a score at the endpoint and whether it counts as rooted, to a value; None is unknown.
FromScore = Callable[[Score | None, bool | None], float | None]
#: From a cell of a table, with its column and line; None for a blank.
FromCell = Callable[[str, str, int], float | None]


@dataclass(frozen=True)
class Kind:
    """One response.

    Attributes
    ----------
    heading, unit : str
        What it is called, and what its estimate by arm is.
    ends : tuple of float or None
        Least and greatest value that an unknown cutting could have had; None where there is no greatest.
    described_beyond : float
        Share of unknown outcomes in an arm beyond which it is described and not tested; 1 where the range over all assignments
        judges instead.
    did : str
        What a cutting did that counts, in words.
    asked : str
        What a question asks for, in its sentence.
    effect : str
        What a difference of two arms is called where space is short.
    hurdled : bool
        Only rooted cuttings have it to speak of, so that it can't be called the same where rooting is not.
    """

    response: Response
    scale: Scale
    heading: str
    unit: str
    from_cell: FromCell
    from_score: FromScore
    ends: tuple[float, float] | None = None
    described_beyond: float = 0.2
    did: str = "scored above 0"
    asked: str = ""
    effect: str = "points"
    hurdled: bool = False

    @property
    def yes_no(self) -> bool:
        """Whether a cutting counts as one or none."""
        return self.scale is Scale.YES_NO

    @property
    def graded(self) -> bool:
        """Ordered grades, compared by rank."""
        return self.scale is Scale.GRADES

    @property
    def margin_of_values(self) -> bool:
        """Whether the margin is in the unit of the values themselves: mm, days."""
        return self.scale in (Scale.LENGTH, Scale.DAYS)

    @property
    def nothing(self) -> float:
        """The estimate that means no difference."""
        return NOTHING[self.scale]

    def inside(self, margin: float | None) -> tuple[float, float] | None:
        """Ends of what is too small to matter, on the scale of the estimate; None without a margin.

        Raises
        ------
        InvalidInput
            A margin that is none on that scale: points as a proportion below 1; a ratio above 1; mm or days above 0; a
            distance from one half below 0.5.
        """
        if margin is None:
            return None
        holds, rule = {
            Scale.YES_NO: (0 < margin < 1, _("must lie above 0 and below 1, such as 0.15 for 15 points")),
            Scale.NUMBER: (1 < margin < 1e6, _("is a ratio of means here: above 1, such as 1.25")),
            Scale.GRADES: (0 < margin < 0.5, _("is a distance from one half here: above 0 and below 0.5")),
            Scale.LENGTH: (0 < margin < 1e6, _("must be above 0, in mm")),
            Scale.DAYS: (0 < margin < 1e6, _("must be above 0, in days")),
        }[self.scale]
        if not holds:
            raise InvalidInput("margin", rule, margin)
        if self.scale is Scale.NUMBER:
            return 1 / margin, margin
        return self.nothing - margin, self.nothing + margin
