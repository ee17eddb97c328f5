"""Were the arms equally visible? Roots known in different ways, or looked for unevenly, can pass for a treatment.

A clear pot shows its roots, a dark one doesn't; a tug finds the strong ones. Grades are never pooled silently.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence

from orderly_bench.core.cautions import Caution
from orderly_bench.core.messages.say import caution
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.vocabulary import KnownBy

#: Arms whose share of a grade, or of cuttings looked at, differs by more than this are not equally visible.
UNEVEN = 0.2


def asks_to_measure(way: KnownBy) -> bool:
    """Whether a way of looking has the roots in the hand, so that length, callus and quality can be asked for.

    >>> asks_to_measure(KnownBy.LIFTED), asks_to_measure(KnownBy.WALL)
    (True, False)
    """
    return way in (KnownBy.LIFTED, KnownBy.SCRAPED)


def doubts_about_visibility(known_by: Mapping[str, Sequence[KnownBy | None]]) -> list[Caution]:
    """Cautions on how the roots of each arm are known.

    Parameters
    ----------
    known_by : mapping of arm name to grades
        One entry a cutting at the endpoint check: how its roots are known, None when they were not looked for.
    """
    arms = {arm: list(grades) for arm, grades in known_by.items() if grades}
    return [*_looked_unevenly(arms), *_known_unevenly(arms), *_pooled(arms)]


def _shares(arms: Mapping[str, list[KnownBy | None]], grade: KnownBy | None) -> dict[str, float]:
    return {arm: sum(1 for g in grades if g is grade) / len(grades) for arm, grades in arms.items()}


def _looked_unevenly(arms: Mapping[str, list[KnownBy | None]]) -> list[Caution]:
    shares = _shares(arms, None)
    if not shares or max(shares.values()) - min(shares.values()) <= UNEVEN:
        return []
    most, least = max(shares, key=shares.__getitem__), min(shares, key=shares.__getitem__)
    said = {"most": most, "of_most": _of(arms[most], None), "least": least, "of_least": _of(arms[least], None)}
    return [caution("unequal_looking", serious=True, **said)]


def _known_unevenly(arms: Mapping[str, list[KnownBy | None]]) -> list[Caution]:
    looked: dict[str, list[KnownBy | None]] = {
        arm: [g for g in grades if g is not None] for arm, grades in arms.items()
    }
    seen = {arm: grades for arm, grades in looked.items() if grades}
    for grade in KnownBy:
        shares = _shares(seen, grade)
        if shares and max(shares.values()) - min(shares.values()) > UNEVEN:
            most, least = max(shares, key=shares.__getitem__), min(shares, key=shares.__getitem__)
            said = {
                "most": most,
                "of_most": _of(seen[most], grade),
                "least": least,
                "of_least": _of(seen[least], grade),
            }
            return [caution("unequal_visibility", serious=True, grade=grade.value, **said)]
    return []


def _pooled(arms: Mapping[str, list[KnownBy | None]]) -> list[Caution]:
    counts = Counter(g for grades in arms.values() for g in grades if g is not None)
    if len(counts) < 2:
        return []
    parts = ", ".join(f"{counts[grade]} {grade}" for grade in KnownBy if counts[grade])
    return [caution("mixed_evidence", parts=parts)]


def _of(grades: Sequence[KnownBy | None], grade: KnownBy | None) -> str:
    return _("{k} of {n}", k=sum(1 for g in grades if g is grade), n=len(grades))
