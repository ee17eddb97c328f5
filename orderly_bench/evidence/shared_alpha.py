"""Planned looks share alpha: how far a comparison may go at one of them, and at the end.

A look of the plan spends its share by O'Brien and Fleming (Lan & DeMets 1983), the end what is left; critical values come from one
joint redraw for all of them (`core/methods/looks.py`). Where no single draw gave all arms what was spent before is taken off.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from orderly_bench.core.layouts.arrange import arrange
from orderly_bench.core.layouts.draws import for_all_arms
from orderly_bench.core.messages.translation import all_of
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.methods.looks import planned_looks, rounded_down, spent
from orderly_bench.core.plan.question import TrialKind
from orderly_bench.core.responses.counts import at_one_look
from orderly_bench.evidence.rows import value_of
from orderly_bench.record.facts import (
    CuttingResult,
    checks_on,
    endpoint_checks,
    factor_names,
    never_stuck,
    results_at,
    row_of,
)
from orderly_bench.record.settings import DRAWS
from orderly_bench.record.value import TrialRecord


@dataclass(frozen=True)
class Shared:
    """Of alpha, what one comparison is held to, and the days of the looks before it."""

    alpha: float
    of: float
    before: tuple[int, ...]

    @property
    def words(self) -> str:
        """A sentence."""
        if not self.before:
            return _("A planned look, held to {alpha:g} of alpha {of:g}.", alpha=self.alpha, of=self.of)
        days = all_of(str(day) for day in self.before)
        return _(
            "Arms were compared as planned on day {days}; what is left of alpha {of:g} is {alpha:g}.",
            days=days, of=self.of, alpha=self.alpha,
        )  # fmt: skip


def shared_alpha(record: TrialRecord, planned_das: int | None) -> Shared | None:
    """What a comparison at the end (None) or at a look is held to; None where nothing is shared."""
    days, asked = record.shared_days, record.plan.question
    if asked.kind is not TrialKind.TEST or not days or (planned_das is not None and planned_das not in days):
        return None
    end = asked.endpoint_day
    here = end if planned_das is None else planned_das
    stages = [*(day for day in days if day < here), here]
    planned = [*record.first_plan.question.planned_looks, end]
    shares = [spent(asked.alpha, planned.index(day) + 1, len(planned)) for day in stages]
    left = _by_redraw(record, stages, shares)
    if left is None:
        left = shares[-1] - (shares[-2] if len(shares) > 1 else 0.0)
    return Shared(rounded_down(min(left, shares[-1])), asked.alpha, tuple(stages[:-1]))


def _by_redraw(record: TrialRecord, stages: Sequence[int], shares: Sequence[float]) -> float | None:
    """The least p of the last stage that is no result, by one joint redraw of all; None where no single draw gave all arms."""
    end = record.plan.question.endpoint_day
    seen = [results_at(record, endpoint_checks(record) if day == end else checks_on(record, day)) for day in stages]
    cuttings = record.counted
    # Each row has its own number as its response: so values of every stage find theirs, whatever is set aside.
    rows = [row_of(record, cutting, float(i), "alive") for i, cutting in enumerate(cuttings)]
    rows += [row_of(record, cutting, None, "not stuck") for cutting in never_stuck(record)]
    observations = arrange(factor_names(record), rows)
    drawn = for_all_arms(observations)
    if drawn is None:
        return None
    known = np.array([int(row.response) for row in observations.known if row.response is not None])
    values = [_values(record, results, [c.id for c in cuttings]) for results in seen]
    rng = np.random.default_rng([int((record.digest or "1")[:7], 16), 11])
    means = np.stack([drawn.means(of[known]) for of in values])
    return planned_looks(means, drawn.layout, shares, rng, DRAWS)[-1].below


def _values(record: TrialRecord, results: Sequence[CuttingResult], cuttings: Sequence[int]) -> np.ndarray:
    """What is compared, of every cutting; one that is not known, or lifted before, has the mean of those that are, whatever its arm."""
    counted = at_one_look(record.plan.question.response)
    found = {r.cutting.id: value for r in results if (value := value_of(counted, r)) is not None}
    mean = float(np.mean(list(found.values()))) if found else 0.0
    return np.array([found.get(cutting, mean) for cutting in cuttings])
