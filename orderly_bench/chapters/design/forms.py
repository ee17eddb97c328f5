"""The form of an amendment."""

from __future__ import annotations

from collections.abc import Mapping

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.words import tell, word
from orderly_bench.core.plan import amendments
from orderly_bench.core.plan.value import Plan
from orderly_bench.web import fields

Form = Mapping[str, str]
#: Amendments offered, by the name a form sends.
AMENDMENTS = {
    "departure": word("something was done otherwise"),
    "endpoint": word("another endpoint day"),
    "margin": word("another margin"),
    "add_check": word("one more check"),
    "drop_check": word("a check left out"),
    "stop_rule": word("another stop rule"),
    "abandon": word("an arm given up"),
    "rename": word("a level called otherwise"),
}


def read_amendment(form: Form, plan: Plan) -> amendments.Amendment:
    """The typed change of a locked plan."""
    kind, what = form.get("kind", "departure"), fields.text(form, "what")
    if kind == "departure":
        return amendments.Departure(what)
    if kind == "stop_rule":
        return amendments.StopRule(what)
    if kind == "margin":
        return amendments.Margin(fields.number(form, "what", "margin"))
    if kind == "abandon":
        return amendments.AbandonArm(form.get("arm", ""), fields.text(form, "reason"))
    if kind == "rename":
        aspect, _, level = form.get("level", "").partition("|")
        return amendments.RenameLevel(aspect, level, what)
    if kind not in AMENDMENTS:
        raise InvalidInput("amendment", tell("choose one of: {names}", names=", ".join(AMENDMENTS.values())), kind)
    day = fields.whole(form, "what", "day after sticking")
    if kind == "endpoint":
        return amendments.EndpointDay(day)
    return amendments.AddCheckDay(day) if kind == "add_check" else amendments.DropCheckDay(day)
