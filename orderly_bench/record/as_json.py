"""Dataclasses as plain JSON and back, so that nothing kept can bring code with it.

Objects stand in one list and refer to each other by number, each once however often it is used; what a property has worked out
for itself is left behind and worked out again.
"""

from __future__ import annotations

import json
from collections.abc import Callable, Mapping
from dataclasses import MISSING, Field, fields, is_dataclass
from datetime import date, datetime
from enum import Enum
from importlib import import_module
from math import isfinite
from typing import Any

import numpy as np
from frozendict import frozendict

PACKAGE = "orderly_bench"
#: Tags of what JSON has no form for.
TUPLE, SET, MAP, FROZEN, ARRAY, FLOAT, ENUM, DAY, MOMENT, OBJECT = "(", "{", ":", "[:", "#", "f", "e", "day", "at", "o"

PLAIN: dict[str, Callable[[str], object]] = {FLOAT: float, MOMENT: datetime.fromisoformat, DAY: date.fromisoformat}


def written(value: object) -> str:
    """JSON of a value of dataclasses, numbers, texts, dates, arrays, enumerations and collections of them.

    Raises
    ------
    TypeError
        Something else: it has to be made one of these before it is kept.
    """
    writer = _Writer()
    root = writer.put(value)
    return json.dumps({"root": root, "objects": writer.objects}, allow_nan=False, separators=(",", ":"))


def read(text: str) -> Any:
    """The value that was written; its classes are looked for in this package only.

    Raises
    ------
    ValueError
        No such text, or one of other classes or fields.
    """
    try:
        found = json.loads(text)
        return _Reader(found["objects"]).get(found["root"])
    except (KeyError, IndexError, TypeError, AttributeError, ImportError, RecursionError) as error:
        raise ValueError(f"not what was kept: {error}") from error


def _kept(one: Field[Any]) -> bool:
    """Whether a field is data, and no memory of what was worked out."""
    return one.init or one.compare


class _Writer:
    def __init__(self) -> None:
        self.objects: list[list[Any]] = []
        self.numbers: dict[int, int] = {}
        self.alive: list[object] = []

    def put(self, value: Any) -> Any:
        """A value in the forms that JSON has."""
        if value is None or isinstance(value, bool):
            return value
        if isinstance(value, Enum):
            return {ENUM: _name(type(value)), "v": value.value}
        if isinstance(value, np.generic):
            return self.put(value.item())
        if isinstance(value, int | str):
            return value
        if isinstance(value, float):
            return value if isfinite(value) else {FLOAT: str(value)}
        if isinstance(value, datetime):
            return {MOMENT: value.isoformat()}
        if isinstance(value, date):
            return {DAY: value.isoformat()}
        if is_dataclass(value) and not isinstance(value, type):
            return {OBJECT: self._object(value)}
        return self._collection(value)

    def _collection(self, value: Any) -> Any:
        if isinstance(value, np.ndarray):
            return {
                ARRAY: [self.put(one) for one in value.ravel().tolist()],
                "of": str(value.dtype),
                "shape": value.shape,
            }
        if isinstance(value, Mapping):
            tag = FROZEN if isinstance(value, frozendict) else MAP
            return {tag: [[self.put(key), self.put(one)] for key, one in value.items()]}
        if isinstance(value, list):
            return [self.put(one) for one in value]
        if isinstance(value, tuple):
            return {TUPLE: [self.put(one) for one in value]}
        if isinstance(value, set | frozenset):
            return {SET: [self.put(one) for one in sorted(value, key=repr)]}
        raise TypeError(f"{type(value).__name__} has no plain form")

    def _object(self, value: Any) -> int:
        if id(value) in self.numbers:
            return self.numbers[id(value)]
        number = self.numbers[id(value)] = len(self.objects)
        self.alive.append(value)  # so that no other takes its id
        self.objects.append([])
        held = {one.name: self.put(getattr(value, one.name)) for one in fields(value) if _kept(one)}
        self.objects[number] = [_name(type(value)), held]
        return number


def _name(kind: type) -> str:
    return f"{kind.__module__}:{kind.__qualname__}"


class _Reader:
    def __init__(self, objects: list[list[Any]]) -> None:
        self.objects = objects
        self.made: dict[int, Any] = {}

    def get(self, value: Any) -> Any:
        """The value behind such a form."""
        if isinstance(value, list):
            return [self.get(one) for one in value]
        if not isinstance(value, dict):
            return value
        tag = next(iter(value))
        held = value[tag]
        if tag == OBJECT:
            return self._object(held)
        if tag == ENUM:
            return _class(held)(value["v"])
        if tag == ARRAY:
            return np.array([self.get(one) for one in held], dtype=value["of"]).reshape(value["shape"])
        if tag in (MAP, FROZEN):
            made = {self.get(key): self.get(one) for key, one in held}
            return frozendict(made) if tag == FROZEN else made
        if tag == TUPLE:
            return tuple(self.get(one) for one in held)
        if tag == SET:
            return frozenset(self.get(one) for one in held)
        return PLAIN[tag](held)

    def _object(self, number: int) -> Any:
        if number in self.made:
            return self.made[number]
        name, held = self.objects[number]
        kind = _class(name)
        made = self.made[number] = object.__new__(kind)
        for one in fields(kind):
            if _kept(one):
                object.__setattr__(made, one.name, self.get(held[one.name]))
            elif one.default_factory is not MISSING:
                object.__setattr__(made, one.name, one.default_factory())
        return made


def _class(name: str) -> Any:
    module, _, path = name.partition(":")
    if module.partition(".")[0] != PACKAGE:
        raise ImportError(module)
    found: Any = import_module(module)
    for part in path.split("."):
        found = getattr(found, part)
    if not isinstance(found, type) or not (is_dataclass(found) or issubclass(found, Enum)):
        raise TypeError(name)
    return found
