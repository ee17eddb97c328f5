"""What a sum is: what it asks, how it is worked out, and what it answers with its working."""

from __future__ import annotations

import shlex
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from datetime import date
from typing import Any

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.typed import Asked

#: Digits that an answer keeps: enough for any balance, and none of the machine's own.
DIGITS = 10


@dataclass(frozen=True)
class Answer:
    """Values by name, the working line by line, and what to mind."""

    result: Mapping[str, Any]
    working: tuple[str, ...]
    cautions: tuple[str, ...] = ()

    def plain(self) -> dict[str, Any]:
        """As JSON has it: days as text, numbers without the machine's last digits."""
        return {"result": _plain(dict(self.result)), "working": list(self.working), "cautions": list(self.cautions)}


def _plain(value: Any) -> Any:
    if isinstance(value, dict):
        return {key: _plain(one) for key, one in value.items()}
    if isinstance(value, list | tuple):
        return [_plain(one) for one in value]
    if isinstance(value, float):
        return float(f"{value:.{DIGITS}g}")
    return value.isoformat() if isinstance(value, date) else value


@dataclass(frozen=True)
class SumKind:
    """One sum: its name, what it tells, what it asks, how it is worked out, and an example that it takes."""

    name: str
    words: str
    asks: tuple[Asked, ...]
    work: Callable[..., Answer]
    example: Mapping[str, str] = field(default_factory=dict)

    def of(self, typed: Mapping[str, str]) -> Answer:
        """The answer to what was typed, by name; what is not typed is left blank.

        Raises
        ------
        InvalidInput
            Names the field, the rule and what was typed.
        """
        values = {}
        for one in self.asks:
            label = _(one.words)
            said = typed.get(one.name, "").strip()
            if not said and one.kind.html.get("required") is not None:
                raise InvalidInput(label, _("is needed"), _("nothing"))
            values[one.name] = one.kind.value_of(said, label)
            one.kind.check(values[one.name], label)
        return self.work(**values)

    def command(self, typed: Mapping[str, str]) -> str:
        """What was typed as a line for a shell: ``./bench sum weigh --ppm 3000``; every value quoted where it must be."""
        said = [
            one.option if one.kind.box else f"{one.option} {shlex.quote(typed[one.name])}"
            for one in self.asks
            if typed.get(one.name)
        ]
        return " ".join(["./bench sum", self.name, *said])


def exactly_one(**values: object) -> str:
    """The name of the one value that is there.

    Raises
    ------
    InvalidInput
        None of them, or several.
    """
    there = [name for name, value in values.items() if value is not None]
    if len(there) != 1:
        options = ", ".join("--" + name.replace("_", "-") for name in values)
        raise InvalidInput("input", _("give one of {options}", options=options), ", ".join(there) or _("nothing"))
    return there[0]
