"""Numbers in words: percent never without its n, p to two significant figures."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from itertools import product
from math import floor, log10

from orderly_bench.core.messages.translation import decimal, in_full
from orderly_bench.core.messages.translation import gettext as _

USUAL_ALPHA = 0.05
MOST_DIGITS = 5
#: From so many cuttings on a percent has a decimal.
MANY = 200
MINUS = "\u2212"
#: What arithmetic leaves of nothing.
ROUNDED_TO_NOTHING = 1e-10


def percent(rate: float, n: int) -> str:
    """Whole percent below 200 cuttings, one decimal from there."""
    return decimal(f"{100 * rate:.0f} %" if n < MANY else f"{100 * rate:.1f} %")


def of(rooted: int, stuck: int) -> str:
    """``16 of 20 (80 %)``; ``0 of 0`` has no percent."""
    return (
        _("{rooted} of {stuck} ({percent})", rooted=rooted, stuck=stuck, percent=percent(rooted / stuck, stuck))
        if stuck
        else "0 of 0"
    )


def known_of(k: int, n: int, unknown: int) -> str:
    """``16 of 20 (80 %)``, with what is unknown: ``16 of 20 (80 %; 2 unknown)``; ``none of 12 known``."""
    if unknown and not n:
        return _("none of {unknown} known", unknown=unknown)
    text = of(k, n)
    return (
        _("{removesuffix}; {unknown} unknown)", removesuffix=text.removesuffix(")"), unknown=unknown)
        if unknown
        else text
    )


def p_value(p: float | None) -> str:
    """Two significant figures: ``p < 0.0001``, ``p = 0.026``, or ``no p``."""
    if p is None:
        return _("no p")
    if p < 0.0001:
        return decimal("p < 0.0001")
    digits = max(2, 1 - floor(log10(float(f"{p:.1e}"))))
    if p != USUAL_ALPHA == float(f"{p:.{digits}f}"):
        # With the figures that put it on its side.
        digits = next((d for d in range(digits, MOST_DIGITS) if float(f"{p:.{d}f}") != USUAL_ALPHA), digits)
    return decimal("p = 1.0" if p >= 0.995 else f"p = {p:.{digits}f}")


def small(value: float) -> str:
    """A small error with one significant figure, never in powers of ten."""
    digits = 2 if value <= 0 else max(2, -floor(log10(value)))
    return decimal(f"{value:.{digits}f}")


def points(value: float | None, sign: bool = False) -> str:
    """A proportion as percentage points, with a true minus."""
    if value is None:
        return _("no estimate")
    text = f"{100 * value:+.0f}" if sign else f"{100 * value:.0f}"
    text = "0" if text in ("-0", "+0") else text
    return text.replace("-", MINUS)


def in_points(value: float | None, sign: bool = False) -> str:
    """``+1 point``, ``15 points``."""
    number = points(value, sign)
    one = number.lstrip("+" + MINUS) == "1"
    return _("{number} point", number=number) if one else _("{number} points", number=number)


def signs(letters: str) -> str:
    """Group letters as numbers, which can't be taken for arms: ``ab`` is ``1 2``."""
    return " ".join(str(ord(letter) - ord("a") + 1) for letter in letters)


def size(value: float) -> str:
    """A mean, ratio, shift or probability: three significant figures, as many decimals as they need; no powers of ten, a true minus.

    >>> [size(value) for value in (2.345, -0.5, 2.2e-16, 0.00004, 1234.5)]
    ['2.35', '−0.5', '0', '0.00004', '1234']
    """
    if abs(value) < ROUNDED_TO_NOTHING:
        return "0"
    text = f"{value:.3g}" if abs(value) < 1000 else f"{value:.0f}"
    text = f"{value:.11f}".rstrip("0") if "e" in text else text
    return decimal(text.replace("-", MINUS))


def plain(value: float) -> str:
    """A limit or what was typed, as people write it: no powers of ten, no decimals that say nothing.

    >>> [plain(value) for value in (1e-06, 1e6, 250.0, -0.5, 0.1)]
    ['0.000001', '1000000', '250', '−0.5', '0.1']
    """
    return decimal(in_full(f"{value:.12g}").replace("-", MINUS))


def span(
    low: float, high: float, yes_no: bool, sign: bool = False, n: int = 0, apart_from: Sequence[float] = ()
) -> str:
    """Both ends, with as many decimals as it takes to see that they differ, from one another and from what they are held against;
    percentage points for a yes or no, with a decimal from 200 cuttings on, as the rate itself.

    >>> span(-0.381, -0.002, True, True), span(-0.381, -0.002, True, True, apart_from=[0])
    ('−38 to 0', '−38.1 to −0.2')
    """
    usual = [partial(points, sign=sign) if yes_no else size] if not yes_no or n < MANY else []
    ways = [*usual, *(partial(_with_decimals, 100 if yes_no else 1, sign, digits) for digits in (1, 2, 3, 4))]

    def told(way: Callable[[float], str]) -> bool:
        apart = [(low, high), *product((low, high), apart_from)]
        return way(low) != way(high) and all(way(a) != way(b) for a, b in apart if abs(a - b) > ROUNDED_TO_NOTHING)

    way = next((way for way in ways if told(way)), ways[0])
    return _("{ends} to {ends2}", ends=way(low), ends2=way(high))


def _with_decimals(scale: int, sign: bool, digits: int, value: float) -> str:
    text = decimal(f"{scale * value:{'+' if sign else ''}.{digits}f}").replace("-", MINUS)
    return text.lstrip("+" + MINUS) if not any(digit in text for digit in "123456789") else text


def part_of(part: float, whole: float | None) -> float:
    """Percent that a part is of a whole, at most 100; all where there is no whole to take from.

    >>> part_of(3, 12), part_of(30, 12), part_of(1, 0), part_of(0, 0)
    (25.0, 100.0, 100.0, 0.0)
    """
    return min(100.0, 100.0 * part / whole) if whole else (100.0 if part else 0.0)
