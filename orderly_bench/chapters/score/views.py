"""What the Score page prints: the tray, the pad, the tally."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from orderly_bench.core.design.codes import spaced
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.plan.aspects import AspectKind
from orderly_bench.core.responses.classes import CLASSES, class_floor
from orderly_bench.core.score.details import DETAILS
from orderly_bench.core.score.progress import next_unscored
from orderly_bench.core.score.signs import SignCount, signs_of
from orderly_bench.core.score.visibility import asks_to_measure
from orderly_bench.core.tend.schedule import DueState
from orderly_bench.core.vocabulary import (
    FOLIAGE_ANCHORS,
    QUALITY_ANCHORS,
    FailureSign,
    Fit,
    KnownBy,
    Roots,
    Score,
    State,
    Top,
)
from orderly_bench.figures.glyphs import Look, look_of, top_only
from orderly_bench.trial.models import Tray, Trial
from orderly_bench.trial.progress import SHOWN_PASSED, CheckProgress, Kept, Site, Spot
from orderly_bench.web.bench_map import Cell, TrayView, block_lines
from orderly_bench.web.due import DueLine

TOP_KEYS = (
    ("q", Top.FRESH),
    ("w", Top.GROWING),
    ("e", Top.FLOWER),
    ("r", Top.WILTING),
    ("t", Top.DRIED),
    ("y", Top.GONE),
)
ROOT_KEYS = (("n", Roots.NONE), ("c", Roots.COUNTED), ("v", Roots.SEEN), ("u", Roots.NOT_LOOKED))
ROOT_LOOKS = {Roots.NONE: "none", Roots.COUNTED: "few", Roots.SEEN: "seen", Roots.NOT_LOOKED: "not looked"}
ROOT_WORDS = {Roots.COUNTED: "counted", Roots.SEEN: "seen"}
FAILURE_KEYS = (("b", FailureSign.BLACK_BASE), ("x", FailureSign.DRY_FROM_TOP), ("p", FailureSign.PEST))
FIT_KEYS = (("o", Fit.YES), ("i", Fit.NO), ("h", Fit.NOT_JUDGED))
STATE_KEYS = (("a", State.ALIVE), ("l", State.LOOKS_DEAD), ("d", State.DEAD), ("m", State.MISSING))
QUICK_NUMBERS = (1, 2, 3, 4, 5, 6, 8, 10, 12, 15, 20, 24)


@dataclass(frozen=True)
class Pad:
    """The pad for one spot on the bench, filled from its standing score or from what was typed."""

    spot: Spot
    values: Mapping[str, str]
    look: Look
    measured: bool  #: whether length, callus and quality are asked for: of roots in the hand, or where they were said

    @property
    def standing(self) -> Kept | None:
        """The score it has at this check."""
        return self.spot.kept


def at_hand(trial: Trial, lines: Mapping[int, DueLine], gone_by: Sequence[int]) -> int | None:
    """The check whose form stands open: the first in its window, else the first that is late; None where none is due."""
    waiting = [c for c in trial.checks if c.opened_at is None and c.id in lines and c.id not in gone_by]
    for state in (DueState.DUE, DueState.OVERDUE):
        due = [c for c in waiting if lines[c.id].state is state]
        if due:
            return min(due, key=lambda c: lines[c.id].due).id
    return None


def values_of(standing: Score | None) -> dict[str, str]:
    """A standing score as form values; a fresh pad is alive and says nothing else."""
    if standing is None:
        return {"state": State.ALIVE.value, "fit": Fit.NOT_JUDGED.value}
    values = {
        "state": standing.state,
        "roots": standing.roots,
        "fit": standing.fit,
        "known_by": standing.known_by,
        "note": standing.note,
    }
    values["root_number"] = "" if standing.root_number is None else str(standing.root_number)
    values["longest_root_mm"] = "" if standing.longest_root_mm is None else f"{standing.longest_root_mm:g}"
    values["root_class"] = standing.root_class or ""
    values["quality"] = "" if standing.quality is None else str(standing.quality)
    values["foliage"] = "" if standing.foliage is None else str(standing.foliage)
    values["callus"] = "" if standing.callus is None else ("yes" if standing.callus else "no")
    values |= dict(standing.details)
    values["top"], values["failure"] = standing.top or "", standing.failure or ""
    return values


def pad_for(progress: CheckProgress, wanted: Site | None, typed: Mapping[str, str] | None) -> Pad | None:
    """The pad of the site asked for, else of the next unaccounted one; None when all are."""
    order = progress.order
    chosen = wanted if wanted in order else next_unscored(order, progress.accounted)
    if chosen is None:
        return None
    spot = progress.spot(chosen)
    standing = spot.kept.score if spot.kept else None
    look = look_of(standing) if standing else Look("unseen", "nothing")
    values = typed if typed is not None else values_of(standing)
    said = any(values.get(name) for name in ("longest_root_mm", "callus", "quality"))
    return Pad(spot, values, look, said or asks_to_measure(KnownBy(progress.check.way)))


@dataclass(frozen=True)
class ContainerView:
    """A container of several cuttings: each with its number, what is known of it in words and as a picture, and whether it is up."""

    unit: int
    cuttings: list[tuple[int, str, str, Look, bool]]
    waiting: int
    countable: bool


def had_roots(trial: Trial) -> bool:
    """Whether some of a trial had roots when they were stuck, as the plan or a lot says: then new ones alone are asked for."""
    said = trial.plan.treatments.of_kind(AspectKind.EARLIER_ROOTS)
    return said is not None or any(lot.usual.get("earlier_roots", "none") != "none" for lot in trial.lots)


def container_of(progress: CheckProgress, pad: Pad | None) -> ContainerView | None:
    """The container that the pad's cutting shares; None where it stands alone."""
    spots = [spot for spot in progress.spots if pad is not None and spot.unit == pad.spot.unit]
    if pad is None or len({spot.cutting for spot in spots}) < 2:
        return None
    own = [
        (
            spot.cutting,
            spot.code.rsplit("-", 1)[-1],
            in_words(spot.known) if spot.known else "",
            look_of(spot.known) if spot.known else Look("unseen", "nothing"),
            spot.key == pad.spot.key,
        )
        for spot in spots
    ]
    waiting = sum(spot.known is None for spot in spots)
    return ContainerView(pad.spot.unit, own, waiting, waiting > 0 and not any(spot.site_name for spot in spots))


def wanted_site(progress: CheckProgress, cutting: int | None, site: int | None) -> Site | None:
    """A cutting's site as asked for; of several the first that is not scored."""
    if cutting is None:
        return None
    if site is not None:
        return cutting, site
    own = progress.of_cutting(cutting)
    return next((s.key for s in own if s.known is None), own[0].key if own else None)


def in_words(score: Score) -> str:
    """A score in a few words."""
    if score.root_number is not None:
        text = _("{n:root|roots}", n=score.root_number)
        if score.longest_root_mm is not None:
            text += _(", {longest_root_mm:g} mm", longest_root_mm=score.longest_root_mm)
    elif score.root_class:
        text = _("{root_class} roots", root_class=score.root_class)
    else:
        text = (
            "callus"
            if score.callus and score.roots == Roots.NONE
            else {"none": "no roots"}.get(score.roots, score.roots)
        )
    return text if score.state == State.ALIVE else f"{score.state}, {text}"


def map_of(progress: CheckProgress, tray: Tray, blocks: Mapping[int, str | None]) -> TrayView:
    """One tray by what is known of each cutting at this check; never its arm. ``blocks``: by unit, the group a line parts."""
    units: dict[int, list[Spot]] = {}
    for spot in progress.spots:
        if spot.tray == tray.number:
            units.setdefault(spot.unit, []).append(spot)
    cells = {(c.row, c.column): c for c in (cell_of(progress, spots) for spots in units.values())}
    grid = [cells.get((r, c)) or Cell(r, c) for r in range(1, tray.rows + 1) for c in range(1, tray.columns + 1)]
    parted = {(spots[0].row, spots[0].column): blocks.get(unit) for unit, spots in units.items()}
    return TrayView(tray.number, tray.rows, tray.columns, grid, block_lines=block_lines(parted))


def cell_of(progress: CheckProgress, spots: list[Spot]) -> Cell:
    """One unit on the map."""
    known = [spot.known for spot in spots]
    first = next((spot for spot in spots if spot.known is None), spots[0])
    said = in_words(known[0]) if known[0] else "not scored"
    count = ""
    if len(spots) > 1:
        count = f"{sum(k is not None for k in known)}/{len(spots)}"
        said = _("{k} of {n} scored", k=sum(k is not None for k in known), n=len(spots))
    label = _(
        "{spaced}, row {row} cell {column}: {said}",
        spaced=spaced(first.code.split("-")[0]),
        row=first.row,
        column=first.column,
        said=said,
    )
    href = f"?check={progress.check.id}&cutting={first.cutting}"
    shown = known[0] if len(spots) == 1 else _newest_known(spots)
    return Cell(
        first.row, first.column, first.cutting, label, href, look=look_of(shown) if shown else None, count=count
    )


def _newest_known(spots: list[Spot]) -> Score | None:
    """The newest score of a unit once all in it are scored; the map stays blank until then."""
    if any(spot.known is None for spot in spots):
        return None
    return max(spots, key=lambda spot: spot.kept.id if spot.kept else 0).known


def passed_by(progress: CheckProgress) -> list[Spot]:
    """The first cuttings passed by, each once."""
    return [progress.of_cutting(cutting)[0] for cutting in progress.passed[:SHOWN_PASSED]]


def signs_so_far(progress: CheckProgress) -> list[SignCount]:
    """Signs of failure over all arms, each cutting once."""
    first = {spot.cutting: spot.known for spot in reversed(progress.spots)}
    return signs_of([""], [("", score) for score in first.values()])


def still_of(progress: CheckProgress) -> list[tuple[int, int, str, str]]:
    """What has no score yet, in order: cutting, site, code and place. By it the pad goes on without a network; no arm is in it."""
    spots = {spot.key: spot for spot in progress.spots}
    left = [spots[key] for key in progress.order if key not in progress.accounted]
    return [(spot.cutting, spot.site, spaced(spot.code), spot.place) for spot in left]


def newest(progress: CheckProgress) -> list[tuple[Spot, str]]:
    """The scores kept last, in words."""
    return [(spot, in_words(spot.known)) for spot in map(progress.spot, progress.newest) if spot.known]


def buttons(classes: Sequence[str] = ()) -> dict[str, object]:
    """The pad's choices with their keys and pictures."""
    return {
        "tops": [(key, top.value, top_only(top)) for key, top in TOP_KEYS],
        "roots": [
            (key, roots.value, ROOT_WORDS.get(roots, roots.value), Look("unseen", ROOT_LOOKS[roots]))
            for key, roots in ROOT_KEYS
        ],
        "failures": [(key, sign.value) for key, sign in FAILURE_KEYS],
        "fits": [(key, fit.value) for key, fit in FIT_KEYS],
        "states": [(key, state.value) for key, state in STATE_KEYS],
        "other_states": [state.value for state in State if state not in [s for _, s in STATE_KEYS]],
        "numbers": QUICK_NUMBERS,
        "classes": list(classes) or [label for label in CLASSES if class_floor(label)],
        "qualities": list(enumerate(QUALITY_ANCHORS)),
        "foliages": list(enumerate(FOLIAGE_ANCHORS)),
        "callus": Look("unseen", "callus"),
        "details": DETAILS,
    }
