"""Read a trial's record: results at a check, the rows of the analysis, departures, rival explanations. Queries nothing."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date
from typing import Any

from orderly_bench.core.cautions import Caution
from orderly_bench.core.compare.as_done import Treated, doubt_about_treatments
from orderly_bench.core.design.lids import lids_of, travelling
from orderly_bench.core.judgement.analysis import Settings
from orderly_bench.core.judgement.dose_curve import dose_factor
from orderly_bench.core.messages.say import caution, phrase
from orderly_bench.core.messages.words import all_of, dated, tell
from orderly_bench.core.observations.table import Row
from orderly_bench.core.plan.aspects import AspectKind
from orderly_bench.core.plan.question import Headline, TrialKind
from orderly_bench.core.plan.treatments import Aspect, Treatments
from orderly_bench.core.question.sentence import margin_of
from orderly_bench.core.responses.registry import kind_of
from orderly_bench.core.score.beside import told
from orderly_bench.core.score.endpoint import Outcome, outcome_at_endpoint, reconcile
from orderly_bench.core.score.findings import (
    Finding,
    VisitScores,
    question_arms,
    question_reconciliation,
    question_too_early,
    question_visits,
)
from orderly_bench.core.score.sites import of_plant
from orderly_bench.core.score.visibility import doubts_about_visibility
from orderly_bench.core.stick.tally import Status
from orderly_bench.core.tend.schedule import days_after_sticking, days_outside
from orderly_bench.core.vocabulary import FINAL_STATES, KnownBy, LayoutKind, Roots, Score, State
from orderly_bench.record.value import CheckRecord, CuttingRecord, Kept, LotRecord, TrialRecord

DRAWS = 20_000
#: States in which a cutting's roots could be looked at.
SEEN_STATES = (State.ALIVE, State.LOOKS_DEAD, State.CANNOT_TELL)
#: Layouts that an empty place would break: it stays, without an outcome.
WHOLE_LAYOUTS = (LayoutKind.PAIRS, LayoutKind.LATIN_SQUARE)


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
    return Kept(of_plant([k.score for k in kept]), newest.person, blind, newest.at, newest.revision, newest.id)


def results_at(
    record: TrialRecord, checks: dict[int, CheckRecord], cuttings: list[CuttingRecord] | None = None
) -> list[CuttingResult]:
    """Every counted cutting at its lot's check, in bench order; an earlier final state carries forward."""
    earlier = {
        lot: [c for c in record.checks if c.lot == lot and c.opened and c.planned_das < check.planned_das]
        for lot, check in checks.items()
    }
    results = []
    for cutting in record.counted if cuttings is None else cuttings:
        check = checks.get(cutting.lot.id) if cutting.lot else None
        own = _plant(cutting, check) if check else None
        carried = None
        for before in earlier.get(cutting.lot.id, []) if cutting.lot else []:
            kept = _plant(cutting, before)
            if kept is not None and kept.score.state in FINAL_STATES:
                carried = kept
        outcome = outcome_at_endpoint(own.score if own else None, carried.score if carried else None)
        results.append(CuttingResult(cutting, own or carried, own is None and carried is not None, outcome, check))
    return results


def settings_of(record: TrialRecord) -> Settings:
    """Settings of the analysis; the seed comes from the digest of the lock, so a reload gives the same figures."""
    asked = record.plan.question
    seed = int((record.digest or "1")[:7], 16)
    treatments = record.plan.treatments
    control = next((treatments.level_names(arm) for arm in treatments.arms if arm.control), None)
    return Settings(
        alpha=asked.alpha,
        margin=margin_of(asked.response, asked.margin_points, asked.margin_own),
        response=asked.response,
        draws=DRAWS,
        seed=seed,
        control=control,
        against_control=asked.headline is Headline.CONTROL and control is not None,
        max_t=asked.max_t and asked.headline is Headline.CONTROL and control is not None,
        look=asked.kind is TrialKind.LOOK,
        not_worse=asked.not_worse and control is not None,
        by_factor=asked.headline is Headline.FACTORS and kind_of(asked.response).yes_no,
        properties=tuple(aspect.name for aspect in treatments.asked if aspect.property),
        dose=None
        if asked.kind is TrialKind.LOOK or not kind_of(asked.response).yes_no
        else dose_factor({a.name: _levels(treatments, a) for a in treatments.asked}),
    )


def _levels(treatments: Treatments, aspect: Aspect) -> list[str]:
    """Names of the levels that some arm has, the factor's order kept."""
    used = {arm.says.get(aspect.id) for arm in treatments.arms}
    return [level.name for level in aspect.levels if level.id in used]


def factor_names(record: TrialRecord) -> list[str]:
    """Names of the factors, in order."""
    return [aspect.name for aspect in record.plan.treatments.asked]


def row_of(record: TrialRecord, cutting: CuttingRecord, response: float | None, state: str, **more: Any) -> Row:
    """One cutting with the groups its unit was drawn in; units are named where some hold several cuttings."""
    unit, treatments = cutting.unit, record.plan.treatments
    shared = any(u.planned > 1 for u in record.units)
    return Row(
        treatments.level_names(treatments.arm(unit.arm)),
        response,
        unit.group("block"),
        state,
        unit=unit.code if shared else None,
        pair=unit.group("pair"),
        whole_plot=unit.group("whole plot"),
        row=unit.group("row"),
        column=unit.group("column"),
        wave=f"wave {unit.wave}" if record.plan.seasons_in_waves else None,
        in_wave=len(record.plan.schedule.waves) > 1 and not record.plan.seasons_in_waves,
        start=started_with(record, cutting),
        **more,
    )


def started_with(record: TrialRecord, cutting: CuttingRecord) -> tuple[tuple[str, str], ...]:
    """What a cutting started with: its donor and grade, where any of the trial say them."""
    named = (
        ("donor", any(c.origin.donor for c in record.cuttings)),
        ("grade", any(c.origin.grade for c in record.cuttings)),
    )
    own = {"donor": cutting.origin.donor, "grade": cutting.origin.grade}
    return tuple((name, own[name]) for name, said in named if said)


def never_stuck(record: TrialRecord) -> list[CuttingRecord]:
    """Places of a pair or a square that stayed empty: they keep the layout whole and are no cuttings."""
    if record.plan.design.layout not in WHOLE_LAYOUTS:
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


def departures_of(record: TrialRecord) -> list[str]:
    """Ways in which the plan of version 1 was not followed, each as a phrase."""
    found = [record.late] if record.late else []
    found += [record.plan.question.anyway] if record.plan.question.anyway else []
    found += [
        phrase("departure/amended", day=dated(version.at, "%-d %b"), changed="; ".join(version.changed))
        for version in record.versions[1:]
    ]
    found += [words for lot in record.lots for words in _windows_missed(record, lot)]
    found += [phrase("departure/looked", day=dated(look.at, "%-d %b"), person=look.person) for look in record.looks]
    for number, what in ((len(record.given), "departure/treated"), (_moved(record), "departure/moved")):
        found += [phrase(what, n=number)] if number else []
    found += [words for lot in record.lots for words in _not_done(record, lot)]
    found += _pieces_and_draws(record)
    if not record.holds:
        found.append(phrase("departure/digest"))
    return found


def _moved(record: TrialRecord) -> int:
    return len({move.code for move in record.moves})


def _pieces_and_draws(record: TrialRecord) -> list[str]:
    """Planned pieces that were not stuck, a draw that was not the first, a prediction that came late."""
    found = []
    empty = sum(1 for cutting in record.cuttings if cutting.status is Status.NOT_STUCK)
    if empty:
        found.append(phrase("departure/not_stuck", n=empty))
    draws = record.first_plan.draws
    if len(draws) > 1:
        found.append(phrase("departure/redrawn", n=len(draws), reason=draws[-1].reason))
    if record.prediction is not None and record.prediction.late:
        found.append(record.prediction.late)
    return found


def _of_lot(record: TrialRecord, lot: LotRecord) -> str:
    return tell(" of {name}", name=lot.name) if len(record.lots) > 1 else ""


def _windows_missed(record: TrialRecord, lot: LotRecord) -> list[str]:
    found = []
    for check in record.checks:
        away = outside_window(record, check) if check.lot == lot.id and check.endpoint else None
        if away is not None and check.day is not None:
            das = days_after_sticking(check.day, lot.day_zero)
            told = phrase("departure/window", lot=_of_lot(record, lot), day=str(das), n=away)
            found.append(f"{told}: {check.why}" if check.why else told)
    return found


def _not_done(record: TrialRecord, lot: LotRecord) -> list[str]:
    if not _used(record, lot.id):
        return []
    return [
        phrase("departure/not_done", day=str(check.planned_das), lot=_of_lot(record, lot))
        for check in record.checks
        if check.lot == lot.id and not check.endpoint and not check.opened
    ]


def _used(record: TrialRecord, lot: int) -> bool:
    return any(c.counted and c.lot is not None and c.lot.id == lot for c in record.cuttings)


def log_cautions(record: TrialRecord, results: list[CuttingResult]) -> list[Caution]:
    """Rival explanations from the log: incidents, scorers who knew the arms, approximate dates."""
    found = []
    arm_of = {unit.id: unit.arm for unit in record.units}
    for incident in record.incidents:
        touched = [arm_of[unit] for unit in incident.units]
        spread = ", ".join(f"{letter} {touched.count(letter)}" for letter in record.arm_names)
        days = dated(incident.first_day, "%-d %b") + (
            tell(" to {last_day:%-d %b}", last_day=incident.last_day) if incident.last_day != incident.first_day else ""
        )
        found.append(caution("incident", kind=incident.kind, days=days, n=len(touched), spread=spread))
    if record.looks:
        looks = len(record.looks)
        found.append(caution("looked_early", n=looks, first=dated(record.looks[0].at, "%-d %b"), serious=True))
    under = [(lid, unit.arm) for unit in record.units if (lid := unit.group("lid"))]
    alone = travelling(lids_of(under))
    if alone:
        arms = "; ".join(
            tell("{letter} under {number}", letter=letter, number=number) for letter, number in alone.items()
        )
        found.append(caution("lid_travels", arms=arms, serious=True))
    found += _earlier_roots(record)
    found += doubt_about_treatments(treated(record, results))
    found += doubts_about_visibility(_grades(record, results))
    knowing = {r.kept.person for r in results if r.kept and not r.kept.blind and not r.carried}
    if knowing and record.plan.question.scored_blind:
        found.append(caution("not_blind", who=", ".join(sorted(knowing))))
    if any(not lot.day_zero.exact for lot in record.lots):
        found.append(caution("day_zero_approximate"))
    return [*found, *_held_unevenly(record), *_not_concurrent(record), *_side_groups(record)]


def _earlier_roots(record: TrialRecord) -> list[Caution]:
    """Arms described as having roots when they were stuck; serious where others had none."""
    treatments = record.plan.treatments
    aspect = treatments.of_kind(AspectKind.EARLIER_ROOTS)
    if aspect is None:
        return []
    names = {level.id: level.name for level in aspect.levels}
    said = {arm.id: names.get(arm.says.get(aspect.id, ""), "") for arm in treatments.arms}
    had = {arm: words for arm, words in said.items() if words and words.casefold() not in ("none", "no", "0")}
    if not had:
        return []
    arms = ", ".join(f"{arm} {words}" for arm, words in had.items())
    return [caution("earlier_roots", "said", arms=arms, serious=len(had) < len(said))]


def _held_unevenly(record: TrialRecord) -> list[Caution]:
    """A delay between taking and sticking that differs between arms is a rival explanation; held on purpose it is an aspect."""
    hours: dict[str, set[float]] = {}
    for cutting in record.counted:
        lot = cutting.lot
        if lot is not None and lot.held_hours is not None and not lot.on_purpose:
            hours.setdefault(cutting.unit.arm, set()).add(lot.held_hours)
    if len({frozenset(told) for told in hours.values()}) < 2:
        return []
    told = ", ".join(f"{letter} {' and '.join(f'{h:g}' for h in sorted(hours[letter]))} h" for letter in sorted(hours))
    return [caution("start_differs", "held", told=told)]


def _not_concurrent(record: TrialRecord) -> list[Caution]:
    """Arms that were certainly not stuck on the same days; season's own arms are not meant to be."""
    if record.plan.seasons_in_waves:
        return []
    days: dict[str, set[tuple[date, date]]] = {}
    for cutting in record.counted:
        if cutting.lot is not None:
            days.setdefault(cutting.unit.arm, set()).add((cutting.lot.day_zero.first, cutting.lot.day_zero.last))
    if len({frozenset(told) for told in days.values()}) < 2:
        return []
    told = ", ".join(
        f"{arm} {all_of(dated(first, '%-d %b') for first, _ in sorted(days[arm]))}" for arm in sorted(days)
    )
    return [caution("not_concurrent", told=told, serious=True)]


def prediction_doubts(record: TrialRecord, results: list[CuttingResult], came_true: bool) -> list[Caution]:
    """A prediction that came true under its author's own scores, made knowing the arms."""
    if record.prediction is None or not came_true:
        return []
    author = record.prediction.person
    own = sum(1 for r in results if r.kept and r.kept.person == author and not r.kept.blind and not r.carried)
    if not own:
        return []
    scored = sum(1 for r in results if r.kept and not r.carried)
    return [caution("prediction_by_scorer", author=author, own=own, scored=scored)]


def known_by_arm(record: TrialRecord, results: list[CuttingResult]) -> dict[str, dict[str, int]]:
    """How the roots of each arm's rooted cuttings are known, by arm's letter and grade, strongest first."""
    grades = {letter: dict.fromkeys(map(str, KnownBy), 0) for letter in record.arm_names}
    for r in results:
        if r.score is not None and not r.carried and r.score.roots in (Roots.COUNTED, Roots.SEEN):
            grades[r.cutting.unit.arm][str(r.score.known_by)] += 1
    used = [grade for grade in map(str, KnownBy) if any(of_arm[grade] for of_arm in grades.values())]
    return {letter: {grade: of_arm[grade] for grade in used} for letter, of_arm in grades.items()}


def _side_groups(record: TrialRecord) -> list[Caution]:
    groups = told(record.plan, record.beside)
    return [caution("not_drawn", "counted" if record.beside else "", groups="; ".join(groups))] if groups else []


def _grades(record: TrialRecord, results: list[CuttingResult]) -> dict[str, list[Any]]:
    """How the roots of each arm's cuttings are known; None where nobody looked. The dead and gone take no part."""
    names = record.arm_names
    grades: dict[str, list[Any]] = {name: [] for name in names.values()}
    for r in results:
        if r.score is not None and not r.carried and r.score.state in SEEN_STATES:
            looked = r.score.roots is not Roots.NOT_LOOKED
            grades[names[r.cutting.unit.arm]].append(r.score.known_by if looked else None)
    return grades


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
