"""The application factory."""

from __future__ import annotations

import gc
import os
import socket
import threading
from datetime import UTC, datetime
from typing import Any

from flask import Flask, Response, abort, current_app, request, session
from flask_login import LoginManager, current_user
from flask_talisman import Talisman
from flask_wtf.csrf import CSRFProtect
from jinja2 import StrictUndefined
from werkzeug.middleware.proxy_fix import ProxyFix
from werkzeug.sansio.utils import host_is_trusted

from orderly_bench.at_once.routes import chapter as at_once
from orderly_bench.chapters.account.routes import chapter as account
from orderly_bench.chapters.audit.routes import chapter as audit
from orderly_bench.chapters.compare.routes import chapter as compare
from orderly_bench.chapters.conclude.plant_pages import chapter as plants
from orderly_bench.chapters.conclude.routes import chapter as conclude
from orderly_bench.chapters.design.routes import chapter as design
from orderly_bench.chapters.people.routes import chapter as people
from orderly_bench.chapters.prepare.routes import chapter as prepare
from orderly_bench.chapters.question.routes import chapter as question
from orderly_bench.chapters.rehearse.routes import chapter as rehearse
from orderly_bench.chapters.score.along_pages import chapter as along
from orderly_bench.chapters.score.routes import chapter as score
from orderly_bench.chapters.score.second_pages import chapter as second
from orderly_bench.chapters.shelf.routes import chapter as shelf
from orderly_bench.chapters.shelf.stock_pages import chapter as stock
from orderly_bench.chapters.shelf.things_pages import chapter as things
from orderly_bench.chapters.stick.routes import chapter as stick
from orderly_bench.chapters.sums.routes import chapter as sums
from orderly_bench.chapters.tend.minutes_pages import chapter as minutes
from orderly_bench.chapters.tend.photo_pages import chapter as photos
from orderly_bench.chapters.tend.routes import chapter as tend
from orderly_bench.chapters.today.away_pages import chapter as away
from orderly_bench.chapters.today.routes import chapter as today
from orderly_bench.chapters.today.weather_pages import chapter as weather
from orderly_bench.chapters.together.routes import chapter as together
from orderly_bench.chapters.wrong.routes import chapter as wrong
from orderly_bench.core.typed import day_order
from orderly_bench.database.engine import make_engine
from orderly_bench.trial import sessions
from orderly_bench.trial.access import Act, may
from orderly_bench.trial.models import Person
from orderly_bench.trial.sessions import KEY
from orderly_bench.web import dress
from orderly_bench.web.errors import init_errors, problem
from orderly_bench.web.languages import init_languages
from orderly_bench.web.logs import init_logs
from orderly_bench.web.metrics import init_metrics
from orderly_bench.web.parts import chapter as parts
from orderly_bench.web.store import db, init_store, lab, now
from orderly_bench.web.work import Worker

CHAPTERS = (
    at_once,
    question,
    stock,
    sums,
    design,
    prepare,
    stick,
    tend,
    score,
    second,
    along,
    compare,
    conclude,
    plants,
    minutes,
    photos,
    things,
    away,
    weather,
    today,
    together,
    wrong,
    people,
    shelf,
    rehearse,
    account,
    audit,
)
CONTENT_POLICY = {
    "default-src": "'none'",
    "script-src": "'self'",
    "style-src": "'self'",
    "img-src": "'self' data:",
    "font-src": "'self'",
    "connect-src": "'self'",
    "form-action": "'self'",
    "frame-ancestors": "'none'",
    "base-uri": "'none'",
}
MOST_FORM_BYTES = 2 * 1024 * 1024
#: A file may be larger: it is spooled to disk as it comes; 100,000 rows of a logger have some 5 MB.
MOST_UPLOAD_BYTES = 10 * 1024 * 1024
#: A trial of another lab with its photos; from one who may take it in.
MOST_PACKAGE_BYTES = 1000 * 1024 * 1024


def create_app(settings: dict[str, Any] | None = None) -> Flask:
    """Make the application.

    Parameters
    ----------
    settings : dict, optional
        Overrides: ``DATABASE_URL``, ``SECRET_KEY``, ``DEMO``, ``DEVELOPMENT``, ``CLOCK``; ``WORK`` is *in the background* or *at once*;
        ``LANGUAGES`` a file of gettext in another language, or a folder of such.
    """
    app = Flask("orderly_bench.web")
    app.config.update(
        SECRET_KEY=os.environ.get("ORDERLY_BENCH_SECRET"),
        DATABASE_URL=os.environ.get("ORDERLY_BENCH_DATABASE_URL"),
        DEMO=os.environ.get("ORDERLY_BENCH_MODE") == "demo",
        DEVELOPMENT=os.environ.get("ORDERLY_BENCH_DEVELOPMENT") == "1",
        CLOCK=lambda: datetime.now(UTC),
        MAX_CONTENT_LENGTH=MOST_FORM_BYTES,
        MAX_FORM_MEMORY_SIZE=MOST_FORM_BYTES,
        SESSION_COOKIE_HTTPONLY=True,
        SESSION_COOKIE_SAMESITE="Lax",
        PERMANENT_SESSION_LIFETIME=7 * 86_400,
        # A late answer to the one who left must not put his cookie over that of the next at the same desk.
        SESSION_REFRESH_EACH_REQUEST=False,
        WTF_CSRF_TIME_LIMIT=None,
        FIRST_CODE=os.environ.get("ORDERLY_BENCH_FIRST_CODE") or None,
        AUTHORITY=os.environ.get("ORDERLY_BENCH_AUTHORITY", ""),
        TLS=os.environ.get("ORDERLY_BENCH_TLS") == "1",
        PHOTOS=os.environ.get("ORDERLY_BENCH_PHOTOS", "photos"),
        HOSTS=[name for name in os.environ.get("ORDERLY_BENCH_HOSTS", "").split(",") if name] or None,
        LOG_FOLDER=os.environ.get("ORDERLY_BENCH_LOGS", ""),
        PROXIES=int(os.environ.get("ORDERLY_BENCH_PROXIES", "0") or 0),
        LANGUAGES=os.environ.get("ORDERLY_BENCH_LANGUAGES", ""),
        OWN_NAME=os.environ.get("ORDERLY_BENCH_NAME") or socket.gethostname(),
        METRICS_FOR=[one for one in os.environ.get("ORDERLY_BENCH_METRICS_FOR", "").split(",") if one],
        WARM=True,
        WORK="in the background",
    )
    app.config.update(settings or {})
    if not app.config["SECRET_KEY"] or not app.config["DATABASE_URL"]:
        raise RuntimeError("Start with ./bench demo or ./bench run; they set the database and the secret.")
    app.jinja_env.undefined = StrictUndefined
    app.jinja_env.add_extension("jinja2.ext.loopcontrols")
    app.jinja_env.trim_blocks = app.jinja_env.lstrip_blocks = True
    init_store(app, app.config.get("ENGINE") or make_engine(app.config["DATABASE_URL"]))
    app.before_request(_of_ours)
    app.before_request(_as_the_lab_writes)
    app.teardown_request(_as_nobody_writes)
    _protect(app)
    init_languages(app, app.config["LANGUAGES"])
    init_errors(app)
    init_logs(app)
    init_metrics(app)
    dress.init_dress(app)
    for chapter in CHAPTERS:
        app.register_blueprint(chapter)
    if app.config["DEVELOPMENT"]:
        app.register_blueprint(parts)
    if app.config["WORK"] == "in the background":
        app.extensions["worker"] = Worker(app)
        app.extensions["worker"].start()
    if app.config["WARM"]:
        threading.Thread(target=_warm, daemon=True).start()
    return app


def _of_ours() -> None:
    """Refuse a request under a name that is not the lab's: links are built from it."""
    names = current_app.config["HOSTS"]
    if names and not host_is_trusted(request.host, names):
        abort(400)


def _as_the_lab_writes() -> None:
    """A day that can be read in two ways is read as the lab writes its days; it is asked for only then."""
    day_order.set(lambda: lab().settings.day_order)


def _as_nobody_writes(_error: BaseException | None) -> None:
    day_order.set(None)


def _protect(app: Flask) -> None:
    @app.before_request
    def _room_for_a_file() -> None:
        if request.mimetype == "multipart/form-data":
            whole_trial = request.endpoint == "at_once.take_in" and current_user.is_authenticated
            request.max_content_length = (
                MOST_PACKAGE_BYTES if whole_trial and may(current_user, Act.PLAN) else MOST_UPLOAD_BYTES
            )

    CSRFProtect(app)
    Talisman(
        app,
        force_https=False,
        session_cookie_secure=app.config["TLS"],
        strict_transport_security=app.config["TLS"],
        content_security_policy=CONTENT_POLICY,
        referrer_policy="same-origin",
        frame_options="DENY",
    )
    if app.config["PROXIES"]:
        trusted = app.config["PROXIES"]
        app.wsgi_app = ProxyFix(app.wsgi_app, x_for=trusted, x_proto=trusted, x_host=trusted)  # type: ignore[method-assign]

    @app.after_request
    def keep_nothing(response: Response) -> Response:
        if request.endpoint != "static":
            response.headers["Cache-Control"] = "no-store"
        return response

    manager = LoginManager(app)
    manager.session_protection = None  # the session stands on the server

    @manager.user_loader  # type: ignore[untyped-decorator]
    def load_person(number: str) -> Person | None:
        standing = sessions.standing(db(), session.get(KEY, ""), now())
        return standing.person if standing is not None and str(standing.person_id) == number else None

    @manager.unauthorized_handler  # type: ignore[untyped-decorator]
    def sign_in_first() -> Any:
        from flask import redirect, url_for

        if request.method == "GET" and request.headers.get("HX-Request") != "true":
            return redirect(url_for("account.sign_in_page", next=request.full_path.rstrip("?")))
        return problem(
            401, "You are signed out.", "Sign in again in another tab, then save; what you typed is kept.", keep=True
        )


def _warm() -> None:
    """Load the slow libraries before anyone asks for them.

    What is loaded by then stays for good: Python need not look through it for what can be let go, and all who wait just then with it.
    """
    import statsmodels.genmod.generalized_linear_model  # noqa: F401

    gc.collect()
    gc.freeze()
