"""The pieces that are ready to be stuck, as a person writes them: a line for each donor and grade."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.plan.value import Pieces, Plan
from orderly_bench.core.randomise.allocation import allot
from orderly_bench.core.vocabulary import LayoutKind

MOST_LINES = 200
MOST_OF_ONE = 2_000
LONGEST = 40


def read_pieces(text: str) -> tuple[Pieces, ...]:
    """Pieces from lines of ``donor, grade, how many`` and, if wanted, ``stem, place on the stem``.

    Raises
    ------
    InvalidInput
        Names the line and what it must be.

    >>> read_pieces("T1, A, 12")
    (Pieces(number=1, donor='T1', grade='A', how_many=12, stem='', place=''),)
    """
    lines = [line.strip() for line in text.splitlines() if line.strip()]
    if len(lines) > MOST_LINES:
        raise InvalidInput("pieces", f"give at most {MOST_LINES} lines", len(lines))
    return tuple(_line(number, line) for number, line in enumerate(lines, start=1))


def _line(number: int, line: str) -> Pieces:
    parts = [part.strip() for part in line.split(",")]
    if not 3 <= len(parts) <= 5 or not parts[0] or not re.fullmatch(r"\d{1,4}", parts[2]):
        raise InvalidInput(f"pieces, line {number}", "write donor, grade, how many: T1, A, 12", line[:60])
    if any(len(part) > LONGEST for part in parts):
        raise InvalidInput(f"pieces, line {number}", f"keep each part within {LONGEST} characters", line[:60])
    how_many = int(parts[2])
    if not 1 <= how_many <= MOST_OF_ONE:
        raise InvalidInput(f"pieces, line {number}", f"must be 1 to {MOST_OF_ONE} pieces", how_many)
    stem, place = [*parts[3:], "", ""][:2]
    return Pieces(number, parts[0], parts[1], how_many, stem, place)


def write_pieces(pieces: Sequence[Pieces]) -> str:
    """The lines again."""
    return "\n".join(
        ", ".join([p.donor, p.grade, str(p.how_many), *([p.stem, p.place] if p.place else [p.stem] if p.stem else [])])
        for p in pieces
    )


def check_pieces(plan: Plan) -> None:
    """Enough pieces, in a layout whose places they can be allotted to.

    Raises
    ------
    InvalidInput
    """
    pieces = plan.design.pieces
    if not pieces:
        return
    if plan.design.layout is LayoutKind.PAIRS:
        raise InvalidInput("pieces", "of pairs come two from one stem; leave this blank and keep the stems together")
    if len(plan.schedule.waves) > 1:
        raise InvalidInput(
            "pieces", "are those of one day; with several waves leave this blank", len(plan.schedule.waves)
        )
    ready = sum(p.how_many for p in pieces)
    if ready < plan.cuttings:
        raise InvalidInput("pieces", f"must be at least the {plan.cuttings} cuttings of the design", ready)


def allotted(plan: Plan, arms: Sequence[str], seed: int) -> list[int]:
    """Number of the line of pieces that each place is filled from, in the order of the places.

    Parameters
    ----------
    arms : sequence of str
        Arm of each place.
    seed : int
        Of the draw; the pieces have a stream of their own.
    """
    pieces = plan.design.pieces
    line = np.repeat([p.number for p in pieces], [p.how_many for p in pieces])
    kinds = {key: i for i, key in enumerate(dict.fromkeys((p.donor.casefold(), p.grade.casefold()) for p in pieces))}
    kind_of_line = {p.number: kinds[p.donor.casefold(), p.grade.casefold()] for p in pieces}
    letters = sorted(set(arms))
    arm = np.array([letters.index(a) for a in arms])
    rng = np.random.default_rng(np.random.SeedSequence(seed).spawn(3)[2])
    chosen = allot(arm, np.array([kind_of_line[n] for n in line.tolist()]), rng)
    return [int(n) for n in line[chosen]]


@dataclass(frozen=True)
class Pick:
    """What to take from one donor: its line of pieces, and the codes of the places it goes to."""

    pieces: Pieces
    codes: tuple[str, ...]

    @property
    def left(self) -> int:
        """Pieces of it that are over."""
        return self.pieces.how_many - len(self.codes)


def pick_list(plan: Plan, places: Sequence[tuple[str, int | None]]) -> list[Pick]:
    """What to take from each donor, in the order of the lines.

    Parameters
    ----------
    places : sequence of (code, number of the line)
        In bench order; None where nothing is allotted.
    """
    return [Pick(p, tuple(code for code, line in places if line == p.number)) for p in plan.design.pieces]
