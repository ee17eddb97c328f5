"""A whole trial, made up from a seed and lived through the real operations: what is asked, laid out, stuck, tended, scored and concluded."""

from __future__ import annotations

from contextlib import suppress
from dataclasses import replace
from datetime import timedelta
from random import Random

from sqlalchemy.orm import Session

from orderly_bench.chapters.conclude.operations import conclude
from orderly_bench.chapters.design import locking
from orderly_bench.chapters.design import operations as design
from orderly_bench.chapters.question import operations as question
from orderly_bench.chapters.score import operations as score
from orderly_bench.chapters.score import second
from orderly_bench.chapters.stick import operations as stick
from orderly_bench.chapters.tend import operations as tend
from orderly_bench.core.conclude.decision import Decision
from orderly_bench.core.errors import OrderlyError
from orderly_bench.core.plan import amendments
from orderly_bench.core.plan.aspects import AspectKind
from orderly_bench.core.plan.table import Line, Table, crossed
from orderly_bench.core.plan.treatments import Container, Shape
from orderly_bench.core.responses.kind import Response
from orderly_bench.core.stick.came import Came, Origin
from orderly_bench.core.stick.tally import NOT_STUCK_REASONS
from orderly_bench.core.tend.incidents import IncidentKind
from orderly_bench.core.vocabulary import FailureSign, Fit, KnownBy, LayoutKind, Roots, Score, State, Top
from orderly_bench.evidence.verdict import evidence_at
from orderly_bench.record.gather import gather
from orderly_bench.trial.amending import amend
from orderly_bench.trial.checks import checks_of
from orderly_bench.trial.models import CheckVisit, Person, Trial
from orderly_bench.trial.moves import move_units
from tests.factories import DAY_ZERO, LOCKED, NOW, TODAY, create_person, design_form, question_form

LEVELS = {
    AspectKind.MEDIUM: ["pumice", "bark fines", "3 pumice : 1 coir"],
    AspectKind.HORMONE: ["water", "IBA 1000 ppm", "IBA 3000 ppm"],
    AspectKind.CUTTING_TYPE: ["tip", "tip with heel", "hardwood"],
}
CONTAINERS = (
    Container(rows=4, columns=8), Container(Shape.POT, 2, 4, 350.0, "dark", True), Container(Shape.JAR, 1, 1, 900.0), Container(Shape.BED, 2, 20),
    Container(Shape.LIDDED_TRAY, 1, 1, 4_000.0),
)  # fmt: skip
MARGINS = {
    Response.ROOT_COUNT: 1.3, Response.LONGEST: 8.0, Response.QUALITY: 12.0, Response.FOLIAGE: 12.0, Response.ROOT_CLASS: 12.0, Response.DAYS: 3.0,
}  # fmt: skip
WORDS = (
    "{a} rooted more than {b}. Order more of it.", "They are the same, because of the weather!", "{a} is twice as good as {b}.",
    "Nothing more to say.", "100 % will root in {a}.", "{b} is best for every shrub.",
)  # fmt: skip


def a_table(rng: Random, kind: str) -> Table:
    """Arms crossed from one or two factors, what is alike or travels, perhaps a side group."""
    kinds = rng.sample(list(LEVELS), 1 if kind == "rate" else rng.choice((1, 1, 2)))
    factors = [(one, one.value, rng.sample(LEVELS[one], rng.choice((2, 2, 3)))) for one in kinds]
    table = crossed(factors, {AspectKind.COVER: "open, misted"})
    if rng.random() < 0.3:
        people = tuple("Ines" if a % 2 else "Tomas" for a in range(table.arms))
        table = replace(table, lines=(*table.lines, Line(AspectKind.PERSON, AspectKind.PERSON.value, False, people)))
    if rng.random() < 0.3:
        lines = tuple(replace(line, values=(*line.values, "")) for line in table.lines)
        table = replace(table, lines=lines, groups=(("tub by the door", "the short ones"),))
    return replace(table, control=rng.choice((None, 0)))


def asked(rng: Random, trial: Trial, kind: str) -> dict[str, str]:
    """The Question form, filled."""
    responses = (Response.ROOTED, Response.ALIVE, Response.FIT) if kind == "rate" else tuple(Response)
    response = rng.choice((Response.ROOTED, rng.choice(responses)))
    typed: dict[str, object] = {
        "kind": kind, "response": response.value, "check_days": rng.choice(("14", "14, 28", "")), "endpoint_day": 42,
        "care_task": rng.choice(("", "Mist")), "care_every_days": rng.choice((0, 7)), "dead_from_day": rng.choice((None, 20)),
        "wanted_plants": rng.choice((None, 25)), "wanted_sure": rng.choice((80, 90, 95)), "known": rng.choice(("", "9/24 last year")),
        "blind": rng.random() < 0.5, "source": "row 3", "cultivar": rng.choice(("", "Marin")),
    }  # fmt: skip
    if response in MARGINS:
        typed["margin_own"] = MARGINS[response]
    form = question_form(trial, **typed)
    form["blind_box"] = "yes"
    if kind != "rate" and rng.random() < 0.3:
        other = rng.choice([r for r in (Response.ALIVE, Response.ROOT_COUNT, Response.FIT) if r is not response])
        form |= {f"other_{other.value}": "yes", f"other_{other.value}_day": "", f"other_{other.value}_margin": ""}
    return form


def laid_out(rng: Random, session: Session, trial: Trial, actor: Person, kind: str) -> None:
    """The Design form, filled and drawn; what a layout refuses is laid out plainly instead."""
    arms = len(trial.plan.treatments.arms)
    each = rng.choice((1, 1, 1, 2, 3))
    typed: dict[str, object] = {
        "layout": LayoutKind.COMPLETELY_RANDOMISED.value, "blocks": 1, "cuttings_per_unit": each, "cuttings_per_arm": each * rng.choice((1, 3, 4, 6)),
        "container": rng.choice(CONTAINERS), "headline": rng.choice(("each factor, over the others", "pairs of arms")),
    }  # fmt: skip
    chosen: dict[str, object] = {}
    if kind != "rate":
        two = [LayoutKind.PAIRS] if arms == 2 else []
        chosen["layout"] = rng.choice((*two, *[LayoutKind.COMPLETE_BLOCKS] * 2, LayoutKind.COMPLETELY_RANDOMISED)).value
        chosen["blocks"] = rng.choice((2, 3))
    if rng.random() < 0.3:
        chosen["own"] = {
            rng.choice([arm.id for arm in trial.plan.treatments.arms]): {"container": rng.choice(CONTAINERS)}
        }
    if rng.random() < 0.2:
        chosen["waves"] = [(None, ""), (None, "")]
    for more in (chosen, {"own": chosen["own"]} if "own" in chosen else {}, {}):
        try:
            design.save_design(session, trial, actor, LOCKED, trial.version, design_form(trial, **{**typed, **more}))
            break
        except OrderlyError:
            session.expire(trial)
    design.draw(session, trial, actor, LOCKED, rng.randrange(2**31))
    if rng.random() < 0.2:
        design.draw(session, trial, actor, LOCKED, rng.randrange(2**31), "the bench was moved")


def stuck(rng: Random, session: Session, trial: Trial, actor: Person) -> None:
    """Every wave stuck, some in two lots, a few pieces not."""
    for wave in trial.waves:
        about = rng.random() < 0.2
        first = stick.add_lot(
            session, trial, actor, NOW, wave, stick.LotValues(DAY_ZERO, about, came=came(trial)), TODAY
        )
        cuttings = [c for unit in trial.units if unit.wave_id == wave.id for c in unit.cuttings]
        for cutting in cuttings:
            if rng.random() < 0.04:
                reason = rng.choice(NOT_STUCK_REASONS)
                if cutting is not cuttings[0]:  # a wave of which nothing is stuck is refused
                    stick.set_cutting(session, trial, actor, NOW, cutting, reason, first)
        trays = [tray.number for tray in trial.trays if tray.wave_id == wave.id]
        lot = first
        for number in trays:
            if number != trays[0] and lot is first and rng.random() < 0.2:
                later = stick.LotValues(DAY_ZERO + timedelta(days=1))
                lot = stick.add_lot(session, trial, actor, NOW, wave, later, TODAY)
            stick.confirm_tray(session, trial, actor, NOW, number, lot)
        stick.finish_sticking(session, trial, actor, NOW, wave)


def came(trial: Trial) -> Came:
    """How a lot came; drawn apart, so that the rest of a life stays as it was."""
    own = Random(f"{trial.plan_text}")
    return own.choice(
        (
            Came(),
            Came(),
            Came(own.choice(list(Origin)), own.choice((None, 0, 3)), "at dawn", "", own.choice(("", "Ines"))),
        )
    )


def seen_again(own: Random, session: Session, check: CheckVisit, actor: Person) -> None:
    """A drawn share scored again by another, some of it."""
    with suppress(OrderlyError):
        second.draw_second(session, check, actor, NOW, 30, own.randrange(2**31))
        other = create_person(session, "scorer")
        for cutting in second.drawn(session, check).waiting[: own.randrange(1, 6)]:
            roots, number = own.choice((("none", None), ("counted", 4), ("not looked", None)))
            second.keep_second(session, check, cutting, other, NOW, roots, number)


def tended(rng: Random, session: Session, trial: Trial, actor: Person) -> None:
    """What happens in six weeks."""
    units = list(trial.units)
    if rng.random() < 0.4:
        tend.record_incident(
            session, trial, actor, NOW, tend.Happened(kind=rng.choice(list(IncidentKind)).value, first_day=DAY_ZERO + timedelta(days=9), last_day=DAY_ZERO + timedelta(days=11), codes=[unit.code for unit in rng.sample(units, max(1, len(units) // 3))], note="seen in the morning"), today=TODAY,
        )  # fmt: skip
    if len(trial.arms) > 1 and rng.random() < 0.25:
        unit = rng.choice(units)
        letter = rng.choice([arm.letter for arm in trial.arms if arm.letter != unit.arm.letter])
        tend.record_treatment_change(
            session, trial, actor, NOW, tend.Given(unit=unit, letter=letter, day=DAY_ZERO + timedelta(days=14), reason="knocked over, refilled"), today=TODAY
        )  # fmt: skip
    if rng.random() < 0.2 and len(units) > 1:
        a, b = rng.sample(units, 2)
        with suppress(OrderlyError):
            move_units(
                session, trial, actor, NOW, {a: (b.place.tray.number, b.place.row, b.place.column)}, "to see the label"
            )
    if rng.random() < 0.2:
        amend(session, trial, actor, NOW, amendments.StopRule("when the frost comes"), "the forecast")
    for job in tend.jobs_of(session, trial):
        if rng.random() < 0.7:
            tend.set_done(session, job, actor, NOW, True)


def a_score(rng: Random, luck: float, end: bool) -> Score:
    """One cutting as found."""
    fate = rng.random()
    if fate < 0.05:
        return Score(State.MISSING, Roots.NOT_LOOKED)
    if fate < 0.12:
        return Score(State.DEAD, Roots.NOT_LOOKED, top=Top.DRIED, failure=(None, *FailureSign)[int(fate * 1000) % 4])
    top = rng.choice((Top.FRESH, Top.GROWING, Top.WILTING))
    if fate < 0.18:
        return Score(State.ALIVE, Roots.NOT_LOOKED, top=top)
    if rng.random() > (luck if end else luck / 3):
        return Score(State.ALIVE, Roots.NONE, top=top, fit=Fit.NO, quality=0, foliage=rng.randrange(6))
    if rng.random() < 0.15:
        return Score(State.ALIVE, Roots.SEEN, top=top)
    return Score(
        State.ALIVE, Roots.COUNTED, rng.randrange(1, 12), float(rng.randrange(2, 60)), top=top, fit=rng.choice((Fit.YES, Fit.NO)),
        quality=rng.randrange(1, 6), foliage=rng.randrange(6),
    )  # fmt: skip


def scored(rng: Random, session: Session, trial: Trial, actor: Person, scorer: Person) -> None:
    """Every check opened, scored and closed; an early one may be passed by, the end may be late."""
    luck = {arm.letter: rng.choice((0.05, 0.4, 0.6, 0.95)) for arm in trial.arms}
    for check in sorted(checks_of(session, trial), key=lambda check: (check.lot_id, check.planned_das)):
        if not check.is_endpoint and rng.random() < 0.3:
            continue
        _looked_at(rng, session, check, actor, rng.choice((actor, scorer)), luck)


def _looked_at(
    rng: Random, session: Session, check: CheckVisit, actor: Person, scorer: Person, luck: dict[str, float]
) -> None:
    late = 9 if check.is_endpoint and rng.random() < 0.2 else 0
    day = min(TODAY + timedelta(days=late), check.lot.day_zero.middle + timedelta(days=check.planned_das + late))
    why = "the lamp failed" if late else ""
    way = KnownBy.LIFTED if check.is_endpoint else rng.choice((KnownBy.WALL, KnownBy.HOLE))
    later = TODAY + timedelta(days=30)
    own = Random(f"{check.trial.digest} {check.planned_das}")
    lift = own.randrange(2**31) if own.random() < 0.4 else None
    score.open_check(session, check, actor, NOW, score.Looking(day, way.value, why, lift), later)
    carried = score.progress_of(session, check).carried
    for cutting in score.in_scope(session, check):
        if (cutting.id, 1) not in carried:
            found = replace(a_score(rng, luck[cutting.unit.arm.letter], check.is_endpoint), known_by=way)
            score.keep_score(session, check, cutting, scorer, NOW, found)
    if own.random() < 0.4:
        seen_again(own, session, check, actor)
    score.close_check(session, check, actor, NOW)


def live(session: Session, actor: Person, scorer: Person, seed: int) -> Trial:
    """A whole trial of a seed."""
    rng = Random(seed)
    kind = rng.choice(("test", "test", "look", "rate"))
    trial = question.create_trial(session, actor, LOCKED, rng.choice(("Olea europaea", "Lavandula angustifolia")))
    question.save_question(session, trial, actor, LOCKED, trial.version, asked(rng, trial, kind), a_table(rng, kind))
    laid_out(rng, session, trial, actor, kind)
    letters = [arm.letter for arm in trial.arms]
    if rng.random() < 0.6 and kind != "rate":
        question.record_prediction(session, trial, actor, LOCKED, rng.sample(letters, len(letters)), "a hunch")
    locking.lock_plan(session, trial, actor, LOCKED, "to see what comes of it")
    stuck(rng, session, trial, actor)
    tended(rng, session, trial, actor)
    scored(rng, session, trial, actor, scorer)
    names = [trial.plan.treatments.name(arm) for arm in trial.plan.treatments.arms]
    text = rng.choice(WORDS).format(a=names[0], b=names[-1])
    found = evidence_at(gather(session, trial))
    if found.closed:
        conclude(session, trial, actor, NOW, found, rng.choice(list(Decision)).value, text)
    session.commit()
    return trial
