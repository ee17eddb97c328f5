"""One file per layout: what it answers when its trial is read."""

from __future__ import annotations

from orderly_bench.core.layouts.complete_blocks.read import CompleteBlocks
from orderly_bench.core.layouts.completely_randomised.read import CompletelyRandomised
from orderly_bench.core.layouts.incomplete_blocks.read import IncompleteBlocks
from orderly_bench.core.layouts.latin_square.read import LatinSquare
from orderly_bench.core.layouts.layout import Layout
from orderly_bench.core.layouts.pairs.read import Pairs
from orderly_bench.core.layouts.separate_parts.read import SeparateParts, joined_parts
from orderly_bench.core.layouts.split_plot.read import SplitPlot
from orderly_bench.core.layouts.waves.read import Waves
from orderly_bench.core.observations.table import Observations


def layout_of(observations: Observations) -> Layout:
    """The layout of a trial, by the groups that its rows name.

    A trial fills in the groups of its own layout, a reader of files those it was told of: one place picks the layout from them.
    """
    kept = observations.worked_out
    if "layout" not in kept:
        kept["layout"] = _layout_of(observations)
    found: Layout = kept["layout"]
    return found


def _layout_of(observations: Observations) -> Layout:
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
    if not observations.lacks_arms:
        return CompleteBlocks(observations)
    if joined_parts(observations.drawn_in_block).any():
        return SeparateParts(observations)
    return CompleteBlocks(observations) if first.in_wave else IncompleteBlocks(observations)
