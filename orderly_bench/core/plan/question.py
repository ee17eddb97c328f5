"""The question of a plan: what is asked, judged and known, and what would change what is done."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date
from enum import StrEnum

from orderly_bench.core.measures import Measure
from orderly_bench.core.plan.part import Page, Part, said
from orderly_bench.core.plan.rates import BookRate, KnownRate, read_book, read_known, write_book, write_known
from orderly_bench.core.responses.classes import read_classes
from orderly_bench.core.responses.kind import Response
from orderly_bench.core.typed import Kind, day, in_own_unit, lines, measured, named, number, one_of, text, ticked, whole

LATEST_DAY = 1_000
#: Limits that the lab's usual settings share with a plan's.
MARGIN_POINTS = number(1, 99)
LEAST_ROOTS = whole(1, 100)
LEAST_MM = measured(Measure.MM, 0.001, 500)
HELD_HOURS = number(0, 720)
#: How often the plants wanted are to be there.
CERTAINTIES = named((95, "95 of 100"), (90, "90 of 100"), (80, "80 of 100"))
ASKED, DESIGNED = Page.QUESTION, Page.DESIGN


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


def own_classes() -> Kind:
    """Classes with commas between, or none."""
    return Kind(lambda typed, _: read_classes(typed), ", ".join, blank=(), html={"maxlength": "80"})


@dataclass(frozen=True)
class Exploratory(Part):
    """An endpoint beside the primary one, named beforehand; it suggests and does not decide.

    Attributes
    ----------
    day : int or None
        Day after sticking; None is the primary's.
    margin : float or None
        As typed, in the endpoint's own unit; None for none.
    """

    name: str
    day: int | None = said("day", None, whole(1, LATEST_DAY, None), ASKED)
    margin: float | None = said("margin", None, in_own_unit(), ASKED)


@dataclass(frozen=True)
class Question(Part):
    """What is asked and how it is judged.

    Attributes
    ----------
    response : Response
        The primary endpoint; every other response is exploratory.
    margin_own : float or None
        The margin in the endpoint's own unit, where that is no share.
    dead_from_day : int or None
        Earliest day after sticking on which anything may be called dead; confirmed ``second_look_days`` later.
    left_alone_until : int or None
        Day after sticking before which nothing is lifted, pulled at or dug for.
    anyway : str
        Why a test that can't convince, or can't tell its factor apart, was locked all the same; blank when it was not.
    """

    kind: TrialKind = said("kind of trial", TrialKind.TEST, one_of(TrialKind), ASKED)
    botanical_name: str = said("botanical name", "", text(120), ASKED)
    cultivar: str = said("cultivar", "", text(120), ASKED)
    source: str = said("source of the plants", "", text(200), ASKED)
    sentence: str = said("question", "", text(300), ASKED)
    why: str = said("why it matters", "", text(4_000), ASKED)
    endpoint_day: int = said("endpoint day", 42, whole(1, LATEST_DAY), ASKED)  #: days after sticking
    margin_points: float = said("margin, points", 15.0, MARGIN_POINTS, ASKED)  #: percentage points
    alpha: float = said("alpha", 0.05)
    stop_rule: str = said("stop rule", "", text(4_000), ASKED)
    fit_least_roots: int = said("fit to pot on, least roots", 3, LEAST_ROOTS, ASKED)
    fit_least_mm: float = said("fit to pot on, least length in mm", 10.0, LEAST_MM, ASKED)  #: mm
    held_most_hours: float = said("held between taking and sticking, hours at most", 12.0, HELD_HOURS, ASKED)
    blind: bool = said("scoring blind", True, ticked(), ASKED)
    headline: Headline = said("the verdict speaks of", Headline.FACTORS, one_of(Headline), DESIGNED)
    max_t: bool = said("against the control adjusted by the joint redraw", False, ticked(), DESIGNED)
    not_worse: bool = said("whether a cheaper way is not worse is asked", False, ticked(), DESIGNED)
    planned_looks: tuple[int, ...] = said("arms compared before the end, on day", ())  #: days after sticking
    response: Response = said("endpoint", Response.ROOTED, one_of(Response), ASKED)
    margin_own: float | None = said("margin, in the endpoint's unit", None, in_own_unit(), ASKED)
    who_looks: str = said("who looks", "", text(120), ASKED)
    dead_from_day: int | None = said("called dead from day", None, whole(1, LATEST_DAY, None), ASKED)  #: after sticking
    left_alone_until: int | None = said(
        "left alone until day", None, whole(1, LATEST_DAY, None), ASKED
    )  #: after sticking
    root_from_mm: float | None = said(
        "a root counts from, mm", None, measured(Measure.MM, 0.001, 500, None), ASKED
    )  #: mm; None is any root
    second_look_days: int = said("second look after days", 7, whole(1, 60), ASKED)  #: days
    root_classes: tuple[str, ...] = said("classes of root numbers", (), own_classes(), ASKED)
    wanted_plants: int | None = said("plants wanted", None, whole(1, 100_000, None), ASKED)
    wanted_by: date | None = said("wanted by", None, day(), ASKED)
    weeks_in_pot: int = said("weeks in the pot after rooting", 0, whole(0, 260, 0), ASKED)
    wanted_sure: int = said("how sure of enough, times in 100", 95, CERTAINTIES, ASKED)
    others: tuple[Exploratory, ...] = said("beside it", ())
    known: tuple[KnownRate, ...] = said("known here", (), lines(read_known, write_known), ASKED)
    book: tuple[BookRate, ...] = said("written elsewhere", (), lines(read_book, write_book), ASKED)
    anyway: str = said("locked all the same", "")

    @property
    def scored_blind(self) -> bool:
        """Whether arms are hidden from who scores: a rate has none to hide."""
        return self.blind and self.kind is not TrialKind.RATE

    @property
    def taxon(self) -> str:
        """Botanical name with its cultivar."""
        return f"{self.botanical_name} '{self.cultivar}'" if self.cultivar else self.botanical_name
