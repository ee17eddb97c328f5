"""The application on the test's own connection, and people signed in."""

from __future__ import annotations

import tempfile
from collections.abc import Callable
from types import CodeType
from typing import Any

import pytest
from flask import Flask
from flask.testing import FlaskClient
from jinja2.bccache import Bucket, BytecodeCache
from sqlalchemy import Connection
from sqlalchemy.orm import Session, object_session
from werkzeug.routing import Rule
from werkzeug.test import TestResponse

from orderly_bench.app import create_app
from orderly_bench.trial import sessions
from orderly_bench.trial.models import Person
from orderly_bench.trial.sessions import KEY
from tests.factories import NOW, create_person

SignIn = Callable[..., FlaskClient]


def flat(page: str) -> str:
    """A page with every run of white space as one blank, as a browser shows it."""
    return " ".join(page.split())


def folder_of_photos() -> str:
    """A folder of this test's own run."""
    return tempfile.mkdtemp(prefix="photos-")


class Compiled(BytecodeCache):
    """Templates are compiled once in a run, not for every application that a test makes."""

    def __init__(self) -> None:
        self.held: dict[str, tuple[str, CodeType | None]] = {}

    def load_bytecode(self, bucket: Bucket) -> None:
        checksum, code = self.held.get(bucket.key, ("", None))
        bucket.code = code if checksum == bucket.checksum else None

    def dump_bytecode(self, bucket: Bucket) -> None:
        self.held[bucket.key] = bucket.checksum, bucket.code


COMPILED = Compiled()
_compile_builder, _builders = Rule._compile_builder, dict[tuple[Any, ...], Callable[..., tuple[str, str]]]()


def _compiled_once(rule: Rule, append_unknown: bool = True) -> Callable[..., tuple[str, str]]:
    """How an address is built is compiled once in a run: it hangs on the rule alone, and took half of making an application."""
    key = (*rule._trace, *(rule.defaults or {}).items(), append_unknown)
    if key not in _builders:
        _builders[key] = _compile_builder(rule, append_unknown)
    return _builders[key]


Rule._compile_builder = _compiled_once  # type: ignore[method-assign]


class Closing(FlaskClient):
    """Takes an answer whole and closes it, as a server does."""

    def open(self, *args: object, **named: object) -> TestResponse:
        return super().open(*args, **{"buffered": True} | named)


def make_app(connection: Connection, **settings: object) -> Flask:
    made = create_app(
        {
            "ENGINE": connection, "DATABASE_URL": "in the engine", "SECRET_KEY": "for tests only", "TESTING": True, "PROPAGATE_EXCEPTIONS": False,
            "WTF_CSRF_ENABLED": False, "WARM": False, "WORK": "at once", "DEMO": False, "DEVELOPMENT": False, "FIRST_CODE": "", "CLOCK": lambda: NOW, "PHOTOS": folder_of_photos(), **settings,
        }
    )  # fmt: skip
    if len(made.extensions["languages"]) == 1:  # templates that look their texts up are others
        made.jinja_env.bytecode_cache = COMPILED
    made.test_client_class = Closing
    return made


@pytest.fixture
def app(connection: Connection, session: Session) -> Flask:
    return make_app(connection)


def client_of(app: Flask, person: Person) -> FlaskClient:
    client = app.test_client()
    session = object_session(person)
    assert session is not None
    key = sessions.begin(session, person, app.config["CLOCK"]())
    session.commit()
    with client.session_transaction() as cookie:
        cookie[KEY] = key
        cookie["_user_id"] = str(person.id)
        cookie["_fresh"] = True
    return client


@pytest.fixture
def sign_in(app: Flask, session: Session) -> SignIn:
    """Sign in as a new person of a role, or as the person given."""

    def signed_in(role: str = "researcher", person: Person | None = None) -> FlaskClient:
        person = person or create_person(session, role)
        session.commit()
        return client_of(app, person)

    return signed_in
