"""What the Question page prints."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import date
from itertools import combinations
from typing import NamedTuple

from orderly_bench.chapters.question import operations
from orderly_bench.chapters.question.forms import read_table
from orderly_bench.core.cautions import Caution
from orderly_bench.core.errors import OrderlyError
from orderly_bench.core.messages.translation import all_of, capital, dated
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.plan import rules
from orderly_bench.core.plan.aspects import SORTS, AspectKind, Status
from orderly_bench.core.plan.question import TrialKind
from orderly_bench.core.plan.separable import Mend, Separation
from orderly_bench.core.plan.table import Table, product_words, table_of
from orderly_bench.core.plan.value import Plan
from orderly_bench.core.question import purpose, sentence
from orderly_bench.core.question.days import read_looks
from orderly_bench.core.question.doubts import doubts_about
from orderly_bench.core.question.from_card import from_card
from orderly_bench.core.question.reckoning import Reckoned, Wanted, reckon
from orderly_bench.core.question.starts import note_of
from orderly_bench.core.question.too_early import Expected, too_early, weeks_in
from orderly_bench.core.responses.kind import Response
from orderly_bench.core.responses.registry import kind_of
from orderly_bench.core.stock.kept import MethodCard
from orderly_bench.core.stock.ways import Way
from orderly_bench.core.year import YearHere
from orderly_bench.trial.models import Trial
from orderly_bench.web.fields import Form

#: Aspects that every new description offers, blank.
OFFERED = (
    AspectKind.HORMONE, AspectKind.MEDIUM, AspectKind.CUTTING_TYPE, AspectKind.COVER, AspectKind.BOTTOM_HEAT, AspectKind.LIGHT,
    AspectKind.HOLDING, AspectKind.WOUNDING, AspectKind.BASE, AspectKind.DONOR, AspectKind.PERSON,
)  # fmt: skip
LEAST_ARMS = 2
#: More arms than these have too many pairs to be listed.
MOST_COMPARED = 6


def values_of(trial: Trial) -> dict[str, str]:
    """The stored question as form values."""
    return {**operations.as_typed(trial.plan), "version": str(trial.version)}


@dataclass(frozen=True)
class OtherView:
    """An endpoint that may be named beside the primary one; ``by`` are the words before and after its margin."""

    key: str
    name: str
    by: tuple[str, str]


def others_for(chosen: str) -> list[OtherView]:
    """Every endpoint but the one that is judged."""
    found = []
    for response in sentence.ENDPOINTS:
        if response.value != chosen:
            kind = kind_of(response)
            before, after, _ = sentence.MARGINS[kind.scale]
            found.append(OtherView(response.value, kind.heading, (before, after)))
    return found


def begun_from(trial: Trial, card: MethodCard, ways: Sequence[Way] = ()) -> tuple[dict[str, str], Table]:
    """The form of a trial that begins from a method card; nothing is saved yet."""
    values, begun = values_of(trial), from_card(table_for(trial), card, ways)
    if begun.endpoint_day is not None:
        values["endpoint_day"] = str(begun.endpoint_day)
        values["check_days"] = "" if begun.first_look is None else str(begun.first_look)
    if begun.dead_from is not None:
        values["dead_from_day"] = str(begun.dead_from)
    for name, lines in (("known", begun.known), ("book", begun.book), ("care_rules", begun.care)):
        there = values[name].splitlines()
        values[name] = "\n".join([*there, *(line for line in lines.splitlines() if line not in there)])
    return values, begun.table


def table_for(trial: Trial) -> Table:
    """The arms side by side, as stored, with blank lines of what may be said while it can be."""
    offered = () if trial.locked_at else OFFERED
    least = 0 if trial.locked_at or trial.plan.question.kind is TrialKind.RATE else LEAST_ARMS
    return table_of(trial.plan.treatments, offered, least)


def as_form(values: Mapping[str, str], table: Table) -> dict[str, str]:
    """Values and table as a form would send them, so that the margin reads one thing."""
    form = {
        k: v
        for k, v in values.items()
        if not k.startswith(("kind_", "name_", "ask_", "all_", "value_", "group_", "fixed_"))
    }
    form.pop("ask", None)
    form |= {"arms": str(table.arms), "lines": str(len(table.lines))}
    form["control"] = "" if table.control is None else str(table.control)
    for g, (name, note) in enumerate(table.groups, start=1):
        form[f"group_{g}"], form[f"group_note_{g}"] = name, note
    for i, line in enumerate(table.lines, start=1):
        form |= {f"kind_{i}": line.kind.value, f"name_{i}": line.name}
        form |= {f"ask_{i}": "yes"} if line.asked else {}
        form |= {f"fixed_{i}": "yes"} if line.fixed else {}
        for column, value in enumerate(line.values):
            where = f"value_{i}_{column + 1}" if column < table.arms else f"value_{i}_group_{column - table.arms + 1}"
            form[where] = value
    return form


@dataclass(frozen=True)
class LineView:
    """One line of the table.

    Attributes
    ----------
    common : str
        What every arm says alike; blank where they differ or don't say.
    open : bool
        Whether each arm has a cell of its own.
    """

    number: int
    kind: str
    name: str
    status: Status
    arms: tuple[str, ...]
    groups: tuple[str, ...]
    common: str
    open: bool
    such_as: str
    property: bool
    fixed: bool


def line_views(table: Table) -> list[LineView]:
    """The lines of a table, as the page shows them."""
    found = []
    for number, line in enumerate(table.lines, start=1):
        own = line.values[: table.arms]
        status, sort = line.status(table.arms), SORTS[line.kind]
        alike = len(set(own)) == 1 and not line.asked
        found.append(
            LineView(
                number, line.kind.value, line.name, status, own, line.values[table.arms :], own[0] if alike and own else "",
                line.asked or not alike, sort.such_as, sort.property, line.fixed,
            )
        )  # fmt: skip
    return found


@dataclass(frozen=True)
class MendView:
    """A mend as a button: what it does, and its place in the list."""

    number: int
    words: str


@dataclass(frozen=True)
class Margin:
    """What the software works out while the question is typed."""

    sentence: str
    sums: list[str]
    doubts: list[Caution]
    mixed: list[str]
    mends: list[MendView]
    offers: list[str]
    compares: list[str]
    gauge: purpose.Gauge | None = None
    problem: str = ""
    notes: list[str] = field(default_factory=list)
    rate: bool = False
    reckoned: Reckoned | None = None


@dataclass(frozen=True)
class Here:
    """What the place adds: weeks its cards expect, its year, and its day."""

    expected: Sequence[Expected] = ()
    year: YearHere = field(default_factory=YearHere)
    today: date | None = None


def margin_for(form: Form, plan: Plan, here: Here) -> Margin:
    """The same with the reckoning of days, where plants are wanted by one or go into pots."""
    found = _margin(form, plan, here.expected)
    try:
        asked = operations.asked_of(plan.question, form, [])
    except OrderlyError:
        return found
    books = [weeks_in(book.author, book.author) for book in asked.book]
    expected = [*here.expected, *(one for one in books if one is not None)]
    stuck = plan.schedule.waves[0].planned_for or here.today
    if not expected or stuck is None or not (asked.wanted_by or asked.weeks_in_pot):
        return found
    slowest = max(expected, key=lambda one: one.most)
    return replace(found, reckoned=reckon(Wanted(stuck, slowest, asked.weeks_in_pot, asked.wanted_by), here.year))


def _margin(form: Form, plan: Plan, expected: Sequence[Expected]) -> Margin:
    """Arms, days and doubts from the form as it stands; a problem is said, not thrown."""
    sums: list[str] = []
    early: list[Caution] = []
    said, gauge, problem = "", None, ""
    try:
        table = read_table(form)
    except OrderlyError as error:
        return Margin("", [], [], [], [], [], [], None, str(error))
    try:
        asked = operations.asked_of(plan.question, form, [line.name for line in table.asked])
        day, either_side = asked.endpoint_day, operations.either_side_of_end(form)
        said = operations.sentence_of(asked, [line.name for line in table.asked])
        if table.asked:
            sums.append(product_words(table))
        window = rules.endpoint_window_days(day) if either_side is None else either_side
        sums.append(
            _(
                "endpoint: day {day} ± {window} = day {day2} to {day3}",
                day=day,
                window=window,
                day2=day - window,
                day3=day + window,
            )
        )
        looks = read_looks(form.get("check_days", ""), day, plan.schedule.waves[0].planned_for)
        sums.append(_("checks: {names}", names=", ".join(str(d) for d in [*(look.day for look in looks), day])))
        books = [weeks_in(book.author, book.author) for book in asked.book]
        early = too_early(day, asked.stop_rule, [*expected, *(one for one in books if one is not None)])
        if asked.wanted_plants:
            gauge = purpose.gauge(asked.wanted_plants, plan.cuttings, asked.known, asked.book, asked.wanted_sure)
    except OrderlyError as error:
        problem = str(error)
    kind = form.get("kind", "test")
    if kind == TrialKind.RATE:
        return Margin(said, sums, early, [], [], [], [], gauge, problem, rate=True)
    separation = table.separation()
    doubts = early + doubts_about(
        [(line.kind, line.name, line.values[: table.arms]) for line in table.asked],
        kind == TrialKind.LOOK,
        plan.schedule.waves,
        form.get("blind") == "yes",
    )
    if separation is None or separation.separable:
        compared = _compares(table, separation)
        return Margin(said, sums, doubts, [], [], _offers(table), compared, gauge, problem, _notes(table))
    return Margin(
        said, sums, doubts, mixed_words(table, separation),
        [MendView(i, mend_words(table, mend)) for i, mend in enumerate(separation.mends)],
        _offers(table), _compares(table, separation), gauge, problem, _notes(table),
    )  # fmt: skip


def _notes(table: Table) -> list[str]:
    """What the ready questions mind of what is asked."""
    found = [note_of(line.kind, line.name, line.values[: table.arms]) for line in table.asked]
    return [_(note) for note in found if note]


def _offers(table: Table) -> list[str]:
    """Aspects that could be asked instead: they vary, and what is asked does not."""
    varies = any(len({*line.values[: table.arms]} - {""}) > 1 for line in table.asked)
    return [] if varies else [line.name for line in table.travelling()]


def _compares(table: Table, separation: Separation | None) -> list[str]:
    """What every two arms can tell beside each other, in words; those that tell the same in one line, of the least first."""
    if separation is None or table.arms > MOST_COMPARED:
        return []
    told: dict[tuple[str, ...], list[str]] = {}
    for a, b in combinations(range(table.arms), 2):
        differ = tuple(
            line.name for line in table.lines if line.values[a] and line.values[b] and line.values[a] != line.values[b]
        )
        told.setdefault(differ, []).append(_("{a} against {b}", a=table.letters[a], b=table.letters[b]))
    lines = []
    for differ, pairs in sorted(told.items(), key=lambda one: len(one[0])):
        text = N_("{pairs}: {names}, together") if len(differ) > 1 else N_("{pairs}: {names}")
        lines.append(_(text, pairs=", ".join(pairs), names=all_of(differ) if differ else _("nothing")))
    return lines


def mixed_words(table: Table, separation: Separation) -> list[str]:
    """Asked aspects that can't be told apart, with what they are mixed up with, in words."""
    names = {str(i): line.name for i, line in enumerate(table.lines)}
    found: dict[tuple[str, str], list[str]] = {}
    for c in separation.contrasts:
        if not c.separable:
            mixed = [names[a] for a in c.travels_with] or [" with ".join(names[a] for a in each) for each in c.together]
            found.setdefault((names[c.aspect], _(" or from ").join(mixed)), []).append(
                _("{a} against {b}", a=c.a, b=c.b)
            )
    return [
        _(
            "{aspect} can't be told from {mixed}: {names}.",
            aspect=capital(name),
            mixed=mixed,
            names="; ".join(pairs),
        )
        for (name, mixed), pairs in found.items()
    ]


def mend_words(table: Table, mend: Mend) -> str:
    """A mend as a button says it."""
    names = [line.name for line in table.lines]
    parts = (
        [_("make {names} the same in every arm", names=", ".join(names[int(a)] for a in mend.make_same))]
        if mend.make_same
        else []
    )
    varying = {str(i) for i, line in enumerate(table.lines) if len({*line.values[: table.arms]} - {""}) > 1}
    parts += [
        _(
            "add an arm of {names}",
            names=", ".join((f"{names[int(a)]} {value}" for a, value in arm.items() if value and a in varying)),
        )
        for arm in mend.add_arms
    ]
    parts += [_("arms {names} are then one", names=all_of(alike)) for alike in mend.merged]
    return "; ".join(parts)


def endpoints() -> list[tuple[str, str]]:
    """Endpoints with their words in the sentence."""
    return [(response.value, words) for response, words in sentence.ENDPOINTS.items()]


class MarginGap(NamedTuple):
    """The gap of the margin: its field, the words before and after it, its number, and the scale that this is of."""

    name: str
    before: str
    after: str
    value: str
    scale: str


def margin_gap(values: Mapping[str, str]) -> MarginGap:
    """The gap for the endpoint of a form; the usual number where none is typed, or what is typed is of another scale."""
    response = values.get("response", "")
    kind = kind_of(Response(response) if response in list(Response) else Response.ROOTED)
    before, after, usual = sentence.MARGINS[kind.scale]
    name = "margin_points" if kind.yes_no else "margin_own"
    typed = values.get(name, "") if values.get("margin_scale", kind.scale) == kind.scale else ""
    return MarginGap(name, before, after, typed or f"{usual:g}", kind.scale.value)


def _day(typed: str) -> str:
    """A date field's value as said; as typed where it is no date."""
    try:
        return dated(date.fromisoformat(typed))
    except ValueError:
        return typed


def folded(values: Mapping[str, str]) -> dict[str, str]:
    """The sentences that folded parts of the page show."""
    get = values.get
    looks = _("Looked at on day {days}", days=get("check_days")) if get("check_days") else _("No look before the end")
    if get("who_looks"):
        looks += _(", by {who}", who=get("who_looks"))
    wanted = _("{n} plants wanted", n=get("wanted_plants")) if get("wanted_plants") else _("No number of plants wanted")
    if get("wanted_plants") and get("wanted_by"):
        wanted += _(" by {day}", day=_day(str(get("wanted_by"))))
    own, book = (len((get(key) or "").splitlines()) for key in ("known", "book"))
    told = [
        _("{own} counted here", own=own) if own else "",
        _("{book} written elsewhere", book=book) if book else "",
    ]
    known = (
        _("Rates known: {names}", names=", ".join(part for part in told if part))
        if own or book
        else _("No rate is known yet")
    )
    care = (
        _("{task}, every {n} days", task=get("care_task"), n=get("care_every_days"))
        if get("care_task")
        else _("No care that repeats")
    )
    plants = (
        _("Plants from {source}", source=get("source"))
        if get("source")
        else _("Where the plants come from, and why it matters")
    )
    named = [_(other.name) for other in others_for(get("response") or "") if get(f"other_{other.key}") == "yes"]
    others = (
        _("Beside it, exploratory: {names}", names=", ".join(named))
        if named
        else _("No other endpoint is named beforehand")
    )
    return {"looks": looks, "wanted": wanted, "known": known, "care": care, "plants": plants, "others": others}
