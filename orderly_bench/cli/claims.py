"""``claims``: sentences held against a file, by the code that reads a conclusion."""

from __future__ import annotations

import argparse
import json

from orderly_bench.cli import analyse
from orderly_bench.cli.one_file import answered
from orderly_bench.cli.options import add_json
from orderly_bench.core.conclude.facts import Facts, facts_of, facts_of_rate
from orderly_bench.core.conclude.marks import judge
from orderly_bench.core.conclude.sentences import Mark, Marked
from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.judgement.analysis import analyse as analysed
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.telling.headline import read
from orderly_bench.core.telling.one_rate import one_rate

#: Longest text that is read.
MOST = 20_000
MARKS = {
    Mark.CARRIED: "carried",
    Mark.AGAINST: "against",
    Mark.BEYOND: "beyond",
    Mark.NOT_ABOUT: "not_about",
    Mark.NOT_CHECKED: "not_checked",
}


def add_command(commands: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    """Add the command with the flags of ``analyse``."""
    parser = commands.add_parser(
        "claims",
        help=_("which sentences a file carries"),
        epilog='./bench claims trial.csv --factors medium --text "Pumice rooted more."',
    )
    parser.add_argument("file", metavar="FILE.csv", help=_("a row per cutting, unit or look"))
    analyse.add_options(parser)
    parser.add_argument("--text", required=True, help=_("what is claimed, in sentences"))
    add_json(parser)
    parser.set_defaults(run=run)


def run(arguments: argparse.Namespace) -> int:
    """Mark every sentence; exit status 2 when the file can't be read so."""
    return answered(arguments.file, lambda: _told(arguments))


def _told(arguments: argparse.Namespace) -> str:
    if not 0 < len(arguments.text.strip()) <= MOST:
        raise InvalidInput("--text", _("type what is claimed, within {most} characters", most=MOST))
    sentences = judge(arguments.text, "", _facts(arguments)).sentences
    if arguments.json:
        told = [{"text": one.sentence, "mark": MARKS[one.mark], "why": _why(one)} for one in sentences]
        return json.dumps({"sentences": told}, ensure_ascii=False)
    lines = ([one.sentence, f"[{_(one.mark.value)}]", _why(one)] for one in sentences)
    return "\n".join(" ".join(part for part in line if part) for line in lines)


def _facts(arguments: argparse.Namespace) -> Facts:
    settings, columns = analyse.settings_of(arguments), analyse.columns_of(arguments)
    observations = analyse.observed(arguments.file, arguments, settings, columns)
    if arguments.rate:
        return facts_of_rate(one_rate(observations, settings))
    found = analysed(observations, settings)
    return facts_of(found, read(found, planned=False), [])


def _why(one: Marked) -> str:
    return " ".join(doubt.text for doubt in one.doubts)
