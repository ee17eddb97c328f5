"""Endpoints beside the primary one: named beforehand, each with a day and a margin of its own, all exploratory."""

from __future__ import annotations

from collections.abc import Sequence

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.plan.question import Exploratory
from orderly_bench.core.plan.value import Plan
from orderly_bench.core.question.sentence import ENDPOINTS, MARGINS
from orderly_bench.core.responses.kind import Response, Scale
from orderly_bench.core.responses.registry import kind_of


def margin_of_other(one: Exploratory) -> float | None:
    """Its margin on the analysis' scale: a proportion, a ratio, mm, a distance from one half, days; None where none was named.

    >>> margin_of_other(Exploratory("fit_to_pot_on", margin=15.0))
    0.15
    """
    if one.margin is None:
        return None
    return one.margin / 100 if kind_of(Response(one.name)).scale in (Scale.YES_NO, Scale.GRADES) else one.margin


def check_others(plan: Plan) -> None:
    """Each is another endpoint than the primary one, on a day that is looked at, with a margin that can be.

    Raises
    ------
    InvalidInput
    """
    asked, days = plan.question, (*plan.schedule.check_days, plan.question.endpoint_day)
    for one in asked.others:
        if one.name not in list(ENDPOINTS) or asked.others.count(one) > 1:
            raise InvalidInput("endpoint beside it", _("choose one of: {names}", names=", ".join(ENDPOINTS)), one.name)
        kind = kind_of(Response(one.name))
        if Response(one.name) is asked.response:
            raise InvalidInput(kind.heading, _("is what is judged already; take it off the endpoints beside it"))
        if one.day is not None and one.day not in days:
            looks = ", ".join(map(str, days))
            raise InvalidInput(
                _("day of {name}", name=kind.heading),
                _("must be a day that is looked at: {looks}", looks=looks),
                one.day,
            )
        margin = margin_of_other(one)
        if margin is not None:
            kind.inside(margin)


def other_words(one: Exploratory) -> str:
    """One of them, as it was named: what, on which day, with which margin."""
    kind = kind_of(Response(one.name))
    parts = [_(kind.heading)]
    parts += [_("on day {day}", day=one.day)] if one.day is not None else []
    if one.margin is not None:
        before, after, _usual = MARGINS[kind.scale]
        parts.append(f"{_(before)} {one.margin:g} {_(after)}".strip())
    return " ".join(parts)


def named_beside(others: Sequence[Exploratory]) -> dict[Response, Exploratory]:
    """By response."""
    return {Response(one.name): one for one in others}
