"""The words of a rooting trial as types, used by every chapter."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

#: What an arm is called where nothing is asked, so that no level names it: the one of a rate.
ONLY_ARM = "all cuttings"


class LayoutKind(StrEnum):
    """How arms are laid on units."""

    COMPLETELY_RANDOMISED = "completely randomised"
    COMPLETE_BLOCKS = "randomised complete blocks"
    PAIRS = "pairs"
    LATIN_SQUARE = "Latin square"
    INCOMPLETE_BLOCKS = "incomplete blocks"
    SPLIT_PLOT = "split-plot"


class State(StrEnum):
    """What became of a cutting at one check: one set, everywhere."""

    ALIVE = "alive"
    LOOKS_DEAD = "looks dead"
    DEAD = "dead"
    CANNOT_TELL = "cannot tell yet"
    MISSING = "missing"
    TAKEN_OUT_DEAD = "taken out: rot or death confirmed"
    TAKEN_OUT_OTHER = "taken out: other"
    SAMPLED = "sampled"
    POTTED_OUT = "potted out"
    GIVEN_AWAY = "given away"


#: States that carry forward and count as accounted for at later checks.
FINAL_STATES = frozenset(
    {State.DEAD, State.TAKEN_OUT_DEAD, State.TAKEN_OUT_OTHER, State.SAMPLED, State.POTTED_OUT, State.GIVEN_AWAY}
)


class Roots(StrEnum):
    """What is known of the roots. *None*, *not looked* and *dead* stay three things."""

    NONE = "none"
    COUNTED = "counted"
    SEEN = "seen, not counted"
    NOT_LOOKED = "not looked"


class KnownBy(StrEnum):
    """How the roots are known, from strongest to weakest."""

    LIFTED = "lifted and counted"
    WALL = "through the wall"
    SCRAPED = "scraped aside and seen"
    HOLE = "at the hole"
    TUG = "tug"
    SHOOTS = "shoots"
    GREEN_BARK = "green bark"


#: Ways of looking that move the cutting or what it stands in.
TOUCHING = frozenset({KnownBy.LIFTED, KnownBy.SCRAPED, KnownBy.TUG})
#: Grades that never suffice for "rooted" at the endpoint.
INDIRECT_GRADES = frozenset({KnownBy.TUG, KnownBy.SHOOTS, KnownBy.GREEN_BARK})


class Top(StrEnum):
    """What anyone sees above the soil line."""

    FRESH = "fresh"
    GROWING = "growing"
    FLOWER = "flower"
    WILTING = "wilting"
    DRIED = "dried"
    GONE = "gone"


class FailureSign(StrEnum):
    """Where failure shows first."""

    BLACK_BASE = "black base"
    DRY_FROM_TOP = "dry from top"
    PEST = "pest"


class Fit(StrEnum):
    """Fit to pot on is the scorer's own judgement."""

    YES = "yes"
    NO = "no"
    NOT_JUDGED = "not judged"


class Strength(StrEnum):
    """How strongly a conclusion may be worded."""

    SHOWN = "shown"
    SUGGESTED = "suggested"
    SHOWN_ALIKE = "shown alike"
    CANNOT_TELL = "cannot tell"


@dataclass(frozen=True)
class Score:
    """One cutting at one check.

    Attributes
    ----------
    root_number : int or None
        Visible roots; only when ``roots`` is *counted*.
    root_class : str or None
        Class of the root number, such as ``5-9``, where nobody counts each; then ``root_number`` is None.
    quality : int or None
        Quality of the root system, 0 to 5 by its anchors; None when not judged.
    foliage : int or None
        State of the leaves, 0 to 5 by its anchors; None when not judged.
    longest_root_mm : float or None
        Length of the longest root in millimetres.
    callus : bool or None
        Its own yes or no; None when not looked at.
    details : tuple of (str, str)
        What else was said of it, by the fields of `core/score/details.py`.
    """

    state: State
    roots: Roots
    root_number: int | None = None
    longest_root_mm: float | None = None
    callus: bool | None = None
    top: Top | None = None
    failure: FailureSign | None = None
    fit: Fit = Fit.NOT_JUDGED
    known_by: KnownBy = KnownBy.LIFTED
    note: str = ""
    root_class: str | None = None
    quality: int | None = None
    foliage: int | None = None
    details: tuple[tuple[str, str], ...] = ()


#: A cutting that was lifted for good at an earlier check, as later ones know it.
SAMPLED = Score(State.SAMPLED, Roots.NOT_LOOKED)
#: What the grades of root quality mean, 0 to 5.
QUALITY_ANCHORS = (
    "no roots", "one weak root", "a few, on one side", "on two sides", "all round", "all round and branched",
)  # fmt: skip
#: What the grades of foliage mean, 0 to 5.
FOLIAGE_ANCHORS = (
    "no leaf left", "one or two left, poor", "most lost or yellow", "half good", "few marks", "as when stuck, or growing",
)  # fmt: skip
