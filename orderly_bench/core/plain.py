"""The core in plain Python: lists in, frozen results out. No files, no pages, no database.

>>> found = analyse_table({"medium": ["bark"] * 8 + ["sand"] * 8}, [1, 1, 1, 1, 1, 0, 1, 1] + [0, 0, 1, 0, 0, 0, 1, 0], settings=Settings(margin=0.15))
>>> found.comparisons[0].verdict.value, round(found.test.p, 4)
('clear, probably large', 0.0406)

The sums before a trial and the smaller computations have a function each; ``docs/methods/python.md`` lists them.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

import numpy as np

from orderly_bench.core.design import simulated_power
from orderly_bench.core.design.power import Power
from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.judgement.analysis import analyse
from orderly_bench.core.judgement.result import Analysis
from orderly_bench.core.judgement.settings import Settings
from orderly_bench.core.layouts.arrange import arrange
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.methods import stick_for
from orderly_bench.core.observations.table import Row
from orderly_bench.core.responses.kind import Response
from orderly_bench.core.score import agreement

#: Groups a cutting can stand in, by the layout that has them.
GROUPS = ("unit", "block", "pair", "whole_plot", "row", "column", "wave")


def analyse_table(
    factors: Mapping[str, Sequence[str]],
    values: Sequence[float | None],
    *,
    response: str = "rooted",
    groups: Mapping[str, Sequence[str]] | None = None,
    control: Sequence[str] | None = None,
    settings: Settings = Settings(),
) -> Analysis:
    """Analyse one response of a trial, a list entry a cutting.

    Parameters
    ----------
    factors : mapping of factor name to levels
        What the arms are made of; each list as long as ``values``.
    values : sequence of float or None
        0 or 1, a number, or a grade, by ``response``; None is left out. Days to root need rows: see ``core.observations.table.Row``.
    response : str
        ``rooted``, ``fit_to_pot_on``, ``alive``, ``root_count``, ``longest_root_mm``, ``quality`` or ``root_class`` (least number).
    groups : mapping of ``unit``, ``block``, ``pair``, ``whole_plot``, ``row``, ``column``, ``wave`` to names, optional
        How the units were drawn.
    control : sequence of str, optional
        Levels of the control; the family is then each arm against it.
    settings : Settings
        Margin, alpha, draws and seed; response and control are those given here.

    Returns
    -------
    Analysis
        Frozen: arms, overall test, terms, comparisons with verdicts, cautions.

    Raises
    ------
    InvalidInput, UnusableData
        Names the argument or the group, the rule and what to do.
    """
    groups = dict(groups or {})
    unknown = [name for name in groups if name not in GROUPS]
    if unknown:
        raise InvalidInput("groups", _("must be among {names}", names=", ".join(GROUPS)), unknown[0])
    if response not in list(Response) or response == Response.DAYS:
        raise InvalidInput(
            "response",
            _("must be one of {names}", names=", ".join(r for r in Response if r != Response.DAYS)),
            response,
        )
    for name, column in {**factors, **groups}.items():
        if len(column) != len(values):
            raise InvalidInput(name, _("must have one entry for each of the {n} values", n=len(values)), len(column))
    names = list(factors)
    rows = []
    for i, value in enumerate(values):
        named: dict[str, Any] = {group: str(column[i]) for group, column in groups.items()}
        levels = tuple(str(factors[name][i]) for name in names)
        rows.append(Row(levels, None if value is None else float(value), line=i + 1, **named))
    own = replace(
        settings,
        control=None if control is None else tuple(control),
        against_control=control is not None,
        response=Response(response),
    )
    return analyse(arrange(names, rows), own)


def power(
    rates: Sequence[float],
    per_arm: int,
    *,
    per_unit: int | None = None,
    icc: float | None = None,
    blocks: int = 1,
    alpha: float = 0.05,
    trials: int = simulated_power.TRIALS,
    seed: int = 1,
) -> Power:
    """Chance that the overall test finds a difference when the arms root at ``rates``.

    Parameters
    ----------
    rates : sequence of float
        True rate of each arm, 0 to 1.
    per_arm : int
        Cuttings of each arm over all blocks.
    per_unit, icc : int and float, optional
        Cuttings that share a unit, and how alike they are (intraclass correlation).
    """
    rng = np.random.default_rng(seed)
    return simulated_power.power_of(
        list(rates), per_arm, per_unit=per_unit, icc=icc, blocks=blocks, alpha=alpha, trials=trials, rng=rng
    )


def how_many_to_stick(
    want: int,
    *,
    rate: float | None = None,
    batches: Sequence[tuple[int, int]] | None = None,
    assurance: float = 0.95,
) -> stick_for.StickFor:
    """Least number to stick so that at least ``want`` plants come of it with the assurance asked.

    Parameters
    ----------
    want : int
    rate : float, optional
        A known rate; or ``batches``, earlier ones as (plants, stuck).
    assurance : float
        Probability of getting enough, 0 to 1.
    """
    if (rate is None) == (batches is None):
        raise InvalidInput("rate and batches", _("give one of the two"))
    if rate is not None:
        return stick_for.for_rate(want, rate, assurance)
    return stick_for.for_batches(want, list(batches or []), assurance)


def cohens_kappa(table: Sequence[Sequence[float]], weights: str = "none") -> float | None:
    """Agreement of two scorers beyond chance; None where chance alone agrees fully.

    Parameters
    ----------
    table : sequence of sequences
        Cuttings by the first scorer's category (rows) and the second's (columns).
    weights : str
        ``none``, ``linear`` or ``quadratic`` for ordered categories.
    """
    return agreement.kappa(np.array(table, dtype=float), weights)
