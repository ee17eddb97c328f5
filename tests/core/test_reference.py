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
NOT_YET: set[str] = set()
NOT_YET_KEYS = ()


def wanted() -> Iterator[dict]:
    for answer in json.loads((REFERENCE / "answers.json").read_text()):
        args = answer["args"]
        if not NOT_YET & set(args):
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
    pair = re.fullmatch(r"(comparisons|models\.firth|transform\.tukey|bayes)\[(.+)\]\.([\w.]+)", what)
    if pair and pair[1] == "comparisons":
        return compared(result, pair[2], pair[3])
    if pair:
        return between(look_up(result, pair[1]), pair[2], pair[3])
    value: object = result
    for key in re.findall(r"\[[^\]]+\]|[^.\[\]]+", what):
        if not key.startswith("["):
            value = value[key]
        elif isinstance(value, list):
            value = next(e for e in value if key[1:-1] in (e.get("arm"), e.get("term")))
        else:
            value = value[key[1:-1]]
    return value


def between(pairs: dict, name: str, key: str) -> object:
    """A pair's quantity, turned round when only the other order is there."""
    a, b = name.split(" - ")
    if name in pairs:
        return pairs[name][key]
    other = pairs[f"{b} - {a}"]
    swapped = {
        "ci_low": "ci_high",
        "ci_high": "ci_low",
        "p_a_beyond": "p_b_beyond",
        "p_b_beyond": "p_a_beyond",
        "loss_a": "loss_b",
        "loss_b": "loss_a",
    }
    value = other[swapped.get(key, key)]
    if key == "p_better":
        return 1 - value
    return -value if key in ("estimate", "ci_low", "ci_high", "log_odds_ratio") else value


def compared(result: dict, name: str, key: str) -> object:
    a, b = name.split(" - ")
    for entry in result["comparisons"]:
        if (entry["a"], entry["b"]) == (a, b):
            return inside(entry, key)
    entry = next(e for e in result["comparisons"] if (e["a"], e["b"]) == (b, a))
    swapped = {"ci_low": "ci_high", "ci_high": "ci_low", "hr_low": "hr_high", "hr_high": "hr_low"}.get(key, key)
    if key.startswith("adjusted."):
        return inside(entry, {"adjusted.a": "adjusted.b", "adjusted.b": "adjusted.a"}[key])
    value = entry[swapped]
    if value is None or key in ("p", "p_adjusted", "verdict"):
        return value
    if key in ("odds_ratio", "hazard_ratio", "hr_low", "hr_high") or result["response"] == "root_count":
        return 1 / value
    return 1 - value if result["response"] == "quality" else -value


def inside(entry: dict, key: str) -> object:
    for part in key.split("."):
        entry = entry[part]
    return entry


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
    assert len(ANSWERS) == 1281
