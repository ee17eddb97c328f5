"""What every page of a trial needs: the walk, the margin, who looks."""

from __future__ import annotations

from typing import Any
from zoneinfo import ZoneInfo

from flask import render_template
from flask.typing import ResponseReturnValue

from orderly_bench.core.errors import OrderlyError
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.tend.retrospective import in_words
from orderly_bench.trial.access import Act, may
from orderly_bench.trial.blindness import arms_hidden
from orderly_bench.trial.errors import Conflict
from orderly_bench.trial.models import Trial
from orderly_bench.trial.walk import facts, leaves
from orderly_bench.web.access import actor
from orderly_bench.web.store import db, lab, today


def locked_late(trial: Trial) -> str:
    """Says so when the plan was locked after something was stuck; blank otherwise."""
    if trial.locked_at is None:
        return ""
    locked_on = trial.locked_at.astimezone(ZoneInfo(lab().time_zone)).date()
    return in_words(_("the plan was locked"), locked_on, [lot.day_zero for lot in trial.lots])


def trial_page(template: str, trial: Trial, chapter: str, error: OrderlyError | None = None, **context: Any) -> str:
    """Render a page of one trial."""
    known = facts(db(), trial, today())
    return render_template(
        template,
        trial=trial,
        chapter=chapter,
        facts=known,
        leaves=leaves(trial, known),
        late=locked_late(trial),
        hidden=arms_hidden(db(), trial, actor()),
        error=error,
        conflict=error if isinstance(error, Conflict) else None,
        may=lambda act: may(actor(), Act[act]),
        today=today(),
        **context,
    )


def being_worked_out(trial: Trial) -> str:
    """The page that stands in while results are worked out in the background; it asks again by itself."""
    return trial_page("being_worked_out.html", trial, "Compare", whole=False)


def comes_when_worked_out(trial: Trial) -> ResponseReturnValue:
    """The same for what is no page of the trial, such as a report or a file: the browser asks for it anew, and it comes."""
    return trial_page("being_worked_out.html", trial, "Compare", whole=True), 202, {"Refresh": "1"}
