"""Arms that no bench could hold: a solution in the water of compost, cuttings in water in a tray of cells."""

from __future__ import annotations

import re
from collections.abc import Mapping

from orderly_bench.core.plan.aspects import AspectKind

#: A medium that is water: tap water, rain water; and what can hold it.
WATER = re.compile(r"\bwater$", re.IGNORECASE)
_HOLDS_WATER = re.compile(r"jar|tank|vase|bottle|glass|tub|pot|lidded", re.IGNORECASE)
#: A treatment that is given through the water the cuttings stand in.
_IN_WATER = re.compile(r"\b(?:in|to|with) (?:the |their |its )?(?:water|tank|jar)\b|\bwater changed\b", re.IGNORECASE)


def is_water(medium: str) -> bool:
    """Whether a medium is water.

    >>> is_water("rain water"), is_water("water crystals"), is_water("compost")
    (True, False, False)
    """
    return WATER.search(medium.strip()) is not None


def plausible(says: Mapping[AspectKind, str]) -> bool:
    """Whether an arm with these values could stand on a bench; what is not said forbids nothing.

    In water the hormone of compost can be dipped or dusted; in compost nothing is in the water.

    >>> plausible({AspectKind.MEDIUM: "compost", AspectKind.HORMONE: "IBA in the water"})
    False
    """
    medium = says.get(AspectKind.MEDIUM, "")
    if not medium:
        return True
    water = is_water(medium)
    if not water and _IN_WATER.search(says.get(AspectKind.HORMONE, "")):
        return False
    container = says.get(AspectKind.CONTAINER, "")
    return not water or not container or _HOLDS_WATER.search(container) is not None
