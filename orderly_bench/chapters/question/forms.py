"""The Question page's form."""

from __future__ import annotations

from orderly_bench.chapters.question.operations import QuestionValues
from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.plan.aspects import AspectKind
from orderly_bench.core.plan.edit import Row
from orderly_bench.core.question.rules import MOST_FACTORS
from orderly_bench.web import fields
from orderly_bench.web.fields import Form


def read_factors(form: Form) -> list[tuple[str, str, list[str]]]:
    """Factors as typed; those after the first count when they have levels or a name."""
    return [
        (form.get(f"kind_{i}", ""), fields.text(form, f"name_{i}"), fields.lines(form, f"levels_{i}"))
        for i in range(1, MOST_FACTORS + 1)
        if i == 1 or fields.text(form, f"levels_{i}") or fields.text(form, f"name_{i}")
    ]


def read_question(form: Form) -> QuestionValues:
    """Parse the form."""
    return QuestionValues(
        kind=form.get("kind", "test"),
        botanical_name=fields.text(form, "botanical_name"),
        cultivar=fields.text(form, "cultivar"),
        source=fields.text(form, "source"),
        question=fields.text(form, "question"),
        why=fields.text(form, "why"),
        factors=read_factors(form),
        endpoint_day=fields.whole(form, "endpoint_day", "endpoint day"),
        check_days=fields.text(form, "check_days"),
        margin_points=fields.number(form, "margin_points", "margin"),
        stop_rule=fields.text(form, "stop_rule"),
        care_task=fields.text(form, "care_task"),
        care_every_days=fields.whole(form, "care_every_days", "care, every so many days"),
        fit_least_roots=fields.whole(form, "fit_least_roots", "fit to pot on, roots"),
        fit_least_mm=fields.number(form, "fit_least_mm", "fit to pot on, mm"),
        blind=form.get("blind") == "yes",
    )


def read_description(form: Form, arms: list[str]) -> tuple[list[Row], list[tuple[str, str]]]:
    """Rows of the arms' description and the side groups, as typed.

    A value in the row's own field counts for every arm whose field is blank.
    """
    groups = [
        (text, fields.text(form, f"group_note_{i}")) for i in range(1, 13) if (text := fields.text(form, f"group_{i}"))
    ]
    rows = []
    for i in range(1, fields.whole(form, "rows", "aspects") + 1):
        kind = form.get(f"kind_{i}", AspectKind.OTHER.value)
        if kind not in list(AspectKind):
            raise InvalidInput("aspect", f"choose one of: {', '.join(AspectKind)}", kind)
        common = fields.text(form, f"all_{i}")
        values = {letter: fields.text(form, f"value_{i}_{letter}") or common for letter in arms}
        values |= {name: fields.text(form, f"value_{i}_group_{g}") for g, (name, _) in enumerate(groups, start=1)}
        rows.append(Row(AspectKind(kind), fields.text(form, f"name_{i}"), values))
    return rows, groups
