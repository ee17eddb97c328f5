"""The Design page's forms."""

from __future__ import annotations

from datetime import date

from werkzeug.datastructures import MultiDict

from orderly_bench.chapters.design.operations import DesignValues, OwnNumbers
from orderly_bench.core.design.propose import Answers
from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.measures import Measure
from orderly_bench.core.messages.words import tell, word
from orderly_bench.core.plan import amendments
from orderly_bench.core.plan.question import Headline
from orderly_bench.core.plan.treatments import Container, Shape
from orderly_bench.core.plan.value import BlocksAre, Plan
from orderly_bench.core.responses.kind import Response
from orderly_bench.core.responses.registry import kind_of
from orderly_bench.web import fields

Form = MultiDict[str, str]
DRAINED = {"yes": True, "no": False}
#: Amendments offered, by the name a form sends.
AMENDMENTS = {
    "departure": word("something was done otherwise"),
    "endpoint": word("another endpoint day"),
    "margin": word("another margin"),
    "add_check": word("one more check"),
    "drop_check": word("a check left out"),
    "stop_rule": word("another stop rule"),
    "abandon": word("an arm given up"),
    "rename": word("a level called otherwise"),
}


def read_container(form: Form, before: str = "") -> Container:
    """A container from fields whose names start with ``before``."""
    shape = form.get(f"{before}shape") or Shape.CELLS.value
    if shape not in list(Shape):
        raise InvalidInput("container", tell("choose one of: {names}", names=", ".join(Shape)), shape)
    kind = Shape(shape)
    alone = kind.alone
    return Container(
        kind,
        1 if alone else fields.whole(form, f"{before}tray_rows", "rows"),
        1 if alone else fields.whole(form, f"{before}tray_columns", "places in a row"),
        fields.optional_measured(form, f"{before}volume_ml", "volume of one, mL", Measure.ML) or Container().volume_ml,
        fields.text(form, f"{before}wall")[:20],
        DRAINED.get(form.get(f"{before}drained", "")),
        _across(form, before),
    )


def _across(form: Form, before: str) -> float | None:
    typed = fields.optional_measured(form, f"{before}across_cm", "across one place, cm", Measure.CM)
    if typed is not None and not 0.5 <= typed <= 500:
        raise InvalidInput(
            "across one place, cm", tell("must be between 0.5 and 500; leave it blank when not measured"), typed
        )
    return typed


def _own(form: Form, letter: str) -> OwnNumbers:
    before = f"own_{letter}_"
    sites = tuple(part.strip()[:40] for part in fields.text(form, f"{before}sites").split(",") if part.strip())
    if len(sites) == 1 or len(sites) > 4:
        raise InvalidInput(
            "rooting sites", tell("name two to four, comma between, or leave it blank for one"), ", ".join(sites)
        )
    return OwnNumbers(
        read_container(form, before) if form.get(f"{before}shape") else None,
        fields.optional_whole(form, f"{before}units", f"units of arm {letter}"),
        fields.optional_whole(form, f"{before}per_unit", f"cuttings in one unit of arm {letter}"),
        sites,
    )


def _waves(form: Form) -> list[tuple[date | None, str]]:
    number = fields.optional_whole(form, "waves", "waves")
    if number is not None and not 1 <= number <= 24:
        raise InvalidInput("waves", tell("plan 1 to 24"), number)
    return [
        (
            fields.day(form, f"wave_{n}_day", f"date of wave {n}") if form.get(f"wave_{n}_day") else None,
            form.get(f"wave_{n}_season", ""),
        )
        for n in range(1, (number or 1) + 1)
    ]


def read_design(form: Form, response: Response = Response.ROOTED) -> DesignValues:
    """Parse the form; rates are both given, as percent, or both blank."""
    rates = [
        fields.optional_number(form, name, f"assumed rate, {which}")
        for name, which in (("rate_a", "first"), ("rate_b", "second"))
    ]
    for rate in rates:
        if rate is not None and not 0 <= rate <= 100:
            raise InvalidInput("assumed rate", tell("must be between 0 and 100 %"), rate)
    per_unit = fields.optional_whole(form, "cuttings_per_unit", "cuttings per unit")
    both = (rates[0] / 100, rates[1] / 100) if rates[0] is not None and rates[1] is not None else None
    return DesignValues(
        arms=form.getlist("arms") if "arms" in form or "control" in form else None,
        control=form.get("control", ""),
        cuttings_per_arm=fields.whole(form, "cuttings_per_arm", "cuttings per arm"),
        cuttings_per_unit=1 if per_unit is None else per_unit,
        layout=form.get("layout", ""),
        blocks=fields.whole(form, "blocks", "blocks"),
        block_size=fields.optional_whole(form, "block_size", "units in a block") or 0,
        whole_factor=form.get("whole_factor", ""),
        one_vessel=form.get("one_vessel") == "yes",
        under_lid=fields.optional_whole(form, "under_lid", "places under one lid") or 0,
        gradient=fields.text(form, "gradient"),
        bench=fields.text(form, "bench"),
        container=read_container(form),
        assumed_rates=both,
        headline=form.get("headline", Headline.FACTORS.value),
        not_worse=form.get("not_worse") == "yes",
        max_t=form.get("max_t") == "yes",
        blocks_are=form.get("blocks_are", BlocksAre.PLACES.value),
        block_names=form.get("block_names", ""),
        pieces=form.get("pieces", ""),
        leftovers=form.get("leftovers") == "yes",
        assumed_icc=fields.optional_number(form, "icc", "ICC"),
        waves=_waves(form),
        own={letter: _own(form, letter) for letter in form.getlist("own")},
        guesses=_guesses(form, response),
        answers=read_answers(form),
        hours=fields.optional_number(form, "hours", "hours to stick in"),
        pace_per_hour=fields.optional_number(form, "pace_per_hour", "cuttings stuck in an hour") or 60.0,
    )


def read_answers(form: Form) -> Answers:
    """The four plain questions."""
    return Answers(
        fields.optional_whole(form, "ways", "gradient") or 0,
        form.get("together", ""),
        form.get("on_tray", ""),
        max(1, fields.optional_whole(form, "cuttings_per_unit", "cuttings to a container") or 1),
        fields.optional_whole(form, "alike", "alike at most") or 0,
    )


def _guesses(form: Form, response: Response) -> dict[str, float | None]:
    """Guesses by arm: percent where the endpoint is a share, its own unit else."""
    share = kind_of(response).yes_no
    found: dict[str, float | None] = {}
    for name in form:
        if name.startswith("guess_"):
            letter = name.removeprefix("guess_")
            typed = fields.optional_number(form, name, f"guess of arm {letter}")
            found[letter] = typed / 100 if share and typed is not None else typed
    return found


def read_amendment(form: Form, plan: Plan) -> amendments.Amendment:
    """The typed change of a locked plan."""
    kind, what = form.get("kind", "departure"), fields.text(form, "what")
    if kind == "departure":
        return amendments.Departure(what)
    if kind == "stop_rule":
        return amendments.StopRule(what)
    if kind == "margin":
        return amendments.Margin(fields.number(form, "what", "margin"))
    if kind == "abandon":
        return amendments.AbandonArm(form.get("arm", ""), fields.text(form, "reason"))
    if kind == "rename":
        aspect, _, level = form.get("level", "").partition("|")
        return amendments.RenameLevel(aspect, level, what)
    if kind not in AMENDMENTS:
        raise InvalidInput("amendment", tell("choose one of: {names}", names=", ".join(AMENDMENTS.values())), kind)
    day = fields.whole(form, "what", "day after sticking")
    if kind == "endpoint":
        return amendments.EndpointDay(day)
    return amendments.AddCheckDay(day) if kind == "add_check" else amendments.DropCheckDay(day)
