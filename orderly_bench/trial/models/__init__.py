"""Every table of a trial: people, the plan and its versions, places, cuttings, checks, events."""

from orderly_bench.trial.models.checks import CheckVisit, PlannedCheck, ScoreRecord, SecondScore, TakenAlong
from orderly_bench.trial.models.conditions import ConditionLog, HandReading, IntakeState, LoggerKind, LogIntake
from orderly_bench.trial.models.cuttings import Cutting, DayZeroCorrection, Lot
from orderly_bench.trial.models.events import (
    AuditEntry,
    Conclusion,
    Incident,
    InterimLook,
    Job,
    Note,
    Prediction,
    Reveal,
    SeenArms,
    SeenTo,
    SideCount,
    SideTrial,
    TimeSpent,
    TreatmentChange,
)
from orderly_bench.trial.models.people import Away, Lab, Person, ResetLink, SignedIn, Throttle
from orderly_bench.trial.models.photos import PhotoKept, PhotoLength, Shows
from orderly_bench.trial.models.places import Grouping, Placement, Tray, TrayStanding, Unit
from orderly_bench.trial.models.plants import HardeningNight, PlantEnd
from orderly_bench.trial.models.results import CurveKept, WorkedOut
from orderly_bench.trial.models.trial import Arm, Draw, PlanVersion, Trial, Wave

__all__ = [
    "Arm",
    "AuditEntry",
    "Away",
    "CheckVisit",
    "Conclusion",
    "ConditionLog",
    "CurveKept",
    "Cutting",
    "DayZeroCorrection",
    "Draw",
    "Grouping",
    "HandReading",
    "HardeningNight",
    "Incident",
    "IntakeState",
    "InterimLook",
    "Job",
    "Lab",
    "LogIntake",
    "LoggerKind",
    "Lot",
    "Note",
    "Person",
    "PhotoKept",
    "PhotoLength",
    "Placement",
    "PlanVersion",
    "PlannedCheck",
    "PlantEnd",
    "Prediction",
    "ResetLink",
    "Reveal",
    "ScoreRecord",
    "SecondScore",
    "SeenArms",
    "SeenTo",
    "Shows",
    "SideCount",
    "SideTrial",
    "SignedIn",
    "TakenAlong",
    "Throttle",
    "TimeSpent",
    "Tray",
    "TrayStanding",
    "TreatmentChange",
    "Trial",
    "Unit",
    "Wave",
    "WorkedOut",
]
