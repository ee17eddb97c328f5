"""Tables, pairs, power, numbers to stick and agreement against the design answers of the independent package."""

from __future__ import annotations

import io
import json
from contextlib import redirect_stdout
from pathlib import Path

import numpy as np
import pytest

from orderly_bench.cli.main import main
from orderly_bench.core.methods.quadratic_form import permutation_test
from orderly_bench.core.methods.smallest_p import smallest_adjusted_pair_p, smallest_overall_p, smallest_pair_p
from tests.core.test_reference import REFERENCE, look_up

ANSWERS = json.loads((REFERENCE / "design_answers.json").read_text())


def rows_of(answer: dict) -> str:
    """The table as tidy rows (rules in tests/reference/README.md)."""
    table, factor = answer["table"], answer["table"]["factor"]
    if answer["kind"] == "table":
        lines = [f"{factor},rooted"]
        lines += [f"{arm},{int(i < k)}" for arm, (k, n) in table["arms"].items() for i in range(n)]
        return "\n".join(lines) + "\n"
    lines, number = [f"cutting,{factor},stem,rooted"], 0
    for count, outcomes in zip(table["counts"], ((1, 1), (1, 0), (0, 1), (0, 0)), strict=True):
        for _ in range(count):
            number += 1
            lines += [
                f"c{number}{i},{level},s{number},{rooted}"
                for i, (level, rooted) in enumerate(zip(table["levels"], outcomes, strict=True))
            ]
    return "\n".join(lines) + "\n"


def printed(words: list[str]) -> dict:
    out = io.StringIO()
    with redirect_stdout(out):
        assert main([*words, "--json"]) == 0
    return json.loads(out.getvalue())


@pytest.mark.parametrize("answer", ANSWERS, ids=lambda a: f"{a['case']} {a['what']}")
def test_agrees_with_the_independent_package(answer: dict, tmp_path: Path) -> None:
    if answer["kind"] in ("table", "paired"):
        file = tmp_path / "table.csv"
        file.write_text(rows_of(answer))
        found = look_up(printed(["analyse", str(file), *answer["args"]]), answer["what"])
    else:
        found = printed([answer["kind"], *answer["args"]])[answer["what"]]
    assert found == pytest.approx(answer["value"], abs=answer["tolerance"] + 1e-12)


@pytest.mark.parametrize(("arms", "per_arm", "blocks"), [(3, 2, 1), (3, 4, 2), (4, 3, 1)])
def test_smallest_overall_p_is_the_least_the_test_can_give(arms: int, per_arm: int, blocks: int) -> None:
    u = per_arm // blocks
    stuck = np.full((blocks, arms), u)
    rng = np.random.default_rng(3)
    reached = [permutation_test(np.tile([u] * g + [0] * (arms - g), (blocks, 1)), stuck, rng).p for g in range(1, arms)]
    assert smallest_overall_p(arms, per_arm, blocks) == pytest.approx(min(reached), abs=1e-9)


def test_four_arms_of_four_can_never_tell_a_pair_apart() -> None:
    assert smallest_adjusted_pair_p(4, 4) == pytest.approx(6 * 2 / 70)


def test_three_against_three_cannot_convince() -> None:
    assert smallest_pair_p(3) == pytest.approx(0.10)


@pytest.mark.parametrize(
    ("words", "message"),
    [
        (["power", "--arms", "0.4,0.7", "--per-arm", "20", "--icc", "0.2"], "give --per-unit"),
        (["power", "--arms", "0.4,0.7", "--per-arm", "21", "--per-unit", "4", "--icc", "0.2"], "multiple of 4"),
        (["power", "--arms", "0.4,x", "--per-arm", "20"], "write numbers"),
        (["power", "--arms", "0.4,1.7", "--per-arm", "20", "--blocks", "2"], "between 0 and 1"),
        (["stick-for", "--want", "0", "--rate", "0.5"], "between 1 and"),
        (["stick-for", "--want", "10", "--from", "12/10"], "fit at most stuck"),
        (["stick-for", "--want", "10", "--from", "many"], "fit/stuck"),
        (["kappa", "--table", "1,2;3"], "as many counts"),
        (["kappa", "--table", "1,2,3;3,4,5"], "must be square"),
        (["kappa", "--table", "1,-2;3,4"], "whole counts"),
    ],
)
def test_bad_words_are_refused_by_name(words: list[str], message: str, capsys: pytest.CaptureFixture[str]) -> None:
    assert main(words) == 2
    captured = capsys.readouterr()
    assert message in captured.err and captured.out == ""
