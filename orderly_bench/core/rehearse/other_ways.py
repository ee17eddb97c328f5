"""Other ways to do a trial that does not fit, or would not be seen: fewer arms, pairs, more waves, as many as there are."""

from __future__ import annotations

from dataclasses import dataclass, replace

from orderly_bench.core.design.convincing import too_few, why_not
from orderly_bench.core.design.fits import Fit
from orderly_bench.core.design.propose import holds
from orderly_bench.core.layouts.kinds import PAIRED, planned
from orderly_bench.core.layouts.shuffled_units import TRIED
from orderly_bench.core.messages.say import clause
from orderly_bench.core.plan.aspects import AspectKind
from orderly_bench.core.plan.question import Headline
from orderly_bench.core.plan.treatments import MOST_WAVES
from orderly_bench.core.plan.value import BlocksAre, Design, Plan, PlannedWave

#: At most so many are offered.
MOST_WAYS = 3


@dataclass(frozen=True)
class Way:
    """A changed plan, and what it does in words."""

    key: str
    words: str
    plan: Plan


def other_ways(plan: Plan, fits: list[Fit]) -> list[Way]:
    """Ways that can be drawn, each one click to try; empty where everything fits."""
    short = [fit for fit in fits if fit.short]
    if not short:
        return []
    most = min(fit.most_per_arm for fit in short if fit.most_per_arm is not None)
    tightest = min(short, key=lambda fit: fit.most_per_arm or 0)
    found = [_fewer_each(plan, most, tightest), _fewer_arms(plan, most), _pairs(plan, most), _more_waves(plan, short)]
    return [way for way in found if way is not None and holds(way.plan)][:MOST_WAYS]


def convincing_ways(plan: Plan) -> list[Way]:
    """Ways in which a test that can't convince can: fewer comparisons, other blocks or more units; empty where it can as it is."""
    if not too_few(plan):
        return []
    found = [_against_control(plan), _more_units(plan)]
    return [way for way in found if way is not None and holds(way.plan) and not why_not(way.plan)]


def _against_control(plan: Plan) -> Way | None:
    control = next((arm.id for arm in plan.treatments.arms if arm.control), None)
    if control is None or plan.speaks_of is not Headline.PAIRS or len(plan.treatments.arms) < 3:
        return None
    made = replace(plan, question=replace(plan.question, headline=Headline.CONTROL))
    if not too_few(made):
        return Way("control", clause("way/control", control=control), made)
    joint = replace(made, question=replace(made.question, max_t=True))
    return Way("joint", clause("way/joint", control=control), joint)


def _more_units(plan: Plan) -> Way | None:
    """The fewest units of each arm, and of blocks the most, with which the plan convinces."""
    design, layout = plan.design, planned(plan.design.layout)
    if not layout.shuffles_units or design.pieces or len({plan.units_of(arm) for arm in plan.treatments.arms}) > 1:
        return None
    units = max(1, design.cuttings_per_arm // design.cuttings_per_unit)
    named = bool(design.block_names)
    for n in range(units, 2 * units + TRIED):
        for blocks in [design.blocks] if named or not layout.counts_blocks else range(design.blocks, 1, -1):
            made = _with(plan, blocks=blocks, cuttings_per_arm=n * design.cuttings_per_unit)
            if n % layout.strata(blocks) == 0 and not too_few(made):
                key = "units_in_blocks" if layout.counts_blocks else "units"
                each = made.design.cuttings_per_arm
                return Way("units", clause(f"way/{key}", n=n, each=each, blocks=blocks), made)
    return None


def season_way(plan: Plan, least: int) -> Way | None:
    """So many waves of each season, by turns, with about as many cuttings in all; None where season is not asked or has them.

    Parameters
    ----------
    least : int
        Waves of each season that can mean something.
    """
    season = plan.treatments.of_kind(AspectKind.SEASON)
    if season is None or not season.asked:
        return None
    there = [sum(wave.season == level.id for wave in plan.schedule.waves) for level in season.levels]
    if min(there) >= least or least * len(there) > MOST_WAVES:
        return None
    turns = [level.id for _ in range(least) for level in season.levels]
    waves = tuple(PlannedWave(n, season=of) for n, of in enumerate(turns, start=1))
    step = _step(plan.design)
    in_all = plan.design.cuttings_per_arm * max(1, max(there))
    made = _with(plan, cuttings_per_arm=max(1, round(in_all / least / step)) * step)
    made = replace(made, schedule=replace(made.schedule, waves=waves))
    return Way("season", clause("way/season", n=least, each=made.design.cuttings_per_arm), made)


def _with(plan: Plan, **changes: object) -> Plan:
    design: Design = replace(plan.design, **changes)  # type: ignore[arg-type]
    return replace(plan, design=design)


def _step(design: Design) -> int:
    return design.cuttings_per_unit * planned(design.layout).strata(design.blocks)


def _fewer_each(plan: Plan, most: int, tightest: Fit) -> Way | None:
    step = _step(plan.design)
    per_arm = most // step * step
    if per_arm < step or not planned(plan.design.layout).any_number:
        return None
    made = _with(plan, cuttings_per_arm=per_arm)
    return Way("fewer", clause("way/fewer", n=per_arm, what=tightest.name.lower()), made)


def _fewer_arms(plan: Plan, most: int) -> Way | None:
    """The arms that can be kept at the planned number: the control and the first ones."""
    arms = plan.treatments.arms
    keep = len(arms) * most // plan.design.cuttings_per_arm
    if not 2 <= keep < len(arms):
        return None
    order = sorted(arms, key=lambda arm: (not arm.control, arm.id))[:keep]
    kept = tuple(arm for arm in arms if arm in order)
    made = replace(plan, treatments=replace(plan.treatments, arms=kept))
    return Way("arms", clause("way/arms", n=keep, names=", ".join(arm.id for arm in kept)), made)


def _pairs(plan: Plan, most: int) -> Way | None:
    if (
        len(plan.treatments.arms) != 2
        or planned(plan.design.layout).paired
        or plan.design.cuttings_per_unit > 1
        or most < 6
    ):
        return None
    made = _with(plan, layout=PAIRED, cuttings_per_arm=most, blocks=1, blocks_are=BlocksAre.PLACES, block_names=())
    return Way("pairs", clause("way/pairs", n=most), made)


def _more_waves(plan: Plan, short: list[Fit]) -> Way | None:
    """The same over more sticking occasions, where all that is short at one time comes again at the next."""
    if not planned(plan.design.layout).shuffles_units or plan.design.pieces:
        return None
    if not all(fit.again for fit in short):
        return None
    waves = len(plan.schedule.waves)
    times = max(2, *(-(-int(fit.needed * 100) // max(1, int((fit.there or 0) * 100))) for fit in short))
    step = _step(plan.design)
    lasts = min(fit.most_per_arm or 0 for fit in short)
    per_arm = min(-(-plan.design.cuttings_per_arm // times), lasts) // step * step
    if per_arm < step or waves * times > 12 or any(wave.season for wave in plan.schedule.waves):
        return None
    occasions = tuple(plan.schedule.waves) + tuple(PlannedWave(n) for n in range(waves + 1, waves * times + 1))
    made = replace(_with(plan, cuttings_per_arm=per_arm), schedule=replace(plan.schedule, waves=occasions))
    return Way("waves", clause("way/waves", n=waves * times, each=per_arm), made)
