"""Data sets of the textbooks read as trials: their p beside the published one, and the sentence that is said of them.

Origin: ``tests/reference/textbook/README.md``. Published p by R 4.2, see there.
"""

from __future__ import annotations

import json
from dataclasses import dataclass, field
from pathlib import Path

import pytest

from orderly_bench.cli.main import main

FOLDER = Path(__file__).parents[1] / "reference" / "textbook"


@dataclass(frozen=True)
class Told:
    """A data set: flags, the sentence, its strength, published p by term (blank is the overall test), codes that must be raised or not."""

    flags: str
    headline: str
    strength: str
    published: dict[str, float] = field(default_factory=dict)
    raised: tuple[str, ...] = ()
    not_raised: tuple[str, ...] = ()


LENGTH = "--response longest_root_mm"
NUMBER = "--response root_count"

TEXTBOOKS = {
    # aov(yield ~ block + N*P*K)
    "npk": Told(
        f"{LENGTH} --factors N,P,K --block block --margin 4", "N1 made longer roots than N0: mean 57.7 (n 12) against mean 52.1 (n 12).",
        "shown", {"N": 0.00437, "P": 0.4749, "K": 0.0288}, ("interaction_in_blocks", "not_joined"), ("aliased_with_interaction", "overall_without_pair"),
    ),
    # Kruskal-Wallis
    "InsectSprays": Told(f"{NUMBER} --factors spray --margin 1.5", "F made more roots than C: mean 16.7 (n 12) against mean 2.08 (n 12).", "shown", {"": 1.5e-10}),
    "PlantGrowth": Told(f"{LENGTH} --factors group --margin 8", "trt2 made longer roots than trt1: mean 55.3 (n 10) against mean 46.6 (n 10).", "shown", {"": 0.0159}),
    # t.test(paired = TRUE); pseudomedian of the differences about 1.4, 1.05 to 2.95 by the normal formula
    "sleep": Told(f"{LENGTH} --factors drug --pair stem --margin 1", "Drug 2 made longer roots than drug 1: mean 7.33 (n 10) against mean 5.75 (n 10).", "shown", {"": 0.00283}),
    "immer": Told(f"{LENGTH} --factors year --pair stem --margin 10", "Cannot tell year 1931 from year 1932: mean 109 (n 30) against mean 93.1 (n 30). Year was not drawn.", "cannot tell", {}, ("season_not_waves",)),
    # aov(log(decrease) ~ rowpos + colpos + treatment)
    "OrchardSprays": Told(f"{NUMBER} --factors treatment --row row --column column --margin 1.5", "H made more roots than A: mean 90.2 (n 8) against mean 4.62 (n 8).", "shown", {"": 2e-16}),
    # anova(lm(breaks ~ wool * tension))
    "warpbreaks": Told(
        f"{NUMBER} --factors wool,tension --margin 1.3", "L made more roots than H: mean 36.4 (n 18) against mean 21.7 (n 18).", "shown",
        {"wool": 0.0582, "tension": 0.00069}, ("varies_between_strata", "interaction"),
    ),
    "ToothGrowth": Told(f"{LENGTH} --factors supp,dose --margin 3", "Dose 2 made longer roots than dose 0.5: mean 26.1 (n 20) against mean 10.6 (n 20).", "shown", {"supp": 0.00023, "dose": 2e-16}),
    "chickwts": Told(f"{LENGTH} --factors feed --margin 30", "Sunflower made longer roots than horsebean: mean 329 (n 12) against mean 160 (n 10).", "shown", {"": 5.9e-10}),
    "morley": Told(f"{LENGTH} --factors run --margin 30", "e1 made longer roots than e4: mean 909 (n 20) against mean 820 (n 20).", "shown", {"": 0.0031}),
    # aov(Y ~ N * V + Error(B / V))
    "oats": Told(
        f"{LENGTH} --factors variety,nitrogen --whole-plot whole --block block --margin 10",
        "Nitrogen 0.6 made longer roots than nitrogen 0.0: mean 123 (n 18) against mean 79.4 (n 18).", "shown", {"variety": 0.272, "nitrogen": 2e-12}, ("cannot_convince", "not_drawn"),
    ),
    "Alfalfa": Told(
        f"{LENGTH} --factors variety,cut --whole-plot whole --block block --margin 2", "Cut None made longer roots than S1: mean 17.8 (n 18) against mean 13.4 (n 18).",
        "shown", {"variety": 0.541, "cut": 2.8e-9},
    ),
    "cabbages": Told(
        f"{LENGTH} --factors cultivar,date --margin 5",
        "c39 made longer roots than c52: mean 29.1 (n 30) against mean 22.8 (n 30). This speaks of these pieces: cultivar is a property of them and was not assigned.",
        "suggested", {"cultivar": 0.00068}, ("season_not_waves", "not_drawn"),
    ),
    # mantelhaen.test
    "UCBAdmissions": Told(
        "--factors gender --block block --margin 0.1",
        "Not settled between Female and Male, which differ from block to block (A +20, B +5, C \u22123, D +2, E \u22124, F +1 points): "
        "557 of 1835 (30.4 %) against 1198 of 2691 (44.5 %).",
        "cannot tell", {"": 0.232}, ("varies_between_strata", "raw_against_adjusted"), ("reverses",),
    ),
    "Titanic": Told(
        "--factors sex --block block --margin 0.1",
        "Female rooted more than Male by 50 points, 71 % against 21 % adjusted for where they stood; as counted 344 of 470 (73.2 %) against 367 of 1731 (21.2 %).",
        "shown", {"": 2e-16},
    ),
    "ergoStool": Told(f"{LENGTH} --factors type --block block --margin 1", "T2 made longer roots than T1: mean 12.4 (n 9) against mean 8.56 (n 9).", "shown", {"": 4e-7}),
    # anova(lm(yield ~ site + variety)); six blocks are too few for any of 45 pairs
    "barley": Told(
        f"{LENGTH} --factors variety --block block --margin 5", "Not settled between ", "cannot tell", {"": 0.0016}, ("cannot_convince", "not_drawn", "overall_without_pair"),
    ),
    "snails": Told("--factors species,exposure --unit pot --margin 0.1", "Exposure 4 rooted more than exposure 1: 168 of 480 (35.0 %) against 0 of 480 (0.0 %).", "shown", {"species": 2e-16}, ("not_drawn",)),
    "bacteria": Told(
        "--factors arm --unit pot --margin 0.15",
        "Not settled between p and a: 87 % against 76 % as means of their units; as counted 84 of 96 (88 %) against 93 of 124 (75 %).", "cannot tell", {"": 0.1173},
    ),
    # anova(glm.nb(Days ~ Sex * Lrn))
    "quine": Told(f"{NUMBER} --factors sex,learner --margin 1.5", "Not settled between M and F: mean 18 (n 66) against mean 15.2 (n 80).", "cannot tell", {"sex": 0.317, "learner": 0.458}),
    "anorexia": Told(f"{LENGTH} --factors treat --margin 5", "FT made longer roots than Cont: mean 90.5 (n 17) against mean 81.1 (n 26).", "shown", {"": 0.00044}),
    "poisons": Told(f"{LENGTH} --factors poison,treat --margin 10", "Poison 1 made longer roots than poison 3: mean 61.8 (n 16) against mean 27.6 (n 16).", "shown", {"poison": 3.3e-7, "treat": 3.8e-6}),
    # anova(lm(mean uptake of a plant ~ Type * Treatment))
    "CO2": Told(f"{LENGTH} --factors type,treatment --unit pot --margin 5", "Quebec made longer roots than Mississippi: mean 33.5 (n 42) against mean 20.9 (n 42).", "shown", {"type": 0.00001, "treatment": 0.00074}),
    "rats": Told("--factors rx --block litter --margin 0.15", "Drug rooted more than rx none: 21 of 50 (42 %) against 19 of 100 (19 %).", "shown", {"": 0.0014}),
}  # fmt: skip


@pytest.mark.parametrize("name", TEXTBOOKS)
def test_a_textbook_read_as_a_trial(name: str, capsys: pytest.CaptureFixture[str]) -> None:
    told = TEXTBOOKS[name]
    assert main(["analyse", str(FOLDER / f"{name}.csv"), *told.flags.split(), "--draws", "5000", "--json"]) == 0
    found = json.loads(capsys.readouterr().out)
    assert found["headline"].startswith(told.headline)
    assert found["strength"] == told.strength
    for term, published in told.published.items():
        p = found["overall"]["p"] if not term else next(t["p"] for t in found["terms"] if t["term"] == term)
        assert (p < 0.05) == (published < 0.05), (term, p)
        assert abs(p - published) < max(0.02, 0.25 * published), (term, p)
    codes = {caution["code"] for caution in found["cautions"]}
    assert codes >= set(told.raised) and not codes & set(told.not_raised)
