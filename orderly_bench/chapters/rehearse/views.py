"""What the Rehearse pages print."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from time import monotonic

import numpy as np

from orderly_bench.core.errors import InvalidInput, OrderlyError
from orderly_bench.core.judgement.comparisons import Comparison
from orderly_bench.core.judgement.settings import Settings
from orderly_bench.core.judgement.verdict import Verdict
from orderly_bench.core.messages.translation import cached_per_language
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.plan.question import Headline
from orderly_bench.core.plan.value import Plan
from orderly_bench.core.question.sentence import margin_of
from orderly_bench.core.rehearse import verdicts
from orderly_bench.core.rehearse.blank_trial import BlankTrial, of_two_arms
from orderly_bench.core.rehearse.curve import blank_trial, guess_of
from orderly_bench.core.rehearse.outcomes import Guess
from orderly_bench.core.rehearse.verdicts import Rehearsed, Trial
from orderly_bench.core.responses.registry import kind_of

#: Small benches shown one by one.
BENCHES = 10
#: Trials in each pass: the small benches, a useful number, all of them.
PASSES = (BENCHES, 150, 500)
#: A pass ends after so long, with as many trials as it got.
MOST_SECONDS = 6.0
SIZES = (3, 10, 30)
MOST_A_SIDE = 100


#: Squares beside each other in a small bench.
IN_A_ROW = 30


@dataclass(frozen=True)
class Mini:
    """One small bench: by arm its letter and the cuttings that rooted or not, or the mean; its verdict."""

    arms: list[tuple[str, list[bool]]]
    counts: str
    verdict: Verdict
    wrong: bool

    @property
    def _most(self) -> int:
        return max(len(cuttings) for _, cuttings in self.arms)

    @property
    def _tall(self) -> int:
        """Height of an arm: one row of squares, or two."""
        return 13 if self._most <= IN_A_ROW else 20

    @property
    def width(self) -> int:
        """Of the drawing, px."""
        return min(IN_A_ROW, max(6, self._most)) * 5 + 18

    @property
    def height(self) -> int:
        """Of the drawing, px."""
        return len(self.arms) * self._tall + 2

    @property
    def letters(self) -> list[tuple[str, int]]:
        """Each arm's letter and where it is written."""
        return [(letter, number * self._tall + 9) for number, (letter, _) in enumerate(self.arms)]

    @property
    def squares(self) -> list[tuple[int, int, bool]]:
        """Where each cutting's square lies, and whether it rooted."""
        return [
            (14 + k % IN_A_ROW * 5, number * self._tall + 2 + k // IN_A_ROW * 8, rooted)
            for number, (_, cuttings) in enumerate(self.arms)
            for k, rooted in enumerate(cuttings)
        ]


@dataclass(frozen=True)
class Panel:
    """One scenario rehearsed so far."""

    title: str
    minis: list[Mini]
    found: Rehearsed | None
    truth: str
    problem: str = ""
    more: bool = False
    next_step: int = 1

    @property
    def shares(self) -> list[tuple[Verdict, float]]:
        """Every verdict that came, strongest first."""
        return [(verdict, share) for verdict, share in self.found.verdicts.items() if share > 0] if self.found else []


def minis_of(trials: Sequence[Trial], blank: BlankTrial, sign: float, order: Sequence[int]) -> list[Mini]:
    """Small benches of some trials, arms in the order in which they are judged."""
    made = []
    for trial in trials:
        arms = []
        for i in order:
            values = trial.values[blank.arm == i]
            arms.append((blank.order[i], [bool(value > 0) for value in values[:60]]))
        c = trial.comparison
        made.append(Mini(arms, _counts(c), c.verdict, trial.wrong(sign)))
    return made


def _counts(c: Comparison) -> str:
    """Both sides in a few signs: ``11 v 19 of 30``."""
    if not c.yes_no:
        return f"{c.a.mean or 0:.1f} v {c.b.mean or 0:.1f}"
    if c.a.stuck == c.b.stuck:
        return _("{rooted} v {rooted2} of {stuck}", rooted=c.a.rooted, rooted2=c.b.rooted, stuck=c.b.stuck)
    return _(
        "{rooted} of {stuck} v {rooted2} of {stuck2}",
        rooted=c.a.rooted,
        stuck=c.a.stuck,
        rooted2=c.b.rooted,
        stuck2=c.b.stuck,
    )


@dataclass(frozen=True)
class Played:
    """What is played: the blank, the guess, how it is judged, which comparison, and the sign of the true difference."""

    blank: BlankTrial
    guess: Guess
    settings: Settings
    which: int = 0
    sign: float = 0.0
    order: Sequence[int] = (0, 1)


def _panel(title: str, truth: str, played: Played, step: int) -> Panel:
    trials, until = [], monotonic() + MOST_SECONDS
    for trial in verdicts.run(
        played.blank, played.guess, played.settings, PASSES[min(step, len(PASSES) - 1)], played.which
    ):
        trials.append(trial)
        if len(trials) >= BENCHES and monotonic() > until:
            break
    return Panel(
        title,
        minis_of(trials[:BENCHES], played.blank, played.sign, played.order),
        verdicts.summed(trials, played.sign, played.blank),
        truth,
        more=step < len(PASSES) - 1,
        next_step=step + 1,
    )


@cached_per_language(128)
def side_by_side(rates: tuple[float, float], per_arm: int, margin: float, seed: int, step: int) -> Panel:
    """Two arms of so many single cuttings, for who learns."""
    if not 2 <= per_arm <= MOST_A_SIDE:
        raise InvalidInput("a side", _("must be between 2 and {most_a_side}", most_a_side=MOST_A_SIDE), per_arm)
    blank = of_two_arms(per_arm, None, None, 1, ("A", "B"))
    settings = verdicts.settings_for(0.05, margin, seed)
    sign = rates[0] - rates[1]
    truth = (
        _("A roots {rates:.0f} %, B {rates2:.0f} %", rates=100 * rates[0], rates2=100 * rates[1])
        if sign
        else _("both root {rates:.0f} %", rates=100 * rates[0])
    )
    return _panel(_("{per_arm} a side", per_arm=per_arm), truth, Played(blank, Guess(rates), settings, 0, sign), step)


def of_plan(plan: Plan, nothing: bool, step: int) -> Panel:
    """The plan's own trial: at what is guessed, or where nothing differs."""
    title = _("Nothing differs") if nothing else _("As you guess")
    try:
        guess = guess_of(plan)
        if guess is None:
            return Panel(title, [], None, "", _("Type what you would expect of each arm on the Design page first."))
        blank, family = blank_trial(plan)
        gaps = _gaps(blank, guess, [(one.first, one.second) for one in family.compared])
        which = int(np.argmax(np.abs(gaps)))
        sign = 0.0 if nothing else float(gaps[which])
        middle = float(np.mean(guess.values))
        played = replace(guess, values=(middle,) * len(guess.values)) if nothing else guess
        one = family.compared[which]
        sides = [_arms_in(blank, side) for side in (one.first, one.second)]
        named = [
            f"{what} ({', '.join(blank.order[i] for i in arms)})"
            for what, arms in zip((one.a, one.b), sides, strict=True)
        ]
        truth = _truth(plan, played, nothing) + _("; judged: {named} against {named2}", named=named[0], named2=named[1])
        rest = [i for i in range(len(blank.order)) if i not in [*sides[0], *sides[1]]]
        order = [*sides[0], *sides[1], *rest]
        return _panel(title, truth, Played(blank, played, _settings(plan), which, sign, order), step)
    except OrderlyError as error:
        return Panel(title, [], None, "", str(error))


def _arms_in(blank: BlankTrial, side: Sequence[int]) -> list[int]:
    """Arms of the plan, in its order, that stand on a side of the comparison."""
    return sorted({int(arm) for arm in blank.arm[np.isin(blank.observations.arm_of_known, list(side))]})


def _gaps(blank: BlankTrial, guess: Guess, sides: list[tuple[tuple[int, ...], tuple[int, ...]]]) -> np.ndarray:
    o = blank.observations
    by_arm = np.empty(len(o.arms))
    by_arm[o.arm_of_known] = np.array(guess.values)[blank.arm]
    return np.array([by_arm[list(a)].mean() - by_arm[list(b)].mean() for a, b in sides])


def _settings(plan: Plan) -> Settings:
    asked, treatments = plan.question, plan.treatments
    control = next((treatments.level_names(arm) for arm in treatments.arms if arm.control), None)
    against = asked.headline is Headline.CONTROL and control is not None
    return Settings(
        alpha=asked.alpha_left, margin=margin_of(asked.response, asked.margin_points, asked.margin_own), draws=verdicts.DRAWS, seed=1, control=control,
        against_control=against, response=asked.response, by_factor=asked.headline is Headline.FACTORS,
    )  # fmt: skip


def _truth(plan: Plan, guess: Guess, nothing: bool) -> str:
    share = kind_of(guess.response).yes_no
    said = [f"{100 * v:.0f} %" if share else f"{v:g}" for v in guess.values]
    if nothing:
        return _("every arm comes to {said}", said=said[0])
    return ", ".join(f"{arm.id} {v}" for arm, v in zip(plan.treatments.arms, said, strict=True))
