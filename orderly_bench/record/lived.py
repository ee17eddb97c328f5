"""What the units of each arm lived through between sticking and the end, from what was read where they stood, and their care."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from datetime import date, timedelta

from orderly_bench.core.cautions import Caution
from orderly_bench.core.messages.say import caution
from orderly_bench.core.messages.translation import capital
from orderly_bench.core.plan.aspects import AspectKind
from orderly_bench.core.tend.by_day import Apart, Lived, Log, Unit, apart, by_date, days_of, lived
from orderly_bench.core.tend.by_hand import ByHand, Kind, apart_by_hand
from orderly_bench.core.tend.care import Care, CareDay, summed
from orderly_bench.record.facts import endpoint_checks
from orderly_bench.record.value import TrialRecord

_AROUND = {AspectKind.COVER, AspectKind.SHARED_COVER, AspectKind.PLACE, AspectKind.SEASON, AspectKind.LIGHT}
#: Aspects that make one of these differ by plan.
BY_PLAN = {
    "light": _AROUND,
    "air": _AROUND | {AspectKind.BOTTOM_HEAT},
    "dry": _AROUND | {AspectKind.BOTTOM_HEAT, AspectKind.MEDIUM_STATE},
}

#: The same of what is read by hand.
BY_HAND_BY_PLAN = {
    Kind.COVER: {AspectKind.COVER, AspectKind.SHARED_COVER, AspectKind.SEASON},
    Kind.MOISTURE: {AspectKind.MEDIUM, AspectKind.MEDIUM_STATE, AspectKind.SEASON},
    Kind.AIR: BY_PLAN["air"],
    Kind.MEDIUM: BY_PLAN["air"],
    **dict.fromkeys((Kind.SHADE, Kind.SUN, Kind.LAMP, Kind.LIGHT), _AROUND),
}


@dataclass(frozen=True)
class Life:
    """A trial between sticking and ``end``.

    Attributes
    ----------
    letters : tuple of str
        Of the arms, in order.
    units : tuple of Unit
        Those that hold counted cuttings.
    logs : tuple of Log
        In the order of writing.
    by_hand : tuple of ByHand
        What people read.
    care : tuple of (date, tuple of CareDay)
        Of each stuck wave, with its first day 0.
    differ : collection of AspectKind
        What the arms differ in by plan.
    seasons : bool
        Whether the arms are seasons.
    """

    letters: tuple[str, ...]
    units: tuple[Unit, ...]
    logs: tuple[Log, ...]
    by_hand: tuple[ByHand, ...]
    care: tuple[tuple[date, tuple[CareDay, ...]], ...]
    differ: Collection[AspectKind]
    seasons: bool
    end: date

    @property
    def by_arm(self) -> dict[str, Lived]:
        """What was lived through, by arm's letter."""
        found = lived(self.units, self.logs)
        return {letter: found[letter] for letter in self.letters if letter in found}

    @property
    def light_by_arm(self) -> dict[str, list[tuple[date, float]]]:
        """By arm's letter, the light of each day on which any of its units was read, mol/m2."""
        read = days_of(self.units, self.logs)
        of_arm = {
            letter: by_date("light", [read[u.id] for u in self.units if u.arm == letter]) for letter in self.letters
        }
        return {letter: sorted(values.items()) for letter, values in of_arm.items() if values}

    @property
    def apart(self) -> list[Apart]:
        """Arms that lived apart in what they were meant to have alike."""
        return [one for one in apart(self.units, self.logs) if not BY_PLAN[one.of] & set(self.differ)]

    @property
    def apart_by_hand(self) -> list[str]:
        """What people read that the arms did not have alike, and were meant to."""
        by_plan = {kind for kind, aspects in BY_HAND_BY_PLAN.items() if aspects & set(self.differ)}
        return apart_by_hand(self.units, self.by_hand, by_plan)

    @property
    def care_so_far(self) -> list[Care]:
        """What was done of each kind of care, what was missed, and the longest stretch without."""
        return [one for stuck, days in self.care for one in summed(days, stuck, self.end)]


def life_of(record: TrialRecord) -> Life:
    """Up to the day of each lot's endpoint check, as planned where that is not done."""
    checks = endpoint_checks(record)
    ends: dict[int, date] = {}
    for lot in record.lots:
        check = checks.get(lot.id)
        planned = lot.day_zero.middle + timedelta(days=record.plan.question.endpoint_day)
        ends[lot.id] = check.day if check is not None and check.day is not None else planned
    units = {
        c.unit.id: Unit(c.unit.arm, c.unit.id, c.lot.day_zero.middle, ends[c.lot.id])
        for c in record.counted
        if c.lot is not None
    }
    return Life(
        tuple(record.arm_names), tuple(units.values()), record.logs, record.by_hand, record.care, record.plan.treatments.kinds_that_differ,
        record.plan.seasons_in_waves, max(ends.values(), default=date.min),
    )  # fmt: skip


def doubts_about_conditions(life: Life) -> list[Caution]:
    """Arms that lived apart, each a rival explanation with its figures; arms of which nothing was read where others were."""
    found = [caution("lived_apart", told=one.words) for one in life.apart]
    found += [caution("lived_apart", "by_hand", told=capital(told)) for told in life.apart_by_hand]
    unknown = [letter for letter, one in life.by_arm.items() if not one.known]
    if unknown and (len(unknown) < len(life.by_arm) or (life.seasons and len(life.by_arm) > 1)):
        found.append(caution("conditions_unknown", arms=", ".join(unknown), n=len(unknown)))
    return found


def doubts_about_care(care: Sequence[Care]) -> list[Caution]:
    """Gaps in the care, as far as it was written down."""
    gaps = [one.words for one in care if one.gap]
    return [caution("care_gap", told="; ".join(gaps))] if gaps else []
