"""Arms that did not start alike: the comparisons adjusted for start size, grade or donor, beside those as planned.

The start and the strata are taken out of the values by least squares, and what is left changes places as it was drawn (Freedman &
Lane 1983, J Bus Econ Stat 1:292). Where that changes the verdict, it is *suggested* at most.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from orderly_bench.core.cautions import Caution
from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.judgement.comparisons import Comparison, Limits, SameStart
from orderly_bench.core.judgement.family import adjusted_alike
from orderly_bench.core.judgement.main_effects import level_pairs
from orderly_bench.core.judgement.verdict import Rule, Verdict, decide
from orderly_bench.core.layouts.drawn import Drawn
from orderly_bench.core.layouts.draws import for_factor, for_pair
from orderly_bench.core.layouts.from_rows import layout_of
from orderly_bench.core.messages.numbers import p_value
from orderly_bench.core.messages.say import caution, clause
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.methods import permutation, redrawn
from orderly_bench.core.methods.linear import dummies
from orderly_bench.core.methods.randomisation import RandomisationTest
from orderly_bench.core.methods.rates import Interval
from orderly_bench.core.methods.starting_alike import Start, apart, sizes_in
from orderly_bench.core.observations.table import Observations
from orderly_bench.core.randomise.drawn_layout import DrawnLayout
from orderly_bench.core.randomise.shuffled import ShuffledWithin
from orderly_bench.core.responses.outcomes import Outcomes
from orderly_bench.core.stick.piece_measures import BY_NAME, ORIGIN

#: No more things are put into the model than one for so many cuttings.
CUTTINGS_A_START = 8
NO_VARIANCE = 1e-12


@dataclass(frozen=True)
class Adjusted:
    """The difference of two arms as it would be with the same start, its standard error and degrees of freedom, its test.

    Estimate and test are None where the arms started so differently that one can't be told from the other.
    """

    estimate: float | None
    error: float
    df: int
    test: RandomisationTest | None

    def interval(self, level: float) -> Interval | None:
        """The t interval of the linear model; None without degrees of freedom or any variance."""
        from scipy.special import stdtrit

        if self.estimate is None or self.df < 1 or self.error <= NO_VARIANCE:
            return None
        half = float(stdtrit(self.df, 0.5 + level / 2)) * self.error
        return Interval(max(-1.0, self.estimate - half), min(1.0, self.estimate + half), level)


def adjusted_for_start(
    values: np.ndarray, start: np.ndarray, layout: ShuffledWithin, rng: np.random.Generator, draws: int
) -> Adjusted:
    """Two arms, the first minus the second.

    Parameters
    ----------
    values : ndarray of float, shape (units,)
        Means of the units.
    start : ndarray of float, shape (units,) or (units, columns)
        Means of what they started with.
    layout : ShuffledWithin
        Of two labels.

    Raises
    ------
    InvalidInput
        A start that does not vary: there is nothing to adjust for.
    """
    if int(layout.arm.max()) != 1:
        raise InvalidInput("arms", _("must be two"), int(layout.arm.max()) + 1)
    base = _base(start, [layout.stratum])
    test = permutation.test(_left(values, base), layout, rng, draws)
    return _of_contrast(values, np.column_stack([base, layout.arm == 0]), np.ones(1), test)


def adjusted_in_whole(
    values: np.ndarray,
    start: np.ndarray,
    layout: DrawnLayout,
    groupings: list[np.ndarray],
    rng: np.random.Generator,
    draws: int,
) -> dict[tuple[int, int], Adjusted]:
    """Every two arms of a square or of incomplete blocks, as (arm a, arm b), the first minus the second: the whole is redrawn.

    Parameters
    ----------
    values, start : ndarray of float
        As in `adjusted_for_start`.
    groupings : list of ndarray of int, shape (units,)
        Rows and columns, or blocks.
    """
    base = _base(start, groupings)
    _, pairs = redrawn.tests(_left(values, base), layout, rng, draws)
    full = np.column_stack([base, dummies(layout.arm)])
    found = {}
    for (a, b), test in pairs.items():
        contrast = np.zeros(int(layout.arm.max()) + 1)
        contrast[a], contrast[b] = 1, -1
        found[a, b] = _of_contrast(values, full, contrast[1:], test)
        found[b, a] = _of_contrast(values, full, -contrast[1:], test)
    return found


def _base(start: np.ndarray, groupings: list[np.ndarray]) -> np.ndarray:
    """Columns of the groups and the start; a start that does not vary is refused."""
    columns = start.reshape(start.shape[0], -1)
    if np.ptp(columns, axis=0).max() == 0:
        raise InvalidInput("start", _("must vary between units to be adjusted for"), float(columns[0, 0]))
    centred = columns - columns.mean(axis=0)
    scaled = centred / np.maximum(np.abs(centred).max(axis=0), NO_VARIANCE)
    return np.column_stack([np.ones(start.shape[0]), *[dummies(g) for g in groupings], scaled])


def _left(values: np.ndarray, base: np.ndarray) -> np.ndarray:
    left: np.ndarray = values - base @ (np.linalg.pinv(base) @ values)
    return left


def _of_contrast(values: np.ndarray, full: np.ndarray, contrast: np.ndarray, test: RandomisationTest) -> Adjusted:
    """The contrast of the last columns of a linear model; it is estimable when it lies among the model's rows (Searle 1971, ch. 5)."""
    solved = np.linalg.pinv(full)
    wanted = np.concatenate([np.zeros(full.shape[1] - contrast.size), contrast])
    if not np.allclose(wanted @ solved @ full, wanted, atol=1e-6):
        return Adjusted(None, 0.0, 0, None)
    fitted = solved @ values
    df = values.size - int(np.linalg.matrix_rank(full))
    spare = float(((values - full @ fitted) ** 2).sum()) / df if df > 0 else 0.0
    weights = wanted @ solved
    error = float(np.sqrt(spare * (weights @ weights)))
    return Adjusted(float(wanted @ fitted), error, df, test)


def _apart_throughout(start: np.ndarray, arm: np.ndarray) -> bool:
    """Whether no unit of one arm started as any of the other did: a line through both would be made up."""
    first, second = start[arm == 0], start[arm == 1]
    return bool(((first.max(axis=0) < second.min(axis=0)) | (second.max(axis=0) < first.min(axis=0))).any())


def starts_apart(observations: Observations) -> list[Start]:
    """What the cuttings started with and the arms differ in, in the order of the rows' own; of too many for them the furthest."""
    arm, spoken = observations.arm_of_known, observations.labels
    each = (apart(name, _cells(observations, name), arm, spoken, _called(name)) for name in _names(observations))
    found = [start for start in each if start is not None]
    least = sorted((start.far for start in found), reverse=True)[: max(1, len(observations.known) // CUTTINGS_A_START)]
    return [start for start in found if start.far >= least[-1]]


def _called(name: str) -> str:
    """A measure by its words; any other column by its name."""
    return _(BY_NAME[name].words) if name in BY_NAME and name not in ORIGIN else name


def _names(observations: Observations) -> list[str]:
    return list(dict.fromkeys(name for start in {row.start for row in observations.known} for name, _ in start))


def _cells(observations: Observations, name: str) -> list[str]:
    return [dict(row.start).get(name, "") for row in observations.known]


def _matrix(observations: Observations, starts: Sequence[Start]) -> np.ndarray:
    """What the known cuttings started with, as numbers: shape (cuttings, columns). A blank size is the mean of the others."""
    columns = []
    for start in starts:
        cells = _cells(observations, start.name)
        sizes = sizes_in(cells)
        if sizes is not None:
            blank = ~np.isfinite(sizes)
            columns += [np.where(blank, np.nanmean(sizes), sizes)] + ([blank.astype(float)] if blank.any() else [])
        else:
            columns += list(dummies(np.unique(cells, return_inverse=True)[1]).T)
    return np.column_stack(columns) if columns else np.zeros((len(observations.known), 0))


class Beside:
    """Comparisons with the start in the model, beside those as planned.

    Parameters
    ----------
    outcomes : Outcomes
    starts : list of Start
    rule : Rule
        Of a family of one; the family's size is that of the comparisons given.
    """

    def __init__(
        self, outcomes: Outcomes, starts: list[Start], rule: Rule, rng: np.random.Generator, draws: int
    ) -> None:
        self.outcomes, self.starts, self.rule, self.rng, self.draws = outcomes, starts, rule, rng, draws

    def of_arms(self, comparisons: list[Comparison]) -> list[Comparison]:
        """Pairs of arms."""
        return self._beside(comparisons, [self._pair(c.a.index, c.b.index) for c in comparisons])

    def of_levels(self, contrasts: list[tuple[str, Comparison]]) -> list[tuple[str, Comparison]]:
        """Levels of factors, as (factor, comparison) in the order of ``level_pairs``."""
        if not contrasts:
            return []
        found = [self._levels(*pair) for pair in level_pairs(self.outcomes.o)]
        beside = self._beside([c for _, c in contrasts], found)
        return [(factor, c) for (factor, _), c in zip(contrasts, beside, strict=True)]

    def _pair(self, a: int, b: int) -> Adjusted | None:
        o = self.outcomes.o
        if layout_of(o).whole_redraw:
            return self._whole.get((a, b))
        return self._adjusted(self.outcomes.over(o.only([a, b])), for_pair(o, a, b))

    @cached_property
    def _whole(self) -> dict[tuple[int, int], Adjusted]:
        """Pairs of a layout in which two arms alone were never drawn."""
        o = self.outcomes.o
        drawn, cuttings = layout_of(o).drawn(), _matrix(o, self.starts)
        if drawn is None or not self.outcomes.ready or cuttings.shape[1] == 0:
            return {}
        start = np.column_stack([drawn.means(column) for column in cuttings.T])
        if np.ptp(start, axis=0).max() == 0:
            return {}
        values, groupings = self.outcomes.unit_scores(drawn), list(drawn.layout.groups().values())
        return adjusted_in_whole(values, start, drawn.layout, groupings, self.rng, self.draws)

    def _levels(self, factor: int, a: int, b: int) -> Adjusted | None:
        drawn = for_factor(self.outcomes.o, factor)
        if drawn is None or not isinstance(drawn.layout, ShuffledWithin):
            return None
        kept = np.isin(drawn.layout.arm, [a, b])
        _, strata = np.unique(drawn.layout.stratum[kept], return_inverse=True)
        two = ShuffledWithin((drawn.layout.arm[kept] == b).astype(int), strata)
        return self._adjusted(self.outcomes, drawn, kept, two)

    def _adjusted(
        self,
        outcomes: Outcomes,
        drawn: Drawn | None,
        kept: np.ndarray | None = None,
        two: ShuffledWithin | None = None,
    ) -> Adjusted | None:
        layout = two or (drawn.layout if drawn else None)
        if drawn is None or not isinstance(layout, ShuffledWithin) or not outcomes.ready:
            return None
        chosen = slice(None) if kept is None else kept
        values = outcomes.unit_scores(drawn)[chosen]
        cuttings = _matrix(outcomes.o, self.starts)
        if cuttings.shape[1] == 0:
            return None
        start = np.column_stack([drawn.means(column) for column in cuttings.T])[chosen]
        if np.ptp(start, axis=0).max() == 0 or np.unique(layout.arm).size < 2:
            return None
        if _apart_throughout(start, layout.arm):
            return Adjusted(None, 0.0, 0, None)
        return adjusted_for_start(values, start, layout, self.rng, self.draws)

    def _beside(self, comparisons: list[Comparison], found: list[Adjusted | None]) -> list[Comparison]:
        adjusted = adjusted_alike(comparisons, [one.test.p if one and one.test else None for one in found])
        rule = replace(self.rule, family=max(1, len(comparisons)))
        return [
            c if one is None else self._judged(c, one, p, rule)
            for c, one, p in zip(comparisons, found, adjusted, strict=True)
        ]

    def _judged(self, c: Comparison, one: Adjusted, p: float | None, rule: Rule) -> Comparison:
        """The comparison with its adjusted one; a changed verdict caps it."""
        if one.test is None or one.estimate is None:
            told = c.verdict.clear or c.verdict.alike
            return self._with(c, SameStart(None, None, None, None, Verdict.NOT_SETTLED, told))
        share = self.outcomes.kind.yes_no
        interval = one.interval(1 - rule.alpha) if share else None
        if share:
            verdict = decide(p, one.estimate, one.interval, rule, c.fewest)
        else:  # ranks, counts and days have no estimate on the scale of the comparison
            verdict = Verdict.CLEAR_UNCERTAIN if p is not None and p < rule.alpha else Verdict.NOT_SETTLED
        beside = SameStart(
            one.estimate if share else None, interval, one.test.p, p, verdict, self._changes(c, one, verdict)
        )
        return self._with(c, beside)

    def _with(self, c: Comparison, beside: SameStart) -> Comparison:
        if not beside.changes:
            return replace(c, same_start=beside)
        return replace(c, same_start=beside, limits=Limits(c.limits.untold, (*c.limits.capped, "start_differs")))

    def _changes(self, c: Comparison, one: Adjusted, verdict: Verdict) -> bool:
        if c.verdict.clear != verdict.clear:
            return True
        if verdict.clear:
            return c.above is not None and self.outcomes.kind.yes_no and c.above * (one.estimate or 0.0) < 0
        return self.outcomes.kind.yes_no and c.verdict.alike != verdict.alike


def doubts_about_starts(starts: Sequence[Start], comparisons: Sequence[Comparison]) -> list[Caution]:
    """That arms did not start alike, and what that does to the verdicts."""
    if not starts:
        return []
    how = "; ".join(start.words for start in starts)
    beside = [c for c in comparisons if c.same_start is not None]
    changed = [c for c in beside if c.same_start is not None and c.same_start.changes]
    if not beside:
        return [caution("start_differs", "alone", how=how)]
    if not changed:
        return [caution("start_differs", how=how)]
    said = "; ".join(
        clause(
            "start_changes" if c.same_start.p is not None else "start_together", a=c.a.label, b=c.b.label,
            now=c.same_start.verdict.value, p=p_value(c.same_start.p_adjusted), before=c.verdict.value,
        )
        for c in changed[:4]
        if c.same_start is not None
    )  # fmt: skip
    return [caution("start_differs", "changes", how=how, changed=said)]
