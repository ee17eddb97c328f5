"""Random tables of every layout and response: an answer without NaN whose intervals make sense, or a message; never a traceback."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import pytest

from orderly_bench.cli.main import main

MARGINS = {
    "root_count": "1.5",
    "longest_root_mm": "5",
    "quality": "0.1",
    "foliage": "0.1",
    "root_class": "0.1",
    "days_to_root": "3",
}
RESPONSES = (
    "rooted", "alive", "fit_to_pot_on", "root_count", "longest_root_mm", "quality", "foliage", "root_class", "days_to_root",
)  # fmt: skip


def outcome(response: str, flat: bool, rng: np.random.Generator) -> list[str]:
    """Cells of one cutting: some blank, in flat tables nothing ever roots."""
    if response == "days_to_root":
        what, day = str(rng.choice(["rooted", "dead", "censored", ""])), int(rng.choice([14, 21, 28]))
        return ["", "", ""] if what == "" else [str(day - 7), str(day) if what in ("rooted", "dead") else "", what]
    if rng.random() < 0.08:
        return [""]
    if flat:
        return ["none" if response == "root_class" else "0"]
    cells = {
        "root_count": str(rng.choice([0, 0, 1, 4, 30])),
        "longest_root_mm": f"{rng.choice([0.0, 40 * rng.random()]):.1f}",
        "quality": str(rng.integers(6)),
        "foliage": str(rng.integers(6)),
        "root_class": str(rng.choice(["none", "1-4", "5-9", "10+"])),
    }
    return [cells.get(response, str(rng.integers(2)))]


def groups(layout: str, rng: np.random.Generator) -> tuple[list[str], list[str], list[list[str]]]:
    """Factors, flags, and the group cells of every cutting under the header ``columns``."""
    size = lambda most: int(rng.integers(1, most + 1))  # noqa: E731 - a draw with a short name
    if layout == "pairs":
        return ["medium"], ["--pair", "stem"], [[f"m{a}", f"s{s}"] for s in range(size(10)) for a in range(2)]
    if layout == "square":
        n, per = 1 + size(5), size(2)
        flags = ["--row", "r", "--column", "c", *(["--unit", "pot"] if per > 1 else [])]
        cells = [
            [f"m{(r + c) % n}", f"{r}", f"{c}", f"p{r}-{c}"] for r in range(n) for c in range(n) for _ in range(per)
        ]
        return ["medium"], flags, cells
    if layout in ("whole plots", "waves"):
        flag = "--whole-plot" if layout == "whole plots" else "--wave"
        pots = rng.random() < 0.5
        cells = [
            [f"h{h}", f"m{m}", f"w{h}{w}", f"p{h}{w}{m}{u}"]
            for h in range(2)
            for w in range(size(4))
            for m in range(size(3))
            for u in range(size(2))
            for _ in range(size(3))
        ]
        return ["heat", "medium"], [flag, "plot", *(["--unit", "pot"] if pots else [])], cells
    if layout == "three factors":
        cells = [
            [f"a{x}", f"b{y}", f"c{z}"] for x in range(2) for y in range(2) for z in range(2) for _ in range(size(4))
        ]
        return ["a", "b", "c"], [], cells
    arms, blocks = 1 + size(3), size(4)
    lacking = 0.3 if layout == "incomplete" else 0.0
    cells = [
        [f"m{a}", f"b{b}", f"p{b}-{a}-{u}"]
        for b in range(blocks)
        for a in range(arms)
        if rng.random() >= lacking
        for u in range(size(3))
        for _ in range(size(3) if layout == "pots" else 1)
    ]
    return ["medium"], ["--block", "block", *(["--unit", "pot"] if layout == "pots" else [])], cells


COLUMNS = {
    "pairs": ["medium", "stem"], "square": ["medium", "r", "c", "pot"], "whole plots": ["heat", "medium", "plot", "pot"],
    "waves": ["heat", "medium", "plot", "pot"], "three factors": ["a", "b", "c"], "blocks": ["medium", "block", "pot"],
    "incomplete": ["medium", "block", "pot"], "pots": ["medium", "block", "pot"],
}  # fmt: skip


@pytest.mark.parametrize("layout", COLUMNS)
@pytest.mark.parametrize("response", RESPONSES)
def test_any_table_has_an_answer_or_a_message(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], layout: str, response: str
) -> None:
    rng = np.random.default_rng([len(layout), len(response), ord(layout[-1]), ord(response[0])])
    answered = 0
    for turn in range(6):
        factors, flags, cells = groups(layout, rng)
        header = ["last_without_day", "first_with_day", "outcome"] if response == "days_to_root" else [response]
        lines = [[*COLUMNS[layout], *header], *([*c, *outcome(response, turn == 0, rng)] for c in cells)]
        file = tmp_path / f"{turn}.csv"
        file.write_text("\n".join(",".join(line) for line in lines) + "\n")
        argv = [
            "analyse",
            str(file),
            "--response",
            response,
            "--factors",
            ",".join(factors),
            "--draws",
            "200",
            "--explain",
        ]
        status = main([*argv, "--margin", MARGINS.get(response, "0.15"), "--json", *flags])
        captured = capsys.readouterr()
        if status:
            assert status == 2 and captured.out == "" and file.name in captured.err
            continue
        answered += 1
        found = json.loads(captured.out, parse_constant=lambda name: pytest.fail(f"{name} in the answer"))
        for c in found["comparisons"]:
            assert c["p"] is None or 0 < c["p"] <= 1 + 1e-9
            if c["ci_low"] is None:
                continue
            assert c["ci_low"] <= c["estimate"] + 1e-9 and c["estimate"] <= c["ci_high"] + 1e-9
            if response in ("rooted", "alive", "fit_to_pot_on"):
                assert -1 <= c["ci_low"] < c["ci_high"] <= 1
        if turn % 3:
            continue  # what is said of the same numbers is looked at in two of six
        assert main([*argv, *flags]) == 0 and "nan" not in capsys.readouterr().out.lower().replace("nant", "")
    assert answered > 0
