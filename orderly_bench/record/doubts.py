"""Rival explanations that a record holds: what else could have made the difference."""

from __future__ import annotations

from collections import Counter
from datetime import date

from orderly_bench.core.cautions import Caution
from orderly_bench.core.compare.as_done import doubt_about_treatments
from orderly_bench.core.design.lids import lids_of, travelling
from orderly_bench.core.layouts.kinds import planned
from orderly_bench.core.messages.say import caution
from orderly_bench.core.messages.translation import all_of, dated
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.plan.aspects import AspectKind
from orderly_bench.core.plan.value import CameToArms
from orderly_bench.core.question.care_for_some import care_for_some
from orderly_bench.core.question.doubts import blank_doubt, mixed_doubts, seen_on_the_piece, unproven_doubt
from orderly_bench.core.question.leafy import leafy_doubt
from orderly_bench.core.score.days import days_in_words
from orderly_bench.core.score.details import doubts_about_lifting
from orderly_bench.core.score.second import agreement_of, doubts_of_agreement
from orderly_bench.core.score.undrawn import group_words
from orderly_bench.core.score.visibility import UNEVEN, doubts_about_visibility
from orderly_bench.core.stick.held import Held, too_long
from orderly_bench.core.tend.schedule import days_after_sticking
from orderly_bench.record.facts import (
    CuttingResult,
    died_since,
    endpoint_checks,
    grades_of,
    scored_twice,
    scores_by_arm,
    treated,
)
from orderly_bench.record.lived import doubts_about_care, doubts_about_conditions, life_of
from orderly_bench.record.value import TrialRecord


def log_cautions(record: TrialRecord, results: list[CuttingResult]) -> list[Caution]:
    """Rival explanations from the log: incidents, scorers who knew the arms, approximate dates."""
    found = []
    arm_of = {unit.id: unit.arm for unit in record.units}
    for incident in record.incidents_until_end:
        touched = [arm_of[unit] for unit in incident.units]
        spread = ", ".join(f"{letter} {touched.count(letter)}" for letter in record.arm_names)
        days = dated(incident.first_day, "%-d %b") + (
            _(" to {last_day:%-d %b}", last_day=incident.last_day) if incident.last_day != incident.first_day else ""
        )
        found.append(caution("incident", kind=incident.kind, days=days, n=len(touched), spread=spread))
    if looks := record.looks_unplanned:
        found.append(caution("looked_early", n=len(looks), first=dated(looks[0].at, "%-d %b"), serious=True))
    under = [(lid, unit.arm) for unit in record.units if (lid := unit.group("lid"))]
    alone = travelling(lids_of(under))
    if alone:
        arms = "; ".join(_("{letter} under {number}", letter=letter, number=number) for letter, number in alone.items())
        found.append(caution("lid_travels", arms=arms, serious=True))
    found += mixed_doubts(record.plan.treatments)
    found += [caution("short_stock", what=record.short)] if record.short else []
    found += _shared_vessels(record)
    found += _earlier_roots(record)
    found += doubt_about_treatments(treated(record, results))
    found += doubts_about_visibility(grades_of(record, results))
    found += doubts_about_lifting(scores_by_arm(record, results))
    found += _scored_by_others(results)
    found += _seen_on_other_days(record, results)
    found += _died_since(record, results)
    found += doubts_of_agreement(agreement_of(scored_twice(results)))
    found += _scored_knowing(record, results)
    if record.plan.question.scored_blind:
        found += seen_on_the_piece([(aspect.kind, aspect.name) for aspect in record.plan.treatments.asked])
    if any(not lot.day_zero.exact for lot in record.lots):
        found.append(caution("day_zero_approximate"))
    return [
        *found,
        *_lived(record),
        *_went_in_with(record),
        *_held_long(record),
        *_held_unevenly(record),
        *_came_unevenly(record),
        *_exposed(record),
        *_hormones(record),
        *leafy_doubt(record.plan),
        *care_for_some(record.plan),
        *_not_concurrent(record),
        *_side_groups(record),
        *_came_to_arms(record),
    ]


def doubts_so_far(record: TrialRecord) -> list[Caution]:
    """Known before anything is read of the outcome: from the plan and the log until now; each stays until it is mended."""
    return log_cautions(record, [])


def _lived(record: TrialRecord) -> list[Caution]:
    """What the arms lived through, and their care, up to the endpoint; nothing of a care that is not over."""
    life = life_of(record)
    over = any(check.day is not None for check in endpoint_checks(record).values())
    return doubts_about_conditions(life) + (doubts_about_care(life.care_so_far) if over else [])


def _shared_vessels(record: TrialRecord) -> list[Caution]:
    """Arms in one vessel share its medium and what each gives off to it; where it holds all of them, it is one unit."""
    design = record.plan.design
    if not design.one_vessel:
        return []
    places = {(unit.tray, unit.row, unit.column) for unit in record.units}
    how = "" if planned(design.layout).whole_plots else "all"
    return [caution("shared_vessel", how, n=len(places), serious=bool(how))]


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


def _went_in_with(record: TrialRecord) -> list[Caution]:
    """What was noted as they went in and goes with the very thing that is asked: nothing can be adjusted for it."""
    uneven = [one.uneven for one in record.as_stuck if one.uneven and one.planned]
    return [caution("start_differs", "planned", how="; ".join(uneven))] if uneven else []


def _held_long(record: TrialRecord) -> list[Caution]:
    """Lots of which anything counted was held for longer than the plan allows."""
    most = record.plan.question.held_most_hours
    lots = {cutting.lot for cutting in record.counted if cutting.lot is not None}
    told = too_long([Held(lot.name, lot.held_hours, lot.on_purpose) for lot in lots], most)
    return [caution("held_long", told=told, most=most)] if told else []


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


def _scored_knowing(record: TrialRecord, results: list[CuttingResult]) -> list[Caution]:
    """Who scored knowing the arms though it was to be blind; of what was looked at before there was a plan here nobody can say."""
    seen = [r for r in results if r.kept and not r.kept.blind and not r.carried]
    if not seen or not record.plan.question.scored_blind:
        return []
    days = [r.check.day for r in seen if r.check is not None and r.check.day is not None]
    if record.locked_on is not None and len(days) == len(seen) and max(days) < record.locked_on:
        return [caution("not_blind", "before")]
    return [caution("not_blind", who=", ".join(sorted({r.kept.person for r in seen if r.kept})))]


def _came_unevenly(record: TrialRecord) -> list[Caution]:
    """Lots in another condition, or stuck by other hands (as typed, else as noted), that do not hold the arms alike."""
    found = []
    by_plan = AspectKind.PERSON in record.plan.treatments.kinds_that_differ
    for what in ("condition",) if by_plan else ("condition", "stuck_by"):
        of_arm: dict[str, set[str]] = {}
        for cutting in record.counted:
            said = getattr(cutting.lot.came, what) if cutting.lot is not None else None
            said = said or (cutting.stuck_by if what == "stuck_by" else said)
            if said not in (None, ""):
                of_arm.setdefault(cutting.unit.arm, set()).add(str(said))
        if len({frozenset(told) for told in of_arm.values()}) > 1:
            told = ", ".join(f"{arm} {all_of(sorted(of_arm[arm]))}" for arm in sorted(of_arm))
            found.append(caution("start_differs", what, told=told))
    return found


def _exposed(record: TrialRecord) -> list[Caution]:
    """Lots of counted cuttings that could have carried disease, each with why."""
    lots = {cutting.lot for cutting in record.counted if cutting.lot is not None and cutting.lot.came.exposed}
    told = "; ".join(
        _("{lot}, {why}", lot=lot.name, why=lot.came.exposed) for lot in sorted(lots, key=lambda lot: lot.id)
    )
    return [caution("lot_exposed", told=told)] if told else []


def _hormones(record: TrialRecord) -> list[Caution]:
    """Asked about without an arm that goes without; given as a hormone, and none that is known."""
    treatments = record.plan.treatments
    aspect = treatments.of_kind(AspectKind.HORMONE)
    if aspect is None:
        return []
    levels = [level.name for level in aspect.levels]
    asked = aspect.asked and len(treatments.arms) > 1
    return [*(blank_doubt(aspect.name, levels) if asked else ()), *unproven_doubt(levels)]


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


def _scored_by_others(results: list[CuttingResult]) -> list[Caution]:
    """Scorers who did not see the arms alike: the share of somebody's scores differs by more than a fifth between two arms."""
    own: dict[str, Counter[str]] = {}
    for result in results:
        if result.kept is not None and not result.carried:
            own.setdefault(result.cutting.unit.arm, Counter())[result.kept.person] += 1
    people = sorted({person for counts in own.values() for person in counts})
    shares = {who: [counts[who] / counts.total() for counts in own.values()] for who in people}
    if len(people) < 2 or all(max(share) - min(share) <= UNEVEN for share in shares.values()):
        return []
    told = "; ".join(
        f"{arm} {', '.join(f'{who} {own[arm][who]}' for who in people if own[arm][who])}" for arm in sorted(own)
    )
    return [caution("scored_by_others", told=told)]


def _seen_on_other_days(record: TrialRecord, results: list[CuttingResult]) -> list[Caution]:
    """Arms of which another share, by more than a fifth, was looked at on some day after sticking, inside the window too."""
    days: dict[str, Counter[int]] = {}
    for result in results:
        if result.kept is not None and not result.carried and result.cutting.lot is not None:
            das = days_after_sticking(result.kept.day, result.cutting.lot.day_zero)
            days.setdefault(result.cutting.unit.arm, Counter())[das] += 1
    for das in sorted({das for counts in days.values() for das in counts}):
        shares = [counts[das] / counts.total() for counts in days.values()]
        if max(shares) - min(shares) > UNEVEN:
            told = days_in_words({arm: set(counts) for arm, counts in sorted(days.items())})
            if ", " not in told:
                told = "; ".join(
                    f"{arm} " + ", ".join(_("{n} on day {das}", n=n, das=str(d)) for d, n in sorted(counts.items()))
                    for arm, counts in sorted(days.items())
                )
            return [caution("seen_on_other_days", told=told)]
    return []


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


def _came_to_arms(record: TrialRecord) -> list[Caution]:
    """Pieces that no lot gave to their arms."""
    came = record.plan.design.came_to_arms
    if came is CameToArms.DRAWN or len(record.plan.treatments.arms) < 2:
        return []
    return [caution("not_by_lot", "best" if came is CameToArms.BEST_TO_ONE else "", how=_(came.value), serious=True)]


def _died_since(record: TrialRecord, results: list[CuttingResult]) -> list[Caution]:
    """What counted at the endpoint and died later counts against its arm, beside the verdict."""
    died = died_since(record, results)
    if not any(died.values()):
        return []
    rooted = Counter(r.cutting.unit.arm for r in results if r.outcome.rooted)
    told = ", ".join(_("{arm} {k} of {n}", arm=arm, k=k, n=rooted[arm]) for arm, k in died.items())
    return [caution("died_since", told=told, day=dated(max(day for _, day in record.died_later)), n=sum(died.values()))]


def _side_groups(record: TrialRecord) -> list[Caution]:
    groups = group_words(record.plan, record.undrawn)
    return [caution("not_drawn", "counted" if record.undrawn else "", groups="; ".join(groups))] if groups else []
