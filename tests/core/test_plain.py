"""The core as a library: lists in, frozen results out, the same numbers as from a file."""

from __future__ import annotations

import dataclasses
import doctest
import re
from importlib import import_module
from pathlib import Path

import numpy as np
import pytest

from orderly_bench.core import plain
from orderly_bench.core.errors import InvalidInput, UnusableData
from orderly_bench.core.judgement.analysis import analyse
from orderly_bench.core.judgement.settings import Settings
from orderly_bench.core.telling.working import show_working
from orderly_bench.formats.row_a_cutting import Columns
from orderly_bench.formats.tidy_csv import read_observations

MEDIUM = ["bark"] * 6 + ["sand"] * 6
TRAY = ["1", "1", "1", "2", "2", "2"] * 2
ROOTED = [1, 1, 0, 1, 1, 1, 0, 0, 1, 0, None, 0]


PACKAGE = Path(plain.__file__).parents[1]
#: Modules with an example in what they say of themselves.
WITH_EXAMPLES = sorted(
    ".".join(file.relative_to(PACKAGE.parent).with_suffix("").parts)
    for file in PACKAGE.rglob("*.py")
    if "    >>> " in file.read_text()
)


@pytest.mark.parametrize("module", WITH_EXAMPLES)
def test_the_examples_in_a_module_hold(module: str) -> None:
    found = doctest.testmod(import_module(module))
    assert found.attempted > 0 and found.failed == 0


def test_every_name_that_the_page_of_methods_gives_is_there() -> None:
    page = Path(__file__).parents[2] / "docs" / "methods" / "python.md"
    names = re.findall(
        r"`((?:\w+\.)+\w+)(?:\([^`]*\))?`", page.read_text().split("| question |")[1].split("**Checked**")[0]
    )
    assert len(names) > 12
    for module, name in (named.rsplit(".", 1) for named in names):
        assert callable(getattr(import_module(f"orderly_bench.core.{module}"), name)), name


def test_lists_and_a_file_give_the_same_numbers() -> None:
    lines = zip(MEDIUM, TRAY, ROOTED, strict=True)
    text = "medium,tray,rooted\n" + "".join(f"{m},{t},{'' if r is None else r}\n" for m, t, r in lines)
    read = analyse(
        read_observations(text.encode(), ["medium"], columns=Columns(block="tray")), settings=Settings(margin=0.2)
    )
    listed = plain.analyse_table({"medium": MEDIUM}, ROOTED, groups={"block": TRAY}, settings=Settings(margin=0.2))
    assert listed.test == read.test and listed.comparisons[0].difference == read.comparisons[0].difference
    assert listed.arms == read.arms


def test_results_are_frozen_and_keep_their_inputs() -> None:
    found = plain.analyse_table({"medium": MEDIUM}, ROOTED)
    with pytest.raises(dataclasses.FrozenInstanceError):
        found.design = "other"  # type: ignore[misc]
    assert [row.response for row in found.observations.rows] == ROOTED


def test_the_control_makes_the_family() -> None:
    found = plain.analyse_table({"m": ["a", "b", "c"] * 4}, [0, 1, 1] * 4, control=["a"])
    assert [(c.a.name, c.b.name) for c in found.comparisons] == [("b", "a"), ("c", "a")]


@pytest.mark.parametrize(
    ("arguments", "message"),
    [
        ({"groups": {"shelf": TRAY}}, "must be among unit, block"),
        ({"groups": {"block": TRAY[:5]}}, "one entry for each of the 12 values"),
        ({"response": "height"}, "must be one of rooted"),
        ({"response": "days_to_root"}, "must be one of rooted"),
        ({"settings": {"margin": 15}}, "above 0 and below 1"),
        ({"control": ["peat"]}, "must be one of the arms"),
    ],
)
def test_arguments_that_break_a_rule_are_named(arguments: dict, message: str) -> None:
    with pytest.raises((InvalidInput, UnusableData), match=message):
        settings = Settings(**arguments.pop("settings", {}))
        plain.analyse_table({"medium": MEDIUM}, ROOTED, settings=settings, **arguments)


def test_the_sums_before_a_trial() -> None:
    exact = plain.power([0.45, 0.7], 20)
    assert exact.monte_carlo_error is None and exact.power == pytest.approx(0.2519, abs=0.01)
    assert plain.power([0.4, 0.8], 16, per_unit=4, icc=0.2, trials=200).monte_carlo_error is not None
    known, from_batch = plain.how_many_to_stick(100, rate=0.62), plain.how_many_to_stick(100, batches=[(31, 50)])
    assert known.stick < from_batch.stick and from_batch.cautions
    with pytest.raises(InvalidInput, match="one of the two"):
        plain.how_many_to_stick(100)
    assert plain.cohens_kappa([[20, 5], [10, 15]]) == pytest.approx(0.4)


def test_the_working_adds_up_to_what_is_shown() -> None:
    rng = np.random.default_rng(5)
    values = (rng.random(48) < 0.5).astype(float).tolist()
    found = plain.analyse_table(
        {"medium": ["a", "b"] * 24, "heat": ["on", "on", "off", "off"] * 12},
        values,
        settings=Settings(margin=0.15, draws=2_000),
    )
    shown = {w.title: w.lines for w in show_working(found)}
    assert next(iter(shown)) == "all arms alike?" and len(shown) == 1 + 4 + 2 + 6
    arm = found.arms[0]
    assert f"{arm.rooted} / {arm.stuck} = {arm.rate:.4g}" in shown[arm.name]
    hits = round((found.test.p or 0) * 2_001) - 1
    if not found.test.exact:
        assert any(f"(1 + {hits}) / (1 + 2000)" in line for line in shown["all arms alike?"])
    pair = found.comparisons[0]
    lines = shown[f"{pair.a.name} \u2212 {pair.b.name}"]
    assert any(line.startswith("Holm over 6") for line in lines) and any(pair.verdict.value in line for line in lines)
    level = found.terms[0].contrasts[0]
    assert any(line.startswith("Holm over 2") for line in shown[f"{level.a.name} \u2212 {level.b.name}"])


@pytest.mark.parametrize("joint", [False, True], ids=["holm", "joint"])
def test_the_working_names_what_adjusts_p(joint: bool) -> None:
    arms = ["none", "weak", "strong"] * 10
    values = [float(arm == "strong" or (i % 4 == 0 and arm == "weak")) for i, arm in enumerate(arms)]
    planned = Settings(control=("none",), against_control=True, max_t=joint, draws=400)
    lines = [
        line
        for w in show_working(plain.analyse_table({"hormone": arms}, values, control=["none"], settings=planned))
        for line in w.lines
        if " over 2: " in line
    ]
    assert len(lines) == 2 and all(line.startswith("max-T" if joint else "Holm") for line in lines)


@pytest.mark.parametrize(
    ("settings", "unknown", "reason"),
    [
        (Settings(look=True), 0, "a look compares nothing"),
        (Settings(), 6, "too much is unknown to test it"),
        (Settings(), 0, ""),
    ],
)
def test_the_working_says_why_there_is_no_p(settings: Settings, unknown: int, reason: str) -> None:
    values = [None if i < unknown else float(i % 3 == 0) for i in range(12)]
    told = [
        line
        for w in show_working(
            plain.analyse_table({"medium": ["a", "b"] * 6}, values, response="longest_root_mm", settings=settings)
        )
        for line in w.lines
        if line.startswith("no p")
    ]
    assert set(told) == ({f"no p: {reason}"} if reason else set())
