"""Who may do what. One mechanism: every route names its act, every operation that hides arms asks here."""

from __future__ import annotations

from enum import StrEnum

from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.trial.models import Person


class Role(StrEnum):
    """One role each, for the whole lab."""

    LEAD = "lead"
    RESEARCHER = "researcher"
    SCORER = "scorer"
    READER = "reader"


class Act(StrEnum):
    """What a route does, in words that a refusal can use."""

    ANYONE = "open this page"
    READ = "read trials"
    PLAN = "plan a trial"
    STICK = "stick cuttings"
    TEND = "tend a trial"
    SCORE = "score cuttings"
    RUN_CHECK = "open or close a check"
    LOOK_EARLY = "compare arms before the endpoint"
    CONCLUDE = "conclude a trial"
    PEOPLE = "manage people"
    LAB = "change the lab's settings"


BENCH_ACTS = {Act.READ, Act.STICK, Act.TEND, Act.SCORE}
ROLE_ACTS: dict[Role, set[Act]] = {
    Role.LEAD: set(Act),
    Role.RESEARCHER: set(Act) - {Act.PEOPLE, Act.LAB},
    Role.SCORER: BENCH_ACTS,
    Role.READER: {Act.READ},
}


class NotAllowed(Exception):
    """The person's role may not do this."""

    def __init__(self, act: Act, role: str) -> None:
        super().__init__(_("A {role} may not {act}. Ask a lead or a researcher of your lab.", role=role, act=act.value))


def may(person: Person, act: Act) -> bool:
    """Whether a person's role covers an act."""
    return act is Act.ANYONE or act in ROLE_ACTS[Role(person.role)]


def require(person: Person, act: Act) -> None:
    """Raise NotAllowed unless the person may."""
    if not may(person, act):
        raise NotAllowed(act, person.role)
