"""Hardening: nights in and out with the lowest reading, their frost sum, and what was nipped by arm."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import dated
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.messages.translation import gettext_noop as N_

COLDEST, WARMEST = -60.0, 45.0
OUT, IN = N_("out"), N_("in")


@dataclass(frozen=True)
class Night:
    """The night after a day: where they stood, the lowest reading in °C (None: nobody read it), and how many were nipped by arm."""

    day: date
    out: bool
    low_c: float | None = None
    nipped: Mapping[str, int] = field(default_factory=dict)


def check_night(night: Night, standing: Mapping[str, int], today: date) -> Night:
    """A night as it may be kept.

    Parameters
    ----------
    standing : mapping
        Plants of each arm that stand.

    Raises
    ------
    InvalidInput
        A day to come, a reading that no night has, more nipped than stand.
    """
    if night.day > today:
        raise InvalidInput(_("night of"), _("lies in the future; write what was read"), dated(night.day))
    if night.low_c is not None and not COLDEST <= night.low_c <= WARMEST:
        raise InvalidInput(
            _("lowest, °C"), _("must be between {low:g} and {high:g}", low=COLDEST, high=WARMEST), night.low_c
        )
    for letter, n in night.nipped.items():
        if not 0 <= n <= standing.get(letter, 0):
            raise InvalidInput(
                _("nipped of {letter}", letter=letter),
                _("must be 0 to {n}, as many as stand", n=str(standing.get(letter, 0))),
                n,
            )
    return night


@dataclass(frozen=True)
class Hardened:
    """What the nights come to; ``frost_sum`` is degrees below 0 °C summed over nights out, ``nipped`` the most of any night by arm."""

    nights_out: int
    nights_in: int
    unread: int
    lowest: float | None
    frost_nights: int
    frost_sum: float
    nipped: Mapping[str, tuple[int, int]]

    @property
    def words(self) -> list[str]:
        """In a line or two."""
        said = [_("{n:night|nights} out, {inside} in", n=self.nights_out, inside=str(self.nights_in))]
        if self.lowest is not None:
            said[0] += _(
                "; lowest out {low:g} °C, {n:night|nights} of frost, frost sum {total:.3g} °C",
                low=self.lowest,
                n=self.frost_nights,
                total=self.frost_sum,
            )
        said[0] += _("; {n} of them not read", n=str(self.unread)) if self.unread else ""
        told = ", ".join(
            _("{letter} {k} of {n}", letter=letter, k=str(k), n=str(n)) for letter, (k, n) in self.nipped.items()
        )
        return [*said, _("nipped: {told}", told=told)] if any(k for k, _ in self.nipped.values()) else said


def hardened(nights: Sequence[Night], standing: Mapping[str, int]) -> Hardened:
    """The nights together; of two that tell of one day the later stands.

    >>> hardened([Night(date(2026, 4, 1), True, -1.5), Night(date(2026, 4, 2), False)], {"A": 4}).words
    ['1 night out, 1 in; lowest out -1.5 °C, 1 night of frost, frost sum 1.5 °C']
    """
    kept = {one.day: one for one in nights}.values()
    out = [one for one in kept if one.out]
    read = [one.low_c for one in out if one.low_c is not None]
    most = {letter: max((one.nipped.get(letter, 0) for one in kept), default=0) for letter in standing}
    return Hardened(
        len(out), len(kept) - len(out), len(out) - len(read), min(read, default=None), sum(low < 0 for low in read), sum(max(0.0, -low) for low in read),
        {letter: (most[letter], n) for letter, n in standing.items() if n},
    )  # fmt: skip
