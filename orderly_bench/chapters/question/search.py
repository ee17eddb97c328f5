"""Which trials are listed: by words of their code, plant, question and levels, by where they stand, by year."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum

from sqlalchemy import ColumnElement, extract, func, or_, select
from sqlalchemy.orm import Session

from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.trial.models import Conclusion, Trial

LONGEST = 80
#: What a plan's text says before its numbers: the question, its aspects and levels, its arms.
_ASKED = func.substring_index(Trial.plan_text, "\ndesign:", 1)


class Stands(StrEnum):
    """Where a trial stands, as far as one looks for it."""

    ANYWHERE = ""
    BEFORE = "before the lock"
    UNDER_WAY = "under way"
    CONCLUDED = "concluded"
    PUT_AWAY = "put away"


STATES = tuple((one.value, one.value or N_("any")) for one in Stands)


@dataclass(frozen=True)
class Search:
    """What is looked for; blank is everything. Words are all to be found, in any order."""

    words: str = ""
    stands: Stands = Stands.ANYWHERE
    year: int | None = None

    @property
    def any(self) -> bool:
        """Whether anything is looked for."""
        return bool(self.words or self.stands or self.year)

    @property
    def typed(self) -> dict[str, str]:
        """As it stands in an address."""
        said = {"q": self.words, "stands": self.stands.value, "year": str(self.year or "")}
        return {name: value for name, value in said.items() if value}


def read_search(typed: Mapping[str, str]) -> Search:
    """From an address; what can't be read looks for nothing."""
    year = typed.get("year", "").strip()
    stands = typed.get("stands", "")
    return Search(
        " ".join(typed.get("q", "").split())[:LONGEST],
        Stands(stands) if stands in list(Stands) else Stands.ANYWHERE,
        int(year) if year.isascii() and year.isdigit() and len(year) == 4 else None,
    )


def page_of(session: Session, search: Search, page: int, on_a_page: int) -> tuple[list[int], int]:
    """Ids of the trials of a page, newest first, and how many are found; none behind the last page."""
    query = select(Trial.id, func.count(Trial.id).over()).where(*_conditions(search)).order_by(Trial.id.desc())
    rows = session.execute(query.offset((page - 1) * on_a_page).limit(on_a_page)).all()
    return [number for number, _ in rows], rows[0][1] if rows else 0


def _conditions(search: Search) -> list[ColumnElement[bool]]:
    found: list[ColumnElement[bool]] = [
        or_(Trial.code.contains(one, autoescape=True), _ASKED.contains(one, autoescape=True))
        for one in search.words.split()
    ]
    concluded = Trial.id.in_(select(Conclusion.trial_id))
    if search.stands is Stands.BEFORE:
        found.append(Trial.locked_at.is_(None))
    elif search.stands is Stands.UNDER_WAY:
        found += [Trial.locked_at.is_not(None), ~concluded]
    elif search.stands is Stands.CONCLUDED:
        found.append(concluded)
    if search.stands is Stands.PUT_AWAY:
        found.append(Trial.archived.is_(True))
    elif not search.words:
        found.append(Trial.archived.is_(False))
    if search.year:
        found.append(extract("year", Trial.created_at) == search.year)
    return found
