"""The hormone sheet: from what stands in the bottle to a dish for every level of hormone that is dipped, dusted or spread.

A level says its strength in its own words (*IBA 3000 ppm talc*, *K-IBA 0.1 % liquid, 5 s*); what it does not say is asked, never guessed.
Dilution is C1 V1 = C2 V2; ppm of a powder or gel are mg/kg and are not diluted here. Usual strengths by the wood: Hartmann and Kester's
Plant Propagation, 9th edition (2018), chapter 10.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.measures import NOTHING_GIVEN, PPM_IN, STRENGTH_NUMBER, STRENGTH_UNIT, strength_number
from orderly_bench.core.messages.translation import all_of
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.plan.aspects import AspectKind
from orderly_bench.core.plan.value import Plan
from orderly_bench.core.stock.ways import Way
from orderly_bench.core.sums.solutions import MOLAR, UNUSUAL_PPM, Active, Form, dilution, salt, weigh
from orderly_bench.core.typed import Asked, number, one_of, read_those_typed


class Taken(StrEnum):
    """How a hormone is taken up."""

    LIQUID = "liquid"
    POWDER = "powder"
    GEL = "gel"
    IN_WATER = "in the water"
    NOT_SAID = "not said"


@dataclass(frozen=True)
class Wanted:
    """What the words of a level say.

    Attributes
    ----------
    active : Active or None
        None of a brew or an active part that is not known here.
    ppm : float or None
        mg/L of a liquid, mg/kg of a powder or gel.
    as_salt : bool
        The strength is that of the potassium salt.
    seconds : float or None
    several : bool
        More than one active part is named.
    """

    active: Active | None
    ppm: float | None
    taken: Taken
    as_salt: bool
    seconds: float | None
    several: bool = False


@dataclass(frozen=True)
class Bottle:
    """What stands ready, and how much goes with a dip.

    Attributes
    ----------
    ppm : float
        Strength of the bottle, mg/L.
    holds : Form
        What that strength is of.
    alcohol : float
        Per cent of alcohol in it.
    each_ml, least_ml : float
        mL that a cutting carries off; mL in the dish below which a dip is too shallow.
    """

    ppm: float = 10_000.0
    holds: Form = Form.ACID
    alcohol: float = 50.0
    each_ml: float = 0.2
    least_ml: float = 20.0


USUAL = Bottle()
#: How each field of the bottle is typed.
ASKED = (
    Asked("ppm", N_("strength of the bottle, ppm"), number(1e-6, 1_000_000)),
    Asked("holds", N_("what is in the bottle"), one_of(Form)),
    Asked("alcohol", N_("alcohol in it, per cent"), number(0, 100)),
    Asked("each_ml", N_("mL carried off by a cutting"), number(0, 100)),
    Asked("least_ml", N_("least mL in a dish"), number(1, 10_000)),
)


def read_bottle(typed: Mapping[str, str]) -> Bottle:
    """The bottle as typed by name of its fields; what is left blank stays as it usually is.

    Raises
    ------
    InvalidInput
        Names the field and the rule.
    """
    return replace(USUAL, **read_those_typed(ASKED, typed))


def as_typed(bottle: Bottle) -> dict[str, str]:
    """The fields as they would be typed."""
    return {one.name: one.kind.text_of(getattr(bottle, one.name)) for one in ASKED}


@dataclass(frozen=True)
class Dish:
    """One level: what goes into its dish, or why nothing is mixed.

    Attributes
    ----------
    arms : tuple of str
        Letters of the arms it is for.
    dips : int
        Cuttings of those arms in one wave.
    ml, stock_ml, fill_ml : float or None
        Volume, of it from the bottle, and to fill up with; None where nothing is diluted.
    refused : str
        Why it can't be made from this bottle; blank where it can.
    """

    name: str
    arms: tuple[str, ...]
    dips: int
    wanted: Wanted
    ml: float | None = None
    stock_ml: float | None = None
    fill_ml: float | None = None
    working: tuple[str, ...] = ()
    says: tuple[str, ...] = ()
    refused: str = ""

    @property
    def mixed(self) -> bool:
        """Whether it is diluted from the bottle."""
        return self.stock_ml is not None


@dataclass(frozen=True)
class HormoneSheet:
    """All dishes of one wave, and what holds of them together."""

    dishes: tuple[Dish, ...]
    says: tuple[str, ...]
    working: tuple[str, ...] = ()

    @property
    def stock_ml(self) -> float:
        """Of the bottle, for all dishes."""
        return sum(dish.stock_ml or 0.0 for dish in self.dishes)


NOTHING = re.compile(rf"^(?:{'|'.join(sorted(NOTHING_GIVEN))})$", re.I)
#: Words that go with any hormone and name none.
OF_ANY_HORMONE = {
    "yes", "with", "hormone", "hormones", "auxin", "rooting", "treated", "powder", "talc", "dust", "gel", "liquid", "solution", "quick", "dip", "dipped",
    "soak", "soaked", "alcohol", "ethanol", "in", "low", "high", "middle", "medium", "weak", "strong", "half", "full", "strength", "dose", "double",
}  # fmt: skip
CARRIER = re.compile(r"^(?:carrier alone|talc alone|water dip|water)$", re.I)
_STRENGTH = re.compile(rf"({STRENGTH_NUMBER})\s*({STRENGTH_UNIT})", re.I)
_MOLAR = re.compile(rf"({STRENGTH_NUMBER})\s*(mM\b|mmol/[lL]|[uµμ]M\b|[uµμ]mol/[lL])")
_TIME = re.compile(r"(\d+(?:[.,]\d+)?)\s*(s|sec|secs|seconds?|min|mins|minutes?|h|hrs?|hours?)\b", re.I)
_SECONDS_IN = {"s": 1, "m": 60, "h": 3600}
_TAKEN = (
    (Taken.IN_WATER, re.compile(r"\b(?:in|to|with) (?:the |their |its )?(?:water|tank|jar)\b", re.I)),
    (Taken.POWDER, re.compile(r"\b(?:talc|powder|dust(?:ed)?)\b", re.I)),
    (Taken.GEL, re.compile(r"\bgel\b", re.I)),
    (Taken.LIQUID, re.compile(r"\b(?:liquid|solution|quick dip|alcohol|ethanol|soak(?:ed)?)\b", re.I)),
    (Taken.POWDER, re.compile(r"m?g/kg|[muµμ]g/g", re.I)),
    (Taken.LIQUID, re.compile(r"m?g/l|[muµμ]g/ml|mol/l|(?-i:[muµμ]M\b)", re.I)),
)
_SALT = re.compile(r"\b(?:k[- ]?(?:iba|naa|salt)|(?:iba|naa)[- ]?\(?k)\b|potassium", re.I)
_WOOD = (("semi-hard", (1_000, 3_000)), ("soft", (500, 1_500)), ("hard", (2_500, 8_000)))
#: Beyond so many times the usual strength, or below its tenth, a zero is asked about.
TENFOLD = 10


def read_level(name: str) -> Wanted:
    """What the words of a level of hormone say.

    >>> read_level("K-IBA 0.1 % liquid, 5 s")
    Wanted(active=<Active.IBA: 'iba'>, ppm=1000.0, taken=<Taken.LIQUID: 'liquid'>, as_salt=True, seconds=5.0, several=False)
    >>> read_level("tea of young bark, a night").active is None
    True
    """
    low = name.casefold()
    named = [one for one in Active if re.search(rf"\b(?:k[- ]?)?{one.value}\b", low)]
    active = named[0] if named else None
    strength = _STRENGTH.search(name)
    time = _TIME.search(name)
    salt = _SALT.search(name) is not None
    taken = next((how for how, words in _TAKEN if words.search(name)), Taken.NOT_SAID)
    if taken is Taken.NOT_SAID and time:
        taken = Taken.LIQUID
    seconds = None if time is None else float(time[1].replace(",", ".")) * _SECONDS_IN[time[2][0].lower()]
    ppm = _ppm(strength) if strength else _of_moles(name, active, salt)
    return Wanted(active, ppm, taken, salt, seconds, len(named) > 1)


def _ppm(found: re.Match[str]) -> float:
    unit = found[2].casefold()
    return round(strength_number(found[1], unit) * PPM_IN[unit], 6)


def _of_moles(name: str, active: Active | None, salt: bool) -> float | None:
    """ppm of a strength in mmol or umol to a litre, by the active part's mass, as acid or as salt."""
    found = _MOLAR.search(name)
    if found is None or active is None:
        return None
    mmol = strength_number(found[1], "") * (1 if found[2].startswith("m") else 1e-3)
    return round(mmol * MOLAR[active][Form.SALT if salt else Form.ACID], 1)


def unproven(levels: Iterable[str]) -> list[str]:
    """Levels of hormone that are a brew or name no active part that is known here: their strength is unknown.

    >>> unproven(["IBA 3000 ppm talc", "none", "tea of young bark", "honey", "500 ppm"])
    ['tea of young bark', 'honey']
    """
    return [name for name in _without_active(levels) if not _names_nothing(name)]


def of_what_hormone(levels: Iterable[str]) -> list[str]:
    """Levels that say how strong, how or that a hormone was given, and not which.

    >>> of_what_hormone(["none", "500 ppm", "0.1 % talc, 5 s", "yes", "K-IBA 0.1 %", "honey 10 %"])
    ['500 ppm', '0.1 % talc, 5 s', 'yes']
    """
    return [name for name in _without_active(levels) if _names_nothing(name)]


def _without_active(levels: Iterable[str]) -> list[str]:
    named = dict.fromkeys(level.strip() for level in levels)
    return [name for name in named if name and not NOTHING.match(name) and read_level(name).active is None]


def _names_nothing(name: str) -> bool:
    """Whether nothing is left of a level's words but how strong, how long and in what form."""
    for said in (_STRENGTH, _MOLAR, _TIME):
        name = said.sub(" ", name)
    return all(word in OF_ANY_HORMONE for word in re.findall(r"[^\W\d_]+", name.casefold()))


def usual_for(wood: str) -> tuple[int, int] | None:
    """Usual strengths of a quick dip for a kind of wood, ppm; None where the words name none.

    >>> usual_for("semi-hard tip"), usual_for("heel")
    ((1000, 3000), None)
    """
    return next((range_ for name, range_ in _WOOD if re.search(rf"\b{name}", wood.casefold())), None)


def own_strengths(ways: Mapping[str, Sequence[Way]]) -> list[str]:
    """Strengths that were given here before, by cutting type and way, with what came of them; the best of several is no promise."""
    return [
        _("{kind}, {way}: {words} in {trial} (own)", kind=kind, way=one.way, words=one.words, trial=one.trial)
        for kind, own in ways.items()
        for one in own
        if one.known and read_level(one.way).ppm is not None
    ]


def sheet_of(plan: Plan, bottle: Bottle = USUAL) -> HormoneSheet | None:
    """The sheet of a plan; None where no arm has a hormone.

    Dishes hold what one wave takes: what is poured out is thrown away after it.
    """
    aspect = plan.treatments.of_kind(AspectKind.HORMONE)
    if aspect is None:
        return None
    of_level: dict[str, list[str]] = {}
    for arm in plan.treatments.arms:
        level = plan.treatments.value(arm, aspect)
        if level is not None:
            of_level.setdefault(level.name, []).append(arm.id)
    if all(NOTHING.match(name.strip()) for name in of_level):
        return None
    dishes = tuple(
        _dish(
            name,
            tuple(arms),
            sum(plan.cuttings_of(plan.treatments.arm(arm)) for arm in arms),
            bottle,
            _usual(plan, arms),
        )
        for name, arms in of_level.items()
    )
    return HormoneSheet(dishes, _together(dishes, bottle), _solid(dishes, bottle))


def _usual(plan: Plan, arms: Sequence[str]) -> tuple[int, int] | None:
    """What is usual for the wood of these arms; None where they differ or do not say."""
    aspect = plan.treatments.of_kind(AspectKind.CUTTING_TYPE)
    if aspect is None:
        return None
    levels = [plan.treatments.value(plan.treatments.arm(arm), aspect) for arm in arms]
    found = {usual_for(level.name) if level else None for level in levels}
    return found.pop() if len(found) == 1 else None


def _dish(name: str, arms: tuple[str, ...], dips: int, bottle: Bottle, usual: tuple[int, int] | None) -> Dish:
    wanted = read_level(name)
    if NOTHING.match(name.strip()):
        return Dish(name, arms, dips, wanted, says=_of_nothing(name, bottle))
    if of_what_hormone([name]):
        return Dish(name, arms, dips, wanted, says=(_("No hormone is named: say on Question which it is (IBA, NAA)."),))
    if wanted.active is None:
        says = (
            _("Unproven, its strength unknown: write down what went in, how much and how long; a blank of the same soak without it shows what it adds."),
        )  # fmt: skip
        return Dish(name, arms, dips, wanted, says=says)
    if wanted.several:
        says = (
            _("Two active parts are named, and a dish here holds one: work out each with *dilution* on Sums, pour both into one dish and fill up to its volume once."),
        )  # fmt: skip
        return Dish(name, arms, dips, wanted, says=says)
    if wanted.ppm is None:
        return Dish(name, arms, dips, wanted, says=(_("No strength is said: name it on Question in ppm or per cent."),))
    asked = _asked(wanted, usual)
    if wanted.taken in (Taken.POWDER, Taken.GEL):
        return Dish(name, arms, dips, wanted, says=(*_not_diluted(wanted), *asked))
    if wanted.taken is Taken.IN_WATER:
        return Dish(
            name,
            arms,
            dips,
            wanted,
            says=(
                _("Goes into the water of the vessels: mix the vessels' litres with the sum *weigh* on Sums."),
                *asked,
            ),
        )
    return _diluted(Dish(name, arms, dips, wanted, says=asked), bottle)


def _diluted(dish: Dish, bottle: Bottle) -> Dish:
    """A dish from the bottle; strengths are held against each other as the same thing, acid or salt."""
    wanted = dish.wanted
    assert wanted.active is not None and wanted.ppm is not None
    as_bottle, working = wanted.ppm, list[str]()
    if wanted.as_salt and bottle.holds is Form.ACID:
        answer = salt(wanted.active, wanted.ppm, None)
        as_bottle, working = answer.result["acid_mg_per_l"], list(answer.working)
    elif not wanted.as_salt and bottle.holds is Form.SALT:
        answer = salt(wanted.active, None, wanted.ppm)
        as_bottle, working = answer.result["k_salt_mg_per_l"], list(answer.working)
    ml = max(bottle.least_ml, dish.dips * bottle.each_ml)
    working.append(
        _("{dips:dip|dips} x {each:g} mL = {lost:.3g} mL carried off; at least {least:g} mL in the dish: {ml:.3g} mL",
            dips=dish.dips, each=bottle.each_ml, lost=dish.dips * bottle.each_ml, least=bottle.least_ml, ml=ml)
    )  # fmt: skip
    says = list(dish.says)
    if wanted.taken is Taken.NOT_SAID:
        says.append(_("Powder, gel or liquid is not said; this is mixed as a liquid."))
    if wanted.seconds is None:
        says.append(_("Seconds in the dish are not said: dip all alike, and say how long."))
    try:
        mixed = dilution(bottle.ppm, as_bottle, ml)
    except InvalidInput:
        why = _(
            "{want:.4g} ppm can't be made from a bottle of {stock:g} ppm: take a stronger one.",
            want=as_bottle,
            stock=bottle.ppm,
        )
        return Dish(dish.name, dish.arms, dish.dips, wanted, says=tuple(says), refused=why)
    parts = mixed.result
    return Dish(
        dish.name,
        dish.arms,
        dish.dips,
        wanted,
        ml,
        parts["stock_ml"],
        parts["diluent_ml"],
        (*working, *mixed.working),
        tuple(says),
    )


def _of_nothing(name: str, bottle: Bottle) -> tuple[str, ...]:
    if CARRIER.match(name.strip()):
        return (
            _(
                "The blank: dip it as long and as deep as the others, in the same liquid or powder without the active part."
            ),
        )
    if bottle.alcohol:
        return (
            _("Nothing is dipped: what the dip itself and its {n:g} % alcohol do can't be told from the hormone without an arm that gets the carrier alone.", n=bottle.alcohol),
        )  # fmt: skip
    return (_("Nothing is dipped: a dip in water alone would show what the wetting does."),)


def _not_diluted(wanted: Wanted) -> tuple[str, ...]:
    what = _("powder") if wanted.taken is Taken.POWDER else _("gel")
    return (
        _("{ppm:g} ppm of a {what} are mg/kg ({percent:g} %), not comparable with a liquid: use the grade as bought, never thinned.", ppm=wanted.ppm, what=what, percent=(wanted.ppm or 0) / 10_000),
        _("Tip a little into the dish, tap off what hangs, throw the rest away: nothing goes back into the pot."),
    )  # fmt: skip


def _asked(wanted: Wanted, usual: tuple[int, int] | None) -> tuple[str, ...]:
    """What is usual for the wood, and a question where a zero may be wrong."""
    ppm = wanted.ppm or 0.0
    if usual is None:
        return (
            (_("{ppm:,.0f} ppm is more than cuttings usually get: is there a zero too many?", ppm=ppm),)
            if ppm > UNUSUAL_PPM
            else ()
        )
    low, high = usual
    book = _("Usual for this wood: {low:,.0f} to {high:,.0f} ppm (book).", low=float(low), high=float(high))
    if ppm >= TENFOLD * high or ppm <= low / TENFOLD:
        return (book, _("{ppm:g} ppm is ten times off what is usual: is a zero wrong?", ppm=ppm))
    return (book,)


def _together(dishes: Sequence[Dish], bottle: Bottle) -> tuple[str, ...]:
    """What holds of all dishes: alcohol, forms that differ, what is poured out."""
    says = []
    mixed = [dish for dish in dishes if dish.mixed]
    if mixed and bottle.alcohol:
        shares = sorted({round(bottle.alcohol * (dish.stock_ml or 0) / (dish.ml or 1), 1) for dish in mixed})
        if len(shares) > 1:
            says.append(
                _("Filled up with water the dishes would hold {shares} % alcohol, which then goes with the strength: fill up with alcohol of {n:g} % instead.",
                    shares=all_of([f"{share:g}" for share in shares]), n=bottle.alcohol)
            )  # fmt: skip
        else:
            says.append(
                _("Fill up with alcohol of {n:g} %, so that the dish holds what the bottle holds.", n=bottle.alcohol)
            )
    forms = {dish.wanted.taken for dish in dishes if dish.wanted.ppm is not None} - {Taken.NOT_SAID}
    if len(forms) > 1:
        says.append(
            _(
                "{forms} stand side by side: their strengths are not compared across forms.",
                forms=all_of(sorted(forms)),
            )
        )
    if mixed:
        says.append(
            _("Write name, strength and day on every dish; use it the same day, throw the rest away as its label says, and never dip into the bottle.")
        )  # fmt: skip
    return tuple(says)


def _solid(dishes: Sequence[Dish], bottle: Bottle) -> tuple[str, ...]:
    """Weighing out the bottle itself, for the mL all dishes take, from the solid."""
    mixed = [dish for dish in dishes if dish.mixed]
    actives = {dish.wanted.active for dish in mixed}
    if len(actives) != 1 or (active := actives.pop()) is None:
        return ()
    ml = sum(dish.stock_ml or 0.0 for dish in mixed)
    acid = bottle.ppm if bottle.holds is Form.ACID else salt(active, bottle.ppm, None).result["acid_mg_per_l"]
    return weigh(acid, ml, bottle.holds, active).working
