"""The question as one sentence, made from what the plan says."""

from __future__ import annotations

from collections.abc import Sequence

from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.responses.kind import Response, Scale
from orderly_bench.core.responses.registry import KINDS, kind_of

#: What each endpoint asks, in the place of a gap in the sentence.
ENDPOINTS = {response: kind.asked for response, kind in KINDS.items()}
#: The margin by scale: words before and after its number, and the usual number.
MARGINS = {
    Scale.YES_NO: (N_("by more than"), "of every 100", 15.0),
    Scale.NUMBER: (N_("by a factor of more than"), "", 1.25),
    Scale.LENGTH: (N_("by more than"), "mm", 10.0),
    Scale.GRADES: (N_("so that the better wins by more than"), N_("of every 100 pairs over one half"), 15.0),
    Scale.DAYS: (N_("by more than"), "rooted-days", 3.0),
}


def margin_of(response: Response, points: float, own: float | None) -> float:
    """The margin on the analysis' scale: a proportion, a ratio, mm, a distance from one half, days."""
    scale = kind_of(response).scale
    if scale is Scale.YES_NO:
        return points / 100
    typed = MARGINS[scale][2] if own is None else own
    return typed / 100 if scale is Scale.GRADES else typed


def check_margin_of(response: Response, points: float, own: float | None) -> None:
    """Refuse a margin that is none on the endpoint's scale."""
    kind_of(response).inside(margin_of(response, points, own))


def compose(plant: str, asked: Sequence[str], response: Response, day: int, margin: float, rate: bool = False) -> str:
    """The sentence.

    Parameters
    ----------
    margin : float
        As a person types it: points, a factor, mm, points over one half, days.

    Examples
    --------
    >>> compose("Olea europaea 'Headland'", ["hormone"], Response.ROOTED, 56, 15)
    "In Olea europaea 'Headland', does hormone change how many root by day 56, by more than 15 of every 100?"
    """
    what = ENDPOINTS[response]
    if rate:
        return (
            _("In {plant}, what is {what} by day {day}?", plant=plant, what=what, day=day)
            if what.startswith("the")
            else _("In {plant}, {what} by day {day}?", plant=plant, what=what, day=day)
        )
    named = (
        _("{names} or {asked}", names=", ".join(asked[:-1]), asked=asked[-1])
        if len(asked) > 1
        else (asked[0] if asked else "...")
    )
    before, after, _usual = MARGINS[kind_of(response).scale]
    by = f"{before} {margin:g} {after}".strip()
    return _(
        "In {plant}, does {named} change {what} by day {day}, {by}?",
        plant=plant,
        named=named,
        what=what,
        day=day,
        by=by,
    )
