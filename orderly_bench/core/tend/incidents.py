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
    KNOCKED = "knocked"
    COVER_OFF = "cover off"
    SHADE_OFF = "shade off"
    LABEL_LOST = "label lost"
    OTHER = "other"
