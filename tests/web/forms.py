"""Forms as a browser would send them."""

from __future__ import annotations

from collections.abc import Sequence

from bs4 import BeautifulSoup
from werkzeug.datastructures import MultiDict

from orderly_bench.chapters.question import views
from orderly_bench.core.plan.aspects import AspectKind
from orderly_bench.core.plan.table import Line, Table
from orderly_bench.trial.models import Trial


def line(kind: AspectKind, values: Sequence[str], asked: bool = False, name: str = "") -> Line:
    return Line(kind, name or kind.value, asked, tuple(values))


def question_form(trial: Trial, *lines: Line, control: int | None = None, **changes: str) -> dict[str, str]:
    """The Question page's form as stored, or with these lines as its table."""
    table = Table(len(lines[0].values), tuple(lines), (), control) if lines else views.table_for(trial)
    return {**views.as_form(views.values_of(trial), table), **changes}


def form_on(page: str, form_id: str) -> MultiDict[str, str]:
    """A form of a page as a browser would send it: every field with what stands in it, boxes only where ticked."""
    form = BeautifulSoup(page, "html.parser").find(id=form_id)
    assert form is not None, form_id
    sent: MultiDict[str, str] = MultiDict()
    for field in form.select("input[name], textarea[name], select[name]"):
        name, kind = field["name"], field.get("type", "text")
        if field.name == "select":
            chosen = field.select_one("option[selected]") or field.find("option")
            sent.add(name, chosen.get("value", chosen.get_text()) if chosen else "")
        elif field.name == "textarea":
            sent.add(name, field.get_text().removeprefix("\n"))
        elif kind not in ("checkbox", "radio"):
            sent.add(name, field.get("value", ""))
        elif field.has_attr("checked"):
            sent.add(name, field.get("value", "on"))
    return sent
