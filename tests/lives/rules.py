"""What must hold of every trial that was lived through, read back from its pages, files and report."""

from __future__ import annotations

import contextlib
import csv
import io
import json
import re
import shlex
from collections import Counter
from pathlib import Path

from bs4 import BeautifulSoup
from flask.testing import FlaskClient
from sqlalchemy.orm import Session

from orderly_bench.cli.main import main
from orderly_bench.evidence import headless
from orderly_bench.evidence.texts import all_cautions
from orderly_bench.evidence.verdict import evidence_at
from orderly_bench.record.doubts import doubts_so_far
from orderly_bench.record.gather import gather
from orderly_bench.trial.models import Trial

PAGES = (
    "question",
    "design",
    "prepare",
    "stick",
    "tend",
    "score",
    "compare",
    "compare/more",
    "compare/doubts",
    "conclude",
    "report",
    "rehearse",
    "hormones",
    "photos",
    "plants",
    "cost?hour=30&minutes=2&bought=3",
)
FILES = ("endpoint.csv", "scores.csv", "design.csv", "plan.yaml", "audit")
#: Words of a verdict, which a look and a rate never say of themselves.
OF_A_VERDICT = ("Strength", "annot tell", "not settled", "clear and large", "practically the same")
#: What a template leaves behind where a value was not there, and numbers that are none.
HOLES = re.compile(
    r"\bNone\b(?! ?:|\.| recorded| raised| rooted| of| were)|\bnan\b|\binf\b|\{\w*\}|Undefined|(?<!\w)from \)|\(\s*\)|<function|object at 0x|, ,"
)
PLURALS = re.compile(r"\b1 (cuttings|units|arms|plots|blocks|roots|days|trays|pieces|waves|lots|jars|pots|checks)\b")


def text_of(client: FlaskClient, path: str) -> str:
    answered = client.get(path)
    assert answered.status_code == 200, (path, answered.status_code)
    page = BeautifulSoup(answered.text, "html.parser")
    for aside in page.select("script, style, template, dialog, svg title"):
        aside.decompose()
    return " ".join((page.body or page).get_text(" ").split())


def pages_of(client: FlaskClient, trial: Trial) -> dict[str, str]:
    """Every page of a trial as read."""
    return {page: text_of(client, f"/trials/{trial.id}/{page}") for page in PAGES}


def no_hole(pages: dict[str, str]) -> None:
    for page, text in pages.items():
        for found in (*HOLES.finditer(text), *PLURALS.finditer(text)):
            assert not found, (page, text[max(0, found.start() - 70) : found.end() + 50])


def counts_agree(session: Session, client: FlaskClient, trial: Trial, pages: dict[str, str]) -> None:
    """The table of what was counted, the file and the record have the same cuttings in every arm."""
    found = evidence_at(gather(session, trial))
    stuck = Counter(r.cutting.unit.arm for r in found.results)
    assert {letter: sum(own.values()) for letter, own in found.reconciliation.items()} == {
        x: stuck[x] for x in found.reconciliation
    }
    if not found.closed:
        return
    rows = list(csv.DictReader(io.StringIO(client.get(f"/trials/{trial.id}/endpoint.csv").get_data(as_text=True))))
    counted = [row for row in rows if row["state"] != "not stuck"]
    assert len(counted) == len(found.results)
    rooted = sum(own["rooted"] for own in found.reconciliation.values())
    assert sum(row["rooted"] == "1" for row in counted) == rooted
    for page in ("compare", "report"):
        for letter, own in stuck.items():
            assert re.search(rf"\b{letter} .{{0,160}}\b{own}\b", pages[page]), (page, letter, own)


def doubts_travel(session: Session, trial: Trial, pages: dict[str, str]) -> None:
    """What is doubted is doubted on Compare, Conclude and in the report alike."""
    found = evidence_at(gather(session, trial))
    if not found.closed:
        return
    for doubt in all_cautions(found):
        for page in ("compare", "conclude", "report"):
            assert " ".join(doubt.text.split()) in pages[page], (page, doubt)
    for departure in found.departures:
        for page in ("compare", "report"):
            assert departure[1:] in pages[page], (page, departure)


def doubts_are_known_early(session: Session, trial: Trial, pages: dict[str, str]) -> None:
    """What plan and log cast doubt on stands on its own page before anything is read of the roots."""
    for doubt in doubts_so_far(gather(session, trial)):
        assert " ".join(doubt.text.split()) in pages["compare/doubts"], doubt


def no_verdict_of_a_look(trial: Trial, pages: dict[str, str]) -> None:
    if trial.plan.question.kind == "test":
        return
    for page in ("compare", "conclude", "report"):
        for words in OF_A_VERDICT:
            at = pages[page].find(words)
            assert at < 0, (page, pages[page][max(0, at - 60) : at + 60])


def conclusions_are_marked(trial: Trial, pages: dict[str, str]) -> None:
    """Every conclusion is printed with marks, the same on Conclude and in the report."""
    marks = re.compile(r"\[(carried by the data|against the data|beyond the data|not about the result|not checked)")
    of_page = {page: marks.findall(pages[page]) for page in ("conclude", "report")}
    assert of_page["conclude"] == of_page["report"], of_page


def the_command_says_the_same(session: Session, client: FlaskClient, trial: Trial, folder: Path) -> None:
    """The headless command that the pages name finds in the trial's file what they show."""
    found = evidence_at(gather(session, trial))
    words = shlex.split(headless.command(found))
    if not words:
        return
    file = folder / words[2]
    file.write_text(client.get(f"/trials/{trial.id}/endpoint.csv").get_data(as_text=True))
    printed = io.StringIO()
    with contextlib.redirect_stdout(printed):
        assert main(["analyse", str(file), *words[3:], "--json"]) == 0, words
    told = json.loads(printed.getvalue())
    assert told["n_cuttings"] == sum(c.status == "stuck" for unit in trial.units for c in unit.cuttings)
    if found.rate is not None:
        assert told["headline"] == found.rate.sentence
        return
    assert found.analysis is not None
    assert (told["overall"] or {"p": None})["p"] == found.analysis.test.p, (
        told["design"],
        found.analysis.design,
        words,
    )
    assert [c["p_adjusted"] for c in told["comparisons"]] == [c.p_adjusted for c in found.analysis.comparisons]


def files_open(client: FlaskClient, trial: Trial) -> None:
    for name in FILES:
        answered = client.get(f"/trials/{trial.id}/{name}")
        assert answered.status_code in (200, 302, 404), (name, answered.status_code)
