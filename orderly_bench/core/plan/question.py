"""The question of a plan: what is asked, judged and known, and what would change what is done."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date
from enum import StrEnum

from orderly_bench.core.measures import Measure
from orderly_bench.core.methods.looks import left_for_end
from orderly_bench.core.plan.part import Page, Part, plan_field
from orderly_bench.core.plan.rates import BookRate, KnownRate, read_book, read_known, write_book, write_known
from orderly_bench.core.responses.classes import read_classes
from orderly_bench.core.responses.kind import Response
from orderly_bench.core.typed import (
    Kind,
    day,
    in_own_unit,
    lines,
    named,
    number,
    one_of,
    quantity,
    read_whole,
    text,
    ticked,
    whole,
)

LATEST_DAY = 1_000
#: Limits that the lab's usual settings share with a plan's.
MARGIN_POINTS = number(1, 99)
LEAST_ROOTS = whole(1, 100)
LEAST_MM = quantity(Measure.MM, 0.001, 500)
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


def looked_on() -> Kind:
    """Days with commas between, ascending, or none."""

    def read(typed: str, label: str) -> tuple[int, ...]:
        return tuple(sorted({read_whole(part.strip(), label) for part in typed.split(",") if part.strip()}))

    return Kind(read, lambda days: ", ".join(map(str, days)), blank=(), html={"maxlength": "80"})


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
    day: int | None = plan_field("day", None, whole(1, LATEST_DAY, None), ASKED)
    margin: float | None = plan_field("margin", None, in_own_unit(), ASKED)


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

    kind: TrialKind = plan_field("kind of trial", TrialKind.TEST, one_of(TrialKind), ASKED)
    botanical_name: str = plan_field("botanical name", "", text(120), ASKED)
    cultivar: str = plan_field("cultivar", "", text(120), ASKED)
    source: str = plan_field("source of the plants", "", text(200), ASKED)
    sentence: str = plan_field("question", "", text(300), ASKED)
    why: str = plan_field("why it matters", "", text(4_000), ASKED)
    endpoint_day: int = plan_field("endpoint day", 42, whole(1, LATEST_DAY), ASKED)  #: days after sticking
    margin_points: float = plan_field("margin, points", 15.0, MARGIN_POINTS, ASKED)  #: percentage points
    alpha: float = plan_field("alpha", 0.05)
    stop_rule: str = plan_field("stop rule", "", text(4_000), ASKED)
    fit_least_roots: int = plan_field("fit to pot on, least roots", 3, LEAST_ROOTS, ASKED)
    fit_least_mm: float = plan_field("fit to pot on, least length in mm", 10.0, LEAST_MM, ASKED)  #: mm
    held_most_hours: float = plan_field("held between taking and sticking, hours at most", 12.0, HELD_HOURS, ASKED)
    blind: bool = plan_field("scoring blind", True, ticked(), ASKED)
    headline: Headline = plan_field("the verdict speaks of", Headline.FACTORS, one_of(Headline), DESIGNED)
    max_t: bool = plan_field("against the control adjusted by the joint redraw", False, ticked(), DESIGNED)
    not_worse: bool = plan_field("whether a cheaper way is not worse is asked", False, ticked(), DESIGNED)
    planned_looks: tuple[int, ...] = plan_field("arms compared before the end, on day", (), looked_on(), ASKED)  #: DAS
    response: Response = plan_field("endpoint", Response.ROOTED, one_of(Response), ASKED)
    margin_own: float | None = plan_field("margin, in the endpoint's unit", None, in_own_unit(), ASKED)
    who_looks: str = plan_field("who looks", "", text(120), ASKED)
    dead_from_day: int | None = plan_field(
        "called dead from day", None, whole(1, LATEST_DAY, None), ASKED
    )  #: after sticking
    left_alone_until: int | None = plan_field(
        "left alone until day", None, whole(1, LATEST_DAY, None), ASKED
    )  #: after sticking
    root_from_mm: float | None = plan_field(
        "a root counts from, mm", None, quantity(Measure.MM, 0.001, 500, None), ASKED
    )  #: mm; None is any root
    second_look_days: int = plan_field("second look after days", 7, whole(1, 60), ASKED)  #: days
    root_classes: tuple[str, ...] = plan_field("classes of root numbers", (), own_classes(), ASKED)
    wanted_plants: int | None = plan_field("plants wanted", None, whole(1, 100_000, None), ASKED)
    wanted_by: date | None = plan_field("wanted by", None, day(), ASKED)
    weeks_in_pot: int = plan_field("weeks in the pot after rooting", 0, whole(0, 260, 0), ASKED)
    wanted_sure: int = plan_field("how sure of enough, times in 100", 95, CERTAINTIES, ASKED)
    others: tuple[Exploratory, ...] = plan_field("beside it", ())
    known: tuple[KnownRate, ...] = plan_field("known here", (), lines(read_known, write_known), ASKED)
    book: tuple[BookRate, ...] = plan_field("written elsewhere", (), lines(read_book, write_book), ASKED)
    anyway: str = plan_field("locked all the same", "")

    @property
    def alpha_left(self) -> float:
        """Of alpha, what planned looks leave for the end, at least."""
        return left_for_end(self.alpha, len(self.planned_looks))

    @property
    def scored_blind(self) -> bool:
        """Whether arms are hidden from who scores: a rate has none to hide."""
        return self.blind and self.kind is not TrialKind.RATE

    @property
    def taxon(self) -> str:
        """Botanical name with its cultivar."""
        return f"{self.botanical_name} '{self.cultivar}'" if self.cultivar else self.botanical_name
