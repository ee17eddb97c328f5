"""``analyse``: the headless analysis of tidy CSV files."""

from __future__ import annotations

import argparse
import json
import sys
from pathlib import Path

from orderly_bench.cli.as_json import as_dict, rate_as_dict
from orderly_bench.cli.numbers import number
from orderly_bench.cli.one_file import contents
from orderly_bench.cli.options import add_alpha, add_seed
from orderly_bench.cli.readable import readable
from orderly_bench.core.errors import InvalidInput, OrderlyError, UnusableData
from orderly_bench.core.judgement.analysis import analyse
from orderly_bench.core.judgement.more_units import with_more_units
from orderly_bench.core.judgement.result import Analysis
from orderly_bench.core.judgement.settings import Settings
from orderly_bench.core.messages.say import say
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.observations.table import Observations
from orderly_bench.core.responses.kind import Response
from orderly_bench.core.telling.one_rate import one_rate
from orderly_bench.core.telling.working import show_working
from orderly_bench.formats.row_a_cutting import Columns
from orderly_bench.formats.table_csv import read_table
from orderly_bench.formats.tally_values import Of
from orderly_bench.formats.tidy_csv import read_observations

#: How often the plants wanted should be there.
ASSURANCE = 0.95


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """Files and flags of the command."""
    parser.add_argument("files", nargs="+", metavar="FILE.csv", help=_("a row per cutting, unit or look"))
    add_options(parser)
    parser.add_argument("--want", type=int, metavar="N", help=_("with --rate: how many to stick for N plants"))
    parser.add_argument(
        "--assurance",
        type=number,
        default=ASSURANCE,
        help=_("with --want: how often N are to be there; 0.95 is usual"),
    )
    parser.add_argument(
        "--more-units", action="store_true", help=_("for what is not settled: how many more would find it (slower)")
    )
    parser.add_argument("--json", action="store_true", help=_("one JSON object per file, one per line"))
    parser.add_argument("--explain", action="store_true", help=_("add how each number came about"))


def add_options(parser: argparse.ArgumentParser) -> None:
    """Flags that say what a file is and how it is judged."""
    parser.add_argument(
        "--response", choices=[r.value for r in Response], default="rooted", help=_("what is compared: rooted")
    )
    parser.add_argument("--factors", help=_("columns that make up the arm, comma between: medium,hormone"))
    parser.add_argument(
        "--unit",
        help=_(
            "column of the unit several cuttings share: a pot, a jar; block,pot where its names begin anew in each block"
        ),
    )
    parser.add_argument(
        "--single",
        action="store_true",
        help=_(
            "of a tally (rooted beside stuck, or 9/10): each piece was drawn to its arm by itself, so a row is no unit"
        ),
    )
    parser.add_argument(
        "--numbers-are",
        choices=[str(one) for one in Of],
        help=_(
            "of a tally with roots, their length or quality beside it: a row's total, the mean of what rooted, or of all that was stuck"
        ),
    )
    parser.add_argument("--block", help=_("column of the block the units were laid out in"))
    parser.add_argument(
        "--blocks-in-waves",
        action="store_true",
        help=_("complete blocks of several waves: what a block lacks was not stuck, not left out by design"),
    )
    parser.add_argument("--pair", help=_("column of the pair of cuttings from one stem"))
    parser.add_argument(
        "--whole-plot", help=_("column of the whole plot of a split-plot; bench,heat where it is named by its level")
    )
    parser.add_argument("--row", help=_("column of the row of a Latin square"))
    parser.add_argument("--column", help=_("column of the column of a Latin square"))
    parser.add_argument("--wave", help=_("column of the sticking occasion, for seasons"))
    parser.add_argument("--day", help=_("column of the day, where each row is one of several looks at a cutting"))
    parser.add_argument(
        "--stuck-on",
        metavar="DATE",
        help=_("with --day: the date of sticking, or its column, where looks have dates: 2026-03-01"),
    )
    parser.add_argument(
        "--interval", choices=("wilson", "clopper-pearson"), default="wilson", help=_("of each arm's share: wilson")
    )
    parser.add_argument("--control", help=_('the control arm: "medium=sand,hormone=none"'))
    parser.add_argument(
        "--margin", type=number, help=_("smallest difference that matters, in the unit of the estimate: 0.15")
    )
    add_alpha(parser)
    parser.add_argument("--draws", type=int, default=20_000, help=_("redraws where p is not exact: 20000"))
    add_seed(parser)
    parser.add_argument(
        "--family",
        choices=("all", "control"),
        default="all",
        help=_("pairs that are compared: all, or each with the control"),
    )
    parser.add_argument(
        "--max-t", action="store_true", help=_("with --family control: adjust by the joint redraw, not Holm")
    )
    parser.add_argument(
        "--dose", metavar="FACTOR", help=_("the factor whose levels are strengths: its trend is tested too")
    )
    parser.add_argument(
        "--start",
        metavar="COLUMNS",
        help=_("what the cuttings started with (length_mm, grade): comparisons adjusted for it too"),
    )
    parser.add_argument("--look", action="store_true", help=_("a look, not a test: counts only"))
    parser.add_argument("--rate", action="store_true", help=_("one arm: its count, interval and bound"))
    parser.add_argument(
        "--not-worse-than",
        action="store_true",
        help=_("is each arm no worse than the control by more than the margin"),
    )
    parser.add_argument(
        "--headline",
        choices=("factors", "pairs"),
        default="factors",
        help=_("what the sentence rests on where all factors can be told apart: their main effects, or pairs of arms"),
    )


def run(arguments: argparse.Namespace) -> int:
    """Analyse every file; exit status 2 when any could not be."""
    try:
        settings, columns = settings_of(arguments), columns_of(arguments)
        if arguments.want is not None and not arguments.rate:
            raise InvalidInput("--want", _("goes with --rate"), arguments.want)
    except InvalidInput as error:
        print(_("orderly-bench analyse: {error}", error=error), file=sys.stderr)
        return 2
    status = 0
    for file in arguments.files:
        try:
            printed = _worked_out(file, arguments, settings, columns)
        except UnusableData as error:
            print(error.within(file), file=sys.stderr)
            status = 2
        except OrderlyError as error:
            print(f"{file}: {error}", file=sys.stderr)
            status = 2
        else:
            print(printed)
    return status


def _worked_out(file: str, arguments: argparse.Namespace, settings: Settings, columns: Columns) -> str:
    observations = observed(file, arguments, settings, columns)
    if arguments.rate:
        found = one_rate(observations, settings)
        advised = found.to_stick(arguments.want, arguments.assurance) if arguments.want is not None else None
        if arguments.json:
            return _dumped(rate_as_dict(file, found, advised))
        text = f"{Path(file).name}: {found.sentence}"
        if arguments.want is not None:
            text += " " + (advised.sentence if advised else say("stick_for/none"))
        doubts = [*found.cautions, *(advised.known.cautions if advised else [])]
        return text + "\n" + "".join(f"  ! {doubt.text}\n" for doubt in doubts)
    analysis = analyse(observations, settings)
    if arguments.more_units:
        analysis = with_more_units(analysis)
    return _printed(file, analysis, arguments)


def observed(file: str, arguments: argparse.Namespace, settings: Settings, columns: Columns) -> Observations:
    """The file's cuttings; a rate is of one arm, all else of two or more."""
    least = 1 if arguments.rate else 2
    return read_observations(contents(file), _factors(arguments), settings.response, columns, least)


def _dumped(found: dict[str, object]) -> str:
    return json.dumps(found, ensure_ascii=False, allow_nan=False)


def _printed(file: str, analysis: Analysis, arguments: argparse.Namespace) -> str:
    if arguments.json:
        found = as_dict(file, analysis)
        if arguments.explain:
            found["working"] = [{"of": w.title, "lines": w.lines} for w in show_working(analysis)]
        return _dumped(found)
    text = readable(file, analysis)
    if arguments.explain:
        text += "\n  {}\n".format(_("working")) + "".join(
            f"  {w.title}\n" + "".join(f"    {line}\n" for line in w.lines) for w in show_working(analysis)
        )
    return text


def columns_of(arguments: argparse.Namespace) -> Columns:
    """Which column holds what."""
    if (arguments.row is None) != (arguments.column is None):
        raise InvalidInput("--row and --column", _("give both; a Latin square has rows and columns"))
    if arguments.pair and arguments.block:
        raise InvalidInput("--pair", _("a pair is its own block; give one of the two"))
    if arguments.rate and arguments.look:
        raise InvalidInput("--rate", _("is of one arm, a look of several; give one of the two"))
    if arguments.single and arguments.unit:
        raise InvalidInput("--single", _("each piece is a unit, or several share one; give one of the two"))
    if arguments.blocks_in_waves and not arguments.block:
        raise InvalidInput("--blocks-in-waves", _("goes with --block"))
    names = ("unit", "block", "pair", "whole_plot", "row", "column", "wave")
    starts = tuple(dict.fromkeys(name.strip() for name in (arguments.start or "").split(",") if name.strip()))
    return Columns(
        **{name: getattr(arguments, name) for name in names},
        starts=starts,
        in_waves=arguments.blocks_in_waves,
        single=arguments.single,
        day=arguments.day,
        stuck_on=arguments.stuck_on,
        numbers_are=arguments.numbers_are,
    )


def _factors(arguments: argparse.Namespace) -> list[str]:
    if arguments.factors is None:
        if arguments.rate:
            return []
        raise InvalidInput("--factors", _("name the columns that make up the arm, comma between") + _there(arguments))
    factors = [name.strip() for name in arguments.factors.split(",")]
    if not all(factors) or len(set(factors)) < len(factors):
        raise InvalidInput("--factors", _("name each column once, comma between"), arguments.factors)
    return factors


def _there(arguments: argparse.Namespace) -> str:
    """The columns of the first file, to choose from; blank where it can't be read, which is told in its turn."""
    file = next(iter(getattr(arguments, "files", [])), None) or arguments.file
    try:
        return _("; {file} has {names}", file=Path(file).name, names=", ".join(read_table(contents(file)).header))
    except OrderlyError:
        return ""


def _control(text: str | None, factors: list[str]) -> tuple[str, ...] | None:
    if text is None:
        return None
    if len(factors) == 1 and "=" not in text:
        return (text.strip(),)
    as_named = {factor.casefold(): factor for factor in factors}
    given = dict(part.split("=", 1) for part in text.split(",") if "=" in part)
    given = {as_named.get(name.strip().casefold(), name.strip()): level.strip() for name, level in given.items()}
    if set(given) != set(factors):
        form = ",".join(f"{factor}=…" for factor in factors)
        raise InvalidInput("--control", _("give one level for each factor: {form}", form=form), text)
    return tuple(given[factor] for factor in factors)


def settings_of(arguments: argparse.Namespace) -> Settings:
    """How the file is judged."""
    return Settings(
        alpha=arguments.alpha,
        margin=arguments.margin,
        draws=arguments.draws,
        seed=arguments.seed,
        control=_control(arguments.control, _factors(arguments)),
        against_control=arguments.family == "control",
        interval=arguments.interval,
        response=Response(arguments.response),
        dose=arguments.dose,
        look=arguments.look,
        max_t=arguments.max_t,
        by_factor=arguments.headline == "factors",
        not_worse=arguments.not_worse_than,
    )
