"""One arm alone: how many rooted, and how sure that is. Nothing is compared."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from orderly_bench.core.cautions import Caution
from orderly_bench.core.errors import InvalidInput, UnusableData
from orderly_bench.core.judgement.arms import ArmResult, arm_results
from orderly_bench.core.judgement.comparisons import Side
from orderly_bench.core.judgement.doubts import doubts_about_counts
from orderly_bench.core.judgement.settings import Settings
from orderly_bench.core.layouts.from_rows import layout_of
from orderly_bench.core.messages.say import clause, say
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.methods.clusters import design_effects
from orderly_bench.core.methods.rates import bound_of_none
from orderly_bench.core.methods.stick_for import StickFor, for_batches
from orderly_bench.core.observations.table import Observations
from orderly_bench.core.responses.kind import Kind, Response
from orderly_bench.core.responses.outcomes_of import outcomes_of
from orderly_bench.core.responses.registry import kind_of
from orderly_bench.core.telling.headline import counts_of
from orderly_bench.core.telling.wording import interval_words


@dataclass(frozen=True)
class OneRate:
    """A rate.

    Attributes
    ----------
    units : int
        What the interval goes by: units where several cuttings share one.
    design_effect : float
        How many cuttings of shared units count as one.
    shared : bool
        Whether units hold several cuttings.
    bound : dict or None
        ``side`` (above or below) and ``value``, one-sided 95 %, when all or none did.
    """

    response: Response
    arm: ArmResult
    units: int
    bound: dict[str, object] | None
    cautions: list[Caution]
    sentence: str
    design_effect: float = 1.0
    shared: bool = False

    def to_stick(self, want: int, assurance: float) -> Advice | None:
        """How many to stick for so many; None from one unit, or where none did: neither tells how often one would."""
        if self.units < 2 or not self.arm.rooted:
            return None
        k, n, out = self.arm.rooted, self.arm.stuck, self.arm.left_out

        def of(k: int, n: int) -> StickFor:
            return for_batches(want, [(k / self.design_effect, n / self.design_effect)], assurance)

        known = of(k, n)
        return Advice(want, assurance, known, of(k + out, n + out).stick, of(k, n + out).stick)


@dataclass(frozen=True)
class Advice:
    """How many to stick: from the known outcomes, and were all unknown ones to have done it, or none."""

    want: int
    assurance: float
    known: StickFor
    fewest: int
    most: int

    @property
    def sentence(self) -> str:
        """In words, with the range over the unknown."""
        key = "stick_for" if self.fewest == self.most else "stick_for/range"
        times = round(100 * self.assurance)
        return say(key, n=self.known.stick, want=self.want, times=times, least=self.fewest, most=self.most)


def one_rate(observations: Observations, settings: Settings) -> OneRate:
    """The rate of the only arm.

    Raises
    ------
    UnusableData
        More than one arm: a rate compares nothing.
    InvalidInput
        A response that is no yes or no.
    """
    kind = kind_of(settings.response)
    if not kind.yes_no:
        raise InvalidInput("response", _("a rate is of a yes or no: rooted, fit_to_pot_on or alive"), settings.response)
    if len(observations.arms) > 1:
        raise UnusableData(
            _("there are {n} arms, and a rate is of one", n=len(observations.arms)),
            _("Leave the flag out to compare them, or give a file of one arm"),
        )
    exact = settings.interval == "clopper-pearson"
    arm = arm_results(outcomes_of(observations, settings.response), 1 - settings.alpha, exact)[0]
    units = int(np.bincount(layout_of(observations).replicates.arm, minlength=1)[0])
    bound = _bound(arm, units)
    cautions = doubts_about_counts(observations, settings.response)
    layout = layout_of(observations)
    effect = design_effects(layout.replicates, 1)[0] if layout.shared and units > 1 else 1.0
    return OneRate(settings.response, arm, units, bound, cautions, _sentence(arm, bound, kind), effect, layout.shared)


def _bound(arm: ArmResult, units: int) -> dict[str, object] | None:
    value = bound_of_none(units)
    if value is None or units < 2 or arm.rooted not in (0, arm.stuck):
        return None
    return {"side": "below", "value": value} if arm.rooted == 0 else {"side": "above", "value": 1 - value}


def _sentence(arm: ArmResult, bound: dict[str, object] | None, kind: Kind) -> str:
    said = {
        "counts": counts_of(Side(arm.name, arm.rooted, arm.stuck, arm.left_out)),
        "did": clause(f"did/{kind.response}"),
    }
    if bound is not None:
        text = N_("below {bound:.0f} %") if bound["side"] == "below" else N_("above {bound:.0f} %")
        return say("rate/bound", **said, limit=_(text, bound=100 * float(str(bound["value"]))))
    if arm.interval is None:
        return say("rate/one_unit", **said)
    return say("rate", **said, interval=interval_words(arm.interval, kind))
