"""The pieces that are ready to be stuck, as a person writes them: a line for each donor and grade."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.plan.part import Part, plan_field

MOST_LINES = 200
MOST_OF_ONE = 2_000
LONGEST = 40
OF_WAVE = re.compile(r"wave\s+(\d{1,2})\s*:\s*(.*)", re.IGNORECASE)


@dataclass(frozen=True)
class Pieces(Part):
    """Pieces that are ready: of one donor and grade, and if it matters of one stem and place on it.

    ``wave`` is the wave they are ready for; 0: so many in every wave.
    """

    number: int
    donor: str = plan_field("donor", "")
    grade: str = plan_field("grade", "")
    how_many: int = plan_field("pieces", 0)
    stem: str = plan_field("stem", "")
    place: str = plan_field("place on the stem", "")
    wave: int = plan_field("for wave", 0)


def read_pieces(text: str) -> tuple[Pieces, ...]:
    """Pieces from lines of ``donor, grade, how many`` and, if wanted, ``stem, place on the stem``; ``wave 2:`` may stand first.

    Raises
    ------
    InvalidInput
        Names the line and what it must be.

    >>> read_pieces("T1, A, 12")
    (Pieces(number=1, donor='T1', grade='A', how_many=12, stem='', place='', wave=0),)
    """
    lines = [line.strip() for line in text.splitlines() if line.strip()]
    if len(lines) > MOST_LINES:
        raise InvalidInput("pieces", _("give at most {most_lines} lines", most_lines=MOST_LINES), len(lines))
    return tuple(_line(number, line) for number, line in enumerate(lines, start=1))


def _line(number: int, line: str) -> Pieces:
    of_wave = OF_WAVE.fullmatch(line)
    parts = [part.strip() for part in (of_wave[2] if of_wave else line).split(",")]
    if not 3 <= len(parts) <= 5 or not parts[0] or not re.fullmatch(r"\d{1,4}", parts[2]):
        raise InvalidInput(f"pieces, line {number}", _("write donor, grade, how many: T1, A, 12"), line[:60])
    if any(len(part) > LONGEST for part in parts):
        raise InvalidInput(
            f"pieces, line {number}", _("keep each part within {longest} characters", longest=LONGEST), line[:60]
        )
    how_many = int(parts[2])
    if not 1 <= how_many <= MOST_OF_ONE:
        raise InvalidInput(
            f"pieces, line {number}", _("must be 1 to {most_of_one} pieces", most_of_one=MOST_OF_ONE), how_many
        )
    stem, place = [*parts[3:], "", ""][:2]
    return Pieces(number, parts[0], parts[1], how_many, stem, place, int(of_wave[1]) if of_wave else 0)


def write_pieces(pieces: Sequence[Pieces]) -> str:
    """The lines again."""
    return "\n".join(
        (f"wave {p.wave}: " if p.wave else "")
        + ", ".join(
            [p.donor, p.grade, str(p.how_many), *([p.stem, p.place] if p.place else [p.stem] if p.stem else [])]
        )
        for p in pieces
    )
