"""Rows of the CSV files, and what the report says of the plan."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from orderly_bench.core.messages.translation import dated
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.observations.table import NOT_STUCK
from orderly_bench.core.plan.aspects import AspectKind
from orderly_bench.core.responses.classes import class_from
from orderly_bench.core.responses.kind import Response
from orderly_bench.core.score.details import DETAILS
from orderly_bench.core.stick.piece_measures import Noted
from orderly_bench.core.tend.schedule import days_after_sticking
from orderly_bench.core.vocabulary import Roots, State
from orderly_bench.evidence import headless
from orderly_bench.evidence.rows import days_by_cutting, value_of
from orderly_bench.evidence.verdict import Evidence
from orderly_bench.record.facts import CuttingResult, endpoint_checks, never_stuck, results_at
from orderly_bench.record.scope import scope_of
from orderly_bench.record.value import CuttingRecord, TrialRecord
from orderly_bench.trial.models import Trial

Row = tuple[Sequence[str], Sequence[object]]


def _where(cutting: CuttingRecord) -> list[object]:
    unit = cutting.unit
    return [cutting.code, unit.tray, unit.row, unit.column]


def _from(cutting: CuttingRecord) -> list[object]:
    origin = cutting.origin
    return [origin.donor, origin.stem, origin.place, origin.grade]


def _groups(record: TrialRecord, cutting: CuttingRecord) -> list[object]:
    unit = cutting.unit
    wave = f"wave {unit.wave}" if record.plan.seasons_in_waves else None
    return [unit.code, *(unit.group(kind) for kind in ("block", "pair", "whole plot", "row", "column")), wave]


def _levels(record: TrialRecord, cutting: CuttingRecord, with_arms: bool) -> tuple[str, ...]:
    treatments = record.plan.treatments
    return treatments.level_names(treatments.arm(cutting.unit.arm)) if with_arms else ()


#: Responses with a column of their own in the endpoint file, in its order; days to root have three.
RESPONSES = (
    Response.ROOT_COUNT, Response.ROOT_CLASS, Response.LONGEST, Response.QUALITY, Response.FOLIAGE, Response.FIT, Response.ALIVE,
)  # fmt: skip


def endpoint_rows(record: TrialRecord, with_arms: bool) -> Iterator[Row]:
    """One row per cutting at the endpoint, as ``analyse`` reads it back; no levels while arms are hidden."""
    days = days_by_cutting(record)
    for r in results_at(record, endpoint_checks(record)):
        rooted = None if r.outcome.rooted is None else int(r.outcome.rooted)
        day = days.get(r.cutting.id)
        lived = [day.last_without_day, day.first_with_day, day.outcome] if day else [None, None, None]
        cells = [
            *_where(r.cutting),
            *_groups(record, r.cutting),
            rooted,
            r.outcome.state,
            *_scored(r),
            *lived,
            *_from(r.cutting),
            *_went_in(record, r.cutting, with_arms),
        ]
        yield _levels(record, r.cutting, with_arms), cells
    for cutting in never_stuck(record):
        cells = [
            *_where(cutting),
            *_groups(record, cutting),
            None,
            NOT_STUCK,
            *[None] * (len(RESPONSES) + 3),
            *_from(cutting),
            *_went_in(record, cutting, with_arms),
        ]
        yield _levels(record, cutting, with_arms), cells


def measures_in(record: TrialRecord, with_arms: bool) -> list[str]:
    """Columns of what was noted as the cuttings went in; none while arms are hidden, for some would tell them."""
    return [one.name for one in record.noted] if with_arms else []


def _went_in(record: TrialRecord, cutting: CuttingRecord, with_arms: bool) -> list[str]:
    noted = Noted(cutting.unit.arm, cutting.noted)
    return [noted.value(one) for one in record.noted] if with_arms else []


def _scored(result: CuttingResult) -> list[object]:
    """What the endpoint says of each response; classes as scored or as the number falls, whole numbers without decimals."""
    found: list[object] = []
    for response in RESPONSES:
        value = value_of(response, result)
        if response is Response.ROOT_CLASS:
            own = result.score.root_class if result.score else None
            found.append(own or (None if value is None else class_from(value)))
            continue
        found.append(int(value) if value is not None and value.is_integer() else value)
    return found


def score_rows(record: TrialRecord, with_arms: bool) -> Iterator[Row]:
    """One row per rooting site of a cutting per check that was opened; an earlier final state carries forward."""
    stuck = [c for c in record.cuttings if c.lot is not None]
    for check in record.checks:
        if not check.opened or check.day is None:
            continue
        here = [c for c in stuck if c.lot is not None and c.lot.id == check.lot and check.looks_at(c.unit)]
        carried = {r.cutting.id: r for r in results_at(record, {check.lot: check}, here) if r.carried}
        for cutting in here:
            for number, site in enumerate(cutting.sites, start=1):
                kept = check.scores.get((cutting.id, number)) or (
                    carried[cutting.id].kept if cutting.id in carried else None
                )
                day = kept.day if kept is not None and cutting.id not in carried else check.day
                das = days_after_sticking(day, record.lot(check.lot).day_zero)
                cells: list[object] = [*_where(cutting), site, check.planned_das, day.isoformat(), das, check.way]
                if kept is None:
                    cells += ["unaccounted", *[None] * (17 + len(DETAILS))]
                else:
                    s = kept.score
                    callus = None if s.callus is None else int(s.callus)
                    cells += [
                        s.state, s.roots, s.root_number, s.root_class, s.longest_root_mm, s.quality, s.foliage, callus, s.top, s.failure, s.fit,
                        s.known_by, s.note, kept.person, int(kept.blind), kept.at.isoformat(), kept.revision, int(cutting.id in carried),
                        *(dict(s.details).get(detail.name) for detail in DETAILS),
                    ]  # fmt: skip
                yield _levels(record, cutting, with_arms), cells


def recipes_of(trial: Trial) -> list[tuple[str, str]]:
    """Recipes by the name of their medium."""
    medium = trial.plan.treatments.of_kind(AspectKind.MEDIUM)
    names = {level.id: level.name for level in medium.levels} if medium else {}
    return [(names.get(key, "every arm"), text) for key, text in trial.plan.preparation.recipes.items() if text]


def how_to_redo(found: Evidence) -> list[str]:
    """What lies in the package, and the commands that give its numbers again."""
    record = found.record
    return [
        _("Trial {code}, plan digest {digest}.", code=record.code, digest=record.digest),
        _(
            "endpoint: a row per cutting at the endpoint, what the verdict rests on; scores: a row per cutting and check."
        ),
        _("plan.yaml: the plan in force; figures: as in the report."),
        _("analysis.R: counts, differences and the randomisation p once more, in base R."),
        _("Blank is not known, never none or no. 1 is yes, 0 is no."),
        *([_("The same numbers from the endpoint file:"), headless.command(found)] if headless.command(found) else []),
        scope_of(record),
    ]


def seen_in_totals(record: TrialRecord) -> list[str]:
    """Each check that was opened, in one line, over all arms."""
    found = []
    for check in record.checks:
        if not check.opened or check.day is None:
            continue
        scores = [kept.score for kept in check.scores.values()]
        rooted = sum(score.roots in (Roots.SEEN, Roots.COUNTED) for score in scores)
        dead = sum(score.state is State.DEAD for score in scores)
        das = days_after_sticking(check.day, record.lot(check.lot).day_zero)
        found.append(
            _(
                "{day}, day {das}, {way}: roots seen in {rooted} of {n} scored, {dead} dead{open}",
                day=dated(check.day), das=str(das), way=check.way, rooted=str(rooted), n=str(len(scores)), dead=str(dead),
                open="" if check.closed else _("; not closed"),
            )
        )  # fmt: skip
    return found
