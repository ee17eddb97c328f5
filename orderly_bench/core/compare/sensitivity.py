"""Would the answer change? The headline comparison run again on other readings of the same cuttings."""

from __future__ import annotations

from dataclasses import dataclass, replace

from orderly_bench.core.errors import OrderlyError
from orderly_bench.core.judgement.analysis import analyse
from orderly_bench.core.judgement.comparisons import Comparison
from orderly_bench.core.judgement.settings import Settings
from orderly_bench.core.layouts.arrange import arrange
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.observations.table import Row
from orderly_bench.core.telling.headline import Reading, read


@dataclass(frozen=True)
class Scenario:
    """Another reading: what it is called and the rows it makes."""

    name: str
    rows: list[Row]
    later: bool = False  #: of what became of the plants after the endpoint


@dataclass(frozen=True)
class Answer:
    """The headline comparison under one reading.

    Attributes
    ----------
    comparison : Comparison or None
        None when the reading cannot be analysed; ``problem`` says why.
    changed : bool
        Its verdict is clear where the primary's is not, or the reverse, or the direction turned.
    """

    name: str
    comparison: Comparison | None
    changed: bool
    problem: str = ""
    later: bool = False  #: of what became of the plants after the endpoint

    @property
    def words(self) -> str:
        """What is read this way, the higher side first."""
        c = self.comparison
        if c is None:
            return f"{self.name}: {self.problem}"
        both = {"a": c.a.name, "ka": c.a.rooted, "na": c.a.stuck, "b": c.b.name, "kb": c.b.rooted, "nb": c.b.stuck}
        return _(
            "{name}: {a} {ka} of {na}, {b} {kb} of {nb}: {verdict}", name=self.name, verdict=str(c.verdict), **both
        )


def would_it_change(
    factors: list[str], scenarios: list[Scenario], settings: Settings, primary: Reading
) -> list[Answer]:
    """Run every reading and hold it against the primary headline.

    Parameters
    ----------
    primary : Reading
        The reading whose first finding is the headline; the same pair is looked for in each scenario.
    """
    head = primary.findings[0].comparison
    return [replace(_answer(factors, one, settings, head), later=one.later) for one in scenarios]


def _answer(factors: list[str], scenario: Scenario, settings: Settings, head: Comparison) -> Answer:
    try:
        again = read(analyse(arrange(factors, scenario.rows), settings))
    except OrderlyError as error:
        return Answer(scenario.name, None, False, str(error))
    for finding in [*again.findings]:
        c = finding.comparison
        if {c.a.name, c.b.name} == {head.a.name, head.b.name}:
            turned_round = (c.a.name, c.b.name) != (head.a.name, head.b.name) and (c.difference.estimate or 0) != 0
            changed = c.verdict.clear != head.verdict.clear or (turned_round and head.verdict.clear)
            return Answer(scenario.name, c, changed)
    return Answer(
        scenario.name,
        None,
        True,
        _("read this way an interaction is needed, so the headline would be a pair of arms"),
    )
