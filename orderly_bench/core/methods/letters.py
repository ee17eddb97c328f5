"""Compact letters: arms that share a letter were not told apart (Piepho 2004, J Comput Graph Stat 13:456)."""

from __future__ import annotations

from string import ascii_lowercase


def compact_letters(arms: list[str], different: set[frozenset[str]]) -> dict[str, str]:
    """Insert-and-absorb letters.

    Parameters
    ----------
    arms : list of str
        In the order in which letters should be handed out (usually highest first).
    different : set of frozenset of two str
        Pairs that were told apart.

    Returns
    -------
    dict of str to str
        Two arms share a letter exactly when their pair is not in ``different``.
    """
    columns: list[frozenset[str]] = [frozenset(arms)]
    for pair in sorted(different, key=lambda p: sorted(arms.index(a) for a in p)):
        inserted = []
        for column in columns:
            inserted += [column - {arm} for arm in sorted(pair)] if pair <= column else [column]
        columns = [
            c for i, c in enumerate(inserted) if not any(c < d or (c == d and j < i) for j, d in enumerate(inserted))
        ]
    columns.sort(key=lambda column: sorted(arms.index(arm) for arm in column))
    names = [ascii_lowercase[i % 26] * (1 + i // 26) for i in range(len(columns))]
    return {arm: "".join(n for n, column in zip(names, columns, strict=True) if arm in column) for arm in arms}
