"""``rehearse``: what verdicts a two-arm trial would reach at assumed rates."""

from __future__ import annotations

import argparse
import json
import sys

from orderly_bench.cli.numbers import number
from orderly_bench.cli.options import add_design, add_json
from orderly_bench.core.errors import InvalidInput, OrderlyError
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.rehearse import verdicts
from orderly_bench.core.rehearse.blank_trial import of_two_arms


def add_command(commands: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    """Add the command with its flags."""
    parser = commands.add_parser(
        "rehearse",
        help=_("how often a trial of two arms would reach each verdict"),
        epilog="./bench rehearse --arms 0.4,0.7 --per-arm 20 --margin 0.15",
    )
    parser.add_argument("--arms", required=True, help=_("true rates, comma between: 0.4,0.7"))
    parser.add_argument("--per-arm", type=int, required=True, help=_("cuttings per arm over all blocks"))
    parser.add_argument("--margin", type=number, help=_("smallest difference that matters, as a proportion: 0.15"))
    add_design(parser, verdicts.TRIALS)
    add_json(parser)
    parser.set_defaults(run=run)


def run(a: argparse.Namespace) -> int:
    """Rehearse and print; 2 with a message where the input is none."""
    try:
        found = verdicts.rehearse(
            of_two_arms(a.per_arm, a.per_unit, a.icc, a.blocks),
            _rates(a.arms),
            a.icc or 0.0,
            verdicts.settings_for(a.alpha, a.margin, a.seed),
            a.trials,
        )
    except OrderlyError as error:
        print(_("orderly-bench rehearse: {error}", error=error), file=sys.stderr)
        return 2
    print(_json(found) if a.json else _words(found))
    return 0


def _rates(text: str) -> tuple[float, float]:
    try:
        a, b = (float(part) for part in text.split(","))
    except ValueError:
        raise InvalidInput("--arms", _("write two rates with a comma between: 0.4,0.7"), text) from None
    for rate in (a, b):
        if not 0 <= rate <= 1:
            raise InvalidInput("--arms", _("rates must lie between 0 and 1"), rate)
    return a, b


def _json(found: verdicts.Rehearsed) -> str:
    return json.dumps(
        {
            "verdicts": {verdict.value: share for verdict, share in found.verdicts.items()},
            "mc_error": found.mc_error,
            "wrong_way": found.wrong_way,
            "layout": found.layout,
        },
        allow_nan=False,
    )


def _words(found: verdicts.Rehearsed) -> str:
    lines = [_("{trials} trials, {layout}", trials=found.trials, layout=found.layout)]
    lines += [
        _("{share:5.1f} of 100  {value}", share=100 * share, value=verdict.value)
        for verdict, share in found.verdicts.items()
    ]
    if found.wrong_way is not None:
        lines.append(_("{wrong_way:5.1f} of 100  clear in the wrong direction", wrong_way=100 * found.wrong_way))
    return "\n".join(lines)
