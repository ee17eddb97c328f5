"""The things of the stock as plain values, with how they are typed: stock plants, benches, recipes, method cards."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date
from enum import StrEnum
from types import MappingProxyType

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.measures import Measure
from orderly_bench.core.messages.numbers import plain
from orderly_bench.core.messages.translation import Typed, dated
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.plan.recipe import read_recipe, spelled_out
from orderly_bench.core.stock.listed import Listed
from orderly_bench.core.typed import (
    Asked,
    Kind,
    day,
    number,
    one_of,
    quantity,
    read_measured,
    read_number,
    text,
    ticked,
    whole,
)

LONGEST_CODE, LONGEST_NAME, LONGEST_TEXT, LONGEST_WAY, LONGEST_SIGNS = 40, 120, 500, 240, 300
#: Days after sticking that a card may name.
LATEST_CARD_DAY = 1_000


class Stage(StrEnum):
    """How ripe the wood of a stock plant is."""

    SOFT = "soft"
    SEMI_HARD = "semi-hard"
    HARD = "hard"
    NOT_SAID = "not said"


class Flowering(StrEnum):
    """Whether a stock plant flowers, which its wood does not tell."""

    NONE = "no flowers"
    BUD = "in bud"
    FLOWER = "in flower"
    FRUIT = "in fruit"
    NOT_SAID = "not said"


class Grows(StrEnum):
    """Where a stock plant grows."""

    POT = "in a pot"
    GROUND = "in the ground"
    COVER = "under cover"
    NOT_SAID = "not said"


class LessonKind(StrEnum):
    """What is to be done with what was learned."""

    KEEP = "keep"
    CHANGE = "change"
    STOP = "stop"


@dataclass(frozen=True)
class StockPlant:
    """A donor.

    Attributes
    ----------
    code : str
        What stands on its label; unlike the others by more than case.
    age_years : float or None
    most_to_take : int or None
        Cuttings that may be taken from it at once.
    health_day : date or None
        When its health was looked at.
    gone : bool
        Nothing is taken from it any more.
    """

    code: str
    taxon: str
    source: str = ""
    age_years: float | None = None
    health: str = ""
    stage: Stage = Stage.NOT_SAID
    most_to_take: int | None = None
    flowering: Flowering = Flowering.NOT_SAID
    grows: Grows = Grows.NOT_SAID
    health_day: date | None = None
    gone: bool = False

    @property
    def words(self) -> str:
        """What is known of it, in one line; blank where nothing was said."""
        said = [one.value for one in (self.grows, self.stage, self.flowering) if one.value != "not said"]
        said += [_("{years:g} years", years=self.age_years)] if self.age_years is not None else []
        health = (
            _("{health} on {day}", health=self.health, day=dated(self.health_day))
            if self.health and self.health_day
            else self.health
        )
        return ", ".join(filter(None, [*said, health, self.source]))


@dataclass(frozen=True)
class BenchKept:
    """A bench; sizes in centimetres, None where nobody measured."""

    name: str
    length_cm: float | None = None
    width_cm: float | None = None
    gradient: str = ""


@dataclass(frozen=True)
class RecipeKept:
    """A recipe in parts, under a name; ``litres`` of it stand ready, None where nobody said."""

    name: str
    text: str = ""
    litres: float | None = None


@dataclass(frozen=True)
class MethodCard:
    """How a kind of cutting of a taxon is rooted here.

    Attributes
    ----------
    rooted, stuck : int or None
        Own batches: k of n. None where the rate is a typed one.
    rate : float or None
        A typed rate, 0 to 1, from a book or from experience; own counts stand before it.
    weeks_least, weeks_most : int or None
        Weeks to root.
    care : str
        Care rules.
    way : str
        The way that stands, with the trial it was adopted from.
    steps : str
        What is done at the tray, in its order, with ; between; blank: the usual ones.
    low_c, high_c : float or None
        Band of the air that such cuttings want, °C; both or neither.
    first_look, dead_from : int or None
        Days after sticking: when a first look is worth it, and before which nothing is called dead.
    window, needs, signs : str
        When in the year they are taken; what they need; how they fail, and what it looks like.
    """

    taxon: str
    cutting_type: str
    rate: float | None = None
    rooted: int | None = None
    stuck: int | None = None
    weeks_least: int | None = None
    weeks_most: int | None = None
    care: str = ""
    way: str = ""
    steps: str = ""
    low_c: float | None = None
    high_c: float | None = None
    first_look: int | None = None
    dead_from: int | None = None
    window: str = ""
    needs: str = ""
    signs: str = ""

    @property
    def known_rate(self) -> float | None:
        """Own where there is one, else the typed one."""
        return self.rooted / self.stuck if self.rooted is not None and self.stuck else self.rate

    @property
    def own(self) -> bool:
        """Whether the rate was counted here."""
        return self.rooted is not None and bool(self.stuck)

    @property
    def told(self) -> list[str]:
        """When they are taken and looked at, what they need and how they fail, a line each, as far as it is said."""
        first, dead = self.first_look, self.dead_from
        return [
            *([_("Taken {window}", window=Typed(self.window))] if self.window else []),
            *([_("First look on day {day}", day=str(first))] if first is not None else []),
            *([_("Nothing is called dead before day {day}", day=str(dead))] if dead is not None else []),
            *([_("Needs {needs}", needs=Typed(self.needs))] if self.needs else []),
            *([_("Fails by {signs}", signs=Typed(self.signs))] if self.signs else []),
        ]


def check_plant(plant: StockPlant) -> StockPlant:
    """A stock plant as it may be kept.

    Raises
    ------
    InvalidInput
        Names the field and what it must be.
    """
    _text(_("code of the stock plant"), plant.code, LONGEST_CODE, needed=True)
    _text("taxon", plant.taxon, LONGEST_NAME, needed=True)
    _text("source", plant.source, LONGEST_NAME)
    _text("health", plant.health, LONGEST_NAME)
    _between("age, years", plant.age_years, 0, 1_000)
    _between(_("most to take"), plant.most_to_take, 0, 10_000)
    if plant.health_day is not None and not plant.health.strip():
        raise InvalidInput("health", _("say what was seen on that day"), dated(plant.health_day))
    return plant


def check_bench(bench: BenchKept) -> BenchKept:
    """A bench as it may be kept."""
    _text(_("name of the bench"), bench.name, 80, needed=True)
    _text("gradient", bench.gradient, LONGEST_NAME)
    _between("length, cm", bench.length_cm, 10, 20_000)
    _between("width, cm", bench.width_cm, 10, 20_000)
    return bench


def check_recipe(recipe: RecipeKept, known: Mapping[str, str] = MappingProxyType({})) -> RecipeKept:
    """A recipe that can be read in parts, and is no part of itself; ``known`` are the others, by name in small letters."""
    _text(_("name of the recipe"), recipe.name, LONGEST_NAME, needed=True)
    spelled_out(read_recipe(recipe.text), known, (recipe.name.strip().casefold(),))
    _between("litres ready", recipe.litres, 0, 100_000)
    return recipe


def check_card(card: MethodCard) -> MethodCard:
    """A method card as it may be kept."""
    _text("taxon", card.taxon, LONGEST_NAME, needed=True)
    _text("cutting type", card.cutting_type, LONGEST_NAME, needed=True)
    _text("care", card.care, LONGEST_TEXT)
    _text(_("the way that stands"), card.way, LONGEST_WAY)
    _between(_("first look, day"), card.first_look, 1, LATEST_CARD_DAY)
    _between(_("nothing called dead before day"), card.dead_from, 1, LATEST_CARD_DAY)
    _text(_("when they are taken"), card.window, LONGEST_NAME)
    _text(_("what they need"), card.needs, LONGEST_SIGNS)
    _text(_("how they fail"), card.signs, LONGEST_SIGNS)
    _between("rate", card.rate, 0, 1)
    _between(_("weeks to root, least"), card.weeks_least, 0, 520)
    _between(_("weeks to root, most"), card.weeks_most, card.weeks_least or 0, 520)
    if (card.low_c is None) != (card.high_c is None):
        raise InvalidInput(_("band of the air"), _("give both ends, or neither"))
    if card.low_c is not None and card.high_c is not None and not card.low_c < card.high_c:
        raise InvalidInput(_("band of the air"), _("put the lower end first"), card.low_c)
    if (card.rooted is None) != (card.stuck is None):
        raise InvalidInput("own rate", _("give both, how many rooted and of how many stuck"))
    if card.rooted is not None and card.stuck is not None and not 0 <= card.rooted <= card.stuck:
        raise InvalidInput(
            "own rate", _("rooted must be between 0 and the {stuck} stuck", stuck=card.stuck), card.rooted
        )
    return card


def _text(what: str, value: str, longest: int, needed: bool = False) -> None:
    if needed and not value.strip():
        raise InvalidInput(what, _("must be given"))
    if len(value) > longest:
        raise InvalidInput(what, _("keep it within {longest} characters", longest=longest), f"{len(value)} characters")


def _between(what: str, value: float | None, low: float, high: float) -> None:
    if value is not None and not low <= value <= high:
        raise InvalidInput(what, _("must be between {least} and {most}", least=plain(low), most=plain(high)), value)


def _percent() -> Kind:
    """A rate, 0 to 1, typed in per cent."""
    plain = number(0, 100, None)

    def read(typed: str, label: str) -> float:
        value = read_number(typed, label)
        plain.check(value, label)
        return value / 100

    return Kind(read, lambda rate: f"{100 * rate:g}", blank=None, html=plain.html)


def _litres() -> Kind:
    """Litres, or a volume with its unit behind it."""

    def read(typed: str, label: str) -> float:
        bare = typed.replace(",", ".").replace(".", "", 1).isdigit()
        return read_measured(f"{typed} L" if bare else typed, label, Measure.ML) / 1000

    return Kind(read, blank=None, html={"inputmode": "decimal"})


PLANTS = Listed(
    "plants",
    (
        Asked("code", N_("Code on its label"), text(LONGEST_CODE)), Asked("taxon", N_("Plant"), text(LONGEST_NAME)),
        Asked("grows", N_("Grows"), one_of(Grows)), Asked("stage", N_("Wood"), one_of(Stage)), Asked("flowering", N_("Flowers"), one_of(Flowering)),
        Asked("most_to_take", N_("Most to take at once, cuttings"), whole(0, 10_000, None)), Asked("age_years", N_("Age, years"), number(0, 1_000, None)),
        Asked("health", N_("Health"), text(LONGEST_NAME)), Asked("health_day", N_("Looked at on"), day()),
        Asked("source", N_("Where it came from"), text(LONGEST_NAME)), Asked("gone", N_("nothing is taken from it any more"), ticked()),
    ),
    ("code", "taxon"), StockPlant, check_plant,
)  # fmt: skip
BENCHES = Listed(
    "benches",
    (
        Asked("name", N_("Name"), text(80)), Asked("length_cm", N_("Length, cm"), quantity(Measure.CM, 10, 20_000, None)),
        Asked("width_cm", N_("Width, cm"), quantity(Measure.CM, 10, 20_000, None)), Asked("gradient", N_("What differs along it"), text(LONGEST_NAME)),
    ),
    ("name",), BenchKept, check_bench,
)  # fmt: skip
MEDIA = Listed(
    "media",
    (
        Asked("name", N_("Medium"), text(LONGEST_NAME)), Asked("text", N_("Parts"), text(LONGEST_TEXT)), Asked("litres", N_("Litres ready"), _litres()),
    ),
    ("name",), RecipeKept, check_recipe,
)  # fmt: skip
CARDS = Listed(
    "cards",
    (
        Asked("taxon", N_("Plant"), text(LONGEST_NAME)), Asked("cutting_type", N_("Cutting type"), text(LONGEST_NAME)),
        Asked("rooted", N_("Rooted here"), whole(0, 1_000_000, None)), Asked("stuck", N_("of so many stuck"), whole(1, 1_000_000, None)),
        Asked("rate", N_("Rate by a book, %"), _percent()), Asked("weeks_least", N_("Weeks to root, from"), whole(0, 520, None)),
        Asked("weeks_most", N_("to"), whole(0, 520, None)), Asked("care", N_("Care"), Kind(lambda typed, _: typed, str, blank="", html={"rows": "2", "maxlength": str(LONGEST_TEXT)})),
        Asked("way", N_("The way that stands"), text(LONGEST_WAY)), Asked("steps", N_("Steps at the tray, ; between"), text(LONGEST_TEXT)),
        Asked("low_c", N_("Air wanted, from °C"), number(-20, 60, None)), Asked("high_c", N_("to, °C"), number(-20, 60, None)),
        Asked("first_look", N_("First look, day"), whole(1, LATEST_CARD_DAY, None)),
        Asked("dead_from", N_("Nothing called dead before day"), whole(1, LATEST_CARD_DAY, None)),
        Asked("window", N_("When they are taken"), text(LONGEST_NAME)), Asked("needs", N_("What they need"), text(LONGEST_SIGNS)),
        Asked("signs", N_("How they fail, and what it looks like"), text(LONGEST_SIGNS)),
    ),
    ("taxon", "cutting_type"), MethodCard, check_card,
)  # fmt: skip
