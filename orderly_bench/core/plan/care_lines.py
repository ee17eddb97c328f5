"""Care that repeats, as a person writes it: a line for each kind, with how often, from when to when, and for which arms."""

from __future__ import annotations

import re
from collections.abc import Collection, Sequence
from dataclasses import dataclass, replace

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.words import tell
from orderly_bench.core.plan.part import Part, said

MOST_LINES, LONGEST, MOST_DAYS, LAST = 12, 100, 90, 730
WEEKDAYS = ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday")
_NUMBERS = {"one": 1, "two": 2, "three": 3, "four": 4, "five": 5, "six": 6, "seven": 7}
_EVERY = re.compile(r"every (?:(\d{1,2}|[a-z]+) )?(days?|weeks?)", re.IGNORECASE)
_TIMES = re.compile(r"(once|twice|three times|(\d) times) a week", re.IGNORECASE)
_FROM, _TO = (re.compile(rf"(?:{words}) day (\d{{1,3}})", re.IGNORECASE) for words in ("from", "to|until|till"))
_BOTH = re.compile(r"from day (\d{1,3}) (?:to|until|till) (?:day )?(\d{1,3})", re.IGNORECASE)
_ARMS = re.compile(r"(?:for )?arms? ([A-Z](?:\s*(?:and|,|\+|&)?\s*[A-Z])*)", re.IGNORECASE)


@dataclass(frozen=True)
class CareRule(Part):
    """One kind of care.

    Attributes
    ----------
    title : str
    every_days : int
        Days from one time to the next; 0 where weekdays are named.
    weekdays : tuple of str
        In order of the week.
    first, last : int
        Days after sticking; ``first`` 0 one interval after it, ``last`` 0 up to the endpoint.
    arms : tuple of str
        Letters; none for all.
    """

    title: str = said("task", "")
    every_days: int = said("every so many days", 0)
    weekdays: tuple[str, ...] = said("weekdays", ())
    first: int = said("from day", 0)
    last: int = said("to day", 0)
    arms: tuple[str, ...] = said("for arms", ())


def read_care(text: str) -> tuple[CareRule, ...]:
    """Care from lines such as ``Change the water: every 7 days, from day 7, arm C``.

    Raises
    ------
    InvalidInput
        Names the line and what it must be.

    >>> read_care("Feed: Mondays and Thursdays, from day 14 to 42")[0].weekdays
    ('Monday', 'Thursday')
    """
    lines = [line.strip() for line in text.splitlines() if line.strip()]
    if len(lines) > MOST_LINES:
        raise InvalidInput("care", tell("give at most {most} lines", most=MOST_LINES), len(lines))
    rules = tuple(_line(number, line) for number, line in enumerate(lines, start=1))
    twice = next(
        (r.title for i, r in enumerate(rules) if r.title.casefold() in [o.title.casefold() for o in rules[:i]]), None
    )
    if twice is not None:
        raise InvalidInput("care", tell("write each task once, or name the two differently"), twice)
    return rules


def _line(number: int, line: str) -> CareRule:
    title, colon, rest = line.partition(":")
    where, example = (
        tell("care, line {number}", number=number),
        tell("write task: how often; such as Change the water: every 7 days, arm C"),
    )
    if not colon or not title.strip() or len(title.strip()) > LONGEST:
        raise InvalidInput(where, example, line[:60])
    rule, left = CareRule(title.strip()), rest.strip().rstrip(".")
    for read in (_both, _from, _to, _arms, _often):
        rule, left = read(rule, left, where)
    left = re.sub(r"\b(?:on|and|at|for)\b|[,;\s]", "", left, flags=re.IGNORECASE)
    if left or not (rule.every_days or rule.weekdays):
        raise InvalidInput(where, example, line[:60])
    if rule.last and rule.last < max(1, rule.first):
        raise InvalidInput(where, tell("its last day lies before its first"), line[:60])
    return rule


def _cut(left: str, hit: re.Match[str]) -> str:
    return left[: hit.start()] + " " + left[hit.end() :]


def _both(rule: CareRule, left: str, where: str) -> tuple[CareRule, str]:
    hit = _BOTH.search(left)
    return (replace(rule, first=int(hit[1]), last=int(hit[2])), _cut(left, hit)) if hit else (rule, left)


def _from(rule: CareRule, left: str, where: str) -> tuple[CareRule, str]:
    hit = _FROM.search(left)
    return (replace(rule, first=int(hit[1])), _cut(left, hit)) if hit else (rule, left)


def _to(rule: CareRule, left: str, where: str) -> tuple[CareRule, str]:
    hit = _TO.search(left)
    if hit and not 0 < int(hit[1]) <= LAST:
        raise InvalidInput(where, tell("name a last day from 1 to {most}", most=LAST), hit[0])
    return (replace(rule, last=int(hit[1])), _cut(left, hit)) if hit else (rule, left)


def _arms(rule: CareRule, left: str, where: str) -> tuple[CareRule, str]:
    hit = _ARMS.search(left)
    if hit is None:
        return rule, left
    letters = tuple(sorted({letter.upper() for letter in re.findall(r"\b[A-Za-z]\b", hit[1])}))
    return replace(rule, arms=letters), _cut(left, hit)


def _often(rule: CareRule, left: str, where: str) -> tuple[CareRule, str]:
    """How often: every so many days or weeks, times a week, daily, weekly, or on weekdays."""
    if hit := _EVERY.search(left):
        many = int(hit[1]) if hit[1] and hit[1].isdigit() else _NUMBERS.get((hit[1] or "one").lower(), 0)
        days = many * (7 if hit[2].lower().startswith("week") else 1)
        if not 1 <= days <= MOST_DAYS:
            raise InvalidInput(where, tell("must come round in 1 to {most} days", most=MOST_DAYS), hit[0])
        return replace(rule, every_days=days), _cut(left, hit)
    if hit := _TIMES.search(left):
        times = int(hit[2]) if hit[2] else {"once": 1, "twice": 2, "three times": 3}[hit[1].lower()]
        of_week = {1: (0,), 2: (0, 3), 3: (0, 2, 4)}.get(times)
        if of_week is None:
            raise InvalidInput(where, tell("name the weekdays instead"), hit[0])
        return replace(rule, weekdays=tuple(WEEKDAYS[i] for i in of_week)), _cut(left, hit)
    if hit := re.search(r"\b(daily|weekly|fortnightly)\b", left, re.IGNORECASE):
        return replace(rule, every_days={"daily": 1, "weekly": 7, "fortnightly": 14}[hit[1].lower()]), _cut(left, hit)
    found = [day for day in WEEKDAYS if re.search(rf"\b{day[:3]}(?:{day[3:]}s?)?\b", left, re.IGNORECASE)]
    for day in found:
        left = re.sub(rf"\b{day[:3]}(?:{day[3:]}s?)?\b", " ", left, flags=re.IGNORECASE)
    return replace(rule, weekdays=tuple(found)), left


def write_care(rules: tuple[CareRule, ...]) -> str:
    """The lines again."""
    return "\n".join(_written(rule) for rule in rules)


def _written(rule: CareRule) -> str:
    often = f"every {rule.every_days} days" if rule.every_days else " and ".join(f"{day}s" for day in rule.weekdays)
    parts = [often, f"from day {rule.first}" if rule.first else "", f"to day {rule.last}" if rule.last else ""]
    parts.append(f"arm{'s' if len(rule.arms) > 1 else ''} {' and '.join(rule.arms)}" if rule.arms else "")
    return f"{rule.title}: " + ", ".join(part for part in parts if part)


def check_care(rules: Sequence[CareRule], task: str, letters: Collection[str]) -> None:
    """Care is for arms that there are, and no kind of it is the ``task`` that repeats anyway.

    Raises
    ------
    InvalidInput
    """
    for rule in rules:
        wrong = [letter for letter in rule.arms if letter not in letters]
        if wrong:
            rule_words = tell("name arms that there are: {names}", names=", ".join(letters))
            raise InvalidInput(tell("care, {title}", title=rule.title), rule_words, ", ".join(wrong))
        if rule.title.casefold() == task.strip().casefold():
            raise InvalidInput("care", tell("write each task once, or name the two differently"), rule.title)
