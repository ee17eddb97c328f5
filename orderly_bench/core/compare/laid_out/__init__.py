"""One file per layout: what it answers when its trial is read."""

from __future__ import annotations

from typing import TYPE_CHECKING

from orderly_bench.core.compare.laid_out.complete_blocks import CompleteBlocks
from orderly_bench.core.compare.laid_out.completely_randomised import CompletelyRandomised
from orderly_bench.core.compare.laid_out.incomplete_blocks import IncompleteBlocks
from orderly_bench.core.compare.laid_out.latin_square import LatinSquare
from orderly_bench.core.compare.laid_out.layout import Layout
from orderly_bench.core.compare.laid_out.pairs import Pairs
from orderly_bench.core.compare.laid_out.split_plot import SplitPlot
from orderly_bench.core.compare.laid_out.waves import Waves

if TYPE_CHECKING:
    from orderly_bench.core.compare.observations import Observations


def laid_out(observations: Observations) -> Layout:
    """The layout of a trial, by the groups that its rows name.

    A trial fills in the groups of its own layout, a reader of files those it was told of: one place picks the layout from them.
    """
    first = observations.rows[0]
    if first.row is not None:
        return LatinSquare(observations)
    if first.whole_plot is not None:
        return SplitPlot(observations)
    if first.wave is not None:
        return Waves(observations)
    if first.pair is not None:
        return Pairs(observations)
    if not observations.blocks:
        return CompletelyRandomised(observations)
    incomplete = observations.lacks_arms and not first.in_wave
    return IncompleteBlocks(observations) if incomplete else CompleteBlocks(observations)
