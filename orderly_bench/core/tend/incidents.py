"""What can happen to a trial."""

from __future__ import annotations

from enum import StrEnum


class IncidentKind(StrEnum):
    """Kinds of incident, in the order they are offered."""

    FROST = "frost"
    HEAT = "heat"
    MISSED_WATER = "missed water"
    SOAKED = "soaked"
    PEST = "pest"
    ALGAE = "algae"
    WEEDS = "weeds"
    KNOCKED = "knocked"
    DUG_UP = "dug up to look"
    MOWER = "shears or mower"
    ANIMALS = "animals"
    COVER_OFF = "cover off"
    SHADE_OFF = "shade off"
    LABEL_LOST = "label lost"
    OTHER = "other"
