"""The score pad's form."""

from __future__ import annotations

from collections.abc import Callable
from typing import TypeVar

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.measures import Measure
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.score.details import DETAILS, read_details
from orderly_bench.core.vocabulary import FailureSign, Fit, KnownBy, Roots, Score, State, Top
from orderly_bench.web import fields
from orderly_bench.web.fields import Form

T = TypeVar("T")


def _one_of(kind: Callable[[str], T], typed: str, label: str) -> T:
    try:
        return kind(typed)
    except ValueError:
        raise InvalidInput(label, _("choose one of the buttons"), typed or "nothing") from None


def read_score(form: Form, way: str) -> Score:
    """Parse the pad. ``way`` is the check's way of looking, used when the pad names none."""
    roots = form.get("roots", "")
    if not roots:
        raise InvalidInput("roots", _("say none, a number, seen, or not looked; a blank would be a guess"))
    return Score(
        state=_one_of(State, form.get("state", State.ALIVE.value), "state"),
        roots=_one_of(Roots, roots, "roots"),
        root_number=fields.optional_whole(form, "root_number", "number of roots"),
        longest_root_mm=fields.optional_quantity(form, "longest_root_mm", "longest root", Measure.MM),
        callus={"yes": True, "no": False}.get(form.get("callus", "")),
        top=_one_of(Top, form["top"], "top") if form.get("top") else None,
        failure=_one_of(FailureSign, form["failure"], "failing") if form.get("failure") else None,
        fit=_one_of(Fit, form.get("fit", Fit.NOT_JUDGED.value), _("fit to pot on")),
        known_by=_one_of(KnownBy, form.get("known_by") or way, _("how the roots are known")),
        note=fields.text(form, "note"),
        root_class=form.get("root_class") or None,
        quality=fields.optional_whole(form, "quality", "quality"),
        foliage=fields.optional_whole(form, "foliage", "foliage"),
        details=read_details({detail.name: form.get(detail.name, "") for detail in DETAILS}),
    )
