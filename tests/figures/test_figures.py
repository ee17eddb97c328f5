"""Figures, stakes and glyphs: well formed, told apart, true to their numbers."""

from __future__ import annotations

import re
import xml.etree.ElementTree as ElementTree
from dataclasses import replace
from itertools import combinations

import pytest

from orderly_bench.core.compare.tops import TopsAgainstRoots
from orderly_bench.core.judgement.analysis import analyse
from orderly_bench.core.judgement.settings import Settings
from orderly_bench.core.layouts.arrange import arrange
from orderly_bench.core.observations.table import Row
from orderly_bench.core.vocabulary import FailureSign, Roots, Score, State, Top
from orderly_bench.figures import curves, differences, glyphs, interaction, rates, stakes, strips, tops
from orderly_bench.figures.svg import PAGE, PAPER

FACTORS = ("medium", "hormone")
COUNTS = {("pumice", "IBA"): 9, ("pumice", "none <b>"): 6, ("bark", "IBA"): 4, ("bark", "none <b>"): 0}


@pytest.fixture(scope="module")
def analysis():
    rows = [Row(arm, float(i < k)) for arm, k in COUNTS.items() for i in range(10)]
    return analyse(arrange(FACTORS, rows), Settings(margin=0.15))


def drawn(analysis, palette) -> dict[str, str]:
    letters = dict(zip([a.name for a in analysis.arms], "ABCD", strict=True))
    return {
        "rates": rates.figure([rates.RateLine(letters[a.name], a) for a in analysis.arms], palette),
        "differences": differences.figure(analysis.comparisons, 0.15, palette),
        "curves": curves.figure([("A", {"14": 0.25, "28": 0.5}), ("B", {"14": 0.0, "28": 0.75})], palette),
        "strips": strips.figure([strips.Strip("A", [0, 3, 3, 9], (1, 8)), strips.Strip("B", [])], "roots", palette),
        "interaction": interaction.figure(analysis.arms, FACTORS, palette),
        "tops": tops.figure([("A", TopsAgainstRoots("a", 8, 2, 1, 0))], palette),
    }


@pytest.mark.parametrize("palette", [PAGE, PAPER], ids=["page", "paper"])
def test_every_figure_is_well_formed_and_named(analysis, palette) -> None:
    for name, markup in drawn(analysis, palette).items():
        root = ElementTree.fromstring(markup)
        assert root.get("aria-label"), name
        assert ("var(" in markup.replace("var(--color-stake-edge)", "")) == (palette is PAGE), name


def test_words_of_people_are_escaped(analysis) -> None:
    assert "<b>" not in drawn(analysis, PAGE)["rates"] and "&lt;b&gt;" in drawn(analysis, PAGE)["rates"]


def test_a_rate_stands_where_its_number_says(analysis) -> None:
    circles = re.findall(r'<circle cx="([\d.]+)" cy="[\d.]+" r="7"', drawn(analysis, PAPER)["rates"])
    expected = [rates.WIDE.left + a.rate * (rates.WIDE.right - rates.WIDE.left) for a in analysis.arms]
    assert [float(x) for x in circles] == pytest.approx(expected, abs=0.06)


def test_the_counts_stand_beside_every_rate(analysis) -> None:
    text = " ".join(ElementTree.fromstring(drawn(analysis, PAPER)["rates"]).itertext())
    assert all(f"{k} of 10" in text for k in COUNTS.values())


def test_every_cutting_is_a_dot() -> None:
    assert strips.figure([strips.Strip("A", [0, 0, 0, 1, 2]), strips.Strip("B", [5])], "roots").count('r="3.6"') == 6


def test_a_curve_steps_at_the_check_and_not_before() -> None:
    path = re.search(r'<path d="(M[^"]*V[^"]*)"', curves.figure([("A", {"14": 0.5, "28": 0.5})], PAPER))
    assert path is not None
    moves = re.findall(r"[HV][\d.]+", path[1])
    half_way = curves.LEFT + 0.5 * (curves.RIGHT - curves.LEFT)
    assert moves[0] == f"H{half_way:.1f}" and moves[1] == f"V{(curves.TOP + curves.BOTTOM) / 2:.1f}"


def test_stakes_are_told_apart_without_colour_and_pairs_never_repeat() -> None:
    letters = "ABCDEFGHIJKLMNOPQRSTUVWX"
    six = {(stakes.BODIES[i], stakes.MARKS.get(i, "")) for i in range(6)}
    assert len(six) == 6
    looks = [(stakes.fill_of(letter), i % 6) for i, letter in enumerate(letters)]
    assert len(set(looks)) == len(looks)
    assert all(stakes.inside(a) != stakes.inside(b) for a, b in combinations(letters, 2))


@pytest.mark.parametrize(
    ("score", "top", "below", "dead"),
    [
        (Score(State.ALIVE, Roots.COUNTED, 4, top=Top.FRESH), "fresh", "few", False),
        (Score(State.ALIVE, Roots.COUNTED, 5, top=Top.GROWING), "growing", "many", False),
        (Score(State.ALIVE, Roots.NONE, callus=True, top=Top.FLOWER), "flower", "callus", False),
        (Score(State.ALIVE, Roots.NONE, callus=False, top=Top.WILTING), "wilting", "none", False),
        (Score(State.ALIVE, Roots.NOT_LOOKED), "unseen", "not looked", False),
        (Score(State.DEAD, Roots.NONE, failure=FailureSign.BLACK_BASE), "dried", "rot", True),
        (Score(State.MISSING, Roots.NOT_LOOKED), "missing", "nothing", False),
        (Score(State.POTTED_OUT, Roots.SEEN), "out", "seen", False),
    ],
)
def test_a_score_has_its_glyph(score: Score, top: str, below: str, dead: bool) -> None:
    assert glyphs.look_of(score) == glyphs.Look(top, below, dead)
    ElementTree.fromstring(glyphs.glyph(glyphs.look_of(score), 12))


def test_missing_is_not_drawn_as_a_top_that_is_gone() -> None:
    assert glyphs.TOPS["missing"] != glyphs.TOPS["gone"]


@pytest.mark.parametrize("name", ["rates", "differences"])
def test_the_figures_of_the_verdict_fit_a_narrow_screen(analysis, name: str) -> None:
    letters = dict(zip([a.name for a in analysis.arms], "ABCD", strict=True))
    markup = {
        "rates": rates.figure([rates.RateLine(letters[a.name], a) for a in analysis.arms], PAPER, rates.NARROW),
        "differences": differences.figure(analysis.comparisons, 0.15, PAPER, differences.NARROW),
    }[name]
    root = ElementTree.fromstring(markup)
    width = float(root.get("viewBox").split()[2])
    texts = [t for t in root.iter() if t.tag.endswith("text") and t.get("font-size")]
    # On 330 pixels nothing is smaller than 10 of them.
    assert width <= 400 and min(float(t.get("font-size")) for t in texts) * 330 / width >= 10
    for t in texts:
        length = 0.56 * float(t.get("font-size")) * len("".join(t.itertext()))
        start = float(t.get("x")) - {"end": length, "middle": length / 2}.get(t.get("text-anchor"), 0.0)
        assert start >= -8 and start + length <= width + 8, "".join(t.itertext())


def test_a_count_without_an_interval_is_drawn_and_seen_to_be_bare(analysis) -> None:
    bare = [replace(arm, interval=None) for arm in analysis.arms]
    drawn = rates.figure([rates.RateLine("A", arm) for arm in bare], PAPER, heading="Alive")
    assert drawn.count("<circle") >= len(bare) and drawn.count('fill="none" stroke=') == len(bare)
    assert "Alive by arm" in drawn and "Rooted" not in drawn
    lone = [replace(c, difference=replace(c.difference, interval=None)) for c in analysis.comparisons]
    shown = differences.figure(lone, 0.15, PAPER)
    assert shown.count('fill="none" stroke=') == len(lone) == shown.count("no interval")
