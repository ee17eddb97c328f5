"""An arm that stood in one unit: an interval of these cuttings, in words, and never of the arm."""

from __future__ import annotations

import numpy as np

from orderly_bench.core.judgement.result import Analysis
from orderly_bench.core.layouts.from_rows import layout_of
from orderly_bench.core.messages.numbers import span
from orderly_bench.core.messages.say import say
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.methods.rates import wilson
from orderly_bench.core.responses.registry import kind_of


def alone_in_words(analysis: Analysis) -> list[str]:
    """A sentence for every such arm whose cuttings count as yes or no; none for a look, which has counts alone."""
    o, layout = analysis.observations, layout_of(analysis.observations)
    if analysis.settings.look or not layout.shared or not kind_of(analysis.settings.response).yes_no:
        return []
    units = np.bincount(layout.replicates.arm, minlength=len(o.arms))
    found = []
    for arm in np.flatnonzero(units == 1).tolist():
        k, n = int(o.counted[arm]), int(o.stuck[:, arm].sum())
        interval = wilson(k, n, 1 - analysis.settings.alpha)
        if interval is not None and n > 1:
            ends = _("{ends} %", ends=span(interval.low, interval.high, True))
            found.append(say("unit_alone", n=n, arm=o.labels[arm], interval=ends, what=layout.replicate_is))
    return found
