"""Taking the pieces: how, from which plants with care, and how long it keeps hands busy."""

from __future__ import annotations

from collections.abc import Sequence
from math import ceil

from orderly_bench.core.messages.translation import all_of
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.stock.kept import Flowering, StockPlant

#: Hands that a day's sticking is reckoned for.
HANDS = (1, 2, 3)
#: Hours beyond which pieces taken at one time wait long for the last to be stuck.
LONG_DAY = 6.0


def how_to_take(plants: Sequence[StockPlant]) -> list[str]:
    """What to mind at the plant, then what is known of these plants that asks for care.

    Cuts and the share taken: Hartmann and Kester's Plant Propagation, 8th ed. (2011), chapter 10, on the care of stock plants.
    """
    said = [
        _("Cut just above a bud or leaf joint, so that no dead stub stays on the plant."),
        _("Take from all round, so that the plant keeps its shape, and never more than a third of its leaves."),
        _("Early in the day, while they are turgid; at once into shade and damp, the plant's code on every bundle."),
    ]
    flowering = [one.code for one in plants if one.flowering in (Flowering.BUD, Flowering.FLOWER, Flowering.FRUIT)]
    if flowering:
        said.append(_("{plants} flowers or fruits: take shoots without, they root more easily.", plants=all_of(flowering)))  # fmt: skip
    if gone := [one.code for one in plants if one.gone]:
        said.append(_("{plants} is marked as gone on the shelf: look again before you rely on it.", plants=all_of(gone)))  # fmt: skip
    noted = [_("{code}: {health}", code=one.code, health=one.health) for one in plants if one.health]
    if noted:
        said.append(_("Health as noted: {noted}. Take from the cleanest first, and wipe the blade between plants.", noted="; ".join(noted)))  # fmt: skip
    return said


def hours_for_hands(cuttings: int, pace_per_hour: float) -> str:
    """How long taking and sticking keeps one, two and three pairs of hands, in one sentence.

    >>> hours_for_hands(90, 60)
    '90 cuttings at 60 an hour: 1.5 h for one pair of hands, 45 min for two, 30 min for three.'
    """
    hours = cuttings / pace_per_hour
    one, two, three = (_as_time(hours / hands) for hands in HANDS)
    told = _(
        "{n:cutting|cuttings} at {pace:g} an hour: {one} for one pair of hands, {two} for two, {three} for three.",
        n=cuttings, pace=pace_per_hour, one=one, two=two, three=three,
    )  # fmt: skip
    if hours <= LONG_DAY:
        return told
    return _("{told} The last wait long: take them in parts, or find more hands.", told=told)


def _as_time(hours: float) -> str:
    """Hours to a tenth, or minutes where it is less than one."""
    return _("{hours:.3g} h", hours=round(hours, 1)) if hours >= 1 else _("{minutes} min", minutes=ceil(hours * 60))
