"""Versions of a locked plan, and whether what is stored is still what was locked."""

from __future__ import annotations

from dataclasses import replace

from orderly_bench.core.plan.text import digest
from orderly_bench.core.plan.value import DrawMade, DrawnUnit, Plan
from orderly_bench.trial.models import Trial


def with_draw(trial: Trial, plan: Plan) -> Plan:
    """The plan with its draws and units as they stand in the rows."""
    letters, waves = {arm.id: arm.letter for arm in trial.arms}, {wave.id: wave.number for wave in trial.waves}
    trays = {tray.id: tray.number for tray in trial.trays}
    draws = tuple(DrawMade(d.number, d.seed, d.reason, tuple(d.result)) for d in trial.draws)
    units = []
    for unit in trial.units:
        first = unit.placements[0]
        planned = sum(1 for cutting in unit.cuttings if cutting.replaces_id is None)
        units.append(
            DrawnUnit(
                unit.code, letters[unit.arm_id], waves[unit.wave_id], trays[first.tray_id], first.row, first.column, first.spot, planned,
                {g.kind: g.name for g in unit.groupings},
                tuple(c.piece for c in unit.cuttings if c.replaces_id is None and c.piece is not None),
            )
        )  # fmt: skip
    return replace(plan, draws=draws, units=tuple(units))


def plan_holds(trial: Trial) -> bool:
    """Whether every stored version has its digest, the newest is in force, and draws and units are those that were locked."""
    if not trial.versions:
        return True
    if any(digest(v.sealed if v.sealed is not None else v.text) != v.digest for v in trial.versions):
        return False
    return trial.versions[-1].text == trial.plan_text and with_draw(trial, trial.plan) == trial.plan
