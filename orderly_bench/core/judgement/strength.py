"""How strongly a comparison may be worded, and the codes of what weakens it.

Shown: a clear verdict, as planned; shown alike: practically the same, as planned; suggested: either with a departure or a serious
doubt; cannot tell: not settled, or nothing that could settle it.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from orderly_bench.core.cautions import Caution
from orderly_bench.core.judgement.comparisons import Comparison
from orderly_bench.core.judgement.verdict import Verdict
from orderly_bench.core.vocabulary import Strength

#: Serious doubts that belong to single comparisons: those carry the code themselves, the others don't suffer for it.
OF_ONE_PAIR = frozenset(
    {
        "aliased", "block_is_arm", "described_only", "left_out", "looked_on_different_days", "one_unit", "range_changes_verdict",
        "raw_against_adjusted", "season_not_waves", "direction_differs", "reverses", "not_joined", "varies_between_strata", "hurdle", "not_drawn", "waves_not_replicated",
    }
)  # fmt: skip


@dataclass(frozen=True)
class Graded:
    """A strength with the codes that keep it from being higher; none when it is shown."""

    strength: Strength
    codes: tuple[str, ...] = ()


def grade(comparison: Comparison, cautions: Sequence[Caution], departures: bool) -> Graded:
    """The strength of one comparison.

    Parameters
    ----------
    cautions : sequence of Caution
        Of the whole analysis; the serious ones cap every comparison, but for those that belong to single pairs.
    departures : bool
        Whether the plan was not followed.
    """
    untold = list(comparison.limits.untold)
    if comparison.range is not None and not comparison.range.holds and _said(comparison):
        untold.append("range_changes_verdict")
    if comparison.direction_differs:
        untold.append("direction_differs")
    if comparison.reversal is not None and _said(comparison):
        untold.append("reverses")
    if untold:
        return Graded(Strength.CANNOT_TELL, tuple(dict.fromkeys(untold)))
    if not _said(comparison):
        codes = ["hurdle"] if comparison.hurdle_held else []
        codes += ["varies_between_strata"] if any(one.ends_the_same for one in comparison.varies or ()) else []
        return Graded(Strength.CANNOT_TELL, (*codes, "not_settled"))
    capped = [*comparison.limits.capped, *(c.code for c in cautions if c.serious and c.code not in OF_ONE_PAIR)]
    if comparison.reversed_by_adjustment:
        capped.append("raw_against_adjusted")
    if departures:
        capped.append("departure")
    if capped:
        return Graded(Strength.SUGGESTED, tuple(dict.fromkeys(capped)))
    return Graded(Strength.SHOWN if comparison.verdict.clear else Strength.SHOWN_ALIKE)


def _said(comparison: Comparison) -> bool:
    return comparison.verdict is not Verdict.NOT_SETTLED
