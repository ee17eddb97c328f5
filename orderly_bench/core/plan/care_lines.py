"""Care that repeats, as a person writes it: a line for each kind, with how often, from when to when, and for which arms."""

from __future__ import annotations

import re
from collections.abc import Collection, Sequence
from dataclasses import dataclass, replace

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import capital
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.plan.part import Part, plan_field
from orderly_bench.core.typed import NUMBER_WORDS

MOST_LINES, LONGEST, MOST_DAYS, LAST = 12, 100, 90, 730
WEEKDAYS = ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday")
_NUMBERS = NUMBER_WORDS | {"other": 2, "second": 2, "third": 3}
_EVERY = re.compile(r"every (?:(\d{1,2}|other|second|third|[a-z]+) )?(days?|weeks?)", re.IGNORECASE)
_TIMES = re.compile(r"(once|twice|three times|(\d) ?(?:times|x)) ?(?:a|per|/) ?week", re.IGNORECASE)
_ONCE = re.compile(r"(?:\bonce,? )?\bon day (\d{1,3})\b", re.IGNORECASE)
#: More often than a day, or in steps that no day is: said what to write instead.
_OFTENER = re.compile(
    r"\b(?:twice|three times|\d ?(?:times|x)) ?(?:a|per|/) ?day\b|\bhourly\b|\bevery (?:\d+ )?hours?\b", re.IGNORECASE
)
_SPREAD = re.compile(r"every (\d{1,2}) ?(?:-|–|to|or) ?(\d{1,2}) days", re.IGNORECASE)
_MONTHLY = re.compile(r"\bmonthly\b|\bevery (?:\w+ )?months?\b|\b(?:a|per) month\b", re.IGNORECASE)
#: Where a line without a colon goes over from the task to how often.
_WHEN = re.compile(
    r"\s(?=(?:every|daily|weekly|fortnightly|once|twice|three times|\d ?(?:times|x) ?(?:a|per|/)|(?:on )?(?:mon|tues|wednes|thurs|fri|satur|sun)days?|on day \d+|hourly|monthly)\b)",
    re.IGNORECASE,
)
_ARMS_BEHIND = re.compile(r",?\s+((?:for |in |of )?arms? [A-Z](?:\s*(?:and|,|\+|&)\s*[A-Z])*)\s*$")
_FROM, _TO = (re.compile(rf"(?:{words}) day (\d{{1,3}})", re.IGNORECASE) for words in ("from", "to|until|till"))
_BOTH = re.compile(r"from day (\d{1,3}) (?:to|until|till) (?:day )?(\d{1,3})", re.IGNORECASE)
_UNTIL = re.compile(
    r"(?:until|till) (?!day\b)([a-z][a-z ]{0,28}?[a-z])(?=\s*(?:[,;.]|$|\bfor arms?\b|\barms?\b|\bfrom day\b|±|\+-))",
    re.IGNORECASE,
)
_EITHER = re.compile(r"(?:±|\+-|\+/-|give or take)\s*(\d{1,2})(?: days?)?", re.IGNORECASE)
_STEPS = re.compile(r"\bsteps?:? (.+)$", re.IGNORECASE | re.DOTALL)
BY_TURNS = " by turns"
MOST_STEPS, LONGEST_STEP = 12, 40
_ZONE = re.compile(r"\b(?:in )?zone ([^,;.\n]{1,40})", re.IGNORECASE)
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
    until : str
        What is seen when no more of it is to be done, such as ``buds``; blank where only days end it.
    either_side : int
        Days either side within which it is on its day.
    steps : tuple of str
        What is done on the first day, the second, and so on; none after the last. None where it is always the same.
    zone : str
        Where it is done, where zones are tended by rules of their own; blank for everywhere.
    """

    title: str = plan_field("task", "")
    every_days: int = plan_field("every so many days", 0)
    weekdays: tuple[str, ...] = plan_field("weekdays", ())
    first: int = plan_field("from day", 0)
    last: int = plan_field("to day", 0)
    arms: tuple[str, ...] = plan_field("for arms", ())
    until: str = plan_field("until", "")
    either_side: int = plan_field("days either side", 0)
    steps: tuple[str, ...] = plan_field("steps", ())
    zone: str = plan_field("zone", "")

    @property
    def name(self) -> str:
        """By which it is told from the others: its task, and its zone where it has one."""
        return _("{task} ({zone})", task=self.title, zone=self.zone) if self.zone else self.title

    @property
    def tasks(self) -> tuple[str, ...]:
        """What is done by turns; the title alone where it is always the same."""
        if not self.title.lower().endswith(BY_TURNS):
            return (self.title,)
        parts = re.split(r"\s*(?:/|,|\+|\band\b)\s*", self.title[: -len(BY_TURNS)])
        return tuple(capital(part.strip()) for part in parts if part.strip())

    def times(self, days: Sequence[int]) -> list[tuple[int, str, str]]:
        """Of its days, each with its task and its step, blank where it has none."""
        tasks = self.tasks
        kept = days[: len(self.steps)] if self.steps else days
        named = [replace(self, title=task).name for task in tasks]
        return [(day, named[n % len(named)], self.steps[n] if self.steps else "") for n, day in enumerate(kept)]


def read_care(text: str) -> tuple[CareRule, ...]:
    """Care from lines such as ``Change the water: every 7 days, from day 7, arm C``.

    Raises
    ------
    InvalidInput
        Names the line and what it must be.

    >>> read_care("Feed: Mondays and Thursdays, from day 14 to 42")[0].weekdays
    ('Monday', 'Thursday')
    >>> read_care("Feed / water by turns: every 3 days, until buds, ± 1 day")[0].tasks
    ('Feed', 'Water')
    """
    lines = [line.strip() for line in text.splitlines() if line.strip()]
    if len(lines) > MOST_LINES:
        raise InvalidInput("care", _("give at most {most} lines", most=MOST_LINES), len(lines))
    rules = tuple(_line(number, line) for number, line in enumerate(lines, start=1))
    twice = next(
        (r.name for i, r in enumerate(rules) if r.name.casefold() in [o.name.casefold() for o in rules[:i]]), None
    )
    if twice is not None:
        raise InvalidInput("care", _("write each task once, or name the two differently"), twice)
    return rules


def _line(number: int, line: str) -> CareRule:
    where, example = (
        _("care, line {number}", number=number),
        _("write task: how often; such as Change the water: every 7 days, arm C"),
    )
    title, rest = _parted(line)
    if not rest or not title or len(title) > LONGEST:
        raise InvalidInput(where, example, line[:60])
    _refuse_what_no_day_is(where, rest)
    rule, left = CareRule(title), rest.rstrip(".")
    for read in (_steps, _zone, _both, _from, _to, _until, _either_side, _arms, _often):
        rule, left = read(rule, left, where)
    left = re.sub(r"\b(?:on|and|at|for)\b|[,;\s]", "", left, flags=re.IGNORECASE)
    if left or not (rule.every_days or rule.weekdays):
        raise InvalidInput(where, example, line[:60])
    if rule.title.lower().endswith(BY_TURNS) and len(rule.tasks) < 2:
        raise InvalidInput(where, _("name at least two tasks, such as Feed / water by turns: every 3 days"), line[:60])
    if rule.last and rule.last < max(1, rule.first):
        raise InvalidInput(where, _("its last day lies before its first"), line[:60])
    return rule


def _parted(line: str) -> tuple[str, str]:
    """The task, and how often; arms named with the task belong to how often. Without a colon, from the first word that says when."""
    title, colon, rest = line.partition(":")
    when = None if colon else _WHEN.search(line)
    if when is not None:
        title, rest = line[: when.start()], line[when.end() :]
    behind = _ARMS_BEHIND.search(title)
    if behind is not None and rest.strip():
        title, rest = title[: behind.start()], f"{rest}, {behind[1]}"
    return title.strip(), rest.strip()


def _refuse_what_no_day_is(where: str, rest: str) -> None:
    if hit := _OFTENER.search(rest):
        rule = _("a day is the shortest step; say the rest in the task, such as Mist twice: daily")
        raise InvalidInput(where, rule, hit[0])
    if hit := _MONTHLY.search(rest):
        raise InvalidInput(where, _("months are of no one length; say days, such as every 30 days"), hit[0])
    if hit := _SPREAD.search(rest):
        few, many = sorted((int(hit[1]), int(hit[2])))
        raise InvalidInput(
            where,
            _("say one step with days either side, such as every {days} days ± {either}", days=str((few + many + 1) // 2), either=str(max(1, (many - few + 1) // 2))),
            hit[0],
        )  # fmt: skip


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
        raise InvalidInput(where, _("name a last day from 1 to {most}", most=LAST), hit[0])
    return (replace(rule, last=int(hit[1])), _cut(left, hit)) if hit else (rule, left)


def _steps(rule: CareRule, left: str, where: str) -> tuple[CareRule, str]:
    hit = _STEPS.search(left)
    if hit is None:
        return rule, left
    steps = tuple(" ".join(step.split()) for step in hit[1].split(";") if step.strip())
    if not 2 <= len(steps) <= MOST_STEPS or any(len(step) > LONGEST_STEP for step in steps):
        raise InvalidInput(
            where,
            _("give 2 to {most} steps with ; between, each within {n} signs", most=MOST_STEPS, n=str(LONGEST_STEP)),
            hit[1][:60],
        )
    return replace(rule, steps=steps), _cut(left, hit)


def _zone(rule: CareRule, left: str, where: str) -> tuple[CareRule, str]:
    hit = _ZONE.search(left)
    return (replace(rule, zone=" ".join(hit[1].split())), _cut(left, hit)) if hit else (rule, left)


def _until(rule: CareRule, left: str, where: str) -> tuple[CareRule, str]:
    hit = _UNTIL.search(left)
    return (replace(rule, until=" ".join(hit[1].split())), _cut(left, hit)) if hit else (rule, left)


def _either_side(rule: CareRule, left: str, where: str) -> tuple[CareRule, str]:
    hit = _EITHER.search(left)
    return (replace(rule, either_side=int(hit[1])), _cut(left, hit)) if hit else (rule, left)


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
            raise InvalidInput(where, _("must come round in 1 to {most} days", most=MOST_DAYS), hit[0])
        return replace(rule, every_days=days), _cut(left, hit)
    if hit := _TIMES.search(left):
        times = int(hit[2]) if hit[2] else {"once": 1, "twice": 2, "three times": 3}[hit[1].lower()]
        of_week = {1: (0,), 2: (0, 3), 3: (0, 2, 4)}.get(times)
        if of_week is None:
            raise InvalidInput(where, _("name the weekdays instead"), hit[0])
        return replace(rule, weekdays=tuple(WEEKDAYS[i] for i in of_week)), _cut(left, hit)
    if hit := re.search(r"\b(daily|weekly|fortnightly)\b", left, re.IGNORECASE):
        return replace(rule, every_days={"daily": 1, "weekly": 7, "fortnightly": 14}[hit[1].lower()]), _cut(left, hit)
    if re.search(r"\bevery (?:morning|evening|night)\b", left, re.IGNORECASE):
        return replace(rule, every_days=1), re.sub(
            r"\bevery (?:morning|evening|night)\b", " ", left, flags=re.IGNORECASE
        )
    if hit := _ONCE.search(left):
        once = int(hit[1])
        if not 1 <= once <= LAST:
            raise InvalidInput(where, _("name a day from 1 to {most}", most=LAST), hit[0])
        return replace(rule, every_days=1, first=once, last=once), _cut(left, hit)
    left = re.sub(r"\bevery (?=(?:mon|tue|wed|thu|fri|sat|sun))", " ", left, flags=re.IGNORECASE)
    found = [day for day in WEEKDAYS if re.search(rf"\b{day[:3]}(?:{day[3:]}s?)?\b", left, re.IGNORECASE)]
    for day in found:
        left = re.sub(rf"\b{day[:3]}(?:{day[3:]}s?)?\b", " ", left, flags=re.IGNORECASE)
    return replace(rule, weekdays=tuple(found)), left


def write_care(rules: tuple[CareRule, ...]) -> str:
    """The lines again."""
    return "\n".join(_written(rule) for rule in rules)


def _written(rule: CareRule) -> str:
    often = f"every {rule.every_days} days" if rule.every_days else " and ".join(f"{day}s" for day in rule.weekdays)
    if rule.every_days == 1 and 0 < rule.first == rule.last:
        return _with_rest(rule, [f"on day {rule.first}"])
    parts = [often, f"from day {rule.first}" if rule.first else "", f"to day {rule.last}" if rule.last else ""]
    return _with_rest(rule, parts)


def _with_rest(rule: CareRule, parts: list[str]) -> str:
    parts.append(f"until {rule.until}" if rule.until else "")
    parts.append(f"zone {rule.zone}" if rule.zone else "")
    parts.append(f"± {rule.either_side}" if rule.either_side else "")
    parts.append(f"arm{'s' if len(rule.arms) > 1 else ''} {' and '.join(rule.arms)}" if rule.arms else "")
    parts.append(f"steps {'; '.join(rule.steps)}" if rule.steps else "")
    return f"{rule.title}: " + ", ".join(part for part in parts if part)


def care_that_reads(text: str) -> str:
    """Of free text, the lines that are care as it is written here, written so; the others are for a person."""
    found: list[CareRule] = []
    for line in text.splitlines():
        try:
            found += read_care(line) if ":" in line else ()
        except InvalidInput:
            continue
    named = {rule.name.casefold(): rule for rule in reversed(found)}
    return write_care(tuple(rule for rule in found if named[rule.name.casefold()] is rule)[:MOST_LINES])


def check_care(rules: Sequence[CareRule], task: str, letters: Collection[str]) -> None:
    """Care is for arms that there are, and no kind of it is the ``task`` that repeats anyway.

    Raises
    ------
    InvalidInput
    """
    for rule in rules:
        wrong = [letter for letter in rule.arms if letter not in letters]
        if wrong:
            rule_words = _("name arms that there are: {names}", names=", ".join(letters))
            raise InvalidInput(_("care, {title}", title=rule.title), rule_words, ", ".join(wrong))
        if rule.name.casefold() == task.strip().casefold():
            raise InvalidInput("care", _("write each task once, or name the two differently"), rule.name)
