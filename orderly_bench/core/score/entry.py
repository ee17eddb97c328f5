"""What a score may say: no roots, not looked and dead stay three things."""

from __future__ import annotations

from dataclasses import replace

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.responses.classes import class_floor
from orderly_bench.core.score.details import check_details
from orderly_bench.core.vocabulary import (
    FOLIAGE_ANCHORS,
    INDIRECT_GRADES,
    QUALITY_ANCHORS,
    Fit,
    Roots,
    Score,
    State,
    Top,
)

MOST_ROOTS = 500
LONGEST_ROOT_MM = 2_000.0
LONGEST_NOTE = 500
BEST_QUALITY = len(QUALITY_ANCHORS) - 1
BEST_FOLIAGE = len(FOLIAGE_ANCHORS) - 1


def check_score(score: Score) -> Score:
    """Refuse a score that contradicts itself or goes past what a cutting can carry.

    Raises
    ------
    InvalidInput
        Names the field and what to enter instead.
    """
    if score.state is State.MISSING and score.roots is not Roots.NOT_LOOKED:
        raise InvalidInput("roots", _("a missing cutting has no roots to see; choose 'not looked'"), score.roots.value)
    if score.roots in (Roots.SEEN, Roots.COUNTED) and score.known_by in INDIRECT_GRADES:
        rule = _("shows no roots: choose how they were seen, or 'not looked' and say what it told in the note")
        raise InvalidInput("how it is known", rule, score.known_by.value)
    if score.roots is Roots.NONE and score.known_by in INDIRECT_GRADES:
        rule = _("can't show that there are none: choose how they were looked for, or 'not looked'")
        raise InvalidInput("how it is known", rule, score.known_by.value)
    _check_number(score)
    _check_length(score)
    _check_quality(score)
    _check_foliage(score)
    check_details(score)
    if score.roots is Roots.NONE and score.fit is Fit.YES:
        raise InvalidInput(
            "fit to pot on", _("a cutting without roots is not fit to pot on; choose no, or enter its roots")
        )
    if score.state is State.DEAD and score.top in (Top.GROWING, Top.FLOWER):
        raise InvalidInput(
            "state", _("a growing or flowering top is not dead; choose 'looks dead' or another top"), score.top.value
        )
    if len(score.note) > LONGEST_NOTE:
        raise InvalidInput(
            "note",
            _("keep it within {longest_note} characters", longest_note=LONGEST_NOTE),
            f"{len(score.note)} characters",
        )
    return score


def not_dead_yet(score: Score, das: int, dead_from_day: int | None) -> Score:
    """A score as the plan lets it stand: what is called dead before the day on which anything may be is *looks dead*, to be looked at again.

    Parameters
    ----------
    das : int
        Days after sticking on which it was looked at.
    dead_from_day : int or None
        None where the plan names no such day.

    Examples
    --------
    >>> not_dead_yet(Score(State.DEAD, Roots.NONE), 14, 21).state.value
    'looks dead'
    """
    early = dead_from_day is not None and das < dead_from_day
    return replace(score, state=State.LOOKS_DEAD) if early and score.state is State.DEAD else score


def check_long_enough(score: Score, from_mm: float | None) -> None:
    """Refuse roots that are shorter than those that count in a trial.

    Raises
    ------
    InvalidInput
        The longest is shorter than ``from_mm``, in mm; None lets any root count.
    """
    if from_mm is not None and score.longest_root_mm is not None and score.longest_root_mm < from_mm:
        raise InvalidInput(
            "longest root",
            _("a root counts in this trial from {mm:g} mm: say 'none', and how long it is in the note", mm=from_mm),
            score.longest_root_mm,
        )


def _check_number(score: Score) -> None:
    if score.roots is Roots.COUNTED:
        if score.root_number is not None and score.root_class is not None:
            raise InvalidInput("number of roots", _("type the number or choose a class, not both"), score.root_class)
        if score.root_class is not None and class_floor(score.root_class) == 0:
            raise InvalidInput("class of roots", _("for none choose 'none'"), score.root_class)
        if score.root_number is None and score.root_class is None:
            raise InvalidInput("number of roots", _("type the number, or choose a class or 'seen, not counted'"))
        if score.root_number is not None and not 1 <= score.root_number <= MOST_ROOTS:
            raise InvalidInput(
                "number of roots",
                _("must be between 1 and {most_roots}; for none choose 'none'", most_roots=MOST_ROOTS),
                score.root_number,
            )
    elif score.root_number is not None or score.root_class is not None:
        typed = score.root_number if score.root_number is not None else score.root_class
        raise InvalidInput(
            "number of roots", _("leave it empty when roots are '{value}'", value=score.roots.value), typed
        )


def _check_quality(score: Score) -> None:
    if score.quality is None:
        return
    if not 0 <= score.quality <= BEST_QUALITY:
        raise InvalidInput(
            "quality", _("must be between 0 and {best_quality}", best_quality=BEST_QUALITY), score.quality
        )
    if score.roots is Roots.NOT_LOOKED:
        raise InvalidInput("quality", _("roots nobody looked at have no quality; leave it blank"), score.quality)
    if (score.roots is Roots.NONE) != (score.quality == 0):
        raise InvalidInput("quality", _("is 0 for no roots, and 1 or more for any"), score.quality)


def _check_foliage(score: Score) -> None:
    if score.foliage is None:
        return
    if not 0 <= score.foliage <= BEST_FOLIAGE:
        raise InvalidInput(
            "foliage", _("must be between 0 and {best_foliage}", best_foliage=BEST_FOLIAGE), score.foliage
        )
    if score.state is State.MISSING:
        raise InvalidInput("foliage", _("a missing cutting has none to judge; leave it blank"), score.foliage)
    if score.state is State.DEAD and score.foliage > 0:
        raise InvalidInput("foliage", _("of a dead cutting is 0, or blank"), score.foliage)


def _check_length(score: Score) -> None:
    if score.longest_root_mm is None:
        return
    if score.roots not in (Roots.COUNTED, Roots.SEEN):
        raise InvalidInput(
            "longest root",
            _("leave it empty when roots are '{value}'", value=score.roots.value),
            score.longest_root_mm,
        )
    if not 0 < score.longest_root_mm <= LONGEST_ROOT_MM:
        raise InvalidInput(
            "longest root",
            _("must be above 0 and at most {longest_root_mm:.0f} mm", longest_root_mm=LONGEST_ROOT_MM),
            score.longest_root_mm,
        )


def suggest_fit(
    roots: Roots, root_number: int | None, longest_root_mm: float | None, least_roots: int, least_mm: float
) -> Fit:
    """Suggest fit to pot on by the lab's rule: at least so many roots and the longest at least so many mm.

    A suggestion only; the score keeps what the scorer judged.
    """
    if roots is Roots.NONE:
        return Fit.NO
    if roots is not Roots.COUNTED or root_number is None or longest_root_mm is None:
        return Fit.NOT_JUDGED
    return Fit.YES if root_number >= least_roots and longest_root_mm >= least_mm else Fit.NO
