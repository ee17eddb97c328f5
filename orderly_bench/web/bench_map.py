"""The bench map as views: the same for design, sticking, scoring and result."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field

from markupsafe import Markup

from orderly_bench.core.design.from_plan import WaveDraw
from orderly_bench.figures import glyphs, stakes
from orderly_bench.trial.load import PARTED
from orderly_bench.trial.models import Tray, Unit

#: A cell in the drawing of its tray.
CELL_WIDE, CELL_TALL = 34, 48


@dataclass(frozen=True)
class Cell:
    """One position; ``id`` None when nothing stands there. ``group``, ``code`` and ``donor`` are layers beside the arm;
    ``count`` says how many of the cuttings in one place."""

    row: int
    column: int
    id: int | None = None
    label: str = "empty"
    href: str = ""
    letter: str = ""
    look: glyphs.Look | None = None
    cross: bool = False
    hit: bool = False
    group: str = ""
    code: str = ""
    donor: str = ""
    count: str = ""

    @property
    def x(self) -> int:
        """Its left edge in the drawing of the tray."""
        return (self.column - 1) * CELL_WIDE + 1

    @property
    def y(self) -> int:
        """Its upper edge."""
        return (self.row - 1) * CELL_TALL + 1

    @property
    def stake(self) -> Markup:
        """Its stake, small and centred, or in the corner when a glyph is drawn too."""
        place = "translate(8.5 9) scale(0.78)" if self.look is None else "translate(0.5 33) scale(0.38)"
        return Markup(f'<g transform="{place}">{stakes.inside(self.letter)}</g>')  # noqa: S704 - one capital letter


@dataclass(frozen=True)
class TrayView:
    """One tray with all its positions; heavy lines part the blocks."""

    number: int
    rows: int
    columns: int
    cells: list[Cell]
    note: str = ""
    cell_px: int = 37
    block_lines: list[str] = field(default_factory=list)

    @property
    def width(self) -> int:
        """Of the drawing."""
        return self.columns * CELL_WIDE + 2

    @property
    def height(self) -> int:
        """Of the drawing."""
        return self.rows * CELL_TALL + 2

    @property
    def width_px(self) -> int:
        """As shown."""
        return self.columns * self.cell_px + 2


def tray_views(
    trays: Iterable[Tray],
    units: Sequence[Unit],
    cell_for: Callable[[Unit], Cell],
    note_for: Callable[[Iterable[Unit]], str] = lambda _units: "",
    cell_px: int = 37,
) -> list[TrayView]:
    """Lay units over their trays; ``cell_for`` says what a unit shows, ``note_for`` what a tray's units are."""
    by_tray: dict[int, dict[tuple[int, int], Unit]] = {}
    for unit in units:
        place = unit.place
        by_tray.setdefault(place.tray_id, {})[place.row, place.column] = unit
    views = []
    for tray in trays:
        here = by_tray.get(tray.id, {})
        cells = [
            cell_for(here[row, column]) if (row, column) in here else Cell(row, column)
            for row in range(1, tray.rows + 1)
            for column in range(1, tray.columns + 1)
        ]
        lines = block_lines({place: _plot(unit) for place, unit in here.items()})
        views.append(TrayView(tray.number, tray.rows, tray.columns, cells, note_for(here.values()), cell_px, lines))
    return views


#: Room for a row of trays on a desk, and between two of them, px.
ROW_PX, GAP_PX = 880, 24


def cell_size(columns: Sequence[int]) -> int:
    """Width of a cell, px, at which up to four trays stand in one row."""
    row = columns[:4]
    return max(16, min(30, (ROW_PX - GAP_PX * len(row)) // max(1, sum(row))))


def drawn_views(drawn: Sequence[WaveDraw], donors: Mapping[int, str]) -> list[TrayView]:
    """A draw that is not kept, laid over what it would stand in; ``donors`` by the unit's number over the waves."""
    number = {id(unit): n for n, unit in enumerate(unit for wave in drawn for unit in wave.units)}
    views = []
    cell_px = cell_size([1 if s.container.shape.alone else s.container.columns for wave in drawn for s in wave.stands])
    for wave in drawn:
        for stand in wave.stands:
            rows, columns = (1, 1) if stand.container.shape.alone else (stand.container.rows, stand.container.columns)
            here = {(u.position.row, u.position.column): u for u in wave.units if u.position.tray == stand.number}
            cells = []
            for row in range(1, rows + 1):
                for column in range(1, columns + 1):
                    unit = here.get((row, column))
                    group = _parted(unit.groups) if unit else None
                    label = (
                        f"row {row} column {column}: arm {unit.arm}{f', {group}' if group else ''}" if unit else "empty"
                    )
                    cells.append(
                        Cell(
                            row,
                            column,
                            1 if unit else None,
                            label,
                            letter=unit.arm if unit else "",
                            group=short_group(group),
                            donor=donors.get(number[id(unit)], "") if unit else "",
                        )
                    )
            lines = block_lines({place: _parted(unit.groups) for place, unit in here.items()})
            names = list(dict.fromkeys(g for u in here.values() if (g := _parted(u.groups))))
            note = ", ".join(names) if len(names) <= 4 else f"{names[0]} to {names[-1]}"
            views.append(TrayView(stand.number, rows, columns, cells, note, cell_px, lines))
    return views


def _parted(groups: Mapping[str, str]) -> str | None:
    return next((groups[kind] for kind in PARTED if kind in groups), None)


def short_group(name: str | None) -> str:
    """The number of a block, pair or whole plot, for a cell of the map."""
    return (name or "").rsplit(" ", 1)[-1]


def block_lines(groups: Mapping[tuple[int, int], str | None]) -> list[str]:
    """Lines between neighbouring cells of different groups, by row and column."""
    lines = []
    for (row, column), own in groups.items():
        x, y = column * 34 + 0.5, row * 48 + 0.5
        if (row, column + 1) in groups and groups[row, column + 1] != own:
            lines.append(f"M{x} {y - 48}V{y}")
        if (row + 1, column) in groups and groups[row + 1, column] != own:
            lines.append(f"M{x - 34} {y}H{x}")
    return lines


def _plot(unit: Unit) -> str | None:
    """The group that a heavy line parts from the next: block, pair or whole plot."""
    return next((g.name for g in unit.groupings if g.kind in PARTED), None)


def blocks_of(units: Iterable[Unit]) -> str:
    """The blocks, pairs or whole plots of a tray's units, in words."""
    names = list(dict.fromkeys(_plot(u) or "" for u in units))
    if len(names) > 4:
        return f"{names[0]} to {names[-1]}"
    return ", ".join(name for name in names if name)
