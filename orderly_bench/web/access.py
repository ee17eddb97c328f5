"""One decorator for every route: signs in, checks the act, loads the trial, owns the transaction."""

from __future__ import annotations

from collections.abc import Callable
from functools import wraps
from typing import Any

from flask import Blueprint, g, make_response, request
from flask.typing import ResponseReturnValue
from flask_login import current_user, login_required
from sqlalchemy.exc import DBAPIError

from orderly_bench.trial import load, turns
from orderly_bench.trial.access import Act, require
from orderly_bench.trial.audit import changed
from orderly_bench.trial.models import Person
from orderly_bench.web import work
from orderly_bench.web.store import commit, db

#: Parts of an address that name a trial, or something of one.
TURNS = ("trial_id", "check_id", "job_id")
View = Callable[..., ResponseReturnValue]
First = Callable[..., object]


def actor() -> Person:
    """The person signed in."""
    person: Person = current_user._get_current_object()
    return person


#: How often a change that collides with another is tried.
TRIES = 4


def _run(view: View, act: Act, kwargs: dict[str, Any], first: First | None) -> ResponseReturnValue:
    for left in reversed(range(TRIES)):
        try:
            return _once(view, act, dict(kwargs), first)
        except DBAPIError as error:
            if not left or request.method != "POST" or not turns.worth_another_try(error):
                raise
            db().rollback()
            db().expunge_all()
            for name in ("lab", "_login_user"):
                g.pop(name, None)
    raise AssertionError("the last try answers or raises")


def _once(view: View, act: Act, kwargs: dict[str, Any], first: First | None) -> ResponseReturnValue:
    if act is not Act.ANYONE:
        require(actor(), act)
    _read = (
        first(**kwargs) if first is not None else None
    )  # the session knows what it read for as long as somebody holds it
    if request.method == "POST":
        turns.take(db(), **{name: kwargs[name] for name in TURNS if name in kwargs})
    if "trial_id" in kwargs:
        kwargs["trial"] = load.trial(db(), kwargs.pop("trial_id"))
    response = make_response(view(**kwargs))
    if response.status_code < 400:
        commit()
        for trial in changed(db()):
            if any(check.is_endpoint and check.closed_at for check in trial.checks):
                work.ask(trial)
    else:
        db().rollback()
    return response


def route(
    chapter: Blueprint, rule: str, act: Act, method: str = "GET", first: First | None = None
) -> Callable[[View], View]:
    """Register a view with the act it needs. ``trial_id`` in the rule becomes the argument ``trial``.

    ``first`` is called before the turn of the trial is taken, to read what no other can change under it: while it is held, others wait.

    A view that answers below 400 has its work committed; anything else is rolled back. Results that rested on what it changed are worked
    out before anyone reads them.
    """

    def register(view: View) -> View:
        @wraps(view)
        def guarded(**kwargs: Any) -> ResponseReturnValue:
            return _run(view, act, kwargs, first)

        outer = guarded if act is Act.ANYONE else login_required(guarded)
        vars(outer)["act"] = act
        chapter.add_url_rule(rule, endpoint=view.__name__, view_func=outer, methods=[method])
        return view

    return register
