"""A table of plots as theses have it: a share, a mean number and a mean length a plot, heads with units, dashes where nothing rooted."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from orderly_bench.cli.main import main
from orderly_bench.core.errors import UnusableData
from orderly_bench.core.responses.kind import Response
from orderly_bench.core.vocabulary import KnownBy
from orderly_bench.formats.old_trial_csv import read_old_trial
from orderly_bench.formats.row_a_cutting import Columns
from orderly_bench.formats.scores_csv import read_scores
from orderly_bench.formats.tidy_csv import read_observations

HEAD = "Media,IBA (ppm),Rep,No. of cuttings,{share},No. of roots per cutting,{length}"
MEDIA, STRENGTHS = ("Grit", "Bark", "Grit and bark"), (0, 1_000, 2_000, 3_000)


def sheet(share: str = "Rooting (%)", length: str = "Root length (cm)") -> str:
    """Three blocks of twelve plots of ten; what rooted rises with strength, and at 0 in grit nothing did."""
    rows = [HEAD.format(share=share, length=length)]
    for block in (1, 2, 3):
        for m, medium in enumerate(MEDIA):
            for s, strength in enumerate(STRENGTHS):
                did = min(10, (m + 2 * s) if m + s == 0 else m + 2 * s + block % 2)
                rows.append(
                    f"{medium},{strength},{block},10,{10 * did},{'-' if did == 0 else 3},{'–' if did == 0 else 4}"
                )
    return "\n".join([*rows, ""])


def printed(tmp_path: Path, capsys: pytest.CaptureFixture[str], text: str, *words: str) -> tuple[int, str]:
    """How the command ends and what it says."""
    file = tmp_path / "plots.csv"
    file.write_text(text, encoding="utf-8")
    status = main(["analyse", str(file), "--block", "rep", *words])
    both = capsys.readouterr()
    return status, both.out + both.err


def test_a_column_is_found_without_the_unit_behind_its_head(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    status, text = printed(tmp_path, capsys, sheet(), "--factors", "media,iba", "--json")
    found = json.loads(text)
    assert (status, found["n_units"], found["n_blocks"]) == (0, 36, 3)
    assert {arm["levels"]["iba"] for arm in found["arms"]} == {str(strength) for strength in STRENGTHS}
    two = "Media,Heat (low),Heat (high),rooted\ngrit,1,2,1\nbark,1,2,0\n"
    with pytest.raises(UnusableData, match="there is no column 'heat'"):
        read_observations(two.encode(), ["media", "heat"])


@pytest.mark.parametrize("share", ["Survival (%)", "percent alive", "Survived %"])
def test_a_share_that_rooted_is_none_that_lived(tmp_path: Path, capsys: pytest.CaptureFixture[str], share: str) -> None:
    wanted = ("--factors", "media,iba", "--response", "alive")
    status, text = printed(tmp_path, capsys, sheet(), *wanted)
    assert status == 2 and "there is no column 'alive'. The columns are: Media, IBA (ppm), Rep" in text
    status, text = printed(tmp_path, capsys, sheet(share), *wanted)
    assert status == 0 and "Alive: of stuck" in text
    status, text = printed(tmp_path, capsys, sheet(share), "--factors", "media,iba")
    assert status == 2 and "there is no column 'rooted'" in text


@pytest.mark.parametrize(
    ("length", "in_mm"),
    [("Root length (cm)", 40), ("Longest root in cm", 40), ("Root length (mm)", 4), ("Mean longest root (cm)", 40)],
)
def test_a_length_is_brought_to_millimetres_once(length: str, in_mm: int) -> None:
    rows = read_observations(
        sheet(length=length).encode(),
        ["Media", "iba"],
        Response.LONGEST,
        Columns(block="rep", numbers_are="per-rooted"),
    ).rows
    assert {row.response for row in rows} == {0, in_mm}
    assert sum(row.response == 0 for row in rows) == sum(row.rooted == 0 for row in rows) > 30


def test_a_dash_among_numbers_is_no_number_where_it_is_known_what_rooted() -> None:
    with_rooted = b"medium,rooted,roots\na,1,4\na,0,-\nb,1,\xe2\x80\x94\nb,1,7\n"
    read = read_observations(with_rooted, ["medium"], Response.ROOT_COUNT).rows
    assert [row.response for row in read] == [4, 0, None, 7]
    old = read_old_trial(with_rooted, ["medium"], "", "", KnownBy.LIFTED)
    assert [row.score.root_number for row in old] == [4, None, None, 7]
    brought = read_scores(b"cutting,rooted,longest\nAB12,1,12\nAB13,0,-\n", 42, KnownBy.LIFTED)
    assert [row.score.longest_root_mm for row in brought] == [12, None]
    for alone in (b"medium,roots\na,4\na,-\nb,2\n", b"medium,rooted,alive\na,1,1\na,0,-\nb,1,0\n"):
        with pytest.raises(UnusableData, match=r"row 3, column (roots|alive): '-' is not"):
            read_observations(alone, ["medium"], Response.ALIVE if b"alive" in alone else Response.ROOT_COUNT)


def test_what_is_wrong_is_said_of_the_column_as_the_file_heads_it(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    without = "\n".join(line.replace(",10,", ",", 1) for line in sheet().splitlines()).replace("No. of cuttings,", "")
    assert "row 1, column Rooting (%): a share, and" in printed(tmp_path, capsys, without, "--factors", "media,iba")[1]
    with pytest.raises(UnusableData, match=r"row 3, column No\. of roots: 'many' is not a number"):
        read_observations(b"medium,No. of roots\na,4\nb,many\n", ["medium"], Response.ROOT_COUNT)
    with pytest.raises(UnusableData, match="row 3, column Rooted \\(y/n\\): 'perhaps'"):
        read_old_trial(b"medium,Rooted (y/n)\na,1\nb,perhaps\n", ["medium"], "", "", KnownBy.LIFTED)
    with pytest.raises(UnusableData, match=r"row 2, column Longest \(mm\)"):
        read_scores(b"Label,Rooted,Longest (mm)\nAB12,1,long\n", 42, KnownBy.LIFTED)


def test_very_many_pairs_are_told_by_those_that_are_settled(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    text = printed(tmp_path, capsys, sheet(), "--factors", "media,iba", "--margin", "0.15")[1]
    assert "66 pairs of arms are not settled, adjusted p = 1.0 at least; --json gives each" in text
    assert "iba 0 against iba 3000" in text and "Grit + iba 0 against" not in text
    fewer = "\n".join(line for line in sheet().splitlines() if not line.startswith("Grit and") and ",3000," not in line)
    text = printed(tmp_path, capsys, fewer, "--factors", "media,iba")[1]
    assert "are not settled, adjusted" not in text and "Bark + iba 0 against Grit + iba 2000" in text
