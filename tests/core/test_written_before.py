"""What was written before and says the other is shown with its day; what says the same, or speaks of others, is not."""

from __future__ import annotations

from datetime import date

import pytest

from orderly_bench.core.conclude.facts import Counted, Facts, Settled
from orderly_bench.core.conclude.marks import judge
from orderly_bench.core.conclude.written_before import ALIKE, Written, claims, contradicted
from orderly_bench.core.vocabulary import Strength

PUMICE, BARK = Counted("pumice", 30, 40, 0.6, 0.86), Counted("bark", 12, 40, 0.18, 0.45)
FACTS = Facts(
    (PUMICE, BARK),
    (Settled(PUMICE, BARK, True, False),),
    True,
    True,
    Strength.SHOWN,
    ("medium",),
    (("pumice", "bark"),),
)
PAIR = frozenset(("pumice", "bark"))
DAY = date(2026, 5, 3)


@pytest.mark.parametrize(
    ("sentence", "says"),
    [
        ("Pumice rooted more than bark.", "pumice"), ("Bark is better than pumice.", "bark"), ("Fewer rooted in bark than in pumice.", "pumice"),
        ("Pumice and bark are the same.", ALIKE), ("Bark rooted as well as pumice.", ALIKE), ("The mat burnt through.", None),
        ("Pumice is grey.", None), ("La pumice est meilleure.", None),
    ],
)  # fmt: skip
def test_a_sentence_says_which_is_ahead(sentence: str, says: str | None) -> None:
    assert claims(sentence, FACTS) == ({PAIR: says} if says else {})


@pytest.mark.parametrize(
    ("before", "shown"),
    [
        ("Bark looks better than pumice.", True), ("No difference between pumice and bark.", True), ("Pumice is ahead of bark.", False),
        ("The door was left open.", False), ("Wet all week. Bark rooted more than pumice! Misted.", True),
    ],
)  # fmt: skip
def test_what_says_the_other_is_shown_with_its_day_and_words(before: str, shown: bool) -> None:
    found = contradicted("Pumice rooted more than bark.", FACTS, [Written(DAY, "a note", before)])
    assert bool(found) is shown
    if shown:
        assert found[0].text == f"A note of 3 May 2026 says the other: '{before}'."


def test_a_prediction_is_read_by_its_order() -> None:
    written = [Written(DAY, "the prediction", "bark, pumice, best first", ("bark", "pumice"))]
    assert contradicted("Pumice rooted more than bark.", FACTS, written)
    assert not contradicted("Bark rooted more than pumice.", FACTS, written)


def test_the_mark_of_the_data_stays_and_what_was_written_stands_beside_it() -> None:
    (one,) = judge(
        "Pumice rooted more than bark.", "repeat", FACTS, [Written(DAY, "a note", "Bark is better than pumice.")]
    ).sentences
    assert one.mark == "carried by the data" and len(one.before) == 1 and one.doubts == ()
    assert judge("Pumice rooted more than bark.", "repeat", FACTS).sentences[0].before == ()


def test_of_two_factors_what_was_written_is_read_too() -> None:
    """The two names that are asked about stand alone then, without levels."""
    arms = tuple(
        Counted(f"{medium} + {hormone}", 30, 40, 0.6, 0.86)
        for medium in ("pumice", "bark")
        for hormone in ("IBA", "none")
    )
    facts = Facts(
        (*arms, PUMICE, BARK), (Settled(PUMICE, BARK, True, False),), True, True, Strength.SHOWN, ("medium", "hormone"), (("pumice", "bark"), ("IBA", "none")),
        letters=tuple(zip("ABCD", (arm.name for arm in arms), strict=True)),
    )  # fmt: skip
    before = [Written(DAY, "a note", "Bark rooted more than pumice without hormone. B is best.")]
    (doubt,) = contradicted("Pumice rooted more than bark.", facts, before)
    assert "Bark rooted more" in doubt.text
