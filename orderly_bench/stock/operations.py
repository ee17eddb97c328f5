"""Keep and find the things of the stock. The audit is the caller's: the stock knows no trial."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import fields, replace
from enum import StrEnum
from typing import Any, TypeVar

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.question.too_early import Expected
from orderly_bench.core.stock import containers, genera, kept, supplies, surroundings
from orderly_bench.core.stock.ways import Way
from orderly_bench.database.base import Base
from orderly_bench.stock.models import (
    GenusNote,
    Lesson,
    MethodCard,
    StockBench,
    StockContainer,
    StockCover,
    StockPlant,
    StockRecipe,
    StockZone,
    Supply,
    WayKept,
)

LONGEST_LESSON = 300
Row = TypeVar("Row", bound=Base)


def keep_plant(session: Session, plant: kept.StockPlant) -> StockPlant:
    """Keep a new stock plant.

    Raises
    ------
    InvalidInput
        A field that can't be kept, or a code that stands already.
    """
    values = plain(kept.check_plant(plant))
    if plants_by_code(session, [plant.code]):
        raise InvalidInput("code of the stock plant", _("stands already; give each plant its own"), plant.code)
    made = StockPlant(**values)
    session.add(made)
    session.flush()
    return made


def describe_plant(session: Session, row: StockPlant, plant: kept.StockPlant) -> StockPlant:
    """Describe a kept plant anew; its code stays."""
    for name, value in plain(kept.check_plant(plant)).items():
        if name != "code":
            setattr(row, name, value)
    session.flush()
    return row


def plain(thing: Any) -> dict[str, Any]:
    """A thing's values as columns hold them."""
    values = {one.name: getattr(thing, one.name) for one in fields(thing)}
    return {
        name: value.value if isinstance(value, StrEnum) else value.strip() if isinstance(value, str) else value
        for name, value in values.items()
    }


def keep_one(session: Session, kind: type[Row], thing: Any, by: Sequence[str]) -> Row:
    """Keep a thing, or put the one right that has the same ``by``."""
    values = plain(thing)
    made = session.scalars(select(kind).where(*(getattr(kind, name) == values[name] for name in by))).first() or kind()
    for name, value in values.items():
        setattr(made, name, value)
    session.add(made)
    session.flush()
    return made


def litres_ready(session: Session) -> dict[str, float]:
    """Litres that stand ready, by name of medium in small letters, supplies in litres with them; only where somebody said."""
    media = select(StockRecipe.name, StockRecipe.litres).where(StockRecipe.litres.is_not(None))
    bought = select(Supply.name, Supply.amount).where(Supply.unit == supplies.Unit.LITRES, Supply.use_by.is_(None))
    found: dict[str, float] = {}
    for name, litres in session.execute(media.union_all(bought)):
        found[name.casefold()] = found.get(name.casefold(), 0.0) + (litres or 0.0)
    return found


def recipes_known(session: Session) -> dict[str, str]:
    """Recipes in parts, by name of medium in small letters."""
    rows = session.execute(select(StockRecipe.name, StockRecipe.text).where(StockRecipe.text != ""))
    return {name.casefold(): text for name, text in rows}


def plants_by_code(session: Session, codes: Iterable[str]) -> dict[str, StockPlant]:
    """Stock plants by their code in small letters."""
    wanted = {code.strip() for code in codes}
    found = session.scalars(select(StockPlant).where(StockPlant.code.in_(wanted)))
    return {plant.code.casefold(): plant for plant in found}


def plants_for(session: Session, codes: Iterable[str], taxon: str) -> dict[str, StockPlant]:
    """Stock plants of these codes; one not there yet is kept with the taxon alone, to be described later."""
    codes = list(dict.fromkeys(code.strip() for code in codes))
    found = plants_by_code(session, codes)
    for code in codes:
        if code.casefold() not in found:
            found[code.casefold()] = keep_plant(session, kept.StockPlant(code, taxon or "not said"))
    return found


def plants_of(session: Session, codes: Iterable[str], *taxa: str) -> list[StockPlant]:
    """The plants of these codes; without codes those of the taxa that still stand."""
    wanted = {code.strip() for code in codes}
    if wanted:
        return list(plants_by_code(session, wanted).values())
    named = {taxon for taxon in taxa if taxon}
    found = select(StockPlant).where(StockPlant.taxon.in_(named), StockPlant.gone.is_(False)).order_by(StockPlant.code)
    return list(session.scalars(found))


def genus_notes(session: Session) -> list[genera.GenusNote]:
    """Every note by genus: the lab's own where there is one, else the shipped."""
    notes = {note.genus: note for note in genera.SHIPPED}
    notes |= {row.genus: row.value for row in session.scalars(select(GenusNote))}
    return [notes[genus] for genus in sorted(notes)]


def note_on(session: Session, taxon: str) -> genera.GenusNote | None:
    """What is noted of a taxon's genus; None where nothing is set."""
    genus = genera.genus_of(taxon)
    own = session.scalars(select(GenusNote).where(GenusNote.genus == genus)).first()
    note = own.value if own else next((note for note in genera.SHIPPED if note.genus == genus), None)
    return note if note is not None and (note.flags or note.note) else None


def keep_note(session: Session, note: genera.GenusNote) -> GenusNote:
    """Keep the lab's own note on a genus, or put it right."""
    return keep_one(session, GenusNote, genera.check_note(note), ("genus",))


def keep_bench(session: Session, bench: kept.BenchKept) -> StockBench:
    """Keep a bench, or put the one of its name right."""
    return keep_one(session, StockBench, kept.check_bench(bench), ("name",))


def bench_named(session: Session, name: str) -> StockBench | None:
    """The bench of a name, whatever its case; plans name theirs."""
    return session.scalars(select(StockBench).where(StockBench.name == name.strip())).first()


def keep_container(session: Session, kept_one: containers.ContainerKept) -> StockContainer:
    """Keep a kind of container, or put the one of its name right."""
    name, one = containers.check_container(kept_one).name.strip(), kept_one.container
    found = session.scalars(select(StockContainer).where(StockContainer.name == name)).first()
    made = found or StockContainer(name=name)
    made.shape, made.rows_, made.columns_ = one.shape.value, one.rows, one.columns
    made.volume_ml, made.wall, made.drained = one.volume_ml, one.wall, one.drained
    made.across_cm, made.outline = one.across_cm, one.outline
    made.settling_percent, made.waste_percent = one.settling_percent, one.waste_percent
    made.outside_length_cm, made.outside_width_cm = kept_one.outside_length_cm, kept_one.outside_width_cm
    session.add(made)
    session.flush()
    return made


def all_containers(session: Session) -> list[StockContainer]:
    """Kinds of container, by name."""
    return list(session.scalars(select(StockContainer).order_by(StockContainer.name)))


def keep_supply(session: Session, supply: supplies.Supply) -> Supply:
    """Keep a supply, or put the one of its name and lot right."""
    return keep_one(session, Supply, supplies.check_supply(supply), ("name", "lot"))


def all_supplies(session: Session) -> list[Supply]:
    """Supplies by name, the lot to be used first before the others."""
    rows = session.scalars(select(Supply).order_by(Supply.name))
    return sorted(rows, key=lambda row: (row.name.casefold(), *supplies.first_out(row.value)))


def keep_recipe(session: Session, recipe: kept.RecipeKept) -> StockRecipe:
    """Keep a recipe, or put the one of its name right."""
    known = recipes_known(session) | {recipe.name.strip().casefold(): recipe.text}
    return keep_one(session, StockRecipe, kept.check_recipe(recipe, known), ("name",))


def keep_card(session: Session, card: kept.MethodCard) -> MethodCard:
    """Keep a method card, or put the one of its taxon and cutting type right."""
    return keep_one(session, MethodCard, kept.check_card(card), ("taxon", "cutting_type"))


def keep_cover(session: Session, cover: surroundings.Cover) -> StockCover:
    """Keep a kind of cover, or put the one of its name right."""
    return keep_one(session, StockCover, surroundings.COVERS.check(cover), ("name",))


def all_covers(session: Session) -> list[StockCover]:
    """Kinds of cover, by name."""
    return list(session.scalars(select(StockCover).order_by(StockCover.name)))


def keep_zone(session: Session, zone: surroundings.Zone) -> StockZone:
    """Keep a zone, or put the one of its name right."""
    return keep_one(session, StockZone, surroundings.ZONES.check(zone), ("name",))


def all_zones(session: Session) -> list[StockZone]:
    """Zones, by name."""
    return list(session.scalars(select(StockZone).order_by(StockZone.name)))


def all_cards(session: Session, taxon: str = "") -> list[MethodCard]:
    """Every method card, or those of a taxon."""
    query = select(MethodCard).order_by(MethodCard.taxon, MethodCard.cutting_type)
    return list(session.scalars(query.where(MethodCard.taxon == taxon.strip()) if taxon else query))


def cards_of(session: Session, taxon: str) -> list[kept.MethodCard]:
    """The method cards of a plant as the core takes them."""
    return [row.value for row in all_cards(session, taxon)]


def weeks_expected(cards: Iterable[MethodCard]) -> list[Expected]:
    """Weeks that the method cards of a plant say."""
    return [
        Expected(card.value.weeks_least or most, most, _("the method card ({what})", what=card.cutting_type))
        for card in cards
        if (most := card.value.weeks_most or card.value.weeks_least)
    ]


def card_for(session: Session, taxon: str, cutting_type: str = "") -> MethodCard | None:
    """The method card of a taxon and cutting type; without a type the first of the taxon."""
    query = select(MethodCard).where(MethodCard.taxon == taxon.strip()).order_by(MethodCard.cutting_type)
    if cutting_type:
        query = query.where(MethodCard.cutting_type == cutting_type.strip())
    return session.scalars(query).first()


def keep_ways(session: Session, trial: str, ways: Sequence[tuple[str, str, Way]]) -> None:
    """Keep what the arms of a trial came to, as (taxon, cutting type, way), in place of what was kept of it."""
    session.execute(delete(WayKept).where(WayKept.trial_code == trial))
    for taxon, cutting_type, way in ways:
        session.add(
            WayKept(
                taxon=taxon[:120], cutting_type=cutting_type[:120], trial_code=trial, letter=way.letter, way=way.way, day=way.day, rooted=way.rooted,
                known=way.known, worth=way.worth, best_of=way.best_of, kind=way.kind, late=way.late, decision=way.decision, adopted=way.adopted,
            )
        )  # fmt: skip
    session.flush()


def ways_for(session: Session, taxon: str) -> dict[str, list[Way]]:
    """What was counted here of a plant, by cutting type, trials in order."""
    rows = (
        select(WayKept)
        .where(WayKept.taxon == taxon.strip())
        .order_by(WayKept.cutting_type, WayKept.trial_code, WayKept.letter)
    )
    found: dict[str, list[Way]] = {}
    for row in session.scalars(rows):
        found.setdefault(row.cutting_type, []).append(row.value)
    return found


def taxa_with_ways(session: Session) -> list[str]:
    """Plants of which anything was counted here."""
    return list(session.scalars(select(WayKept.taxon).distinct().order_by(WayKept.taxon)))


def adopt_way(session: Session, taxon: str, cutting_type: str, way: Way) -> MethodCard:
    """Write the way that stands to the card of its plant and type; a card is made where there is none. Its rates stay as they are."""
    card = card_for(session, taxon, cutting_type)
    value = card.value if card else kept.MethodCard(taxon, cutting_type)
    told = _("{way} ({trial}: {words})", way=way.way, trial=way.trial, words=way.as_chosen)
    return keep_card(session, replace(value, way=told[: kept.LONGEST_WAY]))


def keep_lessons(
    session: Session, taxon: str, trial: str, lessons: Mapping[kept.LessonKind, str], rests_on: str
) -> None:
    """Keep what a trial taught, in place of what it taught before.

    Raises
    ------
    InvalidInput
        A lesson is too long.
    """
    session.execute(delete(Lesson).where(Lesson.trial_code == trial))
    for what, text in lessons.items():
        if len(text) > LONGEST_LESSON:
            raise InvalidInput(
                f"lesson: {what}",
                _("keep it within {n} characters", n=str(LONGEST_LESSON)),
                f"{len(text)} characters",
            )
        if text.strip():
            session.add(
                Lesson(taxon=taxon[:120], trial_code=trial, what=what.value, text=text.strip(), rests_on=rests_on[:300])
            )
    session.flush()


def lessons_for(session: Session, taxon: str) -> list[Lesson]:
    """What trials of a plant taught, the newest first."""
    return list(session.scalars(select(Lesson).where(Lesson.taxon == taxon.strip()).order_by(Lesson.id.desc())))
