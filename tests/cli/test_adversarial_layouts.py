"""Files made to draw a sentence beyond their evidence, laid out in columns: pots, blocks, waves, whole plots, squares, numbers, days.

A line is ``column=value ...`` with ``{1..4}`` for one line each, then ``k/n`` with ``?u`` for unknown outcomes, or ``=`` with values, each
``value*times``; of days ``from-to:outcome*times``. What is said is held against what must and must not be, as in ``test_adversarial``.
"""

from __future__ import annotations

import csv
import re
from collections.abc import Iterator
from pathlib import Path

import pytest

from tests.cli import test_adversarial as blocks
from tests.cli.test_adversarial import ALIKE, CLEAR, MORE, Case, check, said_of

DAYS = ("last_without_day", "first_with_day", "outcome")


def spread(line: str) -> Iterator[str]:
    """A line for each number of its first range, and so on."""
    found = re.search(r"\{(\d+)\.\.(\d+)\}", line)
    if found is None:
        yield line
        return
    for number in range(int(found[1]), int(found[2]) + 1):
        yield from spread(line.replace(found[0], str(number)))


def cells_of(outcomes: str, response: str) -> Iterator[dict[str, str]]:
    """The outcomes of one line, a cutting each."""
    counted = re.fullmatch(r"(\d+)/(\d+)(?:\?(\d+))?", outcomes)
    if counted:
        k, n, unknown = int(counted[1]), int(counted[2]), int(counted[3] or 0)
        for value, times in (("1", k), ("0", n - k), ("", unknown)):
            yield from ({response: value, "state": "" if value else "missing"} for _ in range(times))
        return
    for part in outcomes.removeprefix("=").split(","):
        value, _, times = part.partition("*")
        for _ in range(int(times or 1)):
            if response == "days_to_root":
                between, _, outcome = value.partition(":")
                yield dict(zip(DAYS, (*between.split("-"), outcome), strict=True))
            else:
                yield {response: "" if value == "?" else value, "state": "missing" if value == "?" else ""}


def spoken(folder: Path, capsys: pytest.CaptureFixture[str], case: Case) -> str:
    """Everything said of a file laid out in columns."""
    response = m[1] if (m := re.search(r"--response (\w+)", case.flags)) else "rooted"
    rows = []
    for line in (one for text in case.cuttings.split(";") for one in spread(text.strip())):
        *columns, outcomes = line.split()
        rows += [cell | dict(c.split("=", 1) for c in columns) for cell in cells_of(outcomes, response)]
    file = folder / "trial.csv"
    with file.open("w", encoding="utf-8", newline="") as out:
        written = csv.DictWriter(out, list(dict.fromkeys(key for row in rows for key in row)), restval="")
        written.writeheader()
        written.writerows(rows)
    return said_of(file, case, capsys)


POTS, WAVES, TRAYS = "--margin 0.15 --unit pot", "--margin 0.15 --wave wave", "--margin 0.15 --whole-plot tray"
NUMBER, LENGTH, GRADE, DAY = (
    f"--response {name} --margin {margin}"
    for name, margin in (("root_count", 1.5), ("longest_root_mm", 5), ("quality", 0.1), ("days_to_root", 3))
)
TWO_BY_TWO = "medium,hormone"

CASES = {
    # Pots
    "pots that are all or nothing": Case("medium=bark pot=a{1..6} 4/4; medium=sand pot=b{1..6} 0/4", (MORE, CLEAR, "rooted in 6 units"), ("24 units",), POTS),
    "two pots a side": Case("medium=bark pot=a{1..2} 5/5; medium=sand pot=b{1..2} 0/5", ("cannot_convince", "cannot tell"), (MORE, CLEAR), POTS),
    "three pots of ten a side": Case("medium=bark pot=a{1..3} 10/10; medium=sand pot=b{1..3} 0/10", ("cannot tell", "p 0.0?99|p 0.1"), (MORE, CLEAR), POTS),
    "one pot a side": Case("medium=bark pot=a 9/10; medium=sand pot=b 1/10", ("one_unit", "cannot tell", "One unit is one replicate"), (MORE, CLEAR, "p 0"), POTS),
    "one pot against six": Case("medium=bark pot=a 5/5; medium=sand pot=b{1..6} 0/5", ("one_unit", "cannot tell"), (MORE, CLEAR), POTS),
    "one pot of a third arm": Case(
        "medium=bark pot=a{1..8} 4/4; medium=sand pot=b{1..8} 0/4; medium=grit pot=c 4/4", ("one_unit", "Bark rooted more than sand"), ("Grit rooted",), POTS,
    ),
    "pots of two sizes": Case(
        "medium=bark pot=a{1..4} 9/10; medium=bark pot=c{1..4} 1/2; medium=sand pot=b{1..8} 2/6", ("unit_sizes_differ",), (), POTS,
    ),
    "a pot that stands in two arms": Case("medium=bark pot=x 1/2; medium=sand pot=x 1/2", ("unit x stands in two arms",), (MORE,), POTS),
    "a pot without a name": Case("medium=bark pot=a 1/2; medium=sand pot= 1/2", ("the unit is blank",), (MORE,), POTS),
    "eight pots alike": Case("medium=bark pot=a{1..8} 2/4; medium=sand pot=b{1..8} 2/4", (ALIKE,), (MORE,), "--margin 0.4 --unit pot"),
    "four pots alike": Case("medium=bark pot=a{1..4} 2/4; medium=sand pot=b{1..4} 2/4", ("not settled",), (ALIKE + r"[,:]",), "--margin 0.9 --unit pot"),
    "lost from every pot": Case("medium=bark pot=a{1..8} 3/3?1; medium=sand pot=b{1..8} 1/2?2", ("cannot tell", "16 unknown"), (MORE, CLEAR), POTS),
    "lost from the better pots only": Case("medium=bark pot=a{1..8} 2/2?2; medium=sand pot=b{1..8} 2/4", ("cannot tell", "16 unknown"), (MORE, CLEAR), POTS),
    "a whole pot lost": Case("medium=bark pot=a{1..7} 4/4; medium=bark pot=a8 0/0?4; medium=sand pot=b{1..8} 0/4", (MORE, "4 unknown"), (), POTS),
    "none in four pots": Case("medium=bark pot=a{1..4} 0/5; medium=sand pot=b{1..4} 3/5", ("none of 20 rooted in 4 units", "below 53 %"), ("below 14 %",), POTS),
    "a rate of one pot": Case("medium=bark pot=a 3/5", ("all in one unit: no interval",), ("% interval",), "--rate --unit pot"),
    "a rate of none in six pots": Case("medium=bark pot=a{1..6} 0/5", ("below 39 %",), ("below 10 %",), "--rate --unit pot"),
    # Waves
    "a season of one wave each": Case("season=spring wave=s 9/10; season=summer wave=t 1/10", ("waves_not_replicated", "cannot tell"), (MORE, CLEAR), WAVES, "season"),
    "a season of two waves each": Case(
        "season=spring wave=s{1..2} 9/10; season=summer wave=t{1..2} 1/10", ("season_not_assigned", "cannot tell"), (MORE, CLEAR), WAVES, "season",
    ),
    "a season of four waves each": Case(
        "season=spring wave=s{1..4} 9/10; season=summer wave=t{1..4} 1/10", ("season_not_assigned", "could have fallen either way", MORE), ("p 1e-",), WAVES, "season",
    ),
    "waves that hold every arm": Case(
        "medium=bark wave={1..3} 8/8; medium=sand wave={1..3} 1/8", ("randomised complete blocks", MORE, CLEAR), ("season", "[Ww]hole waves"), WAVES,
    ),
    "a medium that went with the waves": Case(
        "medium=bark wave={1..2} 9/10; medium=sand wave={3..4} 1/10", ("Whole waves carried medium", "cannot tell"), (MORE, CLEAR, "Season"), WAVES,
    ),
    "a medium of one wave each": Case("medium=bark wave=1 9/10; medium=sand wave=2 1/10", ("particular week", "cannot tell"), (MORE, CLEAR), WAVES),
    "an arm that one wave lacks": Case(
        "medium=bark wave={1..2} 8/8; medium=sand wave={1..2} 1/8; medium=grit wave=2 8/8", ("design: randomised complete blocks", "Block 1 lacks grit"), ("season",), WAVES,
    ),
    "a medium inside seasons": Case(
        "season=spring medium=bark wave=s{1..2} 9/10; season=spring medium=sand wave=s{1..2} 2/10; season=summer medium=bark wave=t{1..2} 8/10; "
        "season=summer medium=sand wave=t{1..2} 1/10",
        ("Bark rooted more than sand", CLEAR), ("[Ss]pring rooted more", "[Ss]ummer rooted more"), WAVES, "season,medium",
    ),
    "a cutting without a wave": Case("medium=bark wave=1 3/5; medium=sand wave= 1/5", ("the wave is blank",), (MORE,), WAVES),
    # Whole plots
    "heat on one tray each": Case("heat=mat tray=a 9/10; heat=off tray=b 1/10", ("cannot tell", "overall: None"), (MORE, CLEAR), TRAYS, "heat"),
    "heat on three trays each": Case("heat=mat tray=a{1..3} 10/10; heat=off tray=b{1..3} 0/10", ("cannot tell", "p 0.0?99|p 0.1"), (MORE, CLEAR), TRAYS, "heat"),
    "heat on five trays each": Case("heat=mat tray=a{1..5} 9/10; heat=off tray=b{1..5} 1/10", (MORE, "design: split-plot"), (), TRAYS, "heat"),
    "media inside heated trays": Case(
        "heat=mat medium=bark tray=a{1..3} 5/5; heat=mat medium=sand tray=a{1..3} 1/5; heat=off medium=bark tray=b{1..3} 4/5; heat=off medium=sand tray=b{1..3} 0/5",
        ("Bark rooted more than sand", CLEAR), ("Mat rooted more", "Off rooted more"), TRAYS, "heat,medium",
    ),
    "whole plots in blocks": Case(
        "heat=mat medium={1..2} tray=a{1..4} block=k 3/5; heat=off medium={1..2} tray=b{1..4} block=k 3/5", ("cannot tell",), (MORE, CLEAR), TRAYS + " --block block", "heat,medium",
    ),
    # Pairs
    "pairs that all speak for one": Case("medium=bark stem={1..10} 1/1; medium=sand stem={1..10} 0/1", (MORE, CLEAR, "design: pairs"), (), "--margin 0.15 --pair stem"),
    "five pairs": Case("medium=bark stem={1..5} 1/1; medium=sand stem={1..5} 0/1", ("cannot tell", "p 0.0625"), (MORE, CLEAR), "--margin 0.15 --pair stem"),
    "pairs that agree": Case("medium=bark stem={1..12} 1/1; medium=sand stem={1..12} 1/1", ("nothing_varies",), (MORE, "strength: shown alike"), "--margin 0.15 --pair stem"),
    "pairs with every second lost": Case("medium=bark stem={1..10} 1/1; medium=sand stem={1..10} 0/0?1", ("Nothing to compare with", "cannot tell"), (MORE,), "--margin 0.15 --pair stem"),
    "a pair of three": Case("medium=bark stem=1 1/2; medium=sand stem=1 0/1", ("A pair is two cuttings",), (MORE,), "--pair stem"),
    "a pair and a block": Case("medium=bark stem=1 block=1 1/1; medium=sand stem=1 block=1 0/1", ("a pair is its own block",), (MORE,), "--pair stem --block block"),
    # Squares
    "a square that is none": Case("medium=a row={1..2} column=1 1/2; medium=b row={1..2} column=2 0/2", ("do not make a Latin square",), (MORE,), "--row row --column column"),
    "rows without columns": Case("medium=a row=1 1/2; medium=b row=2 0/2", ("give both",), (MORE,), "--row row"),
    "a square of three": Case(
        "medium=a row=1 column=1 1/1; medium=b row=1 column=2 0/1; medium=c row=1 column=3 0/1; medium=b row=2 column=1 0/1; medium=c row=2 column=2 0/1; "
        "medium=a row=2 column=3 1/1; medium=c row=3 column=1 0/1; medium=a row=3 column=2 1/1; medium=b row=3 column=3 0/1",
        ("cannot tell", "design: Latin square"), (MORE, CLEAR), "--margin 0.15 --row row --column column",
    ),
    # Numbers
    "no root in the other arm": Case("medium=bark =4*5,5*5; medium=sand =0*10", ("Bark made more roots than sand", "no_ratio"), ("ratio of",), NUMBER),
    "no root in the arm that sorts first": Case("medium=bark =0*10; medium=sand =4*5,5*5", ("Sand made more roots than bark",), ("Bark made more",), NUMBER),
    "a fifth not counted": Case("medium=bark =8*8,?*2; medium=sand =1*5,2*5", ("strength: suggested", "left_out"), ("described_only",), NUMBER),
    "more than a fifth not counted": Case("medium=bark =8*7,?*3; medium=sand =1*5,2*5", ("described_only", "cannot tell"), ("made more roots", "p 0"), NUMBER),
    "one in thirty not counted": Case("medium=bark =8*14,9*15,?; medium=sand =1*15,2*15", (CLEAR, "made more roots"), ("described_only",), NUMBER),
    "numbers that chance explains": Case("medium=bark =3*5,4*5; medium=sand =6*5,7*5", ("no_overdispersion",), (), NUMBER),
    "a number below nothing": Case("medium=bark =-1*3; medium=sand =2*3", ("root_count",), ("made more",), NUMBER),
    "a margin in points for numbers": Case("medium=bark =3*5; medium=sand =6*5", ("is a ratio of means here",), ("made more",), "--response root_count --margin 0.15"),
    # Lengths
    "nearly none with a root": Case("medium=bark =21,0*39; medium=sand =0*40", ("no_interval", "cannot tell"), (ALIKE,), LENGTH),
    "means far apart behind a small shift": Case("medium=bark =50*20,53*20,0*20; medium=sand =50*15,53*15,0*30", ("cannot tell",), (ALIKE,), LENGTH),
    "lengths alike": Case("medium=bark =10,11,12,13,14,15,16,17,18,19,20,21,22,23,24,25,26,27,28,29; medium=sand =10,11,12,13,14,15,16,17,18,19,20,21,22,23,24,25,26,27,28,29", (ALIKE,), ("made longer",), LENGTH),
    "lengths apart": Case("medium=bark =40*6,44*6; medium=sand =8*6,10*6", ("Bark made longer roots than sand", CLEAR), (), LENGTH),
    "lengths unknown in one arm": Case("medium=bark =40*6,?*6; medium=sand =8*12", ("described_only", "cannot tell"), ("made longer",), LENGTH),
    # Grades
    "grades apart": Case("medium=bark =4*6,5*6; medium=sand =1*6,2*6", ("roots of bark were graded better than those of sand", CLEAR), (), GRADE),
    "grades that cross": Case("medium=bark =0*6,5*6; medium=sand =2*6,3*6", ("cannot tell",), ("graded better", ALIKE), GRADE),
    "a grade of six": Case("medium=bark =6*3; medium=sand =2*3", ("0 to 5|between 0 and 5|from 0 to 5",), ("graded better",), GRADE),
    "foliage is not roots": Case("medium=bark =4*6,5*6; medium=sand =1*6,2*6", ("foliage of bark was graded better",), ("roots of bark",), "--response foliage --margin 0.1"),
    # Days
    "all of one two weeks before the other": Case("medium=bark =7-14:rooted*10; medium=sand =21-28:rooted*10; medium=bark =28-:censored; medium=sand =28-:censored", ("rooted more or sooner", "10 rooted"), ("faster",), DAY),
    "none of the other": Case("medium=bark =7-14:rooted*10; medium=sand =28-:censored*10", ("Bark rooted more or sooner than sand", "0 rooted"), ("faster",), DAY),
    "looked at on different days": Case("medium=bark =0-10:rooted*10,10-20:rooted*2; medium=sand =0-14:rooted*10,14-28:rooted*2", ("looked_on_different_days", "cannot tell"), ("more or sooner than", CLEAR), DAY),
    "the dead are not late": Case("medium=bark =7-14:rooted*8,14-21:dead*2,21-28:rooted*2; medium=sand =7-14:dead*8,14-21:rooted*2,21-28:rooted*2", ("mean rooted-days",), ("faster",), DAY),
    "days that run backwards": Case("medium=bark =28-21:rooted; medium=sand =7-14:rooted", ("after the last day without",), ("sooner",), DAY),
    # What a state rules out
    "rooted and dead": Case("medium=bark 8/10; medium=bark state=dead 2/2; medium=sand 2/12", ("state_against_rooted", "2 unknown"), ("10 of 12",)),
    "rooted and not stuck": Case("medium=bark 8/10; medium=bark state=not_stuck 0/0; medium=sand state=missing 1/1; medium=sand 2/11", ("state_against_rooted",), ("3 of 12",)),
    "sampled by design": Case("medium=bark 8/10; medium=bark state=sampled 0/0?2; medium=sand 2/10; medium=sand state=sampled 0/0?2", (MORE,), ("unknown", "left_out")),
    # Starts
    "longer pieces in the better arm": Case(
        "medium=bark length_mm=110 5/6; medium=bark length_mm=112 5/6; medium=sand length_mm=70 1/6; medium=sand length_mm=72 1/6", ("start_differs", "suggested|cannot tell"), (CLEAR,),
        "--margin 0.15 --start length_mm",
    ),
    "pieces alike in every arm": Case(
        "medium=bark length_mm={70..81} 1/1; medium=sand length_mm={70..81} 0/1", (MORE, CLEAR), ("start_differs",), "--margin 0.15 --start length_mm",
    ),
    "a start that is a group": Case("medium=bark block=1 1/2; medium=sand block=1 0/2", ("'block' is no start",), (MORE,), "--block block --start block"),
    # Doses
    "three strengths": Case("hormone=0 2/12; hormone=1000 9/12; hormone=3000 5/12", ("dose_saturated",), ("best",), "--margin 0.15 --dose hormone", "hormone"),
    "a hump of five strengths": Case(
        "hormone=0 2/20; hormone=500 10/20; hormone=1000 18/20; hormone=3000 10/20; hormone=8000 2/20", ("Hormone 1000 rooted more than hormone 0",), ("dose_saturated",),
        "--margin 0.15 --dose hormone", "hormone",
    ),
    # Factorials
    "a factorial that depends": Case(
        "medium=bark hormone=IBA 18/20; medium=bark hormone=none 2/20; medium=sand hormone=IBA 2/20; medium=sand hormone=none 18/20", ("interaction", "may depend on"), ("Bark rooted more", "IBA rooted more"),
        factors=TWO_BY_TWO,
    ),
    "a factorial of one corner lost": Case(
        "medium=bark hormone=IBA 0/0?20; medium=bark hormone=none 4/20; medium=sand hormone=IBA 16/20; medium=sand hormone=none 5/20", ("Bark \\+ IBA: of none of its 20",), ("[Bb]ark \\+ IBA rooted",),
        factors=TWO_BY_TWO,
    ),
}  # fmt: skip


@pytest.mark.parametrize("name", CASES)
def test_what_is_said(tmp_path: Path, capsys: pytest.CaptureFixture[str], name: str) -> None:
    check(spoken(tmp_path, capsys, CASES[name]), CASES[name])


def test_there_are_enough_of_them() -> None:
    assert len(CASES) + len(blocks.CASES) >= 150
