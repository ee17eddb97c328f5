"""Ways in which the plan was not followed, each as a phrase."""

from __future__ import annotations

from orderly_bench.core.messages.say import clause
from orderly_bench.core.messages.translation import all_of, dated
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.score.days import touched_early
from orderly_bench.core.stick.tally import Status
from orderly_bench.core.tend.schedule import days_after_sticking
from orderly_bench.core.vocabulary import KnownBy
from orderly_bench.record.facts import outside_window
from orderly_bench.record.value import LotRecord, TrialRecord


def departures_of(record: TrialRecord) -> list[str]:
    """Ways in which the plan of version 1 was not followed, each as a phrase."""
    found = [record.late] if record.late else []
    found += [record.plan.question.anyway] if record.plan.question.anyway else []
    found += [
        clause("departure/amended", day=dated(version.at, "%-d %b"), changed="; ".join(version.changed))
        for version in record.versions[1:]
    ]
    found += [words for lot in record.lots for words in _windows_missed(record, lot)]
    found += [words for lot in record.lots for words in _touched(record, lot)]
    found += [words for lot in record.lots for words in _counted_otherwise(record, lot)]
    found += [
        clause("departure/looked", day=dated(look.at, "%-d %b"), person=look.person) for look in record.looks_unplanned
    ]
    for number, what in ((len(record.given), "departure/treated"), (_moved(record), "departure/moved")):
        found += [clause(what, n=number)] if number else []
    found += _not_done(record)
    found += _pieces_and_draws(record)
    if not record.holds:
        found.append(clause("departure/digest"))
    return found


def _moved(record: TrialRecord) -> int:
    return len({move.code for move in record.moves_until_end})


def _pieces_and_draws(record: TrialRecord) -> list[str]:
    """Planned pieces that were not stuck, a draw that was not the first, a prediction that came late."""
    found = []
    empty = sum(1 for cutting in record.cuttings if cutting.status is Status.NOT_STUCK)
    if empty:
        found.append(clause("departure/not_stuck", n=empty))
    draws = record.first_plan.draws
    if len(draws) > 1:
        found.append(clause("departure/redrawn", n=len(draws), reason=draws[-1].reason))
    if record.prediction is not None and record.prediction.late:
        found.append(record.prediction.late)
    return found


def _of_lot(record: TrialRecord, lot: LotRecord) -> str:
    return _(" of {name}", name=lot.name) if len(record.lots) > 1 else ""


def _windows_missed(record: TrialRecord, lot: LotRecord) -> list[str]:
    found = []
    for check in record.checks:
        away = outside_window(record, check) if check.lot == lot.id and check.endpoint else None
        if away is not None and check.day is not None:
            das = days_after_sticking(check.day, lot.day_zero)
            told = clause("departure/window", lot=_of_lot(record, lot), day=str(das), n=away)
            found.append(f"{told}: {check.why}" if check.why else told)
    return found


def _touched(record: TrialRecord, lot: LotRecord) -> list[str]:
    """Checks that lifted, pulled or dug before the plan allows."""
    until, found = record.plan.question.left_alone_until, []
    for check in record.checks:
        if check.lot != lot.id or check.day is None or not check.way:
            continue
        das = days_after_sticking(check.day, lot.day_zero)
        if touched_early(KnownBy(check.way), das, until):
            told = clause(
                "departure/touched", way=KnownBy(check.way), day=str(das), lot=_of_lot(record, lot), until=str(until)
            )
            found.append(f"{told}: {check.why}" if check.why else told)
    return found


def _counted_otherwise(record: TrialRecord, lot: LotRecord) -> list[str]:
    """Endpoint checks whose count on the table was another than that of the scores."""
    own = [check for check in record.checks if check.lot == lot.id and check.endpoint and check.on_table]
    return [_("at the endpoint{lot} {told}", lot=_of_lot(record, lot), told=check.on_table) for check in own]


def _not_done(record: TrialRecord) -> list[str]:
    """Checks before the end that were passed by; of several lots those of the same days in one phrase."""
    lots = [lot for lot in record.lots if _used(record, lot.id)]
    missed: dict[tuple[int, ...], list[LotRecord]] = {}
    for lot in lots:
        own = (c for c in record.checks if c.lot == lot.id and not c.endpoint and not c.opened)
        missed.setdefault(tuple(sorted(check.planned_das for check in own)), []).append(lot)
    found = []
    for days, at in missed.items():
        if len(days) * len(at) == 1:
            found.append(clause("departure/not_done", day=str(days[0]), lot=_of_lot(record, at[0])))
        elif days:
            named = _(" of {name}", name=all_of([lot.name for lot in at])) if len(at) < len(lots) else ""
            told = all_of(map(str, days))
            found.append(clause("departure/several_not_done", n=len(days) * len(at), days=told, lots=named))
    return found


def _used(record: TrialRecord, lot: int) -> bool:
    return any(c.counted and c.lot is not None and c.lot.id == lot for c in record.cuttings)
