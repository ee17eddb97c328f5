"""The question before a cutting is taken: the table of arms, ready starts, the sentence, what the plants are wanted for."""

from __future__ import annotations

from dataclasses import replace

import pytest

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.plan import table as changes
from orderly_bench.core.plan.aspects import AspectKind, Status
from orderly_bench.core.plan.rates import BookRate, KnownRate, read_book, read_known
from orderly_bench.core.plan.separable import Mend
from orderly_bench.core.plan.table import Line, Table, product_words, table_of, treatments_of
from orderly_bench.core.plan.treatments import Treatments
from orderly_bench.core.plan.value import PlannedWave
from orderly_bench.core.question import purpose, sentence
from orderly_bench.core.question.doubts import blank_doubt, doubts_about, mixed_doubts
from orderly_bench.core.question.from_card import from_card, in_words
from orderly_bench.core.question.starts import STARTS, note_of, start_of
from orderly_bench.core.responses.kind import Response
from orderly_bench.core.stock.kept import MethodCard
from tests.core.test_plan import two_by_two

HORMONE, OTHER, MEDIUM = AspectKind.HORMONE, AspectKind.OTHER, AspectKind.MEDIUM
IBA = Line(HORMONE, "hormone", True, ("none", "IBA", "IBA strong"))
POT = Line(OTHER, "pot", False, ("square", "round", "round"))
SAND = Line(MEDIUM, "medium", False, ("sand", "sand", "sand"))
TABLE = Table(3, (IBA, POT, SAND), (), 0)


class TestTable:
    def test_to_treatments_and_back_loses_nothing(self) -> None:
        made = treatments_of(TABLE, Treatments())
        assert [made.name(arm) for arm in made.arms] == ["none", "IBA", "IBA strong"] and made.arms[0].control
        assert table_of(made) == TABLE
        assert [made.status(aspect) for aspect in made.aspects] == [Status.ASKED, Status.TRAVELLING, Status.SAME]
        again = treatments_of(TABLE, made)
        assert again == made

    def test_levels_keep_their_identity_when_an_arm_is_added(self) -> None:
        before = two_by_two().treatments
        table = changes.with_arm(table_of(before), ["sand", "IBA"])
        after = treatments_of(table, before)
        assert [arm.id for arm in after.arms] == list("ABCDE")
        for old, new in zip(before.arms, after.arms, strict=False):
            assert old.says == new.says
        assert after.aspects[0].levels[:2] == before.aspects[0].levels

    @pytest.mark.parametrize(
        ("table", "says"),
        [
            (Table(3, (POT, SAND)), "the arms differ in pot; mark what you ask"),
            (Table(3, (SAND,)), "mark at least one line"),
            (Table(3, (Line(HORMONE, "hormone", True, ("none", "", "IBA")),)), "it is blank in .*B"),
            (
                Table(3, (Line(HORMONE, "hormone", True, ("none", "IBA", "IBA")), POT)),
                "B and C are alike in everything",
            ),
            (Table(3, (Line(HORMONE, "hormone", True, ("none", "none", "IBA")), POT)), "A and B differ in pot alone"),
            (Table(3, (Line(HORMONE, "hormone", True, ("none", "none", "none")),)), "2 to 8 levels"),
            (Table(2, (Line(HORMONE, "hormone", True, ("IBA", "iba")),)), "stands twice"),
        ],
    )
    def test_what_can_not_be_kept_says_what_would(self, table: Table, says: str) -> None:
        with pytest.raises(InvalidInput, match=says):
            treatments_of(table, Treatments())

    def test_a_mend_makes_everything_separable(self) -> None:
        found = TABLE.separation()
        assert found is not None and not found.separable
        for mend in found.mends:
            after = changes.mended(TABLE, mend).separation()
            assert after is not None and after.separable, mend
        same = changes.mended(TABLE, found.mends[0])
        assert same.lines[1].values == ("square",) * 3  # as the control has it

    def test_arms_that_become_alike_are_one(self) -> None:
        table = Table(3, (Line(HORMONE, "hormone", True, ("none", "IBA", "IBA")), POT), (), 2)
        made = changes.mended(table, Mend(("1",), (), (("B", "C"),)))
        assert made.arms == 2 and made.lines[0].values == ("none", "IBA") and made.control is None

    def test_columns_come_and_go_with_the_control_and_the_groups_beside(self) -> None:
        table = Table(2, (Line(HORMONE, "hormone", True, ("none", "IBA", "spare")),), (("tub", ""),), 1)
        more = changes.with_arm(table)
        assert more.lines[0].values == ("none", "IBA", "", "spare") and more.arms == 3
        less = changes.without_arm(more, 0)
        assert less.lines[0].values == ("IBA", "", "spare") and less.control == 0
        assert changes.without_arm(less, 0).control is None
        with pytest.raises(InvalidInput, match="not there"):
            changes.without_arm(less, 7)

    def test_every_combination(self) -> None:
        table = Table(
            2, (Line(HORMONE, "hormone", True, ("none", "IBA")), Line(MEDIUM, "medium", True, ("sand", "bark")), POT)
        )
        made = changes.every_combination(Table(2, (*table.lines[:2], Line(OTHER, "pot", False, ("round", "round")))))
        assert made.arms == 4 and made.lines[1].values == ("sand", "bark", "sand", "bark")
        assert made.lines[2].values == ("round",) * 4
        assert product_words(made) == "2 of hormone x 2 of medium = 4 arms"
        assert product_words(changes.without_arm(made, 3)) == "2 of hormone x 2 of medium: 3 arms of 4 combinations"

    def test_what_is_asked_can_be_turned_to_what_differs(self) -> None:
        asked = changes.asking(TABLE, "pot")
        assert [line.name for line in asked.asked] == ["pot"] and "hormone" in [t.name for t in asked.travelling()]


class TestStarts:
    @pytest.mark.parametrize("start", STARTS, ids=[start.key for start in STARTS])
    def test_each_is_a_whole_trial_of_two_arms(self, start) -> None:  # type: ignore[no-untyped-def]
        made = changes.starting_at(TABLE, start.kind, start.name, start.levels)
        treatments = treatments_of(made, Treatments())
        assert [treatments.name(arm) for arm in treatments.arms] == list(start.levels)
        found = treatments.separation()
        assert found is not None and found.separable
        if start.name != "medium":
            assert "medium: sand" in treatments.held_same()

    def test_a_key_that_is_none_is_none(self) -> None:
        assert start_of("nothing") is None and len({start.key for start in STARTS}) == len(STARTS)


class TestSentence:
    @pytest.mark.parametrize(
        ("response", "margin", "ends"),
        [
            (Response.ROOTED, 15, "change how many root by day 42, by more than 15 of every 100?"),
            (Response.ROOT_COUNT, 1.25, "change the number of roots by day 42, by a factor of more than 1.25?"),
            (Response.LONGEST, 10, "change the longest root by day 42, by more than 10 mm?"),
        ],
    )
    def test_it_says_plant_factor_endpoint_day_and_margin(self, response: Response, margin: float, ends: str) -> None:
        made = sentence.compose("Olea europaea", ["hormone", "medium"], response, 42, margin)
        assert made == f"In Olea europaea, does hormone or medium {ends}"

    def test_a_rate_asks_no_difference(self) -> None:
        assert (
            sentence.compose("Olea europaea", [], Response.ROOTED, 42, 15, True)
            == "In Olea europaea, how many root by day 42?"
        )

    def test_margins_are_on_the_analysis_scale(self) -> None:
        assert sentence.margin_of(Response.FIT, 15, None) == 0.15
        assert sentence.margin_of(Response.QUALITY, 15, 12) == pytest.approx(0.12)
        assert sentence.margin_of(Response.LONGEST, 15, None) == 10
        with pytest.raises(InvalidInput, match="above 1"):
            sentence.check_margin_of(Response.ROOT_COUNT, 15, 0.9)

    def test_every_response_can_be_asked_for(self) -> None:
        assert set(sentence.ENDPOINTS) == set(Response)


class TestPurpose:
    def test_own_counts_stand_before_what_is_written_and_are_not_pooled_with_it(self) -> None:
        own, book = (KnownRate(1, 30, 60, "25-04"), KnownRate(2, 10, 40)), (BookRate(1, 60, 80, "an old card"),)
        assert purpose.rate_known(own, book) == (0.4, "40 of 100 counted here")
        rate, words = purpose.rate_known((), book) or (0, "")
        assert rate == pytest.approx(0.7) and words == "the middle of 60 to 80 % as written by an old card"
        assert purpose.rate_known((), ()) is None

    def test_the_gauge_for_a_written_rate_is_binomial(self) -> None:
        found = purpose.gauge(2, 3, (), (BookRate(1, 50, 50, "a card"),))
        assert found is not None and found.expected == 1.5 and found.chance == pytest.approx(0.5)
        tail = sum(1 for bits in range(2**found.stick.stick) if bits.bit_count() >= 2) / 2**found.stick.stick
        assert tail >= 0.95

    def test_the_gauge_for_own_counts_is_wider(self) -> None:
        own = purpose.gauge(50, 100, (KnownRate(1, 30, 60, "25-04"),), ())
        written = purpose.gauge(50, 100, (), (BookRate(1, 50, 50, "a card"),))
        assert own is not None and written is not None
        assert own.stick.stick > written.stick.stick and [c.code for c in own.stick.cautions] == ["one_batch"]
        assert purpose.gauge(5, 10, (KnownRate(1, 0, 9),), ()) is None

    def test_ceiling_and_floor(self) -> None:
        assert "ask for speed" in purpose.ceiling_words([0.96, 0.99])
        assert "roots some first" in purpose.ceiling_words([0.01, 0.05])
        assert purpose.ceiling_words([0.5, 0.99]) == "" and purpose.ceiling_words([]) == ""

    def test_what_is_typed_is_read_or_refused_by_line(self) -> None:
        assert read_known("31/60 trial 25-04\n\n4/9") == (
            KnownRate(1, 31, 60, "trial 25-04"),
            KnownRate(2, 4, 9),
        )
        assert read_book("60-70 % an old card\n55 Tarn notes") == (
            BookRate(1, 60, 70, "an old card"), BookRate(2, 55, 55, "Tarn notes"),
        )  # fmt: skip
        assert read_known("31 of 60 in sand\ntrial 25: 4 out of 9") == (
            KnownRate(1, 31, 60, "in sand"),
            KnownRate(2, 4, 9, "trial 25"),
        )
        assert read_book("90 to 100 % an old card\n80–90 %, handbook p. 12\nan old card: 55 %\n40 2019 notes") == (
            BookRate(1, 90, 100, "an old card"), BookRate(2, 80, 90, "handbook p. 12"), BookRate(3, 55, 55, "an old card"), BookRate(4, 40, 40, "2019 notes"),
        )  # fmt: skip
        for wrong in ("31", "61/60 x", "a/b", "3/0", "18/40 sand, 12/30 grit"):
            with pytest.raises(InvalidInput, match="rooted/stuck"):
                read_known(wrong)
        for wrong in ("60-70", "70-60 card", "about card", "120 card", "90 to 100 %"):
            with pytest.raises(InvalidInput, match="who wrote it"):
                read_book(wrong)
        with pytest.raises(InvalidInput, match="24 lines"):
            read_known("1/2 x\n" * 25)


class TestDoubts:
    def codes(self, kind: AspectKind, values: list[str], look: bool = False, waves: int = 0) -> list[str]:
        planned = [PlannedWave(i + 1, None, f"season-{i % 2 + 1}") for i in range(waves)]
        return [c.code for c in doubts_about([(kind, kind.value, values)], look, planned)]

    def test_each_is_raised_and_not(self) -> None:
        assert self.codes(AspectKind.SEASON, ["spring", "autumn"], waves=2) == ["season_one_wave"]
        assert self.codes(AspectKind.SEASON, ["spring", "autumn"], waves=4) == ["property_not_assigned"]
        assert self.codes(AspectKind.CUTTING_TYPE, ["tip", "base"]) == ["property_not_assigned"]
        assert (
            self.codes(HORMONE, ["IBA", "NAA"]) == ["no_blank"] and self.codes(HORMONE, ["IBA", "carrier alone"]) == []
        )
        assert self.codes(MEDIUM, ["sand", "bark"]) == [] and self.codes(MEDIUM, ["sand", "bark"], look=True) == [
            "look_only"
        ]

    def test_what_is_seen_on_the_piece_is_never_blind(self) -> None:
        asked = [(AspectKind.CUTTING_TYPE, "wood", ["soft", "hard"]), (MEDIUM, "medium", ["sand", "bark"])]
        blind = {c.code: c.text for c in doubts_about(asked, False, (), True)}
        assert blind["seen_on_the_piece"].startswith("Wood is seen on the piece itself")
        assert "seen_on_the_piece" not in {c.code for c in doubts_about(asked, False, (), False)}
        assert "seen_on_the_piece" not in {c.code for c in doubts_about(asked[1:], False, (), True)}


class TestMixedUp:
    """What is asked and travels with something else is a doubt in whatever kind of trial."""

    def told(self, *lines: Line) -> list[str]:
        made = treatments_of(Table(2, lines), Treatments())
        return [doubt.text for doubt in mixed_doubts(made)]

    def test_it_is_told_once_with_what_it_is_mixed_up_with(self) -> None:
        asked = Line(MEDIUM, "medium", True, ("water", "bark"))
        jar = Line(AspectKind.OTHER, "shape", False, ("jar", "cup"))
        lid = Line(AspectKind.COVER, "cover", False, ("lid", "open"))
        assert self.told(asked, jar, lid) == [
            "Medium can't be told from shape or cover: the arms differ in both, so a difference may be that of either."
        ]
        assert self.told(asked, Line(AspectKind.COVER, "cover", False, ("open", "open"))) == []

    def test_an_arm_without_is_looked_for_in_any_spelling(self) -> None:
        assert [c.code for c in blank_doubt("hormone", ["IBA 1000 ppm", "honey"])] == ["no_blank"]
        assert blank_doubt("hormone", ["IBA 1000 ppm", "None"]) == ()


class TestFromACard:
    TABLE = Table(
        2,
        (
            Line(AspectKind.HORMONE, "hormone", True, ("IBA", "none", "")),
            Line(AspectKind.CUTTING_TYPE, "cutting type", False, ("tip", "", "")),
            Line(AspectKind.MEDIUM, "medium", False, ("pumice", "pumice", "")),
        ),
        (("left over", ""),),
    )  # fmt: skip

    def test_its_type_stands_in_every_column_and_its_weeks_become_days(self) -> None:
        found = from_card(self.TABLE, MethodCard("Olea europaea", "semi-hard tip", 0.4, 31, 50, 6, 8))
        assert (found.endpoint_day, found.first_look, found.known, found.book) == (56, 42, "31/50 method card", "")
        lines = {line.kind: line for line in found.table.lines}
        assert lines[AspectKind.CUTTING_TYPE].values == ("semi-hard tip",) * 3 and len(found.table.lines) == 3
        assert next(line.kind for line in found.table.lines) is AspectKind.HORMONE, "what is asked stays first"

    def test_a_book_rate_is_no_own_one_and_what_is_not_said_stays_blank(self) -> None:
        book = from_card(self.TABLE, MethodCard("Olea europaea", "tip", 0.62, weeks_least=7))
        assert (book.endpoint_day, book.first_look, book.known, book.book) == (49, None, "", "62 method card")
        bare = from_card(self.TABLE, MethodCard("Olea europaea", "tip"))
        assert in_words(MethodCard("Olea europaea", "tip")) == "no rate and no weeks yet"
        assert in_words(MethodCard("Olea europaea", "tip"), 1) == "counted here in one way"
        assert in_words(MethodCard("Olea europaea", "tip", 0.62), 1) == "62 % by the book"
        assert (bare.endpoint_day, bare.first_look, bare.known, bare.book) == (None, None, "", "")
        assert read_book(book.book)[0].low == 62

    def test_its_own_first_look_stands_before_the_weeks_and_its_day_of_death_within_the_trial(self) -> None:
        card = MethodCard("Olea europaea", "tip", weeks_least=6, weeks_most=8, first_look=30, dead_from=35)
        found = from_card(self.TABLE, card)
        assert (found.endpoint_day, found.first_look, found.dead_from) == (56, 30, 35)
        late = from_card(self.TABLE, replace(card, first_look=70, dead_from=90))
        assert (late.first_look, late.dead_from) == (None, None), "no look after the end, and nothing dead only then"

    def test_a_type_that_is_asked_is_left_alone(self) -> None:
        asked = replace(self.TABLE, lines=(Line(AspectKind.CUTTING_TYPE, "cutting type", True, ("tip", "heel", "")),))
        assert from_card(asked, MethodCard("Olea europaea", "leaf")).table == asked


def test_a_ready_question_says_what_to_mind_wherever_it_is_asked() -> None:
    tip = AspectKind.CUTTING_TYPE, "Cutting type"
    assert "stick them as pairs" in note_of(*tip, ("lower piece", "tip"))
    assert note_of(*tip, ("tip", "heel")) == ""
    assert "its units" in note_of(AspectKind.BOTTOM_HEAT, "bottom heat", ("25 °C", "none"))
    assert note_of(AspectKind.HORMONE, "hormone", ("IBA 3000 ppm talc", "none")) == ""
