"""Split-plot: one factor on whole plots, the combinations of the others inside each."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from orderly_bench.core.layouts.drawn import firsts
from orderly_bench.core.layouts.grouped import Grouped
from orderly_bench.core.messages.say import clause
from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.observations.table import Row


class SplitPlot(Grouped):
    """Whole plots hold the units."""

    name = "split-plot"
    replicates_are = "whole plots"
    replicate_is = N_("whole plot")
    columns = (("--whole-plot", "whole_plot"),)

    @property
    def of(self) -> Callable[[Row], str | None]:
        """Its whole plot."""
        return lambda row: row.whole_plot

    @property
    def redrawn(self) -> str:
        """What the randomisation test repeats, in words."""
        return clause("redrawn/split")

    def strata_of(self, factor: int) -> np.ndarray:
        """All combinations inside a whole plot were shuffled together."""
        return self.stratum[firsts(self.o.units.members)][:, None]
