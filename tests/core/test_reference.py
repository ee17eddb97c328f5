"""The analysis against answers from an independent statistics package (tests/reference/README.md)."""

from __future__ import annotations

import io
import json
import re
from collections.abc import Iterator
from contextlib import redirect_stdout
from functools import cache
from itertools import combinations
from pathlib import Path

import pytest

from orderly_bench.cli.main import main

REFERENCE = Path(__file__).parent.parent / "reference"
NOT_YET = {"--unit", "--pair", "--row", "--wave", "--whole-plot"}
NOT_YET_KEYS = ("bayes", "classical", "models", "transform")


def wanted() -> Iterator[dict]:
    for answer in json.loads((REFERENCE / "answers.json").read_text()):
        args = answer["args"]
        if args[1] == "rooted" and not NOT_YET & set(args) and not answer["what"].startswith(NOT_YET_KEYS):
            yield answer


ANSWERS = list(wanted())
CASES = sorted({answer["case"] for answer in ANSWERS})


@cache
def analysed(case: str, args: tuple[str, ...]) -> dict:
    out = io.StringIO()
    with redirect_stdout(out):
        status = main(["analyse", str(REFERENCE / "cases" / f"{case}.csv"), *args, "--json"])
    assert status == 0
    return json.loads(out.getvalue())


def look_up(result: dict, what: str) -> object:
    """Follow a path such as ``comparisons[A - B].ci_low`` (rules in tests/reference/README.md)."""
    match = re.fullmatch(r"(\w+)\[(.+)\]\.(.+)", what)
    if not match:
        value: object = result
        for key in what.split("."):
            value = value[key]
        return value
    place, name, key = match.groups()
    if place == "comparisons":
        return compared(result, name, key)
    entry = next(e for e in result[place] if e[{"arms": "arm", "terms": "term"}[place]] == name)
    for part in key.split("."):
        entry = entry[part]
    return entry


def compared(result: dict, name: str, key: str) -> object:
    a, b = name.split(" - ")
    for entry in result["comparisons"]:
        if (entry["a"], entry["b"]) == (a, b):
            return entry[key]
    entry = next(e for e in result["comparisons"] if (e["a"], e["b"]) == (b, a))
    swapped = {"ci_low": "ci_high", "ci_high": "ci_low"}.get(key, key)
    value = entry[swapped]
    if value is None or key in ("p", "p_adjusted", "verdict"):
        return value
    return 1 / value if key == "odds_ratio" else -value


def shares(letters: dict[str, str]) -> dict[frozenset[str], bool]:
    return {frozenset(pair): bool(set(letters[pair[0]]) & set(letters[pair[1]])) for pair in combinations(letters, 2)}


@pytest.mark.parametrize("case", CASES)
def test_agrees_with_the_independent_package(case: str) -> None:
    wrong = []
    for answer in (a for a in ANSWERS if a["case"] == case):
        found = look_up(analysed(case, tuple(answer["args"])), answer["what"])
        value = answer["value"]
        if answer["what"] == "letters":
            agrees = shares(found) == shares(value)
        elif isinstance(value, int | float) and not isinstance(value, bool):
            agrees = found is not None and abs(found - value) <= answer["tolerance"] + 1e-12
        else:
            agrees = found == value
        if not agrees:
            wrong.append((answer["what"], found, value, answer["tolerance"]))
    assert not wrong


def test_enough_answers_are_compared() -> None:
    assert len(ANSWERS) > 500
