"""The plan's canonical text, which a person can read, and its digest.

The text is YAML 1.1 as PyYAML writes it: sections in the order of the plan's fields, every field written out. Text to plan
and back loses nothing. An older text may lack fields that came later: they get their defaults, and its digest, taken over
the stored text, still holds.
"""

from __future__ import annotations

import hashlib
from dataclasses import fields, is_dataclass
from datetime import date
from enum import Enum
from functools import lru_cache
from typing import Any

import yaml
from cattrs import Converter
from cattrs.errors import BaseValidationError
from cattrs.gen import make_dict_structure_fn, make_dict_unstructure_fn

from orderly_bench.core.errors import InvalidInput, UnusableData
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.plan.value import DrawnUnit, Plan

WIDTH = 100
_Loader: Any = getattr(yaml, "CSafeLoader", yaml.SafeLoader)
_Base: Any = getattr(yaml, "CSafeDumper", yaml.SafeDumper)


class _Dumper(_Base):  # type: ignore[misc]
    """Writes an enum as its value."""


_Dumper.add_multi_representer(Enum, lambda dumper, member: dumper.represent_str(member.value))


def _converter() -> Converter:
    made = Converter(forbid_extra_keys=True)
    made.register_unstructure_hook(date, lambda day: day)
    made.register_structure_hook(date, lambda day, _: day)
    # The units are many: what is usual is left out of them.
    made.register_unstructure_hook(DrawnUnit, make_dict_unstructure_fn(DrawnUnit, made, _cattrs_omit_if_default=True))
    made.register_structure_hook(DrawnUnit, make_dict_structure_fn(DrawnUnit, made, _cattrs_forbid_extra_keys=True))
    return made


_CONVERTER = _converter()


def to_text(plan: Plan) -> str:
    """The canonical text."""
    plain = _CONVERTER.unstructure(plan)
    text: str = yaml.dump(
        plain, Dumper=_Dumper, sort_keys=False, allow_unicode=True, default_flow_style=None, width=WIDTH
    )
    return text


@lru_cache(maxsize=256)
def from_text(text: str) -> Plan:
    """The plan of a text; kept, for a plan is read on every page.

    Raises
    ------
    UnusableData
        Not YAML, or not a plan.
    """
    try:
        return _CONVERTER.structure(yaml.load(text, Loader=_Loader), Plan)  # noqa: S506 - a safe loader
    except (yaml.YAMLError, BaseValidationError, AttributeError, TypeError, ValueError) as error:
        broken = _first_broken(error)
        why = str(broken).rstrip(".") if broken else type(error).__name__
        raise UnusableData(
            _("this text is no plan ({why})", why=why), _("Take the text as it was written out")
        ) from error


def _first_broken(error: BaseException) -> InvalidInput | None:
    """The limit that a part of the plan does not keep, if that is what is wrong."""
    if isinstance(error, InvalidInput):
        return error
    inner = error.exceptions if isinstance(error, BaseExceptionGroup) else ()
    return next((found for one in inner if (found := _first_broken(one))), None)


def digest(text: str) -> str:
    """SHA-256 of a text, as 64 hexadecimal characters."""
    return hashlib.sha256(text.encode()).hexdigest()


def words_of_field(owner: Any, name: str) -> str:
    """What a person calls a field of a part of the plan."""
    if not is_dataclass(owner):
        raise TypeError(f"{owner!r} is no part of a plan")
    found = next(f for f in fields(owner) if f.name == name)
    return str(found.metadata.get("words", name.replace("_", " ")))
