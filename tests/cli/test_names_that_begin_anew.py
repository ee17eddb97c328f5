"""Pots numbered anew in each arm or block, whole plots named by what was done to them: both columns make the name."""

from __future__ import annotations

from pathlib import Path

import pytest

from orderly_bench.core.vocabulary import KnownBy
from orderly_bench.formats.old_trial_csv import read_old_trial
from tests.cli.test_bad_input import analyse, answer

HEAT, HORMONE, BENCHES = ("18 C", "24 C"), ("none", "IBA 1", "IBA 3"), (1, 2, 3, 4)
ROOTED = [5, 7, 8, 8, 9, 11, 4, 6, 9, 7, 10, 10, 6, 5, 7, 9, 9, 12, 5, 8, 8, 8, 11, 9]
SPLIT = [
    (b, h, k, n)
    for (b, h, k), n in zip([(b, h, k) for b in BENCHES for h in HEAT for k in HORMONE], ROOTED, strict=True)
]


def split(*flags: str) -> list[str]:
    """The flags of a split-plot in benches."""
    return ["--factors", "heat,hormone", "--block", "bench", *flags]


def test_whole_plots_named_by_their_level_are_those_of_their_block(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    head, own = "bench,heat,hormone,plot,stuck,rooted\n", "bench,heat,hormone,stuck,rooted\n"
    named = head + "".join(f"{b},{h},{k},{b}{h},12,{n}\n" for b, h, k, n in SPLIT)
    anew = own + "".join(f"{b},{h},{k},12,{n}\n" for b, h, k, n in SPLIT)
    once = answer(tmp_path, capsys, named, *split("--whole-plot", "plot"))
    both = answer(tmp_path, capsys, anew, *split("--whole-plot", "bench,heat"))
    assert both["design"].startswith("split-plot") and both["n_units"] == once["n_units"]
    assert both["comparisons"] == once["comparisons"]


def test_balanced_arms_of_a_split_plot_are_not_adjusted(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    text = "bench,heat,hormone,stuck,rooted\n" + "".join(f"{b},{h},{k},12,{n}\n" for b, h, k, n in SPLIT)
    _status, out, _err = analyse(tmp_path, capsys, text, *split("--whole-plot", "bench,heat"))
    assert "Adjusted for where they stood" not in out


def test_pots_numbered_anew_in_each_arm(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    rows = [(m, p, c, int((c + p + len(m)) % 3 > 0)) for m in ("sand", "bark") for p in (1, 2, 3) for c in range(4)]
    anew = "medium,Pot,rooted\n" + "".join(f"{m},{p},{r}\n" for m, p, _c, r in rows)
    named = "medium,pot,rooted\n" + "".join(f"{m},{m}{p},{r}\n" for m, p, _c, r in rows)
    status, _out, err = analyse(tmp_path, capsys, anew, "--unit", "Pot")
    assert status == 2 and "unit 1 stands in two arms" in err and "name both columns, comma between" in err
    both = answer(tmp_path, capsys, anew, "--unit", "medium, pot")
    assert both["comparisons"] == answer(tmp_path, capsys, named, "--unit", "pot")["comparisons"]
    old = read_old_trial(anew.encode(), ["medium"], "medium,pot", "", KnownBy.LIFTED)
    assert len({row.unit for row in old}) == 6
