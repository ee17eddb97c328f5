"""The table of arms as the Question page's form has it, and what its buttons do to it."""

from __future__ import annotations

from dataclasses import dataclass, replace

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.plan import table as changes
from orderly_bench.core.plan.aspects import AspectKind
from orderly_bench.core.plan.edit import MOST_ASPECTS
from orderly_bench.core.plan.rules import MOST_ARMS
from orderly_bench.core.plan.table import MOST_GROUPS, Line, Table
from orderly_bench.core.question.starts import start_of
from orderly_bench.web import fields
from orderly_bench.web.fields import Form


def _count(form: Form, name: str, label: str, most: int) -> int:
    found = fields.whole(form, name, label)
    if not 0 <= found <= most:
        raise InvalidInput(label, _("{most} are the most", most=most), found)
    return found


def read_table(form: Form) -> Table:
    """The arms side by side as typed. A value in a line's own field counts for every arm whose field is blank."""
    arms = _count(form, "arms", "arms", MOST_ARMS)
    shown = [i for i in range(1, MOST_GROUPS + 2) if fields.text(form, f"group_{i}")]
    groups = tuple((fields.text(form, f"group_{i}"), fields.text(form, f"group_note_{i}")) for i in shown)
    lines = []
    for i in range(1, _count(form, "lines", "aspects", MOST_ASPECTS + len(AspectKind)) + 1):
        kind = form.get(f"kind_{i}", AspectKind.OTHER.value)
        if kind not in list(AspectKind):
            raise InvalidInput("aspect", _("choose one of: {names}", names=", ".join(AspectKind)), kind)
        common = fields.text(form, f"all_{i}")
        own = [fields.text(form, f"value_{i}_{a}") or common for a in range(1, arms + 1)]
        beside = [fields.text(form, f"value_{i}_group_{g}") for g in shown]
        name = fields.text(form, f"name_{i}") or AspectKind(kind).value
        asked = form.get(f"ask_{i}") == "yes" or (bool(form.get("ask")) and form["ask"] == name)
        fixed = form.get(f"fixed_{i}") == "yes" and not asked
        line = Line(AspectKind(kind), name, asked, (*own, *beside), fixed)
        if asked or any(line.values) or fields.text(form, f"name_{i}"):
            lines.append(line)
    control = fields.sent_number(form.get("control", ""))
    return Table(arms, tuple(lines), groups, control if control is not None and control < arms else None)


@dataclass(frozen=True)
class Change:
    """What a button of the page does to the table; ``keeps`` when the result is saved at once."""

    table: Table
    keeps: bool


def changed(table: Table, act: str) -> Change:
    """The table after a button.

    Raises
    ------
    InvalidInput
        A button that is not there, or what the change refuses.
    """
    what, _sep, value = act.partition(":")
    number = fields.sent_number(value)
    if what == "arm":
        return Change(changes.with_arm(table), False)
    if what == "line":
        blank = Line(AspectKind.OTHER, "", False, ("",) * (table.arms + len(table.groups)))
        return Change(replace(table, lines=(*table.lines, blank)), False)
    if what == "drop" and number is not None:
        return Change(changes.without_arm(table, number), False)
    if what == "combine":
        return Change(changes.every_combination(table), True)
    if what == "ask":
        return Change(changes.asking(table, value), True)
    start = start_of(value) if what == "start" else None
    if start is not None:
        return Change(changes.starting_at(table, start.kind, start.name, start.levels), True)
    separation = table.separation() if what == "mend" else None
    if separation is not None and number is not None and number < len(separation.mends):
        return Change(changes.mended(table, separation.mends[number]), True)
    raise InvalidInput("button", _("is not on this page any more; look again"), act[:40])
