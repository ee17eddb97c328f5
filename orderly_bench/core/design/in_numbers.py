"""What stands on the bench, counted in words."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable
from typing import NamedTuple

from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.plan.treatments import Shape

#: Shapes by what is counted, one and many.
COUNTED = {
    Shape.CELLS: N_("{n:tray|trays} of cells"),
    Shape.POT: N_("{n:pot|pots}"),
    Shape.JAR: N_("{n:jar|jars}"),
    Shape.TANK: N_("{n:tank|tanks}"),
    Shape.LIDDED_TRAY: N_("{n:lidded tray|lidded trays}"),
    Shape.WHOLE_TRAY: N_("{n:whole tray|whole trays}"),
    Shape.BED: N_("{n:bed|beds}"),
}
#: Shapes whose places stand by themselves: each is one, however they are set.
ONE_A_PLACE = (Shape.POT,)


class Standing(NamedTuple):
    """A tray, bed, vessel or set of pots: its shape, rows and columns, and how many of its places are used."""

    shape: Shape
    rows: int
    columns: int
    used: int


def in_numbers(stands: Iterable[Standing]) -> list[str]:
    """Each kind with its number: ``9 pots``, ``2 trays of cells, 4 x 8``; pots as they are used, the rest as they stand."""
    counts: Counter[tuple[Shape, str]] = Counter()
    for stand in stands:
        if stand.shape in ONE_A_PLACE:
            counts[stand.shape, ""] += stand.used
        else:
            counts[stand.shape, f", {stand.rows} x {stand.columns}" if stand.rows * stand.columns > 1 else ""] += 1
    return [_(COUNTED[shape], n=n) + size for (shape, size), n in counts.items()]
