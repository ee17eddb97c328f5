"""Care that some arms get and others do not: it differs between the arms as much as what is asked."""

from __future__ import annotations

import re

from orderly_bench.core.cautions import Caution
from orderly_bench.core.messages.say import caution
from orderly_bench.core.messages.translation import all_of
from orderly_bench.core.plan.plausible import is_water
from orderly_bench.core.plan.value import Plan

#: What a care is about, as its title says it, and how what is asked says the same.
_ABOUT = tuple(
    (re.compile(care, re.IGNORECASE), re.compile(asked, re.IGNORECASE))
    for care, asked in (
        (r"\bfe(?:ed|rtil)|nutri", r"\bfe(?:d\b|ed|rtil)|nutri"),
        (r"water|mist|spray|soak|fog", r"\b(?:wet|dry|drier|damp|moist)|water|mist|soak|fog"),
        (r"vent|\blids?\b|tent|cover|\bair|wean|hood|\bopen", r"cover|\blids?\b|vent|open|closed|humid|tent|fog"),
        (r"shad|lamp|light|dark", r"light|lamp|shad|dark|\bsun"),
        (r"heat|\bmat\b|warm", r"heat|\bmat\b|warm"),
        (r"leave (?:it |them )?be|look|lift", r"wound|look|left be"),
    )
)


def care_for_some(plan: Plan) -> list[Caution]:
    """Care of some arms alone that is no part of what is asked, from the plan on."""
    every = {arm.id for arm in plan.treatments.arms}
    asked = plan.treatments.asked
    if len(every) < 2 or not asked:
        return []
    words = " ".join(text for one in asked for text in (one.name, *(level.name for level in one.levels)))
    water = any(is_water(level.name) for one in asked for level in one.levels)
    found = []
    for rule in plan.schedule.care_rules:
        about = [answers for care, answers in _ABOUT if care.search(rule.title)]
        part = any(answers.search(words) for answers in about) or (water and "water" in rule.title.casefold())
        if rule.arms and set(rule.arms) != every and not part:
            found.append((rule.title, rule.arms))
    by_arms: dict[tuple[str, ...], list[str]] = {}
    for title, arms in found:
        by_arms.setdefault(arms, []).append(title)
    return [
        caution("care_for_some", care=all_of(titles), arms=all_of(arms), asked=all_of([one.name for one in asked]), serious=True)
        for arms, titles in by_arms.items()
    ]  # fmt: skip
