"""What a record says by itself: results at a check, the rows of the analysis, counts, what should be looked at. Queries nothing."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

from orderly_bench.core.compare.as_done import Treated
from orderly_bench.core.layouts.kinds import planned
from orderly_bench.core.observations.table import Row
from orderly_bench.core.responses.classes import class_of
from orderly_bench.core.score.endpoint import Outcome, outcome_at_endpoint, reconcile
from orderly_bench.core.score.findings import (
    Finding,
    VisitScores,
    question_arms,
    question_reconciliation,
    question_too_early,
    question_visits,
)
from orderly_bench.core.score.second import Twice
from orderly_bench.core.score.sites import of_plant
from orderly_bench.core.stick.piece_measures import Noted
from orderly_bench.core.stick.tally import Status
from orderly_bench.core.tend.schedule import days_outside
from orderly_bench.core.vocabulary import FINAL_STATES, SAMPLED, KnownBy, Roots, Score, State
from orderly_bench.record.value import CheckRecord, CuttingRecord, Kept, LotRecord, TrialRecord

#: States in which a cutting's roots could be looked at.
SEEN_STATES = (State.ALIVE, State.LOOKS_DEAD, State.CANNOT_TELL)


@dataclass(frozen=True)
class CuttingResult:
    """One counted cutting at one check: its score over all its sites, and what it counts as."""

    cutting: CuttingRecord
    kept: Kept | None
    carried: bool
    outcome: Outcome
    check: CheckRecord | None

    @property
    def score(self) -> Score | None:
        """What was scored."""
        return self.kept.score if self.kept else None


def checks_on(record: TrialRecord, planned_das: int) -> dict[int, CheckRecord]:
    """The checks planned for a day, by lot."""
    return {check.lot: check for check in record.checks if check.planned_das == planned_das}


def endpoint_checks(record: TrialRecord) -> dict[int, CheckRecord]:
    """The endpoint check of every lot."""
    return {check.lot: check for check in record.checks if check.endpoint}


def _plant(cutting: CuttingRecord, check: CheckRecord) -> Kept | None:
    """A cutting's scores at one check as one; None unless every site has one."""
    found = [check.scores.get((cutting.id, site)) for site in range(1, len(cutting.sites) + 1)]
    kept = [k for k in found if k is not None]
    if len(kept) < len(found):
        return None
    newest = max(kept, key=lambda k: k.id)
    blind = all(k.blind for k in kept)
    return Kept(
        of_plant([k.score for k in kept]), newest.person, blind, newest.at, newest.revision, newest.id, newest.day
    )


def _classed(kept: Kept | None, classes: tuple[str, ...]) -> Kept | None:
    """A counted number in its class, where the plan has classes of its own."""
    if kept is None or not classes or not kept.score.root_number:
        return kept
    return replace(kept, score=replace(kept.score, root_class=class_of(kept.score.root_number, classes)))


def _carried(cutting: CuttingRecord, earlier: list[CheckRecord]) -> Kept | None:
    """The final state a cutting had before: its last, or *sampled* from the check on that it was lifted for good at."""
    found = None
    for before in earlier:
        kept = _plant(cutting, before)
        if kept is not None and kept.score.state in FINAL_STATES:
            found = kept
        known = kept or found
        if cutting.unit.sampled == before.id and known is not None:
            return replace(known, score=SAMPLED)
    return found


def results_at(
    record: TrialRecord, checks: dict[int, CheckRecord], cuttings: list[CuttingRecord] | None = None
) -> list[CuttingResult]:
    """Every counted cutting that its lot's check looks at, in bench order; an earlier final state carries forward."""
    earlier = {
        lot: [c for c in record.checks if c.lot == lot and c.opened and c.planned_das < check.planned_das]
        for lot, check in checks.items()
    }
    results = []
    for cutting in record.counted if cuttings is None else cuttings:
        check = checks.get(cutting.lot.id) if cutting.lot else None
        own = _plant(cutting, check) if check else None
        if check is not None and not check.looks_at(cutting.unit):
            continue
        carried = _carried(cutting, earlier.get(cutting.lot.id, []) if cutting.lot else [])
        outcome = outcome_at_endpoint(own.score if own else None, carried.score if carried else None)
        kept = _classed(own or carried, record.plan.question.root_classes)
        results.append(CuttingResult(cutting, kept, own is None and carried is not None, outcome, check))
    return results


def factor_names(record: TrialRecord) -> list[str]:
    """Names of the factors, in order."""
    return [aspect.name for aspect in record.plan.treatments.asked]


def row_of(record: TrialRecord, cutting: CuttingRecord, response: float | None, state: str, **more: Any) -> Row:
    """One cutting with the groups its unit was drawn in; units are named where some hold several cuttings."""
    unit, treatments = cutting.unit, record.plan.treatments
    return Row(
        treatments.level_names(treatments.arm(unit.arm)),
        response,
        unit.group("block"),
        state,
        unit=unit.code if record.several_to_a_unit else None,
        pair=unit.group("pair"),
        whole_plot=unit.group("whole plot"),
        row=unit.group("row"),
        column=unit.group("column"),
        wave=f"wave {unit.wave}" if record.plan.seasons_in_waves else None,
        in_wave=len(record.plan.schedule.waves) > 1 and not record.plan.seasons_in_waves,
        start=_started_with(record, cutting),
        **more,
    )


def _started_with(record: TrialRecord, cutting: CuttingRecord) -> tuple[tuple[str, str], ...]:
    """What a cutting started with: its donor and grade, where any of the trial say them, and what was noted as it went in."""
    noted = Noted(cutting.unit.arm, cutting.noted)
    return (
        *((("donor", cutting.origin.donor),) if record.donors_said else ()),
        *((("grade", cutting.origin.grade),) if record.grades_said else ()),
        *((one.name, noted.value(one)) for one in record.starts),
    )


def never_stuck(record: TrialRecord) -> list[CuttingRecord]:
    """Places of a pair or a square that stayed empty: they keep the layout whole and are no cuttings."""
    if not planned(record.plan.design.layout).keeps_empty_places:
        return []
    return [c for c in record.cuttings if c.status is Status.NOT_STUCK]


def reconciliation_of(record: TrialRecord, results: list[CuttingResult]) -> dict[str, dict[str, int]]:
    """Counts by arm letter and column; each arm's columns add up to its stuck."""
    return {
        letter: reconcile([r.outcome for r in results if r.cutting.unit.arm == letter]) for letter in record.arm_names
    }


def outside_window(record: TrialRecord, check: CheckRecord) -> int | None:
    """Days by which a done check lies outside its window; None when inside or not done."""
    if check.day is None:
        return None
    return days_outside(check.day, check.planned_das, check.window_days, record.lot(check.lot).day_zero)


def known_by_arm(record: TrialRecord, results: list[CuttingResult]) -> dict[str, dict[str, int]]:
    """How the roots of each arm's rooted cuttings are known, by arm's letter and grade, strongest first."""
    grades = {letter: dict.fromkeys(map(str, KnownBy), 0) for letter in record.arm_names}
    for r in results:
        if r.score is not None and not r.carried and r.score.roots in (Roots.COUNTED, Roots.SEEN):
            grades[r.cutting.unit.arm][str(r.score.known_by)] += 1
    used = [grade for grade in map(str, KnownBy) if any(of_arm[grade] for of_arm in grades.values())]
    return {letter: {grade: of_arm[grade] for grade in used} for letter, of_arm in grades.items()}


def grades_of(record: TrialRecord, results: list[CuttingResult]) -> dict[str, list[Any]]:
    """How the roots of each arm's cuttings are known; None where nobody looked. The dead and gone take no part."""
    names = record.arm_names
    grades: dict[str, list[Any]] = {name: [] for name in names.values()}
    for r in results:
        if r.score is not None and not r.carried and r.score.state in SEEN_STATES:
            looked = r.score.roots is not Roots.NOT_LOOKED
            grades[names[r.cutting.unit.arm]].append(r.score.known_by if looked else None)
    return grades


def scores_by_arm(record: TrialRecord, results: list[CuttingResult]) -> dict[str, list[Score]]:
    """The standing scores of each arm, by its name."""
    found: dict[str, list[Score]] = {name: [] for name in record.arm_names.values()}
    for r in results:
        if r.score is not None and not r.carried:
            found[record.arm_names[r.cutting.unit.arm]].append(r.score)
    return found


def scored_twice(results: list[CuttingResult]) -> list[Twice]:
    """What both scorers saw of the cuttings that were scored twice at these checks."""
    found = []
    checks = {r.check.id: r.check for r in results if r.check}
    second = {(check.id, one[0]): one for check in checks.values() for one in reversed(check.twice)}
    for r in results:
        again = second.get((r.check.id, r.cutting.id)) if r.check else None
        if again is not None and r.score is not None and not r.carried:
            found.append(Twice(_rooted(r.score.roots), _rooted(again[1]), r.score.root_number, again[2]))
    return found


def _rooted(roots: Roots) -> bool | None:
    return None if roots is Roots.NOT_LOOKED else roots is not Roots.NONE


def treated(record: TrialRecord, results: list[CuttingResult]) -> list[Treated]:
    """Every cutting with its arm as planned and as given."""
    return [
        Treated(r.cutting.unit.arm, record.given.get(r.cutting.unit.id, r.cutting.unit.arm), r.outcome.rooted)
        for r in results
    ]


def _written_off(record: TrialRecord, lot: LotRecord, visits: list[VisitScores]) -> list[Finding]:
    """Who was called dead before the day the plan allows; a day of sticking that is not sure is taken as the earliest."""
    allowed = record.plan.question.dead_from_day
    if allowed is None:
        return []
    early = [question_too_early(v.scores, (v.day - lot.day_zero.first).days, allowed) for v in visits]
    return [finding for finding in early if finding]


def findings_of(record: TrialRecord, results: list[CuttingResult]) -> list[Finding]:
    """Questions to the data over all checks done, lot by lot."""
    found: list[Finding] = []
    for lot in record.lots:
        codes = {c.id: c.code for c in record.counted if c.lot is not None and c.lot.id == lot.id}
        visits = []
        for check in record.checks:
            if check.lot == lot.id and check.opened and check.day is not None:
                plants = {
                    codes[c.id]: kept.score for c in record.counted if c.id in codes and (kept := _plant(c, check))
                }
                visits.append(VisitScores(check.planned_das, check.day, plants))
        found += [*question_visits(visits, lot.day_zero), *_written_off(record, lot, visits)]
    names = record.arm_names
    scored = {
        name: sum(1 for r in results if r.cutting.unit.arm == letter and r.kept) for letter, name in names.items()
    }
    sums = reconciliation_of(record, results)
    stuck = {letter: sum(1 for r in results if r.cutting.unit.arm == letter) for letter in names}
    unbalanced = [question_reconciliation(names[letter], stuck[letter], sums[letter]) for letter in names]
    return [*found, *question_arms(scored), *(f for f in unbalanced if f)]


def died_since(record: TrialRecord, results: list[CuttingResult]) -> dict[str, int]:
    """Of every arm, how many that had rooted at the endpoint died later."""
    died = {cutting for cutting, _ in record.died_later}
    found = dict.fromkeys(record.arm_names, 0)
    for result in results:
        if result.outcome.rooted and result.cutting.id in died:
            found[result.cutting.unit.arm] += 1
    return found
