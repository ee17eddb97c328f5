"""Questions on which practitioners differ, each ready as a trial of two arms."""

from __future__ import annotations

from dataclasses import dataclass

from orderly_bench.core.plan.aspects import AspectKind


@dataclass(frozen=True)
class Start:
    """A ready question.

    Attributes
    ----------
    key : str
        What a form sends.
    ask : str
        The question in a few words.
    kind, name, levels
        The aspect that is asked and its two values; the second is the usual or the blank.
    note : str
        What must be minded, blank where nothing.
    """

    key: str
    ask: str
    kind: AspectKind
    name: str
    levels: tuple[str, str]
    note: str = ""


#: The aspect of a ready question that the numbers of the arms must follow.
TO_A_CONTAINER = "cuttings to a container"

STARTS = (
    Start("hormone", "Hormone or none", AspectKind.HORMONE, "hormone", ("IBA 3000 ppm talc", "none")),
    Start("form", "Powder or liquid", AspectKind.HORMONE, "hormone", ("IBA 1000 ppm talc", "IBA 1000 ppm liquid, 5 s"), "ppm in powder is mg/kg, in liquid mg/L: strengths are not compared across forms."),
    Start("dip", "Poured out or dipped in the pot", AspectKind.OTHER, "how the hormone is taken", ("poured out for the day", "dipped in the stock pot")),
    Start("hole", "Hole first or pushed in", AspectKind.BASE, "base and hole", ("hole first", "pushed in")),
    Start("water", "Water or a solid medium", AspectKind.MEDIUM, "medium", ("water", "3 perlite : 1 peat"), "One jar of several cuttings is one unit."),
    Start("fed", "Inert or fed", AspectKind.MEDIUM_STATE, "state of the medium", ("fed, half strength", "no feed")),
    Start("wet", "Wet or nearly dry", AspectKind.OTHER, "wetness", ("wet", "nearly dry")),
    Start("cover", "Covered or open", AspectKind.COVER, "cover", ("clear lid", "open"), "A lid over several arms is shared by them; over one arm it is one unit."),
    Start("vent", "Vented or closed", AspectKind.COVER, "cover", ("clear lid, vents open", "clear lid, vents shut"), "A lid over one arm is one unit."),
    Start("dry", "Dried or fresh", AspectKind.HOLDING, "drying or holding", ("dried two days on purpose", "stuck at once")),
    Start("leaves", "Leaves whole or halved", AspectKind.CUTTING_TYPE, "leaf left", ("leaves whole", "leaves halved")),
    Start("no-leaves", "Leafy or leafless", AspectKind.CUTTING_TYPE, "leaf left", ("two leaves", "no leaves")),
    Start("node", "Cut at or below the node", AspectKind.BASE, "base and hole", ("cut at the node", "cut 1 cm below the node")),
    Start("tip", "Tip or lower piece", AspectKind.CUTTING_TYPE, "cutting type", ("tip", "lower piece"), "Cut both from each stem and stick them as pairs."),
    Start("soft", "Soft or semi-hard", AspectKind.CUTTING_TYPE, "cutting type", ("soft", "semi-hard"), "A property of the pieces: take each from several stock plants."),
    Start("hard", "Semi-hard or hard", AspectKind.CUTTING_TYPE, "cutting type", ("semi-hard", "hard"), "A property of the pieces: take each from several stock plants."),
    Start("several", "One or several to a container", AspectKind.OTHER, TO_A_CONTAINER, ("one", "several"), "Containers are the units: count those."),
    Start("heat", "Bottom heat or none", AspectKind.BOTTOM_HEAT, "bottom heat", ("20 °C mat", "none"), "A mat warms whole trays: those are its units."),
    Start("wound", "Wounded or not", AspectKind.WOUNDING, "wounding", ("one side, 2 cm", "none")),
    Start("look", "Looked at early or left be", AspectKind.OTHER, "looking", ("lifted weekly", "left until the end")),
    Start("count", "Any root or fit to pot on", AspectKind.OTHER, "potted when", ("any root is seen", "fit to pot on")),
    Start("eye", "Judged by count or by eye", AspectKind.OTHER, "how it is judged", ("by count", "by eye")),
    Start("doubtful", "The doubtful discarded or nursed", AspectKind.OTHER, "the doubtful", ("nursed on", "discarded")),
    Start("pot", "Potted at once or after winter", AspectKind.OTHER, "potting", ("potted at once", "potted after winter")),
    Start("season", "Spring or late summer", AspectKind.SEASON, "season", ("spring", "late summer"), "Waves are the units of a season: plan several of each."),
)  # fmt: skip


def start_of(key: str) -> Start | None:
    """A ready question by its key."""
    return next((start for start in STARTS if start.key == key), None)


def note_of(kind: AspectKind, name: str, levels: tuple[str, ...]) -> str:
    """What a ready question minds of an aspect that is asked: of that very question, or of the only one on that aspect; else blank."""
    same = [start for start in STARTS if start.kind is kind and start.name == name.casefold()]
    exact = [start for start in same if set(start.levels) == set(levels)]
    found = exact or (same if len(same) == 1 else [])
    return found[0].note if found else ""
