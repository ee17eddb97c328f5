"""What the Question page prints."""

from __future__ import annotations

from dataclasses import dataclass

from orderly_bench.chapters.question.forms import read_factors
from orderly_bench.core.cautions import Caution
from orderly_bench.core.errors import OrderlyError
from orderly_bench.core.plan.aspects import SORTS, AspectKind, Status
from orderly_bench.core.plan.value import ArmPlan, SideGroup, Treatments
from orderly_bench.core.question import rules
from orderly_bench.core.tend.schedule import read_days
from orderly_bench.trial.models import Trial
from orderly_bench.web import fields
from orderly_bench.web.fields import Form

QUESTION_KEYS = (
    "kind", "botanical_name", "cultivar", "source", "why", "endpoint_day", "margin_points", "stop_rule", "fit_least_roots", "fit_least_mm",
)  # fmt: skip


def _shown(value: object) -> str:
    return f"{value:g}" if isinstance(value, float) else str(value)


def typed_values(trial: Trial) -> dict[str, str]:
    """The stored question as form values."""
    plan = trial.plan
    values = {key: _shown(getattr(plan.question, key)) for key in QUESTION_KEYS}
    values["question"] = plan.question.sentence
    values["care_task"], values["care_every_days"] = plan.schedule.care_task, str(plan.schedule.care_every_days)
    values["check_days"] = ", ".join(str(day) for day in plan.schedule.check_days)
    values["blind"] = "yes" if plan.question.blind else ""
    asked = plan.treatments.asked
    for i in range(1, rules.MOST_FACTORS + 1):
        factor = asked[i - 1] if len(asked) >= i else None
        values[f"kind_{i}"] = factor.kind.value if factor else ("medium", "hormone", "cutting type", "other")[i - 1]
        values[f"name_{i}"] = factor.name if factor else ""
        values[f"levels_{i}"] = "\n".join(level.name for level in factor.levels) if factor else ""
    values["version"] = str(trial.version)
    return values


@dataclass(frozen=True)
class Margin:
    """What the software works out while the question is typed."""

    arms: list[str]
    sums: list[str]
    doubts: list[Caution]
    problem: str = ""


def margin_for(form: Form) -> Margin:
    """Arms, days and doubts from the form as it stands; a problem is said, not thrown."""
    sums: list[str] = []
    try:
        checked = rules.check_factors(read_factors(form))
        arms = [" + ".join(c) for c in rules.combinations_of([levels for _, _, levels in checked])]
        sums.append(" x ".join(f"{len(levels)} {name}" for _, name, levels in checked) + f" = {len(arms)} arms")
        day = rules.check_endpoint_day(fields.whole(form, "endpoint_day", "endpoint day"))
        window = rules.endpoint_window_days(day)
        sums.append(f"endpoint: day {day} +-{window} = day {day - window} to {day + window}")
        days = read_days(fields.text(form, "check_days"), day)
        sums.append(f"checks: {', '.join(str(d) for d in [*days, day])}")
        margin = rules.check_margin(fields.number(form, "margin_points", "margin"))
        sums.append(f"margin: {margin:g} of every 100 stuck")
    except OrderlyError as error:
        return Margin([], sums, [], str(error))
    return Margin(arms, sums, _doubts(form, checked))


def _doubts(form: Form, factors: list[tuple[AspectKind, str, list[str]]]) -> list[Caution]:
    found = []
    kinds = [kind for kind, _, _ in factors]
    if AspectKind.SEASON in kinds:
        found.append(
            Caution(
                "season_one_wave",
                "With one wave per season the difference can't be told apart from that particular week.",
                "Plan at least two waves per season before season can mean anything",
            )
        )
    if AspectKind.CUTTING_TYPE in kinds:
        found.append(
            Caution(
                "property_not_assigned",
                "Cutting type is a property of the pieces, not assigned to them: the p speaks of these pieces.",
                "Take each type from several stock plants",
            )
        )
    if any(SORTS[kind].property and kind not in (AspectKind.SEASON, AspectKind.CUTTING_TYPE) for kind in kinds):
        found.append(
            Caution(
                "property_not_assigned",
                "Taxon and donor are properties of the pieces, not assigned to them: the p speaks of these pieces.",
                "Take several plants of each",
            )
        )
    for kind, name, levels in factors:
        if kind is AspectKind.HORMONE and "none" not in [level.casefold() for level in levels]:
            found.append(
                Caution(
                    "no_blank",
                    f"{name} has no level 'none', so nothing says what it adds.",
                    "Add 'none', or the carrier alone",
                )
            )
    if form.get("kind") == "look":
        found.append(
            Caution(
                "look_only",
                "A look can suggest what to test; its report never says 'better'.",
                "Choose test when the answer must carry a decision",
            )
        )
    return found


@dataclass(frozen=True)
class AspectRow:
    """One row of the arms side by side: what each says of an aspect, and what the aspect is."""

    number: int
    kind: str
    name: str
    status: Status
    values: list[tuple[str, str]]
    common: str
    such_as: str = ""
    property: bool = False
    typed_here: bool = True


#: Aspects that every new description offers, blank.
OFFERED = (
    AspectKind.MEDIUM, AspectKind.HORMONE, AspectKind.CUTTING_TYPE, AspectKind.COVER, AspectKind.BOTTOM_HEAT, AspectKind.LIGHT,
    AspectKind.HOLDING, AspectKind.WOUNDING, AspectKind.BASE, AspectKind.DONOR, AspectKind.PERSON,
)  # fmt: skip


def arm_rows(treatments: Treatments) -> list[AspectRow]:
    """The arms' whole description: factors first, then what is said beside, then what may be said."""
    rows: list[AspectRow] = []
    groups = treatments.side_groups

    def add(kind: AspectKind, name: str, status: Status, values: list[tuple[str, str]], typed_here: bool) -> None:
        told = {value for _, value in values[: len(treatments.arms)]}
        common = next(iter(told)) if len(told) == 1 and status is not Status.ASKED else ""
        sort = SORTS[kind]
        rows.append(
            AspectRow(len(rows) + 1, kind.value, name, status, values, common, sort.such_as, sort.property, typed_here)
        )

    for aspect in treatments.aspects:
        described: list[tuple[str, ArmPlan | SideGroup]] = [(arm.id, arm) for arm in treatments.arms]
        described += [(group.name, group) for group in groups]
        values = [(who, level.name if (level := treatments.value(one, aspect)) else "") for who, one in described]
        typed_here = not aspect.asked and aspect.kind is not AspectKind.CONTAINER
        add(aspect.kind, aspect.name, treatments.status(aspect), values, typed_here)
    there = {aspect.kind for aspect in treatments.aspects}
    blank = [(who, "") for who in [*(arm.id for arm in treatments.arms), *(g.name for g in groups)]]
    for kind in OFFERED:
        if kind not in there:
            add(kind, kind.value, Status.NOT_SAID, blank, True)
    return rows


def separation_lines(treatments: Treatments) -> tuple[list[str], list[str]]:
    """What the arms can't tell apart, and what mends it, in words; both empty where all can be told apart."""
    found = treatments.separation()
    if found is None or found.separable:
        return [], []
    names = {aspect.id: aspect.name for aspect in treatments.aspects}
    levels = {level.id: level.name for aspect in treatments.aspects for level in aspect.levels}
    problems = []
    for c in found.contrasts:
        if not c.separable:
            mixed = [names[a] for a in c.travels_with] or [" with ".join(names[a] for a in each) for each in c.together]
            a, b = levels[c.a], levels[c.b]
            problems.append(f"{names[c.aspect]}, {a} against {b}: can't be told apart from {' or from '.join(mixed)}.")
    mends = []
    for mend in found.mends:
        parts = [f"make {', '.join(names[a] for a in mend.make_same)} the same in every arm"] if mend.make_same else []
        parts += [
            f"add an arm of {', '.join(f'{names[a]} {levels[v]}' for a, v in arm.items() if v and a not in found.same)}"
            for arm in mend.add_arms
        ]
        parts += [f"arms {' and '.join(alike)} are then one" for alike in mend.merged]
        mends.append("; ".join(parts))
    return problems, mends
