"""One decorator for every route: signs in, checks the act, loads the trial, owns the transaction."""

from __future__ import annotations

from collections.abc import Callable
from functools import wraps
from typing import Any

from flask import Blueprint, make_response
from flask.typing import ResponseReturnValue
from flask_login import current_user, login_required

from orderly_bench.trial import load
from orderly_bench.trial.access import Act, require
from orderly_bench.trial.models import Person
from orderly_bench.web.store import db

View = Callable[..., ResponseReturnValue]


def actor() -> Person:
    """The person signed in."""
    person: Person = current_user._get_current_object()
    return person


def _run(view: View, act: Act, kwargs: dict[str, Any]) -> ResponseReturnValue:
    if act is not Act.ANYONE:
        require(actor(), act)
    if "trial_id" in kwargs:
        kwargs["trial"] = load.trial(db(), kwargs.pop("trial_id"))
    response = make_response(view(**kwargs))
    if response.status_code < 400:
        db().commit()
    else:
        db().rollback()
    return response


def route(chapter: Blueprint, rule: str, act: Act, method: str = "GET") -> Callable[[View], View]:
    """Register a view with the act it needs. ``trial_id`` in the rule becomes the argument ``trial``.

    A view that answers below 400 has its work committed; anything else is rolled back.
    """

    def register(view: View) -> View:
        @wraps(view)
        def guarded(**kwargs: Any) -> ResponseReturnValue:
            return _run(view, act, kwargs)

        outer = guarded if act is Act.ANYONE else login_required(guarded)
        vars(outer)["act"] = act
        chapter.add_url_rule(rule, endpoint=view.__name__, view_func=outer, methods=[method])
        return view

    return register
