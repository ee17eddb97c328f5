"""What is rehearsed: a trial laid out as it would be, every outcome still to come."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from orderly_bench.core.design.from_plan import arms_in, draw_plan
from orderly_bench.core.design.simulated_power import check_units
from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.layouts.arrange import arrange
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.observations.table import Observations, Row
from orderly_bench.core.plan.aspects import AspectKind
from orderly_bench.core.plan.value import Plan


@dataclass(frozen=True)
class BlankTrial:
    """A trial laid out.

    Attributes
    ----------
    observations : Observations
        A row for every cutting to be stuck; its outcome is a placeholder.
    arm : ndarray of int, shape (cuttings,)
        Arm of each row, in the order in which guesses are given.
    unit : ndarray of int, shape (cuttings,)
        Experimental unit of each row, numbered from 0.
    order : tuple of str
        Arms as guesses name them.
    """

    observations: Observations
    arm: np.ndarray
    unit: np.ndarray
    order: tuple[str, ...]

    def with_outcomes(self, values: np.ndarray) -> Observations:
        """The observations with these outcomes, shape (cuttings,); nothing else is built anew."""
        bare = self.observations
        made = Observations(bare.factors, bare.arms, bare.blocks, bare.rows)
        made.__dict__["columns"] = replace(bare.columns, value=values, yes=values > 0)
        return made

    def with_lives(self, values: np.ndarray, horizon: float, looks: Sequence[float]) -> Observations:
        """The observations with days to root, as looks on these days would find them.

        Parameters
        ----------
        values : ndarray of float, shape (cuttings,)
            Rooted-days inside the horizon; 0 for what had not rooted by then.
        """
        found = sorted({day for day in looks if 0 < day <= horizon} | {horizon})
        bare = self.observations
        rows = tuple(_lived(row, horizon - value, found) for row, value in zip(bare.rows, values.tolist(), strict=True))
        return Observations(bare.factors, bare.arms, bare.blocks, rows)


def _lived(row: Row, day: float, looks: Sequence[float]) -> Row:
    """A cutting that rooted on a day, between the last look without and the first with roots; not seen to by the last look."""
    at = bisect_left(looks, day)
    if at == len(looks) or day >= looks[-1]:
        return replace(row, response=None, outcome="censored", last_without_day=looks[-1])
    last = looks[at - 1] if at else None
    return replace(row, response=None, outcome="rooted", last_without_day=last, first_with_day=looks[at])


def of_two_arms(
    per_arm: int, per_unit: int | None, icc: float | None, blocks: int, names: tuple[str, str] = ("a", "b")
) -> BlankTrial:
    """Two arms of equal numbers, over the whole bench or in blocks.

    Raises
    ------
    InvalidInput
        Numbers that do not divide, one unit an arm in a block without others, an ICC without units.
    """
    units = check_units(per_arm, per_unit, icc, blocks)
    each = per_unit or 1
    rows, arm, unit = [], [], []
    for a, name in enumerate(names):
        for u in range(units * blocks):
            for _piece in range(each):
                rows.append(
                    Row(
                        (name,),
                        0.0,
                        block=f"block {u // units + 1}" if blocks > 1 else None,
                        unit=f"{name} {u + 1}" if each > 1 else None,
                    )
                )
                arm.append(a)
                unit.append(a * units * blocks + u)
    return BlankTrial(arrange(["arm"], rows), np.array(arm), np.array(unit), names)


def of_plan(plan: Plan, rng: np.random.Generator) -> BlankTrial:
    """The plan's own layout, drawn anew.

    Raises
    ------
    InvalidInput
        What the layout can't hold, or arms that no factor tells apart.
    """
    treatments = plan.treatments
    if not treatments.asked or len(treatments.arms) < 2:
        raise InvalidInput("arms", _("describe at least two that differ in what is asked"))
    letters = {arm.id: i for i, arm in enumerate(treatments.arms)}
    levels = {arm.id: treatments.level_names(arm) for arm in treatments.arms}
    season = treatments.of_kind(AspectKind.SEASON)
    by_wave = season is not None and season.asked and any(wave.season for wave in plan.schedule.waves)
    shared = any(plan.per_unit(arm) > 1 for wave in plan.schedule.waves for arm in arms_in(plan, wave))
    rows, arm, unit, number = [], [], [], 0
    for drawn in draw_plan(plan, rng):
        for placed in drawn.units:
            groups = placed.groups
            row = Row(
                levels[placed.arm],
                0.0,
                groups.get("block"),
                unit=f"u{number}" if shared else None,
                pair=groups.get("pair"),
                whole_plot=groups.get("whole plot"),
                row=groups.get("row"),
                column=groups.get("column"),
                wave=f"wave {drawn.wave}" if by_wave else None,
                in_wave=len(plan.schedule.waves) > 1 and not by_wave,
            )
            rows += [row] * placed.cuttings
            arm += [letters[placed.arm]] * placed.cuttings
            unit += [number] * placed.cuttings
            number += 1
    factors = [aspect.name for aspect in treatments.asked]
    return BlankTrial(arrange(factors, rows), np.array(arm), np.array(unit), tuple(letters))
