"""What the researcher fixed beforehand, held to what it may be."""

from __future__ import annotations

from dataclasses import dataclass

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.judgement.verdict import Rule
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.observations.table import JOINER, Observations
from orderly_bench.core.responses.kind import Response
from orderly_bench.core.responses.registry import kind_of

#: Unless the plan says another margin for rooting.
ROOTING_MARGIN = 0.15


@dataclass(frozen=True)
class Settings:
    """What the researcher fixed beforehand.

    Attributes
    ----------
    alpha : float
    margin : float or None
        Smallest difference that matters, in the unit of the response's estimate.
    draws, seed : int
        Monte Carlo draws and the seed they start from.
    control : tuple of str or None
        Level values of the control arm.
    against_control : bool
        The family is each arm against the control instead of all pairs.
    interval : str
        ``wilson`` or ``clopper-pearson`` for the rates.
    response : Response
    dose : str or None
        The factor whose levels are strengths, for its trend.
    look : bool
        A look, to see what to test: counts, and nothing that could be taken for a verdict.
    not_worse : bool
        Each first side is also judged for being no worse than the second by more than the margin; planned beforehand only.
    properties : tuple of str
        Factors that are properties of the pieces: a sentence about them speaks of these pieces.
    max_t : bool
        Against the control: adjust by the studentised maximum over the redraws instead of by Holm.
    rooting_margin : float
        Within which rooting must lie for a response of the rooted to be called the same.
    by_factor : bool
        Whether the headline speaks of factors where they can be told apart, or of pairs of arms; fixed in the plan.
    """

    alpha: float = 0.05
    margin: float | None = None
    draws: int = 20_000
    seed: int = 1
    control: tuple[str, ...] | None = None
    against_control: bool = False
    interval: str = "wilson"
    response: Response = Response.ROOTED
    dose: str | None = None
    look: bool = False
    not_worse: bool = False
    max_t: bool = False
    by_factor: bool = True
    properties: tuple[str, ...] = ()
    rooting_margin: float = ROOTING_MARGIN

    def __post_init__(self) -> None:
        if not 0 < self.alpha < 0.5:
            raise InvalidInput("alpha", _("must lie above 0 and below 0.5"), self.alpha)
        if not 1 <= self.draws <= 2_000_000:
            raise InvalidInput("draws", _("must lie between 1 and 2000000"), self.draws)
        if self.seed < 0:
            raise InvalidInput("seed", _("must be 0 or more"), self.seed)
        if self.against_control and self.control is None:
            raise InvalidInput("control", _("name the control arm when the family is 'control'"))
        if self.max_t and not self.against_control:
            raise InvalidInput("max-T", _("is for each arm against the control; name the control and that family"))
        if self.not_worse and self.margin is None:
            raise InvalidInput("not worse than", _("needs a margin: by how much is worse"))
        self.rule()

    def rule(self) -> Rule:
        """The verdict's rule on the response's own scale, for a family of one."""
        kind = kind_of(self.response)
        low, high = kind.inside(self.margin) or (None, None)
        return Rule(self.alpha, 1, kind.nothing, low, high)


def control_index(observations: Observations, settings: Settings) -> int | None:
    """Where the control stands among the arms; None without one."""
    if settings.control is None:
        return None
    if settings.control not in observations.arms:
        raise InvalidInput(
            "control",
            _("must be one of the arms: {names}", names="; ".join(observations.names)),
            JOINER.join(settings.control),
        )
    return observations.arms.index(settings.control)
