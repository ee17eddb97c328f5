"""The difference of two plans, in words.

Parts are compared field by field as the dataclasses give them; parts of a list are matched by their identity, never by
their place.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import fields, is_dataclass
from typing import Any

from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.plan.text import words_of_field
from orderly_bench.core.plan.value import Plan

#: Fields that identify a part of a list; the first there is counts.
IDENTITIES = ("id", "code", "number", "name", "title")
LONGEST = 60


def difference(before: Plan, after: Plan) -> list[str]:
    """What changed, a phrase each; empty when nothing did.

    Examples
    --------
    >>> from dataclasses import replace
    >>> plan = Plan("26-01")
    >>> difference(plan, replace(plan, question=replace(plan.question, endpoint_day=49)))
    ['endpoint day 42, now 49']
    """
    return list(_parts(before, after, ""))


def _parts(before: Any, after: Any, where: str) -> Iterator[str]:
    for f in fields(before):
        if f.name in IDENTITIES and f.name not in ("name", "title"):
            continue
        old, new = getattr(before, f.name), getattr(after, f.name)
        if old != new:
            yield from _changed(old, new, _joined(where, words_of_field(before, f.name)))


def _joined(*words: str) -> str:
    return ", ".join(word for word in words if word)


def _changed(old: Any, new: Any, where: str) -> Iterator[str]:
    if is_dataclass(old) and is_dataclass(new):
        yield from _parts(old, new, where)
    elif isinstance(old, dict):
        for key in dict.fromkeys([*old, *new]):
            if old.get(key) != new.get(key):
                yield _phrase(_joined(where, key), old.get(key), new.get(key))
    elif isinstance(old, tuple) and isinstance(new, tuple) and any(is_dataclass(item) for item in (*old, *new)):
        yield from _lists(old, new, where)
    elif isinstance(old, tuple) and isinstance(new, tuple):
        yield from _members(old, new, where)
    else:
        yield _phrase(where, old, new)


def _identity(part: Any) -> Any:
    return next(getattr(part, name) for name in IDENTITIES if hasattr(part, name))


def _called(part: Any) -> str:
    kind = type(part).__name__
    names = {
        "ArmPlan": "arm",
        "PlannedWave": "wave",
        "DrawMade": "draw",
        "DrawnUnit": "unit",
        "SideGroup": "side group",
        "Pieces": _("pieces of line"),
        "KnownRate": _("rate counted here"),
        "BookRate": _("rate written elsewhere"),
        "CheckWindow": _("window of day"),
        "Exploratory": _("exploratory endpoint"),
    }
    shown = str(getattr(part, "name", "") or _identity(part)).replace("_", " ")
    return f"{names[kind]} {shown}" if kind in names else str(shown)


def _lists(old: Sequence[Any], new: Sequence[Any], where: str) -> Iterator[str]:
    before, after = ({_identity(part): part for part in parts} for parts in (old, new))
    for key in dict.fromkeys([*before, *after]):
        if key not in after:
            yield _("{called} taken out", called=_called(before[key]))
        elif key not in before:
            yield _("{called} added", called=_called(after[key]))
        elif before[key] != after[key]:
            yield from _parts(before[key], after[key], _called(before[key]))
    if [k for k in before if k in after] != [k for k in after if k in before]:
        yield _("{what} in another order", what=where or N_("parts"))


def _members(old: Sequence[Any], new: Sequence[Any], where: str) -> Iterator[str]:
    gone, come = [x for x in old if x not in new], [x for x in new if x not in old]
    if not where and not gone:
        # What speaks for itself, such as a departure in words.
        yield from map(_said, come)
        return
    if gone:
        yield _("{where} {names} taken out", where=where, names=", ".join(map(_said, gone)))
    if come:
        yield _("{where} {names} added", where=where, names=", ".join(map(_said, come)))
    if not gone and not come:
        yield _phrase(where, old, new)


def _phrase(where: str, old: object, new: object) -> str:
    if old in (None, "", ()):
        return f"{where}: {_said(new)}"
    return _("{where} {said}, now {said2}", where=where, said=_said(old), said2=_said(new))


def _said(value: object) -> str:
    if isinstance(value, bool):
        return "yes" if value else "no"
    if value in (None, "", ()):
        return "none"
    if isinstance(value, float):
        return f"{value:g}"
    if isinstance(value, tuple):
        return ", ".join(map(_said, value))
    text = " ".join(str(value).split())
    return text if len(text) <= LONGEST else text[: LONGEST - 1] + "…"
