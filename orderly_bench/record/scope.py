"""What a trial's answer speaks of: the plant, where its pieces came from, when they were stuck, of how many donors; nothing wider."""

from __future__ import annotations

from orderly_bench.core.messages.translation import all_of, dated
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.record.value import TrialRecord


def scope_of(record: TrialRecord) -> str:
    """The scope in one sentence; donors are counted where they are known of every counted cutting."""
    asked, counted = record.plan.question, record.counted
    days = sorted({cutting.lot.day_zero.middle for cutting in counted if cutting.lot is not None})
    donors = {cutting.origin.donor for cutting in counted}
    came = sorted({cutting.lot.came.in_scope for cutting in counted if cutting.lot is not None} - {""})
    parts = [_("pieces from {source}", source=asked.source)] if asked.source else []
    parts += [_("stuck {days}", days=all_of(dated(day) for day in days))] if days else []
    if len(donors) == 1 and "" not in donors:
        parts.append(_("of one donor, {donor}", donor=next(iter(donors))))
    elif donors and "" not in donors:
        parts.append(_("of {n} donors", n=len(donors)))
    woods = sorted({cutting.lot.came.wood for cutting in counted if cutting.lot is not None} - {""})
    parts += [_("of {woods} shoots", woods=all_of(map(_, woods)))] if woods else []
    parts += [_("pieces as {why} gives them", why=all_of(came))] if came else []
    told = "".join(f", {part}" for part in parts)
    return _("It speaks of {taxon}{told}, on this bench; nothing wider.", taxon=asked.taxon, told=told)
