"""Doubts about how a trial was lived: what was looked at, lifted, tended, held, and by whom; each with what would remove it."""

from __future__ import annotations

#: By code, or code/variant: the doubt, and what would remove it.
ABOUT_THE_LOG: dict[str, tuple[str, str]] = {
    "unequal_looking": (
        "Roots were not looked for in {of_most} of {most}, but in {of_least} of {least}.",
        "Look at every arm in the same way before comparing them",
    ),
    "unequal_visibility": (
        "Roots are known by '{grade}' in {of_most} of {most}, but in {of_least} of {least}: the arms were not equally visible.",
        "Lift a drawn share of every arm and count",
    ),
    "lifted_unevenly/torn": (
        "Roots were torn in lifting in {of_most} of {most}, but in {of_least} of {least}: numbers and lengths may be of what was left.",
        "Tease or rinse all arms out alike, and read numbers and lengths with care",
    ),
    "lifted_unevenly/way": (
        "They were got out by {way} in {of_most} of {most}, but in {of_least} of {least}: what tears more leaves fewer and shorter roots.",
        "Get all arms out of the medium in one way",
    ),
    "seen_on_other_days": (
        "Arms were looked at on different days after sticking: {told}. The later has had longer to root.",
        "Look at all arms on the same days; where it takes two, take them by whole blocks or scrambled",
    ),
    "scored_by_others": (
        "Who scored falls over the arms ({told}): a difference may be that of the eyes.",
        "Let each scorer score all arms; have a drawn share scored again by another",
    ),
    "lifted_unevenly/washed": (
        "Roots were washed in {of_most} of {most}, but in {of_least} of {least}: washed ones show more and lose more.",
        "Wash all or none",
    ),
    "mixed_evidence": (
        "Roots are known in different ways ({parts}); they are counted together here.",
        "Compare again with the strongest way only",
    ),
    "start_differs/held": (
        "Arms were held for different times before sticking, not on purpose: {told}.",
        "Read a difference as that of the delay too; stick all arms of a lot together next time",
    ),
    "care_gap": (
        "Care was not given as planned, as far as it was written down ({told}).",
        "Tick what was done on its day on Tend; what was not stays beside the result",
    ),
    "lived_apart": (
        "{told}: a difference between them may be that of the place.",
        "Change their places, or read it beside the result",
    ),
    "lived_apart/by_hand": (
        "{told}: the arms did not have it alike, and a difference between them may be that of it.",
        "Give it to all alike, or read it beside the result",
    ),
    "conditions_unknown": (
        "What {arms} lived through is not known: nothing was read where {n:~it|they} stood; that is not the same as alike.",
        "Hang a logger there, or say where the readings come from",
    ),
    "start_differs/condition": (
        "Arms came in pieces of another condition: {told} (0 as good as dead, 5 fresh).",
        "Read a difference as that of the condition too; share every batch out over all arms next time",
    ),
    "start_differs/stuck_by": (
        "Arms were stuck by different hands: {told}.",
        "Read a difference as that of the hands too; let each person stick all arms next time",
    ),
    "start_differs/planned": (
        "Arms did not start alike ({how}); that is part of what they differ in, so nothing is adjusted for it.",
        "If it was not meant, repeat it with pieces alike in it",
    ),
}
