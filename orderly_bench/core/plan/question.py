"""The question of a plan: what is asked, judged and known, and what would change what is done."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date
from enum import StrEnum

from orderly_bench.core.plan.said import said
from orderly_bench.core.responses.kind import Response


class TrialKind(StrEnum):
    """A test carries a verdict; a look never does; a rate is one arm, to plan by."""

    TEST = "test"
    LOOK = "look"
    RATE = "rate"


class Headline(StrEnum):
    """What the verdict speaks of, said beforehand."""

    FACTORS = "each factor, over the others"
    PAIRS = "pairs of arms"
    CONTROL = "each arm against the control"


@dataclass(frozen=True)
class KnownRate:
    """What was counted here before: so many rooted of so many stuck."""

    number: int
    rooted: int = said("rooted", 0)
    stuck: int = said("stuck", 0)
    source: str = said("counted in", "")


@dataclass(frozen=True)
class BookRate:
    """What is written elsewhere, in percent, and by whom; never pooled with what was counted here."""

    number: int
    low: float = said("from, %", 0.0)
    high: float = said("to, %", 0.0)
    author: str = said("written by", "")


@dataclass(frozen=True)
class Exploratory:
    """An endpoint beside the primary one, named beforehand; it suggests and does not decide.

    Attributes
    ----------
    day : int or None
        Day after sticking; None is the primary's.
    margin : float or None
        As typed, in the endpoint's own unit; None for none.
    """

    name: str
    day: int | None = said("day", None)
    margin: float | None = said("margin", None)


@dataclass(frozen=True)
class Question:
    """What is asked and how it is judged.

    Attributes
    ----------
    response : Response
        The primary endpoint; every other response is exploratory.
    margin_own : float or None
        The margin in the endpoint's own unit, where that is no share.
    dead_from_day : int or None
        Earliest day after sticking on which anything may be called dead; confirmed ``second_look_days`` later.
    anyway : str
        Why a test that can't convince, or can't tell its factor apart, was locked all the same; blank when it was not.
    """

    kind: TrialKind = said("kind of trial", TrialKind.TEST)
    botanical_name: str = said("botanical name", "")
    cultivar: str = said("cultivar", "")
    source: str = said("source of the plants", "")
    sentence: str = said("question", "")
    why: str = said("why it matters", "")
    endpoint_day: int = said("endpoint day", 42)  #: days after sticking
    margin_points: float = said("margin, points", 15.0)  #: percentage points
    alpha: float = said("alpha", 0.05)
    stop_rule: str = said("stop rule", "")
    fit_least_roots: int = said("fit to pot on, least roots", 3)
    fit_least_mm: float = said("fit to pot on, least length in mm", 10.0)  #: mm
    blind: bool = said("scoring blind", True)
    headline: Headline = said("the verdict speaks of", Headline.FACTORS)
    max_t: bool = said("against the control adjusted by the joint redraw", False)
    not_worse: bool = said("whether a cheaper way is not worse is asked", False)
    planned_looks: tuple[int, ...] = said("arms compared before the end, on day", ())  #: days after sticking
    response: Response = said("endpoint", Response.ROOTED)
    margin_own: float | None = said("margin, in the endpoint's unit", None)
    who_looks: str = said("who looks", "")
    dead_from_day: int | None = said("called dead from day", None)  #: days after sticking
    second_look_days: int = said("second look after days", 7)  #: days
    wanted_plants: int | None = said("plants wanted", None)
    wanted_by: date | None = said("wanted by", None)
    others: tuple[Exploratory, ...] = said("beside it", ())
    known: tuple[KnownRate, ...] = said("known here", ())
    book: tuple[BookRate, ...] = said("written elsewhere", ())
    anyway: str = said("locked all the same", "")

    @property
    def taxon(self) -> str:
        """Botanical name with its cultivar."""
        return f"{self.botanical_name} '{self.cultivar}'" if self.cultivar else self.botanical_name
