"""What docs/contributing.md says of adding is true: one of each is put into a copy as it says there, and is used."""

from __future__ import annotations

import json
import os
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[1]
FIELD = 'shade: int = plan_field("shade cloth in percent", 0, whole(0, 90), HERE, drawn=False)'
RESPONSE = '''"""Callused, whatever the roots."""

from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.responses.cells import yes_or_no
from orderly_bench.core.responses.kind import Kind, Response, Scale
from orderly_bench.core.vocabulary import Score


def from_score(score: Score | None, rooted: bool | None) -> float | None:
    """Where nobody looked for callus it is unknown."""
    return None if score is None or score.callus is None else float(score.callus)


KIND = Kind(
    Response.CALLUSED, Scale.YES_NO, "Callused", "of stuck", yes_or_no, from_score, (0.0, 1.0), 1.0, asked=N_("how many have callus")
)
'''
LAYOUT = '''"""Blocks of the lab's own kind."""

from orderly_bench.core.layouts.complete_blocks.planned import PlannedInBlocks
from orderly_bench.core.layouts.planned import Answers, Suited
from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.vocabulary import LayoutKind


class PlannedUnderLamps(PlannedInBlocks):
    """A lamp is a block; nobody is led to it."""

    kind = LayoutKind.UNDER_LAMPS
    redraws = N_("under its lamps")

    def made_by(self, groups: set[str], complete: bool) -> bool:
        """By name alone."""
        return False

    def proposal(self, answers: Answers) -> Suited | None:
        """By name alone."""
        return None
'''
PAGE = '''"""What a tray weighs."""

from flask import Blueprint

from orderly_bench.trial.access import Act
from orderly_bench.web.access import route

chapter = Blueprint("weights", __name__)


@route(chapter, "/weights", Act.READ)
def page() -> str:
    """Nothing yet."""
    return "no tray was weighed"
'''


def put(copy: Path, file: str, after: str, line: str) -> None:
    """A line behind another, as far in."""
    at = copy / "orderly_bench" / file
    lines = at.read_text(encoding="utf-8").splitlines()
    (n,) = [n for n, one in enumerate(lines) if one.strip() == after]
    indent = lines[n][: len(lines[n]) - len(lines[n].lstrip())]
    lines.insert(n + 1, indent + line)
    at.write_text("\n".join(lines) + "\n", encoding="utf-8")


def new(copy: Path, file: str, text: str) -> None:
    at = copy / "orderly_bench" / file
    at.parent.mkdir(exist_ok=True)
    at.write_text(text, encoding="utf-8")


@pytest.fixture
def copy(tmp_path: Path) -> Path:
    shutil.copytree(ROOT / "orderly_bench", tmp_path / "orderly_bench", ignore=shutil.ignore_patterns("__pycache__"))
    return tmp_path


def python(copy: Path, *arguments: str) -> str:
    """What the copy prints."""
    done = subprocess.run(
        [sys.executable, *arguments],
        cwd=copy,
        env={**os.environ, "PYTHONPATH": str(copy), "PYTHONDONTWRITEBYTECODE": "1"},
        capture_output=True,
        text=True,
        check=False,
    )
    assert done.returncode == 0, done.stderr[-2_000:]
    return done.stdout


def told(copy: Path, code: str) -> object:
    """What a few lines of Python find in the copy, as JSON."""
    return json.loads(python(copy, "-c", f"import json\n{code}\nprint(json.dumps(found))"))


def test_a_field_of_the_plan_is_one_line(copy: Path) -> None:
    at = 'hours: float | None = plan_field("hours to stick in", None, number(0, 1_000, None), HERE, drawn=False)  #: hours'
    put(copy, "core/plan/value.py", at, FIELD)
    found = told(
        copy,
        """
from dataclasses import replace
from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.plan.difference import difference
from orderly_bench.core.plan.text import from_text, to_text
from orderly_bench.core.plan.value import Plan
from orderly_bench.chapters.design.operations import as_typed
plan = Plan("one")
shaded = replace(plan, design=replace(plan.design, shade=40))
back = from_text(to_text(shaded))
try:
    from_text(to_text(shaded).replace("shade: 40", "shade: 95")); refused = ""
except Exception as error:
    refused = str(error)
found = [back.design.shade, difference(plan, shaded), shaded.what_is_drawn() == plan.what_is_drawn(), as_typed(shaded)["shade"], refused]
""",
    )
    assert isinstance(found, list)
    assert found[:4] == [40, ["shade cloth in percent 0, now 40"], True, "40"]
    assert "shade cloth in percent: must be between 0 and 90" in found[4]


def test_a_response_is_a_file_and_its_lines(copy: Path) -> None:
    put(copy, "core/responses/kind.py", 'ALIVE = "alive"', 'CALLUSED = "callused"')
    new(copy, "core/responses/callused.py", RESPONSE)
    put(copy, "core/responses/registry.py", "alive,", "callused,")
    registry = copy / "orderly_bench/core/responses/registry.py"
    registry.write_text(registry.read_text().replace("(rooted, fit_to_pot_on,", "(rooted, callused, fit_to_pot_on,"))
    put(copy, "core/responses/outcomes_of.py", "Response.ALIVE: RateOutcomes,", "Response.CALLUSED: RateOutcomes,")
    for said in (
        '"more/callused": "more of {a} had callus than of {b}",',
        '"same/callused": "{a} and {b} had callus practically the same",',
        '"did/callused": "had callus",',
    ):
        kind = said.split("/")[0]
        sentences = copy / "orderly_bench/core/messages/english/sentences.py"
        (like,) = [line for line in sentences.read_text().splitlines() if line.strip().startswith(f"{kind}/alive")]
        put(copy, "core/messages/english/sentences.py", like.strip(), said)
    rows = [f"{medium},{int(i < n)}" for medium, n in (("sand", 15), ("bark", 4)) for i in range(20)]
    (copy / "data.csv").write_text("\n".join(["medium,callused", *rows]))
    shown = python(
        copy,
        "-m",
        "orderly_bench.cli",
        "analyse",
        "data.csv",
        "--factors",
        "medium",
        "--response",
        "callused",
        "--json",
    )
    assert "had callus than of" in shown, shown
    assert [(arm["k"], arm["n"]) for arm in json.loads(shown)["arms"]] == [(4, 20), (15, 20)]
    found = told(
        copy,
        """
from orderly_bench.core.responses.kind import Response
from orderly_bench.core.responses.registry import kind_of
from orderly_bench.core.vocabulary import Roots, Score, State
kind = kind_of(Response("callused"))
found = [kind.from_score(Score(State.ALIVE, Roots.NONE, callus=c), False) for c in (True, False, None)]
""",
    )
    assert found == [1.0, 0.0, None]


def test_a_layout_is_a_folder_and_its_lines(copy: Path) -> None:
    put(copy, "core/vocabulary.py", 'PAIRS = "pairs"', 'UNDER_LAMPS = "under lamps"')
    new(copy, "core/layouts/under_lamps/__init__.py", '"""Under lamps."""\n')
    new(copy, "core/layouts/under_lamps/planned.py", LAYOUT)
    kinds = copy / "orderly_bench/core/layouts/kinds.py"
    kinds.write_text(
        kinds.read_text().replace(
            "PlannedOnWholePlots(), PlannedInPairs()", "PlannedOnWholePlots(), PlannedUnderLamps(), PlannedInPairs()"
        )
    )
    at = "from orderly_bench.core.layouts.split_plot.planned import PlannedOnWholePlots"
    put(
        copy,
        "core/layouts/kinds.py",
        at,
        "from orderly_bench.core.layouts.under_lamps.planned import PlannedUnderLamps",
    )
    found = told(
        copy,
        """
from dataclasses import replace
import numpy as np
from orderly_bench.core.layouts.kinds import draw_layout, planned, reach_of
from orderly_bench.core.plan.text import from_text, to_text
from orderly_bench.core.plan.value import Plan
from orderly_bench.core.randomise.drawn_layout import Request
from orderly_bench.core.vocabulary import LayoutKind
kind = LayoutKind("under lamps")
asked = Request(kind, 2, 6, blocks=3)
drawn = draw_layout(asked, np.random.default_rng(1))
each = {(int(s), int(a)) for s, a in zip(drawn.stratum, drawn.arm)}
plan = Plan("one")
plan = from_text(to_text(replace(plan, design=replace(plan.design, layout=kind))))
found = [len(each), plan.design.layout, planned(kind).redraws, reach_of(asked).overall < reach_of(Request(kind, 2, 2, blocks=2)).overall]
""",
    )
    assert found == [6, "under lamps", "under its lamps", True]


def test_a_doubt_is_its_text_and_where_it_is_found(copy: Path) -> None:
    at = "CAUTIONS: dict[str, tuple[str, str]] = {"
    put(
        copy,
        "core/messages/english/doubts.py",
        at,
        '    "bench_shaken": ("The bench was shaken on day {day}.", "Look again"),',
    )
    found = told(
        copy,
        """
from orderly_bench.core.messages.say import caution
one = caution("bench_shaken", day=9)
found = [one.code, one.text, one.remedy]
""",
    )
    assert found == ["bench_shaken", "The bench was shaken on day 9.", "Look again"]


def test_a_page_is_a_folder_and_a_line(copy: Path) -> None:
    new(copy, "chapters/weights/__init__.py", '"""What trays weigh."""\n')
    new(copy, "chapters/weights/routes.py", PAGE)
    put(
        copy,
        "app.py",
        "from orderly_bench.chapters.today.away_pages import chapter as away",
        "from orderly_bench.chapters.weights.routes import chapter as weights",
    )
    put(copy, "app.py", "weather,", "weights,")
    found = told(
        copy,
        """
from orderly_bench.app import create_app
app = create_app({"DATABASE_URL": "mysql+pymysql://nobody@127.0.0.1:9/none", "SECRET_KEY": "x", "WARM": False, "WORK": "at once"})
(rule,) = [rule for rule in app.url_map.iter_rules() if rule.rule == "/weights"]
found = [rule.endpoint, vars(app.view_functions[rule.endpoint])["act"].value]
""",
    )
    assert found == ["weights.page", "read trials"]
