"""Which piece goes to which place of a draw, and whether what belongs together falls evenly over the arms."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from orderly_bench.core.design.balance import Balance, balance
from orderly_bench.core.design.from_plan import WaveDraw
from orderly_bench.core.errors import OrderlyError
from orderly_bench.core.plan.pieces import Place, allotted, check_pieces
from orderly_bench.core.plan.value import Plan
from orderly_bench.trial.models import Trial, Unit


@dataclass(frozen=True)
class Material:
    """Every planned cutting of a draw: its unit, its place, and the line of pieces that fills it; None where none is allotted."""

    plan: Plan
    units: list[int]
    places: list[Place]
    lines: list[int | None]

    @property
    def donors(self) -> dict[int, str]:
        """Donor of each unit, or donors; blank where nobody said."""
        of_line = {p.number: p.donor for p in self.plan.design.pieces}
        found: dict[int, list[str]] = {}
        for unit, line in zip(self.units, self.lines, strict=True):
            found.setdefault(unit, []).append(of_line.get(line or 0, ""))
        return {unit: "+".join(dict.fromkeys(donor for donor in donors if donor)) for unit, donors in found.items()}

    @property
    def balance(self) -> list[Balance]:
        """Blocks, donors, grades, days and people over the arms."""
        return balance(self.plan, self.places, self.lines)


def of_units(trial: Trial, units: Sequence[Unit], plan: Plan | None = None) -> Material:
    """Of a kept draw: what is allotted, or what the lock would allot."""
    plan, waves = plan or trial.plan, {wave.id: wave.number for wave in trial.waves}
    letters = {arm.id: arm.letter for arm in trial.arms}
    own, places, lines = list[int](), list[Place](), list[int | None]()
    for unit in units:
        arm = letters[unit.arm_id]
        place = Place(arm, waves[unit.wave_id], unit.group("block") or "", unit.group("pair") or "")
        planned = [cutting.piece for cutting in unit.cuttings if cutting.replaces_id is None]
        planned = planned or [None] * plan.per_unit(plan.treatments.arm(arm))
        own += [unit.id] * len(planned)
        places += [place] * len(planned)
        lines += planned
    made = Material(plan, own, places, lines)
    return made if any(lines) or not trial.draws else _filled(made, trial.draws[-1].seed)


def of_draw(plan: Plan, drawn: Sequence[WaveDraw]) -> Material:
    """Of a draw that is not kept: as the pieces could fall. Units are counted over the waves."""
    units, places = list[int](), list[Place]()
    for number, (wave, unit) in enumerate((one.wave, unit) for one in drawn for unit in one.units):
        units += [number] * unit.cuttings
        places += [Place(unit.arm, wave, unit.groups.get("block", ""), unit.groups.get("pair", ""))] * unit.cuttings
    return _filled(Material(plan, units, places, [None] * len(places)), 0)


def _filled(material: Material, seed: int) -> Material:
    """With every place's line, where the plan has pieces enough."""
    if not material.plan.design.pieces:
        return material
    try:
        check_pieces(material.plan)
    except OrderlyError:
        return material  # what is lacking is said where the pieces are typed
    return Material(
        material.plan, material.units, material.places, list(allotted(material.plan, material.places, seed))
    )
