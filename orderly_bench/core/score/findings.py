"""Data that must be questioned, never silently fixed: coded findings with the cuttings concerned."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from itertools import pairwise

from orderly_bench.core.cautions import Caution
from orderly_bench.core.messages.say import caution
from orderly_bench.core.messages.translation import dated
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.tend.schedule import DayZero
from orderly_bench.core.vocabulary import Roots, Score, State

DEAD = (State.DEAD, State.TAKEN_OUT_DEAD)
LIVING = (State.ALIVE, State.LOOKS_DEAD, State.CANNOT_TELL)


@dataclass(frozen=True)
class Finding:
    """One question to the data.

    Attributes
    ----------
    code : str
        Stable name, such as ``roots_vanished``.
    text : str
        What was found, as one sentence.
    cuttings : tuple of str
        Codes concerned; empty when it concerns a check or an arm.
    remedy : str
    """

    code: str
    text: str
    cuttings: tuple[str, ...]
    remedy: str


@dataclass(frozen=True)
class VisitScores:
    """One check as recorded: planned day, date, and standing scores by cutting code."""

    planned_das: int
    day: date
    scores: Mapping[str, Score]


def _finding(said: Caution, cuttings: tuple[str, ...] = ()) -> Finding:
    """A finding in the catalogue's words."""
    return Finding(said.code, said.text, cuttings, said.remedy)


def _rooted(score: Score) -> bool:
    return score.roots in (Roots.COUNTED, Roots.SEEN)


def _bare(score: Score) -> bool:
    """Without roots though it lives: of the dead they rot."""
    return score.roots is Roots.NONE and score.state not in DEAD


def question_visits(visits: Sequence[VisitScores], day_zero: DayZero) -> list[Finding]:
    """Findings over the checks of a lot, in order of their day."""
    found = [*_before_sticking(visits, day_zero), *_order(visits)]
    for earlier, later in pairwise(visits):
        both = [code for code in later.scores if code in earlier.scores]
        vanished = [c for c in both if _rooted(earlier.scores[c]) and _bare(later.scores[c])]
        risen = [c for c in both if earlier.scores[c].state in DEAD and later.scores[c].state in LIVING]
        days = _(
            "day {planned_das} and day {planned_das2}", planned_das=earlier.planned_das, planned_das2=later.planned_das
        )
        if vanished:
            found.append(_finding(caution("roots_vanished", n=len(vanished), days=days), tuple(vanished)))
        if risen:
            found.append(_finding(caution("living_after_dead", n=len(risen), days=days), tuple(risen)))
    return found


def _before_sticking(visits: Sequence[VisitScores], day_zero: DayZero) -> list[Finding]:
    """Certain only when the check lies before the first possible sticking day."""
    early = [v for v in visits if v.day < day_zero.first]
    return [_finding(caution("check_before_sticking", planned=str(v.planned_das), day=dated(v.day))) for v in early]


def _order(visits: Sequence[VisitScores]) -> list[Finding]:
    return [
        _finding(caution("checks_out_of_order", later=str(b.planned_das), earlier=str(a.planned_das)))
        for a, b in pairwise(visits)
        if b.day < a.day
    ]


def question_reconciliation(arm: str, stuck: int, counted: Mapping[str, int]) -> Finding | None:
    """Counts of an arm at a check that do not add up to its stuck."""
    total = sum(counted.values())
    if total == stuck:
        return None
    parts = " + ".join(f"{n} {what}" for what, n in counted.items())
    return _finding(caution("does_not_reconcile", arm=arm, parts=parts, total=total, stuck=stuck))


def question_too_early(scores: Mapping[str, Score], das: int, dead_from_day: int) -> Finding | None:
    """Written off before the day the plan allows."""
    early = tuple(code for code, score in scores.items() if score.state in DEAD) if das < dead_from_day else ()
    if not early:
        return None
    return _finding(caution("written_off_early", n=len(early), day=str(das), dead_from=str(dead_from_day)), early)


def question_arms(examined: Mapping[str, int]) -> list[Finding]:
    """Arms without a single examined cutting."""
    return [_finding(caution("arm_without_check", arm=arm)) for arm, n in examined.items() if n == 0]
