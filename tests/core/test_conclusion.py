"""A typed conclusion held against the data, sentence by sentence."""

from __future__ import annotations

from dataclasses import replace

import pytest

from orderly_bench.core.conclude.facts import Counted, Facts, Settled, facts_of
from orderly_bench.core.conclude.marks import judge, sentences_of
from orderly_bench.core.conclude.sentences import Mark, mark
from orderly_bench.core.judgement.analysis import analyse
from orderly_bench.core.judgement.settings import Settings
from orderly_bench.core.layouts.arrange import arrange
from orderly_bench.core.observations.table import Row
from orderly_bench.core.telling.headline import read
from orderly_bench.core.vocabulary import Strength
from tests.core.test_verdicts import table

CARRIED, AGAINST, BEYOND, OPEN = Mark.CARRIED, Mark.AGAINST, Mark.BEYOND, Mark.NOT_CHECKED
ASIDE = Mark.NOT_ABOUT


def facts(*arms: tuple[str, int, int], clear: str = "", alike: str = "", compared: bool = True) -> Facts:
    """Arms as (name, did, known); pairs as ``high>low`` that are clear or alike, the rest open."""
    counted = {name: Counted(name, did, known) for name, did, known in arms}
    names, pairs = [name for name, _, _ in arms], []
    settled = {frozenset(p.split(">")): p.split(">") for p in (clear + ", " + alike).split(", ") if p}
    for i, a in enumerate(names):
        for b in names[i + 1 :]:
            high, low = settled.get(frozenset((a, b)), (a, b))
            pairs.append(
                Settled(
                    counted[high],
                    counted[low],
                    f"{high}>{low}" in clear.split(", "),
                    f"{high}>{low}" in alike.split(", "),
                )
            )
    strength = Strength.SHOWN if clear else Strength.SHOWN_ALIKE if alike else Strength.CANNOT_TELL
    return Facts(tuple(counted.values()), tuple(pairs) if compared else (), True, compared, strength)


SHOWN = facts(("pumice", 22, 24), ("bark", 11, 24), clear="pumice>bark")
OPEN_STILL = facts(("pumice", 14, 24), ("bark", 11, 24))
ALIKE = facts(("pumice", 150, 200), ("bark", 149, 200), alike="pumice>bark")
THREE = facts(("IBA", 20, 24), ("NAA", 18, 24), ("water", 4, 24), clear="IBA>water, NAA>water")
LOOK = facts(("pumice", 14, 24), ("bark", 11, 24), compared=False)


@pytest.mark.parametrize(
    ("sentence", "held", "wanted"),
    [
        ("Pumice rooted more than bark.", SHOWN, CARRIED),
        ("Bark rooted less than pumice.", SHOWN, CARRIED),
        ("Bark did better than pumice.", SHOWN, AGAINST),
        ("Bark outperformed pumice by far.", SHOWN, AGAINST),
        ("Pumice is the same as bark.", SHOWN, AGAINST),
        ("It made no difference.", SHOWN, AGAINST),
        ("Bark is as good as pumice.", SHOWN, AGAINST),
        ("Bark is not worse than pumice.", SHOWN, AGAINST),
        ("Pumice rooted twice what bark did.", SHOWN, BEYOND),
        ("Pumice is three times better than bark.", SHOWN, AGAINST),
        ("Pumice doubles rooting.", SHOWN, BEYOND),
        ("Pumice always roots more than bark.", SHOWN, BEYOND),
        ("This proves that pumice is better.", SHOWN, BEYOND),
        ("Pumice rooted more than bark because it drains.", SHOWN, BEYOND),
        ("Heat made the difference.", SHOWN, BEYOND),
        ("Rot killed the rest.", SHOWN, BEYOND),
        ("Round pots did it.", SHOWN, BEYOND),
        ("The misting is why.", OPEN_STILL, BEYOND),
        ("Pumice made the difference.", SHOWN, OPEN),
        ("Medium made all the difference.", replace(SHOWN, factors=("medium",)), OPEN),
        ("Pumice gave 22 of 24.", SHOWN, CARRIED),
        ("Bark gave 20 of 24.", SHOWN, AGAINST),
        ("Pumice gave 92 %.", SHOWN, CARRIED),
        ("100 % will root in pumice.", SHOWN, BEYOND),
        ("Pumice was 46 percent ahead.", SHOWN, CARRIED),
        ("Pumice is best for every tea tree.", SHOWN, BEYOND),
        ("Let us order pumice.", SHOWN, ASIDE),
        ("At least the frost spared us.", SHOWN, ASIDE),
        ("Pumice rooted more than bark.", OPEN_STILL, BEYOND),
        ("Pumice worked.", OPEN_STILL, BEYOND),
        ("They are the same.", OPEN_STILL, BEYOND),
        ("Bark is no better than pumice.", OPEN_STILL, BEYOND),
        ("More are needed to tell.", OPEN_STILL, OPEN),
        ("They are equally good here.", ALIKE, CARRIED),
        ("Pumice is better.", ALIKE, AGAINST),
        ("IBA is best.", THREE, BEYOND),
        ("Water is worst.", THREE, CARRIED),
        ("Water won.", THREE, AGAINST),
        ("IBA beats water.", THREE, CARRIED),
        ("IBA beats NAA.", THREE, BEYOND),
        ("IBA is better.", THREE, BEYOND),
        ("Pumice rooted more than bark.", LOOK, BEYOND),
        ("14 of 24 in pumice.", LOOK, CARRIED),
        ("Anything at all is better.", None, OPEN),
    ],
)
def test_a_sentence_is_marked_by_what_can_be_checked(sentence: str, held: Facts | None, wanted: Mark) -> None:
    found = mark(sentence, held)
    assert found.mark is wanted, found
    assert bool(found.doubts) is (wanted in (AGAINST, BEYOND)), "whoever is doubted is told why"


def test_the_reason_names_the_figure() -> None:
    told = mark("Pumice is three times better than bark.", SHOWN).doubts[0].text
    assert "by the counts pumice has 2 times what bark has" in told
    assert "it came out the other way, pumice above bark" in mark("Bark is better than pumice.", SHOWN).doubts[0].text


def test_a_name_inside_another_is_not_taken_for_it() -> None:
    held = facts(("bark", 20, 24), ("bark fines", 4, 24), clear="bark>bark fines")
    assert mark("Bark fines rooted fewer than bark.", held).mark is CARRIED
    assert mark("Bark fines rooted more than bark.", held).mark is AGAINST


def test_sentences_are_parted_at_their_ends_alone() -> None:
    text = "Tips of L. stoechas rooted 22 of 24. Bark, e.g. fines, did not!\nRepeat at 3.5 cm?"
    assert sentences_of(text) == [
        "Tips of L. stoechas rooted 22 of 24.", "Bark, e.g. fines, did not!", "Repeat at 3.5 cm?",
    ]  # fmt: skip


def test_a_decision_ahead_of_the_evidence_is_doubted() -> None:
    for held, decision, doubted in (
        (OPEN_STILL, "adopt", True), (OPEN_STILL, "repeat", False), (SHOWN, "adopt", False), (None, "drop", True), (LOOK, "adopt", True),
    ):  # fmt: skip
        assert bool(judge("So be it.", decision, held).decision) is doubted, (held, decision)


def test_the_facts_are_those_of_the_analysis() -> None:
    analysis = table({("pumice",): (22, 2, 0), ("bark",): (11, 13, 0)}, margin=0.15)
    found = facts_of(analysis, read(analysis), [])
    assert {(arm.name, arm.did, arm.known) for arm in found.arms} == {("pumice", 22, 24), ("bark", 11, 24)}
    assert found.shares and found.compared and set(found.levels[0]) == {"pumice", "bark"}
    (pair,) = found.pairs
    assert (pair.higher.name, pair.lower.name, pair.clear, pair.alike) == ("pumice", "bark", True, False)
    assert mark("Bark rooted more than pumice.", found).mark is AGAINST
    open_still = table({("pumice",): (14, 10, 0), ("bark",): (11, 13, 0)}, margin=0.15)
    assert not facts_of(open_still, read(open_still), []).pairs[0].clear


def test_the_headline_s_comparison_stands_first_and_none_twice() -> None:
    counts = {("pumice", "IBA"): 22, ("pumice", "none"): 20, ("bark", "IBA"): 9, ("bark", "none"): 8}
    rows = [Row(levels, float(n < rooted)) for levels, rooted in counts.items() for n in range(24)]
    analysis = analyse(arrange(("medium", "hormone"), rows), Settings(margin=0.15))
    reading = read(analysis)
    found = facts_of(analysis, reading, [])
    first = reading.findings[0].comparison
    assert found.pairs[0].names == {first.a.name, first.b.name}
    assert len({pair.names for pair in found.pairs}) == len(found.pairs)
