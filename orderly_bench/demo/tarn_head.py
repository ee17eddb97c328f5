"""Tarn Head field station, invented: four people and four trials, the same every time but for the dates.

Everything is done through the operations, as people would, so that audit trail and records are real.
"""

from __future__ import annotations

import secrets
from dataclasses import dataclass, replace
from datetime import UTC, date, datetime, time, timedelta

import numpy as np
from sqlalchemy import select
from sqlalchemy.orm import Session

from orderly_bench.chapters.conclude.operations import conclude
from orderly_bench.chapters.design import locking
from orderly_bench.chapters.design import operations as design
from orderly_bench.chapters.people.operations import add_person
from orderly_bench.chapters.prepare.operations import mark_prepared, save_media
from orderly_bench.chapters.question import operations as question
from orderly_bench.chapters.score import operations as score
from orderly_bench.chapters.score.undrawn import keep_count
from orderly_bench.chapters.shelf import operations as shelf
from orderly_bench.chapters.stick import operations as stick
from orderly_bench.chapters.tend import operations as tend
from orderly_bench.core.plan.aspects import AspectKind
from orderly_bench.core.plan.part import Page, written_part
from orderly_bench.core.plan.table import Line, Table, crossed
from orderly_bench.core.plan.treatments import Container, Shape
from orderly_bench.core.prepare.needs import media_of
from orderly_bench.core.score.entry import suggest_fit
from orderly_bench.core.score.undrawn import LEFT_OVER, UndrawnCount
from orderly_bench.core.stock.kept import BenchKept, Stage, StockPlant
from orderly_bench.core.tend.by_hand import Kind
from orderly_bench.core.vocabulary import FailureSign, Fit, KnownBy, LayoutKind, Roots, Score, State, Top
from orderly_bench.demo.logger import readings_csv
from orderly_bench.demo.noted import cuttings_measured, logged
from orderly_bench.demo.shelf import fill_shelf
from orderly_bench.evidence.verdict import evidence_at
from orderly_bench.record.gather import gather
from orderly_bench.stock.operations import keep_plant
from orderly_bench.trial.by_hand import Read, keep_reading
from orderly_bench.trial.checks import checks_of
from orderly_bench.trial.models import CheckVisit, Lab, Person, Trial
from orderly_bench.trial.progress import carried_into

SEED = 4711
PEOPLE = (
    ("Maren Tveit", "maren", "lead"),
    ("Ines Okoro", "ines", "researcher"),
    ("Tomas Birk", "tomas", "scorer"),
    ("Hale Rowan", "hale", "reader"),
)

BENCHES = (
    BenchKept("North bench", 240.0, 90.0, "warm pipe to cool door"),
    BenchKept("Heated bench", 180.0, 80.0),
    BenchKept("Long bench", 420.0, 80.0),
)


@dataclass
class Lives:
    """How an arm fares: chance to root by the endpoint, chance of a good-looking top, mean roots."""

    rooted: float
    lush: float
    roots: float


LAVENDER_LIVES = {
    "pumice + IBA 3000 ppm": Lives(0.8, 0.75, 9),
    "pumice + none": Lives(0.74, 0.7, 5),
    "bark fines + IBA 3000 ppm": Lives(0.5, 0.72, 5),
    "bark fines + none": Lives(0.24, 0.9, 3),
}


BUCKTHORN_LIVES = {
    "heated + pumice": Lives(0.86, 0.7, 7),
    "heated + bark fines": Lives(0.6, 0.75, 5),
    "unheated + pumice": Lives(0.66, 0.6, 5),
    "unheated + bark fines": Lives(0.36, 0.6, 3),
}


def _at(day: date, hour: int = 9) -> datetime:
    return datetime.combine(day, time(hour), UTC)


def _asked(trial: Trial, **typed: str) -> dict[str, str]:
    """The Question form as it stands, with what is typed into it."""
    usual = {"check_days": "14, 28", "care_task": "Mist and look over", "care_every_days": "3"}
    return question.as_typed(trial.plan) | usual | typed


def _designed(trial: Trial, container: Container, **typed: str) -> dict[str, str]:
    """The Design form as it stands, with what is typed into it."""
    return design.as_typed(trial.plan) | written_part(container, Page.DESIGN) | typed


def _save_question(session: Session, trial: Trial, who: Person, at: datetime, table: Table, **typed: str) -> None:
    question.save_question(session, trial, who, at, trial.version, _asked(trial, **typed), table)


def load_demo(session: Session, now: datetime | None = None) -> None:
    """Fill an empty database with the demo lab, its dates set by ``now``."""
    now = now or datetime.now(UTC)
    today = now.date()
    session.add(Lab(name="Tarn Head field station", time_zone="Europe/London", is_demo=True))
    people = {
        n: add_person(session, None, _at(today - timedelta(days=120)), name, n, role, secrets.token_urlsafe(18))
        for name, n, role in PEOPLE
    }
    rng = np.random.default_rng(SEED)
    _lavender(session, people, today - timedelta(days=63), rng)
    _olive(session, people, today - timedelta(days=21), today)
    _daphne(session, people, today - timedelta(days=1))
    _sea_buckthorn(session, people, today - timedelta(days=84))
    _stand_all(session, people["maren"], _at(today, 7))
    fill_shelf(session, people["maren"], _at(today, 7))


def _stand_all(session: Session, who: Person, at: datetime) -> None:
    """The benches, measured, and every trial's trays on the one its plan names."""
    kept = {bench.name: shelf.keep(session, who, at, bench) for bench in BENCHES}
    for trial in session.scalars(select(Trial).order_by(Trial.id)):
        if trial.trays:
            shelf.stand_trays(session, trial, who, at, kept[trial.plan.design.bench])


def _save_media(session: Session, trial: Trial, who: Person, at: datetime, recipes: dict[str, str]) -> None:
    """Recipes by the name of their medium."""
    ids = {medium.need.medium: medium.id for medium in media_of(trial.plan)}
    save_media(session, trial, who, at, {ids[name]: text for name, text in recipes.items()})


def _stick_all(session: Session, trial: Trial, who: Person, day: date, held: str, not_stuck: dict[int, str]) -> None:
    hours = {"damp bag, two hours": 2.0, "in water, one hour": 1.0, "damp bag, overnight": 14.0}[held]
    stick.add_lot(session, trial, who, _at(day), trial.waves[0], stick.LotValues(day, False, held, hours), day)
    for order, reason in not_stuck.items():
        stick.set_cutting(session, trial, who, _at(day, 10), trial.units[order].cuttings[0], reason)
    for tray in trial.trays:
        stick.confirm_tray(session, trial, who, _at(day, 11), tray.number)
    stick.finish_sticking(session, trial, who, _at(day, 12))


def _lavender(session: Session, people: dict[str, Person], day: date, rng: np.random.Generator) -> None:
    ines, tomas = people["ines"], people["tomas"]
    before = day - timedelta(days=9)
    trial = question.create_trial(session, ines, _at(before), "Lavandula angustifolia")
    table = replace(
        crossed(
            [(AspectKind.MEDIUM, "medium", ["pumice", "bark fines"]), (AspectKind.HORMONE, "hormone", ["IBA 3000 ppm", "none"])],
            {
                AspectKind.CUTTING_TYPE: "semi-hard tip, 8 cm", AspectKind.BASE: "below a node, hole first", AspectKind.COVER: "open, misted",
                AspectKind.LIGHT: "50 % shade", AspectKind.BOTTOM_HEAT: "none", AspectKind.DONOR: "stock bed 2",
            },
        ),
        control=1,
    )  # fmt: skip
    _save_question(
        session, trial, ines, _at(before, 10), table, cultivar="Tarn Blue", source="stock bed 2, six plants of four years",
        sentence="Does pumice root more than bark fines, with and without IBA?", why="Bark fines cost a third of pumice; is the saving real?",
        stop_rule="Tomas scores on days 14, 28 and 42; the trial ends with the lift on day 42.",
    )  # fmt: skip
    ranking = ["C", "A", "D", "B"]
    question.record_prediction(session, trial, ines, _at(before, 11), ranking, "Bark fines held more water last year.")
    form = _designed(
        trial, Container(wall="dark", drained=True), layout=LayoutKind.COMPLETE_BLOCKS.value, blocks="3", gradient="warm pipe to cool door",
        bench="North bench", gradient_ways="1", guess_A="75", guess_B="75", guess_C="45", guess_D="45",
    )  # fmt: skip
    design.save_design(session, trial, ines, _at(before, 12), trial.version, form)
    design.draw(session, trial, ines, _at(before, 13), SEED)
    _save_media(
        session, trial, ines, _at(before, 13), {"pumice": "3 pumice, 1 coir", "bark fines": "3 bark fines, 1 coir"}
    )
    locking.lock_plan(session, trial, ines, _at(before, 14))
    mark_prepared(session, trial, ines, _at(day, 8))
    _stick_all(session, trial, tomas, day, "damp bag, two hours", {})
    cuttings_measured(session, trial, tomas, _at(day, 13), SEED)
    for job in tend.jobs_of(session, trial):
        tend.set_done(session, job, tomas, _at(day + timedelta(days=job.due_das)), True)
    read = readings_csv(day, 42, SEED, air_c=18.5, cold=(11, 12))
    logged(session, trial, tomas, _at(day + timedelta(days=42), 17), [("north bench", None, read)])
    third = [u.code for u in trial.units if u.group("block") == "block 3"]
    tend.record_incident(
        session, trial, tomas, _at(day + timedelta(days=14), 16), tend.Happened(kind="shade off", first_day=day + timedelta(days=12), last_day=day + timedelta(days=14), codes=third, note="Gale took the shade net off the door end."), today=day + timedelta(days=14),
    )  # fmt: skip
    units = list(trial.units)
    missing = {next(u.id for u in units[start:] if u.arm.letter == letter) for start, letter in ((15, "B"), (60, "D"))}
    lives = {u.cuttings[0].id: _draw_life(LAVENDER_LIVES[u.arm.name], u.id in missing, trial, rng) for u in units}
    for check in checks_of(session, trial):
        _run_check(session, check, ines, tomas, day, lives)
    endpoint = evidence_at(gather(session, trial))
    words = (
        "At Tarn Head this autumn, semi-hard tips of 'Tarn Blue' rooted more in the pumice mix than in the bark mix by day 42, "
        "with and without IBA. The bark trays looked the greener of the two until they were lifted."
    )
    conclude(session, trial, ines, _at(day + timedelta(days=44)), endpoint, "adopt", words)


@dataclass(frozen=True)
class Life:
    """What becomes of one cutting."""

    roots_from: int | None
    roots: int
    longest_mm: float
    lush: bool
    dies_at: int | None
    missing: bool


def _draw_life(fare: Lives, missing: bool, trial: Trial, rng: np.random.Generator) -> Life:
    rooted = rng.random() < fare.rooted
    day = int(rng.integers(13, trial.plan.question.endpoint_day - 1)) if rooted else None
    roots = 1 + int(rng.poisson(fare.roots - 1)) if rooted else 0
    longest = round(float(rng.gamma(4.0, 9.0)), 0) + 2 if rooted else 0.0
    dies = (
        int(rng.choice([*trial.plan.schedule.check_days, trial.plan.question.endpoint_day]))
        if not rooted and rng.random() < 0.16
        else None
    )
    return Life(day, roots, longest, bool(rng.random() < fare.lush), dies, missing)


def _quality(roots: int, longest_mm: float) -> int:
    """Grade as a scorer would give it: more roots stand on more sides, long ones have branched."""
    if roots == 0:
        return 0
    return min(4, 1 + roots // 3) + (1 if roots >= 9 and longest_mm > 30 else 0)


def _score_of(life: Life, das: int, final: bool, trial: Trial) -> Score:
    way = KnownBy.LIFTED if final else KnownBy.HOLE
    if life.missing and final:
        return Score(State.MISSING, Roots.NOT_LOOKED, known_by=way, note="empty cell")
    if life.dies_at is not None and das >= life.dies_at:
        return Score(State.DEAD, Roots.NONE, top=Top.GONE, failure=FailureSign.BLACK_BASE, fit=Fit.NO, known_by=way)
    good = Top.GROWING if das >= 28 else Top.FRESH
    top = good if life.lush else (Top.WILTING if not final else Top.FRESH if life.roots else Top.WILTING)
    if life.roots_from is None or das < life.roots_from:
        return Score(
            State.ALIVE,
            Roots.NONE,
            callus=das >= 28 and life.lush,
            top=top,
            fit=Fit.NO if final else Fit.NOT_JUDGED,
            known_by=way,
            quality=0 if final else None,
        )
    if not final:
        return Score(State.ALIVE, Roots.SEEN, top=top, known_by=way)
    fit = suggest_fit(
        Roots.COUNTED,
        life.roots,
        life.longest_mm,
        *trial.plan.fits_of_rule,
    )
    grade = _quality(life.roots, life.longest_mm)
    return Score(State.ALIVE, Roots.COUNTED, life.roots, life.longest_mm, True, top, None, fit, way, quality=grade)


def _run_check(
    session: Session, check: CheckVisit, ines: Person, tomas: Person, day: date, lives: dict[int, Life]
) -> None:
    trial = check.trial
    on = day + timedelta(days=check.planned_das)
    way = KnownBy.LIFTED if check.is_endpoint else KnownBy.HOLE
    score.open_check(session, check, ines, _at(on), score.Looking(on, way.value), on)
    carried = {cutting for cutting, _ in carried_into(session, check)}
    for cutting in [c for unit in trial.units for c in unit.cuttings]:
        if cutting.status == "stuck" and cutting.id not in carried:
            found = _score_of(lives[cutting.id], check.planned_das, check.is_endpoint, trial)
            score.keep_score(session, check, cutting, tomas, _at(on, 10), found)
    score.close_check(session, check, ines, _at(on, 15))


def _olive(session: Session, people: dict[str, Person], day: date, today: date) -> None:
    ines, tomas = people["ines"], people["tomas"]
    before = day - timedelta(days=6)
    trial = question.create_trial(session, ines, _at(before), "Olea europaea")
    table = replace(
        crossed(
            [(AspectKind.HORMONE, "hormone", ["none", "IBA 2000 ppm", "IBA 4000 ppm"])],
            {
                AspectKind.MEDIUM: "3 pumice : 1 coir", AspectKind.CUTTING_TYPE: "semi-hard tip, two leaves halved",
                AspectKind.COVER: "closed, vented daily", AspectKind.BOTTOM_HEAT: "20 °C",
            },
        ),
        control=0,
    )  # fmt: skip
    _save_question(
        session, trial, ines, _at(before, 10), table, cultivar="Headland", source="hedge by the boathouse, eight plants",
        sentence="Does IBA as a quick dip root more semi-hard olive tips, and is 4000 ppm worth it over 2000?",
        why="The stronger dip uses twice the powder.",
        endpoint_day="56", check_days="21, 35", stop_rule="Ines opens the checks on days 21 and 35; lift on day 56.", margin_points="20",
    )  # fmt: skip
    question.record_prediction(session, trial, ines, _at(before, 11), ["C", "B", "A"], "")
    form = _designed(
        trial, Container(rows=5, columns=6, volume_ml=90.0, wall="dark", drained=True), cuttings_per_arm="20", bench="Heated bench",
        pieces="H1, A, 14\nH1, B, 6\nH3, A, 18\nH4, A, 16\nH4, B, 10", leftovers="yes", guess_A="30", guess_B="70", guess_C="70",
    )  # fmt: skip
    for code, most in (("H1", 20), ("H3", 20), ("H4", 24)):
        keep_plant(
            session, StockPlant(code, "Olea europaea", "hedge by the boathouse", 12, "good", Stage.SEMI_HARD, most)
        )
    design.save_design(session, trial, ines, _at(before, 12), trial.version, form)
    design.draw(session, trial, ines, _at(before, 13), SEED + 1)
    _save_media(session, trial, ines, _at(before, 13), {"3 pumice : 1 coir": "3 pumice, 1 coir"})
    locking.lock_plan(session, trial, ines, _at(before, 14))
    mark_prepared(session, trial, ines, _at(day, 8))
    _stick_all(session, trial, tomas, day, "in water, one hour", {7: "broke"})
    for job in tend.jobs_of(session, trial):
        on = day + timedelta(days=job.due_das)
        if on < today and job.due_das not in (9, 12):
            tend.set_done(session, job, tomas, _at(on), True, on)
    tend.record_incident(
        session, trial, tomas, _at(day + timedelta(days=13), 8), tend.Happened(kind="other", first_day=day + timedelta(days=11), last_day=day + timedelta(days=12), codes=[u.code for u in trial.units], note="The heat was off: the mat had tripped its fuse."), today=today,
    )  # fmt: skip
    grown = (today - day).days - 1
    files = [
        ("warm end", 1, readings_csv(day, grown, SEED, air_c=20.5, light=240, cold=(11, 12))),
        ("door end", 2, readings_csv(day, grown, SEED + 1, air_c=19.5, light=150, cold=(11, 12))),
    ]
    logged(session, trial, tomas, _at(day + timedelta(days=grown), 17), files)
    for after, kind, read in (
        (0, Kind.COVER, "closed"),
        (6, Kind.MOISTURE, "moist"),
        (14, Kind.COVER, "vented"),
        (18, Kind.MOISTURE, "wet"),
    ):
        on = min(today, day + timedelta(days=after))
        keep_reading(session, trial, tomas, _at(on, 17), Read(kind.value, read, on), list(trial.units), today)
    looked = min(today, day + timedelta(days=14))
    keep_count(session, trial, tomas, _at(looked), UndrawnCount(LEFT_OVER, looked, 4, rooted=0, bare=3, dead=1), today)


def _daphne(session: Session, people: dict[str, Person], day: date) -> None:
    ines = people["ines"]
    trial = question.create_trial(session, ines, _at(day), "Daphne odora")
    table = crossed(
        [(AspectKind.CUTTING_TYPE, "cutting type", ["tip with heel", "plain tip"])],
        {AspectKind.MEDIUM: "coarse sand", AspectKind.HORMONE: "IBA 1000 ppm powder", AspectKind.LIGHT: "shaded frame"},
    )
    # Nobody asked who sticks, and the two differ in it.
    table = replace(
        table, lines=(*table.lines, Line(AspectKind.PERSON, AspectKind.PERSON.value, False, ("Ines", "Tomas")))
    )
    _save_question(
        session, trial, ines, _at(day, 10), table, source="two plants by the south wall",
        sentence="Do tips with a heel root more than plain tips in sand?", why="Heels take longer to cut.",
        endpoint_day="63", check_days="28, 42", care_task="", care_every_days="0", wanted_plants="30",
        wanted_by=(day + timedelta(days=240)).isoformat(), known="9/24 plain tips two winters ago", book="50-70 the estate's old garden book",
    )  # fmt: skip
    form = _designed(
        trial,
        Container(rows=2, columns=6),
        cuttings_per_arm="3",
        bench="North bench",
        guess_A="70",
        guess_B="40",
        hours="0.5",
    )
    design.save_design(session, trial, ines, _at(day, 11), trial.version, form)


def _sea_buckthorn(session: Session, people: dict[str, Person], day: date) -> None:
    """Bottom heat on whole trays, two media in pots of four inside them: a split-plot, done with, not yet concluded."""
    ines, tomas = people["ines"], people["tomas"]
    rng = np.random.default_rng(SEED + 3)
    before = day - timedelta(days=5)
    trial = question.create_trial(session, ines, _at(before), "Hippophae rhamnoides")
    table = crossed(
        [(AspectKind.OTHER, "heat", ["heated", "unheated"]), (AspectKind.MEDIUM, "medium", ["pumice", "bark fines"])],
        {
            AspectKind.CUTTING_TYPE: "hardwood, 15 cm", AspectKind.HORMONE: "IBA 3000 ppm powder",
            AspectKind.PLACE: "frost-free house",
        },
    )  # fmt: skip
    _save_question(
        session, trial, ines, _at(before, 10), table, cultivar="Saltmarsh", source="row by the slip, eight plants",
        sentence="Does bottom heat under the tray root more hardwood pieces, in pumice and in bark fines?",
        why="The mats cost more to run than everything else on the bench.",
        endpoint_day="56", check_days="28", stop_rule="Tomas lifts everything on day 56.", care_task="Water, look over", care_every_days="7",
    )  # fmt: skip
    form = _designed(
        trial, Container(Shape.POT, 2, 2, 500.0, "dark", True), cuttings_per_arm="32", cuttings_per_unit="4", layout=LayoutKind.SPLIT_PLOT.value,
        blocks="8", whole_aspect=trial.plan.treatments.asked[0].id, gradient="one mat under each tray", bench="Long bench",
        guess_A="80", guess_B="80", guess_C="50", guess_D="50",
    )  # fmt: skip
    design.save_design(session, trial, ines, _at(before, 11), trial.version, form)
    design.draw(session, trial, ines, _at(before, 12), SEED + 2)
    _save_media(
        session, trial, ines, _at(before, 12), {"pumice": "3 pumice, 1 coir", "bark fines": "3 bark fines, 1 coir"}
    )
    locking.lock_plan(session, trial, ines, _at(before, 13))
    mark_prepared(session, trial, ines, _at(day, 8))
    _stick_all(session, trial, tomas, day, "damp bag, overnight", {})
    for job in tend.jobs_of(session, trial):
        tend.set_done(session, job, tomas, _at(day + timedelta(days=job.due_das)), True)
    cold = next(unit for unit in trial.units if unit.arm.letter == "D")
    tend.record_treatment_change(
        session, trial, ines, _at(day + timedelta(days=9)), tend.Given(unit=cold, letter="C", day=day + timedelta(days=9), reason="Knocked over; refilled with pumice, the only mix at hand."), today=day + timedelta(days=9),
    )  # fmt: skip
    lean = {unit.id: float(rng.normal(0, 0.1)) for unit in trial.units}
    lives: dict[int, Life] = {}
    for unit in trial.units:
        fare = BUCKTHORN_LIVES[unit.arm.name]
        own = Lives(float(np.clip(fare.rooted + lean[unit.id], 0.02, 0.98)), fare.lush, fare.roots)
        lives |= {cutting.id: _draw_life(own, False, trial, rng) for cutting in unit.cuttings}
    for check in checks_of(session, trial):
        _run_check(session, check, ines, tomas, day, lives)


def load_large(session: Session, now: datetime) -> int:
    """A lab with one trial of 600 stuck units, for measuring; returns the trial's id."""
    today = now.date()
    session.add(Lab(name="A large bench", time_zone="Europe/London"))
    ines = add_person(session, None, _at(today), "Ines Okoro", "ines", "lead", secrets.token_urlsafe(18))
    day = today - timedelta(days=42)
    before = day - timedelta(days=1)
    trial = question.create_trial(session, ines, _at(before), "Lavandula angustifolia")
    table = crossed(
        [
            (AspectKind.MEDIUM, "medium", ["pumice", "bark fines"]),
            (AspectKind.HORMONE, "hormone", ["IBA 3000 ppm", "none"]),
        ]
    )
    _save_question(session, trial, ines, _at(before), table, sentence="Does pumice root more?")
    blocks = LayoutKind.COMPLETE_BLOCKS.value
    large = _designed(trial, Container(rows=6, columns=10), cuttings_per_arm="150", layout=blocks, blocks="10")
    design.save_design(session, trial, ines, _at(before), trial.version, large)
    design.draw(session, trial, ines, _at(before), SEED)
    locking.lock_plan(session, trial, ines, _at(before))
    _stick_all(session, trial, ines, day, "damp bag, two hours", {})
    return trial.id
