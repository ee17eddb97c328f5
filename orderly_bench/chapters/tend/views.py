"""What the Tend page prints: the strip of days, care so far, what was read, how the arms lived."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta

from orderly_bench.core.cautions import Caution
from orderly_bench.core.messages.translation import dated
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.stick.tally import Status
from orderly_bench.core.tend.by_day import Lived, Unit
from orderly_bench.core.tend.by_hand import ByHand, covers_of, moisture_told
from orderly_bench.core.tend.care import Care, CareDay, CareState
from orderly_bench.core.tend.schedule import DueState
from orderly_bench.figures import season
from orderly_bench.record.lived import Life, doubts_about_care, doubts_about_conditions
from orderly_bench.trial.care import title_of
from orderly_bench.trial.models import CheckVisit, ConditionLog, Incident, Note, Trial
from orderly_bench.trial.models import Unit as UnitRow
from orderly_bench.web.due import DueLine


@dataclass(frozen=True)
class Tended:
    """How the trial stands today."""

    missed: list[Care]
    lived: dict[str, Lived]
    doubts: list[Caution]
    strip: str
    strip_data: dict[str, object]
    heading: str
    until: list[tuple[str, str]]
    moisture: dict[str, str]


def tended(
    life: Life, lines: Sequence[DueLine], written: Sequence[Incident | Note], logs: Sequence[ConditionLog], hidden: bool
) -> Tended:
    """Everything up to today."""
    care = life.care_so_far
    doubts = doubts_about_care(care) + ([] if hidden else doubts_about_conditions(life))
    drawn = strip(life, lines, written, [log for log in logs if not log.withdrawn], hidden)
    return Tended(
        [one for one in care if one.done + one.skipped < one.due], {} if hidden else life.by_arm, doubts,
        season.figure(drawn), season.along(drawn), _heading(lines, care), _until(lines, hidden), {} if hidden else moisture_told(life.units, life.by_hand),
    )  # fmt: skip


def _until(lines: Sequence[DueLine], hidden: bool) -> list[tuple[str, str]]:
    """Kinds of care that go on until something is seen, each with what, while the last of it is not decided."""
    last = {title_of(line.job.trial, line.job, hidden): line.job for line in lines if line.job and line.job.until}
    return [(title, job.until) for title, job in last.items() if not job.decided]


def life_today(
    trial: Trial,
    units: Sequence[UnitRow],
    logs: Sequence[ConditionLog],
    by_hand: Sequence[ByHand],
    care: Sequence[tuple[date, tuple[CareDay, ...]]],
    today: date,
) -> Life:
    """Up to today, or to the endpoint where that is earlier."""
    day = timedelta(days=trial.plan.question.endpoint_day)
    lots = {lot.id: lot.day_zero.middle for lot in trial.lots}
    stood = {}
    for unit in units:
        for cutting in unit.cuttings:
            if cutting.status == Status.STUCK and cutting.replaces_id is None and cutting.lot_id in lots:
                first = lots[cutting.lot_id]
                stood[unit.id] = Unit(unit.arm.letter, unit.id, first, min(first + day, today))
    treatments = trial.plan.treatments
    kept = tuple(log.as_log() for log in logs if not log.withdrawn)
    letters = tuple(arm.id for arm in treatments.arms)
    return Life(
        letters, tuple(stood.values()), kept, tuple(by_hand), tuple(care), treatments.kinds_that_differ, trial.plan.seasons_in_waves, today
    )  # fmt: skip


def _heading(lines: Sequence[DueLine], care: Sequence[Care]) -> str:
    """``two jobs today, one gap in the care``, in figures."""
    now = sum(1 for line in lines if line.state in (DueState.DUE, DueState.OVERDUE) and line.check)
    now += len({line.job.title for line in lines if line.job and line.state in (DueState.DUE, DueState.OVERDUE)})
    gaps = sum(one.gap for one in care)
    parts = [_("{n:job|jobs} to do", n=now)] if now else []
    parts += [_("{n:gap|gaps} in the care", n=gaps)] if gaps else []
    return ", ".join(parts) or _("nothing is due")


def strip(
    life: Life, lines: Sequence[DueLine], written: Sequence[Incident | Note], logs: Sequence[ConditionLog], hidden: bool
) -> season.Season:
    """The days as one picture."""
    first = min([stuck for stuck, _ in life.care] + [unit.first for unit in life.units])
    last = max(line.due for line in lines)
    care: dict[str, list[tuple[date, CareState]]] = {}
    for one in (one for _label, days in life.care for one in days):
        care.setdefault(one.title, []).append((one.due, one.state(life.end)))
    return season.Season(
        first=first,
        last=last,
        today=life.end,
        checks=[_check(line, line.check) for line in lines if line.check],
        care=list(care.items()),
        happened=sorted((_happened(one) for one in written), key=lambda span: span.first),
        air=[one for one in _air(logs) if first <= one[0] <= last],
        band=(logs[-1].low_c, logs[-1].high_c) if logs else (0.0, 0.0),
        light=_light(life, logs, hidden),
        cover=_cover(life, hidden),
    )


def band_of(logs: Sequence[ConditionLog]) -> tuple[str, str]:
    """The band that stands, as it is offered; blank before there is one."""
    standing = next((log for log in logs if not log.withdrawn), None)
    return (f"{standing.low_c:g}", f"{standing.high_c:g}") if standing else ("", "")


def _air(logs: Sequence[ConditionLog]) -> list[tuple[date, float, float]]:
    """The lowest and highest of each day, over all places that were read."""
    found: dict[date, tuple[float, float]] = {}
    for day in (day for log in logs for day in log.as_log().days):
        if day.low is not None and day.high is not None:
            low, high = found.get(day.day, (day.low, day.high))
            found[day.day] = min(low, day.low), max(high, day.high)
    return [(day, *found[day]) for day in sorted(found)]


def _cover(life: Life, hidden: bool) -> list[tuple[str, list[season.Span]]]:
    """Of each arm, or of all in one where arms are hidden or alike, the stretches of its cover."""
    by_arm: dict[str, list[tuple[date, date, str]]] = {}
    for unit in life.units:
        stretches = covers_of(unit, life.by_hand)
        if stretches and len(stretches) >= len(by_arm.get(unit.arm, [])):
            by_arm[unit.arm] = stretches
    if not by_arm:
        return []
    alike = len({tuple(each) for each in by_arm.values()}) == 1 and len(by_arm) == len(life.letters)
    if hidden or alike:
        by_arm = {"": max(by_arm.values(), key=len)} if alike else {}
    return [
        (letter, [season.Span(first, last, _(state)) for first, last, state in stretches])
        for letter, stretches in sorted(by_arm.items())
    ]


def _check(line: DueLine, check: CheckVisit) -> season.Span:
    window = timedelta(days=check.window_days)
    words, at = f"{line.what}, {dated(line.due, '%-d %b')}", check.day or line.due
    return season.Span(line.due - window, line.due + window, words, at, check.closed_at is not None)


def _happened(one: Incident | Note) -> season.Span:
    if isinstance(one, Note):
        return season.Span(one.day, one.day, one.text)
    return season.Span(one.first_day, one.last_day, _incident(one))


def _incident(incident: Incident) -> str:
    words = f"{incident.kind}, {_('{n:unit|units}', n=len(incident.units))}"
    return f"{words}: {incident.note}" if incident.note else words


def _light(life: Life, logs: Sequence[ConditionLog], hidden: bool) -> list[season.Line]:
    """A line an arm where several places were read, else a line a place."""
    if not hidden and len(logs) > 1:
        return [
            season.Line(_("arm {letter}", letter=letter), letter, days) for letter, days in life.light_by_arm.items()
        ]
    return [
        season.Line(log.zone, "", [(d.day, d.light) for d in log.as_log().days if d.light is not None]) for log in logs
    ]
