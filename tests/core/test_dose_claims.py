"""What a conclusion says of the strengths, held against their trend and the bend of their curve."""

from __future__ import annotations

from functools import cache

import numpy as np
import pytest

from orderly_bench.core.conclude.facts import Facts, facts_of
from orderly_bench.core.conclude.mark import Mark
from orderly_bench.core.conclude.sentences import mark
from orderly_bench.core.judgement.analysis import analyse
from orderly_bench.core.judgement.settings import Settings
from orderly_bench.core.layouts.arrange import arrange
from orderly_bench.core.observations.table import Row
from orderly_bench.core.responses.kind import Response
from orderly_bench.core.telling.headline import read

STRENGTHS = ("none", "IBA 1000 ppm", "IBA 2000 ppm", "IBA 4000 ppm", "IBA 8000 ppm")
MEANS = {"rises": (1, 2.5, 4, 6, 12), "falls": (12, 6, 4, 2.5, 1), "bends": (2, 6, 9, 8, 2), "flat": (4, 4, 4, 4, 4)}


@cache
def facts(kind: str) -> Facts:
    rng = np.random.default_rng(3)
    rows = [
        Row((name,), float(value))
        for name, mean in zip(STRENGTHS, MEANS[kind], strict=True)
        for value in rng.poisson(mean, 30)
    ]
    found = analyse(arrange(("hormone",), rows), Settings(response=Response.ROOT_COUNT, dose="hormone", draws=400))
    return facts_of(found, read(found), [])


@pytest.mark.parametrize(
    ("kind", "sentence", "right"),
    [
        ("falls", "Root number fell with the strength of IBA.", Mark.CARRIED),
        ("falls", "Root number rose with increasing strength.", Mark.AGAINST),
        ("falls", "The higher the dose, the fewer roots.", Mark.CARRIED),
        ("bends", "Root number rose with the strength.", Mark.BEYOND),
        ("bends", "Root number fell with the concentration.", Mark.BEYOND),
        ("flat", "The stronger the dose the more roots.", Mark.BEYOND),
        ("rises", "The number of roots increased with the dose.", Mark.CARRIED),
        ("rises", "Root number decreased with the dose.", Mark.AGAINST),
        ("falls", "Survival fell with the strength.", Mark.NOT_CHECKED),
        ("bends", "Root number rose with the strength up to 2000 ppm and fell beyond.", Mark.NOT_CHECKED),
    ],
)
def test_what_is_said_of_the_strengths(kind: str, sentence: str, right: Mark) -> None:
    assert mark(sentence, facts(kind)).mark is right


def test_the_reason_says_how_it_came_out() -> None:
    (doubt,) = mark("Root number rose with the strength.", facts("bends")).doubts
    assert "does not simply rise or fall with the strength of hormone" in doubt.text
