"""The hormone sheet: from what stands in the bottle to a dish for every level of hormone that is dipped, dusted or spread.

A level says its strength in its own words (*IBA 3000 ppm talc*, *K-IBA 0.1 % liquid, 5 s*); what it does not say is asked, never guessed.
Dilution is C1 V1 = C2 V2; ppm of a powder or gel are mg/kg and are not diluted here. Usual strengths by the wood: Hartmann and Kester's
Plant Propagation, 9th edition (2018), chapter 10.
"""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import all_of
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.plan.aspects import AspectKind
from orderly_bench.core.plan.value import Plan, PlannedWave
from orderly_bench.core.prepare.hormone_levels import CARRIER, NOTHING, Taken, Wanted, of_what_hormone, read_level
from orderly_bench.core.stock.ways import Way
from orderly_bench.core.sums.solutions import UNUSUAL_PPM, Form, dilution, salt, weigh
from orderly_bench.core.typed import Asked, number, one_of, read_those_typed


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


_WOOD = (("semi-hard", (1_000, 3_000)), ("soft", (500, 1_500)), ("hard", (2_500, 8_000)))
#: Beyond so many times the usual strength, or below its tenth, a zero is asked about.
TENFOLD = 10


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
            max(_dips(plan, arms, wave) for wave in plan.schedule.waves),
            bottle,
            _usual(plan, arms),
        )
        for name, arms in of_level.items()
    )
    return HormoneSheet(dishes, _together(dishes, bottle), _solid(dishes, bottle))


def waves_with(plan: Plan, arms: Sequence[str]) -> tuple[PlannedWave, ...]:
    """The waves in which any of some arms is stuck: each has dishes of its own."""
    return tuple(wave for wave in plan.schedule.waves if _dips(plan, arms, wave))


def _dips(plan: Plan, arms: Sequence[str], wave: PlannedWave) -> int:
    """Cuttings of some arms in a wave."""
    stuck = [arm for arm in map(plan.treatments.arm, arms) if wave in plan.waves_of(arm)]
    return sum(map(plan.cuttings_of, stuck))


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
