"""What lies on the scoring bench: every rooting site of a check's lot in bench order, with what is kept, and what changes of it after a score."""

from __future__ import annotations

import json
from collections.abc import Collection
from dataclasses import dataclass, replace
from functools import cache, cached_property
from typing import Any

from sqlalchemy import ColumnElement, CompoundSelect, Select, and_, bindparam, case, func, literal, or_, select
from sqlalchemy.orm import Session, aliased

from orderly_bench.core import vocabulary as words
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.score.details import in_order
from orderly_bench.core.score.on_table import Pile, Piles, pile_of, piles
from orderly_bench.core.score.progress import Progress, next_unscored, progress
from orderly_bench.core.stick.tally import Status
from orderly_bench.core.vocabulary import FINAL_STATES, SAMPLED, Score
from orderly_bench.trial.checks import sampled_before
from orderly_bench.trial.models import (
    Arm,
    CheckVisit,
    Cutting,
    Person,
    Placement,
    PlannedCheck,
    ScoreRecord,
    Tray,
    Unit,
)

#: How many scores kept last, and how many cuttings passed by, are named.
JUST_KEPT, SHOWN_PASSED = 3, 4
#: Units that are read as one text; of 800 cuttings each it stays within what the database joins.
UNITS_READ = 20
#: Scores that are read as one text, by the same.
SCORES_READ = 10_000
#: Above every number of a cutting in its unit, so that one number orders both.
MOST_IN_A_UNIT = 1_000_000
#: A cutting's id and the number of its rooting site.
Site = tuple[int, int]
KEPT = (
    ScoreRecord.id, ScoreRecord.site, ScoreRecord.revision, ScoreRecord.state, ScoreRecord.roots, ScoreRecord.root_number,
    ScoreRecord.longest_root_mm, ScoreRecord.callus, ScoreRecord.top, ScoreRecord.failure, ScoreRecord.fit, ScoreRecord.known_by,
    ScoreRecord.note, ScoreRecord.root_class, ScoreRecord.quality, ScoreRecord.foliage, ScoreRecord.details,
)  # fmt: skip


@dataclass(frozen=True)
class Kept:
    """A standing score: its id, revision and scorer with what was scored."""

    id: int
    revision: int
    person: str
    score: Score


@dataclass(frozen=True)
class Spot:
    """A rooting site on the bench; ``kept`` is its score at this check, ``carried`` an earlier final one."""

    cutting: int
    site: int
    site_name: str
    unit: int
    code: str
    tray: int
    row: int
    column: int
    kept: Kept | None
    carried: Score | None

    @property
    def key(self) -> Site:
        """Its identity."""
        return self.cutting, self.site

    @property
    def known(self) -> Score | None:
        """What is known of it at this check."""
        return self.kept.score if self.kept else self.carried

    @property
    def place(self) -> str:
        """Where it stands, and which of several rooting sites it is."""
        where = _("tray {tray}, row {row}, cell {column}", tray=self.tray, row=self.row, column=self.column)
        return f"{where}, {self.site_name}" if self.site_name else where


@dataclass(frozen=True)
class CheckProgress:
    """How far a check is.

    Attributes
    ----------
    order : list of Site
        Everything to be scored, in bench order or as drawn for lifting.
    kept : dict
        Id of the score of every site that has one at this check.
    lies : dict
        The pile that score puts its piece on.
    carried : set of Site
        Sites with an earlier final score.
    spots : list of Spot
        What is drawn, in bench order: all of them, or those around one that was scored.
    """

    check: CheckVisit
    order: list[Site]
    kept: dict[Site, int]
    lies: dict[Site, Pile]
    carried: set[Site]
    spots: list[Spot]

    @cached_property
    def tally(self) -> Progress:
        """The counts over all."""
        return progress(self.order, set(self.kept), self.carried)

    @cached_property
    def piles(self) -> Piles:
        """How many lie where, each plant once; what was over before this check lies nowhere."""
        plants: dict[int, list[Pile | None]] = {}
        for site in self.order:
            if site not in self.carried or site in self.lies:
                plants.setdefault(site[0], []).append(self.lies.get(site))
        return piles(plants.values())

    @cached_property
    def accounted(self) -> set[Site]:
        """Sites with a kept or a carried score."""
        return self.kept.keys() | self.carried

    @cached_property
    def passed(self) -> list[int]:
        """Cuttings with an unaccounted site before the last one scored, in bench order."""
        last = max((i for i, key in enumerate(self.order) if key in self.kept), default=-1)
        return list(
            dict.fromkeys(cutting for cutting, site in self.order[: last + 1] if (cutting, site) not in self.accounted)
        )

    @cached_property
    def newest(self) -> list[Site]:
        """The three sites scored last, newest first."""
        return sorted(self.kept, key=lambda key: -self.kept[key])[:JUST_KEPT]

    def spot(self, key: Site) -> Spot:
        """A spot by its identity."""
        return next(spot for spot in self.spots if spot.key == key)

    def of_cutting(self, cutting: int) -> list[Spot]:
        """The sites of a cutting."""
        return [spot for spot in self.spots if spot.cutting == cutting]


def _score(row: tuple[Any, ...]) -> Score:
    state, roots, number, longest, callus, top, failure, fit, known_by, note, root_class, quality, foliage, details = (
        row
    )
    return Score(
        words.State(state), words.Roots(roots), number, longest, callus, words.Top(top) if top else None,
        words.FailureSign(failure) if failure else None, words.Fit(fit), words.KnownBy(known_by), note, root_class, quality, foliage,
        in_order(details),
    )  # fmt: skip


def progress_of(session: Session, check: CheckVisit) -> CheckProgress:
    """How far a check is, with every spot of its lot."""
    spots = _spots(session, check)
    kept = {spot.key: spot.kept.id for spot in spots if spot.kept}
    lies = {spot.key: pile_of(spot.kept.score) for spot in spots if spot.kept}
    order = _as_lifted(check, {spot.key: spot.unit for spot in spots})
    return CheckProgress(check, list(order), kept, lies, {s.key for s in spots if s.carried}, spots)


def _as_lifted(check: CheckVisit, order: dict[Site, int]) -> dict[Site, int]:
    """Sites with their units in the order drawn for lifting; in bench order where none was."""
    if not check.lift_order:
        return order
    place = {unit: i for i, unit in enumerate(check.lift_order)}
    return dict(sorted(order.items(), key=lambda of: place.get(of[1], len(place))))


def progress_around(session: Session, check: CheckVisit, site: Site) -> CheckProgress:
    """The same after one was scored, with the spots that changed or come next alone: most of a bench stays as it is."""
    order, kept, lies, carried = _order(session, check)
    found = CheckProgress(check, list(order), kept, lies, carried, [])
    after = next_unscored(found.order, found.accounted, site)
    shown = [site, *found.newest, *([after] if after else [])]
    units = {order[key] for key in shown} | {order[cutting, 1] for cutting in found.passed[:SHOWN_PASSED]}
    return replace(found, spots=_spots(session, check, units))


def carried_into(session: Session, check: CheckVisit) -> set[Site]:
    """Sites with an earlier final score, which need none at this check."""
    return _order(session, check)[3]


def _values(check: CheckVisit) -> dict[str, int]:
    """What the two statements below are asked with; they are built once, for a score waits for both."""
    return {"of_check": check.id, "of_lot": check.lot_id, "before": check.planned_das}


def _counted() -> ColumnElement[bool]:
    """Standing scores of this check, and final ones of earlier checks, which carry forward to it."""
    earlier = select(CheckVisit.id).join(PlannedCheck, CheckVisit.planned_id == PlannedCheck.id)
    earlier = earlier.where(
        CheckVisit.lot_id == bindparam("of_lot"),
        CheckVisit.opened_at.is_not(None),
        PlannedCheck.planned_das < bindparam("before"),
    )
    final = ScoreRecord.state.in_([state.value for state in FINAL_STATES])
    here = or_(ScoreRecord.check_id == bindparam("of_check"), and_(ScoreRecord.check_id.in_(earlier), final))
    return and_(ScoreRecord.current == 1, here)


def _pile() -> ColumnElement[int]:
    """What `pile_of` says, as the database reads it."""
    rooted = ScoreRecord.roots.in_([words.Roots.COUNTED.value, words.Roots.SEEN.value])
    lost = ScoreRecord.state == words.State.MISSING.value
    return case((rooted, Pile.ROOTED.value), (lost, Pile.NOT_FOUND.value), else_=Pile.BIN.value)


@cache
def _order_statement() -> CompoundSelect[Any]:
    """Parts of what is stuck, in order, then parts of what is scored: each a text with an entry for each, as JSON has them.

    Reading six columns of 600 rows is most of what a score would take, and joining scores to cuttings most of what remains.
    """
    cutting = func.concat_ws(",", Cutting.id, Cutting.unit_id, func.coalesce(Unit.sampled_id, 0))
    in_order = func.concat('["', Arm.letter, '",', cutting, "]").op("ORDER BY")(
        Unit.bench_order * MOST_IN_A_UNIT + Cutting.number
    )
    part = Unit.bench_order.op("DIV")(UNITS_READ)
    order = (
        select(literal(0), part, func.group_concat(in_order))
        .select_from(Cutting)
        .join(Unit, Cutting.unit_id == Unit.id)
        .join(Arm, Unit.arm_id == Arm.id)
        .where(Cutting.lot_id == bindparam("of_lot"), Cutting.status == Status.STUCK.value)
        .group_by(part)
    )
    score = func.concat_ws(",", ScoreRecord.cutting_id, ScoreRecord.site, ScoreRecord.id, ScoreRecord.check_id, _pile())
    part = ScoreRecord.id.op("DIV")(SCORES_READ)
    final = ScoreRecord.state.in_([state.value for state in FINAL_STATES])
    own, before = CheckVisit.id == bindparam("of_check"), PlannedCheck.planned_das < bindparam("before")
    scores = (
        select(literal(1), part, func.group_concat(func.concat("[", score, "]")))
        .select_from(CheckVisit)
        .join(PlannedCheck, CheckVisit.planned_id == PlannedCheck.id)
        .join(ScoreRecord, ScoreRecord.check_id == CheckVisit.id)
        .where(CheckVisit.lot_id == bindparam("of_lot"), CheckVisit.opened_at.is_not(None))
        .where(ScoreRecord.current == 1, or_(own, and_(before, final)))
        .group_by(part)
    )
    return order.union_all(scores)


@cache
def _spots_statement(some: bool) -> Select[Any]:
    """Of the whole lot, or of ``some`` of its units."""
    other = aliased(Cutting)
    in_unit = select(func.count()).where(other.unit_id == Unit.id).correlate(Unit).scalar_subquery()
    query: Select[Any] = (
        select(
            Cutting.id, Cutting.number, Unit.id, Unit.sampled_id, Unit.code, in_unit, Arm.letter, Tray.number, Placement.row, Placement.column,
            ScoreRecord.check_id, Person.name, *KEPT,
        )
        .join(Unit, Cutting.unit_id == Unit.id)
        .join(Arm, Unit.arm_id == Arm.id)
        .join(Placement, and_(Placement.unit_id == Unit.id, Placement.current == 1))
        .join(Tray, Placement.tray_id == Tray.id)
        .outerjoin(ScoreRecord, and_(ScoreRecord.cutting_id == Cutting.id, _counted()))
        .outerjoin(CheckVisit, ScoreRecord.check_id == CheckVisit.id)
        .outerjoin(PlannedCheck, CheckVisit.planned_id == PlannedCheck.id)
        .outerjoin(Person, ScoreRecord.person_id == Person.id)
        .where(Cutting.lot_id == bindparam("of_lot"), Cutting.status == Status.STUCK.value)
        .order_by(Unit.bench_order, Cutting.number, PlannedCheck.planned_das)
    )  # fmt: skip
    return query.where(Unit.id.in_(bindparam("some", expanding=True))) if some else query


def _names_of_sites(check: CheckVisit) -> dict[str, tuple[str, ...]]:
    return {arm.id: arm.sites or ("",) for arm in check.trial.plan.treatments.arms}


def _order(session: Session, check: CheckVisit) -> tuple[dict[Site, int], dict[Site, int], dict[Site, Pile], set[Site]]:
    """Every site in bench order with its unit, the ids and piles of the scores kept at this check, and what is carried into it."""
    sites = {letter: range(1, len(names) + 1) for letter, names in _names_of_sites(check).items()}
    order: dict[Site, int] = {}
    kept: dict[Site, int] = {}
    lies: dict[Site, Pile] = {}
    carried: set[Site] = set()
    before = cache(lambda: sampled_before(session, check))
    parts = sorted(tuple(row) for row in session.execute(_order_statement(), _values(check)))
    stuck, scored = (
        [entry for of, _, part in parts if of == wanted for entry in json.loads(f"[{part}]")] for wanted in (0, 1)
    )
    for letter, cutting, unit, lifted in stuck:
        if check.sample_of_each and lifted != check.id:
            continue
        for number in sites[letter]:
            order[cutting, number] = unit
            if lifted and lifted in before():
                carried.add((cutting, number))
    for cutting, site, score, at, pile in scored:
        if (cutting, site) not in order:
            continue
        if at == check.id:
            kept[cutting, site], lies[cutting, site] = score, Pile(pile)
        else:
            carried.add((cutting, site))
    return _as_lifted(check, order), kept, lies, carried


def _spots(session: Session, check: CheckVisit, units: Collection[int] | None = None) -> list[Spot]:
    """Spots of the lot's stuck cuttings in bench order; of some units only, where those are given."""
    names, asked = _names_of_sites(check), _values(check) | ({"some": list(units)} if units is not None else {})
    spots: dict[Site, Spot] = {}
    before = cache(lambda: sampled_before(session, check))
    for row in session.execute(_spots_statement(units is not None), asked):
        (
            cutting,
            number,
            unit,
            lifted,
            code,
            count,
            letter,
            tray,
            at_row,
            at_column,
            at,
            person,
            kept,
            site,
            revision,
            *scored,
        ) = row
        if check.sample_of_each and lifted != check.id:
            continue
        full = code if count == 1 else f"{code}-{number}"
        gone = SAMPLED if lifted and lifted in before() else None
        for each, name in enumerate(names[letter], start=1):
            blank = Spot(cutting, each, name, unit, full, tray, at_row, at_column, None, gone)
            spots.setdefault((cutting, each), blank)
        if kept is None:
            continue
        score = _score(tuple(scored))
        known = {"kept": Kept(kept, revision, person, score)} if at == check.id else {"carried": gone or score}
        spots[cutting, site] = replace(spots[cutting, site], **known)
    return list(spots.values())
