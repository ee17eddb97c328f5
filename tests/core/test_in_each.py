"""*In both media*: what is clear over all levels of a factor need not be so in each of them, and is not let stand as if it were."""

from __future__ import annotations

import pytest

from orderly_bench.core.conclude.facts import Facts
from orderly_bench.core.conclude.sentences import Mark, mark
from tests.core.test_claims import counted

FACTORS = ("medium", "season", "hormone")
OF_EACH = [
    "IBA rooted more than none in both media.", "In both media IBA rooted more than none.", "IBA helped in each medium.", "IBA rooted more than none in both.",
    "IBA rooted more than none, independent of the medium.", "IBA rooted more than none, no matter which medium.", "IBA rooted more than none in either medium: 46 of 60 against 20 of 60.",
]  # fmt: skip


def two_media(in_bark: int) -> Facts:
    """IBA against none, far apart in pumice and as far as is said in bark."""
    return counted(
        ("medium", "hormone"),
        {("pumice", "IBA"): (28, 30), ("pumice", "none"): (6, 30), ("bark", "IBA"): (in_bark, 30), ("bark", "none"): (14, 30)},
    )  # fmt: skip


@pytest.mark.parametrize("sentence", OF_EACH)
def test_what_is_said_of_each_is_held_against_each(sentence: str) -> None:
    one, both = two_media(18), two_media(29)
    found = mark(sentence, one)
    assert found.mark is Mark.BEYOND and "in bark alone it is not settled" in found.doubts[0].text
    assert mark(sentence.split(":")[0].rstrip(".") + ".", both).mark is Mark.CARRIED


@pytest.mark.parametrize(
    "sentence", ["IBA rooted more than none.", "IBA rooted more than none over both media.", "Across both media IBA rooted more than none."]
)  # fmt: skip
def test_what_is_said_over_all_of_them_is_not(sentence: str) -> None:
    assert mark(sentence, two_media(18)).mark is Mark.CARRIED


def test_of_three_factors_every_combination_has_to_be_clear() -> None:
    arms = {
        (m, s, h): (28 if h == "IBA" else 4, 30)
        for m in ("pumice", "bark")
        for s in ("spring", "autumn")
        for h in ("IBA", "none")
    }
    assert mark("IBA rooted more than none in both seasons.", counted(FACTORS, arms)).mark is Mark.CARRIED
    arms["bark", "autumn", "IBA"] = (7, 30)
    found = mark("IBA rooted more than none in both seasons.", counted(FACTORS, arms))
    assert found.mark is Mark.BEYOND and "in autumn alone" in found.doubts[0].text


@pytest.mark.parametrize(
    ("sentence", "right"),
    [
        ("Sand at 1000 rooted 47 %.", Mark.CARRIED), ("Sand at 0 rooted 47 %.", Mark.AGAINST), ("Sand + peat at 1000 rooted 70 %.", Mark.CARRIED),
        ("At 1000 sand rooted 70 %.", Mark.AGAINST), ("Sand at 1000 rooted 14 of 30.", Mark.CARRIED), ("Sand at 0 rooted 14 of 30.", Mark.AGAINST),
    ],
)  # fmt: skip
def test_a_level_inside_the_name_of_another_is_not_taken_for_it(sentence: str, right: Mark) -> None:
    facts = counted(
        ("medium", "iba"), {("sand", "0"): (5, 30), ("sand", "1000"): (14, 30), ("sand + peat", "0"): (6, 30), ("sand + peat", "1000"): (21, 30)}
    )  # fmt: skip
    assert mark(sentence, facts).mark is right
