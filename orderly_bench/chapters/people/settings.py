"""The lab's settings: what a new trial starts from. Trials there already keep their own."""

from __future__ import annotations

from dataclasses import asdict
from datetime import datetime

from sqlalchemy.orm import Session

from orderly_bench.core.lab import LabSettings, check_settings
from orderly_bench.trial.audit import Action, record
from orderly_bench.trial.models import Lab, Person


def change_settings(session: Session, actor: Person, now: datetime, lab: Lab, wanted: LabSettings) -> None:
    """Check and keep settings; what changed is in the audit trail.

    Raises
    ------
    InvalidInput
        Names the setting that can't be kept.
    """
    settings = asdict(check_settings(wanted))
    was = asdict(lab.settings)
    changed = {name: value for name, value in settings.items() if value != was[name]}
    if not changed:
        return
    for name, value in changed.items():
        setattr(lab, name, value)
    record(
        session, actor, now, Action.CHANGED_THE_LABS_SETTINGS, old={name: was[name] for name in changed}, new=changed
    )
