"""Leafless beside leafy pieces: what keeps leaves from wilting soaks a base that has none to draw on it.

Hartmann and Kester's Plant Propagation, 8th ed. (2011), chapter 10: leafy cuttings want a film of water on the leaves, leafless ones
a medium that is just damp.
"""

from __future__ import annotations

import re

from orderly_bench.core.cautions import Caution
from orderly_bench.core.messages.say import caution
from orderly_bench.core.messages.translation import all_of
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.plan.aspects import AspectKind
from orderly_bench.core.plan.value import Plan

_LEAFLESS = re.compile(
    r"\bleafless\b|\b(?:no|without) lea(?:f|ves)\b|\blea(?:f|ves) (?:off|removed|taken off)\b|\bdormant\b",
    re.IGNORECASE,
)
_LEAFY = re.compile(r"\bleafy\b|\blea(?:f|ves)\b", re.IGNORECASE)
_WATERING = re.compile(r"water|mist|spray|fog|soak", re.IGNORECASE)


def together(plan: Plan) -> tuple[list[str], list[str]]:
    """Letters of the arms with leaves and of those without, as the plan says; both blank where they never stand together.

    An arm that says neither is in neither.
    """
    leafy, leafless = [], []
    aspects = [one for one in plan.treatments.aspects if one.kind in (AspectKind.CUTTING_TYPE, AspectKind.OTHER)]
    for arm in plan.treatments.arms:
        said = [level.name for one in aspects if (level := plan.treatments.value(arm, one))]
        if any(_LEAFLESS.search(text) for text in said):
            leafless.append(arm.id)
        elif any(_LEAFY.search(text) for text in said):
            leafy.append(arm.id)
    apart = plan.design.trays_get in [one.id for one in aspects]
    return ([], []) if apart or not (leafy and leafless) else (leafy, leafless)


def leafy_doubt(plan: Plan) -> list[Caution]:
    """Flagged from the plan on."""
    leafy, leafless = together(plan)
    return [caution("leafless_beside_leafy", leafy=all_of(leafy), leafless=all_of(leafless))] if leafy else []


def on_watering(plan: Plan, title: str) -> str:
    """What to mind at a job that wets them; names no arm, for who waters may score blind. Blank at any other."""
    if not _WATERING.search(title) or not together(plan)[0]:
        return ""
    return _("leafless beside leafy pieces: wet the leaves, keep the medium just damp")
