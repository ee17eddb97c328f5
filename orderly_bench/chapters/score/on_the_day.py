"""What must be said of a check that is looked at on a day, or in a way, that the plan does not have."""

from __future__ import annotations

from datetime import date, timedelta

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import dated
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.score.days import touched_early
from orderly_bench.core.score.entry import not_dead_yet
from orderly_bench.core.tend.schedule import days_after_sticking, days_outside
from orderly_bench.core.vocabulary import KnownBy, Roots, Score
from orderly_bench.trial.models import CheckVisit

LONGEST_WHY = 300


def why_then(check: CheckVisit, day: date, way: KnownBy, why: str) -> str:
    """The reason of an endpoint looked at outside its window, or of touching what is left alone still; blank where it needs none."""
    until = check.trial.plan.question.left_alone_until
    early = touched_early(way, days_after_sticking(day, check.lot.day_zero), until)
    if early and not why.strip():
        rule = _(
            "the plan leaves them alone until day {until}: look through the wall or at the hole, wait, or say why they are touched now",
            until=str(until),
        )
        raise InvalidInput("way of looking", rule, way)
    away = days_outside(day, check.planned_das, check.window_days, check.lot.day_zero)
    if away is None or not check.is_endpoint:
        return _short_enough(why) if early else ""
    first = check.lot.day_zero.middle + timedelta(days=check.planned_das - check.window_days)
    last = first + timedelta(days=2 * check.window_days)
    if not why.strip():
        rule = _(
            "lies {n:day|days} outside the window of the end: look from {first} to {last}, or say why it is looked at on this day",
            n=away, first=dated(first), last=dated(last),
        )  # fmt: skip
        raise InvalidInput("date of the check", rule, dated(day))
    return _short_enough(why)


def _short_enough(why: str) -> str:
    if len(why.strip()) > LONGEST_WHY:
        raise InvalidInput("why on this day", _("keep it within {longest} characters", longest=LONGEST_WHY))
    return why.strip()


def touches_early(check: CheckVisit, way: KnownBy) -> bool:
    """Whether looking at an open check this way touches what the plan leaves alone still."""
    until = check.trial.plan.question.left_alone_until
    if until is None or check.day is None:
        return False
    return touched_early(way, days_after_sticking(check.day, check.lot.day_zero), until)


def dead_from(check: CheckVisit) -> int | None:
    """The day from which the plan lets anything be called dead, where this check is before it."""
    allowed = check.trial.plan.question.dead_from_day
    early = allowed is not None and check.day and days_after_sticking(check.day, check.lot.day_zero) < allowed
    return allowed if early else None


def as_it_stands(check: CheckVisit, score: Score) -> Score:
    """A score as the plan lets it stand on the day of a check."""
    if check.day is None:
        return score
    das = days_after_sticking(check.day, check.lot.day_zero)
    return not_dead_yet(score, das, check.trial.plan.question.dead_from_day)


def refuse_touching(check: CheckVisit, score: Score) -> None:
    """A score of roots that were lifted, pulled at or dug for while the plan leaves them alone, at a check that gives no reason for it."""
    if score.roots is Roots.NOT_LOOKED or check.why_then or not touches_early(check, score.known_by):
        return
    rule = _(
        "the plan leaves them alone until day {until}; this check was opened to look without touching",
        until=str(check.trial.plan.question.left_alone_until),
    )
    raise InvalidInput("how it is known", rule, score.known_by)


def outside_window(check: CheckVisit) -> int | None:
    """Days by which a done check lies outside its window; None when inside or not done."""
    if check.day is None:
        return None
    return days_outside(check.day, check.planned_das, check.window_days, check.lot.day_zero)
