"""Prepare: recipes, and the mark that all is ready."""

from __future__ import annotations

from dataclasses import replace
from datetime import datetime

from sqlalchemy.orm import Session

from orderly_bench.core.errors import InvalidInput, Refused
from orderly_bench.core.messages.translation import all_of
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.plan.amendments import Recipe
from orderly_bench.core.plan.recipe import read_recipe
from orderly_bench.core.prepare.needs import media_of
from orderly_bench.core.prepare.ready import left, to_do
from orderly_bench.core.prepare.short import Short, short_of
from orderly_bench.stock.operations import litres_ready, recipes_known
from orderly_bench.trial.amending import amend
from orderly_bench.trial.audit import Action, record
from orderly_bench.trial.draft import keep
from orderly_bench.trial.models import Person, Trial
from orderly_bench.trial.readiness import seen_to
from orderly_bench.trial.reserved import litres_reserved

LONGEST_WHY = 300


def save_media(
    session: Session, trial: Trial, actor: Person, now: datetime, recipes: dict[str, str], reason: str = ""
) -> None:
    """Keep a recipe in parts for each medium, by the id it stands under. Once the plan is locked each change is an amendment."""
    plan = trial.plan
    known = {medium.id: medium.need.medium for medium in media_of(plan)}
    for key, text in recipes.items():
        if key not in known:
            raise InvalidInput("medium", _("must be one of the plan's: {names}", names=", ".join(known.values())), key)
        if len(text) > 500:
            raise InvalidInput(f"recipe of {known[key]}", _("keep it within 500 characters"), f"{len(text)} characters")
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
            _("say why; the plan is locked, so this is an amendment and named in the report"),
        )
    for key, text in changed.items():
        amend(session, trial, actor, now, Recipe(key, text), reason)


def shortages(session: Session, trial: Trial) -> list[Short]:
    """Media of the trial of which too little is free."""
    media = media_of(trial.plan, recipes_known(session))
    return short_of(media, litres_ready(session), litres_reserved(session, trial))


def mark_prepared(session: Session, trial: Trial, actor: Person, now: datetime, anyway: str = "") -> None:
    """Everything stands ready; saying it twice changes nothing. What is short needs a reason, which stays with the trial; what was not
    ticked stands in the audit trail.

    Raises
    ------
    Refused
        Not locked, or something is short and nobody said why it is ready all the same.
    """
    if trial.locked_at is None:
        raise Refused(_("Lock the plan on the Design page first; until then labels and volumes may still change."))
    if trial.prepared_at is None:
        short = shortages(session, trial)
        if short and not anyway.strip():
            what = "; ".join(one.words for one in short)
            raise Refused(
                _("{what}. Mix more and say so on the Shelf, or type why it is ready all the same.", what=what)
            )
        if len(anyway) > LONGEST_WHY:
            raise InvalidInput(
                "why it is ready", _("keep it within {n} characters", n=str(LONGEST_WHY)), str(len(anyway))
            )
        if short:
            names = all_of([one.medium for one in short])
            trial.prepared_anyway = _("{names} was short: {reason}", names=names, reason=anyway.strip())[:600]
        trial.prepared_at = now
        unticked = [one.words for one in left(to_do(trial.plan), list(seen_to(session, trial)))]
        new = {"not ticked": unticked} if unticked else None
        record(session, actor, now, Action.MARKED_AS_PREPARED, trial, new=new, why=trial.prepared_anyway)
