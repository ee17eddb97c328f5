"""The table an analysis works on: one row per cutting, in arms, units and groups."""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from itertools import compress
from math import prod
from typing import Any, overload

import numpy as np

from orderly_bench.core.cautions import Caution
from orderly_bench.core.vocabulary import ONLY_ARM, State

JOINER = " + "
#: Levels that say nothing without their factor, and those that say nothing without it where they stand alone.
ANSWERS = frozenset({"yes", "no"})
ABSENT = ANSWERS | {"none", "with", "without", "nil"}
#: Factors of these names are properties of the pieces, not assigned to them.
PROPERTIES = frozenset({"cutting type", "donor", "stock plant"})
#: And those that nobody even drew the places of: kinds of plant.
KINDS_OF_PLANT = frozenset(
    {
        "taxon",
        "species",
        "genus",
        "cultivar",
        "cultivars",
        "variety",
        "clone",
        "clones",
        "hybrid",
        "genotype",
        "provenance",
        "accession",
    }
)
#: Name of the roots that a cutting had when it was stuck, among what it started with.
EARLIER_ROOTS = "earlier_roots"
#: State of a planned place that stayed empty.
NOT_STUCK = "not stuck"
#: Without an outcome by design: neither counted nor left out.
SIMPLY_OUT = (State.SAMPLED, NOT_STUCK)


def kind_of_plant(factor: str) -> bool:
    """Whether a factor is what the plants are, which nobody assigns.

    >>> kind_of_plant("Species"), kind_of_plant("cutting_type")
    (True, False)
    """
    return factor.replace("_", " ").strip().casefold() in KINDS_OF_PLANT


def natural_key(text: str) -> tuple[object, ...]:
    """Sort key that puts ``300 ppm`` before ``1000 ppm``."""
    return tuple(
        (0, len(part.lstrip("0")), part.lstrip("0")) if part.isdigit() else (1, 0, part.casefold())
        for part in re.split(r"([0-9]+)", text)
        if part
    )


def spoken_level(factor: str, level: str, alone: bool = True) -> str:
    """A level as said: ``hormone 0``, ``wounded yes``, and alone ``hormone none``; else its own name."""
    bare = re.fullmatch(r"[-+]?[0-9]*[.,]?[0-9]+", level) is not None
    return f"{factor} {level}" if bare or level.casefold() in (ABSENT if alone else ANSWERS) else level


@dataclass(frozen=True, slots=True)
class Row:
    """One cutting as read.

    Attributes
    ----------
    levels : tuple of str
        Level of each factor.
    response : float or None
        None means left out, with ``state`` saying why. For days to root, None throughout.
    unit, block, pair, whole_plot, row, column, wave : str or None
        Groups as named in the file; None where the layout has none.
    last_without_day, first_with_day : float or None
        Days to root: last check without, and the check that found roots or death.
    outcome : str
        ``rooted``, ``dead`` or ``censored``.
    questioned : bool
        Its outcome and its state can't both be true: unknown until answered.
    start : tuple of (str, str)
        What the cutting started with, by name: its length, its grade, its donor.
    rooted : float or None
        Whether it rooted, where that is known beside another response.
    in_wave : bool
        Its block is its wave, or stands in it: no draw decided which arms that holds.
    line : int
        Line of the file, 0 when there is none.
    """

    levels: tuple[str, ...]
    response: float | None
    block: str | None = None
    state: str = ""
    line: int = 0
    unit: str | None = None
    pair: str | None = None
    whole_plot: str | None = None
    row: str | None = None
    column: str | None = None
    wave: str | None = None
    last_without_day: float | None = None
    first_with_day: float | None = None
    outcome: str = ""
    questioned: bool = False
    start: tuple[tuple[str, str], ...] = ()
    in_wave: bool = False
    rooted: float | None = None

    @property
    def known(self) -> bool:
        """Whether it has an outcome to analyse."""
        return self.response is not None or bool(self.outcome)


class Alone(Sequence[list[int]]):
    """Members of units of one cutting each: the i-th holds the i-th, none of them kept."""

    def __init__(self, number: int) -> None:
        self.number = number

    def __len__(self) -> int:
        return self.number

    @overload
    def __getitem__(self, index: int) -> list[int]: ...

    @overload
    def __getitem__(self, index: slice) -> list[list[int]]: ...

    def __getitem__(self, index: int | slice) -> list[int] | list[list[int]]:
        if isinstance(index, slice):
            return [[i] for i in range(self.number)[index]]
        return [range(self.number)[index]]


@dataclass(frozen=True)
class Columns:
    """The rows as arrays, one entry a row.

    Attributes
    ----------
    arm, stratum : ndarray of int
    known, out, empty, yes : ndarray of bool
        With an outcome; stuck without one; never stuck; above 0 or rooted.
    value : ndarray of float
        The response, 0 where there is none.
    """

    arm: np.ndarray
    stratum: np.ndarray
    known: np.ndarray
    out: np.ndarray
    empty: np.ndarray
    yes: np.ndarray
    value: np.ndarray

    def of(self, kept: np.ndarray, renumbered: np.ndarray) -> Columns:
        """Some of the rows, their arms renumbered."""
        parts = {name: getattr(self, name)[kept] for name in ("stratum", "known", "out", "empty", "yes", "value")}
        return Columns(arm=renumbered[self.arm[kept]], **parts)


@dataclass(frozen=True)
class Units:
    """Experimental units with a known outcome; a single cutting is its own unit.

    Attributes
    ----------
    arm, stratum : ndarray of int, shape (units,)
        ``stratum`` is the block, or 0 throughout.
    cuttings, total : ndarray of float, shape (units,)
        Examined cuttings and the sum of their responses.
    members : sequence of list of int
        Indices into the observations' known rows.
    """

    arm: np.ndarray
    stratum: np.ndarray
    cuttings: np.ndarray
    total: np.ndarray
    members: Sequence[list[int]]

    @property
    def mean(self) -> np.ndarray:
        """Mean response of each unit."""
        found: np.ndarray = self.total / self.cuttings
        return found


@dataclass(frozen=True)
class Observations:
    """Rows arranged for analysis.

    Attributes
    ----------
    factors : tuple of str
    arms : tuple of tuple of str
        Level values of each arm, naturally sorted.
    blocks : tuple of str
        Blocks or pairs; empty without.
    questions : tuple of Caution
        What is doubtful of the table they were read from.
    worked_out : dict
        What was worked out of them once, by name.
    """

    factors: tuple[str, ...]
    arms: tuple[tuple[str, ...], ...]
    blocks: tuple[str, ...]
    rows: tuple[Row, ...] = field(repr=False)
    questions: tuple[Caution, ...] = field(default=(), repr=False, compare=False)
    worked_out: dict[str, Any] = field(default_factory=dict, init=False, repr=False, compare=False)

    @cached_property
    def names(self) -> list[str]:
        """Arm names: level values joined by ``+`` in factor order; those that hold a ``+`` in quotes where two would be one."""
        names = [JOINER.join(arm) or ONLY_ARM for arm in self.arms]
        if len(set(names)) == len(names):
            return names
        return [JOINER.join(f'"{level}"' if "+" in level else level for level in arm) for arm in self.arms]

    @cached_property
    def labels(self) -> list[str]:
        """Arm names for sentences: a level that says nothing by itself is said with its factor."""
        alone = len(self.factors) == 1
        return [
            JOINER.join(spoken_level(f, level, alone) for f, level in zip(self.factors, arm, strict=True)) or ONLY_ARM
            for arm in self.arms
        ]

    @cached_property
    def level_names(self) -> list[list[str]]:
        """Levels of each factor, naturally sorted."""
        return [sorted({arm[f] for arm in self.arms}, key=natural_key) for f in range(len(self.factors))]

    @cached_property
    def level_index(self) -> np.ndarray:
        """Level index of each arm in each factor, shape (arms, factors)."""
        return np.array([[names.index(arm[f]) for f, names in enumerate(self.level_names)] for arm in self.arms])

    @cached_property
    def columns(self) -> Columns:
        """The rows as arrays, read once; what is restricted to some arms is sliced from them."""
        arm_of = {arm: i for i, arm in enumerate(self.arms)}
        block_of = {block: i for i, block in enumerate(self.blocks)}
        n = len(self.rows)
        known = np.fromiter((row.known for row in self.rows), dtype=bool, count=n)
        value = np.fromiter((row.response or 0.0 for row in self.rows), dtype=float, count=n)
        simply_out = np.fromiter((row.state in SIMPLY_OUT for row in self.rows), dtype=bool, count=n)
        rooted = np.fromiter((row.outcome == "rooted" for row in self.rows), dtype=bool, count=n)
        return Columns(
            np.fromiter((arm_of[row.levels] for row in self.rows), dtype=np.intp, count=n),
            np.fromiter((block_of.get(row.pair or row.block or "", 0) for row in self.rows), dtype=np.intp, count=n),
            known,
            ~known & ~simply_out,
            np.fromiter((row.state == NOT_STUCK for row in self.rows), dtype=bool, count=n),
            known & ((value > 0) | rooted),
            value,
        )

    @cached_property
    def known(self) -> list[Row]:
        """Rows with a known outcome."""
        return [row for row in self.rows if row.known]

    @cached_property
    def arm_of_known(self) -> np.ndarray:
        """Arm index of each known row."""
        return np.asarray(self.columns.arm[self.columns.known])

    @cached_property
    def stratum_of_known(self) -> np.ndarray:
        """Block or pair index of each known row, 0 without."""
        return np.asarray(self.columns.stratum[self.columns.known])

    @cached_property
    def responses(self) -> np.ndarray:
        """Response of each known row; 0 where days to root have none."""
        return np.asarray(self.columns.value[self.columns.known])

    @property
    def clustered(self) -> bool:
        """Whether several cuttings share a unit."""
        return self.rows[0].unit is not None and bool((self.units.cuttings > 1).any())

    @cached_property
    def lacks_arms(self) -> bool:
        """Whether a block was drawn without one of the arms; an arm whose cuttings there were all lost was drawn."""
        return bool(self.blocks) and not bool(self.drawn_in_block[self.drawn_in_block.any(axis=1)].all())

    @cached_property
    def drawn_in_block(self) -> np.ndarray:
        """Whether an arm was stuck in a block, shape (strata, arms)."""
        return np.asarray(self._table(~self.columns.empty) > 0)

    @cached_property
    def gaps(self) -> bool:
        """Whether a block has no known outcome of some arm, drawn so or lost: means need adjusting for blocks."""
        return bool(self.blocks) and bool((self.stuck == 0).any())

    def group_index(self, of: Callable[[Row], str | None]) -> np.ndarray:
        """Index of a group for each known row, naturally sorted."""
        names = sorted({of(row) or "" for row in self.known}, key=natural_key)
        index = {name: i for i, name in enumerate(names)}
        return np.array([index[of(row) or ""] for row in self.known], dtype=int)

    @cached_property
    def units(self) -> Units:
        """Units of the known rows, in order of first appearance."""
        if self.rows[0].unit is None:
            single = np.ones(self.responses.size)
            alone = Alone(self.responses.size)
            return Units(self.arm_of_known, self.stratum_of_known, single, self.responses, alone)
        return self.units_by([i if row.unit is None else row.unit for i, row in enumerate(self.known)])

    def units_by(self, keys: Sequence[object]) -> Units:
        """The known rows gathered by a key of each, in order of first appearance."""
        groups: dict[object, list[int]] = {}
        for i, key in enumerate(keys):
            groups.setdefault(key, []).append(i)
        members = list(groups.values())
        firsts = [m[0] for m in members]
        sums = np.array([self.responses[m].sum() for m in members])
        sizes = np.array([len(m) for m in members], dtype=float)
        return Units(self.arm_of_known[firsts], self.stratum_of_known[firsts], sizes, sums, members)

    @cached_property
    def counted(self) -> np.ndarray:
        """Known cuttings of each arm with a response above 0, or rooted; shape (arms,)."""
        return np.bincount(self.columns.arm[self.columns.yes], minlength=len(self.arms))

    @cached_property
    def counted_in_strata(self) -> np.ndarray:
        """The same per block and arm, shape (strata, arms)."""
        return self._table(self.columns.yes)

    @cached_property
    def every_combination(self) -> bool:
        """Whether every combination of levels is an arm."""
        return len(self.arms) == prod(len(names) for names in self.level_names)

    def _table(self, weight: np.ndarray) -> np.ndarray:
        """Sums of a weight of each row, whole numbers of them, per block and arm."""
        shape = max(1, len(self.blocks)), len(self.arms)
        cell = self.columns.stratum * shape[1] + self.columns.arm
        return np.bincount(cell, weights=weight.astype(int), minlength=shape[0] * shape[1]).astype(int).reshape(shape)

    @cached_property
    def stuck(self) -> np.ndarray:
        """Cuttings with a known outcome per block and arm, shape (strata, arms)."""
        return self._table(self.columns.known)

    @cached_property
    def rooted(self) -> np.ndarray:
        """Cuttings rooted per block and arm, shape (strata, arms)."""
        return self._table(self.columns.value)

    @cached_property
    def left_out(self) -> np.ndarray:
        """Cuttings left out per block and arm, shape (strata, arms); those sampled by design or never stuck are simply out."""
        return self._table(self.columns.out)

    @cached_property
    def share_left_out(self) -> np.ndarray:
        """Share of each arm's stuck cuttings without a known outcome, shape (arms,)."""
        out, known = self.left_out.sum(axis=0), self.stuck.sum(axis=0)
        return np.asarray(out / np.maximum(1, out + known))

    @cached_property
    def not_stuck(self) -> np.ndarray:
        """Planned places of each arm that stayed empty, shape (arms,)."""
        return np.asarray(self._table(self.columns.empty).sum(axis=0))

    @cached_property
    def unknown_arms(self) -> list[int]:
        """Arms without a single known outcome: counted, and in no comparison."""
        return [int(arm) for arm in np.flatnonzero(self.stuck.sum(axis=0) == 0)]

    def of_known_arms(self) -> Observations:
        """Without those arms."""
        unknown = self.unknown_arms
        return self.only([a for a in range(len(self.arms)) if a not in unknown]) if unknown else self

    def in_blocks(self, blocks: Sequence[int]) -> Observations:
        """The same observations in some of the blocks, with all of their arms."""
        kept = np.isin(self.columns.stratum, list(blocks))
        rows = tuple(compress(self.rows, kept))
        return Observations(self.factors, self.arms, tuple(self.blocks[b] for b in blocks), rows)

    def only(self, arms: Sequence[int]) -> Observations:
        """The same observations restricted to some arms, in the order given; strata are kept."""
        renumbered = np.full(len(self.arms), -1)
        renumbered[list(arms)] = np.arange(len(arms))
        kept = renumbered[self.columns.arm] >= 0
        rows = tuple(compress(self.rows, kept))
        made = Observations(self.factors, tuple(self.arms[a] for a in arms), self.blocks, rows)
        made.__dict__["columns"] = self.columns.of(kept, renumbered)
        return made
