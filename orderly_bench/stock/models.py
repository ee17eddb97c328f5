"""Stock plants, benches, containers, covers, zones, recipes, supplies and method cards."""

from __future__ import annotations

from dataclasses import fields
from datetime import date

from sqlalchemy import CheckConstraint, Index, String, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column

from orderly_bench.core.plan.treatments import Container, Shape
from orderly_bench.core.stock import containers, genera, kept, supplies, surroundings, ways
from orderly_bench.database.base import TABLE, Base, one_of


class StockPlant(Base):
    """A donor; ``gone`` when nothing is taken from it any more."""

    __tablename__ = "stock_plant"
    __table_args__ = (
        one_of("stage", kept.Stage),
        one_of("flowering", kept.Flowering),
        one_of("grows", kept.Grows),
        CheckConstraint("age_years is null or age_years between 0 and 1000", name="age_range"),
        CheckConstraint("most_to_take is null or most_to_take between 0 and 10000", name="most_range"),
        TABLE,
    )
    id: Mapped[int] = mapped_column(primary_key=True)
    code: Mapped[str] = mapped_column(String(40), unique=True)
    taxon: Mapped[str] = mapped_column(String(120))
    source: Mapped[str] = mapped_column(String(120), default="")
    #: years
    age_years: Mapped[float | None] = mapped_column(default=None)
    health: Mapped[str] = mapped_column(String(120), default="")
    stage: Mapped[str] = mapped_column(String(12), default=kept.Stage.NOT_SAID.value)
    #: cuttings at once
    most_to_take: Mapped[int | None] = mapped_column(default=None)
    gone: Mapped[bool] = mapped_column(default=False, server_default="0")
    flowering: Mapped[str] = mapped_column(String(16), default=kept.Flowering.NOT_SAID.value, server_default="not said")
    grows: Mapped[str] = mapped_column(String(16), default=kept.Grows.NOT_SAID.value, server_default="not said")
    health_day: Mapped[date | None] = mapped_column(default=None)

    @property
    def value(self) -> kept.StockPlant:
        """As the core takes it."""
        return kept.StockPlant(
            self.code, self.taxon, self.source, self.age_years, self.health, kept.Stage(self.stage), self.most_to_take,
            kept.Flowering(self.flowering), kept.Grows(self.grows), self.health_day, self.gone,
        )  # fmt: skip


class StockBench(Base):
    """A bench of the lab."""

    __tablename__ = "stock_bench"
    __table_args__ = (
        CheckConstraint("length_cm is null or length_cm between 10 and 20000", name="length_range"),
        CheckConstraint("width_cm is null or width_cm between 10 and 20000", name="width_range"),
        TABLE,
    )
    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(80), unique=True)
    #: centimetres
    length_cm: Mapped[float | None] = mapped_column(default=None)
    #: centimetres
    width_cm: Mapped[float | None] = mapped_column(default=None)
    gradient: Mapped[str] = mapped_column(String(120), default="")

    @property
    def value(self) -> kept.BenchKept:
        """As the core takes it."""
        return kept.BenchKept(self.name, self.length_cm, self.width_cm, self.gradient)


class StockContainer(Base):
    """A kind of container the lab has."""

    __tablename__ = "stock_container"
    __table_args__ = (
        one_of("shape", Shape),
        CheckConstraint("rows_ between 1 and 60 and columns_ between 1 and 60", name="places_range"),
        CheckConstraint("volume_ml > 0", name="volume_above_nothing"),
        TABLE,
    )
    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(80), unique=True)
    shape: Mapped[str] = mapped_column(String(20))
    rows_: Mapped[int] = mapped_column(default=1)
    columns_: Mapped[int] = mapped_column(default=1)
    #: millilitres of one cell, pot or vessel
    volume_ml: Mapped[float] = mapped_column()
    wall: Mapped[str] = mapped_column(String(20), default="")
    drained: Mapped[bool | None] = mapped_column(default=None)
    #: centimetres across one place
    across_cm: Mapped[float | None] = mapped_column(default=None)
    outline: Mapped[str] = mapped_column(String(10), default="", server_default="")
    #: centimetres of a tray
    outside_length_cm: Mapped[float | None] = mapped_column(default=None)
    outside_width_cm: Mapped[float | None] = mapped_column(default=None)
    #: per cent of a filling
    settling_percent: Mapped[float] = mapped_column(default=10.0, server_default="10")
    waste_percent: Mapped[float] = mapped_column(default=10.0, server_default="10")

    @property
    def kept(self) -> containers.ContainerKept:
        """As the core takes it."""
        return containers.ContainerKept(self.name, self.value, self.outside_length_cm, self.outside_width_cm)

    @property
    def value(self) -> Container:
        """As the plan takes it."""
        return Container(
            Shape(self.shape),
            self.rows_,
            self.columns_,
            self.volume_ml,
            self.wall,
            self.drained,
            self.across_cm,
            self.outline,
            self.settling_percent,
            self.waste_percent,
        )


class Supply(Base):
    """A lot of something on the shelf that is used up; ``gone`` when nothing of it is left."""

    __tablename__ = "supply"
    __table_args__ = (
        UniqueConstraint("name", "lot"),
        one_of("unit", supplies.Unit),
        CheckConstraint("amount >= 0", name="amount_not_below_0"),
        CheckConstraint("price is null or price >= 0", name="price_not_below_0"),
        TABLE,
    )
    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(120))
    lot: Mapped[str] = mapped_column(String(40), default="")
    amount: Mapped[float] = mapped_column()
    unit: Mapped[str] = mapped_column(String(10))
    opened: Mapped[date | None] = mapped_column(default=None)
    use_by: Mapped[date | None] = mapped_column(default=None)
    #: of one unit
    price: Mapped[float | None] = mapped_column(default=None)
    currency: Mapped[str] = mapped_column(String(8), default="")
    note: Mapped[str] = mapped_column(String(200), default="")

    @property
    def value(self) -> supplies.Supply:
        """As the core takes it."""
        return supplies.Supply(
            self.name,
            self.amount,
            supplies.Unit(self.unit),
            self.lot,
            self.opened,
            self.use_by,
            self.price,
            self.currency,
            self.note,
        )


class StockCover(Base):
    """A kind of cover the lab has."""

    __tablename__ = "stock_cover"
    __table_args__ = (one_of("kind", surroundings.CoverKind), TABLE)
    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(60), unique=True)
    kind: Mapped[str] = mapped_column(String(16))
    pieces: Mapped[int | None] = mapped_column(default=None)
    #: centimetres of room under it
    height_cm: Mapped[float | None] = mapped_column(default=None)
    #: per cent
    lets_light: Mapped[float | None] = mapped_column(default=None)
    note: Mapped[str] = mapped_column(String(200), default="")

    @property
    def value(self) -> surroundings.Cover:
        """As the core takes it."""
        kind = surroundings.CoverKind(self.kind)
        return surroundings.Cover(self.name, kind, self.pieces, self.height_cm, self.lets_light, self.note)


class StockZone(Base):
    """Part of the place that is kept alike; temperatures in degrees Celsius."""

    __tablename__ = "stock_zone"
    __table_args__ = (
        one_of("kind", surroundings.ZoneKind),
        CheckConstraint("low_c is null or low_c < high_c", name="band_in_order"),
        TABLE,
    )
    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(60), unique=True)
    kind: Mapped[str] = mapped_column(String(16))
    low_c: Mapped[float | None] = mapped_column(default=None)
    high_c: Mapped[float | None] = mapped_column(default=None)
    bottom_c: Mapped[float | None] = mapped_column(default=None)
    gain: Mapped[float | None] = mapped_column(default=None)
    light: Mapped[str] = mapped_column(String(60), default="")
    note: Mapped[str] = mapped_column(String(200), default="")

    @property
    def value(self) -> surroundings.Zone:
        """As the core takes it."""
        kind = surroundings.ZoneKind(self.kind)
        return surroundings.Zone(
            self.name, kind, self.low_c, self.high_c, self.bottom_c, self.gain, self.light, self.note
        )


class StockRecipe(Base):
    """A recipe of a medium, in parts."""

    __tablename__ = "stock_recipe"
    __table_args__ = (CheckConstraint("litres is null or litres between 0 and 100000", name="litres_range"), TABLE)
    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(120), unique=True)
    text: Mapped[str] = mapped_column(String(500))
    #: litres that stand ready
    litres: Mapped[float | None] = mapped_column(default=None)

    @property
    def value(self) -> kept.RecipeKept:
        """As the core takes it."""
        return kept.RecipeKept(self.name, self.text, self.litres)


class GenusNote(Base):
    """The lab's own note on a genus; it stands in place of the shipped one."""

    __tablename__ = "genus_note"
    __table_args__ = (TABLE,)
    id: Mapped[int] = mapped_column(primary_key=True)
    genus: Mapped[str] = mapped_column(String(40), unique=True)
    irritant: Mapped[bool] = mapped_column(default=False, server_default="0")
    toxic_people: Mapped[bool] = mapped_column(default=False, server_default="0")
    toxic_animals: Mapped[bool] = mapped_column(default=False, server_default="0")
    invasive: Mapped[bool] = mapped_column(default=False, server_default="0")
    protected: Mapped[bool] = mapped_column(default=False, server_default="0")
    quarantine: Mapped[bool] = mapped_column(default=False, server_default="0")
    note: Mapped[str] = mapped_column(String(300), default="", server_default="")
    source: Mapped[str] = mapped_column(String(200))

    @property
    def value(self) -> genera.GenusNote:
        """As the core takes it."""
        return genera.GenusNote(**{f.name: getattr(self, f.name) for f in fields(genera.GenusNote)})


class WayKept(Base):
    """What one arm of a concluded trial came to; made anew by every conclusion of the trial."""

    __tablename__ = "way_kept"
    __table_args__ = (
        UniqueConstraint("trial_code", "letter"),
        CheckConstraint("rooted between 0 and known", name="rooted_of_known"),
        Index("ix_way_kept_taxon", "taxon", "cutting_type"),
        TABLE,
    )
    id: Mapped[int] = mapped_column(primary_key=True)
    taxon: Mapped[str] = mapped_column(String(120))
    cutting_type: Mapped[str] = mapped_column(String(120))
    trial_code: Mapped[str] = mapped_column(String(20))
    letter: Mapped[str] = mapped_column(String(2))
    way: Mapped[str] = mapped_column(String(200))
    #: days after sticking
    day: Mapped[int] = mapped_column()
    rooted: Mapped[int] = mapped_column()
    known: Mapped[int] = mapped_column()
    #: what they are worth as single cuttings, none from one unit
    worth: Mapped[float | None] = mapped_column(default=None)
    best_of: Mapped[int] = mapped_column(default=0)
    kind: Mapped[str] = mapped_column(String(10))
    late: Mapped[bool] = mapped_column(default=False)
    decision: Mapped[str] = mapped_column(String(10))
    adopted: Mapped[bool] = mapped_column(default=False)

    @property
    def value(self) -> ways.Way:
        """As the core takes it."""
        return ways.Way(
            self.trial_code, self.letter, self.way, self.day, self.rooted, self.known, self.worth, self.best_of, self.kind, self.late,
            self.decision, self.adopted,
        )  # fmt: skip


class Lesson(Base):
    """What a trial taught about a plant: keep, change or stop; it comes back when the plant is next planned."""

    __tablename__ = "lesson"
    __table_args__ = (
        one_of("what", kept.LessonKind),
        CheckConstraint("text <> ''", name="says_something"),
        Index("ix_lesson_taxon", "taxon"),
        TABLE,
    )
    id: Mapped[int] = mapped_column(primary_key=True)
    taxon: Mapped[str] = mapped_column(String(120))
    trial_code: Mapped[str] = mapped_column(String(20))
    what: Mapped[str] = mapped_column(String(10))
    text: Mapped[str] = mapped_column(String(300))
    #: the count or event it rests on
    rests_on: Mapped[str] = mapped_column(String(300))


class MethodCard(Base):
    """How a kind of cutting of a taxon is rooted here."""

    __tablename__ = "method_card"
    __table_args__ = (
        UniqueConstraint("taxon", "cutting_type"),
        CheckConstraint("rate is null or rate between 0 and 1", name="rate_range"),
        CheckConstraint("(rooted is null) = (stuck is null)", name="counts_together"),
        CheckConstraint("rooted is null or rooted between 0 and stuck", name="rooted_of_stuck"),
        TABLE,
    )
    id: Mapped[int] = mapped_column(primary_key=True)
    taxon: Mapped[str] = mapped_column(String(120))
    cutting_type: Mapped[str] = mapped_column(String(120))
    #: 0 to 1
    rate: Mapped[float | None] = mapped_column(default=None)
    rooted: Mapped[int | None] = mapped_column(default=None)
    stuck: Mapped[int | None] = mapped_column(default=None)
    #: weeks
    weeks_least: Mapped[int | None] = mapped_column(default=None)
    #: weeks
    weeks_most: Mapped[int | None] = mapped_column(default=None)
    care: Mapped[str] = mapped_column(String(500), default="")
    #: the way that stands, and the trial it comes from
    way: Mapped[str] = mapped_column(String(240), default="", server_default="")
    #: what is done at the tray, with ; between
    steps: Mapped[str] = mapped_column(String(500), default="", server_default="")
    #: band of the air, °C
    low_c: Mapped[float | None] = mapped_column(default=None)
    high_c: Mapped[float | None] = mapped_column(default=None)
    #: days after sticking
    first_look: Mapped[int | None] = mapped_column(default=None)
    #: days after sticking before which nothing is called dead
    dead_from: Mapped[int | None] = mapped_column(default=None)
    #: when in the year they are taken
    window: Mapped[str] = mapped_column("taken_when", String(120), default="", server_default="")
    needs: Mapped[str] = mapped_column(String(300), default="", server_default="")
    #: how they fail, and what it looks like
    signs: Mapped[str] = mapped_column(String(300), default="", server_default="")

    @property
    def value(self) -> kept.MethodCard:
        """As the core takes it."""
        return kept.MethodCard(
            self.taxon,
            self.cutting_type,
            self.rate,
            self.rooted,
            self.stuck,
            self.weeks_least,
            self.weeks_most,
            self.care,
            self.way,
            self.steps,
            self.low_c,
            self.high_c,
            self.first_look,
            self.dead_from,
            self.window,
            self.needs,
            self.signs,
        )
