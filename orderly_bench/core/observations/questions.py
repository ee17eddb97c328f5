"""What is questioned of a table before anything is worked out of it: doubts that travel with the observations."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence

from orderly_bench.core.cautions import Caution
from orderly_bench.core.messages.say import caution
from orderly_bench.core.observations.table import NOT_STUCK
from orderly_bench.core.vocabulary import State

#: Columns that name a cutting.
OF_A_CUTTING = ("cutting", "cutting_id", "id", "plant_id", "label")
#: Columns named like a group of the layout, with the flag that takes them.
LIKE_GROUPS = {
    "unit": "unit", "pot": "unit", "jar": "unit", "vessel": "unit", "cell": "unit", "tray": "unit", "plate": "unit", "plot": "unit",
    "container": "unit", "flask": "unit", "block": "block", "rep": "block", "replicate": "block", "replication": "block", "bench": "block", "shelf": "block", "position": "block",
    "donor": "block", "mother": "block", "mother plant": "block", "mother_plant": "block", "stock plant": "block", "stock_plant": "block", "parent": "block", "tree": "block", "shrub": "block", "bush": "block",
    "pair": "pair", "stem": "pair", "wave": "wave", "whole_plot": "whole-plot", "whole plot": "whole-plot",
}  # fmt: skip
#: States a file may name: those of a score, and why there is none.
OTHER_STATES = (NOT_STUCK, "not looked", "unaccounted")
BY_WAY_ONLY = ("roots only by ", "no roots only by ")
#: States in which nothing can be known of a cutting, and those in which it has no roots.
RULES_OUT_ANY = (State.MISSING, State.TAKEN_OUT_OTHER, NOT_STUCK)
RULES_OUT_ROOTS = (State.DEAD, State.TAKEN_OUT_DEAD)


def known_state(text: str) -> str | None:
    """The state as it is written elsewhere; None where there is none such.

    >>> known_state("Missing"), known_state("frozen")
    ('missing', None)
    """
    plain = " ".join(text.replace("_", " ").split()).casefold()
    if plain.startswith(BY_WAY_ONLY):
        return plain
    return next((s for s in ("", *map(str, State), *OTHER_STATES) if s.casefold() == plain), None)


def against_state(state: str, outcome: float | None) -> bool:
    """Whether a state and an outcome can't both be true."""
    if outcome is None:
        return False
    return state in RULES_OUT_ANY or (bool(outcome) and state in RULES_OUT_ROOTS)


def repeated_ids(
    columns: Mapping[str, Sequence[str]],
    groups: Sequence[Sequence[str]],
    levels: Sequence[tuple[str, ...]] = (),
    within: Sequence[str] = (),
) -> list[Caution]:
    """Cuttings that stand twice; numbers that begin anew inside the groups given, or in each arm of each, are no repetition.

    Parameters
    ----------
    columns : mapping of str to sequence of str
        The cells of every column.
    groups : sequence of sequence of str
        Of the columns that the layout uses.
    levels : sequence of tuple of str
        Those of each row.
    within : sequence of str
        The columns of the levels and the groups: an arm of a block whose cuttings count from 1 may be a tray, and is asked about.
    """
    name = next((name for name in columns if name.casefold() in OF_A_CUTTING), None)
    if name is None:
        return []
    inside = list(zip(columns[name], *groups, strict=True)) if groups else [(cell,) for cell in columns[name]]
    twice = [key for key, times in Counter(inside).items() if times > 1 and key[0]]
    if not twice:
        return []
    if levels and _counts_anew(columns[name], list(zip(levels, *groups, strict=True))):
        return [caution("numbered_anew", column=name, names=",".join(within))] if groups else []
    first = ", ".join(key[0] for key in twice[:4])
    return [caution("repeated_id", n=len(twice), first=first, serious=True)]


def _counts_anew(numbers: Sequence[str], cells: Sequence[tuple[object, ...]]) -> bool:
    """Whether numbers go on from 1 in each of the cells, none of them twice in one."""
    inside: dict[tuple[object, ...], list[str]] = {}
    for number, cell in zip(numbers, cells, strict=True):
        inside.setdefault(cell, []).append(number)
    return all("1" in own and len(set(own)) == len(own) and all(map(str.isdecimal, own)) for own in inside.values())


def unused_groupings(columns: Mapping[str, Sequence[str]], used: set[str], outcomes: Sequence[object]) -> list[Caution]:
    """Columns named like a group of the layout that nothing uses, above all where outcomes never differ within them."""
    found = []
    for name, cells in columns.items():
        flag = LIKE_GROUPS.get(name.casefold().strip())
        if flag is None or name in used:
            continue
        inside: dict[str, set[object]] = {}
        for cell, outcome in zip(cells, outcomes, strict=True):
            if outcome is not None:
                inside.setdefault(cell, set()).add(outcome)
        sizes = Counter(cells)
        if len(sizes) < 2 or max(sizes.values()) < 2:
            continue
        alike = (
            all(len(seen) <= 1 for seen in inside.values()) and len({o for seen in inside.values() for o in seen}) > 1
        )
        found.append(caution("unused_grouping", "" if alike else "named", column=name, flag=flag, serious=alike))
    return found
