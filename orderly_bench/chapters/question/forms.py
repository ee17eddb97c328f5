"""The Question page's form."""

from __future__ import annotations

from orderly_bench.chapters.question.operations import QuestionValues
from orderly_bench.web import fields
from orderly_bench.web.fields import Form


def read_question(form: Form) -> QuestionValues:
    """Parse the form; a second factor counts when it has levels or a name."""
    factors = [(form.get("kind_1", ""), fields.text(form, "name_1"), fields.lines(form, "levels_1"))]
    if fields.text(form, "levels_2") or fields.text(form, "name_2"):
        factors.append((form.get("kind_2", ""), fields.text(form, "name_2"), fields.lines(form, "levels_2")))
    return QuestionValues(
        kind=form.get("kind", "test"),
        botanical_name=fields.text(form, "botanical_name"),
        cultivar=fields.text(form, "cultivar"),
        source=fields.text(form, "source"),
        question=fields.text(form, "question"),
        why=fields.text(form, "why"),
        factors=factors,
        endpoint_day=fields.whole(form, "endpoint_day", "endpoint day"),
        check_days=fields.text(form, "check_days"),
        margin_points=fields.number(form, "margin_points", "margin"),
        held_same=fields.text(form, "held_same"),
        stop_rule=fields.text(form, "stop_rule"),
        care_task=fields.text(form, "care_task"),
        care_every_days=fields.whole(form, "care_every_days", "care, every so many days"),
        fit_least_roots=fields.whole(form, "fit_least_roots", "fit to pot on, roots"),
        fit_least_mm=fields.number(form, "fit_least_mm", "fit to pot on, mm"),
        blind=form.get("blind") == "yes",
    )
