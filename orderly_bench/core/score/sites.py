"""Rooting sites are scored apart; the plant counts once."""

from __future__ import annotations

from collections.abc import Sequence

from orderly_bench.core.vocabulary import Fit, KnownBy, Roots, Score, State

#: From what lives to what is gone: a plant is as well as its best site.
BEST_FIRST = tuple(State)


def of_plant(scores: Sequence[Score]) -> Score:
    """One score of a plant from those of its sites.

    Root numbers add up, the longest root is the longest of any, grades are the best of any. A number is known only when every
    site was counted or has none; *not looked* at one site and no roots at the others stays *not looked*.

    Raises
    ------
    ValueError
        Without a score.
    """
    if not scores:
        raise ValueError("a plant without a score of any site")
    if len(scores) == 1:
        return scores[0]
    state = min((s.state for s in scores), key=BEST_FIRST.index)
    kinds = {s.roots for s in scores}
    roots = _roots(kinds)
    number = None
    if roots is Roots.COUNTED and all(s.root_number is not None or s.roots is Roots.NONE for s in scores):
        number = sum(s.root_number or 0 for s in scores)
    elif roots is Roots.COUNTED:
        roots = Roots.SEEN
    lengths = [s.longest_root_mm for s in scores if s.longest_root_mm is not None]
    grades = [s.quality for s in scores if s.quality is not None]
    callus = [s.callus for s in scores if s.callus is not None]
    fits = {s.fit for s in scores}
    seen = [s.known_by for s in scores if s.roots in (Roots.COUNTED, Roots.SEEN)] or [s.known_by for s in scores]
    return Score(
        state=state,
        roots=roots,
        root_number=number,
        longest_root_mm=max(lengths, default=None),
        callus=any(callus) if callus else None,
        top=next((s.top for s in scores if s.top is not None), None),
        failure=next((s.failure for s in scores if s.failure is not None), None),
        fit=Fit.YES if Fit.YES in fits else (Fit.NOT_JUDGED if Fit.NOT_JUDGED in fits else Fit.NO),
        known_by=min(seen, key=tuple(KnownBy).index),
        note="; ".join(s.note for s in scores if s.note),
        quality=max(grades, default=None),
        foliage=max((s.foliage for s in scores if s.foliage is not None), default=None),
        details=tuple({name: said for s in reversed(scores) for name, said in s.details}.items()),
    )


def _roots(kinds: set[Roots]) -> Roots:
    if Roots.SEEN in kinds:
        return Roots.SEEN
    if Roots.COUNTED in kinds:
        return Roots.SEEN if Roots.NOT_LOOKED in kinds else Roots.COUNTED
    return Roots.NOT_LOOKED if Roots.NOT_LOOKED in kinds else Roots.NONE
