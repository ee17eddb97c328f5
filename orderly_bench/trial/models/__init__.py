"""Every table of a trial: people, the plan and its versions, places, cuttings, checks, events."""

from orderly_bench.trial.models.checks import CheckVisit, PlannedCheck, ScoreRecord
from orderly_bench.trial.models.cuttings import Cutting, DayZeroCorrection, Lot
from orderly_bench.trial.models.events import (
    AuditEntry,
    Conclusion,
    Incident,
    InterimLook,
    Job,
    Prediction,
    Reveal,
    SeenArms,
    TreatmentChange,
)
from orderly_bench.trial.models.people import Lab, Person, ResetLink, SignedIn, Throttle
from orderly_bench.trial.models.places import Grouping, Placement, Tray, TrayStanding, Unit
from orderly_bench.trial.models.results import WorkedOut
from orderly_bench.trial.models.trial import Arm, Draw, PlanVersion, Trial, Wave

__all__ = [
    "Arm",
    "AuditEntry",
    "CheckVisit",
    "Conclusion",
    "Cutting",
    "DayZeroCorrection",
    "Draw",
    "Grouping",
    "Incident",
    "InterimLook",
    "Job",
    "Lab",
    "Lot",
    "Person",
    "Placement",
    "PlanVersion",
    "PlannedCheck",
    "Prediction",
    "ResetLink",
    "Reveal",
    "ScoreRecord",
    "SeenArms",
    "SignedIn",
    "Throttle",
    "Tray",
    "TrayStanding",
    "TreatmentChange",
    "Trial",
    "Unit",
    "Wave",
    "WorkedOut",
]
