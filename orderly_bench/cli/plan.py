"""``power``, ``stick-for`` and ``kappa``: sums before and beside a trial."""

from __future__ import annotations

import argparse
import json
import sys
from collections.abc import Callable

import numpy as np

from orderly_bench.cli.numbers import number
from orderly_bench.cli.one_file import contents
from orderly_bench.cli.options import add_design, add_json
from orderly_bench.core.design import simulated_power
from orderly_bench.core.errors import InvalidInput, OrderlyError, UnusableData
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.methods import stick_for
from orderly_bench.core.score.agreement import WEIGHTS, crossed, kappa
from orderly_bench.core.sums.plants import read_batches
from orderly_bench.formats.headings import as_named
from orderly_bench.formats.table_csv import column, read_table

Result = tuple[dict[str, object], str]


def add_commands(commands: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    """Add the three commands with their flags."""
    power = commands.add_parser(
        "power",
        help=_("power and smallest reachable p of a layout"),
        epilog="./bench power --arms 0.45,0.70 --per-arm 24 --per-unit 4 --icc 0.2",
    )
    power.add_argument("--arms", required=True, help=_("true rates, comma between: 0.45,0.70"))
    power.add_argument("--per-arm", type=int, required=True, help=_("cuttings per arm over all blocks"))
    add_design(power, simulated_power.TRIALS)
    stick = commands.add_parser(
        "stick-for",
        help=_("how many to stick for so many plants"),
        epilog="./bench stick-for --want 100 --from 31/50,18/40 --assurance 0.95",
    )
    stick.add_argument("--want", type=int, required=True, help=_("plants wanted"))
    source = stick.add_mutually_exclusive_group(required=True)
    source.add_argument("--rate", type=number, help=_("a rate that is known, as a proportion: 0.3"))
    source.add_argument("--from", dest="batches", help=_("earlier batches: 31/50,18/40"))
    stick.add_argument("--assurance", type=number, default=0.95, help=_("how often they are to be there: 0.95"))
    agree = commands.add_parser(
        "kappa", help=_("agreement of two scorers"), epilog="./bench kappa twice.csv --by Ines,Tomas --weights linear"
    )
    agree.add_argument("file", nargs="?", metavar="FILE.csv", help=_("a row per cutting, a column for each scorer"))
    agree.add_argument("--by", metavar="COLUMNS", help=_("with FILE: the columns of the two, comma between"))
    agree.add_argument("--table", help=_("instead of FILE: counts, rows by semicolon: '20,5;10,15'"))
    agree.add_argument("--weights", choices=WEIGHTS, default="none", help=_("how much a step apart counts: none"))
    for parser, work in ((power, _power), (stick, _stick), (agree, _kappa)):
        add_json(parser)
        parser.set_defaults(run=lambda arguments, work=work: _run(work, arguments))


def _run(work: Callable[[argparse.Namespace], Result], arguments: argparse.Namespace) -> int:
    try:
        found, words = work(arguments)
    except UnusableData as error:
        print(error.within(arguments.file), file=sys.stderr)
        return 2
    except OrderlyError as error:
        print(_("orderly-bench {command}: {error}", command=arguments.command, error=error), file=sys.stderr)
        return 2
    print(json.dumps(found, allow_nan=False) if arguments.json else words)
    return 0


def _numbers(text: str, flag: str) -> list[float]:
    try:
        return [float(part) for part in text.split(",")]
    except ValueError:
        raise InvalidInput(flag, _("write numbers with commas between"), text) from None


def _power(a: argparse.Namespace) -> Result:
    rates = _numbers(a.arms, "--arms")
    if a.seed < 0 or not 0 < a.alpha < 0.5:
        raise InvalidInput("--seed and --alpha", _("the seed is 0 or more, alpha above 0 and below 0.5"))
    rng = np.random.default_rng(a.seed)
    found = simulated_power.power_of(
        rates, a.per_arm, per_unit=a.per_unit, icc=a.icc, blocks=a.blocks, alpha=a.alpha, trials=a.trials, rng=rng
    )
    smallest = simulated_power.smallest_p(len(rates), a.per_arm, a.per_unit, a.icc, a.blocks)
    words = _(
        "power {power:.3f} ({method}); smallest reachable p {smallest:.2g}",
        power=found.power,
        method=found.method,
        smallest=smallest,
    )
    if smallest >= a.alpha:
        words += _("\nNo outcome of this design could convince: p can't get below {smallest:.2g}.", smallest=smallest)
    return {
        "power": found.power,
        "mc_error": found.monte_carlo_error,
        "smallest_p": smallest,
        "method": found.method,
    }, words


def _stick(a: argparse.Namespace) -> Result:
    if a.rate is not None:
        found = stick_for.for_rate(a.want, a.rate, a.assurance)
    else:
        found = stick_for.for_batches(a.want, read_batches(a.batches), a.assurance)
    words = [_("stick {stick}", stick=found.stick), *(caution.text for caution in found.cautions)]
    return {"stick": found.stick, "cautions": [{"code": c.code, "text": c.text} for c in found.cautions]}, "\n".join(
        words
    )


def _kappa(a: argparse.Namespace) -> Result:
    if (a.file is None) == (a.table is None):
        raise InvalidInput("FILE and --table", _("give one of the two"))
    return _kappa_of_counts(a) if a.file is None else _kappa_of_file(a)


def _kappa_of_file(a: argparse.Namespace) -> Result:
    names = [name.strip() for name in (a.by or "").split(",")]
    if len(names) != 2 or not all(names):
        raise InvalidInput("--by", _("name two columns, comma between"), a.by)
    table = as_named(read_table(contents(a.file)), names)
    first, second = ([cells[column(table, name)] for cells in table.rows] for name in names)
    both = crossed(first, second)
    if len(both.classes) < 2:
        raise InvalidInput("--by", _("two scorers who used one class, or none: nothing to agree about"), a.by)
    found = kappa(both.counts, a.weights)
    n = int(both.counts.sum())
    words = [
        _("{k} of {n} alike", k=both.alike, n=n),
        _("no kappa: only one class was used") if found is None else _("kappa {found:.3f}", found=found),
    ]
    words += [_("{n:cutting|cuttings} left out: one of the two is blank", n=both.left_out)] if both.left_out else []
    told: dict[str, object] = {
        "kappa": found,
        "n": n,
        "alike": both.alike,
        "left_out": both.left_out,
        "classes": list(both.classes),
    }
    return told, "\n".join(words)


def _kappa_of_counts(a: argparse.Namespace) -> Result:
    rows = [_numbers(row, "--table") for row in a.table.split(";")]
    if len({len(row) for row in rows}) > 1:
        raise InvalidInput("--table", _("every row needs as many counts"), a.table)
    found = kappa(np.array(rows), a.weights)
    return {"kappa": found}, _("no kappa: only one class was used") if found is None else _(
        "kappa {found:.3f}", found=found
    )
