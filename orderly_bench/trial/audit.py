"""The audit trail, written as data."""

from __future__ import annotations

from datetime import datetime
from enum import StrEnum
from typing import Any

from sqlalchemy.orm import Session

from orderly_bench.trial.models import AuditEntry, Person, Trial


class Action(StrEnum):
    """What was done, as the trail says it. Kept in the database: a word changed here would part the trail in two (a test holds them)."""

    CREATED_THE_TRIAL = "created the trial"
    BEGAN_IT_FROM_ANOTHER = "began it from another"
    SAVED_THE_QUESTION = "saved the question"
    RECORDED_A_PREDICTION = "recorded a prediction"
    AMENDED_THE_PLAN = "amended the plan"
    SAVED_THE_DESIGN = "saved the design"
    TOOK_ANOTHER_WAY = "took another way"
    TOOK_A_DESIGN_MADE_ELSEWHERE = "took a design made elsewhere"
    DREW_THE_LAYOUT = "drew the layout"
    LOCKED_THE_PLAN = "locked the plan"
    REDREW_THE_LAYOUT = "redrew the layout"
    FINISHED_STICKING = "finished sticking"
    NOTED_A_CUTTING = "noted a cutting"
    NOTED_HOW_IT_WENT_IN = "noted how a cutting went in"
    NOTED_HOW_A_LOT_WENT_IN = "noted how a lot went in"
    REPLACED_A_CUTTING = "replaced a cutting"
    SET_DAY_0 = "set day 0"
    SET_HOW_A_LOT_WAS_HELD = "set how a lot was held"
    STUCK_A_TRAY = "stuck a tray"
    SET_A_DAY_FOR_PLANTS = "set a day to look at plants again"
    LOOKED_AT_PLANTS_AGAIN = "looked at plants again"
    KEPT_WHAT_A_PLANT_COSTS = "kept what a plant costs"
    KEPT_A_NIGHT = "kept a night of hardening"
    PUT_A_TRIAL_AWAY = "put a trial away"
    TOOK_A_TRIAL_OUT = "took a trial out again"
    TOOK_A_TRIAL_IN = "took a trial in"
    TOOK_ON_THE_CARE = "took on the care"
    LET_THE_CARE_GO = "let the care go"
    PUT_PIECES_OFF = "put pieces off"
    TICKED_A_STEP = "ticked a step at the tray"
    DESCRIBED_A_STOCK_PLANT = "described a stock plant"
    KEPT_A_BENCH = "kept a bench"
    KEPT_A_CONTAINER = "kept a container"
    KEPT_A_SUPPLY = "kept a supply"
    TOOK_A_CHECK_ALONG = "took a check along"
    BROUGHT_A_CHECK_BACK = "brought a check back"
    RELEASED_A_DEVICE = "released a device"
    KEPT_A_COVER = "kept a cover"
    KEPT_A_ZONE = "kept a zone"
    KEPT_A_MEDIUM = "kept a medium"
    KEPT_A_METHOD_CARD = "kept a method card"
    KEPT_A_STOCK_PLANT = "kept a stock plant"
    MOVED_A_TRAY = "moved a tray"
    NOTED_A_GENUS = "noted a genus"
    STOOD_TRAYS_ON_A_BENCH = "stood trays on a bench"
    MOVED_A_UNIT = "moved a unit"
    DID_A_JOB = "did a job"
    LEFT_A_JOB_OUT = "left a job out"
    WROTE_A_NOTE = "wrote a note"
    RECORDED_AN_INCIDENT = "recorded an incident"
    KEPT_A_LOG = "kept what a logger read"
    KEPT_A_PHOTO = "kept a photo"
    WITHDREW_A_PHOTO = "withdrew a photo"
    MEASURED_ON_A_PHOTO = "measured on a photo"
    WITHDREW_A_LENGTH = "withdrew a length"
    WITHDREW_A_LOG = "withdrew what a logger read"
    KEPT_MINUTES = "kept minutes of work"
    PUT_MINUTES_RIGHT = "put minutes of work right"
    WITHDREW_MINUTES = "withdrew minutes of work"
    KEPT_A_READING = "kept what was read by hand"
    WITHDREW_A_READING = "withdrew what was read by hand"
    RECORDED_ANOTHER_TREATMENT = "recorded another treatment"
    TOOK_A_JOB_BACK = "took a job back"
    CLOSED_A_CHECK = "closed a check"
    CORRECTED_A_SCORE = "corrected a score"
    CORRECTED_THE_WAY = "corrected the way of looking"
    BEGAN_A_GROUP_BESIDE = "began a group beside the trial"
    COUNTED_BESIDE_THE_TRIAL = "counted beside the trial"
    OPENED_A_CHECK = "opened a check"
    DREW_WHO_IS_SCORED_AGAIN = "drew who is scored again"
    TOOK_A_SCORE_BACK = "took a score back"
    LOOKED_EARLY = "looked early"
    CONCLUDED = "concluded"
    SAID_WHERE_PLANTS_WENT = "said where plants went"
    SAVED_THE_MEDIA = "saved the media"
    MARKED_AS_PREPARED = "marked as prepared"
    SAW_TO = "saw to it before sticking"
    TOOK_A_TICK_BACK = "took back that it was seen to"
    TYPED_A_FORECAST = "typed a forecast"
    SAID_WHO_IS_AWAY = "said who is away"
    TOOK_BACK_WHO_IS_AWAY = "took back who is away"
    ADDED_A_PERSON = "added a person"
    CHANGED_A_PERSON = "changed a person"
    CHANGED_THE_LABS_SETTINGS = "changed the lab's settings"
    HANDED_A_TRIAL_OVER = "handed a trial over"
    HANDED_AN_OPEN_CHECK_OVER = "handed an open check over"
    PUT_A_CODE_IN_PLACE_OF_A_NAME = "put a code in place of a name"
    WAS_SHOWN_THE_ARMS = "was shown the arms"
    CHANGED_THE_OWN_PASSWORD = "changed the own password"  # noqa: S105
    GAVE_A_LINK_FOR_A_NEW_PASSWORD = "gave a link for a new password"  # noqa: S105
    SET_A_NEW_PASSWORD_BY_A_LINK = "set a new password by a link"  # noqa: S105
    MADE_A_CALENDAR_ADDRESS = "made a calendar address"
    WITHDREW_A_CALENDAR_ADDRESS = "withdrew a calendar address"
    TURNED_THE_SECOND_FACTOR_OFF = "turned the second factor off"
    TURNED_THE_SECOND_FACTOR_ON = "turned the second factor on"


#: Acts on a trial that no result rests on: after them nothing is worked out again.
RESULTS_STAND = (
    Action.CONCLUDED,
    Action.KEPT_WHAT_A_PLANT_COSTS,
    Action.HANDED_A_TRIAL_OVER,
    Action.KEPT_A_PHOTO,
    Action.WITHDREW_A_PHOTO,
    Action.MEASURED_ON_A_PHOTO,
    Action.WITHDREW_A_LENGTH,
)
#: Where a session notes the trials whose results no longer stand.
CHANGED = "trials changed"


def record(
    session: Session,
    actor: Person | None,
    now: datetime,
    action: Action,
    trial: Trial | None = None,
    *,
    old: dict[str, Any] | None = None,
    new: dict[str, Any] | None = None,
    why: str = "",
) -> None:
    """Add an entry: who, when, what, old, new, why. What an act on a trial that results rest on changed is worked out again."""
    if trial is not None and action not in RESULTS_STAND:
        session.info.setdefault(CHANGED, {})[trial.id] = trial
    session.add(
        AuditEntry(
            at=now,
            person_id=actor.id if actor else None,
            trial_id=trial.id if trial else None,
            action=action,
            old=old,
            new=new,
            why=why[:500],
        )
    )


def changed(session: Session) -> list[Trial]:
    """Trials whose results are to be worked out again, for the acts recorded since this was last asked."""
    return list(session.info.pop(CHANGED, {}).values())


def changes(before: dict[str, Any], after: dict[str, Any]) -> tuple[dict[str, Any], dict[str, Any]]:
    """The parts of two states that differ."""
    differing = [key for key in after if before.get(key) != after[key]]
    return {key: before.get(key) for key in differing}, {key: after[key] for key in differing}
