"""What each arm of a trial came to, for the method cards: counts of rooted by cutting type and way."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.methods.clusters import arm_design_effect
from orderly_bench.core.plan.aspects import AspectKind
from orderly_bench.core.plan.treatments import ARM_JOINER, ArmPlan, Treatments
from orderly_bench.core.stock.kept import MethodCard
from orderly_bench.core.stock.ways import Way, against_book, is_of
from orderly_bench.evidence.verdict import Evidence
from orderly_bench.record.facts import CuttingResult

#: What is no part of a way: a card has it in its head, or it is the occasion.
_NOT_A_WAY = (
    AspectKind.TAXON,
    AspectKind.CUTTING_TYPE,
    AspectKind.SEASON,
    AspectKind.DONOR,
    AspectKind.PERSON,
    AspectKind.PLACE,
)
LONGEST = 200


@dataclass(frozen=True)
class WayOf:
    """A way with the plant and cutting type whose card it belongs to."""

    taxon: str
    cutting_type: str
    way: Way


def ways_of(evidence: Evidence) -> list[WayOf]:
    """Every arm's counts at the endpoint; the best of several arms of one cutting type is marked so. None where nobody counted what was stuck."""
    record = evidence.record
    if record.plan.design.stuck:
        return []
    treatments, asked = record.plan.treatments, record.plan.question
    found = []
    for arm in treatments.arms:
        own = [r for r in evidence.results if r.cutting.unit.arm == arm.id]
        known = [(r, r.outcome.rooted) for r in own if r.outcome.rooted is not None]
        rooted = sum(yes for _, yes in known)
        way = Way(
            record.code,
            arm.id,
            _words(treatments, arm),
            evidence.day,
            rooted,
            len(known),
            worth(known),
            0,
            asked.kind.value,
            bool(record.late),
        )
        found.append(WayOf(asked.botanical_name, _type(treatments, arm), way))
    return [_marked(one, found) for one in found]


def beside_the_book(evidence: Evidence, cards: Sequence[MethodCard] = ()) -> list[str]:
    """What is written elsewhere, set beside what each arm came to and never averaged with it; a line for each book and arm.

    Parameters
    ----------
    cards : sequence of MethodCard
        Of the plant; a rate typed there is a book's for the arms of its cutting type.
    """
    ways = ways_of(evidence)
    told = [
        (one.way, book.low / 100, book.high / 100, book.author or _("no author said"))
        for book in evidence.record.plan.question.book
        for one in ways
    ]
    told += [
        (one.way, card.rate, card.rate, _("the method card, {kind}", kind=card.cutting_type))
        for card in cards
        if card.rate is not None and not card.own
        for one in ways
        if is_of(card.cutting_type, one.cutting_type)
    ]
    return [
        _("{letter}: {told} ({author})", letter=way.letter, told=words, author=author)
        for way, low, high, author in told
        if (words := against_book(low, high, way))
    ]


def _marked(one: WayOf, of: list[WayOf]) -> WayOf:
    others = [w for w in of if w.cutting_type == one.cutting_type and w.way.known]
    if len(others) < 2 or not one.way.known:
        return one
    best = max(w.way.rooted / w.way.known for w in others)
    return replace(one, way=replace(one.way, best_of=len(others))) if one.way.rooted / one.way.known == best else one


def _type(treatments: Treatments, arm: ArmPlan) -> str:
    aspect = treatments.of_kind(AspectKind.CUTTING_TYPE)
    level = treatments.value(arm, aspect) if aspect else None
    return level.name if level else _("not said")


def _words(treatments: Treatments, arm: ArmPlan) -> str:
    """The way in words: what is asked, or of a single way all that is said of it."""
    aspects = [a for a in (treatments.asked or treatments.aspects) if a.kind not in _NOT_A_WAY]
    names = [level.name for a in aspects if (level := treatments.value(arm, a))]
    return (ARM_JOINER.join(names) or _("one way"))[:LONGEST]


def worth(known: list[tuple[CuttingResult, bool]]) -> float | None:
    """What cuttings with a known yes or no are worth as single ones: all of them where each is a unit; None from one unit."""
    units: dict[int, list[bool]] = {}
    for result, yes in known:
        units.setdefault(result.cutting.unit.id, []).append(yes)
    if all(result.cutting.unit.planned == 1 for result, _ in known):
        return float(len(known)) if known else None
    if len(units) < 2:
        return None
    came, stuck = np.array([sum(u) for u in units.values()]), np.array([len(u) for u in units.values()])
    effect = arm_design_effect(came, stuck)
    return float(len(known) / (effect if effect is not None else stuck.mean()))
