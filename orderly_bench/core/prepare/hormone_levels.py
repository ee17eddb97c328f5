"""What the words of a level of hormone say: which it is, how strong, how taken and how long; what they do not say is asked, never guessed."""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass
from enum import StrEnum

from orderly_bench.core.measures import NOTHING_GIVEN, PPM_IN, STRENGTH_NUMBER, STRENGTH_UNIT, strength_number
from orderly_bench.core.sums.solutions import MOLAR, Active, Form


class Taken(StrEnum):
    """How a hormone is taken up."""

    LIQUID = "liquid"
    POWDER = "powder"
    GEL = "gel"
    IN_WATER = "in the water"
    NOT_SAID = "not said"


@dataclass(frozen=True)
class Wanted:
    """What the words of a level say.

    Attributes
    ----------
    active : Active or None
        None of a brew or an active part that is not known here.
    ppm : float or None
        mg/L of a liquid, mg/kg of a powder or gel.
    as_salt : bool
        The strength is that of the potassium salt.
    seconds : float or None
    several : bool
        More than one active part is named.
    """

    active: Active | None
    ppm: float | None
    taken: Taken
    as_salt: bool
    seconds: float | None
    several: bool = False


NOTHING = re.compile(rf"^(?:{'|'.join(sorted(NOTHING_GIVEN))})$", re.I)
#: Words that go with any hormone and name none.
OF_ANY_HORMONE = {
    "yes", "with", "hormone", "hormones", "auxin", "rooting", "treated", "powder", "talc", "dust", "gel", "liquid", "solution", "quick", "dip", "dipped",
    "soak", "soaked", "alcohol", "ethanol", "in", "low", "high", "middle", "medium", "weak", "strong", "half", "full", "strength", "dose", "double",
}  # fmt: skip
CARRIER = re.compile(r"^(?:carrier alone|talc alone|water dip|water)$", re.I)
_STRENGTH = re.compile(rf"({STRENGTH_NUMBER})\s*({STRENGTH_UNIT})", re.I)
_MOLAR = re.compile(rf"({STRENGTH_NUMBER})\s*(mM\b|mmol/[lL]|[uµμ]M\b|[uµμ]mol/[lL])")
_TIME = re.compile(r"(\d+(?:[.,]\d+)?)\s*(s|sec|secs|seconds?|min|mins|minutes?|h|hrs?|hours?)\b", re.I)
_SECONDS_IN = {"s": 1, "m": 60, "h": 3600}
_TAKEN = (
    (Taken.IN_WATER, re.compile(r"\b(?:in|to|with) (?:the |their |its )?(?:water|tank|jar)\b", re.I)),
    (Taken.POWDER, re.compile(r"\b(?:talc|powder|dust(?:ed)?)\b", re.I)),
    (Taken.GEL, re.compile(r"\bgel\b", re.I)),
    (Taken.LIQUID, re.compile(r"\b(?:liquid|solution|quick dip|alcohol|ethanol|soak(?:ed)?)\b", re.I)),
    (Taken.POWDER, re.compile(r"m?g/kg|[muµμ]g/g", re.I)),
    (Taken.LIQUID, re.compile(r"m?g/l|[muµμ]g/ml|mol/l|(?-i:[muµμ]M\b)", re.I)),
)
_SALT = re.compile(r"\b(?:k[- ]?(?:iba|naa|salt)|(?:iba|naa)[- ]?\(?k)\b|potassium", re.I)


def read_level(name: str) -> Wanted:
    """What the words of a level of hormone say.

    >>> read_level("K-IBA 0.1 % liquid, 5 s")
    Wanted(active=<Active.IBA: 'iba'>, ppm=1000.0, taken=<Taken.LIQUID: 'liquid'>, as_salt=True, seconds=5.0, several=False)
    >>> read_level("tea of young bark, a night").active is None
    True
    """
    low = name.casefold()
    named = [one for one in Active if re.search(rf"\b(?:k[- ]?)?{one.value}\b", low)]
    active = named[0] if named else None
    strength = _STRENGTH.search(name)
    time = _TIME.search(name)
    salt = _SALT.search(name) is not None
    taken = next((how for how, words in _TAKEN if words.search(name)), Taken.NOT_SAID)
    if taken is Taken.NOT_SAID and time:
        taken = Taken.LIQUID
    seconds = None if time is None else float(time[1].replace(",", ".")) * _SECONDS_IN[time[2][0].lower()]
    ppm = _ppm(strength) if strength else _of_moles(name, active, salt)
    return Wanted(active, ppm, taken, salt, seconds, len(named) > 1)


def _ppm(found: re.Match[str]) -> float:
    unit = found[2].casefold()
    return round(strength_number(found[1], unit) * PPM_IN[unit], 6)


def _of_moles(name: str, active: Active | None, salt: bool) -> float | None:
    """ppm of a strength in mmol or umol to a litre, by the active part's mass, as acid or as salt."""
    found = _MOLAR.search(name)
    if found is None or active is None:
        return None
    mmol = strength_number(found[1], "") * (1 if found[2].startswith("m") else 1e-3)
    return round(mmol * MOLAR[active][Form.SALT if salt else Form.ACID], 1)


def unproven(levels: Iterable[str]) -> list[str]:
    """Levels of hormone that are a brew or name no active part that is known here: their strength is unknown.

    >>> unproven(["IBA 3000 ppm talc", "none", "tea of young bark", "honey", "500 ppm"])
    ['tea of young bark', 'honey']
    """
    return [name for name in _without_active(levels) if not _names_nothing(name)]


def of_what_hormone(levels: Iterable[str]) -> list[str]:
    """Levels that say how strong, how or that a hormone was given, and not which.

    >>> of_what_hormone(["none", "500 ppm", "0.1 % talc, 5 s", "yes", "K-IBA 0.1 %", "honey 10 %"])
    ['500 ppm', '0.1 % talc, 5 s', 'yes']
    """
    return [name for name in _without_active(levels) if _names_nothing(name)]


def _without_active(levels: Iterable[str]) -> list[str]:
    named = dict.fromkeys(level.strip() for level in levels)
    return [name for name in named if name and not NOTHING.match(name) and read_level(name).active is None]


def _names_nothing(name: str) -> bool:
    """Whether nothing is left of a level's words but how strong, how long and in what form."""
    for said in (_STRENGTH, _MOLAR, _TIME):
        name = said.sub(" ", name)
    return all(word in OF_ANY_HORMONE for word in re.findall(r"[^\W\d_]+", name.casefold()))
