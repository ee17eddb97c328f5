"""Sheets with cuttings, levels or numbers of cuttings across their heads say what the same cuttings say in a row each."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from orderly_bench.cli.main import main
from orderly_bench.core.vocabulary import KnownBy, State
from orderly_bench.formats.old_trial_csv import read_old_trial

TRAYS = [("sand", 1, "3502"), ("sand", 2, "0012"), ("sand", 3, "3002"), ("sand", 4, "1000"), ("grit", 5, "5532"), ("grit", 6, "4627"), ("grit", 7, "3582"), ("grit", 8, "4063")]  # fmt: skip
EACH = "medium,tray,root_count\n" + "".join(f"{m},{t},{one}\n" for m, t, own in TRAYS for one in own)
ACROSS = "medium,tray,Cutting 1,Cutting 2,Cutting 3,Cutting 4\n" + "".join(
    f"{m},{t},{','.join(own)}\n" for m, t, own in TRAYS
)
BARE = ACROSS.replace("Cutting ", "")
LISTED = "medium,tray,No. of roots\n" + "".join(f'{m},{t},"{", ".join(own)}"\n' for m, t, own in TRAYS)
YES_NO = "medium,tray,c1,c2,c3,c4\n" + "".join(
    f"{m},{t},{','.join('y' if one != '0' else 'n' for one in own)}\n" for m, t, own in TRAYS
)


def ran(folder: Path, capsys: pytest.CaptureFixture[str], text: str, *words: str) -> dict:
    file = folder / "sheet.csv"
    file.write_text(text)
    assert main(["analyse", str(file), "--json", *words]) == 0
    found = json.loads(capsys.readouterr().out)
    return found


def results(found: dict) -> tuple[object, ...]:
    return found["arms"], [(c["estimate"], c["ci_low"], c["p"], c["verdict"]) for c in found["comparisons"]]


def codes(found: dict) -> list[str]:
    return [one["code"] for one in found["cautions"]]


@pytest.mark.parametrize("sheet", [ACROSS, BARE, LISTED], ids=["headed", "numbered", "listed"])
@pytest.mark.parametrize("response", ["root_count", "rooted"])
def test_cuttings_of_a_row_are_those_of_a_row_each(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], sheet: str, response: str
) -> None:
    asked = ("--factors", "medium", "--response", response)
    each = ran(tmp_path, capsys, EACH, *asked, "--unit", "tray")
    named = ran(tmp_path, capsys, sheet, *asked, "--unit", "tray")
    by_row = ran(tmp_path, capsys, sheet, *asked)
    assert results(each) == results(named) == results(by_row)
    assert "cuttings_across" in codes(named) and "row_a_unit" not in codes(named)
    assert "row_a_unit" in codes(by_row) and "unused_grouping" not in codes(by_row)
    alone = ran(tmp_path, capsys, sheet, *asked, "--single")
    assert "row_a_unit" not in codes(alone) and alone["comparisons"][0]["p"] < by_row["comparisons"][0]["p"]


def test_yes_and_no_across_and_the_dead_among_them(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    asked = ("--factors", "medium", "--unit", "tray")
    each = ran(tmp_path, capsys, EACH, *asked)
    found = ran(tmp_path, capsys, YES_NO, *asked)
    assert results(each) == results(found)
    dead = ran(tmp_path, capsys, YES_NO.replace("sand,1,y,y,n,y", "sand,1,y,y,dead,y"), *asked)
    assert results(each) == results(dead)


def test_a_finished_trial_comes_in_with_its_cuttings_across() -> None:
    rows = read_old_trial(YES_NO.replace("y,n,y\n", "y,dead,y\n").encode(), ["medium"], "", "", KnownBy.LIFTED)
    assert len(rows) == 32 and len({row.unit for row in rows}) == 8
    assert [row.score.state for row in rows[:4]] == [State.ALIVE, State.ALIVE, State.DEAD, State.ALIVE]
    counted = read_old_trial(ACROSS.encode(), ["medium"], "tray", "", KnownBy.LIFTED)
    assert [row.score.root_number for row in counted[:4]] == [3, 5, None, 2] and len({r.unit for r in counted}) == 8


@pytest.mark.parametrize(
    "head",
    ["medium,{a} rooted,{a} stuck,{b} rooted,{b} stuck", "medium,Rooted {a},No. stuck {a},Rooted {b},No. stuck {b}", "medium,{a}_rooted,{a}_n,{b}_rooted,{b}_n"],
)  # fmt: skip
def test_the_levels_of_one_factor_in_the_heads(tmp_path: Path, capsys: pytest.CaptureFixture[str], head: str) -> None:
    wide = (
        head.format(a="IBA 1000", b="none") + "\nsand,12,20,8,20\nsand,13,20,6,20\ngrit,15,20,13,20\ngrit,17,20,12,20\n"
    )
    down = "medium,hormone,rooted,stuck\n" + "".join(
        f"{m},{h},{k},20\n" for h, ks in (("IBA 1000", (12, 13, 15, 17)), ("none", (8, 6, 13, 12))) for m, k in zip(("sand", "sand", "grit", "grit"), ks, strict=True)
    )  # fmt: skip
    asked = ("--factors", "medium,hormone")
    assert results(ran(tmp_path, capsys, wide, *asked)) == results(ran(tmp_path, capsys, down, *asked))
    assert "levels_across" in codes(ran(tmp_path, capsys, wide, *asked))


@pytest.mark.parametrize("response", ["rooted", "root_count"])
def test_two_pieces_of_a_stem_side_by_side_are_a_pair(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], response: str
) -> None:
    pieces = [(1, 4, 0), (2, 5, 1), (3, 0, 0), (4, 2, 0), (5, 7, 2), (6, 3, 0), (7, 4, 0), (8, 1, 3)]
    wide = "stem,basal rooted,basal roots,basal note,tip rooted,tip roots\n" + "".join(
        f"{s},{'yes' if a else 'no'},{a},,{'yes' if b else 'no'},{b}\n" for s, a, b in pieces
    )
    down = "stem,piece,rooted,root_count\n" + "".join(
        f"{s},{piece},{int(n > 0)},{n}\n"
        for at, piece in enumerate(("basal", "tip"))
        for s, *ns in pieces
        for n in (ns[at],)
    )
    asked = ("--factors", "piece", "--pair", "stem", "--response", response)
    found = ran(tmp_path, capsys, wide, *asked)
    assert results(found) == results(ran(tmp_path, capsys, down, *asked))
    assert "levels_across" in codes(found)


@pytest.mark.parametrize("scale", ["", " (0-5)", " (0-4)", " 1-5", " (1 to 4)"])
def test_grades_on_a_scale_of_some_of_those_from_0_to_5_are_found(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], scale: str
) -> None:
    sheet = f"medium,tray,Rooting score{scale}\n" + "".join(
        f"{m},{t},{1 + (t + i + 2 * (m == 'grit')) % 4}\n" for t in range(8) for m in ("sand", "grit") for i in range(3)
    )
    found = ran(tmp_path, capsys, sheet, "--factors", "medium", "--response", "quality")
    assert [arm["n"] for arm in found["arms"]] == [24, 24]


def test_of_how_many_a_head_says(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    asked = ("--factors", "hormone")
    wide = ran(tmp_path, capsys, "Control (n=20),IBA (n = 20),NAA n=19\n5,12,16\n6,11,15\n", *asked)
    down = "hormone,rooted\nControl,5/20\nControl,6/20\nIBA,12/20\nIBA,11/20\nNAA,16/19\nNAA,15/19\n"
    assert results(wide) == results(ran(tmp_path, capsys, down, *asked))


def test_looks_on_dates_with_their_dead(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    sheet = "medium;tray;12.03.2026 rooted;12.03.2026 dead;02.04.2026 rooted;02.04.2026 dead;stuck\nsand;1;1;0;3;2;10\nsand;2;0;1;4;2;10\ngrit;3;3;0;8;1;10\ngrit;4;2;0;7;0;10\n"
    found = ran(tmp_path, capsys, sheet, "--factors", "medium", "--unit", "tray")
    last = ran(tmp_path, capsys, "medium,tray,rooted,dead,stuck\nsand,1,3,2,10\nsand,2,4,2,10\ngrit,3,8,1,10\ngrit,4,7,0,10\n", "--factors", "medium", "--unit", "tray")  # fmt: skip
    assert results(found) == results(last)


def test_a_row_of_the_mean_of_one_level_is_named(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    file = tmp_path / "sheet.csv"
    file.write_text(
        "Medium,No. stuck,No. rooted\nSand,20,12\nSand,20,9\nSand mean,,10.5\nGrit,20,15\nGrit,20,17\nMean Grit,,16\n"
    )
    assert main(["analyse", str(file), "--factors", "medium"]) == 2
    told = capsys.readouterr().err
    assert "row 4" in told and "sums or averages others" in told
