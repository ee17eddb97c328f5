"""Prepare: recipes, cell volume, and the mark that all is ready."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy.orm import Session

from orderly_bench.core.errors import InvalidInput, Refused
from orderly_bench.core.prepare.medium import check_cell_volume, read_recipe
from orderly_bench.trial.audit import changes, record
from orderly_bench.trial.models import Person, Trial


def save_media(
    session: Session, trial: Trial, actor: Person, now: datetime, cell_volume_ml: float, recipes: dict[str, str]
) -> None:
    """Keep the volume of a cell and a recipe in parts for each medium."""
    check_cell_volume(cell_volume_ml)
    for medium, text in recipes.items():
        if len(text) > 500:
            raise InvalidInput(f"recipe of {medium}", "keep it within 500 characters", f"{len(text)} characters")
        read_recipe(text)
    old = {"cell_volume_ml": trial.cell_volume_ml, "recipes": trial.recipes}
    trial.cell_volume_ml, trial.recipes = cell_volume_ml, {m: t.strip() for m, t in recipes.items()}
    was, became = changes(old, {"cell_volume_ml": trial.cell_volume_ml, "recipes": trial.recipes})
    if became:
        record(session, actor, now, "saved the media", trial, old=was, new=became)


def mark_prepared(session: Session, trial: Trial, actor: Person, now: datetime) -> None:
    """Everything stands ready; saying it twice changes nothing."""
    if trial.locked_at is None:
        raise Refused("Lock the plan on the Design page first; until then labels and volumes may still change.")
    if trial.prepared_at is None:
        trial.prepared_at = now
        record(session, actor, now, "marked as prepared", trial)
