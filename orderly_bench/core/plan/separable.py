"""What can be told apart: which asked contrasts are estimable when the arms' whole descriptions are compared.

An asked contrast is *separable* when it is estimable in the additive model of all varying aspects: it lies in the row
space of the arms' design matrix (Searle 1971, *Linear Models*, ch. 5). An arm that does not say a varying aspect can't
help to tell anything apart, for a blank is never a level.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from itertools import combinations, product

import numpy as np

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import all_of
from orderly_bench.core.messages.translation import gettext as _

MOST_ADDED = 3
#: Mends of one kind that are listed.
MOST_LISTED = 3
MOST_CANDIDATES = 20_000
MOST_TRIED = 60_000
NEARLY_ZERO = 1e-8


#: Whether an arm with these values, by aspect, could stand on a bench.
Can = Callable[[Mapping[str, str]], bool]


@dataclass(frozen=True)
class Described:
    """An arm with what it says of each aspect; an aspect it does not say is absent or blank."""

    name: str
    values: Mapping[str, str]

    def says(self, aspect: str) -> str:
        """Its value, blank when not said."""
        return self.values.get(aspect, "").strip()


@dataclass(frozen=True)
class Contrast:
    """Two levels of an asked aspect.

    Attributes
    ----------
    separable : bool
        Estimable in the additive model of all varying aspects.
    travels_with : tuple of str
        Each other varying aspect with which alone it is mixed up.
    together : tuple of tuple of str
        The smallest sets of other aspects that explain it where no single one does.
    """

    aspect: str
    a: str
    b: str
    separable: bool
    travels_with: tuple[str, ...] = ()
    together: tuple[tuple[str, ...], ...] = ()


@dataclass(frozen=True)
class Mend:
    """What makes every asked contrast separable.

    Attributes
    ----------
    make_same : tuple of str
        Travelling aspects to make the same in every arm.
    add_arms : tuple of dict
        Values of each arm to add.
    merged : tuple of tuple of str
        Arms that become alike by it, and so are one.
    """

    make_same: tuple[str, ...]
    add_arms: tuple[Mapping[str, str], ...]
    merged: tuple[tuple[str, ...], ...] = ()

    @property
    def added(self) -> int:
        """Arms to add."""
        return len(self.add_arms)


@dataclass(frozen=True)
class Separation:
    """Everything the arms' descriptions tell. ``same`` maps an aspect to the value all arms share."""

    same: Mapping[str, str]
    asked: tuple[str, ...]
    travelling: tuple[str, ...]
    not_said: tuple[str, ...]
    contrasts: tuple[Contrast, ...]
    mends: tuple[Mend, ...]

    @property
    def separable(self) -> bool:
        """Whether every asked contrast can be told apart."""
        return all(contrast.separable for contrast in self.contrasts)


@dataclass(frozen=True)
class _Table:
    """Arms over the aspects that vary among them."""

    arms: tuple[Described, ...]
    asked: tuple[str, ...]
    aspects: tuple[str, ...]
    can: Can = lambda _: True

    @cached_property
    def levels(self) -> dict[str, list[str]]:
        """Values of each aspect in order of appearance."""
        return {a: [v for v in dict.fromkeys(arm.says(a) for arm in self.arms) if v] for a in self.aspects}

    @cached_property
    def varying(self) -> tuple[str, ...]:
        """Aspects with two values or more."""
        return tuple(a for a in self.aspects if len(self.levels[a]) > 1)

    @cached_property
    def travelling(self) -> tuple[str, ...]:
        """Varying and not asked."""
        return tuple(a for a in self.varying if a not in self.asked)

    @property
    def not_said(self) -> tuple[str, ...]:
        """Aspects that some arm leaves blank and no two arms are known to differ in."""
        return tuple(a for a in self.aspects if a not in self.varying and any(not arm.says(a) for arm in self.arms))

    @property
    def same(self) -> dict[str, str]:
        """Aspects every arm says alike."""
        return {a: self.levels[a][0] for a in self.aspects if a not in self.varying and a not in self.not_said}

    def pairs(self) -> list[tuple[str, str, str]]:
        """Every asked contrast."""
        return [(f, a, b) for f in self.asked for a, b in combinations(self.levels[f], 2)]

    def matrix(self, aspects: Sequence[str]) -> np.ndarray:
        """Intercept and an indicator for each value, shape (arms that say all of ``aspects``, 1 + values)."""
        told = [arm for arm in self.arms if all(arm.says(a) for a in aspects)]
        return np.array([self.row(arm, aspects) for arm in told]).reshape(len(told), -1)

    def row(self, arm: Described, aspects: Sequence[str]) -> list[float]:
        """One arm's row of the matrix."""
        return [1.0] + [float(arm.says(a) == level) for a in aspects for level in self.levels[a]]

    def contrast(self, pair: tuple[str, str, str], aspects: Sequence[str]) -> np.ndarray:
        """Coefficients of a contrast in the matrix's columns."""
        factor, first, second = pair
        names = [(a, level) for a in aspects for level in self.levels[a]]
        return np.array([0.0] + [float(n == (factor, first)) - float(n == (factor, second)) for n in names])

    def estimable(self, pair: tuple[str, str, str], aspects: Sequence[str]) -> bool:
        """Whether the contrast lies in the row space of the model of ``aspects``."""
        matrix = self.matrix(aspects)
        return matrix.size > 0 and not _residual(_row_space(matrix), self.contrast(pair, aspects)).any()

    def separable(self) -> bool:
        """Whether every asked contrast is estimable in the model of all varying aspects."""
        return all(self.estimable(pair, self.varying) for pair in self.pairs())


def _row_space(matrix: np.ndarray) -> np.ndarray:
    """Orthonormal rows that span the row space."""
    if matrix.size == 0:
        return np.zeros((0, matrix.shape[1]))
    _, size, rows = np.linalg.svd(matrix, full_matrices=False)
    return np.asarray(rows[size > NEARLY_ZERO * max(1.0, size[0])])


def _residual(space: np.ndarray, vector: np.ndarray) -> np.ndarray:
    """What of a vector lies outside a space; exact zeros where nothing does."""
    rest = vector - (vector @ space.T) @ space
    return np.where(np.abs(rest) > NEARLY_ZERO, rest, 0.0)


def separate(
    arms: Sequence[Described], asked: Sequence[str], blanks: Sequence[tuple[str, str]] = (), can: Can = lambda _: True
) -> Separation:
    """Compare the arms' whole descriptions.

    Parameters
    ----------
    arms : sequence of Described
        At least two, no two alike in everything.
    asked : sequence of str
        Aspects the trial asks about; each must vary.
    blanks : sequence of (aspect, value)
        Further values that an added arm may have, such as a carrier alone.
    can : callable
        Whether an arm with these values could stand on a bench; others are never offered.

    Raises
    ------
    InvalidInput
        Fewer than two arms, a blank or repeated name, an asked aspect that does not vary, two arms alike in everything.

    Examples
    --------
    >>> found = separate(
    ...     [Described("1", {"hormone": "IBA", "pot": "clear"}), Described("2", {"hormone": "none", "pot": "dark"})], ["hormone"]
    ... )
    >>> found.contrasts[0].travels_with
    ('pot',)
    """
    table = replace(_table(arms, asked), can=can)
    contrasts = tuple(_judged(table, pair) for pair in table.pairs())
    mends = () if all(c.separable for c in contrasts) else _mends(table, blanks)
    return Separation(table.same, tuple(asked), table.travelling, table.not_said, contrasts, mends)


def _table(arms: Sequence[Described], asked: Sequence[str]) -> _Table:
    if len(arms) < 2:
        raise InvalidInput("arms", _("give at least two; one arm has nothing to be compared with"), len(arms))
    _check_names([arm.name for arm in arms])
    table = _Table(tuple(arms), tuple(asked), tuple(dict.fromkeys(a for arm in arms for a in arm.values)))
    for aspect in table.aspects:
        _refuse_case_twins(aspect, table.levels[aspect])
    if not asked:
        raise InvalidInput("asked", _("name at least one aspect that the trial asks about"))
    for aspect in asked:
        if aspect not in table.aspects:
            raise InvalidInput(
                "asked", _("must be one of the aspects: {names}", names=", ".join(table.aspects)), aspect
            )
        if aspect not in table.varying:
            raise InvalidInput("asked", _("must differ between arms; give it two values, or do not ask it"), aspect)
    alike = _alike(table.arms, table.aspects)
    if alike:
        raise InvalidInput("arms", _("must differ in something; these are alike in everything"), all_of(alike[0]))
    return table


def _check_names(names: Sequence[str]) -> None:
    seen: dict[str, str] = {}
    for number, name in enumerate(names, start=1):
        if not name.strip():
            raise InvalidInput("arms", _("name every arm; this one is blank"), f"arm {number}")
        key = " ".join(name.casefold().split())
        if key in seen:
            raise InvalidInput("arms", _("give each its own name; {seen!r} stands twice", seen=seen[key]), name)
        seen[key] = name


def _refuse_case_twins(aspect: str, levels: Sequence[str]) -> None:
    seen: dict[str, str] = {}
    for level in levels:
        twin = seen.setdefault(" ".join(level.casefold().split()), level)
        if twin != level:
            raise InvalidInput(
                aspect,
                _(
                    "{twin!r} and {level!r} differ by case or blanks only; are they one? Write them alike",
                    twin=twin,
                    level=level,
                ),
            )


def _alike(arms: Sequence[Described], aspects: Sequence[str]) -> list[tuple[str, ...]]:
    groups: dict[tuple[str, ...], list[str]] = {}
    for arm in arms:
        groups.setdefault(tuple(arm.says(a) for a in aspects), []).append(arm.name)
    return [tuple(names) for names in groups.values() if len(names) > 1]


def _judged(table: _Table, pair: tuple[str, str, str]) -> Contrast:
    factor, a, b = pair
    if table.estimable(pair, table.varying):
        return Contrast(factor, a, b, True)
    others = [aspect for aspect in table.varying if aspect != factor]
    alone = tuple(other for other in others if not table.estimable(pair, [factor, other]))
    together: tuple[tuple[str, ...], ...] = ()
    for size in range(2, len(others) + 1) if not alone else ():
        together = tuple(s for s in combinations(others, size) if not table.estimable(pair, [factor, *s]))
        if together:
            break
    return Contrast(factor, a, b, False, alone, together)


def _made_same(table: _Table, aspects: Sequence[str]) -> tuple[_Table, tuple[tuple[str, ...], ...]]:
    """The table with some aspects the same in every arm, arms that become alike being one."""
    common = {a: table.levels[a][0] for a in aspects}
    changed = [replace(arm, values={**arm.values, **common}) for arm in table.arms]
    kept = {tuple(arm.says(a) for a in table.aspects): arm for arm in reversed(changed)}
    merged = tuple(_alike(changed, table.aspects))
    return _Table(tuple(reversed(kept.values())), table.asked, table.aspects, table.can), merged


def _mends(table: _Table, blanks: Sequence[tuple[str, str]]) -> tuple[Mend, ...]:
    """Mends, cheapest first: nothing added, then by the number of arms added and of aspects made the same."""
    found: list[Mend] = []
    fewest_with_same: int | None = None
    for size in range(1, len(table.travelling) + 1):
        for aspects in combinations(table.travelling, size):
            trimmed, merged = _made_same(table, aspects)
            if trimmed.separable():
                found.append(Mend(aspects, (), merged))
        if found:
            fewest_with_same = 0
            break
    added = _fewest_added(table, ())
    found += [Mend((), arms) for arms in added]
    if fewest_with_same is None and table.travelling:
        found += _same_and_added(table, len(added[0]) if added else MOST_ADDED + 1)
    found += [Mend((), arms) for arms in _with_blanks(table, blanks)]
    return tuple(sorted(found, key=lambda mend: (mend.added, len(mend.make_same), _far(table, mend.add_arms))))


def _far(table: _Table, added: Sequence[Mapping[str, str]]) -> int:
    """In how many aspects the added arms differ from the ones nearest to them; one each is the least."""
    return sum(
        min(sum(values.get(a, "") != arm.says(a) for a in table.varying) for arm in table.arms) for values in added
    )


def _same_and_added(table: _Table, fewer_than: int) -> list[Mend]:
    """Where asked aspects are mixed up with each other: the travelling ones the same, and fewer arms than otherwise."""
    for size in range(1, len(table.travelling) + 1):
        found = []
        for aspects in combinations(table.travelling, size):
            trimmed, merged = _made_same(table, aspects)
            found += [Mend(aspects, arms, merged) for arms in _fewest_added(trimmed, ())[:1] if len(arms) < fewer_than]
        if found:
            least = min(mend.added for mend in found)
            return [mend for mend in found if mend.added == least][:MOST_LISTED]
    return []


def _candidates(table: _Table, blanks: Sequence[tuple[str, str]]) -> list[Described]:
    """Arms out of the values there are (and the blanks) that are not there yet, nearest to those there are first."""
    values = {a: table.levels[a] + [v for b, v in blanks if b == a and v not in table.levels[a]] for a in table.varying}
    fixed = table.same
    ways = int(np.prod([len(v) for v in values.values()], dtype=float))
    there = {tuple(arm.says(a) for a in table.varying) for arm in table.arms}
    if ways <= MOST_CANDIDATES:
        chosen: Iterable[tuple[str, ...]] = product(*values.values())
    else:
        chosen = (
            tuple(value if a == changed else arm.says(a) for a in table.varying)
            for arm in table.arms
            for changed in table.varying
            for value in values[changed]
        )
    fresh = [c for c in dict.fromkeys(chosen) if c not in there and all(c)]
    fresh.sort(key=lambda c: min(sum(x != y for x, y in zip(c, arm, strict=True)) for arm in there))
    described = [{**fixed, **dict(zip(table.varying, c, strict=True))} for c in fresh]
    return [Described("", {a: values.get(a, "") for a in table.aspects}) for values in described if table.can(values)]


def _fewest_added(table: _Table, blanks: Sequence[tuple[str, str]]) -> list[tuple[Mapping[str, str], ...]]:
    """The fewest arms out of existing values after which every asked contrast is separable; several ways if there are.

    Each added arm adds one dimension to the row space, so as many are needed as dimensions of the asked contrasts lie
    outside it; an arm helps when its row lies in the space of the present rows and the asked contrasts.
    """
    space = _row_space(table.matrix(table.varying))
    wanted = np.array([table.contrast(pair, table.varying) for pair in table.pairs()])
    lacking = _row_space(np.array([_residual(space, c) for c in wanted]))
    need = len(lacking)
    if need > MOST_ADDED:
        return []
    goal = np.vstack([space, lacking])
    useful = []
    for arm in _candidates(table, blanks):
        row = np.array(table.row(arm, table.varying))
        rest = _residual(space, row)
        if rest.any() and not _residual(goal, row).any():
            useful.append((arm, rest))
    found: list[tuple[Mapping[str, str], ...]] = []
    for tried, chosen in enumerate(combinations(useful, need)):
        if tried >= MOST_TRIED or len(found) == MOST_LISTED:
            break
        if len(_row_space(np.array([rest for _, rest in chosen]))) == need:
            found.append(tuple(arm.values for arm, _ in chosen))
    return found


def _with_blanks(table: _Table, blanks: Sequence[tuple[str, str]]) -> list[tuple[Mapping[str, str], ...]]:
    """The fewest added arms that bring a blank in and leave every asked contrast, the blank's own too, separable."""
    new = [(a, v) for a, v in blanks if a in table.varying and v not in table.levels[a]]
    if not new:
        return []
    pool = _candidates(table, new)[:80]
    tried = 0
    for size in range(1, MOST_ADDED + 1):
        found: list[tuple[Mapping[str, str], ...]] = []
        for chosen in combinations(pool, size):
            if not any(arm.says(a) == v for arm in chosen for a, v in new):
                continue
            tried += 1
            if tried > MOST_TRIED // 30 or len(found) == MOST_LISTED:
                break
            if _Table((*table.arms, *chosen), table.asked, table.aspects).separable():
                found.append(tuple(arm.values for arm in chosen))
        if found:
            return found
    return []
