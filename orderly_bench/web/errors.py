"""Errors as pages that say what is wrong and what to do. A full form that could not be saved is kept."""

from __future__ import annotations

import logging

from flask import Flask, g, render_template, request
from flask.typing import ResponseReturnValue
from flask_login import AnonymousUserMixin
from flask_wtf.csrf import CSRFError
from sqlalchemy.exc import DBAPIError, IntegrityError, InterfaceError, OperationalError
from sqlalchemy.orm.exc import StaleDataError
from werkzeug.exceptions import HTTPException

from orderly_bench.core.errors import OrderlyError
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.trial.access import NotAllowed
from orderly_bench.trial.errors import Conflict
from orderly_bench.web import fields
from orderly_bench.web.answers import is_htmx, status_of
from orderly_bench.web.sent_again import node_lost, whether_kept_is_unknown, wish_again
from orderly_bench.web.store import undo

log = logging.getLogger(__name__)
NEVER_KEPT = {"csrf_token", "password", "old_password", "new_password", "own_password", "code"}
HTTP_WORDS = {
    404: (N_("There is no such page."), N_("Go to Today or Trials and find it from there.")),
    405: (N_("This address only takes a form."), N_("Go back and use the button on the page.")),
    413: (N_("That is more than a form may hold."), N_("Shorten it and save again; nothing was written.")),
    429: (N_("Too many tries to sign in."), N_("Wait a minute, then try again.")),
}


def kept_fields() -> list[tuple[str, str]]:
    """What was typed, so that it can be sent again."""
    if request.method != "POST" or request.files:
        return []
    return [(name, value) for name, value in request.form.items(multi=True) if name not in NEVER_KEPT]


def problem(
    status: int, message: str, remedy: str = "", *, conflict: Conflict | None = None, keep: bool = False
) -> ResponseReturnValue:
    """One problem: a line for a part of a page, or a page of its own, with the entry kept on demand."""
    template = "_problem.html" if is_htmx() else "problem.html"
    kept = kept_fields() if keep and not is_htmx() else []
    page = render_template(template, message=message, remedy=remedy, conflict=conflict, kept=kept, status=status)
    return page, status


def refuse_unprintable(app: Flask) -> None:
    """No field of a form or address may hold a control character."""

    @app.before_request
    def nothing_unprintable() -> ResponseReturnValue | None:
        name = fields.control_character_in(request.form) or fields.control_character_in(request.args)
        if not name:
            return None
        shown = fields.CONTROL.sub("?", name)[:60].replace("_", " ")
        return problem(
            422,
            _("{shown}: holds a character that can't be typed or shown.", shown=shown),
            _("Take it out, then save again; nothing was written."),
        )


def _database_words(error: DBAPIError) -> ResponseReturnValue:
    """What went wrong in the database, as a person can use it."""
    if isinstance(error, IntegrityError):
        return problem(
            409,
            _("Someone else saved the same at the same moment."),
            _("Look at what is there, then save yours again."),
            keep=True,
        )
    if node_lost(error) and whether_kept_is_unknown():
        return problem(
            503,
            _("The database was lost while it kept this."),
            _(
                "Whether it was kept is not known. Look at what is there before you send it again; what you typed is kept here."
            ),
            keep=True,
        )
    if isinstance(error, OperationalError | InterfaceError):
        remedy = _("Nothing was written. Wait a few seconds, then try again") + (
            _("; what you typed is kept.") if request.form else "."
        )
        return problem(503, _("The database does not answer."), remedy, keep=True)
    return problem(
        500,
        _("The database refused this."),
        _("Nothing was written. The server's log holds the details."),
        keep=True,
    )


def init_errors(app: Flask) -> None:
    """Register every handler."""
    refuse_unprintable(app)

    @app.errorhandler(OrderlyError)
    def refused(error: OrderlyError) -> ResponseReturnValue:
        undo()
        return problem(status_of(error), str(error), conflict=error if isinstance(error, Conflict) else None)

    @app.errorhandler(NotAllowed)
    def not_allowed(error: NotAllowed) -> ResponseReturnValue:
        return problem(403, str(error))

    @app.errorhandler(StaleDataError)
    def stale(_error: StaleDataError) -> ResponseReturnValue:
        undo()
        return problem(
            409,
            _("Someone else saved this at the same moment."),
            _("Look at theirs, then save yours again."),
            keep=True,
        )

    @app.errorhandler(CSRFError)
    def expired(_error: CSRFError) -> ResponseReturnValue:
        return problem(
            400,
            _("The page was open too long to be trusted."),
            _("What you typed is kept: save it again."),
            keep=True,
        )

    @app.errorhandler(DBAPIError)
    def database_trouble(error: DBAPIError) -> ResponseReturnValue:
        log.exception("database error")
        wish_again(error)
        g._login_user = AnonymousUserMixin()  # who is signed in can't be asked now, and the page does not need it
        return _database_words(error)

    @app.errorhandler(HTTPException)
    def http(error: HTTPException) -> ResponseReturnValue:
        status = error.code or 500
        message, remedy = HTTP_WORDS.get(
            status, (error.description or _("That did not work."), _("Go back and try again."))
        )
        return problem(status, message, remedy)

    @app.errorhandler(Exception)
    def unexpected(_error: Exception) -> ResponseReturnValue:
        log.exception("unexpected error")
        return problem(
            500,
            _("Something went wrong on our side."),
            _("Nothing was written. The server's log holds the details."),
            keep=True,
        )
