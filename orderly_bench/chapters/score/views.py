"""What the Score page prints: the tray, the pad, the tally."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from flask import url_for

from orderly_bench.chapters.score.operations import CheckProgress, Site
from orderly_bench.core.design.codes import spaced
from orderly_bench.core.score.classes import CLASSES, class_floor
from orderly_bench.core.score.progress import next_unscored
from orderly_bench.core.vocabulary import QUALITY_ANCHORS, FailureSign, Fit, Roots, State, Top
from orderly_bench.figures.glyphs import Look, look_of, top_only
from orderly_bench.trial.models import Cutting, ScoreRecord, Unit
from orderly_bench.web.bench_map import Cell, TrayView, tray_views

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
    """The pad for one rooting site of a cutting, filled from its standing score or from what was typed."""

    cutting: Cutting
    site: int
    standing: ScoreRecord | None
    values: Mapping[str, str]
    look: Look

    @property
    def place(self) -> str:
        """Where it stands, and which of several rooting sites."""
        p = self.cutting.unit.place
        where = f"tray {p.tray.number}, row {p.row}, cell {p.column}"
        return where if len(self.cutting.sites) == 1 else f"{where}, {self.cutting.sites[self.site - 1]}"


def values_of(standing: ScoreRecord | None) -> dict[str, str]:
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
    values["callus"] = "" if standing.callus is None else ("yes" if standing.callus else "no")
    values["top"], values["failure"] = standing.top or "", standing.failure or ""
    return values


def pad_for(progress: CheckProgress, wanted: Site | None, typed: Mapping[str, str] | None) -> Pad | None:
    """The pad of the site asked for, else of the next unaccounted one; None when all are."""
    order = progress.sites
    chosen = wanted if wanted in order else next_unscored(order, progress.accounted)
    if chosen is None:
        return None
    cutting = next(c for c in progress.cuttings if c.id == chosen[0])
    standing = progress.scores.get(chosen)
    look = look_of(standing.as_score()) if standing else Look("unseen", "nothing")
    return Pad(cutting, chosen[1], standing, typed if typed is not None else values_of(standing), look)


def wanted_site(progress: CheckProgress, cutting: int | None, site: int | None) -> Site | None:
    """A cutting's site as asked for; of several the first that is not scored."""
    if cutting is None:
        return None
    if site is not None:
        return cutting, site
    own = [s for s in progress.sites if s[0] == cutting]
    return next((s for s in own if s not in progress.accounted), own[0] if own else None)


def in_words(score: ScoreRecord) -> str:
    """A score in a few words."""
    if score.root_number is not None:
        text = f"{score.root_number} root{'s' if score.root_number != 1 else ''}"
        if score.longest_root_mm is not None:
            text += f", {score.longest_root_mm:g} mm"
    elif score.root_class:
        text = f"{score.root_class} roots"
    else:
        text = (
            "callus"
            if score.callus and score.roots == Roots.NONE
            else {"none": "no roots"}.get(score.roots, score.roots)
        )
    return text if score.state == State.ALIVE else f"{score.state}, {text}"


def map_of(progress: CheckProgress, units: list[Unit], tray_number: int) -> TrayView:
    """One tray by what is known of each cutting at this check; never its arm."""
    trays = [tray for tray in progress.check.trial.trays if tray.number == tray_number]
    scope = {cutting.unit_id for cutting in progress.cuttings}
    here = [unit for unit in units if unit.place.tray.number == tray_number and unit.id in scope]
    return tray_views(trays, here, lambda unit: cell_of(progress, unit))[0]


def cell_of(progress: CheckProgress, unit: Unit) -> Cell:
    """One unit on the map."""
    sites = [
        (c, (c.id, n)) for c in unit.cuttings if c.lot_id == progress.check.lot_id for n in range(1, len(c.sites) + 1)
    ]
    scores = [progress.scores.get(site) or progress.carried.get(site) for _, site in sites]
    cutting = next((c for (c, _), score in zip(sites, scores, strict=True) if score is None), sites[0][0])
    said = in_words(scores[0]) if scores[0] else "not scored"
    if len(sites) > 1:
        said = f"{sum(s is not None for s in scores)} of {len(sites)} scored"
    label = f"{spaced(unit.code)}, row {unit.place.row} cell {unit.place.column}: {said}"
    href = url_for("score.score_page", trial_id=unit.trial_id, check=progress.check.id, cutting=cutting.id)
    shown = scores[0] if len(sites) == 1 else _newest_known(scores)
    look = look_of(shown.as_score()) if shown else None
    return Cell(unit.place.row, unit.place.column, cutting.id, label, href, look=look)


def _newest_known(scores: list[ScoreRecord | None]) -> ScoreRecord | None:
    """The newest score of a unit once all in it are scored; the map stays blank until then."""
    known = [score for score in scores if score is not None]
    return max(known, key=lambda s: s.id) if len(known) == len(scores) else None


def passed_by(progress: CheckProgress) -> list[Cutting]:
    """Unaccounted cuttings before the last one scored, in bench order."""
    order = progress.sites
    last = max((i for i, site in enumerate(order) if site in progress.scores), default=-1)
    waiting = {cutting for cutting, _ in order[: last + 1]} - {c for c, _ in progress.accounted}
    return [c for c in progress.cuttings if c.id in waiting]


def newest(progress: CheckProgress) -> list[tuple[ScoreRecord, str, Cutting | None]]:
    """The three scores kept last, in words, each with its cutting."""
    found = sorted(progress.scores.values(), key=lambda s: s.id, reverse=True)[:3]
    return [(s, in_words(s), next((c for c in progress.cuttings if c.id == s.cutting_id), None)) for s in found]


def buttons() -> dict[str, object]:
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
        "classes": [label for label in CLASSES if class_floor(label)],
        "qualities": list(enumerate(QUALITY_ANCHORS)),
        "callus": Look("unseen", "callus"),
    }
