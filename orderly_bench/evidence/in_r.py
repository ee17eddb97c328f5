"""What a trial's analysis needs to be done once more in R, from its endpoint file."""

from __future__ import annotations

from orderly_bench.core.layouts.from_rows import layout_of
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.randomise.shuffled import ShuffledWithin
from orderly_bench.core.responses.kind import Response
from orderly_bench.core.responses.registry import kind_of
from orderly_bench.evidence.verdict import Evidence
from orderly_bench.formats.analysis_r import Redone


def redone(found: Evidence) -> Redone | None:
    """Of an analysed comparison; None of a rate, or where nothing was analysed.

    The p is shuffled again where units were shuffled inside strata and the outcome is a yes or no, or a number of roots; grades and days
    rest on scores that the script does not make.
    """
    analysis = found.analysis
    if analysis is None:
        return None
    o, response = analysis.observations, analysis.settings.response
    drawn = layout_of(o).drawn()
    sums = kind_of(response).yes_no or response is Response.ROOT_COUNT
    p = analysis.test.p
    said = [
        _("{arm}: {k} of {n}", arm=arm.name, k=f"{arm.rooted:g}", n=arm.stuck) for arm in analysis.arms
    ] + [_("randomisation p = {p}", p="none" if p is None else f"{p:.6g}")]  # fmt: skip
    strata = [column for _, column in layout_of(o).columns] or (["block"] if o.rows[0].block is not None else [])
    return Redone(
        f"endpoint-{found.record.code}.csv", response.value, o.factors, "unit" if o.rows[0].unit is not None else "", strata[0] if len(strata) == 1 else "",
        drawn is not None and isinstance(drawn.layout, ShuffledWithin) and sums and p is not None, said,
    )  # fmt: skip
