"""Signs of failure by arm: counted, read with their correction, and never read from a few.

Black from the base up is rot: too wet, still or cool, or an injury by hormone or alcohol. Shrivelled from the top down is drying: too dry,
draughty or hot. Davies, Geneve and Wilson (2018), Hartmann and Kester's Plant Propagation, 9th edition, chapters 10 and 11.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.vocabulary import FailureSign, Score

#: Fewer signs than these over all arms are counted and not read.
FEWEST_TO_READ = 5
#: What each sign points to, and what puts it right.
READ = {
    FailureSign.BLACK_BASE: (
        N_("rot: too wet, too still or too cool at the base; a base burned by hormone or alcohol looks the same"),
        N_("Let the medium drain and the air move, warm the base; if only dipped arms show it, dip weaker or shorter"),
    ),
    FailureSign.DRY_FROM_TOP: (
        N_("drying: air too dry, draughty or hot for leaves without roots"),
        N_("Keep the cover closed longer, shade, halve large leaves; don't water more for it"),
    ),
    FailureSign.PEST: (
        N_("something eats or sucks: the counts speak of it, not of the treatment"),
        N_("Find out what it is, set the touched units apart, and write down the days as an incident"),
    ),
}
OPPOSITE = frozenset({FailureSign.BLACK_BASE, FailureSign.DRY_FROM_TOP})


@dataclass(frozen=True)
class SignCount:
    """One sign: by arm's letter how many of how many show it."""

    sign: FailureSign
    of_arm: dict[str, tuple[int, int]]

    @property
    def total(self) -> int:
        """Over all arms."""
        return sum(k for k, _ in self.of_arm.values())

    @property
    def words(self) -> str:
        """``black base: A 9 of 30, B 2 of 30``."""
        if list(self.of_arm) == [""]:
            k, n = self.of_arm[""]
            return _("{sign} {k} of {n}", sign=self.sign.value, k=str(k), n=str(n))
        arms = ", ".join(
            _("{letter} {k} of {n}", letter=letter, k=str(k), n=str(n)) for letter, (k, n) in self.of_arm.items()
        )
        return _("{sign}: {arms}", sign=self.sign.value, arms=arms)

    @property
    def points_to(self) -> str:
        """What the sign points to; blank where it is too few to read."""
        return _(READ[self.sign][0]) if self.total >= FEWEST_TO_READ else ""

    @property
    def correction(self) -> str:
        """One correction; blank where it is too few to read."""
        return _(READ[self.sign][1]) if self.total >= FEWEST_TO_READ else ""


def signs_of(letters: Sequence[str], scored: Iterable[tuple[str, Score | None]]) -> list[SignCount]:
    """The signs there are, the most frequent first.

    Parameters
    ----------
    letters : sequence of str
        The arms, in order; a single blank one for totals.
    scored : iterable of (str, Score or None)
        Arm and standing score of every counted cutting; without a score it is not looked at and in no denominator.
    """
    known = [(letter, score) for letter, score in scored if score is not None]
    looked = {letter: sum(1 for own, _ in known if own == letter) for letter in letters}
    found = []
    for sign in FailureSign:
        showing = {
            letter: sum(1 for own, score in known if own == letter and score.failure is sign) for letter in letters
        }
        if any(showing.values()):
            found.append(SignCount(sign, {letter: (showing[letter], looked[letter]) for letter in letters}))
    return sorted(found, key=lambda one: -one.total)


def read_together(signs: Sequence[SignCount]) -> list[str]:
    """What the signs of a trial say together: opposite ones told apart, few left unread."""
    told = []
    if {one.sign for one in signs if one.total >= FEWEST_TO_READ} >= OPPOSITE:
        told.append(
            _("Opposite signs stand side by side: what mends one feeds the other. Black starts soft at the cut, drying starts crisp at the tip; look where each stands, and mend them by place or arm, not all at once.")
        )  # fmt: skip
    few = [one for one in signs if one.total < FEWEST_TO_READ]
    if few:
        told.append(_("{signs}: too few to read, counted only.", signs=", ".join(_(one.sign.value) for one in few)))
    return told
