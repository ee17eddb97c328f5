"""What went wrong, without any trial: from what was seen and how they stood to likely causes, each a hypothesis with the smallest trial that would tell.

Causes and corrections after Davies, Geneve and Wilson (2018), Hartmann and Kester's Plant Propagation, 9th edition, chapters 10 and 11.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum

from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.typed import Asked, named, number, one_of, read_those_typed, text, whole


class Seen(StrEnum):
    """What shows first."""

    NOT_SAID = "not said"
    BLACK_BASE = "black from the base up"
    SHRIVELLED = "shrivelled from the top down"
    LEAFLESS = "leaves dropped, stem still green"
    MOULD = "grey mould on leaves"
    WAITING = "alive and green, no roots"
    CALLUS = "callus, no roots"
    COLLAPSED = "rooted, then collapsed after potting"


class Wood(StrEnum):
    """How ripe the wood was."""

    NOT_SAID = "not said"
    SOFT = "soft"
    SEMI_HARD = "semi-hard"
    HARD = "hard"


class Wet(StrEnum):
    """How the medium was kept."""

    NOT_SAID = "not said"
    WET = "wet"
    MOIST = "moist"
    DRY = "nearly dry"
    WATER = "in water"


class Cover(StrEnum):
    """What was over them."""

    NOT_SAID = "not said"
    SHUT = "closed"
    VENTED = "vented"
    OPEN = "open"


@dataclass(frozen=True)
class Case:
    """What is told of the failure; what is not said decides nothing."""

    seen: Seen = Seen.NOT_SAID
    taxon: str = ""
    wood: Wood = Wood.NOT_SAID
    wet: Wet = Wet.NOT_SAID
    cover: Cover = Cover.NOT_SAID
    days: int | None = None
    warmth: float | None = None  #: °C at the base
    dipped: bool = False


@dataclass(frozen=True)
class Hypothesis:
    """A likely cause: why it is thought of, what would mend it, and the key of the ready question that would tell (blank: none)."""

    cause: str
    because: str
    correction: str
    start: str


COOL, WARM = 15.0, 28.0
#: Days before which leafy cuttings without roots are only slow, by the wood.
PATIENCE = {Wood.SOFT: 21, Wood.SEMI_HARD: 42, Wood.HARD: 90, Wood.NOT_SAID: 42}
ASKED = (
    Asked("seen", N_("What shows"), one_of(Seen)),
    Asked("taxon", N_("Plant"), text(120)),
    Asked("wood", N_("Wood"), one_of(Wood)),
    Asked("wet", N_("The medium was kept"), one_of(Wet)),
    Asked("cover", N_("Cover"), one_of(Cover)),
    Asked("days", N_("Days since sticking"), whole(0, 3_650, None)),
    Asked("warmth", N_("Warmth at the base, °C"), number(-20, 60, None)),
    Asked("dipped", N_("Dipped in a hormone or alcohol"), named(("", "no"), ("yes", "yes"))),
)


def read_case(typed: Mapping[str, str]) -> Case:
    """As typed, by name of the field.

    Raises
    ------
    InvalidInput
        Names the field and the rule.
    """
    values = read_those_typed(ASKED, typed)
    return Case(**(values | {"dipped": values.get("dipped") == "yes"}))


def hypotheses(case: Case) -> list[Hypothesis]:
    """Likely causes, those that what was said speaks for first. None of them is proved by it."""
    found = {
        Seen.BLACK_BASE: _black, Seen.SHRIVELLED: _shrivelled, Seen.LEAFLESS: _leafless, Seen.MOULD: _mould, Seen.WAITING: _waiting,
        Seen.CALLUS: _callus, Seen.COLLAPSED: _collapsed,
    }.get(case.seen)  # fmt: skip
    return sorted(found(case), key=lambda one: not one.because) if found else []


def _wet(case: Case) -> Hypothesis:
    said = case.wet in (Wet.WET, Wet.WATER)
    return Hypothesis(
        _("too little air at the base"),
        _("the medium was kept {wet}", wet=case.wet.value) if said else "",
        _("A coarser mix that drains, and water only when the top is dry"), "wet",
    )  # fmt: skip


def _cool(case: Case, start: str = "heat") -> Hypothesis:
    said = case.warmth is not None and case.warmth < COOL
    return Hypothesis(
        _("too cool at the base"),
        _("{n:g} °C is below {cool:g} °C", n=case.warmth, cool=COOL) if said else "",
        _("Warm the base to 18 to 22 °C, the air cooler than that"), start,
    )  # fmt: skip


def _black(case: Case) -> list[Hypothesis]:
    burn = Hypothesis(
        _("burned by hormone or alcohol"), _("they were dipped") if case.dipped else "",
        _("Weaker or shorter, less alcohol; an arm that gets the carrier alone parts the two"), "hormone",
    )  # fmt: skip
    soft = Hypothesis(
        _("wood too soft"), _("the wood was soft") if case.wood is Wood.SOFT else "",
        _("Take it when it snaps, not bends"), "soft",
    )  # fmt: skip
    still = Hypothesis(
        _("air too still"), _("the cover was closed") if case.cover is Cover.SHUT else "",
        _("Vent it an hour a day; lift what has rotted out at once"), "vent",
    )  # fmt: skip
    return [_wet(case), _cool(case), burn, soft, still]


def _shrivelled(case: Case) -> list[Hypothesis]:
    open_ = case.cover in (Cover.OPEN, Cover.VENTED)
    hot = case.warmth is not None and case.warmth > WARM
    return [
        Hypothesis(_("air too dry for leaves without roots"), _("the cover was {cover}", cover=case.cover.value) if open_ else "", _("A closed clear cover until roots show, then vent"), "cover"),
        Hypothesis(_("too much leaf for the stem"), "", _("Two leaves, large ones halved"), "leaves"),
        Hypothesis(_("too hot"), _("{n:g} °C is above {warm:g} °C", n=case.warmth, warm=WARM) if hot else "", _("Shade at noon; heat from below, not above"), "heat"),
        Hypothesis(_("the medium dried out, or the cut never touched it"), _("the medium was kept nearly dry") if case.wet is Wet.DRY else "", _("Firm and water in; look at the weight daily"), "wet"),
    ]  # fmt: skip


def _leafless(case: Case) -> list[Hypothesis]:
    return [
        Hypothesis(_("a check by drying, wet, cold or dark that it may outlive"), "", _("Leave it in; drier and brighter than leafy pieces want, and not in one pot with them"), "doubtful"),
        Hypothesis(_("leaves taken or lost at sticking"), "", _("Leave two leaves; they feed the roots to come"), "no-leaves"),
    ]  # fmt: skip


def _mould(case: Case) -> list[Hypothesis]:
    shut = case.cover is Cover.SHUT
    return [
        Hypothesis(_("wet leaves in still air"), _("the cover was closed") if shut else "", _("Vent daily, keep leaves from touching, take fallen ones out"), "vent"),
        Hypothesis(_("pieces that carried it in"), "", _("Take them clean and dry; wipe the blade between plants"), ""),
    ]  # fmt: skip


def _waiting(case: Case) -> list[Hypothesis]:
    patience = PATIENCE[case.wood]
    slow = case.days is not None and case.days < patience
    return [
        Hypothesis(_("not late at all"), _("{n:day|days} is less than the {p} such wood often takes", n=case.days, p=str(patience)) if slow else "", _("Leave them be; look again when that is over"), "look"),
        _cool(case),
        Hypothesis(_("taken at a stage that roots slowly"), "", _("The same plant at another time of the year"), "season"),
        Hypothesis(_("no hormone, or too weak a one"), "" if case.dipped else _("nothing was dipped"), _("A usual strength for this wood beside none"), "hormone"),
    ]  # fmt: skip


def _callus(case: Case) -> list[Hypothesis]:
    return [
        Hypothesis(_("callus is not on the way to roots, nor against them: it only takes longer"), "", _("Leave them in; a fresh cut or a wound on one side"), "wound"),
        _cool(case),
        _wet(case),
    ]  # fmt: skip


def _collapsed(case: Case) -> list[Hypothesis]:
    return [
        Hypothesis(_("potted on before there were enough roots"), "", _("Pot when roots hold the plug, not at the first one"), "count"),
        Hypothesis(_("weaned too fast"), _("the cover was closed") if case.cover is Cover.SHUT else "", _("Open it an hour more each day over a week"), "vent"),
        Hypothesis(_("roots made in water, which break and dry in a solid medium"), _("they stood in water") if case.wet is Wet.WATER else "", _("Pot water roots short, keep them wet for a week"), "water"),
    ]  # fmt: skip
