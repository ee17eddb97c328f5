"""A list of the shelf: what is asked of an entry, how it is read and checked, and how it is written again."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, fields
from typing import Generic, TypeVar

from orderly_bench.core.typed import Asked, read_those_typed

T = TypeVar("T")


@dataclass(frozen=True)
class Listed(Generic[T]):
    """One list.

    Attributes
    ----------
    name : str
        In addresses and names of files.
    asked : tuple of Asked
        The fields of an entry, each a column of the list's file.
    needed : tuple of str
        Fields that may not be left blank; by the first ones an entry is found again.
    made : callable
        From the values of the fields to the entry.
    check : callable
        Holds it to its rules, and gives it back.
    """

    name: str
    asked: tuple[Asked, ...]
    needed: tuple[str, ...]
    made: Callable[..., T]
    check: Callable[[T], T]

    @property
    def begun(self) -> dict[str, str]:
        """What a new entry's form begins with: of a choice what the entry says where nobody said anything."""
        defaults = {one.name: one.default for one in fields(self.made)}  # type: ignore[arg-type]
        choices = [one for one in self.asked if one.kind.options and one.name in defaults]
        return {one.name: one.kind.text_of(defaults[one.name]) for one in choices}

    def read(self, typed: Mapping[str, str]) -> T:
        """An entry as typed.

        Raises
        ------
        InvalidInput
            Names the field, the rule and what was typed.
        """
        return self.check(self.made(**read_those_typed(self.asked, typed, self.needed)))

    def as_typed(self, entry: T) -> dict[str, str]:
        """The fields as they would be typed."""
        return {one.name: one.kind.text_of(getattr(entry, one.name)) for one in self.asked}
