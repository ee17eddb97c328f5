"""What the Question page prints."""

from __future__ import annotations

from dataclasses import dataclass

from orderly_bench.chapters.question.forms import read_factors
from orderly_bench.core.cautions import Caution
from orderly_bench.core.errors import OrderlyError
from orderly_bench.core.question import plan
from orderly_bench.core.tend.schedule import read_days
from orderly_bench.trial.models import Trial
from orderly_bench.web import fields
from orderly_bench.web.fields import Form

KEYS = (
    "kind", "botanical_name", "cultivar", "source", "question", "why", "endpoint_day", "margin_points", "held_same", "stop_rule",
    "care_task", "care_every_days", "fit_least_roots", "fit_least_mm",
)  # fmt: skip


def typed_values(trial: Trial) -> dict[str, str]:
    """The stored question as form values."""
    values = {key: f"{value:g}" if isinstance(value := getattr(trial, key), float) else str(value) for key in KEYS}
    values["check_days"] = ", ".join(str(day) for day in trial.check_days)
    values["blind"] = "yes" if trial.blind else ""
    for i in range(1, plan.MOST_FACTORS + 1):
        factor = trial.factors[i - 1] if len(trial.factors) >= i else None
        values[f"kind_{i}"] = factor.kind if factor else ("medium", "hormone", "cutting type", "other")[i - 1]
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
        checked = plan.check_factors(read_factors(form))
        arms = [" + ".join(c) for c in plan.combinations_of([levels for _, _, levels in checked])]
        sums.append(" x ".join(f"{len(levels)} {name}" for _, name, levels in checked) + f" = {len(arms)} arms")
        day = plan.check_endpoint_day(fields.whole(form, "endpoint_day", "endpoint day"))
        window = plan.endpoint_window_days(day)
        sums.append(f"endpoint: day {day} +-{window} = day {day - window} to {day + window}")
        days = read_days(fields.text(form, "check_days"), day)
        sums.append(f"checks: {', '.join(str(d) for d in [*days, day])}")
        margin = plan.check_margin(fields.number(form, "margin_points", "margin"))
        sums.append(f"margin: {margin:g} of every 100 stuck")
    except OrderlyError as error:
        return Margin([], sums, [], str(error))
    return Margin(arms, sums, _doubts(form, checked))


def _doubts(form: Form, factors: list[tuple[plan.FactorKind, str, list[str]]]) -> list[Caution]:
    found = []
    kinds = [kind for kind, _, _ in factors]
    if plan.FactorKind.SEASON in kinds:
        found.append(
            Caution(
                "season_one_wave",
                "With one wave per season the difference can't be told apart from that particular week.",
                "Plan at least two waves per season before season can mean anything",
            )
        )
    if plan.FactorKind.CUTTING_TYPE in kinds:
        found.append(
            Caution(
                "property_not_assigned",
                "Cutting type is a property of the pieces, not assigned to them: the p speaks of these pieces.",
                "Take each type from several stock plants",
            )
        )
    for kind, name, levels in factors:
        if kind is plan.FactorKind.HORMONE and "none" not in [level.casefold() for level in levels]:
            found.append(
                Caution(
                    "no_blank",
                    f"{name} has no level 'none', so nothing says what it adds.",
                    "Add 'none', or the carrier alone",
                )
            )
    if not fields.text(form, "held_same"):
        found.append(
            Caution(
                "nothing_held",
                "Nothing is listed as held the same in every arm.",
                "List it, so that a change is a recorded departure",
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
