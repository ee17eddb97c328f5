"""Blocks in which nothing made a root count as nothing in the adjusted means, though they tell of no ratio."""

from __future__ import annotations

from pathlib import Path

import pytest

from tests.cli.test_bad_input import answer

HEAD = "medium,block,root_count\n"
ROOTED = [(2, 7), (1, 4), (3, 3), (4, 9), (0, 5), (2, 6)]


def counted(pairs: list[tuple[int, int]], tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> dict:
    """The comparison of sand and bark, one cutting of each in every block."""
    text = HEAD + "".join(f"sand,{i},{a}\nbark,{i},{b}\n" for i, (a, b) in enumerate(pairs))
    found = answer(tmp_path, capsys, text, "--block", "block", "--response", "root_count")
    return found["comparisons"][0]


def test_blocks_without_a_root_lower_both_means_and_leave_the_ratio(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    some = counted(ROOTED, tmp_path, capsys)
    more = counted([*ROOTED, *[(0, 0)] * 6], tmp_path, capsys)
    assert more["estimate"] == pytest.approx(some["estimate"])
    for side in ("a", "b"):
        assert more["adjusted"][side] == pytest.approx(some["adjusted"][side] / 2)
