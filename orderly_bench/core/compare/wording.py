"""Numbers in words: percent never without its n, p to two significant figures."""

from __future__ import annotations

from math import floor, log10

from orderly_bench.core.compare.verdict import Verdict

MINUS = "\u2212"


def percent(rate: float, n: int) -> str:
    """Whole percent below 200 cuttings, one decimal from there."""
    return f"{100 * rate:.0f} %" if n < 200 else f"{100 * rate:.1f} %"


def of(rooted: int, stuck: int) -> str:
    """``16 of 20 (80 %)``; ``0 of 0`` has no percent."""
    return f"{rooted} of {stuck} ({percent(rooted / stuck, stuck)})" if stuck else "0 of 0"


def p_value(p: float | None) -> str:
    """Two significant figures: ``p < 0.0001``, ``p = 0.026``, or ``no p``."""
    if p is None:
        return "no p"
    if p < 0.0001:
        return "p < 0.0001"
    digits = max(2, 1 - floor(log10(float(f"{p:.1e}"))))
    return "p = 1.0" if p >= 0.995 else f"p = {p:.{digits}f}"


def small(value: float) -> str:
    """A small error with one significant figure, never in powers of ten."""
    digits = 2 if value <= 0 else max(2, -floor(log10(value)))
    return f"{value:.{digits}f}"


def points(value: float | None, sign: bool = False) -> str:
    """A proportion as percentage points, with a true minus."""
    if value is None:
        return "no estimate"
    text = f"{100 * value:+.0f}" if sign else f"{100 * value:.0f}"
    text = "0" if text in ("-0", "+0") else text
    return text.replace("-", MINUS)


def said_first(text: str) -> str:
    """The text with its first letter as a capital."""
    return text[:1].upper() + text[1:]


VERDICT_MEANING = {
    Verdict.CLEAR_LARGE: "a difference, and all of its interval lies beyond your margin",
    Verdict.CLEAR_PROBABLY_LARGE: "a difference; the estimate reaches your margin, its interval does not wholly",
    Verdict.CLEAR_SMALL: "a difference, and all of its interval lies inside your margin",
    Verdict.CLEAR_UNCERTAIN: "a difference; whether it matters to you is open",
    Verdict.SAME: "any difference is smaller than your margin",
    Verdict.NOT_SETTLED: "the evidence does not tell which, or whether they differ",
}


def listed(names: list[str]) -> str:
    """Names as said: "medium", "medium and hormone", "medium, hormone and cover"."""
    return " and ".join([", ".join(names[:-1]), names[-1]] if len(names) > 1 else names)
