"""The water sheet: for arms that stand in water, how high it stands, the feed weighed into it, and what becomes of it over the weeks.

The strength of a feed is its label's: so many grams to a litre at full strength; the rest is litres times grams. What dries off leaves its
salts behind, so a level is topped up with plain water.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass, replace
from math import pi

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.plan.aspects import AspectKind
from orderly_bench.core.plan.plausible import is_water
from orderly_bench.core.plan.treatments import ArmPlan, Container
from orderly_bench.core.plan.value import Plan
from orderly_bench.core.prepare.needs import vessels_of
from orderly_bench.core.typed import Asked, number, read_those_typed, whole

#: g/L beyond which a full strength is asked about: ten times what labels usually say.
UNUSUAL_G_PER_L = 10.0
#: g below which a kitchen or bench scale can't weigh out.
LEAST_WEIGHED_G = 0.1
ML_A_LITRE = 1000.0


@dataclass(frozen=True)
class Feeding:
    """What the label says and how the water is kept.

    Attributes
    ----------
    g_per_l : float or None
        Grams to a litre at full strength, from the label; None where it was not looked up.
    filled : float
        Per cent of the vessel that is filled.
    every_days : int
        Days between changes; 0: it is never changed, only topped up.
    lost_ml : float or None
        mL that a vessel loses in a day, as measured; None where nobody measured.
    """

    g_per_l: float | None = None
    filled: float = 80.0
    every_days: int = 7
    lost_ml: float | None = None


ASKED = (
    Asked("g_per_l", N_("full strength by the label, g/L"), number(0.01, 1000, None)),
    Asked("filled", N_("filled, per cent of the vessel"), number(1, 100)),
    Asked("every_days", N_("change every, days (0: never)"), whole(0, 365)),
    Asked("lost_ml", N_("mL a vessel loses in a day"), number(0, 10_000, None)),
)


def read_feeding(typed: Mapping[str, str]) -> Feeding:
    """What was typed by name of its fields; what is blank stays as it usually is.

    Raises
    ------
    InvalidInput
        Names the field and the rule; a full strength of more than 10 g/L is asked about.
    """
    feeding = replace(Feeding(), **read_those_typed(ASKED, typed))
    if feeding.g_per_l is not None and feeding.g_per_l > UNUSUAL_G_PER_L:
        raise InvalidInput(
            N_("full strength by the label, g/L"),
            _(
                "more than {most:g} g/L is ten times the usual: is a point missing, or is it of a stock?",
                most=UNUSUAL_G_PER_L,
            ),
            f"{feeding.g_per_l:g}",
        )
    return feeding


def as_typed(feeding: Feeding) -> dict[str, str]:
    """The fields as they would be typed."""
    return {one.name: one.kind.text_of(getattr(feeding, one.name)) for one in ASKED}


@dataclass(frozen=True)
class Fill:
    """The vessels of one arm in one wave.

    Attributes
    ----------
    arm : str
        Its letter.
    vessels : int
        0 where it shares those of another arm.
    level_ml : float
        mL of water in one.
    level_mm : float or None
        How high that stands, where the vessel's width and outline are said; for straight walls.
    litres : float
        For one filling of all.
    strength : float or None
        Share of the full strength; None where the arm does not say its feed.
    grams : float or None
        Of feed for one filling; None where the strength or the label's grams are not known.
    changes : int
        Fillings after the first, up to the endpoint day.
    """

    arm: str
    name: str
    vessels: int
    level_ml: float
    level_mm: float | None
    litres: float
    strength: float | None
    grams: float | None
    changes: int
    working: tuple[str, ...]
    says: tuple[str, ...]


_FEED = re.compile(r"\b(?:feed|fed|unfed|nutrient|fertili)", re.I)
_SHARE = re.compile(r"(\d+(?:[.,]\d+)?)\s*%")
_SHARES = (
    (0.0, re.compile(r"\b(?:no|without|not)\s+(?:any\s+)?(?:feed|fed|nutrient|fertili)|\bunfed\b", re.I)),
    (0.5, re.compile(r"\bhalf\b|\b1/2\b", re.I)),
    (0.25, re.compile(r"\bquarter\b|\b1/4\b", re.I)),
    (1.0, re.compile(r"\bfull\b", re.I)),
)
_EVERY = re.compile(r"every (\d{1,3}) days?", re.I)


def strength_of(words: str) -> float | None:
    """Share of the full strength that words of a level give; None where they name no feed or no strength.

    >>> strength_of("half-strength feed"), strength_of("no feed"), strength_of("25 % feed"), strength_of("rain water")
    (0.5, 0.0, 0.25, None)
    """
    if not _FEED.search(words):
        return None
    typed = _SHARE.search(words)
    if typed:
        return float(typed[1].replace(",", ".")) / 100
    return next((share for share, said in _SHARES if said.search(words)), None)


def days_between(words: str) -> int | None:
    """Days between changes that words of a level give, 0 for topped up only; None where they do not say.

    >>> days_between("changed weekly"), days_between("changed every 3 days"), days_between("topped up"), days_between("rain")
    (7, 3, 0, None)
    """
    low = words.casefold()
    found = _EVERY.search(low)
    if found and "chang" in low:
        return int(found[1])
    if re.search(r"\bchanged\b.*\b(?:weekly|every week)\b", low):
        return 7
    if re.search(r"\bchanged\b.*\b(?:daily|every day)\b", low):
        return 1
    return 0 if re.search(r"topped up|not changed|never changed", low) else None


def fills(plan: Plan, feeding: Feeding) -> list[Fill]:
    """What the arms in water need, in the plan's order; none where no arm stands in water."""
    return [_fill(plan, arm, feeding) for arm in plan.treatments.arms if in_water(plan, arm)]


def in_water(plan: Plan, arm: ArmPlan) -> bool:
    """Whether an arm stands in water."""
    medium = plan.treatments.of_kind(AspectKind.MEDIUM)
    level = plan.treatments.value(arm, medium) if medium else None
    return level is not None and is_water(level.name)


def _said(plan: Plan, arm: ArmPlan) -> list[str]:
    values = (plan.treatments.value(arm, aspect) for aspect in plan.treatments.aspects)
    return [level.name for level in values if level is not None]


def depth_mm(container: Container, ml: float) -> float | None:
    """How high so many mL stand in a straight-walled vessel; None where its width or outline is not said."""
    if container.across_cm is None or not container.outline:
        return None
    floor = container.across_cm**2 * (pi / 4 if container.outline == "round" else 1.0)
    return 10 * ml / floor


def _fill(plan: Plan, arm: ArmPlan, feeding: Feeding) -> Fill:
    said = _said(plan, arm)
    container = plan.container_of(arm)
    vessels = vessels_of(plan, arm, plan.units_of(arm))
    level = container.volume_ml * feeding.filled / 100
    high = depth_mm(container, level)
    litres = vessels * level / ML_A_LITRE
    strength = next((share for words in said if (share := strength_of(words)) is not None), None)
    every = next((days for words in said if (days := days_between(words)) is not None), feeding.every_days)
    last = plan.question.endpoint_day
    changes = (last - 1) // every if every else 0
    grams = None
    working = [
        _(
            "{vessels:vessel|vessels} x {ml:g} mL x {filled:g} % = {litres:.3g} L",
            vessels=vessels, ml=container.volume_ml, filled=feeding.filled, litres=litres,
        )
    ]  # fmt: skip
    if strength is not None and (feeding.g_per_l is not None or not strength):
        full = feeding.g_per_l or 0.0
        grams = litres * full * strength
        if strength:
            working.append(
                _(
                    "{litres:.3g} L x {full:g} g/L x {share:g} % = {grams:.3g} g",
                    litres=litres, full=full, share=100 * strength, grams=grams,
                )
            )  # fmt: skip
    if every:
        working.append(
            _(
                "day {last} / every {every:day|days}: {n:change|changes}, {litres:.3g} L in all",
                last=last, every=every, n=changes, litres=litres * (changes + 1),
            )
        )  # fmt: skip
    if feeding.lost_ml is not None and vessels:
        between = every or last
        working.append(
            _(
                "{vessels:vessel|vessels} x {lost:g} mL x {days:day|days} = {litres:.3g} L to top up {when}",
                vessels=vessels, lost=feeding.lost_ml, days=between, litres=vessels * feeding.lost_ml * between / ML_A_LITRE,
                when=_("between two changes") if every else _("to the endpoint"),
            )
        )  # fmt: skip
    return Fill(
        arm.id, plan.treatments.name(arm), vessels, level, high, litres, strength, grams, changes, tuple(working),
        tuple(_says(plan, feeding, vessels, level, strength, grams, every)),
    )  # fmt: skip


def _says(
    plan: Plan, feeding: Feeding, vessels: int, level: float, strength: float | None, grams: float | None, every: int
) -> list[str]:
    lines = []
    if not vessels:
        lines.append(_("Shares the vessels of another arm: filled there."))
    if strength is None:
        lines.append(_("What feed it gets is not said: plain water, the same for all, until the question says it."))
    elif strength and feeding.g_per_l is None:
        lines.append(_("Grams to a litre are on the feed's label: type them above."))
    elif grams is not None and 0 < grams < LEAST_WEIGHED_G:
        lines.append(
            _("{grams:.2g} g is too little to weigh: make 1 L with {one:.3g} g and pour what is needed.", grams=grams, one=feeding.g_per_l * strength if feeding.g_per_l else 0)
        )  # fmt: skip
    if every:
        lines.append(_("Change it whole every {every:day|days}; between changes top up with plain water.", every=every))
    else:
        lines.append(_("Never changed: hold the level with plain water; fed water used for it would grow stronger."))
    if feeding.lost_ml and every and feeding.lost_ml * every >= level:
        lines.append(
            _("At {lost:g} mL a day a vessel is dry within {days:day|days}: look oftener.", lost=feeding.lost_ml, days=max(1, int(level // feeding.lost_ml)))
        )  # fmt: skip
    return lines


def together(found: list[Fill]) -> list[str]:
    """What holds of the arms together: where they part by more than what is asked, it is said."""
    lines = []
    if len({one.level_ml for one in found}) > 1:
        lines.append(_("The vessels are not alike, so the levels differ: a difference may be that of the vessel."))
    if len({one.strength for one in found}) > 1 and len({one.changes for one in found}) > 1:
        lines.append(_("Feed and changes differ together: which of the two mattered can't be told."))
    return lines
