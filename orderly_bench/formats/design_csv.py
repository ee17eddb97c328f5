"""A design as CSV, a row a cutting: which unit, where it stands, its arm, what it was drawn inside. Written, and read back from elsewhere."""

from __future__ import annotations

from collections.abc import Iterable

from orderly_bench.core.design.made_elsewhere import MadeUnit
from orderly_bench.core.errors import UnusableData
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.plan.value import Plan
from orderly_bench.formats.table_csv import column, read_table, write

#: Columns of groups, and what each group is called.
GROUPS = {"block": "block", "pair": "pair", "whole_plot": "whole plot", "square_row": "row", "square_column": "column"}
COLUMNS = ("unit", "wave", "tray", "row", "column", "spot", "arm", *GROUPS, "cutting")
MOST_UNITS = 5_000


def write_design(plan: Plan) -> str:
    """The drawn units of a plan, a row a planned cutting."""
    names = {arm.id: plan.treatments.name(arm) for arm in plan.treatments.arms}

    def rows() -> Iterable[list[object]]:
        for unit in plan.units:
            groups = [unit.groups.get(kind, "") for kind in GROUPS.values()]
            where = [unit.code, unit.wave, unit.tray, unit.row, unit.column, unit.spot]
            for number in range(1, unit.cuttings + 1):
                yield [*where, unit.arm, *groups, number, names[unit.arm]]

    return write([*COLUMNS, "arm_name"], rows())


def read_design(data: bytes) -> list[MadeUnit]:
    """Units of a design made elsewhere; rows of one unit are its cuttings.

    Columns ``unit``, ``row``, ``column`` and ``arm`` are needed; ``wave``, ``tray`` and ``spot`` are 1 where they are missing.

    Raises
    ------
    UnusableData
        Names row, column and remedy.
    """
    table = read_table(data)
    places = {name: column(table, name) for name in ("unit", "row", "column", "arm")}
    places |= {name: table.header.index(name) for name in COLUMNS if name in table.header and name not in places}
    units: dict[tuple[str, str], MadeUnit] = {}
    for cells, line in zip(table.rows, table.lines, strict=True):
        made = _unit(cells, places, line)
        key = made.unit, str(made.wave)
        before = units.get(key)
        if before is not None and before.place != made.place:
            raise UnusableData(
                _("this unit stands in two places or arms"),
                _("One unit has one place and one arm"),
                row=line,
                column="unit",
            )
        units[key] = made if before is None else before.with_one_more()
        if len(units) > MOST_UNITS:
            raise UnusableData(_("more than {most_units} units", most_units=MOST_UNITS), _("Make it two trials"))
    return list(units.values())


def _unit(cells: list[str], places: dict[str, int], line: int) -> MadeUnit:
    def number(name: str) -> int:
        typed = cells[places[name]] if name in places else "1"
        if not typed.isdecimal() or len(typed) > 5 or not 1 <= int(typed) <= 10_000:
            raise UnusableData(
                _("{typed} is no number of a {name}", typed=typed or _("a blank"), name=name),
                _("Count from 1"),
                row=line,
                column=name,
            )
        return int(typed)

    for name in ("unit", "arm"):
        if not cells[places[name]]:
            raise UnusableData(_("the {name} is blank", name=name), _("Fill it on every row"), row=line, column=name)
    groups = {kind: cells[places[name]] for name, kind in GROUPS.items() if name in places and cells[places[name]]}
    where = number("wave"), number("tray"), number("row"), number("column"), number("spot")
    return MadeUnit(cells[places["unit"]], cells[places["arm"]], *where, groups, 1, line)
