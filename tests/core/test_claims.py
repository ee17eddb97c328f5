"""Sentences of conclusions with their right marks, over ten trials: tests, a look, a rate, every verdict.

The right marks were written before the program was asked. Where it parts from one of them it must never call carried what is not,
and rarely against what is not.
"""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import pytest

from orderly_bench.core.conclude.facts import Cost, Facts, facts_of, facts_of_rate
from orderly_bench.core.conclude.sentences import Mark, mark
from orderly_bench.core.judgement.analysis import analyse
from orderly_bench.core.judgement.settings import Settings
from orderly_bench.core.layouts.arrange import arrange
from orderly_bench.core.observations.table import Row
from orderly_bench.core.responses.kind import Response
from orderly_bench.core.telling.headline import read
from orderly_bench.core.telling.one_rate import one_rate

SIGNS = {"+": Mark.CARRIED, "-": Mark.AGAINST, ">": Mark.BEYOND, "o": Mark.NOT_ABOUT, "?": Mark.NOT_CHECKED}
FILE = Path(__file__).parent / "claims" / "sentences.txt"
#: Of the sentences whose right mark is not *against*, this share at most may be called so.
FALSELY_AGAINST = 0.05
#: The share of right marks is held where it stands.
RIGHT = 0.96


def said() -> list[tuple[str, frozenset[Mark], str]]:
    """Every sentence with its trial and its right marks."""
    found, trial = [], ""
    for line in FILE.read_text().splitlines():
        if line.startswith("["):
            trial = line.strip("[]")
        elif line and not line.startswith("#"):
            signs, sentence = line.split(" ", 1)
            found.append((trial, frozenset(SIGNS[sign] for sign in signs), sentence))
    return found


def counted(factors: tuple[str, ...], arms: dict[tuple[str, ...], tuple[int, int]], **settings: object) -> Facts:
    """Facts of arms by (k, n)."""
    rows = [Row(levels, float(i < k)) for levels, (k, n) in arms.items() for i in range(n)]
    analysis = analyse(arrange(factors, rows), Settings(margin=0.15, draws=2_000, **settings))
    letters = dict(zip("ABCDEFGH", (" + ".join(levels) for levels in arms), strict=False))
    assert {arm.name for arm in analysis.arms} == set(letters.values())
    return facts_of(analysis, read(analysis), [], letters=letters)


def rate(name: str, k: int, n: int) -> Facts:
    return facts_of_rate(
        one_rate(arrange(("cutting type",), [Row((name,), float(i < k)) for i in range(n)], 1), Settings())
    )


def lengths() -> Facts:
    rows = [Row((f"shade {shade} %",), float(20 + i % 9 + 14 * (shade == 70))) for shade in (40, 70) for i in range(24)]
    analysis = analyse(arrange(("shade",), rows), Settings(response=Response.LONGEST, margin=5.0, draws=2_000))
    return facts_of(analysis, read(analysis), [])


@pytest.fixture(scope="module")
def trials() -> dict[str, Facts]:
    return {
        "clear": counted(("medium",), {("pumice",): (40, 48), ("bark",): (19, 48)}),
        "open": counted(("medium",), {("sand",): (14, 24), ("grit",): (11, 24)}),
        "alike": counted(("cover",), {("mist",): (150, 200), ("fog",): (149, 200)}),
        "three": counted(("hormone",), {("IBA",): (20, 24), ("NAA",): (18, 24), ("water",): (4, 24)}),
        "factorial": counted(
            ("medium", "hormone"),
            {("pumice", "IBA 3000 ppm"): (22, 24), ("pumice", "none"): (17, 24), ("bark fines", "IBA 3000 ppm"): (14, 24), ("bark fines", "none"): (5, 24)},
        ),
        "wood": counted(("wood",), {("softwood",): (33, 40), ("semi-ripe",): (24, 40), ("hardwood",): (9, 40)}),
        "seasons": counted(
            ("medium", "season"),
            {("sand", "spring"): (30, 40), ("sand", "summer"): (12, 40), ("pumice", "spring"): (36, 40), ("pumice", "summer"): (25, 40)},
        ),
        "look": counted(("vessel",), {("jar",): (5, 6), ("cup",): (2, 6)}, look=True),
        "rate": rate("heel cuttings", 11, 40),
        "none": counted(("wood",), {("old wood",): (0, 30), ("new wood",): (12, 30)}),
        "length": lengths(),
        "sides": counted(("wounding",), {("one side, 2 cm",): (34, 40), ("none",): (15, 40)}),
        "doses": counted(("hormone",), {("IBA 1000 ppm",): (14, 24), ("IBA 3000 ppm",): (20, 24), ("none",): (5, 24)}),
    }  # fmt: skip


def test_the_trials_settle_what_the_sentences_suppose(trials: dict[str, Facts]) -> None:
    assert trials["clear"].pairs[0].clear and trials["alike"].pairs[0].alike and trials["length"].pairs[0].clear
    assert not trials["open"].pairs[0].clear and not trials["open"].pairs[0].alike and not trials["look"].compared
    assert [pair.clear for pair in trials["three"].pairs].count(True) == 2 and trials["none"].pairs[0].clear


def test_no_sentence_is_falsely_carried_few_are_falsely_against_and_most_are_right(trials: dict[str, Facts]) -> None:
    sentences = said()
    assert len(sentences) >= 300 and {name for name, _, _ in sentences} == set(trials)
    found = [(name, right, mark(sentence, trials[name]).mark, sentence) for name, right, sentence in sentences]
    wrong = [one for one in found if one[2] not in one[1]]
    carried = [one for one in wrong if one[2] is Mark.CARRIED]
    assert carried == []
    innocent = [one for one in found if Mark.AGAINST not in one[1]]
    accused = [one for one in innocent if one[2] is Mark.AGAINST]
    assert len(accused) <= FALSELY_AGAINST * len(innocent), accused
    assert len(wrong) <= (1 - RIGHT) * len(found), "\n".join(f"[{n}] {s} -> {m.value}" for n, _, m, s in wrong)


def test_a_sentence_that_is_doubted_says_why(trials: dict[str, Facts]) -> None:
    for name, _, sentence in said():
        found = mark(sentence, trials[name])
        assert bool(found.doubts) is (found.mark in (Mark.AGAINST, Mark.BEYOND)), found


@pytest.mark.parametrize(
    ("sentence", "right"),
    [
        ("Pumice rooted more than bark in 24 days.", Mark.CARRIED), ("Pumice rooted more than bark by day 24.", Mark.CARRIED),
        ("Pumice rooted more than bark after three weeks.", Mark.AGAINST), ("Pumice rooted more than bark after 42 days.", Mark.AGAINST),
        ("Pumice rooted more than bark after about three weeks.", Mark.CARRIED), ("Pumice rooted more than bark within two months.", Mark.NOT_CHECKED),
        ("Three weeks of rain followed.", Mark.NOT_ABOUT),
    ],
)  # fmt: skip
def test_days_are_held_against_the_days_of_looking(trials: dict[str, Facts], sentence: str, right: Mark) -> None:
    assert mark(sentence, replace(trials["clear"], days=(24,))).mark is right
    assert mark(sentence, trials["clear"]).mark in (Mark.NOT_CHECKED, Mark.NOT_ABOUT), (
        "days that nobody knows are not checked"
    )


@pytest.mark.parametrize(
    ("sentence", "right"),
    [
        ("Pumice is cheaper than bark.", Mark.CARRIED), ("Bark is cheaper than pumice.", Mark.AGAINST), ("A costs less per plant than B.", Mark.CARRIED),
        ("Bark was the more expensive, dearer than pumice.", Mark.CARRIED), ("Bark is dearer than pumice.", Mark.CARRIED),
        ("A plant of pumice costs 40 % less than one of bark.", Mark.NOT_CHECKED), ("Pumice costs a third less than bark.", Mark.AGAINST),
        ("Pumice costs half as much as bark.", Mark.AGAINST), ("Bark costs twice as much as pumice.", Mark.AGAINST),
        ("A plant costs 1.20 EUR in A.", Mark.CARRIED), ("A plant costs 1.50 EUR in A.", Mark.AGAINST), ("Pumice is not cheaper than bark.", Mark.BEYOND),
        ("Bark costs 1.7 times as much per plant as pumice.", Mark.NOT_CHECKED), ("A and B cost the same.", Mark.BEYOND),
        ("In pumice 40 of 48 rooted, and it is cheaper than bark.", Mark.BEYOND), ("A cutting costs 0.50 EUR in A.", Mark.NOT_CHECKED),
    ],
)  # fmt: skip
def test_money_is_held_against_the_costs_that_were_kept(trials: dict[str, Facts], sentence: str, right: Mark) -> None:
    costs = (Cost("pumice", 1.2, 1.1, 1.4), Cost("bark", 2.0, 1.7, 2.6))
    assert mark(sentence, replace(trials["clear"], costs=costs)).mark is right
    assert mark(sentence, trials["clear"]).mark in (Mark.BEYOND, Mark.NOT_CHECKED), "nothing was kept"
    meet = replace(trials["clear"], costs=(costs[0], Cost("bark", 1.3, 1.0, 2.6)))
    assert mark("Pumice is cheaper than bark.", meet).mark is Mark.BEYOND
    alone = replace(trials["clear"], costs=(costs[0], Cost("bark", 2.0, None, None)))
    assert mark("Pumice is cheaper than bark.", alone).mark is Mark.BEYOND
