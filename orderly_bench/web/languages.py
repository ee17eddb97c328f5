"""The languages in which pages can be read: English, and those whose files the installation has.

Each is a ``.po`` or ``.mo`` file. Who is signed in reads in the language chosen for the account, anybody else and who chose none in the one
that the browser asks for; where there is no file for it, in English.
"""

from __future__ import annotations

from flask import Flask, current_app, request
from flask_login import current_user

from orderly_bench.core.messages.translation import ENGLISH, Language, answer_in
from orderly_bench.formats.catalogue import read_languages
from orderly_bench.web.template_texts import Texts


def init_languages(app: Flask, where: str) -> None:
    """Offer the languages of a file, or of all files of a folder; blank: English alone.

    Raises
    ------
    UnusableData
        One of the files can't be read as a language.
    """
    app.extensions["languages"] = {one.code: one for one in (ENGLISH, *read_languages(where))}
    if len(offered(app)) == 1:
        return
    app.jinja_env.add_extension(Texts)
    app.before_request(_choose)
    app.teardown_request(lambda _error: answer_in(None))


def offered(app: Flask) -> dict[str, Language]:
    """Each language by its code."""
    found: dict[str, Language] = app.extensions["languages"]
    return found


def _choose() -> None:
    if request.endpoint == "static":
        return
    found = offered(current_app)
    own = current_user.language if current_user.is_authenticated else ""
    code = own if own in found else request.accept_languages.best_match(list(found), ENGLISH.code)
    answer_in(found[code])
