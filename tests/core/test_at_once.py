"""The least that fixes a small trial before its pieces wilt."""

from __future__ import annotations

import pytest

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.plan.aspects import AspectKind
from orderly_bench.core.question.at_once import read_at_once
from orderly_bench.core.question.too_early import Expected

TYPED = {
    "plant": "Olea europaea",
    "pieces": "11",
    "ways": "sand\npumice",
    "differs": "medium",
    "origin": "storm",
    "source": "by the gate",
}
CARD = [Expected(6, 8, "card"), Expected(4, 10, "card")]


def test_the_endpoint_is_the_last_week_of_the_cards_and_pieces_that_do_not_divide_go_to_the_first() -> None:
    asked = read_at_once(TYPED, CARD)
    assert (asked.endpoint_day, asked.ways, asked.of_arm) == (70, ("sand", "pumice"), [6, 5])
    assert asked.differs is AspectKind.MEDIUM and asked.source == "by the gate, storm"
    assert read_at_once(TYPED | {"endpoint_day": "42"}, CARD).endpoint_day == 42


@pytest.mark.parametrize(
    ("typed", "cards", "told"),
    [
        ({"plant": " "}, CARD, "name of the plant"), ({"ways": ""}, CARD, "one to four"), ({"ways": "a\nb\nc\nd\ne"}, CARD, "one to four"),
        ({"pieces": "1"}, CARD, "one at least for each way"), ({"pieces": "many"}, CARD, "whole number"), ({"pieces": "401"}, CARD, "between 2 and 400"),
        ({}, [], "no method card says"), ({"endpoint_day": "0"}, [], "between 1 and 730"), ({"origin": "theft"}, CARD, "choose one of"),
        ({"differs": "mood"}, CARD, "choose one of"), ({"source": "x" * 200}, CARD, "within 200"), ({"ways": "a" * 81}, CARD, "within 80"),
    ],
)  # fmt: skip
def test_what_can_not_be_is_refused(typed: dict[str, str], cards: list[Expected], told: str) -> None:
    with pytest.raises(InvalidInput, match=told):
        read_at_once(TYPED | typed, cards)


def test_one_way_twice_is_one_way() -> None:
    assert read_at_once(TYPED | {"ways": "sand\nsand\n"}, CARD).ways == ("sand",)
