"""``arms``: what the arms of a plan can tell apart, from a CSV with a row per arm."""

from __future__ import annotations

import argparse
import json
from dataclasses import asdict
from pathlib import Path

from orderly_bench.cli.one_file import answered
from orderly_bench.cli.options import add_json
from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import all_of
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.plan.separable import Mend, Separation, separate
from orderly_bench.formats.arms_csv import read_arms


def add_command(commands: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    """Add the command with its flags."""
    parser = commands.add_parser(
        "arms",
        help=_("which asked contrasts the arms of a plan can tell apart, and what mends them"),
        epilog="./bench arms arms.csv --asked hormone,medium",
    )
    parser.add_argument("file", metavar="FILE.csv", help=_("a row per arm: a column 'arm' and a column per aspect"))
    parser.add_argument("--asked", required=True, help=_("aspects the trial asks about, comma between: hormone,medium"))
    parser.add_argument(
        "--blank", action="append", default=[], metavar="ASPECT=VALUE", help=_("a blank an added arm may be")
    )
    add_json(parser)
    parser.set_defaults(run=run)


def run(arguments: argparse.Namespace) -> int:
    """Read the arms, compare their descriptions; exit status 2 when they can't be."""
    return answered(arguments.file, lambda: _told(arguments))


def _told(arguments: argparse.Namespace) -> str:
    asked = [part.strip() for part in arguments.asked.split(",") if part.strip()]
    arms = read_arms(Path(arguments.file).read_bytes())
    found = separate(arms, asked, [_blank(text) for text in arguments.blank])
    return json.dumps(as_dict(found), ensure_ascii=False) if arguments.json else readable(found)


def _blank(text: str) -> tuple[str, str]:
    aspect, equals, value = (part.strip() for part in text.partition("="))
    if not (aspect and equals and value):
        raise InvalidInput("--blank", _("write aspect=value, such as hormone=carrier alone"), text)
    return aspect, value


def as_dict(found: Separation) -> dict[str, object]:
    """The result as plain data."""
    return {
        "same": dict(found.same),
        "asked": list(found.asked),
        "travelling": list(found.travelling),
        "not_said": list(found.not_said),
        "contrasts": [asdict(contrast) for contrast in found.contrasts],
        "mends": [
            {
                "make_same": list(mend.make_same),
                "add_arms": [dict(arm) for arm in mend.add_arms],
                "added": mend.added,
                "merged": [list(names) for names in mend.merged],
            }
            for mend in found.mends
        ],
    }


def readable(found: Separation) -> str:
    """The result in words."""
    lines = (
        [_("same in every arm: {names}", names=", ".join((f"{a} {v}" for a, v in found.same.items())))]
        if found.same
        else []
    )
    if found.not_said:
        lines.append(_("not said: {names}", names=", ".join(found.not_said)))
    for c in found.contrasts:
        if c.separable:
            lines.append(
                _(
                    "{aspect}, {a} against {b}: can be told apart if aspects act separately",
                    aspect=c.aspect,
                    a=c.a,
                    b=c.b,
                )
            )
        else:
            mixed = list(c.travels_with) or [" with ".join(names) for names in c.together]
            lines.append(
                _(
                    "{aspect}, {a} against {b}: can't be told apart from {names}",
                    aspect=c.aspect,
                    a=c.a,
                    b=c.b,
                    names=_(" or from ").join(mixed),
                )
            )
    return "\n".join([*lines, *(_("mend: {in_words}", in_words=in_words(mend)) for mend in found.mends)])


def in_words(mend: Mend) -> str:
    """A mend as an instruction."""
    parts = [_("make {names} the same in every arm", names=", ".join(mend.make_same))] if mend.make_same else []
    parts += [
        _("add an arm of {names}", names=", ".join((f"{a} {v}" for a, v in arm.items() if v))) for arm in mend.add_arms
    ]
    parts += [_("({names} are then one arm)", names=all_of(names)) for names in mend.merged]
    return "; ".join(parts)
