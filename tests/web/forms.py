"""Forms as a browser would send them."""

from __future__ import annotations

from collections.abc import Sequence

from orderly_bench.chapters.question import views
from orderly_bench.core.plan.aspects import AspectKind
from orderly_bench.core.plan.table import Line, Table
from orderly_bench.trial.models import Trial


def line(kind: AspectKind, values: Sequence[str], asked: bool = False, name: str = "") -> Line:
    return Line(kind, name or kind.value, asked, tuple(values))


def question_form(trial: Trial, *lines: Line, control: int | None = None, **changes: str) -> dict[str, str]:
    """The Question page's form as stored, or with these lines as its table."""
    table = Table(len(lines[0].values), tuple(lines), (), control) if lines else views.table_for(trial)
    return {**views.as_form(views.typed_values(trial), table), **changes}
