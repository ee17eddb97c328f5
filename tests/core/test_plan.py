"""The plan as one value: its text, its digest, the difference of two, amendments, editing a draft."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import FrozenInstanceError, fields, is_dataclass, replace
from datetime import date, timedelta
from types import NoneType, UnionType
from typing import get_args, get_origin, get_type_hints

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from orderly_bench.core.errors import InvalidInput, UnusableData
from orderly_bench.core.plan import amendments, edit
from orderly_bench.core.plan.aspects import SORTS, AspectKind, Status
from orderly_bench.core.plan.difference import IDENTITIES, difference
from orderly_bench.core.plan.part import Page, asked_on, read_part, tidy, written_part
from orderly_bench.core.plan.question import Exploratory, Headline, Question, TrialKind
from orderly_bench.core.plan.rates import BookRate, KnownRate
from orderly_bench.core.plan.text import digest, from_text, to_text, words_of_field
from orderly_bench.core.plan.treatments import ArmPlan, Aspect, Container, Level, Shape, SideGroup, Treatments
from orderly_bench.core.plan.value import Design, Plan, PlannedWave, Schedule
from orderly_bench.core.responses.kind import Response
from orderly_bench.core.tend.retrospective import in_words, is_retrospective
from orderly_bench.core.tend.schedule import DayZero
from orderly_bench.core.typed import NEEDED, Kind

HORMONE, MEDIUM = AspectKind.HORMONE, AspectKind.MEDIUM
# A text may hold anything that a person can type; no lone surrogates, which no database keeps.
TEXTS = st.text(st.characters(exclude_categories=("Cs",)), max_size=30)


def any_of(hint: object) -> st.SearchStrategy:
    """Any value of a type of the plan, every field of every part drawn; parts of a list differ in identity."""
    if isinstance(hint, type) and is_dataclass(hint):
        hints = get_type_hints(hint)
        return st.builds(hint, **{f.name: within(f.metadata.get("typed"), hints[f.name]) for f in fields(hint)})
    origin, arguments = get_origin(hint), get_args(hint)
    if origin is tuple and arguments[-1] is Ellipsis:
        parts = is_dataclass(arguments[0])
        unique = {"unique_by": identity} if parts else {"unique": True}
        return st.lists(any_of(arguments[0]), max_size=3, **unique).map(tuple)
    if origin is tuple:
        return st.tuples(*map(any_of, arguments))
    if origin is Mapping:
        return st.dictionaries(TEXTS, TEXTS, max_size=3)
    if origin is UnionType:
        return st.one_of([st.none() if own is NoneType else any_of(own) for own in arguments])
    simple = {str: TEXTS, float: st.floats(allow_nan=False, allow_infinity=False), int: st.integers(-(2**60), 2**60)}
    return simple[hint] if hint in simple else st.from_type(hint)


def within(kind: Kind | None, hint: object) -> st.SearchStrategy:
    """Any value that a field of this kind may hold."""
    if kind is None or kind.box:
        return any_of(hint)
    if kind.options:
        return st.sampled_from([kind.value_of(value, "field") for value, _ in kind.options])
    if kind.limits is not None:
        whole = hint is int or int in get_args(hint)
        number = st.integers(*kind.limits) if whole else st.floats(*kind.limits)
        return number if kind.blank is NEEDED else st.one_of(st.just(kind.blank), number)
    if float in get_args(hint):
        return st.one_of(st.none(), st.floats(0, 100_000))
    return any_of(hint)


def identity(part: object) -> object:
    return next(getattr(part, name) for name in IDENTITIES if hasattr(part, name))


PLANS = any_of(Plan)


def two_by_two(first: AspectKind = MEDIUM) -> Plan:
    treatments = edit.with_factors(
        Treatments(), [(first, "medium", ["pumice", "bark"]), (HORMONE, "hormone", ["IBA", "none"])]
    )
    every = [(m, h) for m in ("medium-1", "medium-2") for h in ("hormone-1", "hormone-2")]
    return replace(Plan("26-01"), treatments=edit.with_arms(treatments, every, ("medium-1", "hormone-2")))


def two_arms() -> Plan:
    treatments = edit.with_factors(Treatments(), [(HORMONE, "hormone", ["IBA", "none"])])
    return replace(Plan("26-02"), treatments=edit.with_arms(treatments, [("hormone-1",), ("hormone-2",)], None))


class TestText:
    @settings(max_examples=150, deadline=None)
    @given(plan=PLANS)
    def test_text_to_plan_and_back_loses_nothing(self, plan: Plan) -> None:
        text = to_text(plan)
        assert from_text(text) == plan
        assert to_text(from_text(text)) == text

    @settings(max_examples=100, deadline=None)
    @given(name=TEXTS, why=TEXTS)
    def test_whatever_a_person_types_comes_back(self, name: str, why: str) -> None:
        plan = replace(two_by_two(), departures=(name, why))
        assert from_text(to_text(plan)).departures == (name, why)

    def test_a_person_can_read_it(self) -> None:
        text = to_text(two_by_two())
        assert "  endpoint_day: 42\n" in text or "endpoint_day: 42," in text
        assert "- id: A\n    says: {medium: medium-1, hormone: hormone-1}\n" in text
        assert "name: pumice" in text

    def test_an_older_text_without_a_later_field_is_still_a_plan(self) -> None:
        plan = two_by_two()
        older = to_text(plan).replace("  assumed_icc: null\n", "").replace("departures: []\n", "")
        assert older != to_text(plan)
        assert from_text(older) == plan

    @pytest.mark.parametrize(
        "text", ["", "- a list", "code: 26-01\nsurprise: 1", "code: [", "{code: x, design: {layout: spiral}}"]
    )
    def test_what_is_no_plan_is_refused(self, text: str) -> None:
        with pytest.raises(UnusableData, match="no plan"):
            from_text(text)

    def test_the_digest_changes_with_any_field(self) -> None:
        plan = two_by_two()
        seen = {digest(to_text(plan))}
        for f in fields(plan.question):
            value = getattr(plan.question, f.name)
            own = {
                "known": (KnownRate(1, 3, 9),), "book": (BookRate(1, 40, 60),), "wanted_by": date(2027, 5, 1), "response": Response.QUALITY,
                "kind": TrialKind.LOOK, "headline": Headline.PAIRS, "others": (Exploratory("alive"),), "wanted_sure": 80,
            }  # fmt: skip
            usual = {str: "other", int: 7, float: 7.5, bool: value is False, tuple: (14,), NoneType: 7}
            other = own.get(f.name, usual.get(type(value), 9))
            if other == value:
                other = 8
            seen.add(digest(to_text(replace(plan, question=replace(plan.question, **{f.name: other})))))
        seen.add(digest(to_text(replace(plan, preparation=replace(plan.preparation, recipes={"all": "1 sand"})))))
        seen.add(digest(to_text(replace(plan, design=replace(plan.design, assumed_icc=0.2)))))
        assert len(seen) == 1 + len(fields(plan.question)) + 2

    def test_every_field_has_words(self) -> None:
        def parts(kind: type) -> list[type]:
            return [kind, *(p for f in fields(kind) if is_dataclass(f.default) for p in parts(type(f.default)))]

        for kind in [*parts(Plan), ArmPlan, Aspect, Level, SideGroup]:
            for f in fields(kind):
                assert isinstance(words_of_field(kind, f.name), str)


PARTS = (Question, Design, Container, ArmPlan, PlannedWave, Schedule, Exploratory)


def usual_of(part: type) -> object:
    """A part as it is before anything is typed."""
    return part(*{ArmPlan: ["A"], Exploratory: ["alive"], PlannedWave: [1]}.get(part, []))


def as_typed(value: object) -> object:
    """A value as a person could type it: text without blank ends, a number in a few digits."""
    if type(value) is float:
        return round(value, 4)
    return tidy(value.replace("\r", "")) if type(value) is str else value


class TestForm:
    """The plan makes its form: what is written into fields reads back, and limits hold however a part was made."""

    @pytest.mark.parametrize("part", PARTS)
    @settings(max_examples=40, deadline=None)
    @given(data=st.data())
    def test_what_stands_in_the_fields_reads_back(self, part: type, data: st.DataObject) -> None:
        usual = usual_of(part)
        for page in Page:
            asked = [one for one in asked_on(part, page) if not isinstance(getattr(usual, one.name), tuple)]
            hints = get_type_hints(part)
            own = {one.name: data.draw(within(one.kind, hints[one.name]).map(as_typed)) for one in asked}
            own |= {"bench": own["bench"] or "Bench 1"} if "bench" in own else {}
            found = replace(usual, **own)
            assert read_part(usual, written_part(found, page), page) == found

    @pytest.mark.parametrize("part", PARTS)
    def test_beyond_its_limits_a_field_is_refused_typed_or_made(self, part: type) -> None:
        usual = usual_of(part)
        for page in Page:
            for one in asked_on(part, page):
                for beyond in (one.kind.limits[0] - 1, one.kind.limits[1] + 1) if one.kind.limits else ():
                    if beyond == one.kind.blank:
                        continue
                    with pytest.raises(InvalidInput, match=one.words):
                        read_part(usual, {one.name: f"{beyond:g}"}, page)
                    with pytest.raises(InvalidInput, match=one.words):
                        replace(usual, **{one.name: beyond})

    def test_a_field_that_is_not_on_the_page_stays_and_a_box_is_unticked_by_its_mark(self) -> None:
        asked = Question(blind=True, who_looks="Ines")
        assert read_part(asked, {"cultivar": "Marin"}, Page.QUESTION) == replace(asked, cultivar="Marin")
        assert not read_part(asked, {"blind_box": "yes"}, Page.QUESTION).blind
        assert read_part(asked, {"blind_box": "yes", "blind": "yes"}, Page.QUESTION).blind

    def test_a_plan_can_not_be_changed_in_place_and_is_a_key(self) -> None:
        plan = two_by_two()
        arm = plan.treatments.arms[0]
        with pytest.raises(TypeError):
            arm.says["medium"] = "medium-2"  # type: ignore[index]
        with pytest.raises(FrozenInstanceError):
            arm.guess = 0.5  # type: ignore[misc]
        assert {plan: "kept"}[from_text(to_text(plan))] == "kept"

    def test_a_text_beyond_a_limit_is_no_plan_and_says_which(self) -> None:
        text = to_text(two_by_two()).replace("cuttings_per_unit: 1", "cuttings_per_unit: 0")
        with pytest.raises(UnusableData, match="cuttings in one unit: must be between 1 and 60"):
            from_text(text)

    def test_the_draw_rests_on_what_says_so(self) -> None:
        plan = two_by_two()
        moved = replace(plan, design=replace(plan.design, bench="South", pieces=(), hours=3.0, gradient="damp"))
        assert moved.what_is_drawn() == plan.what_is_drawn()
        for changed in (
            replace(plan, design=replace(plan.design, under_lid=4)),
            replace(plan, design=replace(plan.design, container=Container(columns=9))),
            replace(plan, schedule=Schedule(waves=(PlannedWave(1), PlannedWave(2)))),
            replace(plan, treatments=edit.with_numbers_of(plan.treatments, {"A": ArmPlan("A", units=9)})),
            edit.with_containers(plan, plan.design.container, {"D": Container(columns=9)}),
        ):
            assert changed.what_is_drawn() != plan.what_is_drawn()


class TestDifference:
    def test_says_what_changed_in_words(self) -> None:
        plan = two_by_two()
        asked = replace(plan.question, endpoint_day=49, blind=False)
        schedule = replace(plan.schedule, check_days=(14, 35))
        after = replace(plan, question=asked, schedule=schedule, departures=("lid off",))
        assert difference(plan, after) == [
            "endpoint day 42, now 49",
            "scoring blind yes, now no",
            "checks on day 28 taken out",
            "checks on day 35 added",
            "lid off",
        ]
        assert difference(plan, plan) == []

    def test_parts_of_a_list_go_by_identity(self) -> None:
        plan = two_by_two()
        arms = plan.treatments.arms
        changed = (arms[1], replace(arms[0], abandoned="rotted"), *arms[2:3])
        said = difference(plan, replace(plan, treatments=replace(plan.treatments, arms=changed)))
        assert said == ["arm A, abandoned: rotted", "arm D taken out", "parts in another order"]

    @settings(max_examples=80, deadline=None)
    @given(a=PLANS, b=PLANS)
    def test_any_two_plans_differ_in_words_exactly_when_they_differ(self, a: Plan, b: Plan) -> None:
        b = replace(b, code=a.code)
        assert bool(difference(a, b)) == (a != b)


class TestAmendments:
    @pytest.mark.parametrize(
        ("change", "said"),
        [
            (amendments.EndpointDay(35), ["endpoint day 42, now 35"]),
            (amendments.EndpointDay(20), ["endpoint day 42, now 20", "checks on day 28 taken out"]),
            (amendments.Margin(10), ["margin, points 15, now 10"]),
            (amendments.AddCheckDay(21), ["checks on day 21 added"]),
            (amendments.DropCheckDay(14), ["checks on day 14 taken out"]),
            (amendments.Recipe("medium-1", "3 pumice, 1 coir"), ["recipe, medium-1: 3 pumice, 1 coir"]),
            (amendments.StopRule("day 42"), ["stop rule: day 42"]),
            (amendments.AbandonArm("B", "rotted"), ["arm B, abandoned: rotted"]),
            (amendments.Care("Mist: daily, until buds"), ["Mist added"]),
            (amendments.RenameLevel("medium", "medium-1", "pumice + perlite"), ["pumice, name pumice, now pumice + perlite"]),
            (amendments.Departure("lid\noff"), ["lid off"]),
        ],
    )  # fmt: skip
    def test_each_changes_what_it_says(self, change: amendments.Amendment, said: list[str]) -> None:
        plan = two_by_two()
        assert difference(plan, change.apply(plan)) == said

    @pytest.mark.parametrize(
        ("change", "says"),
        [
            (amendments.EndpointDay(0), "between 1 and 1000"),
            (amendments.Margin(0), "between 1 and 99"),
            (amendments.AddCheckDay(14), "not planned yet"),
            (amendments.AddCheckDay(42), "before the endpoint"),
            (amendments.DropCheckDay(15), "one of 14, 28"),
            (amendments.Recipe("all", "some pumice"), "parts and component"),
            (amendments.AbandonArm("Q", "x"), "not given up: A, B, C, D"),
            (amendments.RenameLevel("medium", "medium-1", "BARK"), "more than case"),
            (amendments.RenameLevel("medium", "nowhere", "x"), "one of the plan's"),
            (amendments.Departure(" "), "within 300"),
            (amendments.Care("Mist: sometimes"), "how often"),
            (amendments.Care("Mist: daily, arm Q"), "arms that there are"),
        ],
    )
    def test_each_refuses_what_it_can_not_be(self, change: amendments.Amendment, says: str) -> None:
        with pytest.raises(InvalidInput, match=says):
            change.apply(two_by_two())

    def test_one_arm_of_two_can_be_given_up_and_one_is_always_left(self) -> None:
        plan = amendments.AbandonArm("A", "x").apply(two_arms())
        assert [arm.abandoned for arm in plan.treatments.arms] == ["x", ""]
        with pytest.raises(InvalidInput, match="at least one"):
            amendments.AbandonArm("B", "x").apply(plan)


class TestTreatments:
    def test_factors_keep_their_identity_when_they_are_edited(self) -> None:
        plan = two_by_two()
        again = edit.with_factors(
            plan.treatments, [(HORMONE, "hormone", ["none", "NAA"]), (MEDIUM, "medium", ["pumice", "bark"])]
        )
        assert [level.id for level in again.asked[0].levels] == ["hormone-2", "hormone-3"]
        assert [arm.id for arm in again.arms] == ["B", "D"]

    def test_a_name_may_hold_a_plus_and_arms_are_told_by_id(self) -> None:
        treatments = edit.with_factors(
            Treatments(), [(MEDIUM, "medium", ["a + b", "a"]), (HORMONE, "hormone", ["c", "b + c"])]
        )
        made = edit.with_arms(treatments, [("medium-1", "hormone-1"), ("medium-2", "hormone-2")], None)
        assert [made.name(arm) for arm in made.arms] == ["a + b + c", "a + b + c"]
        assert made.identities() == {"A": ["medium-1", "hormone-1"], "B": ["medium-2", "hormone-2"]}

    def test_each_aspect_is_asked_the_same_travelling_or_not_said(self) -> None:
        rows = [
            edit.Row(AspectKind.COVER, "cover", dict.fromkeys("ABCD", "lid")),
            edit.Row(AspectKind.LIGHT, "light", {"A": "sun", "B": "shade", "C": "sun"}),
            edit.Row(AspectKind.OTHER, "who waters", {"A": "Ada"}),
        ]
        made = edit.with_description(two_by_two().treatments, rows)
        assert [made.status(aspect) for aspect in made.aspects] == [
            Status.ASKED, Status.ASKED, Status.SAME, Status.TRAVELLING, Status.NOT_SAID
        ]  # fmt: skip
        assert made.held_same() == ["cover: lid"]
        found = made.separation()
        assert found is not None and found.travelling == ("light",) and found.not_said == ("who-waters",)
        assert edit.with_description(made, []).aspects == two_by_two().treatments.aspects

    def test_what_is_alike_in_all_arms_is_said_of_new_arms_too(self) -> None:
        rows = [
            edit.Row(AspectKind.COVER, "cover", dict.fromkeys("ABCD", "lid")),
            edit.Row(AspectKind.LIGHT, "light", {"A": "sun"}),
        ]
        described = edit.with_description(two_by_two().treatments, rows)
        fewer = edit.with_arms(described, [("medium-1", "hormone-1"), ("medium-2", "hormone-2")], None)
        assert [("cover" in arm.says, arm.says.get("light")) for arm in fewer.arms] == [(True, "light-1"), (True, None)]
        with_new = edit.with_factors(described, [(MEDIUM, "medium", ["pumice", "bark", "sand"])])
        assert [arm.says["cover"] for arm in edit.with_arms(with_new, [("medium-1",), ("medium-3",)], None).arms] == [
            "cover-1"
        ] * 2

    @pytest.mark.parametrize(
        ("rows", "says"),
        [
            ([edit.Row(AspectKind.LIGHT, "light", {"A": "Sun", "B": "sun"})], "are they one"),
            ([edit.Row(AspectKind.LIGHT, "medium", {"A": "x"})], "stands twice"),
            ([edit.Row(AspectKind.LIGHT, "x" * 61, {"A": "x"})], "within 60"),
            ([edit.Row(AspectKind.LIGHT, "light", {"A": "x" * 121})], "within 120"),
            ([edit.Row(AspectKind.OTHER, f"a{i}", {"A": "x"}) for i in range(41)], "at most 40"),
        ],
    )
    def test_bad_descriptions_are_refused_by_name(self, rows: list[edit.Row], says: str) -> None:
        with pytest.raises(InvalidInput, match=says):
            edit.with_description(two_by_two().treatments, rows)

    def test_side_groups_are_described_and_in_no_arm(self) -> None:
        grouped = edit.with_side_groups(two_by_two().treatments, [("tub", "beside the bench")])
        made = edit.with_description(grouped, [edit.Row(AspectKind.LIGHT, "light", {"A": "sun", "tub": "shade"})])
        assert made.side_groups[0].says == {"light": "light-2"}
        assert made.status(made.aspects[-1]) is Status.NOT_SAID
        for wrong in ([("A", "")], [("", "")], [("tub", ""), ("Tub", "")]):
            with pytest.raises(InvalidInput, match="side group"):
                edit.with_side_groups(made, wrong)

    def test_the_container_of_an_arm_decides_its_unit_and_is_read_off_the_design(self) -> None:
        usual, jar = Container(wall="dark", drained=True), Container(Shape.JAR, 1, 1, 1000.0, "clear", False)
        plan = edit.with_containers(two_by_two(), usual, {"D": jar})
        aspect = plan.treatments.of_kind(AspectKind.CONTAINER)
        assert aspect is not None and plan.treatments.status(aspect) is Status.TRAVELLING
        assert [level.name for level in aspect.levels] == ["60 mL cells, dark, drained", "1 L jar, clear, not drained"]
        assert [plan.container_of(arm) for arm in plan.treatments.arms] == [usual, usual, usual, jar]
        alike = edit.with_containers(plan, usual, {})
        assert alike.treatments.held_same() == ["container: 60 mL cells, dark, drained"]
        asked = edit.with_factors(Treatments(), [(AspectKind.CONTAINER, "container", ["cells", "jar"])])
        asked = edit.with_arms(asked, [("container-1",), ("container-2",)], None)
        plan = edit.with_containers(replace(Plan("x"), treatments=asked), usual, {"B": jar})
        assert [plan.container_of(arm).shape for arm in plan.treatments.arms] == [Shape.CELLS, Shape.JAR]
        assert len(plan.treatments.aspects) == 1

    def test_an_arm_is_stuck_in_the_waves_of_its_season(self) -> None:
        treatments = edit.with_factors(Treatments(), [(AspectKind.SEASON, "season", ["spring", "autumn"])])
        treatments = edit.with_arms(treatments, [("season-1",), ("season-2",)], None)
        waves = (
            PlannedWave(1, date(2026, 3, 1), "season-1"),
            PlannedWave(2, None, "season-2"),
            PlannedWave(3, None, "season-1"),
        )
        plan = Plan("x", treatments=treatments)
        plan = replace(plan, schedule=replace(plan.schedule, waves=waves))
        assert [[w.number for w in plan.waves_of(arm)] for arm in treatments.arms] == [[1, 3], [2]]
        assert plan.cuttings == 3 * 24

    def test_every_kind_of_aspect_is_explained(self) -> None:
        assert set(SORTS) == set(AspectKind)
        assert {kind for kind, sort in SORTS.items() if sort.property} == {
            AspectKind.TAXON, AspectKind.CUTTING_TYPE, AspectKind.SEASON, AspectKind.DONOR
        }  # fmt: skip


class TestRetrospective:
    day = date(2026, 5, 1)

    def test_only_what_was_certainly_late_is_retrospective(self) -> None:
        about = DayZero(self.day - timedelta(2), self.day + timedelta(2))
        assert not is_retrospective(self.day, [])
        assert not is_retrospective(self.day, [DayZero(self.day, self.day)])
        assert not is_retrospective(self.day, [about])
        assert is_retrospective(self.day + timedelta(3), [about])
        assert in_words("the plan was locked", self.day + timedelta(3), [about]).endswith(
            "on 4 May 2026, 1 day after sticking"
        )
        assert in_words("the plan was locked", self.day, [about]) == ""
