"""What every page of a trial needs: the walk, the margin, who looks."""

from __future__ import annotations

from typing import Any

from flask import render_template

from orderly_bench.core.errors import OrderlyError
from orderly_bench.trial.access import Act, arms_hidden, may
from orderly_bench.trial.errors import Conflict
from orderly_bench.trial.models import Trial
from orderly_bench.trial.walk import facts, leaves
from orderly_bench.web.access import actor
from orderly_bench.web.store import db, today


def trial_page(template: str, trial: Trial, chapter: str, error: OrderlyError | None = None, **context: Any) -> str:
    """Render a page of one trial."""
    known = facts(db(), trial, today())
    return render_template(
        template,
        trial=trial,
        chapter=chapter,
        facts=known,
        leaves=leaves(trial, known),
        hidden=arms_hidden(db(), trial, actor()),
        error=error,
        conflict=error if isinstance(error, Conflict) else None,
        may=lambda act: may(actor(), Act[act]),
        today=today(),
        **context,
    )
