"""What to mind about a question before anything is stuck."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from orderly_bench.core.cautions import Caution
from orderly_bench.core.measures import NOTHING_GIVEN
from orderly_bench.core.messages.say import caution
from orderly_bench.core.messages.translation import all_of, any_of
from orderly_bench.core.plan.aspects import SORTS, AspectKind
from orderly_bench.core.plan.treatments import Treatments
from orderly_bench.core.plan.value import PlannedWave
from orderly_bench.core.prepare.hormone_levels import of_what_hormone, unproven

#: Waves of a season below which nothing can be said of it.
LEAST_WAVES = 2


def doubts_about(
    asked: Sequence[tuple[AspectKind, str, Sequence[str]]],
    look: bool,
    waves: Sequence[PlannedWave] = (),
    blind: bool = False,
) -> list[Caution]:
    """Doubts about what is asked: kind, name and the arms' values of each aspect."""
    found = []
    for kind, name, values in asked:
        levels = len({value.casefold() for value in values})
        if kind is AspectKind.SEASON and len([w for w in waves if w.season]) < LEAST_WAVES * max(2, levels):
            found.append(caution("season_one_wave"))
        elif SORTS[kind].property:
            found.append(caution("property_not_assigned", what=name))
        if kind is AspectKind.HORMONE:
            found += [*blank_doubt(name, values), *unproven_doubt(values)]
    if look:
        found.append(caution("look_only"))
    return [*found, *(seen_on_the_piece([(kind, name) for kind, name, _ in asked]) if blind else ())]


def blank_doubt(name: str, levels: Iterable[str]) -> tuple[Caution, ...]:
    """A hormone is asked about, and no arm goes without."""
    blank = any(
        level in NOTHING_GIVEN or level.startswith(("none", "carrier", "water")) for level in map(str.casefold, levels)
    )
    return () if blank else (caution("no_blank", name=name),)


def mixed_doubts(treatments: Treatments) -> list[Caution]:
    """What is asked and can't be told from what travels with it, in whatever kind of trial."""
    return [
        caution("mixed_up", name=name, others=any_of(others), serious=True)
        for name, others in treatments.mixed_up().items()
    ]


def unproven_doubt(levels: Iterable[str]) -> tuple[Caution, ...]:
    """What is given as a hormone and is none that is known, or is not named: what it is, or how strong, can't be said."""
    levels = list(levels)
    found = {"unproven": unproven(levels), "hormone_not_named": of_what_hormone(levels)}
    return tuple(caution(code, names=all_of(names), n=len(names)) for code, names in found.items() if names)


def seen_on_the_piece(asked: Sequence[tuple[AspectKind, str]]) -> tuple[Caution, ...]:
    """A doubt about blind scoring where a code hides nothing: what is asked is a property of the piece."""
    names = [name for kind, name in asked if SORTS[kind].property]
    return (caution("seen_on_the_piece", names=all_of(names), n=len(names)),) if names else ()
