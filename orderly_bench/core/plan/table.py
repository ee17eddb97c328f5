"""The arms side by side, as they are typed: a line an aspect, a column an arm. Table to treatments and back."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import combinations, product
from string import ascii_uppercase

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.plan import edit, rules
from orderly_bench.core.plan.aspects import SORTS, AspectKind, Status
from orderly_bench.core.plan.plausible import plausible
from orderly_bench.core.plan.recipe import is_blend, read_recipe, same_blend
from orderly_bench.core.plan.separable import Described, Mend, Separation, separate
from orderly_bench.core.plan.treatments import Treatments

MOST_GROUPS = edit.MOST_SIDE_GROUPS


@dataclass(frozen=True)
class Line:
    """One aspect: what every column says of it; blank is *not said*. ``fixed`` lines are typed elsewhere."""

    kind: AspectKind
    name: str
    asked: bool
    values: tuple[str, ...]
    fixed: bool = False

    def status(self, arms: int) -> Status:
        """What the aspect is among the first ``arms`` columns."""
        if self.asked:
            return Status.ASKED
        told = set(self.values[:arms])
        if len(told - {""}) > 1:
            return Status.TRAVELLING
        return Status.NOT_SAID if "" in told or not told else Status.SAME


@dataclass(frozen=True)
class Table:
    """Arms in columns, side groups after them.

    Attributes
    ----------
    arms : int
        How many columns are arms; they are lettered in order.
    groups : tuple of (str, str)
        Name and note of each side group.
    control : int or None
        Which column is the control.
    """

    arms: int
    lines: tuple[Line, ...]
    groups: tuple[tuple[str, str], ...] = ()
    control: int | None = None

    @property
    def letters(self) -> str:
        """The letters of the arms."""
        return ascii_uppercase[: self.arms]

    @property
    def asked(self) -> list[Line]:
        """What is asked."""
        return [line for line in self.lines if line.asked]

    def described(self) -> list[Described]:
        """The arms as the separation takes them, aspects by the number of their line."""
        return [
            Described(letter, {str(i): line.values[a] for i, line in enumerate(self.lines)})
            for a, letter in enumerate(self.letters)
        ]

    def separation(self) -> Separation | None:
        """What the arms can tell apart, aspects by the number of their line; None while nothing can be compared."""
        varying = [
            str(i) for i, line in enumerate(self.lines) if line.asked and len({*line.values[: self.arms]} - {""}) > 1
        ]
        if self.arms < 2 or not varying:
            return None
        blanks = [
            (str(i), value) for i, line in enumerate(self.lines) if line.asked for value in SORTS[line.kind].blanks
        ]
        try:
            return separate(self.described(), varying, blanks, self._could_stand)
        except InvalidInput:
            return None

    def _could_stand(self, says: Mapping[str, str]) -> bool:
        return plausible({self.lines[int(line)].kind: value for line, value in says.items()})

    def first_alone(self) -> Table:
        """The first arm by itself, asked nothing: the table of a rate."""
        first = [(line, (line.values[:1] if self.arms else ("",)) + line.values[self.arms :]) for line in self.lines]
        lines = tuple(replace(line, asked=False, values=values) for line, values in first)
        return replace(self, arms=1, lines=lines, control=None)

    def saying(self, alike: Mapping[AspectKind, str]) -> Table:
        """What all arms say alike, a line each, in place of what they said of it."""
        beside = ("",) * len(self.groups)
        lines = tuple(Line(kind, kind.value, False, (*[value] * self.arms, *beside)) for kind, value in alike.items())
        return replace(self, lines=(*(line for line in self.lines if line.asked or line.kind not in alike), *lines))

    def travelling(self) -> list[Line]:
        """What differs and is not asked."""
        return [line for line in self.lines if line.status(self.arms) is Status.TRAVELLING]


def table_of(treatments: Treatments, offered: Sequence[AspectKind] = (), least_arms: int = 0) -> Table:
    """Treatments as a table, factors first, then what is described, then blank lines of what else may be said."""
    arms, groups = treatments.arms, treatments.side_groups
    wide = max(len(arms), least_arms)
    lines = []
    for aspect in treatments.aspects:
        said = [treatments.value(arm, aspect) for arm in arms]
        beside = [treatments.value(group, aspect) for group in groups]
        values = [*(level.name if level else "" for level in said), *[""] * (wide - len(arms))]
        values += [level.name if level else "" for level in beside]
        fixed = aspect.kind is AspectKind.CONTAINER and not aspect.asked
        lines.append(Line(aspect.kind, aspect.name, aspect.asked, tuple(values), fixed))
    there = {aspect.kind for aspect in treatments.aspects}
    blank = ("",) * (wide + len(groups))
    lines += [Line(kind, kind.value, False, blank) for kind in offered if kind not in there]
    control = next((i for i, arm in enumerate(arms) if arm.control), None)
    return Table(wide, tuple(lines), tuple((g.name, g.note) for g in groups), control)


def table_of_arms(arms: Sequence[Described]) -> Table:
    """Arms as a file describes them; the first aspect in which they differ is asked, the others are for a person to mark."""
    kinds = {kind.value: kind for kind in AspectKind}
    lines: list[Line] = []
    for name in dict.fromkeys(aspect for arm in arms for aspect in arm.values):
        values = tuple(arm.says(name) for arm in arms)
        asked = len({*values} - {""}) > 1 and not any(line.asked for line in lines)
        lines.append(Line(kinds.get(name.casefold(), AspectKind.OTHER), name, asked, values))
    return Table(len(arms), tuple(lines))


def crossed(
    factors: Sequence[tuple[AspectKind, str, Sequence[str]]], alike: Mapping[AspectKind, str] | None = None
) -> Table:
    """A table with an arm for every combination of levels of factors, and what all arms say alike.

    >>> crossed([(AspectKind.MEDIUM, "medium", ["bark", "sand"])], {AspectKind.COVER: "open"}).lines[1].values
    ('open', 'open')
    """
    wide = max(len(levels) for _, _, levels in factors)
    asked = tuple(Line(kind, name, True, (*levels, *[""] * (wide - len(levels)))) for kind, name, levels in factors)
    return every_combination(Table(wide, asked)).saying(alike or {})


def treatments_of(table: Table, before: Treatments, rate: bool = False) -> Treatments:
    """The treatments a table describes; levels, arms and side groups that were there keep their identity.

    A rate has one arm, the first, described and asked nothing.

    Raises
    ------
    InvalidInput
        Nothing asked, an asked aspect that an arm does not say or that does not vary, two arms alike in what is asked, and
        what the aspects themselves refuse.
    """
    asked = table.asked
    if rate:
        return _one_arm(table, before)
    if not asked:
        offer = [line.name for line in table.travelling()]
        rule = (
            _("the arms differ in {names}; mark what you ask", names=", ".join(offer))
            if offer
            else _("mark at least one line as asked")
        )
        raise InvalidInput("what is asked", rule)
    for line in asked:
        silent = [letter for letter, value in zip(table.letters, line.values, strict=False) if not value.strip()]
        if silent:
            raise InvalidInput(line.name, _("is asked, so every arm says it; it is blank in"), ", ".join(silent))
    _refuse_broken_blends(table)
    names = [tuple(" ".join(line.values[a].split()) for line in asked) for a in range(table.arms)]
    levels = [list(dict.fromkeys(column)) for column in zip(*names, strict=True)]
    factors = rules.check_factors([(line.kind, line.name, own) for line, own in zip(asked, levels, strict=True)])
    _refuse_twins(table, names)
    if table.arms > rules.MOST_ARMS:
        raise InvalidInput("arms", _("{most_arms} is the most one trial holds", most_arms=rules.MOST_ARMS), table.arms)
    made = edit.with_factors(before, factors)
    of_name = [{level.name: level.id for level in aspect.levels} for aspect in made.asked]
    chosen = [[ids[name] for ids, name in zip(of_name, own, strict=True)] for own in names]
    control = None if table.control is None else chosen[table.control]
    made = edit.with_arms(made, chosen, control)
    return _described(table, made)


def _described(table: Table, made: Treatments) -> Treatments:
    """The arms with what else is said of them, and the side groups."""
    made = edit.with_side_groups(made, table.groups)
    who = [*table.letters, *(name for name, _ in table.groups)]
    rows = [
        edit.Row(line.kind, line.name, dict(zip(who, line.values, strict=True)))
        for line in table.lines
        if not line.asked and not line.fixed
    ]
    return edit.with_description(made, rows)


def _one_arm(table: Table, before: Treatments) -> Treatments:
    bare = replace(before, aspects=tuple(aspect for aspect in before.aspects if not aspect.asked))
    return _described(table.first_alone(), edit.with_arms(bare, [()], None))


def _refuse_broken_blends(table: Table) -> None:
    """A medium that is named by its recipe has one that can be read, and two names are not one recipe."""
    for line in table.lines:
        if line.kind is not AspectKind.MEDIUM:
            continue
        blends = [value for value in dict.fromkeys(line.values) if is_blend(value)]
        for value in blends:
            try:
                read_recipe(value)
            except InvalidInput as refused:
                raise InvalidInput(line.name, refused.rule, value) from refused
        for one, other in combinations(blends, 2):
            if same_blend(one, other):
                raise InvalidInput(
                    line.name, _("{one} and {other} are one recipe; write it alike", one=one, other=other), other
                )


def _refuse_twins(table: Table, names: Sequence[tuple[str, ...]]) -> None:
    for a, b in combinations(range(table.arms), 2):
        if names[a] != names[b]:
            continue
        differ = [line.name for line in table.lines if not line.asked and line.values[a] != line.values[b]]
        both = _("{a} and {b}", a=table.letters[a], b=table.letters[b])
        if differ:
            raise InvalidInput(
                "arms",
                _(
                    "{both} differ in {names} alone, which is not asked; ask it, or take one away",
                    both=both,
                    names=", ".join(differ),
                ),
            )
        raise InvalidInput("arms", _("{both} are alike in everything; change one, or take one away", both=both))


# Changes, each giving the next table


def with_arm(table: Table, says: Sequence[str] | None = None) -> Table:
    """One column more: as given, or as the last arm with what is asked left blank."""
    last = table.arms - 1
    lines = []
    for i, line in enumerate(table.lines):
        new = says[i] if says is not None else ("" if line.asked or last < 0 else line.values[last])
        lines.append(replace(line, values=(*line.values[: table.arms], new, *line.values[table.arms :])))
    return replace(table, arms=table.arms + 1, lines=tuple(lines))


def without_arm(table: Table, column: int) -> Table:
    """One column less."""
    if not 0 <= column < table.arms:
        raise InvalidInput("arm", _("is not there"), column)
    lines = tuple(replace(line, values=line.values[:column] + line.values[column + 1 :]) for line in table.lines)
    control = table.control
    if control is not None and control >= column:
        control = None if control == column else control - 1
    return replace(table, arms=table.arms - 1, lines=lines, control=control)


def every_combination(table: Table) -> Table:
    """An arm for every combination of what is asked; what is the same in all stays said."""
    asked = table.asked
    levels = [[v for v in dict.fromkeys(line.values[: table.arms]) if v] for line in asked]
    if not asked or not all(levels):
        raise InvalidInput("arms", _("type the values of what is asked first; every combination is made of them"))
    chosen = rules.combinations_of(levels)
    lines = []
    for line in table.lines:
        beside = line.values[table.arms :]
        if line.asked:
            own = [combination[asked.index(line)] for combination in chosen]
        else:
            told = {*line.values[: table.arms]}
            own = [next(iter(told)) if len(told) == 1 else ""] * len(chosen)
        lines.append(replace(line, values=(*own, *beside)))
    return replace(table, arms=len(chosen), lines=tuple(lines), control=None)


def asking(table: Table, name: str) -> Table:
    """One aspect asked, and no other that does not vary."""
    lines = tuple(replace(line, asked=line.name == name) for line in table.lines)
    return replace(table, lines=lines)


def mended(table: Table, mend: Mend) -> Table:
    """A mend applied: aspects made the same in every arm, as the control says them or most arms do; arms added; those alike one."""
    same = {int(number) for number in mend.make_same}
    lines = [
        replace(line, values=(*[_common(table, line)] * table.arms, *line.values[table.arms :])) if i in same else line
        for i, line in enumerate(table.lines)
    ]
    made = replace(table, lines=tuple(lines))
    for twins in mend.merged:
        for letter in sorted(twins, reverse=True)[: len(twins) - 1]:
            made = without_arm(made, table.letters.index(letter))
    for arm in mend.add_arms:
        made = with_arm(made, [arm.get(str(i), "") for i in range(len(made.lines))])
    return made


def _common(table: Table, line: Line) -> str:
    values = [value for value in line.values[: table.arms] if value]
    own = line.values[table.control] if table.control is not None else ""
    return own or max(values, key=values.count)


def starting_at(table: Table, kind: AspectKind, name: str, levels: Sequence[str]) -> Table:
    """Two arms that differ in one aspect, named so; what was said beside stays where both say it alike."""
    wide = len(levels)
    kept = []
    for line in table.lines:
        told = {*line.values[: table.arms]}
        if line.name.casefold() != name.casefold() and not line.asked:
            common = next(iter(told)) if len(told) == 1 else ""
            kept.append(replace(line, values=(*[common] * wide, *line.values[table.arms :])))
    beside = ("",) * len(table.groups)
    return Table(wide, (Line(kind, name, True, (*levels, *beside)), *kept), table.groups)


def product_words(table: Table) -> str:
    """``2 of medium x 2 of hormone: 3 arms of 4 combinations``: what the arms make of what is asked."""
    counts = [(len({*line.values[: table.arms]} - {""}), line.name) for line in table.asked]
    ways = len(list(product(*(range(n) for n, _ in counts))))
    made = " x ".join(_("{n} of {name}", n=n, name=name) for n, name in counts)
    blank = sum(any(line.values[arm] == "" for line in table.asked) for arm in range(table.arms))
    arms = _("{arms:arm|arms}", arms=table.arms - blank)
    if blank:
        return _("{made}: {arms}, {blank} not filled yet", made=made, arms=arms, blank=blank)
    return (
        f"{made} = {arms}"
        if ways == table.arms
        else _("{made}: {arms} of {ways} combinations", made=made, arms=arms, ways=ways)
    )
