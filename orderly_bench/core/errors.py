"""Errors of the core.

OrderlyError
├── InvalidInput      an argument breaks a rule: names argument, rule and value
├── UnusableData      a table cannot be analysed: names file, row, column and remedy
├── NotFinite         a result that is no finite number: a fault of the program, named instead of shown
└── Refused           an act that the state of the trial forbids: says what to do instead
"""

from __future__ import annotations

from math import isfinite

from orderly_bench.core.messages.numbers import plain
from orderly_bench.core.messages.translation import Typed
from orderly_bench.core.messages.translation import gettext as _


def finite(what: str, *values: float | None) -> None:
    """Hold a result to numbers that are some: nothing that is no number, or infinite, gets further than its own type.

    Raises
    ------
    NotFinite
    """
    for value in values:
        if value is not None and not isfinite(value):
            raise NotFinite(what, value)


class OrderlyError(Exception):
    """Anything the core refuses; ``str(error)`` is a sentence for the person at the screen."""


class InvalidInput(OrderlyError):
    """An argument breaks a rule.

    Parameters
    ----------
    argument, rule : str
        The field's name as a person knows it, and what it must be, as an instruction.
    value : object
        What was given.
    """

    def __init__(self, argument: str, rule: str, value: object = None) -> None:
        self.argument, self.rule, self.value = argument, rule, value
        text = plain(value) if isinstance(value, float) else str(value)[:60]
        given = "" if value is None else _(" (given: {value})", value=Typed(text))
        super().__init__(f"{_(argument)}: {_(rule)}{given}.")


class UnusableData(OrderlyError):
    """A table that cannot be analysed as it stands; ``row`` counts the header as row 1."""

    def __init__(
        self,
        problem: str,
        remedy: str,
        *,
        file: str | None = None,
        row: int | None = None,
        column: str | None = None,
    ) -> None:
        self.problem, self.remedy = problem, remedy
        self.file, self.row, self.column = file, row, column
        super().__init__(self.sentence())

    def sentence(self) -> str:
        """The message: where, what, remedy."""
        where = [self.file] if self.file else []
        if self.row is not None:
            where.append(_("row {row}", row=self.row))
        if self.column is not None:
            where.append(_("column {column}", column=Typed(self.column)))
        return f"{', '.join(where)}: {self.problem}. {self.remedy}." if where else f"{self.problem}. {self.remedy}."

    def within(self, file: str) -> UnusableData:
        """The same error, with the file named."""
        return UnusableData(self.problem, self.remedy, file=file, row=self.row, column=self.column)


class Refused(OrderlyError):
    """An act that the state of things forbids; the message says what to do instead."""


class NotFinite(OrderlyError):
    """A computation gave no finite number where it must; it is named instead of printed."""

    def __init__(self, what: str, value: float) -> None:
        super().__init__(
            _(
                "the {what} came out as {value}, which is no number. Keep the file and tell who looks after the program.",
                what=what,
                value=str(value),
            )
        )
