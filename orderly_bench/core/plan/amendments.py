"""Amendments: typed changes of a locked plan. Each checks itself and gives the next plan; nothing else changes one."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Protocol

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.plan.care_lines import check_care, read_care
from orderly_bench.core.plan.edit import with_side_groups
from orderly_bench.core.plan.recipe import read_recipe
from orderly_bench.core.plan.treatments import Level
from orderly_bench.core.plan.value import Plan

LONGEST_DEPARTURE = 300


class Amendment(Protocol):
    """A change of a plan."""

    def apply(self, plan: Plan) -> Plan:
        """The plan with the change made, or InvalidInput."""


@dataclass(frozen=True)
class EndpointDay:
    """Judge the endpoint on another day after sticking."""

    day: int

    def apply(self, plan: Plan) -> Plan:
        """Check days from the new endpoint day on fall away."""
        kept = tuple(d for d in plan.schedule.check_days if d < self.day)
        asked = replace(plan.question, endpoint_day=self.day)
        return replace(plan, question=asked, schedule=replace(plan.schedule, check_days=kept))


@dataclass(frozen=True)
class Margin:
    """Another smallest difference that matters, in percentage points."""

    points: float

    def apply(self, plan: Plan) -> Plan:
        """The margin is the question's."""
        return replace(plan, question=replace(plan.question, margin_points=self.points))


@dataclass(frozen=True)
class AddCheckDay:
    """Look on one more day."""

    day: int

    def apply(self, plan: Plan) -> Plan:
        """A day before the endpoint that is not planned yet."""
        if not 1 <= self.day < plan.question.endpoint_day or self.day in plan.schedule.check_days:
            rule = _(
                "must be a day not planned yet, from 1 to the day before the endpoint, {endpoint_day}",
                endpoint_day=plan.question.endpoint_day,
            )
            raise InvalidInput("check day", rule, self.day)
        return replace(
            plan, schedule=replace(plan.schedule, check_days=tuple(sorted({*plan.schedule.check_days, self.day})))
        )


@dataclass(frozen=True)
class DropCheckDay:
    """Do not look on a planned day."""

    day: int

    def apply(self, plan: Plan) -> Plan:
        """One of the planned days before the endpoint."""
        if self.day not in plan.schedule.check_days:
            raise InvalidInput(
                "check day",
                _("must be one of {days}", days=", ".join(map(str, plan.schedule.check_days)) or N_("none")),
                self.day,
            )
        kept = tuple(d for d in plan.schedule.check_days if d != self.day)
        return replace(plan, schedule=replace(plan.schedule, check_days=kept))


@dataclass(frozen=True)
class Recipe:
    """Another recipe of a medium; ``medium`` is the id of its level, or ``all``."""

    medium: str
    text: str

    def apply(self, plan: Plan) -> Plan:
        """The recipe must be readable in parts."""
        read_recipe(self.text)
        recipes = {**plan.preparation.recipes, self.medium: self.text.strip()}
        return replace(plan, preparation=replace(plan.preparation, recipes=recipes))


@dataclass(frozen=True)
class StopRule:
    """Another rule of who looks, when, and when it ends."""

    text: str

    def apply(self, plan: Plan) -> Plan:
        """The stop rule is the question's."""
        return replace(plan, question=replace(plan.question, stop_rule=self.text.strip()))


@dataclass(frozen=True)
class Care:
    """Other care from now on, as it is written on Question: a line each."""

    text: str

    def apply(self, plan: Plan) -> Plan:
        """It must be readable, of arms that there are."""
        rules = read_care(self.text)
        check_care(rules, plan.schedule.care_task, [arm.id for arm in plan.treatments.arms])
        return replace(plan, schedule=replace(plan.schedule, care_rules=rules))


@dataclass(frozen=True)
class AbandonArm:
    """Give an arm up; its cuttings stay in every count."""

    arm: str
    why: str

    def apply(self, plan: Plan) -> Plan:
        """Each arm once, and one must be left: of two, one may be given up, its counts remain."""
        left = [arm.id for arm in plan.treatments.arms if not arm.abandoned]
        if self.arm not in left:
            raise InvalidInput("arm", _("must be one that is not given up: {names}", names=", ".join(left)), self.arm)
        if len(left) < 2:
            raise InvalidInput("arm", _("leave at least one; a trial of none is ended by its stop rule"), self.arm)
        arms = tuple(
            replace(arm, abandoned=self.why.strip() or "given up") if arm.id == self.arm else arm
            for arm in plan.treatments.arms
        )
        return replace(plan, treatments=replace(plan.treatments, arms=arms))


@dataclass(frozen=True)
class RenameLevel:
    """Call a level otherwise; what it is stays."""

    aspect: str
    level: str
    name: str

    def apply(self, plan: Plan) -> Plan:
        """Names may not differ by case only."""
        aspect = plan.treatments.aspect(self.aspect)
        if aspect is None or self.level not in [level.id for level in aspect.levels]:
            raise InvalidInput("level", _("must be one of the plan's"), self.level)
        others = {" ".join(level.name.casefold().split()) for level in aspect.levels if level.id != self.level}
        if not self.name.strip() or " ".join(self.name.casefold().split()) in others:
            raise InvalidInput("name of the level", _("must differ from the others by more than case"), self.name)
        levels: tuple[Level, ...] = tuple(
            replace(level, name=self.name.strip()) if level.id == self.level else level for level in aspect.levels
        )
        aspects = tuple(replace(a, levels=levels) if a.id == self.aspect else a for a in plan.treatments.aspects)
        return replace(plan, treatments=replace(plan.treatments, aspects=aspects))


@dataclass(frozen=True)
class AddSideGroup:
    """A group begun beside the trial after the lock; never drawn, never compared."""

    name: str
    note: str

    def apply(self, plan: Plan) -> Plan:
        """Its name is its own."""
        groups = [(group.name, group.note) for group in plan.treatments.side_groups]
        made = with_side_groups(plan.treatments, [*groups, (self.name, self.note)])
        return replace(plan, treatments=made)


@dataclass(frozen=True)
class Departure:
    """What was done otherwise than planned, in words, where no part of the plan holds it."""

    what: str

    def apply(self, plan: Plan) -> Plan:
        """It is added to the departures."""
        what = " ".join(self.what.split())
        if not what or len(what) > LONGEST_DEPARTURE:
            raise InvalidInput(
                "what changed",
                _("say it within {longest_departure} characters", longest_departure=LONGEST_DEPARTURE),
                what[:40] or "nothing",
            )
        return replace(plan, departures=(*plan.departures, what))
