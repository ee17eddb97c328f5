"""The pieces that are ready to be stuck, and the places they go to."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.layouts.kinds import planned
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.plan.piece_lines import Pieces
from orderly_bench.core.plan.value import BlocksAre, Plan
from orderly_bench.core.randomise.allocation import Spread, allot, allot_pairs


@dataclass(frozen=True)
class Place:
    """A place to be filled: its arm, its wave, and the block and pair it belongs to, blank where there is none."""

    arm: str
    wave: int = 1
    block: str = ""
    pair: str = ""


def ready_for(plan: Plan, wave: int) -> list[Pieces]:
    """The lines of pieces that a wave is stuck from."""
    return [p for p in plan.design.pieces if p.wave in (0, wave)]


def left_over(plan: Plan) -> int:
    """Pieces that are ready and have no place, over all waves."""
    ready = sum(p.how_many for wave in plan.schedule.waves for p in ready_for(plan, wave.number))
    return max(0, ready - plan.cuttings) if plan.design.pieces else 0


def check_pieces(plan: Plan) -> None:
    """Enough pieces for every wave; of pairs two of a line, of blocks that are stock plants each from its own.

    Raises
    ------
    InvalidInput
    """
    design, waves = plan.design, [wave.number for wave in plan.schedule.waves]
    if not design.pieces:
        if design.blocks_are is BlocksAre.DONORS:
            raise InvalidInput("pieces", _("write them by stock plant: each block is stuck from its own plant"))
        return
    unknown = [p for p in design.pieces if p.wave and p.wave not in waves]
    if unknown:
        raise InvalidInput(
            f"pieces, line {unknown[0].number}", _("name a wave from 1 to {n}", n=len(waves)), unknown[0].wave
        )
    for wave in waves:
        _check_wave(plan, wave)


def _check_wave(plan: Plan, wave: int) -> None:
    lines = ready_for(plan, wave)
    needed = sum(
        plan.cuttings_of(arm) for arm in plan.treatments.arms if wave in [one.number for one in plan.waves_of(arm)]
    )
    of_it = _(" of wave {wave}", wave=wave) if len(plan.schedule.waves) > 1 else ""
    if planned(plan.design.layout).paired:
        pairs = sum(p.how_many // 2 for p in lines)
        if pairs < needed // 2:
            rule = _(
                "of pairs come two from one line; they must make at least the {needed} pairs{of_it}",
                needed=needed // 2,
                of_it=of_it,
            )
            raise InvalidInput("pieces", rule, pairs)
        return
    ready = sum(p.how_many for p in lines)
    if ready < needed:
        raise InvalidInput(
            "pieces",
            _("must be at least the {needed} cuttings{of_it}", needed=needed, of_it=of_it or _(" of the design")),
            ready,
        )
    if plan.design.blocks_are is not BlocksAre.DONORS:
        return
    each = needed // max(1, plan.design.blocks)
    for name in plan.design.block_names:
        of_plant = sum(p.how_many for p in lines if p.donor.casefold() == name.casefold())
        if of_plant < each:
            raise InvalidInput(
                "pieces",
                _(
                    "of {name} must be at least the {each} cuttings of its block{of_it}",
                    name=name,
                    each=each,
                    of_it=of_it,
                ),
                of_plant,
            )


def allotted(plan: Plan, places: Sequence[Place], seed: int) -> list[int]:
    """Number of the line of pieces that each place is filled from, in the order of the places.

    Every wave is filled by itself. The two of a pair come from one line; a block that is a stock plant from that plant.

    Parameters
    ----------
    seed : int
        Of the draw; the pieces have a stream of their own.
    """
    rng = np.random.default_rng(np.random.SeedSequence(seed).spawn(3)[2])
    found = [0] * len(places)
    for wave in sorted({place.wave for place in places}):
        lines, here = ready_for(plan, wave), [i for i, place in enumerate(places) if place.wave == wave]
        for group, own in _groups(plan, places, here, lines):
            for i, line in zip(group, _filled([places[i] for i in group], own, rng), strict=True):
                found[i] = line
    return found


def _groups(
    plan: Plan, places: Sequence[Place], here: list[int], lines: list[Pieces]
) -> list[tuple[list[int], list[Pieces]]]:
    """Places that are filled from the same lines: those of a block from its plant, else all."""
    if plan.design.blocks_are is not BlocksAre.DONORS:
        return [(here, lines)]
    found = []
    for name in plan.design.block_names:
        own = [p for p in lines if p.donor.casefold() == name.casefold()]
        found.append(([i for i in here if block_name(plan, places[i]).casefold() == name.casefold()], own))
    return found


def block_name(plan: Plan, place: Place) -> str:
    """A block's own name: in several waves its group is named with its wave before it."""
    return place.block.removeprefix(f"wave {place.wave} ") if len(plan.schedule.waves) > 1 else place.block


def _filled(places: list[Place], lines: list[Pieces], rng: np.random.Generator) -> list[int]:
    """The line of each place, drawn."""
    if places and places[0].pair:
        pairs = list(dict.fromkeys(place.pair for place in places))
        slots = np.repeat([p.number for p in lines], [p.how_many // 2 for p in lines])
        of_pair = dict(zip(pairs, slots[allot_pairs(len(pairs), slots.size, rng)].tolist(), strict=True))
        return [of_pair[place.pair] for place in places]
    each = [p.how_many for p in lines]
    line = np.repeat([p.number for p in lines], each)
    kind = _numbered([(p.donor, p.grade) for p in lines])
    stem, place = _numbered([(p.donor, p.stem) for p in lines]), _numbered([(p.place,) for p in lines])
    letters = sorted({place.arm for place in places})
    arm = np.array([letters.index(place.arm) for place in places])
    chosen = allot(arm, np.repeat(kind, each), rng, Spread(np.repeat(stem, each), np.repeat(place, each)))
    return [int(n) for n in line[chosen]]


def _numbered(names: Sequence[tuple[str, ...]]) -> np.ndarray:
    """A whole number for each, the same for those that differ by case only, shape (lines,)."""
    known: dict[tuple[str, ...], int] = {}
    return np.array([known.setdefault(tuple(part.casefold() for part in name), len(known)) for name in names])


@dataclass(frozen=True)
class Pick:
    """What to take from one donor: its line of pieces, and the codes of the places it goes to."""

    pieces: Pieces
    codes: tuple[str, ...]
    wave: int = 0

    @property
    def left(self) -> int:
        """Pieces of it that are over."""
        return self.pieces.how_many - len(self.codes)


def pick_list(plan: Plan, places: Sequence[tuple[str, int, int | None]]) -> list[Pick]:
    """What to take from each donor for each wave, in the order of the lines; a wave is named where there are several.

    Parameters
    ----------
    places : sequence of (code, wave, number of the line)
        In bench order; None where nothing is allotted.
    """
    several = len(plan.schedule.waves) > 1
    return [
        Pick(
            p, tuple(code for code, at, line in places if line == p.number and at == wave.number), wave.number * several
        )
        for wave in plan.schedule.waves
        for p in ready_for(plan, wave.number)
    ]
