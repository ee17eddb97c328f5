"""What templates may call: stakes, glyphs, numbers in words, the theme."""

from __future__ import annotations

import re
import secrets
from html import unescape
from typing import Any

from flask import Flask, current_app, request
from markupsafe import Markup

from orderly_bench.core import measures
from orderly_bench.core.design.codes import spaced
from orderly_bench.core.messages import numbers
from orderly_bench.core.messages.specialists import words_in
from orderly_bench.core.messages.translation import capital, dated, in_full, language
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.plan.part import Page, asked_on
from orderly_bench.core.plan.question import Question
from orderly_bench.core.plan.treatments import ArmPlan, Container
from orderly_bench.core.plan.value import Design, PlannedWave, Schedule
from orderly_bench.core.question.others import other_words
from orderly_bench.core.score.signs import read_together
from orderly_bench.core.telling import headline as reading
from orderly_bench.figures import glyphs, ruler, stakes
from orderly_bench.record.scope import scope_of
from orderly_bench.web.store import lab

TAG = re.compile(r"<[^>]*>")
THEMES = ("light", "dark")
#: Fields of the plan as pages ask for them, by part and name.
ASKED = {
    part.__name__.lower(): {one.name: one for page in Page for one in asked_on(part, page)}
    for part in (Question, Design, Container, ArmPlan, PlannedWave, Schedule)
}


def theme() -> str:
    """The theme chosen, or blank to follow the device."""
    chosen = request.cookies.get("theme", "")
    return chosen if chosen in THEMES else ""


def on_record(value: object) -> str:
    """A value of the audit trail as people read it: *yes*, *not said*, a list with commas."""
    if value is None or value == "":
        return _("not said")
    if isinstance(value, bool):
        return _("yes") if value else _("no")
    if isinstance(value, list):
        return ", ".join(on_record(one) for one in value)
    if isinstance(value, dict):
        return "; ".join(f"{key.replace('_', ' ')} {on_record(one)}" for key, one in value.items())
    return f"{value:g}" if isinstance(value, float) else str(value)


def init_dress(app: Flask) -> None:
    """Register globals and filters."""

    @app.context_processor
    def everywhere() -> dict[str, Any]:
        return {
            "theme": theme(),
            "demo": current_app.config["DEMO"],
            "development": current_app.config["DEVELOPMENT"],
            "lab_name": lambda: lab().name,
        }

    app.jinja_env.globals.update(
        stake=lambda letter, size=18: Markup(stakes.stake(letter, size)),  # noqa: S704 - built from letters and numbers only
        glyph=lambda look, size=24, label="": Markup(glyphs.glyph(look, size, label)),  # noqa: S704
        glyph_parts=lambda look: Markup(glyphs.parts(look)),  # noqa: S704
        asked=ASKED,
        plain_words=lambda page: words_in(unescape(TAG.sub(" ", page))),
        ruler=ruler.RULER,
        scope_of=scope_of,
        read_together=read_together,
        language=lambda: language().code,
        fresh_key=lambda: secrets.randbelow(10**15),
    )
    app.jinja_env.filters.update(
        code=spaced,
        format=lambda text, *values: in_full(text % values),
        share=lambda value, digits=0: f"{100 * value:.{digits}f}",
        level=lambda alpha: f"{100 * (1 - alpha):g}",
        part_of=numbers.part_of,
        days_since=lambda day, first: (day - first).days,
        filled=lambda text, **values: _(text, **values),
        volume=lambda litres: measures.volume(litres, lab().settings.units),
        length_cm=lambda cm: measures.length(cm, lab().settings.units),
        root_length=lambda mm: measures.small_length(mm, lab().settings.units),
        of=lambda pair: numbers.of(*pair),
        p=numbers.p_value,
        small=numbers.small,
        points=numbers.points,
        signed=lambda value: numbers.points(value, True),
        signs=numbers.signs,
        on_record=on_record,
        not_worse=reading.not_worse_words,
        span=lambda interval: numbers.span(interval.low, interval.high, True, True, apart_from=[0.0]),
        other_endpoint=other_words,
        capital=lambda text: capital(_(text)),
        day=lambda value: dated(value) if value else "",
        shortday=lambda value: dated(value, "%-d %b") if value else "",
        here=lambda value: dated(value, "%-d %B %Y, %H:%M"),
        moment=lambda value: dated(value, "%-d %b %Y, %H:%M UTC") if value else "",
    )
