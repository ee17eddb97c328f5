"""The form of an amendment."""

from __future__ import annotations

from collections.abc import Mapping

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.plan import amendments
from orderly_bench.core.plan.value import Plan
from orderly_bench.web import fields

Form = Mapping[str, str]
#: Amendments offered, by the name a form sends.
AMENDMENTS = {
    "departure": N_("something was done otherwise"),
    "endpoint": N_("another endpoint day"),
    "margin": N_("another margin"),
    "add_check": N_("one more check"),
    "drop_check": N_("a check left out"),
    "stop_rule": N_("another stop rule"),
    "abandon": N_("an arm given up"),
    "rename": N_("a level called otherwise"),
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
        aspect, _sep, level = form.get("level", "").partition("|")
        return amendments.RenameLevel(aspect, level, what)
    if kind not in AMENDMENTS:
        raise InvalidInput("amendment", _("choose one of: {names}", names=", ".join(AMENDMENTS.values())), kind)
    day = fields.whole(form, "what", "day after sticking")
    if kind == "endpoint":
        return amendments.EndpointDay(day)
    return amendments.AddCheckDay(day) if kind == "add_check" else amendments.DropCheckDay(day)
