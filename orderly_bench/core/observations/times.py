"""Factors that are times: nobody draws a week, so without the waves that carry them they have no p."""

from __future__ import annotations

import re

from orderly_bench.core.messages.translation import IN_SHORT, MONTHS
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.messages.translation import gettext_noop as N_

#: Names of such factors.
NAMES = (
    N_("season"), N_("date"), N_("day"), N_("week"), N_("month"), N_("year"), N_("time"), N_("time of year"),
    N_("sticking date"), N_("sticking day"), N_("date of sticking"), N_("sowing date"), N_("period"),
)  # fmt: skip
SEASONS = (N_("spring"), N_("summer"), N_("autumn"), N_("fall"), N_("winter"))
#: Before a season or month: early spring, late May.
PART = re.compile(r"(?:early|mid|late|beginning of|end of)[ -]")
DATE = re.compile(r"\d{4}-\d{1,2}(?:-\d{1,2})?|\d{1,2}[./]\d{1,2}[./](?:\d{2}|\d{4})|\d{1,2}\.? [^\W\d]+(?: \d{4})?")
WEEK = re.compile(r"(?:week|wk)\.? ?\d{1,2}")
YEAR = re.compile(r"(?:19|20)\d\d")


def is_time(factor: str, levels: list[str]) -> bool:
    """Whether a factor is a time: by its name, or because every level is a date, week, month or season.

    >>> is_time("medium", ["sand", "bark"]), is_time("Month", ["3", "4"]), is_time("stuck", ["May", "late June"])
    (False, True, True)
    """
    plain = " ".join(factor.replace("_", " ").split()).casefold()
    if plain in {_(name).casefold() for name in NAMES} | set(NAMES):
        return True
    return len(levels) > 1 and all(_is_moment(" ".join(level.split()).casefold()) for level in levels)


def _is_moment(level: str) -> bool:
    bare = PART.sub("", level, count=1)
    bare = re.sub(r" ?" + YEAR.pattern + "$", "", bare)
    named = {_(name).casefold() for name in (*SEASONS, *MONTHS, *IN_SHORT)} | {
        name.casefold() for name in (*SEASONS, *MONTHS, *IN_SHORT)
    }
    if bare in named or WEEK.fullmatch(bare):
        return True
    found = DATE.fullmatch(level)
    if found is None:
        return False
    month = re.search(r"[^\W\d]+", level)
    return month is None or month.group(0) in named
