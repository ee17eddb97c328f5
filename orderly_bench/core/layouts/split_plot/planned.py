"""Split-plot: one factor on whole plots, the combinations of the others inside each."""

from __future__ import annotations

from math import comb

import numpy as np

from orderly_bench.core.layouts.planned import Answers, Numbers, Planned, Suited
from orderly_bench.core.layouts.reach import Reach, of_whole_plots
from orderly_bench.core.layouts.split_plot.draw import SplitPlot, draw_in_whole_plots
from orderly_bench.core.messages.say import clause
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.randomise.drawn_layout import Request
from orderly_bench.core.vocabulary import LayoutKind

MOST_WHOLE_PLOTS = 24
#: Whole plots of each level, the first that can be had; before others those that can convince by themselves.
EACH = (4, 3, 5, 6, 2)


class PlannedOnWholePlots(Planned):
    """Blocks count its whole plots."""

    kind = LayoutKind.SPLIT_PLOT
    redraws = N_("whole plots for the factor on them, inside them for the rest")
    counts_blocks = True
    whole_plots = True

    def where(self, numbers: Numbers, gradient: str) -> str:
        """On its whole plots."""
        return _("on {blocks} whole plots", blocks=numbers.blocks)

    def made_by(self, groups: set[str], complete: bool) -> bool:
        """Whole plots are given."""
        return "whole plot" in groups and not {"row", "column"} <= groups

    def proposal(self, answers: Answers) -> Suited | None:
        """Something stands on whole trays, and other factors inside them."""
        if not answers.on_trays:
            return None
        own = answers.blocks // answers.levels if answers.stands is self.kind else 0
        for each in sorted(EACH, key=lambda each: (each != own, 2 / comb(2 * each, each) >= answers.needed)):
            plots = each * answers.levels
            units = each * max(1, round(answers.wanted / each))
            numbers = Numbers(units * answers.per_unit, answers.per_unit, plots)
            if plots <= MOST_WHOLE_PLOTS and answers.can(self.kind, numbers):
                return Suited(numbers, clause("propose/split", name=answers.on_trays, plots=plots, each=each))
        return None

    def draw(self, request: Request, rng: np.random.Generator) -> SplitPlot:
        """Whole plots, then inside each."""
        return draw_in_whole_plots(request, rng)

    def reach(self, request: Request) -> Reach:
        """The factor on whole plots by itself, the rest inside them."""
        self.draw(request, np.random.default_rng(0))
        return of_whole_plots(request)

    def strata(self, blocks: int) -> int:
        """Whole plots hold one level each."""
        return 1
