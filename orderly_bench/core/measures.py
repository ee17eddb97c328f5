"""Lengths and volumes as people type and say them: metric first, US customary accepted and shown beside.

Factors are exact by definition (NIST Special Publication 811, appendix B): 1 in = 2.54 cm, 1 US gal = 231 cubic inches.
"""

from __future__ import annotations

import re
from enum import StrEnum
from math import isfinite

from orderly_bench.core.messages.translation import gettext as _

LONGEST = 20
CM_PER_INCH, ML_PER_GALLON = 2.54, 3785.411784


class UnitSystem(StrEnum):
    """What is shown first; the other stands beside it where people think in both."""

    METRIC = "metric"
    IMPERIAL = "imperial"


class Measure(StrEnum):
    """What a bare number is counted in."""

    CM = "cm"
    MM = "mm"
    ML = "mL"


#: Centimetres in one.
LENGTHS = {
    "mm": 0.1, "cm": 1.0, "m": 100.0, "in": CM_PER_INCH, "inch": CM_PER_INCH, "inches": CM_PER_INCH, '"': CM_PER_INCH,
    "ft": 12 * CM_PER_INCH, "foot": 12 * CM_PER_INCH, "feet": 12 * CM_PER_INCH, "'": 12 * CM_PER_INCH,
}  # fmt: skip
#: Millilitres in one.
VOLUMES = {
    "ml": 1.0, "l": 1000.0, "gal": ML_PER_GALLON, "gallon": ML_PER_GALLON, "gallons": ML_PER_GALLON, "qt": ML_PER_GALLON / 4,
    "pt": ML_PER_GALLON / 8, "fl oz": ML_PER_GALLON / 128,
}  # fmt: skip
#: One of each, in which the others are said.
ONE = {Measure.CM: (LENGTHS, 1.0), Measure.MM: (LENGTHS, 0.1), Measure.ML: (VOLUMES, 1.0)}
TYPED = re.compile(r"([+-]?[0-9.,]+(?:e[+-]?[0-9]+)?)\s*([a-z\"' ]*)\.?", re.IGNORECASE)


def read_as(typed: str, measure: Measure) -> float | None:
    """A number in ``measure``, from a bare one or one with its unit; None where it is neither.

    >>> read_as("48 in", Measure.CM)
    121.92
    >>> read_as("1 gal", Measure.ML)
    3785.411784
    >>> read_as("10", Measure.CM)
    10.0
    """
    found = TYPED.fullmatch(typed.strip()) if len(typed) <= LONGEST else None
    if found is None:
        return None
    units, one = ONE[measure]
    unit = found[2].strip().lower()
    factor = units.get(unit, 0.0) / one if unit else 1.0
    try:
        value = float(found[1].replace(",", "."))
    except ValueError:
        return None
    return round(value * factor, 6) if factor and isfinite(value) else None


def units_of(measure: Measure) -> str:
    """What may be typed after the number, in words."""
    return _("mL, L, gal, qt or fl oz") if measure is Measure.ML else _("mm, cm, m, in or ft")


def volume(litres: float, units: UnitSystem) -> str:
    """A volume in litres as said; US gallons first where the lab thinks in those, litres beside.

    >>> volume(7.57, UnitSystem.IMPERIAL)
    '2.0 gal (7.6 L)'
    """
    metric = f"{litres:.1f} L"
    return (
        metric
        if units is UnitSystem.METRIC
        else _("{litres:.1f} gal ({metric})", litres=1000 * litres / ML_PER_GALLON, metric=metric)
    )


def length(cm: float, units: UnitSystem) -> str:
    """A length in centimetres as said; inches first where the lab thinks in those.

    >>> length(121.92, UnitSystem.IMPERIAL)
    '48 in (121.92 cm)'
    """
    metric = f"{cm:g} cm"
    return (
        metric
        if units is UnitSystem.METRIC
        else _("{short} in ({metric})", short=_short(cm / CM_PER_INCH), metric=metric)
    )


def small_length(mm: float, units: UnitSystem) -> str:
    """A length in millimetres, as roots are measured.

    >>> small_length(10, UnitSystem.IMPERIAL)
    '0.39 in (10 mm)'
    """
    metric = f"{mm:g} mm"
    return (
        metric
        if units is UnitSystem.METRIC
        else _("{short} in ({metric})", short=_short(mm / 10 / CM_PER_INCH, 2), metric=metric)
    )


def _short(value: float, digits: int = 1) -> str:
    return f"{round(value, digits):g}"


#: How it is called that nothing was given.
NOTHING_GIVEN = frozenset(
    {
        "none", "no", "no hormone", "nothing", "untreated", "without", "water dip", "water", "carrier alone", "talc alone", "not treated",
        "no treatment", "control", "untreated control", "plain water",
    }
)  # fmt: skip
#: A number as people write a strength: with thousands parted by a blank, a comma or a point, or with decimals.
STRENGTH_NUMBER = r"[1-9]\d{0,2}(?:[ ,.\u202f]\d{3})+(?![\d.,])|\d+(?:[.,]\d+)?"
#: ppm in one; of a liquid 1 ppm is 1 mg/L here, of a powder or gel 1 mg/kg.
PPM_IN = {
    "ppm": 1.0, "mg/l": 1.0, "mg/kg": 1.0, "ug/ml": 1.0, "µg/ml": 1.0, "μg/ml": 1.0, "ug/g": 1.0, "µg/g": 1.0, "μg/g": 1.0,
    "g/l": 1e3, "g/kg": 1e3, "mg/ml": 1e3, "mg/g": 1e3, "‰": 1e3, "%": 1e4, "per cent": 1e4, "percent": 1e4,
}  # fmt: skip
STRENGTH_UNIT = "|".join(sorted(map(re.escape, PPM_IN), key=len, reverse=True)).replace("\\ ", " ?")


def strength_number(typed: str, unit: str) -> float:
    """A strength's number. Three figures behind a comma or point are thousands in a unit of millionths, decimals in a larger one.

    >>> strength_number("1,000", "ppm"), strength_number("1.500", "mg/L"), strength_number("0,125", "%"), strength_number("10 000", "ppm")
    (1000.0, 1500.0, 0.125, 10000.0)
    """
    small = PPM_IN.get(unit.casefold()) == 1.0
    if re.fullmatch(r"[1-9]\d{0,2}(?:[ \u202f]\d{3})+", typed) or (
        small and re.fullmatch(r"[1-9]\d{0,2}(?:[ ,.\u202f]\d{3})+", typed)
    ):
        return float(re.sub(r"[ ,.\u202f]", "", typed))
    return float(typed.replace(",", "."))
