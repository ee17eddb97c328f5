"""A design that was drawn elsewhere: held to what it must be, and laid out like one of our own. Its draw is taken on trust, and said so."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, replace

from orderly_bench.core.design.bench import Position, Stand
from orderly_bench.core.design.from_plan import PlacedUnit, WaveDraw
from orderly_bench.core.errors import UnusableData
from orderly_bench.core.layouts.kinds import from_groups, planned
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.plan.treatments import MOST_PER_UNIT, MOST_SIDE, ArmPlan, Shape
from orderly_bench.core.plan.value import BlocksAre, Plan
from orderly_bench.core.vocabulary import LayoutKind


@dataclass(frozen=True)
class MadeUnit:
    """A unit as a file has it; ``arm`` is a letter or an arm's name, ``line`` its first line."""

    unit: str
    arm: str
    wave: int
    tray: int
    row: int
    column: int
    spot: int
    groups: dict[str, str]
    cuttings: int
    line: int

    @property
    def place(self) -> tuple[object, ...]:
        """Where it stands, and what in."""
        return self.arm, self.wave, self.tray, self.row, self.column, self.spot, tuple(sorted(self.groups.items()))

    def with_one_more(self) -> MadeUnit:
        """The same with one cutting more."""
        return replace(self, cuttings=self.cuttings + 1)


def plan_and_draw(plan: Plan, units: Sequence[MadeUnit]) -> tuple[Plan, list[WaveDraw]]:
    """The plan with this design's numbers and layout, and its draw by wave.

    Raises
    ------
    UnusableData
        No units, an arm or wave the plan does not have, an arm without a unit, two units in one place, groups given for some only,
        cuttings that differ inside an arm, places beyond a tray.
    """
    if not units:
        raise UnusableData(_("there are no units"), _("Give a row for every cutting: unit, row, column, arm"))
    arms = [_arm(plan, one) for one in units]
    _check_places(plan, units)
    lacking = [arm.id for arm in plan.treatments.arms if arm not in arms]
    if lacking:
        raise UnusableData(
            _("arm {names} has no unit", names=", ".join(lacking)),
            _("Give it one, or take it off the Question page"),
        )
    kind = _layout(plan, units, arms)
    numbers = _numbers(units, arms)
    least = min(n for n, _ in numbers.values())
    per_unit = Counter(each for _, each in numbers.values()).most_common(1)[0][0]
    blocks = {name for one in units for name in [_stratum(one)] if name}
    design = replace(
        plan.design, layout=kind, cuttings_per_arm=least * per_unit, cuttings_per_unit=per_unit, blocks=max(1, len(blocks)) if not planned(kind).paired else 1,
        block_size=len(units) // max(1, len(blocks)) if planned(kind).part_blocks else 0,
        blocks_are=BlocksAre.PLACES, block_names=(),
    )  # fmt: skip
    own = tuple(
        replace(arm, units=n if n != least else None, per_unit=each if each != per_unit else None)
        for arm in plan.treatments.arms
        for n, each in [numbers[arm.id]]
    )
    made = replace(plan, design=design, treatments=replace(plan.treatments, arms=own))
    return made, _waves(made, units, arms)


def _arm(plan: Plan, one: MadeUnit) -> ArmPlan:
    for arm in plan.treatments.arms:
        if one.arm.casefold() in (arm.id.casefold(), plan.treatments.name(arm).casefold()):
            return arm
    known = "; ".join(f"{arm.id} ({plan.treatments.name(arm)})" for arm in plan.treatments.arms)
    raise UnusableData(
        _("there is no arm {arm!r}", arm=one.arm),
        _("The arms are {known}", known=known),
        row=one.line,
        column="arm",
    )


def _check_places(plan: Plan, units: Sequence[MadeUnit]) -> None:
    taken: dict[tuple[int, int, int, int, int], MadeUnit] = {}
    waves = {wave.number for wave in plan.schedule.waves}
    for one in units:
        if one.wave not in waves:
            raise UnusableData(
                _("there is no wave {wave}", wave=one.wave),
                _("Plan it on the Design page first"),
                row=one.line,
                column="wave",
            )
        if max(one.row, one.column) > MOST_SIDE:
            raise UnusableData(
                _("a tray has at most {most_side} rows and columns", most_side=MOST_SIDE),
                _("Part it into trays"),
                row=one.line,
                column="row",
            )
        where = one.wave, one.tray, one.row, one.column, one.spot
        if where in taken:
            raise UnusableData(
                _("stands where {unit} stands already", unit=taken[where].unit),
                _("Give each unit its own place"),
                row=one.line,
            )
        taken[where] = one
        if one.cuttings > MOST_PER_UNIT:
            raise UnusableData(
                _("a unit holds at most {most_per_unit} cuttings", most_per_unit=MOST_PER_UNIT),
                _("Make it several units"),
                row=one.line,
                column="cutting",
            )


def _stratum(one: MadeUnit) -> str:
    return one.groups.get("block") or one.groups.get("pair") or one.groups.get("whole plot") or ""


def _layout(plan: Plan, units: Sequence[MadeUnit], arms: Sequence[ArmPlan]) -> LayoutKind:
    """The layout that the groups make."""
    kinds = {tuple(sorted(one.groups)) for one in units}
    if len(kinds) > 1:
        raise UnusableData(
            _("a block, pair, plot, row or column is given for some units only"),
            _("Give it for all, or for none"),
        )
    given = set(kinds.pop())
    table = Counter((_stratum(one), arm.id) for one, arm in zip(units, arms, strict=True))
    complete = all((block, arm.id) in table for block, _ in table for arm in plan.treatments.arms)
    kind = from_groups(given, complete)
    if planned(kind).whole_plots and not plan.design.whole_aspect:
        raise UnusableData(
            _("whole plots are given, but no aspect stands on them"),
            _("Say on the Design page what goes on a whole tray"),
        )
    return kind


def _numbers(units: Sequence[MadeUnit], arms: Sequence[ArmPlan]) -> dict[str, tuple[int, int]]:
    """Units in a wave and cuttings in one, by arm; waves may differ, the first of the arm counts."""
    by_arm: dict[str, list[MadeUnit]] = {}
    for one, arm in zip(units, arms, strict=True):
        by_arm.setdefault(arm.id, []).append(one)
    found = {}
    for letter, own in by_arm.items():
        each = {one.cuttings for one in own}
        if len(each) > 1:
            raise UnusableData(
                _("units of arm {letter} hold {least} to {most} cuttings", letter=letter, least=min(each), most=max(each)),
                _("Plan as many in each; what is lost later is kept apart"),
                column="cutting",
            )  # fmt: skip
        first = min(one.wave for one in own)
        found[letter] = sum(one.wave == first for one in own), each.pop()
    return found


def _waves(plan: Plan, units: Sequence[MadeUnit], arms: Sequence[ArmPlan]) -> list[WaveDraw]:
    usual = plan.design.container
    waves = []
    for wave in sorted({one.wave for one in units}):
        here = [(one, arm) for one, arm in zip(units, arms, strict=True) if one.wave == wave]
        placed = [
            PlacedUnit(arm.id, Position(one.tray, one.row, one.column, one.spot), dict(one.groups), one.cuttings)
            for one, arm in here
        ]
        placed.sort(key=lambda u: (u.position.tray, u.position.row, u.position.column, u.position.spot))
        stands = []
        for tray in sorted({u.position.tray for u in placed}):
            inside = [u.position for u in placed if u.position.tray == tray]
            rows, columns = max(p.row for p in inside), max(p.column for p in inside)
            alone = usual.shape.alone and (rows, columns) == (1, 1)
            shape = usual.shape if alone or not usual.shape.alone else Shape.CELLS
            stands.append(
                Stand(
                    tray, replace(usual, shape=shape, rows=max(rows, usual.rows), columns=max(columns, usual.columns))
                )
            )
        waves.append(WaveDraw(wave, placed, stands, "".join(arm.id for _, arm in here)))
    return waves
