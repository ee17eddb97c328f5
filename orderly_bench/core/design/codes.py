"""Unit codes that can't be misread: 23 symbols and a check symbol.

Letters and digits without 0 O 1 I L 2 Z 5 S 8 B U V leave 23, a prime. A sum with a different
non-zero weight for each place, modulo a prime, changes under any single wrong symbol and under any
swap of two symbols (Gallian 1996, *Error detection methods*, ACM Computing Surveys 28:504).
"""

from __future__ import annotations

import numpy as np

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import gettext as _

ALPHABET = "34679ACDEFGHJKMNPQRTWXY"
DATA_SYMBOLS = 4
CODE_LENGTH = DATA_SYMBOLS + 1


def check_symbol(data: str) -> str:
    """The symbol that makes the weighted sum of the whole code 0 modulo 23.

    Data symbols weigh 1, 2, 3 ...; the check symbol weighs -1.
    """
    total = sum(weight * ALPHABET.index(symbol) for weight, symbol in enumerate(data, start=1))
    return ALPHABET[total % len(ALPHABET)]


def is_valid(code: str) -> bool:
    """Whether a code has the right length, symbols and check symbol."""
    return (
        len(code) == CODE_LENGTH and all(symbol in ALPHABET for symbol in code) and check_symbol(code[:-1]) == code[-1]
    )


def normalise(typed: str) -> str:
    """A typed code in its stored form: upper case, without blanks and hyphens."""
    return "".join(typed.upper().replace("-", " ").split())


def draw_codes(how_many: int, rng: np.random.Generator, taken: frozenset[str] = frozenset()) -> list[str]:
    """Draw distinct codes that say nothing about arm, order or place.

    Parameters
    ----------
    how_many : int
        Codes wanted, at least 0.
    rng : numpy.random.Generator
        A stream of its own, independent of the one that draws the arms.
    taken : frozenset of str
        Codes in use in the lab.

    Raises
    ------
    InvalidInput
        When fewer free codes are left than wanted.
    """
    size = len(ALPHABET) ** DATA_SYMBOLS
    if how_many > (size - len(taken)) // 2:
        raise InvalidInput(
            "codes", _("the lab has {size} free codes; ask for at most half", size=size - len(taken)), how_many
        )
    codes: list[str] = []
    used = set(taken)
    while len(codes) < how_many:
        for number in rng.integers(0, size, size=2 * (how_many - len(codes))).tolist():
            data = "".join(ALPHABET[number // len(ALPHABET) ** place % len(ALPHABET)] for place in range(DATA_SYMBOLS))
            code = data + check_symbol(data)
            if code not in used and len(codes) < how_many:
                used.add(code)
                codes.append(code)
    return codes


def spaced(code: str) -> str:
    """A code as it is printed: ``K73M4`` becomes ``K73 M4``."""
    return f"{code[:3]} {code[3:]}"
