"""Cautions: doubts that travel with a result, coded so that a person and a program can act on them."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Caution:
    """One doubt.

    Attributes
    ----------
    code : str
        Stable name, such as ``few_units``.
    text : str
        The doubt as one sentence.
    remedy : str
        What would remove it.
    serious : bool
        A serious caution keeps a clear verdict from being called *shown*.
    """

    code: str
    text: str
    remedy: str
    serious: bool = False
