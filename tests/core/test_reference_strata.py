"""Estimates in blocks, pairs and factorials against answers of an independent program (``tests/reference/strata/answers.R``)."""

from __future__ import annotations

import io
import json
import re
from contextlib import redirect_stdout
from functools import cache
from pathlib import Path

import pytest

from orderly_bench.cli.main import main

FOLDER = Path(__file__).parents[1] / "reference" / "strata"
ANSWERS = json.loads((FOLDER / "answers.json").read_text())


@cache
def analysed(case: str, args: tuple[str, ...]) -> dict:
    out = io.StringIO()
    with redirect_stdout(out):
        assert main(["analyse", str(FOLDER / f"{case}.csv"), *args, "--json"]) == 0
    return json.loads(out.getvalue())


def look_up(found: dict, what: str) -> float:
    kind, name, rest = re.fullmatch(r"(comparisons|terms)\[([^\]]+)\]\.(.+)", what).groups()
    wanted = {"term": name} if kind == "terms" else dict(zip(("a", "b"), name.split(" - "), strict=True))
    value = next(entry for entry in found[kind] if all(entry[k] == v for k, v in wanted.items()))
    for key in rest.split("."):
        value = value[int(key)] if key.isdigit() else value[key]
    return value


def test_enough_answers_are_compared() -> None:
    assert len(ANSWERS) == 36 and len({a["case"] for a in ANSWERS}) == 10


@pytest.mark.parametrize("answer", ANSWERS, ids=lambda a: f"{a['case']} {a['what']}")
def test_agrees_with_the_independent_program(answer: dict) -> None:
    found = look_up(analysed(answer["case"], tuple(answer["args"])), answer["what"])
    assert found == pytest.approx(answer["value"], abs=answer["tolerance"])
