"""Prepare: recipes, and the mark that all is ready."""

from __future__ import annotations

from dataclasses import replace
from datetime import datetime

from sqlalchemy.orm import Session

from orderly_bench.core.errors import InvalidInput, Refused
from orderly_bench.core.messages.words import tell
from orderly_bench.core.plan.amendments import Recipe
from orderly_bench.core.plan.recipe import read_recipe
from orderly_bench.core.prepare.needs import media_of
from orderly_bench.trial.amending import amend
from orderly_bench.trial.audit import Action, record
from orderly_bench.trial.draft import keep
from orderly_bench.trial.models import Person, Trial


def save_media(
    session: Session, trial: Trial, actor: Person, now: datetime, recipes: dict[str, str], reason: str = ""
) -> None:
    """Keep a recipe in parts for each medium, by the id it stands under. Once the plan is locked each change is an amendment."""
    plan = trial.plan
    known = {medium.id: medium.need.medium for medium in media_of(plan)}
    for key, text in recipes.items():
        if key not in known:
            raise InvalidInput(
                "medium", tell("must be one of the plan's: {names}", names=", ".join(known.values())), key
            )
        if len(text) > 500:
            raise InvalidInput(
                f"recipe of {known[key]}", tell("keep it within 500 characters"), f"{len(text)} characters"
            )
        read_recipe(text)
    before = plan.preparation.recipes
    changed = {key: text.strip() for key, text in recipes.items() if text.strip() != before.get(key, "")}
    if not changed:
        return
    if trial.locked_at is None:
        preparation = replace(plan.preparation, recipes={**before, **changed})
        keep(session, trial, actor, now, replace(plan, preparation=preparation), Action.SAVED_THE_MEDIA)
        return
    if not reason.strip():
        raise InvalidInput(
            "reason for another recipe",
            tell("say why; the plan is locked, so this is an amendment and named in the report"),
        )
    for key, text in changed.items():
        amend(session, trial, actor, now, Recipe(key, text), reason)


def mark_prepared(session: Session, trial: Trial, actor: Person, now: datetime) -> None:
    """Everything stands ready; saying it twice changes nothing."""
    if trial.locked_at is None:
        raise Refused(tell("Lock the plan on the Design page first; until then labels and volumes may still change."))
    if trial.prepared_at is None:
        trial.prepared_at = now
        record(session, actor, now, Action.MARKED_AS_PREPARED, trial)
