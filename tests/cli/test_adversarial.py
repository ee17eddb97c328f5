"""Files made to draw a sentence beyond their evidence: what must be said of each, and what must not.

A file is written as ``arm k/n`` with ``?u`` for unknown outcomes and ``!x`` for places not stuck; ``|`` parts blocks, a name before a
colon names one. Several factors are parted by ``+``. What is said is the headline, the strength and the cautions with their codes.
"""

from __future__ import annotations

import json
import re
from dataclasses import dataclass
from pathlib import Path

import pytest

from orderly_bench.cli.main import main


@dataclass(frozen=True)
class Case:
    """One file: its cuttings, flags, what must and what must not be said (regular expressions)."""

    cuttings: str
    says: tuple[str, ...]
    never: tuple[str, ...] = ()
    flags: str = "--margin 0.15"
    factors: str = "medium"


MORE = r"rooted more than"
CLEAR = r"strength: shown\b(?! alike)"
ALIKE = r"practically the same"


def lines_of(text: str, factors: str, response: str) -> str:
    """The file: a row for each cutting."""
    blocked = "|" in text or re.match(r"\w+:", text) is not None
    rows = [",".join([*factors.split(","), *(["block"] if blocked else []), response, "state"])]
    for number, part in enumerate(text.split("|"), start=1):
        name, _, inside = part.rpartition(":")
        for arm in filter(None, (one.strip() for one in inside.split(";"))):
            found = re.fullmatch(r"(.+?) (\d+)/(\d+)(?:\?(\d+))?(?:!(\d+))?", arm)
            assert found, arm
            levels, k, n, unknown, empty = (
                found[1],
                int(found[2]),
                int(found[3]),
                int(found[4] or 0),
                int(found[5] or 0),
            )
            start = [*levels.split("+"), *([name.strip() or f"b{number}"] if blocked else [])]
            cells = ["1,"] * k + ["0,"] * (n - k) + [",missing"] * unknown + [",not stuck"] * empty
            rows += [",".join([*start, cell]) for cell in cells]
    return "\n".join(rows) + "\n"


def said(folder: Path, capsys: pytest.CaptureFixture[str], case: Case) -> str:
    """Everything said of a file; a refusal is what it says on the other channel."""
    response = m[1] if (m := re.search(r"--response (\w+)", case.flags)) else "rooted"
    file = folder / "trial.csv"
    file.write_text(lines_of(case.cuttings, case.factors, response))
    blocked = "|" in case.cuttings or re.match(r"\w+:", case.cuttings) is not None
    return said_of(file, case, capsys, *(["--block", "block"] if blocked else []))


def said_of(file: Path, case: Case, capsys: pytest.CaptureFixture[str], *more: str) -> str:
    """Everything the command says of a file that is written."""
    status = main(
        ["analyse", str(file), "--factors", case.factors, "--json", "--draws", "2000", *case.flags.split(), *more]
    )
    out = capsys.readouterr()
    if status:
        return out.err
    found = json.loads(out.out)
    parts = [found["headline"], f"strength: {found['strength']}", f"design: {found['design']}"]
    parts += [f"reasons: {' '.join(found['strength_reasons'])}", f"terms: {[t['strength'] for t in found['terms']]}"]
    parts += [f"[{c['code']}] {c['text']} {c['remedy']}" for c in found["cautions"]]
    parts += [
        f"pair {c['a']} - {c['b']}: {c['verdict']}, p {c['p']}, more {c['more_units']}" for c in found["comparisons"]
    ]
    parts.append(f"overall: {found['overall'] and found['overall']['p']}")
    return "\n".join(parts)


CASES = {
    # Seasons, leftovers, places
    "a season of one week": Case("spring 18/20; summer 5/20", ("season_not_waves", "cannot tell", "Season was not drawn"), (MORE, CLEAR), factors="season"),
    "a season beside a medium": Case(
        "spring+bark 18/20; spring+sand 5/20; summer+bark 17/20; summer+sand 4/20",
        ("season_not_waves", "Bark rooted more than sand"), (r"[Ss]pring rooted", r"[Ss]ummer rooted"), factors="season,medium",
    ),
    "a season crossed with nothing to tell": Case(
        "spring+bark 18/20; summer+bark 5/20", (r"factor medium has one level only \(bark\)",), (MORE, CLEAR), factors="season,medium",
    ),
    "autumn by another case of the word": Case("early 18/20; late 5/20", ("season_not_waves",), (MORE,), factors="Season"),
    # Two things at once
    "two arms that differ in two things": Case(
        "pumice+IBA 18/20; bark+none 5/20", ("aliased", "changed together", "Pumice \\+ IBA rooted more than bark \\+ none"),
        (CLEAR, r"^Pumice rooted", r"IBA rooted more than none"), factors="medium,hormone",
    ),
    "three factors in step": Case(
        "pumice+IBA+tip 18/20; bark+none+heel 5/20", ("aliased", "Medium, hormone and cut"), (CLEAR,), factors="medium,hormone,cut",
    ),
    "two in step and one free": Case(
        "p+I+x 18/20; b+n+x 5/20; p+I+y 17/20; b+n+y 4/20", ("aliased",), (CLEAR, r"^P rooted more than b\b"), factors="medium,hormone,light",
    ),
    "half of a factorial": Case(
        "b1: p+I+x 7/8; p+n+y 6/8; s+I+y 2/8; s+n+x 1/8 | b2: p+I+x 8/8; p+n+y 6/8; s+I+y 1/8; s+n+x 1/8",
        ("aliased_with_interaction", "if the factors act separately", "strength: suggested"), (CLEAR,), factors="medium,hormone,light",
    ),
    # One unit
    "one cutting against twelve": Case("bark 1/1; sand 0/12", ("one_unit", "cannot tell"), (MORE, CLEAR, r"p 1\.0,")),
    "one cutting each": Case("bark 1/1; sand 0/1", ("one_unit", "cannot tell"), (MORE, CLEAR)),
    "one cutting among three arms": Case("bark 18/20; sand 4/20; grit 1/1", ("one_unit", "Bark rooted more than sand"), ("Grit rooted",)),
    "blocks that are arms": Case("b1: bark 9/10 | b2: bark 8/10 | b3: sand 1/10 | b4: sand 2/10", ("block_is_arm", "cannot tell"), (MORE, CLEAR)),
    "two blocks that are the arms": Case("north: bark 9/10 | south: sand 1/10", ("block_is_arm", "overall: None"), (MORE, CLEAR)),
    "a block of one arm beside whole ones": Case(
        "b1: bark 8/8; sand 2/8 | b2: bark 7/8; sand 1/8 | b3: bark 0/8", ("one_arm_block", "randomised complete blocks"), ("incomplete",),
    ),
    "an arm that stands in a block of its own": Case(
        "b1: bark 8/8; sand 2/8 | b2: bark 7/8; sand 1/8 | b3: grit 8/8", ("one_arm_block",), ("Grit rooted",),
    ),
    # Unknown outcomes
    "loss in the loser only": Case("bark 18/20; sand 6/10?10", ("range_changes_verdict|not_settled", "cannot tell"), (MORE, CLEAR)),
    "loss that can't matter": Case("bark 20/20; sand 1/19?1", (MORE, CLEAR, "1 unknown"), ("range_changes_verdict",)),
    "loss in the winner": Case("bark 12/12?8; sand 6/20", ("cannot tell", "8 unknown"), (MORE, CLEAR)),
    "loss in both": Case("bark 14/16?4; sand 6/16?4", ("cannot tell", "4 unknown"), (MORE, CLEAR)),
    "half of everything lost": Case("bark 9/10?10; sand 1/10?10", ("cannot tell", "10 unknown"), (MORE, CLEAR)),
    "alike but for the lost": Case("bark 60/120?30; sand 60/120?30", ("cannot tell",), ("strength: shown alike",)),
    "a fit below none": Case(
        "g: a 2/20; b 18/20 | h: b 2/20; c 0/20", ("B rooted more than a by 80 points adjusted for where they stood; as counted 20 of 40",), ("% adjusted",),
    ),
    "blocks that are numbers": Case("1: bark 3/4; sand 1/4 | 2: bark 3/4; sand 1/4; grit 2/4 | 3: sand 1/4; grit 2/4", ("Block 1 lacks grit; block 3 lacks bark",), ()),
    "a name that is no word": Case("pH5 18/20; pH7 3/20", ("^pH5 rooted more than pH7",), ()),
    "three of three with more unknown": Case("bark 3/3?9; sand 0/12", ("but 9 more are unknown",), (CLEAR,)),
    "an arm with nothing known": Case(
        "bark 8/10; sand 0/0?10", (r"Nothing to compare with: bark 8 of 10 \(80 %\); sand none of 10 known", "cannot tell", "reasons: nothing_known"), (MORE, CLEAR, "pair "),
    ),
    "nothing known at all": Case("bark 0/0?8; sand 0/0?10", ("has no cutting with a known outcome",), (MORE,)),
    "an arm with nothing known beside two": Case(
        "bark 15/20; sand 3/20; perlite 0/0?12", (MORE, "strength: suggested", r"Perlite: of none of its 12 cuttings"), (CLEAR, "Perlite: none of", "pair .*perlite"),
    ),
    "a control with nothing known": Case(
        "bark 15/20; sand 3/20; perlite 0/0?12", ("the control perlite has no cutting",), (MORE,), flags="--family control --control medium=perlite",
    ),
    "a number with nothing known in one arm": Case(
        "bark 15/20; sand 3/20; perlite 0/0?12", ("Too much is unknown in another arm", "cannot tell"), ("more roots",), flags="--response root_count",
    ),
    "lost by block": Case(
        "b1: bark 7/8; sand 1/4?4 | b2: bark 8/8; sand 1/4?4 | b3: bark 7/8; sand 2/4?4", ("cannot tell", "12 unknown"), (MORE, CLEAR),
    ),
    "not stuck in one arm": Case("bark 14/16; sand 5/10!10", ("not_stuck_uneven",), ("unknown\\)",)),
    "not stuck evenly": Case("bark 14/18!2; sand 5/18!2", (MORE,), ("not_stuck_uneven",)),
    # All, none, few
    "three of three": Case("bark 3/3; sand 0/3", ("above 37 %", "cannot_convince"), (CLEAR,)),
    "all of both": Case("bark 60/60; sand 60/60", ("nothing_varies", "tells nothing", ALIKE), (MORE, "strength: shown alike")),
    "none of both": Case("bark 0/60; sand 0/60", ("nothing_varies", "tells nothing"), (MORE, "strength: shown alike")),
    "all of a few": Case("bark 4/4; sand 4/4", ("nothing_varies",), (MORE, "strength: shown alike")),
    "four a side alike": Case("bark 2/4; sand 2/4", ("not settled",), (ALIKE + r"[,:]",), flags="--margin 0.9"),
    "five a side within a wide margin": Case("bark 3/5; sand 3/5", (ALIKE,), (MORE,), flags="--margin 0.9"),
    "three of four against one of four": Case("bark 3/4; sand 1/4", ("not settled",), (MORE, CLEAR)),
    "two against two": Case("bark 2/2; sand 0/2", ("cannot_convince",), (MORE, CLEAR)),
    # Ties and families
    "a three-way tie": Case("bark 10/20; sand 10/20; grit 10/20", ("not settled", "overall: 1"), (MORE,)),
    "letters that are not transitive": Case("bark 15/20; sand 10/20; grit 4/20", ("Bark rooted more than grit",), ("Bark rooted more than sand",)),
    "a difference over all without a pair": Case(
        "a 5/20; b 8/20; c 10/20; d 12/20; e 14/20; f 15/20", (r"overall_without_pair|not settled|rooted more",), ("interval of",),
    ),
    "one standout among six": Case("a 20/20; b 8/20; c 8/20; d 8/20; e 8/20; f 8/20", ("A rooted more than",), ("overall_without_pair",)),
    "an interval that holds nothing with p above": Case("bark 13/20; sand 6/20", ("interval_against_p", "p moves in steps"), (MORE,)),
    "a pair clear on its own only": Case("bark 14/20; sand 6/20; grit 10/20; peat 10/20", ("not settled",), (MORE, CLEAR)),
    # Margins
    "a margin of nothing": Case("bark 18/20; sand 5/20", ("margin", "above 0"), (MORE,), flags="--margin 0"),
    "a margin of everything": Case("bark 18/20; sand 5/20", ("margin", "below 1"), (MORE,), flags="--margin 1"),
    "a margin in percent": Case("bark 18/20; sand 5/20", ("such as 0.15",), (MORE,), flags="--margin 15"),
    "a margin that is no number": Case("bark 18/20; sand 5/20", ("margin",), (MORE,), flags="--margin nan"),
    "no margin": Case("bark 18/20; sand 5/20", ("clear, size uncertain", MORE), ("clear and large",), flags="--alpha 0.05"),
    "clear but small": Case("bark 600/1000; sand 540/1000", ("clear but small", MORE), ("clear and large",)),
    # Directions
    "a direction reversed against its counts": Case(
        "b1: bark 9/10; sand 45/60 | b2: bark 18/60; sand 0/10", ("raw_against_adjusted", "adjusted for where they stood", "as counted 27 of 70"), (CLEAR,),
    ),
    "a balanced trial needs no adjusting": Case(
        "b1: bark 9/10; sand 4/10 | b2: bark 8/10; sand 2/10", (MORE,), ("raw_against_adjusted", "adjusted for where"),
    ),
    # Looks and rates
    "a look": Case("bark 2/2; sand 0/2", ("Counts only", "cannot tell", "reasons: look"), (MORE, CLEAR, "p 0", "pair "), flags="--look"),
    "a large look": Case("bark 40/40; sand 0/40", ("Counts only",), (MORE, CLEAR, "pair ", "more units"), flags="--look --margin 0.15"),
    "a look with more units asked": Case("bark 9/20; sand 4/20", ("Counts only",), (MORE, r"more \d"), flags="--look --more-units"),
    "a look at a dose": Case("0 2/10; 1000 6/10", ("Counts only", "hormone 1000 6 of 10"), (MORE,), flags="--look --dose hormone", factors="hormone"),
    "a rate": Case("bark 31/50", ("31 of 50", "reasons: rate"), (MORE, "strength: shown"), flags="--rate"),
    "a rate of none": Case("bark 0/30", ("0 of 30", "below 10 %"), (MORE,), flags="--rate"),
    "a rate of two arms": Case("bark 31/50; sand 4/50", ("a rate is of one",), (MORE,), flags="--rate"),
    "one arm without saying so": Case("bark 31/50", ("all cuttings are in one arm",), (MORE,)),
    "plants wanted without a rate": Case("bark 3/5; sand 1/5", ("--want", "goes with --rate"), (MORE,), flags="--want 40"),
    # More of the same
    "nothing settles what is the same": Case("bark 10/20; sand 10/20", ("more None",), (r"more \d",), flags="--margin 0.15 --more-units"),
    "far beyond tenfold": Case("bark 10/20; sand 9/20", ("more None",), (r"more \d",), flags="--margin 0.15 --more-units"),
    "not asked for": Case("bark 13/20; sand 8/20", ("more None",), (r"more \d",)),
    "what would find it": Case("bark 13/20; sand 8/20", (r"more \d+",), ("more 1$",), flags="--margin 0.15 --more-units"),
    "one unit can't be settled by more": Case("bark 1/1; sand 0/12", ("more None",), (r"more \d",), flags="--more-units"),
    "clear needs no more": Case("bark 19/20; sand 1/20", ("more None",), (r"more \d",), flags="--more-units"),
    # Doses and names
    "bare numbers are said with their factor": Case("0 3/20; 1000 18/20", ("Hormone 1000 rooted more than hormone 0",), (r"^1000 rooted",), factors="hormone"),
    "a dose that is no number": Case("none 3/20; 1000 18/20", ("must be a strength as a number",), (MORE,), flags="--dose hormone", factors="hormone"),
    "strengths of two things": Case("IBA 1000 3/20; NAA 1000 18/20", ("must be a strength as a number",), (MORE,), flags="--dose hormone", factors="hormone"),
    "none is a strength of nothing": Case("none 3/20; IBA 1000 ppm 18/20", ("IBA 1000 ppm rooted more than hormone none",), ("must be a strength",), flags="--dose hormone", factors="hormone"),
    "one level written twice": Case("bark 9/10; Bark 2/10", ("differ only in how they are written",), (MORE,)),
    "a plus in a level": Case("a & b 9/10; sand 2/10", ("A & b rooted more than sand",), ()),
    "a level called none": Case("none 3/20; IBA 18/20", ("IBA rooted more than hormone none",), ("None of",), factors="hormone"),
    "levels called yes and no": Case("yes 18/20; no 3/20", ("Wounded yes rooted more than wounded no",), (), factors="wounded"),
    "a level called all": Case("all 3/20; some 18/20", ("Some rooted more than all",), ()),
    "pieces of two kinds": Case("tip 18/20; heel 5/20", ("This speaks of these pieces", "cutting_type"), (), factors="cutting_type"),
    "two donors": Case("D1 18/20; D2 5/20", ("these pieces: donor",), (), factors="donor"),
    "two taxa": Case("lavender 18/20; olive 5/20", ("these pieces: taxon",), (), factors="taxon"),
    # Control
    "not worse": Case(
        "cheap 90/100; dear 90/100", ("practically the same",), (MORE,), flags="--margin 0.15 --not-worse-than --family control --control medium=dear",
    ),
    "not worse without a margin": Case("cheap 9/10; dear 9/10", ("needs a margin",), (MORE,), flags="--not-worse-than"),
    "a control that is no arm": Case("bark 9/10; sand 2/10", ("must be one of the arms",), (MORE,), flags="--family control --control medium=grit"),
    "max-T without a control": Case("bark 9/10; sand 2/10", ("control",), (MORE,), flags="--max-t"),
    "against the control only": Case(
        "bark 19/20; sand 2/20; none 8/20", ("pair bark - none", "pair sand - none"), ("pair bark - sand",), flags="--family control --control medium=none",
    ),
}  # fmt: skip


@pytest.mark.parametrize("name", CASES)
def test_what_is_said(tmp_path: Path, capsys: pytest.CaptureFixture[str], name: str) -> None:
    check(said(tmp_path, capsys, CASES[name]), CASES[name])


def check(text: str, case: Case) -> None:
    """Hold what was said against what must and must not be."""
    for pattern in case.says:
        assert re.search(pattern, text, re.M), f"{pattern!r} is not in:\n{text}"
    for pattern in case.never:
        assert not re.search(pattern, text, re.M), f"{pattern!r} is in:\n{text}"


#: The same tables read as other yes or no: what is said never speaks of rooting.
OTHERS = {"alive": "alive", "fit_to_pot_on": "fit to pot on"}
AS_OTHERS = [
    name for name, case in CASES.items() if "rooted" in " ".join(case.says) and not case.flags.startswith("--rate")
]


@pytest.mark.parametrize("response", OTHERS)
@pytest.mark.parametrize("name", AS_OTHERS)
def test_other_responses_are_not_worded_as_rooting(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], name: str, response: str
) -> None:
    case = CASES[name]
    text = said(tmp_path, capsys, Case(case.cuttings, (), (), f"{case.flags} --response {response}", case.factors))
    headline = text.splitlines()[0]
    assert "rooted" not in headline and (
        OTHERS[response] in headline or headline.startswith(("Not settled", "Cannot tell"))
    )


#: Ever fewer known outcomes in the arm that is behind: at some number it must give way, and never come back.
@pytest.mark.parametrize("behind", range(2, 8))
@pytest.mark.parametrize("stuck", [16, 24, 40])
def test_more_unknown_never_makes_more_certain(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], behind: int, stuck: int
) -> None:
    order = {"strength: shown": 0, "strength: suggested": 1, "strength: cannot tell": 2}
    found = []
    for lost in range(0, stuck - behind, 4):
        text = said(tmp_path, capsys, Case(f"bark {stuck - 1}/{stuck}; sand {behind}/{stuck - lost}?{lost}", ()))
        found.append(order[text.splitlines()[1]])
    assert found == sorted(found) and found[-1] == 2


@pytest.mark.parametrize("units", [2, 3, 4, 5, 8, 12])
@pytest.mark.parametrize("kept", ["all", "none"])
def test_bounds_are_exact(tmp_path: Path, capsys: pytest.CaptureFixture[str], units: int, kept: str) -> None:
    k = units if kept == "all" else 0
    text = said(tmp_path, capsys, Case(f"bark {k}/{units}; sand 1/2", ()))
    bound = 100 * (1 - 0.05 ** (1 / units))
    limit = f"above {100 - bound:.0f} %" if kept == "all" else f"below {bound:.0f} %"
    assert f"{kept} of {units} rooted. The true rate is {limit} at 95 %, one-sided" in text


NAMES = (
    "1",
    "none",
    "all",
    "3 of 4",
    "p",
    "more",
    "cannot tell",
    "rooted",
    "=SUM(A1)",
    "\u00f1and\u00fa 2",
    "x" * 60,
    "-5",
    "<b>",
    "{a}",
)


@pytest.mark.parametrize("name", NAMES)
def test_a_name_stays_a_name(tmp_path: Path, capsys: pytest.CaptureFixture[str], name: str) -> None:
    rows = [f"{arm},{int(i < k)}" for arm, k in ((name, 18), ("sand", 4)) for i in range(20)]
    file = tmp_path / "trial.csv"
    file.write_text("\n".join(["medium,rooted", *rows]) + "\n", encoding="utf-8")
    assert main(["analyse", str(file), "--factors", "medium", "--margin", "0.15", "--json"]) == 0
    found = json.loads(capsys.readouterr().out)
    assert {a["arm"] for a in found["arms"]} == {name, "sand"}
    assert re.fullmatch(
        rf"(?i)(medium )?{re.escape(name)} rooted more than sand: 18 of 20 \(90 %\) against 4 of 20 \(20 %\)\.",
        found["headline"],
    )
