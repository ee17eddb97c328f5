"""What is measured or noted of a cutting as it goes in: one line a measure, and how it falls over the arms.

Each arm's mean, or its share of a kind, is held against the others' as `core/methods/starting_alike.py` does; what an unevenness
could mean stands beside it. A measure of what the arms differ in by plan is no unevenness; where it is only a part of that, as a
length is of the type of cutting, it is told and nothing is adjusted for it.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.methods.starting_alike import apart, sizes_in
from orderly_bench.core.plan.aspects import SORTS, AspectKind
from orderly_bench.core.typed import Kind, named, number, text, whole

#: Stands for no value in a row of values.
NOTHING = ("-", "–", ".")


@dataclass(frozen=True)
class PieceMeasure:
    """One thing noted of a cutting.

    Attributes
    ----------
    name : str
        Of its column.
    words : str
        As its field is named, with the unit.
    kind : Kind
        How it is typed, and its limits.
    means : str
        What it could mean where the arms differ in it.
    of : AspectKind or None
        What arms would be described by if they were meant to differ in it.
    usual : str
        What holds of the others once it was noted of one; blank where that is not known.
    """

    name: str
    words: str
    kind: Kind
    means: str
    of: AspectKind | None = None
    usual: str = ""

    def asked_in(self, differ: Collection[AspectKind]) -> bool:
        """Whether it is the very thing that arms differ in by plan, and no part of it."""
        return self.of is not None and self.of in differ and not SORTS[self.of].parts


def _choice(*names: str) -> Kind:
    return named(("", N_("not said")), *((name, name) for name in names))


_PIECE, _BASE = AspectKind.CUTTING_TYPE, AspectKind.BASE
MEASURES = (
    PieceMeasure("length_mm", N_("length, mm"), number(5, 3_000, None),
        N_("longer pieces hold more reserves and lose more water"), _PIECE),
    PieceMeasure("diameter_mm", N_("diameter, mm"), number(0.2, 100, None),
        N_("thick pieces are older wood with more reserves"), _PIECE),
    PieceMeasure("nodes_in", N_("nodes in the medium"), whole(0, 40, None),
        N_("roots often arise at nodes, so more of them are more chances"), _PIECE),
    PieceMeasure("nodes_above", N_("nodes above it"), whole(0, 60, None),
        N_("buds above feed the base and lose water"), _PIECE),
    PieceMeasure("leaves", N_("leaves"), _choice(N_("whole"), N_("halved"), N_("some taken off"), N_("none left")),
        N_("leaf feeds the base and loses water"), _PIECE),
    PieceMeasure("below_node_mm", N_("cut below the node, mm"), number(0, 200, None),
        N_("a stub below the node may rot before it roots"), _BASE),
    PieceMeasure("earlier_roots", N_("earlier roots"), _choice(N_("none"), N_("aerial"), N_("trimmed off"), N_("washed off")),
        N_("roots that were there already are counted as the treatment's"), AspectKind.EARLIER_ROOTS, "none"),
    PieceMeasure("wound", N_("wound"), _choice(N_("none"), N_("one side"), N_("two sides"), N_("torn heel")),
        N_("a wound takes up more hormone, and more rot"), AspectKind.WOUNDING),
    PieceMeasure("depth_mm", N_("depth, mm"), number(1, 500, None),
        N_("deeper is wetter and has less air"), _BASE),
    PieceMeasure("put_in", N_("put in"), _choice(N_("hole first"), N_("pushed")),
        N_("pushing wipes powder off and bruises the base"), _BASE),
    PieceMeasure("watered_in", N_("watered in"), _choice(N_("yes"), N_("no")),
        N_("watering in closes the medium around the base and washes powder off")),
    PieceMeasure("shape", N_("shape"), _choice(N_("straight"), N_("bent"), N_("broken and kept")),
        N_("a bent base may be bruised or stand shallow"), None, "straight"),
    PieceMeasure("way_up", N_("way up"), _choice(N_("buds up"), N_("upside down")),
        N_("upside down, roots and shoots start from the wrong ends"), None, "buds up"),
    PieceMeasure("held_by", N_("held by"), _choice(N_("nothing"), N_("a stake"), N_("a tie"), N_("a weight")),
        N_("what is held moves less; a tie or a weight may bruise"), None, "nothing"),
    PieceMeasure("dripped_on", N_("dripped on by the cover"), _choice(N_("no"), N_("yes")),
        N_("drops soak the medium there and wash powder off"), None, "no"),
    PieceMeasure("condition", N_("condition on arrival, 0 to 5"), whole(0, 5, None),
        N_("tired pieces have less left to root with")),
    PieceMeasure("donor", N_("in truth from plant"), text(40),
        N_("another plant may root more or less easily"), AspectKind.DONOR),
    PieceMeasure("grade", N_("in truth of grade"), text(40),
        N_("a stronger or weaker piece may root more or less easily"), _PIECE),
)  # fmt: skip
#: What a piece was, where it is another than the pick list says.
ORIGIN = ("donor", "grade")
BY_NAME = {measure.name: measure for measure in MEASURES}


def read_measures(typed: Mapping[str, str]) -> dict[str, str]:
    """Measures as typed, by name, each as its field would show it; those left blank are left out.

    Raises
    ------
    InvalidInput
        By the measure's label.
    """
    found = {name: read_one(BY_NAME[name], value) for name, value in typed.items() if name in BY_NAME}
    return {name: value for name, value in found.items() if value}


def read_one(measure: PieceMeasure, typed: str) -> str:
    """One measure as typed, held to its limits; blank for none."""
    value = measure.kind.value_of(typed.strip(), _(measure.words))
    measure.kind.check(value, _(measure.words))
    return measure.kind.text_of(value)


def read_in_order(measure: PieceMeasure, typed: str, places: int) -> list[str]:
    """Values of one measure in bench order, between blanks or lines; ``-`` for a place without one.

    Raises
    ------
    InvalidInput
        One that can't be read, by its place; more or fewer than there are places.

    Examples
    --------
    >>> read_in_order(BY_NAME["length_mm"], "82 79,5 - 90", 4)
    ['82', '79.5', '', '90']
    """
    parts = typed.replace(";", " ").split() if measure.kind.limits else [p.strip() for p in typed.splitlines()]
    parts = [part.rstrip(",") for part in parts]
    if len(parts) != places:
        rule = _("{places} places stand here, so type {places} values; - for a place without one", places=places)
        raise InvalidInput(_(measure.words), rule, _("{n} values", n=len(parts)))
    found = []
    for place, part in enumerate(parts, 1):
        try:
            found.append("" if part in NOTHING else read_one(measure, part))
        except InvalidInput as error:
            raise InvalidInput(
                _("{label}, value {place}", label=_(measure.words), place=place), error.rule, error.value
            ) from None
    return found


@dataclass(frozen=True)
class Noted:
    """What was noted of one counted cutting: its arm's letter, and values by name of the measure."""

    arm: str
    values: Mapping[str, str]

    def value(self, measure: PieceMeasure) -> str:
        """Of one measure; what is usual where nothing else was noted."""
        return self.values.get(measure.name, "") or measure.usual


@dataclass(frozen=True)
class OverArms:
    """One measure over the arms: words for each arm's letter; ``uneven`` says how they differ, ``means`` what it could mean.

    ``planned`` where it is part of what the arms differ in by plan.
    """

    measure: PieceMeasure
    of_arm: Mapping[str, str]
    uneven: str = ""
    means: str = ""
    far: float = 0.0
    planned: bool = False


def measures_noted(values: Iterable[Mapping[str, str]]) -> list[PieceMeasure]:
    """Measures that were noted of at least one cutting, in the order of the list; where it came from is told with its origin."""
    used = {name for one in values for name, value in one.items() if value}
    return [measure for measure in MEASURES if measure.name in used and measure.name not in ORIGIN]


def over_arms(noted: Sequence[Noted], arms: Sequence[str], differ: Collection[AspectKind] = ()) -> list[OverArms]:
    """Every measure noted, by arm, the most uneven first.

    Parameters
    ----------
    noted : sequence of Noted
        Every counted cutting, those of which nothing was noted too.
    arms : sequence of str
        Letters, in order.
    differ : collection of AspectKind
        What the arms differ in by plan.
    """
    arm = np.array([arms.index(one.arm) for one in noted], dtype=int)
    found = []
    for measure in measures_noted(one.values for one in noted):
        cells = [one.value(measure) for one in noted]
        of_arm = {
            letter: _told([c for c, a in zip(cells, arm, strict=True) if a == i]) for i, letter in enumerate(arms)
        }
        start = None if measure.asked_in(differ) else apart(_(measure.words), cells, arm, arms)
        means, planned = _(measure.means) if start else "", measure.of in differ
        found.append(
            OverArms(measure, of_arm, start.words if start else "", means, start.far if start else 0.0, planned)
        )
    return sorted(found, key=lambda one: -one.far)


def _told(cells: Sequence[str]) -> str:
    """One arm's values in words: mean and range of sizes, counts of kinds; how many were measured where not all were."""
    known = [cell for cell in cells if cell]
    if not known:
        return _("not measured")
    sizes = sizes_in(known)
    if sizes is None:
        words = ", ".join(f"{n} {_(kind)}" for kind, n in Counter(known).most_common())
    elif sizes.min() == sizes.max():
        words = f"{sizes[0]:g}"
    else:
        words = _("{mean:.3g} ({least:g} to {most:g})", mean=sizes.mean(), least=sizes.min(), most=sizes.max())
    return words if len(known) == len(cells) else _("{words}; {n} of {all}", words=words, n=len(known), all=len(cells))
