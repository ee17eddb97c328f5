"""The words over hundreds of generated trials: no slip of number or grammar, and no two sentences that contradict."""

from __future__ import annotations

import json
import re
from pathlib import Path

import numpy as np
import pytest

from orderly_bench.cli.main import main
from tests.cli.test_random_tables import COLUMNS, MARGINS, RESPONSES, groups, outcome

SLIPS = {
    "one of many": r"\b1 (units|cuttings|pairs|blocks|comparisons|times|draws|waves|whole plots|more units|outcomes|more are)\b",
    "many of one": r"\b([02-9]|[1-9]\d+) (unit|cutting|pair|block|comparison|wave|whole plot)\b(?! of)",
    "a word for nothing": r"\bnan\b|\binf\b|\bNone\b(?! (of|rooted|were))|none %|\(\)|\{|\}",
    "an interval without width": r"(?<![\d.\u2212])(\d[\d.]*) to \1 ?(%|points|lies|$)",
    "two marks together": r"\.\.|,,| ,|  |;\.|: \.",
    "a sign that is no minus": r"(?<![\w.])-\d",
    "words of a file": r"\b(rows?|columns?|header|csv)\b",
    "a bare number as a name": r"(^|against |between |and |tell |than )\d+ (rooted|against|and|than|from|made)\b(?! (of|\())",
}
#: If the first is said, the second may not be.
CONTRADICTIONS = (
    (r"^Cannot tell|^Not settled", r"strength: (shown|suggested)"),
    (r"strength: cannot tell", r" more than | sooner than | better than | practically "),
    (r"(?<!\")practically the same", r"^Cannot tell"),  # but for what it would be if the unknown fell so
    (r"arm, which tells nothing", r" more than | sooner than | better than "),
    (r"strength: shown\n", r"can't be told from|no verdict"),
    (r"all of \d+ rooted", r"none of \d+ rooted.*none rooted in every arm"),
)


def said_of(found: dict) -> str:
    """Everything a reader is told, a sentence a line."""
    cautions = [line for c in found["cautions"] for line in (c["text"], c["remedy"])]
    return "\n".join([found["headline"], f"strength: {found['strength']}\n", *cautions])


@pytest.mark.parametrize("layout", COLUMNS)
def test_no_slip_and_no_contradiction(tmp_path: Path, capsys: pytest.CaptureFixture[str], layout: str) -> None:
    rng = np.random.default_rng([7, len(layout), ord(layout[0])])
    answered, slips = 0, []
    for turn in range(48):
        response = RESPONSES[turn % len(RESPONSES)]
        factors, flags, cells = groups(layout, rng)
        header = ["last_without_day", "first_with_day", "outcome"] if response == "days_to_root" else [response]
        bare = turn % 3 == 0  # levels that are bare numbers, as strengths are
        named = [[re.sub("^m", "", c[0]) if bare else c[0], *c[1:]] for c in cells]
        lines = [[*COLUMNS[layout], *header], *([*c, *outcome(response, turn % 11 == 5, rng)] for c in named)]
        file = tmp_path / f"{turn}.csv"
        file.write_text("\n".join(",".join(line) for line in lines) + "\n")
        asked = ["--look"] if turn % 13 == 7 else []
        argv = ["analyse", str(file), "--response", response, "--factors", ",".join(factors), "--draws", "100", *asked]
        if main([*argv, "--margin", MARGINS.get(response, "0.4"), "--json", *flags]):
            capsys.readouterr()
            continue
        answered += 1
        text = said_of(json.loads(capsys.readouterr().out))
        slips += [(what, m.group(0), text) for what, p in SLIPS.items() if (m := re.search(p, text, re.M))]
        slips += [(a, b, text) for a, b in CONTRADICTIONS if re.search(a, text, re.M) and re.search(b, text, re.M)]
    assert slips == [] and answered >= 20


def test_each_pattern_finds_what_it_is_for() -> None:
    bad = {
        "one of many": "Only 1 units", "many of one": "3 cutting", "a word for nothing": "p nan", "two marks together": "a , b",
        "an interval without width": "98 to 98 %", "a sign that is no minus": "by -3", "words of a file": "leave its rows out",
        "a bare number as a name": "0 rooted more than 1000",
    }  # fmt: skip
    assert bad.keys() == SLIPS.keys()
    for what, text in bad.items():
        assert re.search(SLIPS[what], text, re.M), what
